"""Files that are written whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path


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
    waiting = {path: path.with_name(f".{path.name}.{os.getpid()}") for path in files}
    try:
        for path, partial in waiting.items():
            try:
                partial.write_bytes(files[path])
            except OSError as error:
                raise OSError(error.errno, error.strerror, str(path)) from None
        for path, partial in waiting.items():
            partial.replace(path)
    finally:
        for partial in waiting.values():
            with suppress(OSError):
                partial.unlink(missing_ok=True)
