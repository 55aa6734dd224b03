"""The mesh formats by the endings of their names: a new one is a new file and one line here.

What reads and what writes a format is imported when it is first used: a command that writes an STL waits for no other.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from typing import Any

from noble_clay.core.errors import MeshError
from noble_clay.core.registry import extended

ROOM = "noble_clay.core.formats"


@dataclass(frozen=True)
class Format:
    """A kind of mesh file.

    about: what it keeps and what it is for, in the maker's words. reads, writes: `module:function`; what reads takes
    bytes and gives a MeshFile or raises MeshError; what writes takes a mesh, mm, a name and `NamedParts` or None, and
    gives bytes. offered: the page offers it for a piece. most_bytes: of a file that is read.
    """

    ending: str
    name: str
    about: str
    media: str
    reads: str = ""
    writes: str = ""
    offered: bool = False
    most_bytes: int = 300_000_000

    @property
    def read(self) -> Callable[[bytes], Any]:
        return _function(self.reads)

    @property
    def write(self) -> Callable[..., bytes]:
        return _function(self.writes)


def _function(path: str) -> Callable[..., Any]:
    module, _, name = path.partition(":")
    found: Callable[..., Any] = getattr(import_module(module), name)
    return found


FORMATS: dict[str, Format] = {
    f.ending: f
    for f in extended(
        "FORMATS",
        [
            Format(
                "3mf",
                "3MF",
                "shape, names and colours: for printing",
                "model/3mf",
                f"{ROOM}.threemf_read:threemf_file",
                f"{ROOM}.threemf_write:write_threemf",
                offered=True,
            ),
            Format(
                "stl",
                "STL",
                "shape only: for any slicer",
                "model/stl",
                f"{ROOM}.stl:stl_file",
                f"{ROOM}.stl:write_stl",
                offered=True,
                most_bytes=600_000_000,  # two million triangles as text
            ),
            Format("obj", "OBJ", "shape as text", "model/obj", f"{ROOM}.obj:obj_file", f"{ROOM}.obj_write:write_obj"),
            Format(
                "obj.zip",
                "OBJ and MTL",
                "shape as text, parts and colours; in a ZIP",
                "application/zip",
                writes=f"{ROOM}.obj_write:write_obj_zip",
                offered=True,
            ),
            Format(
                "ply",
                "PLY",
                "shape and colours",
                "model/ply",
                f"{ROOM}.ply:ply_file",
                f"{ROOM}.ply_write:write_ply",
                offered=True,
            ),
            Format(
                "glb", "GLB", "shape only", "model/gltf-binary", f"{ROOM}.glb:glb_file", f"{ROOM}.glb_write:write_glb"
            ),
            Format(
                "colours.glb",
                "GLB",
                "shape and colours: for the web",
                "model/gltf-binary",
                writes=f"{ROOM}.glb_write:write_coloured_glb",
                offered=True,
            ),
        ],
    )
}
"""By ending."""


def endings(writing: bool) -> str:
    """The endings that can be written, or read, in a sentence."""
    return ", .".join(f.ending for f in FORMATS.values() if (f.writes if writing else f.reads))


def ending_of_several(ending: str) -> str:
    """The ending of a file with several bodies: a 3MF holds them, others go into a ZIP."""
    return ending if ending == "3mf" or ending.endswith(".zip") else f"{ending}.zip"


def ending(name: str | Path) -> str:
    """The ending of a file's name, in small letters and without its dot."""
    return Path(name).suffix.lower().lstrip(".")


def format_of(path: Path) -> str:
    """The format that a file's name asks for. Raises MeshError for one that cannot be written."""
    found = FORMATS.get(ending(path))
    if found is None or not found.writes:
        raise MeshError(f'"{path.name}" must end in one of .{endings(writing=True)}')
    return found.ending


def is_read(ending: str) -> bool:
    return ending in FORMATS and bool(FORMATS[ending].reads)


def check_bytes(size: int, ending: str) -> None:
    """Raises MeshError for a file too large to hold what may be read."""
    known = FORMATS.get(ending.lower().lstrip("."))
    most = Format.most_bytes if known is None else known.most_bytes
    if size > most:
        raise MeshError(f"the file is {size / 1e6:,.0f} MB; at most {most // 1_000_000} MB can be read")
