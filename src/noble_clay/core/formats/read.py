"""Reading a mesh file of any known format; its name's ending says which, and what is in it must agree."""

from __future__ import annotations

import logging

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import MeshFile, check_count
from noble_clay.core.formats.registry import FORMATS, check_bytes, endings, is_read
from noble_clay.core.formats.stl import promised

LOG = logging.getLogger(__name__)


def check_head(head: bytes, size: int, ending: str) -> None:
    """Raises MeshError where the first 84 bytes of a file of so many bytes already promise more triangles than may be
    read.
    """
    if ending.lower().lstrip(".") == "stl":
        check_count(max(0, promised(head, size)))


def read_mesh(data: bytes, ending: str) -> MeshFile:
    """A mesh file's contents. ending: of its name. Raises MeshError that says what is wrong and where."""
    ending = ending.lower().lstrip(".")
    if not is_read(ending):
        raise MeshError(f"meshes are read from .{endings(writing=False)}; this is none of them")
    if not data:
        raise MeshError("the file is empty")
    check_bytes(len(data), ending)
    try:
        found: MeshFile = FORMATS[ending].read(data)
        return found
    except (MeshError, MemoryError):
        raise
    except Exception as error:  # whatever strangers may have put into it is told, and never stops what reads it
        LOG.warning("a .%s file could not be read", ending, exc_info=error)
        raise MeshError(f"the file is damaged: its contents contradict themselves ({type(error).__name__})") from None
