"""A piece as several bodies that fill it between them, one a glaze: for a printer of several colours.

Every point of the piece goes to the glaze of the surface that is nearest to it, so each is as deep as there is room.
The face between two is looked for on a lattice only where it runs, and both sides are cut by that same face: no film
is left between them, and none overlaps another. The line between two glazes on the surface stays where it was to within
a cell, and mostly far nearer: next to it the field that is drawn is straight (on a flat surface it grows with the
distance to that line, however deep a point lies).
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from functools import cache

import numpy as np
from manifold3d import Error, Manifold
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.result import Result
from noble_clay.core.field.band import Band, TooFine
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mend.steady import steady
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.draw_together import drawn_together
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import areas, volume
from noble_clay.core.mesh.mesh import Floats, Mesh, double_normals
from noble_clay.core.mesh.nearest import Nearest
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.mesh.topology import vertex_shells
from noble_clay.core.mesh.written import PLACES, as_decimals, written
from noble_clay.core.piece.models import CLAY, Piece
from noble_clay.core.piece.tree import shown_colours
from noble_clay.core.printing.apart import INSIDE, THINNEST

CELLS = 128
"""Of the lattice, along the longest side of what is divided."""

FINEST, COARSEST = 0.01, 2.0
"""mm: a cell's side, where the lattice does not get too large for it."""

AROUND = 2.0
"""Cells that the dividing solids reach beyond the piece."""

OTHER_CELLS = (1.0, 0.93, 1.08, 0.87)
"""Tried in turn: where the kernel divides wrongly what touches itself, other cells make another face."""

AMISS = 1e-9
"""Share of a solid's volume by which its two sides may have another."""

EQUAL = 1e-9
"""Share of squared distances below which they are the same."""

TINY = 1e-300

Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Glazed:
    """The body of a glaze, all of one colour, "#rrggbb"."""

    colour: str
    solid: Solid


def by_glaze(
    piece: Piece, result: Result, told: Callable[[float], None] = lambda _: None, cells: int = CELLS
) -> list[Glazed]:
    """A body a glaze, that with most of the surface first; together they are the result. told: how far it is, up to
    1. cells: as `CELLS`.

    Raises MeshError where all is of one glaze, or where one shows so little that no body comes of it.
    """
    mesh, part_of, ids = result.solid.mesh_with_parts()
    shown = shown_colours(piece)
    colours = np.array([shown.get(part, CLAY).lower() for part in ids])[part_of]
    area = areas(mesh)
    most = sorted(set(colours.tolist()), key=lambda colour: -float(area[colours == colour].sum()))
    if len(most) < 2:
        raise MeshError("all of this piece has one glaze, so there is nothing to divide")
    rest = result.solid.manifold
    bodies: dict[str, Manifold] = {}
    for number in range(len(most) - 1, 0, -1):
        told(1 - number / len(most))
        own = colours == most[number]
        others = np.isin(colours, most[:number])  # those with less have their bodies already
        bodies[most[number]], rest = _divided(rest, mesh, own, others, cells)
    bodies[most[0]] = rest
    return [Glazed(colour, _body(bodies[colour], colour)) for colour in most]


def _body(divided: Manifold, colour: str) -> Solid:
    """Without films that rounding left, and without needles and tangles that would show in a file. Raises MeshError
    where nothing else is left.
    """
    one = divided.as_original()
    solid = Solid(one, {one.original_id(): INSIDE}, Planes.none()).without_films(THINNEST)
    if solid.empty:
        raise MeshError(f"the glaze {colour} shows so little that no body comes of it: make what has it larger")
    mesh = _as_written(solid)

    @cache
    def steadied() -> Solid:
        return Solid.from_mesh(steady(mesh, mesh)[0], INSIDE)

    ways: tuple[Callable[[], Solid], ...] = (
        lambda: solid,
        lambda: Solid(solid.manifold.simplify(HAIR), solid.labels, solid.planes),
        steadied,
        lambda: Solid.from_mesh(drawn_together(mesh), INSIDE),
        lambda: _told_apart(mesh),
        lambda: _told_apart(_as_written(steadied())),
    )
    for better in ways:
        with suppress(MeshError):
            if _can_be_written(found := better()):
                return found
    return solid


def _can_be_written(solid: Solid) -> bool:
    """Whether it is sound as files hold it, some of which tell points apart by decimals."""
    mesh = _as_written(solid)
    told_apart = len(np.unique(as_decimals(mesh.vertices), axis=0)) == len(mesh.vertices)
    return told_apart and not {flaw.kind for flaw in inspect_mesh(mesh).findings} - {"loose_bodies"}


