"""A piece as several bodies that fill it between them, one for every line of its recipe: to be printed each by itself,
or at once by a printer of several colours.

Where lines overlap, what was put on later keeps its whole shape, and what stood there before has the hollow for it, as
an eye is set into a head. What lies in none goes with the line that most of its surface is of.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.result import Result
from noble_clay.core.kernel.plain import union_of
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mass import areas, is_film
from noble_clay.core.piece.models import Part, Piece

INSIDE = "inside"
"""What the faces of a body that lie against others are named where a part's id would be."""

THINNEST = 0.002
"""mm: what is thinner is no body but rounding."""


@dataclass(frozen=True, eq=False)
class Share:
    """The body of a line. What of its surface lies against another body is labelled `INSIDE`."""

    part: Part
    solid: Solid


def shares(piece: Piece, result: Result, evaluator: Evaluator) -> list[Share]:
    """The bodies in the order of the recipe; together they are the result, and none overlaps another.

    Raises MeshError where there are fewer than two, or where one runs softly into what stands before it: there no face
    is between them.
    """
    standing = [p for p in piece.parts if not p.reference]
    lines = [p for number, p in enumerate(standing) if number == 0 or p.op == "union"]
    for line in lines[1:]:
        if line.blend:
            raise MeshError(f'"{line.name}" runs softly into what stands before it: join those into one part first')
    solids = [evaluator.part_solid(line) for line in lines]
    labels = {label: part for solid in solids for label, part in solid.labels.items()} | result.solid.labels
    line_of = {part.id: line.id for line in lines for part in line.walk()}
    bodies: dict[str, list[Manifold]] = {}
    rest = result.solid.manifold
    for line, solid in reversed(list(zip(lines, solids, strict=True))):
        bodies[line.id] = [solid.manifold ^ rest]
        rest = rest - solid.manifold
    for left in rest.decompose():
        if _is_body(left):
            bodies[_nearest(left, labels, line_of) or lines[0].id].append(left)
    found = []
    for line in lines:
        own = {label: part if line_of.get(part) == line.id else INSIDE for label, part in labels.items()}
        whole = Solid(union_of(bodies[line.id]), own, result.solid.planes).without_films(THINNEST)
        if not whole.empty:
            found.append(Share(line, whole))
    if len(found) < 2:
        raise MeshError("there is only one part in this piece, so nothing to take apart")
    return found


def _is_body(solid: Manifold) -> bool:
    """Whether it is more than a film that rounding has left."""
    return not is_film(np.array(solid.volume()), np.array(solid.surface_area()), THINNEST)


def _nearest(left: Manifold, labels: dict[int, str], line_of: dict[str, str]) -> str | None:
    """The line that most of a solid's surface is of, as far as that is known."""
    mesh, part_of, ids = Solid(left, labels, Planes.none()).mesh_with_parts()
    sums: dict[str, float] = {}
    for part, area in zip(ids, np.bincount(part_of, areas(mesh), len(ids)), strict=True):
        if part in line_of and area > 0:
            sums[line_of[part]] = sums.get(line_of[part], 0.0) + area
    return max(sums, key=lambda line: sums[line]) if sums else None
