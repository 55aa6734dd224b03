"""Files that are written whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import BinaryIO


def write_whole(path: Path, data: bytes) -> None:
    """Write a file; one that was there before stays as it was until all of the new one is. What is no plain file (a
    pipe, a device) is written to as it is. Raises OSError with the path, and leaves nothing half written.
    """
    path = path.resolve()
    if path.exists() and not path.is_file():
        path.write_bytes(data)
    else:
        write_all_whole({path: data})


def write_all_whole(files: Mapping[Path, bytes]) -> None:
    """The same of several that belong together: all or none."""
    with ExitStack() as together:
        for path, data in files.items():
            file = together.enter_context(written_whole(path))
            file.write(data)
            file.flush()


@contextmanager
def written_whole(path: Path) -> Iterator[BinaryIO]:
    """A file that is at its place once all has been written to it without an error. Raises OSError with the path."""
    partial = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        with partial.open("wb") as file:
            yield file
        partial.replace(path)
    except OSError as error:
        if error.filename not in (None, str(partial)):  # of another file
            raise
        raise OSError(error.errno, error.strerror, str(path)) from None
    finally:
        with suppress(OSError):
            partial.unlink(missing_ok=True)
