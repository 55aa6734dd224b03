"""The mending plan: the steps that change least, in order, each only while something is wrong, and what they did."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.bodies import bridge, keep_largest
from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.draw_apart import draw_apart
from noble_clay.core.mend.drop_crumbs import drop_crumbs
from noble_clay.core.mend.drop_inner import drop_inner
from noble_clay.core.mend.drop_useless import drop_useless
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.mend_shells import crossed_shells, flawed_shells, mend_shells
from noble_clay.core.mend.moved import Moved
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.resurface import CELLS, resurface
from noble_clay.core.mend.seen import WORTH, Seen
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.sheets import encloses, of_shells, sheets, thicken, wall_of
from noble_clay.core.mend.steady import steady
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mend.unite import flush_faces, unite
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mend.weld import weld
from noble_clay.core.mend.zip_cracks import zip_cracks
from noble_clay.core.mesh.inspect import Inspection, inspect_mesh
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Mesh, diagonal
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.written import as_filed, in_float32, written

Progress = Callable[[float, str], None]
"""Told how far the work is, 0 to 1, and which step is on; may raise to stop it."""


@dataclass(frozen=True)
class RepairOptions:
    """What a maker may ask of mending. skip: steps to leave out, by name. weld_mm: points so near are one. crumb_mm3:
    bodies smaller are dropped. wall_mm: what a sheet gets; without it a mesh of nothing but sheets stays one.
    resolution_mm: resurface the whole at the end. bodies: what becomes of several.
    """

    skip: frozenset[str] = frozenset()
    weld_mm: float | None = None
    crumb_mm3: float | None = None
    wall_mm: float | None = None
    resolution_mm: float | None = None
    bodies: Literal["leave", "bridge", "largest"] = "leave"


@dataclass(frozen=True)
class Report:
    """What mending found, did and left. proposal: what the maker could ask for where the mesh was left open."""

    before: Inspection
    after: Inspection
    steps: tuple[Done, ...]
    moved: Moved
    seconds: float
    proposal: str | None = None
    proposal_mm: float | None = None

    def values(self) -> dict[str, Any]:
        found = {
            **self.after.values(),
            "steps": [s.values() for s in self.steps],
            "deviation_mm": self.moved.largest,
            "typical_deviation_mm": self.moved.typical,
            "before": self.before.values(),
            "seconds": self.seconds,
        }
        if self.proposal is not None:
            found["proposal"] = {"why": self.proposal, "wall_mm": self.proposal_mm}
        return found


def mend(mesh: Mesh, options: RepairOptions | None = None, progress: Progress | None = None) -> tuple[Mesh, Report]:
    """The mesh as one closed manifold skin, as far as it encloses anything. Raises MeshError for a mesh of nothing.

    A mesh with nothing wrong comes back as it is, unless bodies of it lie flush; of any other, what was sound stays as
    it was, to the bit. What is told of the result is told of its file, in which points that are one in 32 bits are one.
    """
    if len(mesh.triangles) == 0:
        raise MeshError("the mesh holds no triangles")
    started = time.perf_counter()
    work = _Work(mesh, options or RepairOptions(), progress or (lambda share, step: None))
    work.tell(0.0, "inspect")
    before = inspect_mesh(mesh)
    touching = _touching(mesh) if before.manifold else None
    if touching is not None:
        work.mesh, before = touching
    flawed = {f.kind for f in before.findings} - {"loose_bodies"}
    sheet = False
    if flawed or (before.bodies > 1 and len(flush_faces(work.mesh))):
        work, sheet = _seen_kept(work)
    if {f.kind for f in before.findings} and not sheet:
        work.take(drop_crumbs, work.options.crumb_mm3)
    if not sheet:
        _as_asked(work)
    if work.steps:
        work.take(steady, work.given)
    work.tell(0.95, "inspect")
    after = _parted(work) if work.steps else before
    moved = Moved.between(mesh, work.mesh) if work.steps else Moved(0.0, 0.0)
    said = (
        "it encloses nothing: it is a sheet without thickness, or loose triangles; give it a wall to make it solid"
        if sheet
        else None
    )
    seconds = time.perf_counter() - started
    wall = wall_of(mesh) if sheet else None
    return work.mesh, Report(before, after, tuple(work.steps), moved, seconds, said, wall)


MOST_PARTED = 3
"""Times that bodies which fall together in the file are parted; each time they are drawn back farther."""


def _touching(mesh: Mesh) -> tuple[Mesh, Inspection] | None:
    """A mesh whose bodies are apart by index only, with the points made one at which they touch, and what is wrong with
    it by that. None where nothing is.
    """
    filed = as_filed(mesh)
    if filed is mesh:
        return None
    found = inspect_mesh(filed)
    return None if found.manifold else (filed, found)


def _parted(work: _Work) -> Inspection:
    """What is wrong with the mended mesh, as its file has it. What falls together there is made one, or, where that
    makes an edge or a point of several bodies, parted; what crosses there by the rounding is drawn apart or patched;
    what then has its corners in a line is turned.
    """
    for times in range(MOST_PARTED):
        if as_filed(work.mesh) is not work.mesh:
            # What closes up there goes first: of that, making points one would leave folds.
            work.mesh = as_filed(written(work.mesh, np.zeros(len(work.mesh.triangles), dtype=np.int64)).mesh)
            work.take(drop_useless)
            if work.take(separate, None, 4.0**times, True):
                work.take(orient)
                work.take(drop_crumbs, work.options.crumb_mm3)
        rounded = in_float32(work.mesh)
        found = inspect_mesh(rounded)
        kinds = {f.kind for f in found.findings}
        before, work.mesh = work.mesh, rounded
        changed = "self_intersections" in kinds and (_patched(work) or work.take(resurface, judged=True))
        changed = changed or ("degenerate_faces" in kinds and work.take(turn_slivers))
        if not changed:
            work.mesh = before
            return found if as_filed(rounded) is rounded else inspect_mesh(as_filed(rounded))
    return inspect_mesh(as_filed(in_float32(work.mesh)))


@dataclass
class _Work:
    """The mesh on its way, and the steps so far."""

    mesh: Mesh
    options: RepairOptions
    tell: Progress
    steps: list[Done] = field(default_factory=list)
    resisted: set[int] = field(default_factory=set)
    """Tangles that could not be patched, as `patch_over` knows them."""
    walled: bool = False
    """Whether all that was open got a wall."""

    def __post_init__(self) -> None:
        self.given = self.mesh

    @cached_property
    def seen(self) -> Seen:
        """What can be seen of the mesh as it was given."""
        return Seen.of(self.given)

    def take(self, step: Callable[..., tuple[Mesh, Done]], *more: Any, judged: bool = False) -> bool:
        """Run a step unless the maker left it out; whether it changed anything. One of `JUDGED`, or one to be judged,
        is not taken where it would lose what can be seen.
        """
        found = self.run(step, *more)
        return found is not None and self.put(*found, judged or step in JUDGED)

    def run(self, step: Callable[..., tuple[Mesh, Done]], *more: Any) -> tuple[Mesh, Done] | None:
        """What a step makes of the mesh; None where the maker left it out."""
        name = step.__name__
        if name in self.options.skip:
            return None
        self.tell(min(0.9, 0.1 + 0.05 * len(self.steps)), name)
        return step(self.mesh, *more)

    def put(self, mesh: Mesh, done: Done, judged: bool) -> bool:
        """Take what a step made, if it changed anything and, where it is judged, loses nothing that can be seen."""
        if not done.count or (judged and self._loses_with(mesh)):
            return False
        self.mesh = mesh
        self.steps.append(done)
        return True

    def _loses_with(self, mesh: Mesh) -> bool:
        return self.seen.kept_by(mesh) < self.seen.kept_by(self.mesh) - WORTH


JUDGED = (drop_inner, untangle, patch_over)
"""Steps that take surface away by a judgement of what lies inside, which bodies in contact can lead astray."""


SEEN = 0.97
"""The share of what can be seen of a mesh that mending it is to keep, where any way does."""


def _seen_kept(work: _Work) -> tuple[_Work, bool]:
    """The mesh mended, and whether it was left as a sheet. Where lids swallow what can be seen through openings, all
    that is open gets a wall instead, if that keeps clearly more.
    """
    other = replace(work, steps=[])
    sheet = not _mended(work)
    if sheet or work.walled or Topology(work.given).closed_shells.all():
        return work, sheet
    kept = work.seen.kept_by(work.mesh)
    if kept >= SEEN:
        return work, False
    _mended(other, walls=True)
    better = not _is_flawed(other.mesh) and work.seen.kept_by(other.mesh) > kept + WORTH
    return (other if better else work), False


def _mended(work: _Work, walls: bool = False) -> bool:
    """Everything but crumbs and options. Returns False for a mesh that encloses nothing, and gets no wall. walls: all
    that is open gets one, and nothing is resurfaced: walls are thinner than that can tell.
    """
    if work.options.weld_mm is not None:
        work.take(weld, work.options.weld_mm)
    work.take(drop_useless)
    if len(Topology(work.mesh).open_halves):
        work.take(zip_cracks)
        work.take(drop_useless)
    work.take(turn_slivers)
    work.take(orient)
    work.take(drop_crumbs, work.options.crumb_mm3)
    work.take(drop_inner)
    if work.take(separate, None, 0.0, True):
        work.take(orient)
    if not _bodies_of_sheets(work, walls):
        return False
    work.take(close_holes)
    work.take(separate)
    work.take(orient)
    if not walls and _all_tangled(work.mesh):
        _built_anew_at_once(work)
    work.take(mend_shells)
    if work.take(unite) and _only_within_bodies(work.mesh):
        _patched(work)  # hairs that the kernel left where faces met at a hair's angle
    if work.take(draw_apart) and work.take(unite):  # bodies that still met
        work.take(draw_apart)
    if work.take(untangle):  # what could not be united exactly
        work.take(separate)
        work.take(close_holes)
        work.take(drop_crumbs, work.options.crumb_mm3)  # chips of the cutting
    _last_flaws_mended(work)
    if work.take(turn_slivers):
        _patched(work)
    work.take(orient)
    if not walls and _is_flawed(work.mesh):
        _built_anew(work)
    return True


def _all_tangled(mesh: Mesh) -> bool:
    return len(known_crossings(mesh)) > max(TANGLED * len(mesh.triangles), MANY)


TANGLED, MANY = 1.0, 10_000
"""A mesh is tangled all over in which so many pairs cross for each of its triangles, and more than the last number."""


def _built_anew_at_once(work: _Work) -> None:
    """The whole resurfaced, if that keeps what can be seen: else untangling it would take minutes, mostly in vain."""
    found = work.run(resurface)
    if found is not None and work.seen.kept_by(found[0]) >= SEEN:
        work.put(*found, judged=False)


def _last_flaws_mended(work: _Work) -> None:
    """Where few edges, rims and crossings are left, each by itself."""
    for _ in range(MOST_ROUNDS):
        changed = work.take(separate, None, 1.0, True)
        changed |= work.take(close_holes, None, True)
        if changed:
            work.take(orient)
        _patched(work)
        if not _is_flawed(work.mesh) or not (work.take(untangle) or changed):
            break


MOST_ROUNDS = 3

FEW = 60
"""Pairs that are patched one by one before any are drawn apart together."""


def _patched(work: _Work) -> bool:
    """What crosses to within a hair drawn apart, and the rest patched over; whether that changed anything."""
    changed = len(known_crossings(work.mesh)) > FEW and work.take(draw_apart)
    while work.take(patch_over, work.resisted):
        changed = True
        if not len(known_crossings(work.mesh)):
            break
        parted = work.take(separate, None, 1.0, True)  # an edge shared by four holds many pairs
        if parted:
            work.take(orient)
        if not (work.take(draw_apart) or parted):
            break
    return changed


def _only_within_bodies(mesh: Mesh) -> bool:
    """Whether what crosses is of one body each time."""
    return len(crossed_shells(mesh)) == len(known_crossings(mesh))


def _built_anew(work: _Work) -> None:
    """The whole resurfaced: with smaller cells where it would lose what can be seen, if it closes at those."""
    plain = work.run(resurface)
    if plain is None or work.put(*plain, judged=True):
        return
    own = diagonal(work.mesh.vertices) / CELLS
    finer = max(own / 2, math.sqrt(2 * areas(work.mesh).sum() / MOST_TRIANGLES))
    if finer < LITTLE_FINER * own:
        with suppress(MeshError):
            if work.take(resurface, finer):
                return
    work.put(*plain, judged=False)


MOST_TRIANGLES, LITTLE_FINER = 150_000, 0.8
"""About how many triangles a skin of smaller cells may have, each of half a cell's area; and which cells are not small
enough to be worth it.
"""


def _is_flawed(mesh: Mesh) -> bool:
    return bool(flawed_shells(mesh).any() or (Topology(mesh).faces_per_edge > 2).any())


def _bodies_of_sheets(work: _Work, walls: bool) -> bool:
    """Sheets get a wall, or, in a mesh that has bodies too, are dropped where they lie inside one. False where there is
    nothing but sheets that enclose nothing, and the maker asks for no wall.
    """
    open_shells = ~Topology(work.mesh).closed_shells
    thin = open_shells if walls else sheets(work.mesh)
    if not thin.any():
        return True
    work.walled = bool((thin == open_shells).all())
    wall = work.options.wall_mm
    if not walls and thin.all() and wall is None and not encloses(work.mesh):
        return False
    work.take(thicken, of_shells(work.mesh, thin), wall or wall_of(work.mesh))
    return True


def _as_asked(work: _Work) -> None:
    if work.options.bodies == "bridge":
        work.take(bridge)
    elif work.options.bodies == "largest":
        work.take(keep_largest)
    if work.options.resolution_mm is not None:
        work.take(resurface, work.options.resolution_mm)
