"""Folders for the files of a job while it runs; those of workers that were killed are cleared away."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

PREFIX = "noble-clay-work-"


@contextmanager
def work_folder() -> Iterator[Path]:
    """An empty folder, gone at the end. Its name says whose it is."""
    with tempfile.TemporaryDirectory(prefix=f"{PREFIX}{os.getpid()}-") as name:
        yield Path(name)


@cache
def shared_folder() -> Path:
    """A folder for what this process's jobs share, as long as it lives; empty when it begins."""
    found = Path(tempfile.mkdtemp(prefix=f"{PREFIX}{os.getpid()}-"))
    atexit.register(shutil.rmtree, found, ignore_errors=True)
    return found


def clear_abandoned() -> None:
    """Delete the folders of processes that are not there any more."""
    for folder in Path(tempfile.gettempdir()).glob(f"{PREFIX}*-*"):
        owner = folder.name.removeprefix(PREFIX).split("-")[0]
        if owner.isdigit() and not Path(f"/proc/{owner}").exists():
            shutil.rmtree(folder, ignore_errors=True)
