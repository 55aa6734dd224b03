"""A need of a joined piece, and a remedy: an edit of the recipe that mends it."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.evaluate.result import Result
from noble_clay.core.evaluate.view import PartView, Views
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.mesh.inspect import CRUMB_MM3
from noble_clay.core.mesh.mass import areas, normals, shell_sums, signed_volumes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.severity import Severity
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology, vertex_shells
from noble_clay.core.piece.edits.fields import Move, Resize
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.tree import find

Kind = Literal["loose_body", "crumb", "touching", "pinched", "thin_wall", "almost_flush"]
How = Literal["sink", "widen", "narrow", "move", "move_back", "thicken", "cut_away", "make_flush"]

SEVERITY: dict[Kind, Severity] = {
    "loose_body": "breaks",
    "crumb": "spoils",
    "touching": "spoils",
    "pinched": "breaks",
    "thin_wall": "spoils",
    "almost_flush": "harmless",
}


@dataclass(frozen=True)
class Remedy:
    """One way to mend a need. part: which it changes (the first where it moves several), or, for one that only adds a
    part, which it concerns. by: mm that it moves or grows it.
    """

    how: How
    part: str
    by: float
    edit: Move | Resize | AddParts


@dataclass(frozen=True, eq=False)
class Need:
    """One place where a piece needs something. parts: whose surface it has. at: (3,) mm on the wheel. size: mm, how far
    it reaches. measures: numbers worth telling, named with their units. other: of a loose or touching part, what it
    should be one with. triangles: a body to show, or none. faces: (j, 3, 3) triangles to draw. remedies: the best
    first.
    """

    kind: Kind
    parts: tuple[str, ...]
    at: Floats
    size: float
    measures: dict[str, float]
    triangles: Mesh | None = None
    faces: Floats = field(default_factory=lambda: np.zeros((0, 3, 3)))
    along: Literal["face", "edge", "corner"] | None = None
    other: str | None = None
    remedies: tuple[Remedy, ...] = ()

    @property
    def severity(self) -> Severity:
        return SEVERITY[self.kind]


@dataclass(frozen=True, eq=False)
class InspectionContext:
    """What every kind of need is looked for in: a piece, its joined skin, and its parts as they stand on the wheel."""

    piece: Piece
    result: Result
    neighbours: Neighbours
    views: Views

    @cached_property
    def standing(self) -> dict[str, PartView]:
        return {v.id: v for v in self.views.of(self.piece)}

    @cached_property
    def facing(self) -> Floats:
        """(m, 3) the unit normals of the joined skin."""
        return normals(self.result.mesh)

    @cached_property
    def topology(self) -> Topology:
        return Topology(self.result.mesh)

    @cached_property
    def bodies(self) -> tuple[Ints, Floats]:
        """(m,) the shell of every triangle of the joined skin, and (shells,) mm³, below 0 for a hollow."""
        number, shell = vertex_shells(self.result.mesh)
        return shell, shell_sums(shell, signed_volumes(self.result.mesh), number)

    @cached_property
    def of_crumbs(self) -> NDArray[np.bool_]:
        """(m,) triangles of bodies beside the largest that are crumbs."""
        shell, volumes = self.bodies
        crumbs = (volumes > 0) & (volumes < CRUMB_MM3) & (volumes < volumes.max(initial=0.0))
        return crumbs[shell]

    def copied(self, part: str) -> bool:
        """Whether there are several of a part, by copies of its own or of a join around it."""
        spot = find(self.piece, part)
        return any(p.copies is not None for p in (spot.part, *spot.parents))

    def movable(self, part: str) -> bool:
        """Whether moving a part moves all of it the same way: it is not locked, and no copies are about it."""
        return not self.copied(part) and not find(self.piece, part).part.locked

    def bulk(self, part: str) -> float:
        """mm³ of the box around a part, in its own frame; infinite for one of nothing."""
        view = self.standing.get(part)
        return float(np.prod(view.size)) if view is not None and view.size is not None else np.inf

    def cuts(self, part: str) -> bool:
        """Whether a part takes away: it cuts, or is part of a cutter, but does not cut a cutter."""
        spot = find(self.piece, part)
        return sum(p.op == "difference" for p in (spot.part, *spot.parents)) % 2 == 1


def move(way: Floats, *parts: str) -> Move:
    return Move(kind="move", ids=parts, by=tuple(np.round(way, 9) + 0.0))


def heights(mesh: Mesh) -> tuple[Floats, Floats]:
    """(m,) the least height of every triangle and (m,) its longest side, mm."""
    corners = mesh.corners
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    return 2 * areas(mesh) / np.maximum(longest, SOME), longest
