"""A list run together: each part's own triangles where nothing rounds them, the field's surface where it is rounded.

Space is divided into cells; those where two parts are near each other are the lattice's, the others one part's own.
Each part's mesh is cut along the faces of its cells, and the surface on the lattice takes its vertices there from the
mesh: so the two meet in the same points, and the whole closes. Cells in whose faces they do not, since a mesh is a
little off its true shape, are given to the lattice until they do.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.borders import with_borders
from noble_clay.core.field.contour import Lines, filled, roots
from noble_clay.core.field.evened import evened
from noble_clay.core.field.features import Rings, middles, with_edge_points
from noble_clay.core.field.fold import Fold
from noble_clay.core.field.lattice import ODD
from noble_clay.core.field.memory import Memory
from noble_clay.core.field.nodes import numbered
from noble_clay.core.field.own_pieces import OwnPieces
from noble_clay.core.field.parted import parted
from noble_clay.core.field.seam import Meeting, meet
from noble_clay.core.field.short_edges import MUST_STAY, without_short_edges
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, double_normals

MOST_ROUNDS = 16
"""Times that cells are given to the lattice before all of them are."""

MANY_SIDES = 6
"""Sides of a line around a cell that may be so uneven that it is filled from within."""

SHORT = 0.001
"""Edges that are taken out, in cells."""

MOST_TRIANGLES = 300_000
"""About how many triangles the whole surface on the lattice may have."""


@dataclass(frozen=True, eq=False)
class RunTogether:
    """mesh: closed. step: (m,) of which step each triangle is nearest or of whose own surface it is a piece. own: (m,)
    which triangle of that step's mesh it is a piece of, -1 for none.
    """

    mesh: Mesh
    step: Ints
    own: Ints


def run_together(
    blocks: Blocks,
    meshes: list[Mesh],
    memory: Memory,
    begin: Callable[[int, str], None] = lambda step, stage: None,
) -> RunTogether:
    """A list's surface.

    blocks: its space, not yet looked at. meshes: of the steps' parts with their copies, closed. memory: of what was
    found out for lists before. begin: told of which step its own mesh ("blend") or its share of the lattice ("run") is
    next; it may end the work by raising.
    """
    go_on = _sharing(begin, len(meshes))
    blocks.look(memory, lambda share: go_on(share / 2))
    nodes = blocks.nodes
    own = OwnPieces(meshes, [step.op == "difference" for step in blocks.fold.steps], blocks, nodes)
    normals = np.ascontiguousarray(double_normals(Mesh(own.points, own.triangles)).T)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    opened = None
    for _ in range(MOST_ROUNDS):
        meeting = meet(own, blocks, normals, opened)
        opened = meeting.amiss
        if len(opened) == 0:
            lines = Lines(blocks, meeting.borders, meeting.caps, own.first_twice, meeting.twice)
            opened = blocks.own_about(lines.unmatched(own.first_twice, meeting.twice))
            if len(opened) == 0:
                return _whole(blocks, lines, own, meeting, normals, memory, lambda share: go_on((share + 1) / 2))
        blocks.open(opened)
        own.cut_again(opened)
    return all_of_it(blocks.fold, meshes, blocks.cell, memory, begin)


def _sharing(begin: Callable[[int, str], None], number: int) -> Callable[[float], None]:
    """Tells of a share of the lattice that is done, by the last of so many steps that it comes to."""
    return lambda share: begin(int(share * (number - 1)), "run")


def all_of_it(
    fold: Fold,
    meshes: list[Mesh],
    cell: float,
    memory: Memory,
    begin: Callable[[int, str], None] = lambda step, stage: None,
) -> RunTogether:
    """The whole surface on the lattice, coarser where that would be too much: it always closes. begin: as
    `run_together` has it.
    """
    go_on = _sharing(begin, len(meshes))
    area = sum(float(areas(m).sum()) for m, each in zip(meshes, fold.steps, strict=True) if each.op == "union")
    radii = fold.arrays[1][:, 1]
    coarsest = float(radii[radii > 0].min(initial=np.inf)) / 3
    cell = max(cell, min(coarsest, math.sqrt(3 * area / MOST_TRIANGLES)))
    blocks = divided(fold, meshes, cell, everywhere=True)
    blocks.look(memory, lambda share: go_on(share / 2))
    none = np.zeros((0, 5), dtype=np.int64)
    lines = Lines(blocks, none, [], 0, none[:, 0].copy())
    return _whole(blocks, lines, None, None, np.zeros((0, 3)), memory, lambda share: go_on((share + 1) / 2))


def divided(fold: Fold, meshes: list[Mesh], cell: float, everywhere: bool = False, many: int | None = None) -> Blocks:
    """The space of a list. meshes: of the steps' parts with their copies. cell: of the lattice, mm. everywhere: all of
    the surface is found on the lattice. many: blocks of twice the smallest side beyond which the lattice is too fine;
    else only what cannot be held is.

    Raises MeshError when the lattice is too fine.
    """
    united = zip(meshes, fold.steps, strict=True)
    every = [mesh.bounds for mesh, step in united if step.op == "union"]
    boxes = np.array([each for each in every if each is not None])
    reach = fold.reach
    box = np.array([boxes[:, 0].min(axis=0) - reach, boxes[:, 1].max(axis=0) + reach])
    return Blocks(fold, cell, box, everywhere, many)


def _nothing() -> tuple[Ints, Ints, Ints]:
    none = np.zeros(0, dtype=np.int64)
    return np.zeros((0, 3), dtype=np.int64), none, none


def _whole(
    blocks: Blocks,
    lines: Lines,
    own: OwnPieces | None,
    meeting: Meeting | None,
    normals: Floats,
    memory: Memory,
    go_on: Callable[[float], None],
) -> RunTogether:
    """The surface on the lattice and what is left of the own meshes, put together."""
    nodes = blocks.nodes
    of_own, step_of_own, source = own.filled(meeting.pieces, normals) if own and meeting else _nothing()
    number, first = numbered(np.concatenate([of_own.reshape(-1), lines.keys]))
    keys = np.concatenate([of_own.reshape(-1), lines.keys])[first]
    points, turned = np.empty((len(keys), 3)), np.zeros((len(keys), 3))
    whose = np.full(len(keys), -1)
    if own and meeting:
        corner = (keys >= nodes.corner) & (keys < own.first_twice)
        between = ~corner & (first < of_own.size)
        points[corner] = own.points[keys[corner] - nodes.corner]
        pieces = meeting.pieces
        order = np.argsort(pieces.keys, kind="stable")
        points[between] = pieces.points[order[np.searchsorted(pieces.keys, keys[between], sorter=order)]]
    on_lattice = np.flatnonzero(first >= of_own.size)
    block = np.repeat(lines.blocks, lines.sizes)[first[on_lattice] - of_own.size]
    points[on_lattice], turned[on_lattice], whose[on_lattice] = roots(
        blocks, nodes, keys[on_lattice], block, memory, go_on
    )
    rings = Rings(number[of_own.size :], lines.planes, lines.starts, lines.cells, lines.blocks, lines.alone)
    off = evened(rings, blocks, on_lattice, keys, points, turned)
    rings, in_faces, added = with_edge_points(rings, blocks, points, turned)
    points, turned = np.concatenate([points, in_faces]), np.concatenate([turned, np.zeros_like(in_faces)])
    off = np.concatenate([off, np.zeros(len(in_faces))])
    needed = added | (lines.which[:, 1] < 0) | (rings.alone & (lines.sizes >= MANY_SIDES))
    wanted, within = middles(rings, needed, blocks, points, turned, off, normals)
    triangles = filled(lines, rings, wanted, len(points))
    whose[number[: of_own.size]] = np.repeat(step_of_own, 3)
    every_point = np.concatenate([points, within])
    # A point of an edge is of the step that any other corner is of.
    whose = np.concatenate([whose, np.full(len(every_point) - len(whose), -1)])
    pieces_of_own = number[: of_own.size].reshape(-1, 3)
    outer = np.stack([pieces_of_own, np.roll(pieces_of_own, -1, axis=1)], axis=-1).reshape(-1, 2)
    more, triangles, step = with_borders(blocks.fold, every_point + ODD, triangles, whose, outer, blocks.cell)
    every_point = np.concatenate([every_point, more - ODD])
    found = np.concatenate([pieces_of_own, triangles])
    step, source = np.concatenate([step_of_own, step]), np.concatenate([source, np.full(len(triangles), -1)])
    held = np.zeros(len(every_point), dtype=np.int64)
    held[number[: of_own.size]] = 1
    if own:
        held[: len(keys)][(keys >= nodes.corner) & (keys < own.first_twice)] = MUST_STAY
    left = without_short_edges(every_point, found, held, source >= 0, SHORT)
    mesh = parted(Mesh((every_point + ODD) * blocks.cell, found[left]).compact())
    return RunTogether(mesh, step[left], source[left])
