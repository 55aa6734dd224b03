"""Of a surface cut up along its own crossings, the patches that lie between outside and inside.

A. Jacobson, L. Kavan and O. Sorkine-Hornung, "Robust inside-outside segmentation using generalized winding numbers",
2013: at a patch of the skin the winding number goes from below a half, in front of it, to above a half behind it.
"""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.winding import Winding

ASKED = 8
"""Triangles of every patch, its largest, that are asked what lies in front of and behind them."""

UNSURE = 1e-6
"""What a triangle's word weighs beside others' where the winding number does not go up by about one behind it: another
lies on it, nearer than the step.
"""

STEP = 1e-6
"""How far in front and behind, as a share of the mesh's size; less where triangles are small."""


def skin(cut: Mesh, around: Mesh, lobes: bool = False) -> Mesh:
    """The triangles of `cut` that are of the skin of what `around` goes around at least once.

    lobes: also of what it goes around the other way, as where a surface runs through itself to its far side; their
    triangles are turned over.
    """
    patch, before, behind = sides_of_patches(cut, around)
    out = (before < 0.5) & (behind > 0.5)
    if not lobes:
        return cut.keep(out[patch])
    out &= before > -0.5
    turned = (before < -0.5) & (np.abs(behind) < 0.5)
    triangles = np.where(turned[patch][:, None], cut.triangles[:, ::-1], cut.triangles)
    return Mesh(cut.vertices, triangles).keep((out | turned)[patch])


def sides_of_patches(cut: Mesh, around: Mesh) -> tuple[Ints, Floats, Floats]:
    """(m,) the patch of every triangle, and (patches,) the winding number of `around` in front of each and behind it:
    the area-weighted median of what its largest triangles say.
    """
    number, patch = patches(cut)
    asked, owner = _largest(areas(cut), patch)
    middles, out = cut.corners[asked].mean(axis=1), normals(cut)[asked]
    size = diagonal(around.vertices)
    weight = areas(cut)[asked]
    step = np.minimum(STEP * size, 0.05 * np.sqrt(weight))[:, None] * out
    both = np.concatenate([middles + step, middles - step])
    before, behind = np.split(Winding(around).numbers(both), 2)
    weight = np.where(np.abs(behind - before - 1) < 0.5, weight, UNSURE * weight)
    return patch, _medians(before, weight, owner, number), _medians(behind, weight, owner, number)


def _medians(values: Floats, weights: Floats, owner: Ints, number: int) -> Floats:
    """(number,): of each owner's values the weighted median."""
    order = np.lexsort((values, owner))
    values, weights, owner = values[order], weights[order], owner[order]
    total = np.bincount(owner, weights=weights, minlength=number)
    before = np.concatenate([[0.0], np.cumsum(total)])[:-1]
    so_far = np.cumsum(weights) - before[owner]
    past = so_far >= total[owner] / 2 * (1 - 1e-12)
    found = np.zeros(number)
    found[owner[past][::-1]] = values[past][::-1]
    return found


def patches(mesh: Mesh) -> tuple[int, Ints]:
    """How many, and for every triangle (m,) which: those that hang together through edges of exactly two, turned alike,
    none of which lies along a crossing.
    """
    halves, agree = Topology(mesh).pairs
    number, label = connected_components(len(mesh.triangles), np.ascontiguousarray(halves[agree] // 3))
    return int(number), label


def _largest(sizes: Floats, patch: Ints) -> tuple[Ints, Ints]:
    """The `ASKED` largest triangles of every patch, and the patch of each."""
    order = np.lexsort((-sizes, patch))
    owner = patch[order]
    starts = np.flatnonzero(np.concatenate([[True], owner[1:] != owner[:-1]]))
    rank = np.arange(len(order)) - np.repeat(starts, np.diff(np.append(starts, len(order))))
    return order[rank < ASKED], owner[rank < ASKED]
