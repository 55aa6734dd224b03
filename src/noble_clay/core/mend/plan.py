"""The mending plan: the steps that change least, in order, each only while something is wrong, and what they did."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.bodies import bridge, keep_largest
from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.drop_crumbs import drop_crumbs
from noble_clay.core.mend.drop_inner import drop_inner
from noble_clay.core.mend.drop_useless import drop_useless
from noble_clay.core.mend.mend_shells import flawed_shells, mend_shells
from noble_clay.core.mend.moved import Moved
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.resurface import resurface
from noble_clay.core.mend.seen import Seen
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.sheets import encloses, of_shells, sheets, thicken, wall_of
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mend.unite import unite
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mend.weld import weld
from noble_clay.core.mend.zip_cracks import zip_cracks
from noble_clay.core.mesh.inspect import Inspection, inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.written import as_filed

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

    A mesh with nothing wrong comes back as it is; of any other, what was sound stays as it was, to the bit. What is
    told of the result is told of its file, in which points that are one in 32 bits are one.
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
    if flawed:
        work, sheet = _seen_kept(work)
    if {f.kind for f in before.findings} and not sheet:
        work.take(drop_crumbs, work.options.crumb_mm3)
    if not sheet:
        _as_asked(work)
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
    makes an edge or a point of several bodies, parted.
    """
    for times in range(MOST_PARTED):
        filed = as_filed(work.mesh)
        if filed is work.mesh:
            break
        work.mesh = filed
        work.take(drop_useless)
        work.take(separate, None, 4.0**times)
    return inspect_mesh(as_filed(work.mesh))


@dataclass
class _Work:
    """The mesh on its way, and the steps so far."""

    mesh: Mesh
    options: RepairOptions
    tell: Progress
    steps: list[Done] = field(default_factory=list)

    def take(self, step: Callable[..., tuple[Mesh, Done]], *more: Any) -> bool:
        """Run a step unless the maker left it out; whether it changed anything."""
        name = step.__name__
        if name in self.options.skip:
            return False
        self.tell(min(0.9, 0.1 + 0.05 * len(self.steps)), name)
        mesh, done = step(self.mesh, *more)
        if done.count:
            self.mesh = mesh
            self.steps.append(done)
        return done.count > 0


SEEN = 0.97
"""The share of what can be seen of a mesh that mending it is to keep, where any way does."""

WORTH_WALLS = 0.02
"""So much more of it must be kept by walls for them to be taken: they change more than lids do."""


def _seen_kept(work: _Work) -> tuple[_Work, bool]:
    """The mesh mended, and whether it was left as a sheet. Where lids swallow what can be seen through openings, all
    that is open gets a wall instead, if that keeps clearly more.
    """
    given = work.mesh
    other = replace(work, steps=[])
    sheet = not _mended(work)
    if sheet or Topology(given).closed_shells.all():
        return work, sheet
    seen = Seen.of(given)
    kept = seen.kept_by(work.mesh)
    if kept >= SEEN:
        return work, False
    _mended(other, walls=True)
    better = not flawed_shells(other.mesh).any() and seen.kept_by(other.mesh) > kept + WORTH_WALLS
    return (other if better else work), False


def _mended(work: _Work, walls: bool = False) -> bool:
    """Everything but crumbs and options. Returns False for a mesh that encloses nothing, and gets no wall. walls: all
    that is open gets one.
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
    if work.take(separate):
        work.take(orient)
    if not _bodies_of_sheets(work, walls):
        return False
    if work.take(close_holes):
        work.take(separate)
    work.take(orient)
    work.take(mend_shells)
    work.take(unite)
    if work.take(untangle):  # what could not be united exactly
        work.take(separate)
        work.take(close_holes)
    work.take(patch_over)
    work.take(turn_slivers)
    work.take(orient)
    if flawed_shells(work.mesh).any() or (Topology(work.mesh).faces_per_edge > 2).any():
        work.take(resurface)
    return True


def _bodies_of_sheets(work: _Work, walls: bool) -> bool:
    """Sheets get a wall, or, in a mesh that has bodies too, are dropped where they lie inside one. False where there is
    nothing but sheets that enclose nothing, and the maker asks for no wall.
    """
    thin = ~Topology(work.mesh).closed_shells if walls else sheets(work.mesh)
    if not thin.any():
        return True
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
