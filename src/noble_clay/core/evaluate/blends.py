"""A list run together: which of its parts enter softly, as what forms, and the solid that comes of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.fineness import FINENESS, ROUGHLY, default_cell
from noble_clay.core.field import forms
from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.fold import Fold, Placed, Step
from noble_clay.core.field.forms import Form
from noble_clay.core.field.looked_through import looked_through
from noble_clay.core.field.memory import Memory
from noble_clay.core.field.nearest_parts import NearestParts
from noble_clay.core.field.part_borders import with_part_borders
from noble_clay.core.field.run_together import RunTogether, all_of_it, divided, run_together
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.convex import is_convex
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.boxes import longest_side
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.piece.models import Part
from noble_clay.core.piece.placing import standing
from noble_clay.core.primitives.base import stretched

MANY_BLOCKS, COARSEST = 3_200, 4
"""Blocks of twice the smallest side beyond which the lattice is coarser, where no fineness is given, and how many cells
the smallest radius has then at least, unless that is finer than for the largest.
"""

NEAR_ENOUGH, AT_MOST = 0.1, 1.0
"""How far a mesh may be off the true shape, in cells of a lattice, for that shape's distance to stand for it: always,
and where it has too many sides to be measured one by one.
"""

MOST_SIDES = 96
"""Triangles of a convex part that are measured one by one."""


@dataclass(frozen=True, eq=False)
class Entering:
    """A part that enters a list. radius: over which, mm. solid: with its copies, in the list's frame."""

    part: Part
    radius: float
    solid: Solid

    @cached_property
    def outline(self) -> tuple[float, ...]:
        """What tells most solids apart: how many triangles, and the box around them."""
        return (self.solid.triangles, *self.solid.bounds.reshape(-1))


Sampled = Callable[[Part, Floats, float, float], Form]
"""From a part, its scale along its axes, a cell and a reach, mm, to its own shape so scaled, as a sampled form."""


def joined_softly(
    entering: list[Entering],
    fineness: float | None,
    sampled: Sampled,
    memory: Memory,
    begin: Callable[[Part, str], None],
    roughly: bool = False,
) -> Solid:
    """The list combined in order, each step rounded over its radius.

    fineness: of the lattice, mm; none follows the radius. memory: of what was found out for lists before. begin: told
    of which part, and which stage of it, is next; it may end the work by raising. roughly: on a coarser lattice,
    quickly.
    Raises MeshError for a radius larger than the list, and for a lattice that is too fine.
    """
    present: list[Entering] = []
    for each in entering:
        if each.solid.empty and each.part.op != "intersection":
            continue
        if each.solid.empty:
            present.clear()
        elif not present and each.part.op != "union":
            continue  # nothing is taken from nothing
        elif each.part.op != "union" or not _repeats(each, present):
            present.append(each)
    # What enters sharply after all that is soft is joined exactly.
    last = max((i for i, e in enumerate(present) if i and e.radius), default=0)
    soft, sharp = present[: last + 1], present[last + 1 :]
    if last:
        found = _run(soft, fineness, sampled, memory, begin, roughly)
    else:
        found = soft[0].solid if soft else Solid.nothing()
    for each in sharp:
        found = boolean(each.part.op, [found, each.solid])
    return found


def _repeats(entering: Entering, present: list[Entering]) -> bool:
    """Whether the very same solid was united already, and only unions came since: it adds nothing."""
    for before in reversed(present):
        if before.part.op != "union":
            return False
        if before.outline == entering.outline and np.array_equal(before.solid.vertices, entering.solid.vertices):
            return True
    return False