def _told_apart(mesh: Mesh) -> Solid:
    """Its points as decimals have them, those at one place made one. Raises MeshError where it is not closed then."""
    points, one = np.unique(as_decimals(mesh.vertices), axis=0, return_inverse=True)
    triangles = one.reshape(-1)[mesh.triangles]
    kept = (triangles != np.roll(triangles, 1, axis=1)).all(axis=1)
    # Half a step further out: what is cut off after the last decimal is then none of it.
    points += np.where(points == 0, 0, np.copysign(0.5 / 10**PLACES, points))
    return Solid.from_mesh(Mesh(points, triangles[kept]), INSIDE)


def _as_written(solid: Solid) -> Mesh:
    mesh, part_of, _ = solid.mesh_with_parts()
    return written(mesh, part_of).mesh


def _divided(solid: Manifold, mesh: Mesh, own: Flags, others: Flags, cells: int) -> tuple[Manifold, Manifold]:
    """What of a solid is nearer to the `own` (m,) triangles of a mesh than to `others` (m,), and what is not."""
    assert mesh.bounds is not None  # it has triangles of two glazes
    whole, one, other = MeshDistance(mesh), _Patch(mesh, own), _Patch(mesh, others)
    first = float(np.clip((mesh.bounds[1] - mesh.bounds[0]).max() / cells, FINEST, COARSEST))
    for share in OTHER_CELLS:
        side = _nearer(whole, one, other, first * share)
        if side.status() != Error.NoError:
            continue
        inside, outside = solid.split(side)
        if abs(inside.volume() + outside.volume() - solid.volume()) < AMISS * solid.volume():
            return inside, outside
    raise MeshError("the glazes do not come apart here, so finely they run into each other: take it as one body")


def _nearer(whole: MeshDistance, one: _Patch, other: _Patch, cell: float) -> Manifold:
    """All that is nearer to one patch than to another, up to a little around the whole. cell: of the lattice, mm."""
    low, high = whole.mesh.vertices.min(axis=0), whole.mesh.vertices.max(axis=0)

    def distance(points: Floats) -> Floats:
        """No further than that to the surface that is looked for."""
        between = (np.sqrt(one.nearest(points)[0]) - np.sqrt(other.nearest(points)[0])) / 2
        return np.maximum(between, whole(points) - AROUND * cell)

    while True:
        room = (AROUND + 2) * cell
        try:
            band = Band.where([(distance, -cell, cell)], low - room, high + room, cell)
            break
        except TooFine:
            cell *= 1.5
    (a, beside_a), (b, beside_b) = one.measures(band.points), other.measures(band.points)
    between = np.where(np.abs(a - b) > EQUAL * (a + b), a - b, beside_a - beside_b)
    between = np.sign(between) * np.sqrt(np.abs(between))
    return manifold_of(_that_shows(band.surface(np.maximum(between, whole(band.points) - AROUND * cell)), whole))


def _that_shows(side: Mesh, whole: MeshDistance) -> Mesh:
    """Without shells that lie within the whole and hold nothing of its surface: what is nearest to a glaze hangs
    together with it, so they are only points of the lattice that are as near to one as to the other.
    """
    number, shell = vertex_shells(side)
    shows = np.zeros(number, dtype=bool)
    outside = whole(side.vertices) >= 0
    shows[shell[outside[side.triangles].any(axis=1)]] = True
    for i in np.flatnonzero(~shows):
        alone = side.keep(shell == i)  # turned outward or inward
        low, high = alone.bounds  # type: ignore[misc]  # it has triangles
        near = whole.mesh.vertices[np.all((whole.mesh.vertices > low) & (whole.mesh.vertices < high), axis=1)]
        shows[i] = bool(len(near)) and bool(np.any(MeshDistance(alone)(near) * volume(alone) < 0))
    return side.keep(shows[shell])


class _Patch:
    """What of a surface is of some glazes."""

    def __init__(self, mesh: Mesh, some: Flags) -> None:
        self.mesh = mesh.keep(some)
        self.nearest = Nearest(self.mesh).to
        across = double_normals(self.mesh).T
        self.normals = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), TINY)

    def measures(self, points: Floats) -> tuple[Floats, Floats]:
        """(n,) squared distances, and (n,) the squares of how far beside the patch the points lie, mm². Where the line
        between two patches runs in a corner, it is nearest to much that lies under it, and what lies less beside one
        than the other goes to that.
        """
        squared, triangle, foot = self.nearest(points)
        under = ((foot - points) * self.normals[triangle]).sum(axis=1)
        return squared, squared - under * np.abs(under)
