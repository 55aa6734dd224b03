"""Surfaces that go through a triangle just along one of their own edges, as a ball does whose equator lies in the top
of a box.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.cross import FIRST_ALONG, SECOND_ALONG
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Ints, Mesh


def goes_through(mesh: Mesh, pairs: Ints, how: Ints, slack: float) -> NDArray[np.bool_]:
    """(k,) in which of pairs (k, 2) of triangles, as `cross` judged them (k,), an edge of one runs along in the other
    and a triangle beyond that edge is on the other side. slack: mm.
    """
    found = np.zeros(len(pairs), dtype=bool)
    for bit, order in ((SECOND_ALONG, pairs), (FIRST_ALONG, pairs[:, ::-1])):
        which = np.flatnonzero(how & bit)
        if len(which):
            found[which] |= _is_beyond(mesh, order[which, 0], order[which, 1], slack)
    return found


def _is_beyond(mesh: Mesh, through: Ints, along: Ints, slack: float) -> NDArray[np.bool_]:
    """(k,) whether the surface of which an edge runs along in a triangle `through` (k,), that of one triangle `along`
    (k,), goes on to the other side of it.
    """
    height = _over(mesh, through[:, None], mesh.triangles[along])
    alone = np.argmax(np.abs(height), axis=1)
    apex, side = _at(mesh.triangles[along], alone), np.sign(_at(height, alone))
    ends = np.sort([_at(mesh.triangles[along], (alone + k) % 3) for k in (1, 2)], axis=0)
    # Every triangle with that edge, by the half edges that have its code.
    number = len(mesh.vertices)
    starts, nexts = mesh.triangles, np.roll(mesh.triangles, -1, axis=1)
    code = (np.minimum(starts, nexts) * number + np.maximum(starts, nexts)).reshape(-1)
    wanted = ends[0] * number + ends[1]
    halves = np.flatnonzero(np.isin(code, wanted))
    halves = halves[np.argsort(code[halves], kind="stable")]
    first, last = (np.searchsorted(code[halves], wanted, side=side) for side in ("left", "right"))
    found = np.zeros(len(through), dtype=bool)
    for k in range(int((last - first).max(initial=0))):
        some = np.flatnonzero(first + k < last)
        half = halves[first[some] + k]
        other = mesh.triangles[half // 3, (half % 3 + 2) % 3]
        over = _over(mesh, through[some], other)
        found[some] |= (other != apex[some]) & (np.abs(over) > slack) & (np.sign(over) == -side[some])
    return found


def _over(mesh: Mesh, triangles: Ints, vertices: Ints) -> NDArray[np.float64]:
    """How far vertices are over the planes of triangles, mm."""
    off = mesh.vertices[vertices] - mesh.vertices[mesh.triangles[triangles, 0]]
    found: NDArray[np.float64] = np.einsum("...i,...i->...", normals(mesh)[triangles], off)
    return found


def _at(rows: NDArray[Any], which: Ints) -> NDArray[Any]:
    """(k,) of each of the rows (k, 3) the one that `which` (k,) says."""
    found: NDArray[Any] = np.take_along_axis(rows, which[:, None], axis=1)[:, 0]
    return found
