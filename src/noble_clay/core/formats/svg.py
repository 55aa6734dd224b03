"""Drawings in SVG files, taken in as path data in mm with y upward. What could run, or fetch, is never looked at."""

from __future__ import annotations

import io
import re

from noble_clay.core.errors import MeshError

LARGEST = 5_000_000
"""Bytes of a drawing."""

MOST_SHAPES = 5_000

MM_PER_INCH = 25.4


def path_data_of(data: bytes) -> str:
    """The outlines of all shapes of an SVG file as one path, where they stand, mm.

    Lengths with units are those; plain numbers are mm. Raises MeshError for what is no SVG, is too large, defines
    entities of its own, or draws nothing.
    """
    from svgelements import SVG, Matrix, Path, Shape

    if len(data) > LARGEST:
        raise MeshError(f"the drawing is larger than {LARGEST // 1_000_000} MB")
    if re.search(rb"<!(DOCTYPE[^>]*\[|ENTITY)", data, re.IGNORECASE):
        raise MeshError("the drawing defines entities of its own, which are not taken in; save it as a plain SVG")
    try:
        drawing = SVG.parse(io.BytesIO(data), ppi=MM_PER_INCH, reify=True)
    except Exception as error:  # the reader's own, of many kinds
        raise MeshError("the file is no SVG drawing that can be read") from error
    found: list[str] = []
    upward = Matrix("scale(1,-1)")
    for element in drawing.elements():
        if not isinstance(element, Shape) or element.values.get("visibility") == "hidden":
            continue
        path = abs(Path(element) * upward)
        if len(path) > 1:
            found.append(path.d(relative=False, smooth=False))
        if len(found) > MOST_SHAPES:
            raise MeshError(f"the drawing has over {MOST_SHAPES:,} shapes")
    if not found:
        raise MeshError("the drawing has no shape with an outline; text must be turned into paths first")
    return " ".join(found)
