"""What a piece comes to, kept from one job to the next: of one state of a piece several are asked for, and a large one
takes longer to make than to look over.
"""

from __future__ import annotations

import json
import logging
import os
import time
import zipfile
from pathlib import Path

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.result import Result
from noble_clay.core.formats.whole_file import written_whole
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Piece
from noble_clay.jobs.kinds.base import MADE, piece_in

LOG = logging.getLogger(__name__)

SLOW_SECONDS = 1.0
"""What takes longer to make is kept."""

MOST_KEPT = 6


def made_in(folder: Path) -> tuple[Piece, Result]:
    """A `PieceJob`'s piece, and what it comes to. Raises MeshError for one of which nothing is left."""
    piece, assets = piece_in(folder)
    evaluator = Evaluator(assets=assets)
    file = folder / MADE / f"{evaluator.keys.parts(piece.parts)}.npz"
    result = _kept(file)
    if result is None:
        started = time.perf_counter()
        result = evaluator.evaluate(piece)
        if time.perf_counter() - started > SLOW_SECONDS and not result.left_out:  # a mesh that is missing may come yet
            _keep(file, result)
    if result.solid.empty:
        raise MeshError("nothing is left of this piece, so there is nothing to show or print")
    return piece, result


def _kept(file: Path) -> Result | None:
    """What was made before; None where it is not there, or cannot be read."""
    if not file.exists():
        return None
    try:
        with np.load(file) as held:
            said = json.loads(str(held["said"]))
            mesh = Mesh(held["vertices"], held["triangles"].astype(np.int64))
            solid = Solid.from_parts(mesh, held["part_of"].astype(np.int64), tuple(said["names"]))
        os.utime(file)
    except (OSError, ValueError, KeyError, zipfile.BadZipFile, MeshError):
        LOG.warning("what was kept of a piece cannot be read; it is made again", exc_info=True)
        return None
    return Result(file.stem, solid, {}, frozenset(said["crossing"]))


def _keep(file: Path, result: Result) -> None:
    """Write whole or not at all; those used longest ago go. Without room for it there is nothing to keep."""
    said = json.dumps({"names": result.part_ids, "crossing": sorted(result.crossing)})
    arrays = {
        "vertices": result.mesh.vertices,
        "triangles": result.mesh.triangles.astype(np.int32),
        "part_of": result.part_of.astype(np.int32),
    }
    try:
        with written_whole(file) as out:
            np.savez(out, said=said, **arrays)  # type: ignore[arg-type]
        newest = sorted(file.parent.glob("*.npz"), key=lambda kept: kept.stat().st_mtime, reverse=True)
        for old in newest[MOST_KEPT:]:
            old.unlink(missing_ok=True)
    except OSError:
        LOG.warning("what a piece came to could not be kept", exc_info=True)
