"""The mesh formats by the endings of their names: each is read and written."""

from __future__ import annotations

from pathlib import Path

from noble_clay.core.errors import MeshError

FORMATS = ("stl", "3mf", "obj", "ply", "glb")

MOST_BYTES = {"stl": 600_000_000}
"""Two million triangles as text; of every other format less is enough."""

MOST_BYTES_ELSE = 300_000_000


def ending(name: str | Path) -> str:
    """The ending of a file's name, in small letters and without its dot."""
    return Path(name).suffix.lower().lstrip(".")


def format_of(path: Path) -> str:
    """The format that a file's name asks for. Raises MeshError for one that is not known."""
    found = ending(path)
    if found not in FORMATS:
        raise MeshError(f'"{path.name}" must end in one of .{", .".join(FORMATS)}')
    return found


def check_bytes(size: int, ending: str) -> None:
    """Raises MeshError for a file too large to hold what may be read."""
    most = MOST_BYTES.get(ending.lower().lstrip("."), MOST_BYTES_ELSE)
    if size > most:
        raise MeshError(f"the file is {size / 1e6:,.0f} MB; at most {most // 1_000_000} MB can be read")
