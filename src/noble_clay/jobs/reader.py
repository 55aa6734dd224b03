"""Reading files that strangers made: in a process of its own, with limits on memory and time."""

from __future__ import annotations

import multiprocessing
import resource
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

from noble_clay.core.errors import ClayError, MeshError
from noble_clay.core.formats.pieces import asset_bytes
from noble_clay.core.formats.stl import stl_mesh
from noble_clay.core.mend.plan import mend

MEMORY_BYTES = 6_000_000_000
SECONDS = 120


@dataclass(frozen=True)
class BroughtIn:
    """A mesh as asset, where its middle was, and what mending did to it."""

    sha256: str
    data: bytes
    height: float
    report: dict[str, Any]


def bring_in(data: bytes) -> BroughtIn:
    """Read an STL, mend it as far as that goes, and stand it on the floor in the middle of the wheel.

    Raises MeshError, also when reading takes too much time or memory.
    """
    context = multiprocessing.get_context("spawn")
    ours, theirs = context.Pipe()
    process = context.Process(target=_read, args=(theirs,), daemon=True)
    process.start()
    theirs.close()
    try:
        ours.send_bytes(data)
        if not ours.poll(SECONDS):
            raise MeshError(f"reading takes longer than {SECONDS} seconds")
        answer = ours.recv()
    except (EOFError, OSError):
        raise MeshError("reading this file takes more memory than is allowed") from None
    finally:
        process.kill()
        process.join()
        ours.close()
    if isinstance(answer, str):
        raise MeshError(answer)
    found: BroughtIn = answer
    return found


def _read(pipe: Connection) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    try:
        mended, report = mend(stl_mesh(pipe.recv_bytes()))
        low, high = mended.vertices.min(axis=0), mended.vertices.max(axis=0)
        middle = (low + high) / 2
        sha256, glb = asset_bytes(type(mended)(mended.vertices - middle, mended.triangles))
        pipe.send(BroughtIn(sha256, glb, float(high[2] - low[2]), report.values()))
    except ClayError as error:
        pipe.send(str(error))
    except MemoryError:
        pipe.send("reading this file takes more memory than is allowed")
