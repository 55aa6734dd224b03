"""Every shell made a clean solid by itself, so that all can be united: untangled, or, where that fails, built anew."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.hold_apart import held_apart
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.resurface import CELLS, rebuilt
from noble_clay.core.mend.seen import NEAR, WORTH, Seen
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mesh.mass import areas, volume
from noble_clay.core.mesh.mesh import Ints, Mesh, diagonal
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.topology import Topology

ROUNDS, FEWER = 4, 0.8
"""Times that what untangling leaves open is closed and untangled again, as long as each time no more is wrong than such
a share of what was.
"""

FINEST, FEWEST = 480, 24
"""Cells along the whole mesh's diagonal that a shell of it is rebuilt with at most, but so many along its own at least:
three times as many as would be taken for the whole.
"""

MOST_LEFT = 0.05
"""Pairs that still cross, of as many triangles: of a shell with more nothing comes in the next round either."""

TANGLED, MANY, MOST_TANGLED = 0.6, 1_000, 10_000
"""A shell is tangled in which so many pairs cross, for each of its triangles, and many in all; where more pairs than
the last number are in such shells, untangling them would take long, and mostly in vain.
"""

ANEW = 0.97
"""The share of what can be seen of a tangled shell that building it anew is to keep, to what is near for the whole."""

LITTLE = 0.9
"""A share of a surface, with which little of it is lost: first of all of it, then of what can be seen."""


def mend_shells(mesh: Mesh) -> tuple[Mesh, Done]:
    """Untangle each shell that crosses itself or is open; resurface those that stay so. All others stay as they are."""
    flawed = flawed_shells(mesh)
    if not flawed.any():
        return mesh, Done("mend_shells", 0)
    shell, size = Topology(mesh).shells[1], diagonal(mesh.vertices)
    tangled = _tangled_shells(mesh)
    found, rebuilt = [mesh.keep(~flawed[shell])], 0
    for i in np.flatnonzero(flawed):
        own, again = _solid(mesh.keep(shell == i), size, bool(tangled[i]))
        found.append(own)
        rebuilt += again
    return together(found), Done("mend_shells", int(flawed.sum()), {"resurfaced": rebuilt})


def _tangled_shells(mesh: Mesh) -> NDArray[np.bool_]:
    """(shells,) those so tangled that they are built anew at once, if that keeps what can be seen."""
    number, shell = Topology(mesh).shells
    pairs = np.bincount(crossed_shells(mesh), minlength=number)
    tangled: NDArray[np.bool_] = pairs > np.maximum(TANGLED * np.bincount(shell, minlength=number), MANY)
    return tangled & (pairs[tangled].sum() > MOST_TANGLED)


def flawed_shells(mesh: Mesh) -> NDArray[np.bool_]:
    """(shells,) those that are open, cross themselves or do not agree with themselves."""
    topology = Topology(mesh)
    _, shell = topology.shells
    found = ~topology.closed_shells
    found[crossed_shells(mesh)] = True
    halves, agree = topology.pairs
    found[shell[halves[~agree].reshape(-1) // 3]] = True
    return found


def crossed_shells(mesh: Mesh) -> Ints:
    """(k,) for every pair of triangles that cross and are of one shell, that shell."""
    one, other = Topology(mesh).shells[1][known_crossings(mesh)].T
    found: Ints = one[one == other]
    return found


def _solid(mesh: Mesh, size: float, tangled: bool) -> tuple[Mesh, bool]:
    """One shell as a clean solid, as well as that goes, and whether it was built anew. size: mm, of the whole mesh."""
    if volume(mesh) < 0:
        found, again = _body(_turned(mesh), size, tangled)
        return _turned(found), again
    return _body(mesh, size, tangled)


def _body(mesh: Mesh, size: float, tangled: bool) -> tuple[Mesh, bool]:
    """The same for a shell turned outward."""
    anew = _anew(mesh, size) if tangled else None
    if anew is not None and Seen(Seen.of(mesh).points, NEAR * size).kept_by(anew) > ANEW:
        return anew, True
    now, clean = _untangled(mesh)
    if clean:
        if areas(now).sum() > LITTLE * areas(mesh).sum():
            return now, False
        seen = Seen.of(mesh)
        kept = seen.kept_by(now)
        if kept > LITTLE:
            return now, False
        both, clean = _untangled(mesh, lobes=True)
        if clean and seen.kept_by(both) > kept + WORTH:
            return both, False
    anew = anew or _anew(mesh, size)
    return (anew, True) if anew else (now, False)


def _anew(mesh: Mesh, size: float) -> Mesh | None:
    """A shell resurfaced; None where it does not close."""
    own = diagonal(mesh.corners.reshape(-1, 3))
    found = rebuilt(mesh, min(max(own / CELLS, size / FINEST), own / FEWEST), lobes=True)
    return found[0] if found and len(found[0].triangles) else None


def _untangled(mesh: Mesh, lobes: bool = False) -> tuple[Mesh, bool]:
    """What comes of untangling a shell, and whether nothing is left that is wrong with it."""
    now, before = mesh, np.inf
    resisted: set[int] = set()
    for _ in range(ROUNDS):
        now = untangle(now, lobes)[0]
        now = separate(close_holes(separate(now)[0], odd=True)[0], slit=True)[0]
        now = orient(patch_over(now, resisted)[0])[0]
        if len(now.triangles) == 0:
            break
        if not flawed_shells(now).any():
            return held_apart(now)
        crossed = len(known_crossings(now))
        left = crossed + len(Topology(now).open_halves)
        if left > FEWER * before or crossed > MOST_LEFT * len(now.triangles):
            break
        before = left
    return now, False


def _turned(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.triangles[:, ::-1])