def _run(
    soft: list[Entering],
    fineness: float | None,
    sampled: Sampled,
    memory: Memory,
    begin: Callable[[Part, str], None],
    roughly: bool,
) -> Solid:
    radii = [e.radius for e in soft[1:]]
    longest = longest_side([e.solid.bounds for e in soft if e.part.op == "union"])
    _check_radius(max(radii), longest)
    cell = (fineness or default_cell(radii, longest)) * (ROUGHLY if roughly else 1)
    meshes = [e.solid.kept_mesh_with_parts for e in soft]
    steps = [
        Step(e.part.op, e.radius if i else 0.0, _forms(e.part, cell, max(radii), sampled)) for i, e in enumerate(soft)
    ]
    own = [mesh for mesh, _, _ in meshes]
    coarsest = max(cell, min(r for r in radii if r) / COARSEST, max(radii) / FINENESS) if fineness is None else cell
    blocks = _divided(steps, own, cell, coarsest)

    def told(step: int, stage: str) -> None:
        begin(soft[step].part, stage)

    together = run_together(blocks, own, memory, told)
    if roughly:
        return _as_solid(soft, meshes, together)
    mesh, clean = looked_through(together.mesh, memory)  # fans beside seams may leave a few crossings
    if not clean:
        again = all_of_it(blocks.fold, own, blocks.cell, memory, told)
        drawn, clean = looked_through(again.mesh, memory)
        if clean:
            together, mesh = again, drawn
    return replace(_as_solid(soft, meshes, replace(together, mesh=mesh)), crosses_itself=not clean)


def _divided(steps: list[Step], own: list[Mesh], cell: float, coarsest: float) -> Blocks:
    """The list's space, by a lattice that is as much coarser than `cell` as it has to be. Raises MeshError where that
    is coarser than `coarsest`.
    """
    while cell < coarsest:
        try:
            return divided(Fold(steps, cell), own, cell, many=MANY_BLOCKS)
        except MeshError:
            cell = min(coarsest, 1.4 * cell)
    return divided(Fold(steps, cell), own, cell)


def _as_solid(soft: list[Entering], meshes: list[tuple[Mesh, Ints, tuple[str, ...]]], found: RunTogether) -> Solid:
    names = tuple(dict.fromkeys(name for e in soft for name in e.solid.part_names))
    number = {name: i for i, name in enumerate(names)}
    only = np.array([number[own_names[0]] if len(own_names) == 1 else -1 for _, _, own_names in meshes])
    mesh, step_of, own_of = found.mesh, found.step, found.own
    part_of: Ints = only[step_of]
    for step in np.flatnonzero(only < 0).tolist():
        entering, (_, own_parts, own_names) = soft[step], meshes[step]
        numbers = np.array([number[name] for name in own_names])
        run = (step_of == step) & (own_of < 0)
        if run.any():
            mesh, nearest, source = with_part_borders(mesh, NearestParts(entering.solid), run)
            step_of, own_of = step_of[source], own_of[source]
            part_of = np.where(nearest >= 0, numbers[nearest], part_of[source])
        own = (step_of == step) & (own_of >= 0)
        part_of[own] = numbers[own_parts[own_of[own]]]
    planes = Planes.together([e.solid.planes for e in soft])
    meets = any(e.solid.has_coincident_faces for e in soft)
    return replace(Solid.unread(mesh, part_of, names, planes), has_coincident_faces=meets)


def _forms(part: Part, cell: float, reach: float, sampled: Sampled) -> tuple[Placed, ...]:
    """A part's own shape, as a form placed by a rigid motion and one scale; for each copy one."""
    scale = np.array(part.place.scale)
    even = bool(np.all(scale == scale[0]))
    form = None
    rigid = part.place if even else part.place.model_copy(update={"scale": (1.0, 1.0, 1.0)})
    by = float(scale[0]) if even else 1.0
    if part.primitive is not None and not part.changed:
        primitive = part.primitive if even else stretched(part.primitive, tuple(scale))
        known = primitive.form() if primitive is not None else None
        if primitive is None:
            form = part.primitive.form_of_stretched(tuple(scale))
        elif known is not None:
            if known.error * by <= NEAR_ENOUGH * cell:
                form = known
            elif primitive.triangle_count() <= MOST_SIDES and is_convex(Solid.from_mesh(primitive.mesh(), "").manifold):
                form = forms.convex(primitive.mesh().corners)
            elif known.error * by <= AT_MOST * cell:
                form = known
    if form is None:
        form = sampled(part, np.ones(3) if even else scale, cell / by, (reach + 3 * cell) / by)
    return tuple(Placed(form, matrix) for matrix in standing(part, rigid))


def _check_radius(radius: float, most: float) -> None:
    """Raises MeshError for a radius that is larger than all that it runs together."""
    if radius > most:
        raise MeshError(f"blend must be at most {most:.4g} mm, the longest side of what it runs together")
