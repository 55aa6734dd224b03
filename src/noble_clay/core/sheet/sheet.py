"""What a making-of sheet holds: pictures, sizes, glazes, the recipe as numbered steps, and how it was rehearsed."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.result import Result
from noble_clay.core.formats.named_parts import NamedParts, colours_of
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.tree import shown_colours
from noble_clay.core.sheet.picture import picture
from noble_clay.core.sheet.words import OPS, change_words, form_words, glaze_word, named_glaze, number, place_words

WHOLE = 900, 620
SMALL = 300, 220
MOST_STEPS = 300

Tell = Callable[[float], None]


@dataclass(frozen=True)
class Step:
    """number: as in the recipe, 2.1 the first of line 2. op, form, place: in words. size: mm, as it is made. picture:
    PNG.
    """

    number: str
    name: str
    op: str
    form: str
    changes: list[str]
    place: str
    glaze: str
    size: str
    picture: bytes


@dataclass(frozen=True)
class Sheet:
    """printing: rows of a word and a figure."""

    name: str
    notes: str
    size: str
    triangles: int
    volume: float
    picture: bytes
    glazes: list[tuple[str, str]]
    steps: list[Step]
    printing: list[tuple[str, str]] = field(default_factory=list)


def sheet_of(
    piece: Piece, evaluator: Evaluator, printing: list[tuple[str, str]], tell: Tell = lambda share: None
) -> Sheet:
    """Raises PieceError for a piece that cannot be made."""
    result = evaluator.evaluate(piece)
    mesh = result.written.mesh
    shown = shown_colours(piece)
    lines = [(n, p) for n, p in numbered(piece.parts) if not p.reference][:MOST_STEPS]
    steps = []
    for done, (place, part) in enumerate(lines):
        tell(done / len(lines))
        steps.append(_step(place, part, evaluator.geometry(part), shown))
    used = {shown[i].lower() for i in result.part_ids}
    bounds = mesh.bounds
    return Sheet(
        name=piece.name,
        notes=piece.notes,
        size=_size(mesh),
        triangles=len(mesh.triangles),
        volume=0.0 if bounds is None else result.inspection.volume,
        picture=portrait(piece, result, *WHOLE),
        glazes=sorted((named_glaze(colour) or "a glaze of its own", colour) for colour in used),
        steps=steps,
        printing=printing,
    )


def portrait(piece: Piece, result: Result, width: int, height: int) -> bytes:
    """PNG of a joined piece in its glazes."""
    return picture(result.written.mesh, glazed(piece, result), width, height)


def glazed(piece: Piece, result: Result) -> NDArray[np.uint8]:
    """(m, 3) colours of the triangles of a joined piece, or (3,) where there are none."""
    shown = shown_colours(piece)
    parts = NamedParts(result.written.part_of, [(i, shown[i]) for i in result.part_ids])
    return colours_of(parts) if result.part_ids else np.zeros(3, dtype=np.uint8)


def numbered(parts: tuple[Part, ...], before: str = "") -> Iterator[tuple[str, Part]]:
    """Each part, as its line of the recipe is numbered."""
    for i, part in enumerate(parts, start=1):
        here = f"{before}{i}"
        yield here, part
        yield from numbered(part.children, f"{here}.")


def _step(place: str, part: Part, solid: Solid, shown: dict[str, str]) -> Step:
    mesh, part_of, ids = solid.mesh_with_parts()
    colours = colours_of(NamedParts(part_of, [(i, shown.get(i, shown[part.id])) for i in ids]))
    return Step(
        number=place,
        name=part.name,
        op=OPS[part.op],
        form=form_words(part),
        changes=change_words(part),
        place=place_words(part),
        glaze=glaze_word(shown[part.id]),
        size=_size(mesh),
        picture=picture(mesh, colours if len(ids) else np.zeros(3, dtype=np.uint8), *SMALL),
    )


def _size(mesh: Mesh) -> str:
    if mesh.bounds is None:
        return "nothing"
    return " × ".join(number(round(float(v), 1)) for v in mesh.bounds[1] - mesh.bounds[0]) + " mm"
