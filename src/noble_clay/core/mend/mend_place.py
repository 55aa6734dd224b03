"""Mending a single flaw, or all of one kind, and leaving everything else as it is."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.close_holes import close_holes, open_loops
from noble_clay.core.mend.draw_apart import draw_apart
from noble_clay.core.mend.drop_crumbs import drop_crumbs
from noble_clay.core.mend.drop_useless import drop_useless
from noble_clay.core.mend.mend_shells import mend_shells
from noble_clay.core.mend.moved import Moved
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.patch_over import patch_over, taken_apart
from noble_clay.core.mend.places import Flaw, flaws
from noble_clay.core.mend.plan import Progress, Report
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mend.unite import unite
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mend.zip_cracks import WIDTHS, zip_cracks
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import shell_sums, signed_volumes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.severity import MeshFlaw
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.topology import Topology

Stepped = Iterator[tuple[Mesh, Done]]
OPEN = "close the cracks first: a body that is open has no inside, so there is no telling which of its walls to keep"


def mend_place(mesh: Mesh, kind: MeshFlaw, number: int | None, progress: Progress | None = None) -> tuple[Mesh, Report]:
    """The mesh with one flaw mended: the one of that number among `flaws`, or, without a number, all of the kind.

    Raises MeshError where there is no such flaw, or it cannot be mended by itself.
    """
    started = time.perf_counter()
    tell = progress or (lambda share, step: None)
    tell(0.0, "inspect")
    steps: list[Done] = []
    found = mesh
    for now, done in _of_kind(mesh, kind) if number is None else _of_place(mesh, kind, number):
        tell(min(0.9, 0.2 + 0.1 * len(steps)), done.step)
        if done.count:
            found = now
            steps.append(done)
    if not steps:
        raise MeshError("this cannot be mended by itself; mend the whole mesh")
    tell(0.95, "inspect")
    moved = Moved.between(mesh, found)
    report = Report(inspect_mesh(mesh), inspect_mesh(found), tuple(steps), moved, time.perf_counter() - started)
    return found, report


def _of_kind(mesh: Mesh, kind: MeshFlaw) -> Stepped:
    """Steps that look for such flaws everywhere, one after the other."""
    if kind == "self_intersections" and not Topology(mesh).closed_shells.all():
        raise MeshError(OPEN)
    for step in KIND_STEPS[kind]:
        mesh, done = step(mesh)
        yield mesh, done


def _of_place(mesh: Mesh, kind: MeshFlaw, number: int) -> Stepped:
    known = flaws(mesh)
    if number >= len(known) or known[number].kind != kind:
        raise MeshError("this flaw is not there any more")
    flaw = known[number]
    if kind == "duplicate_faces":
        yield _without(mesh, flaw.where), Done("drop_useless", len(flaw.where))
        return
    single, done = drop_useless(mesh)
    if done.count:
        yield single, done
    yield from PLACE_STEPS[kind](single, flaw)


def _without(mesh: Mesh, faces: Ints) -> Mesh:
    keep = np.ones(len(mesh.triangles), dtype=bool)
    keep[faces] = False
    return mesh.keep(keep)


def _close(mesh: Mesh, flaw: Flaw) -> Stepped:
    """A crack is zipped together where its sides run along each other, what stays open of it is closed."""
    rim = mesh.vertices[flaw.where]
    margin = WIDTHS[-1] * diagonal(mesh.vertices)
    box = np.array([[rim.min(axis=0) - margin, rim.max(axis=0) + margin]])
    mesh, done = zip_cracks(mesh, within=box)
    yield mesh, done
    own = {point.tobytes() for point in rim}
    loops = open_loops(Topology(mesh).open_half_edges)
    yield close_holes(mesh, [loop for loop in loops if _share(mesh.vertices[loop], own) >= 0.5])


def _share(points: Floats, own: set[bytes]) -> float:
    """How many of some points (n, 3) are among others, 0 to 1."""
    return sum(p.tobytes() in own for p in points) / len(points)


def _turn(mesh: Mesh, flaw: Flaw) -> Stepped:
    triangles = mesh.triangles.copy()
    triangles[flaw.where] = triangles[flaw.where][:, ::-1]
    yield Mesh(mesh.vertices, triangles), Done("orient", len(flaw.where))


def _part(mesh: Mesh, flaw: Flaw) -> Stepped:
    yield separate(mesh, flaw.where)


def _sliver(mesh: Mesh, flaw: Flaw) -> Stepped:
    yield turn_slivers(mesh, flaw.where)


def _untangle(mesh: Mesh, flaw: Flaw) -> Stepped:
    """What is no deeper than hairs is taken apart there. Else the shells that the tangle is in, whole: where they end
    and begin is told by all of them.
    """
    apart, done = taken_apart(mesh, flaw.where)
    if done.count:
        yield apart, done
        return
    shell = Topology(mesh).shells[1]
    mine = np.isin(shell, shell[flaw.where])
    rest, own = mesh.keep(~mine), mesh.keep(mine)
    if not Topology(own).closed_shells.all():
        raise MeshError(OPEN)
    for step in (untangle, separate, close_holes, patch_over, orient):
        own, done = step(own)
        yield together([rest, own]), done


def _drop(mesh: Mesh, flaw: Flaw) -> Stepped:
    """A loose body, with the hollows in it."""
    shells, shell = Topology(mesh).shells
    low, high = (ends(mesh.corners[flaw.where].reshape(-1, 3), axis=0) for ends in (np.min, np.max))
    inside = np.all((mesh.corners >= low) & (mesh.corners <= high), axis=(1, 2))
    held = np.bincount(shell, weights=inside, minlength=shells) == np.bincount(shell, minlength=shells)
    gone = held & (shell_sums(shell, signed_volumes(mesh), shells) < 0)
    gone[shell[flaw.where]] = True
    yield mesh.keep(~gone[shell]), Done("drop_body", 1)


PLACE_STEPS: dict[MeshFlaw, Callable[[Mesh, Flaw], Stepped]] = {
    "open_edges": _close,
    "overshared_edges": _part,
    "pinched_vertices": _part,
    "flipped_faces": _turn,
    "inside_out_bodies": _turn,
    "degenerate_faces": _sliver,
    "self_intersections": _untangle,
    "loose_bodies": _drop,
}

KIND_STEPS: dict[MeshFlaw, tuple[Callable[[Mesh], tuple[Mesh, Done]], ...]] = {
    "open_edges": (drop_useless, zip_cracks, close_holes),
    "overshared_edges": (separate,),
    "pinched_vertices": (separate,),
    "flipped_faces": (orient,),
    "inside_out_bodies": (orient,),
    "degenerate_faces": (turn_slivers,),
    "duplicate_faces": (drop_useless,),
    "self_intersections": (mend_shells, unite, draw_apart, untangle, patch_over),
    "loose_bodies": (drop_crumbs,),
}
