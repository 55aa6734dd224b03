"""A patch for one hole: flat where its rim is, else the least surface that its points span, else smooth.

P. Liepa, "Filling holes in meshes", 2003: the triangulation of least area by dynamic programming, made finer, then
faired so that it runs on as the surface around it does (M. Botsch and L. Kobbelt, "An intuitive framework for
real-time freeform modeling", 2004: the bi-Laplacian with cotangent weights).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from manifold3d import triangulate

from noble_clay.core.loops import compiled
from noble_clay.core.mend.facets import with_lines
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import SOME

MOST_SPANNED = 250
"""Points of a rim that the triangulation of least area takes; it takes time with their cube."""

MOST_POINTS = 4_000
"""Points that a smooth patch is given at most."""

FAIRING_ROUNDS = 2


def loop_normal(points: Floats) -> Floats:
    """(3,) unit normal of a closed polygon (n, 3) by Newell's method; zero when it encloses no area."""
    total = loop_area(points)
    length = np.linalg.norm(total)
    found: Floats = total / length if length > 1e-12 * np.ptp(points, axis=0).max() ** 2 else np.zeros(3)
    return found


def loop_area(points: Floats) -> Floats:
    """(3,) vector area of a closed polygon (n, 3), mm²."""
    middle = points - points.mean(axis=0)
    found: Floats = np.cross(middle, np.roll(middle, -1, axis=0)).sum(axis=0) / 2
    return found


def seen_flat(points: Floats) -> Floats | None:
    """(n, 2): a polygon seen against its normal, counter-clockwise; None when it encloses no area."""
    normal = loop_normal(points)
    if not normal.any():
        return None
    side = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    return np.column_stack([points @ side, points @ np.cross(normal, side)])


def flat_patch(points: Floats) -> Ints | None:
    """(n - 2, 3) triangles of a polygon (n, 3) that is simple when seen against its normal; None of any other."""
    flat = seen_flat(points)
    if flat is None:
        return None
    try:
        found = np.array(triangulate([flat]), dtype=np.int64).reshape(-1, 3)
    except (ValueError, RuntimeError):
        return None
    return found if len(found) == len(points) - 2 and _covers(flat, found) else None


def _covers(flat: Floats, triangles: Ints) -> bool:
    """Whether the triangles are all turned one way and together as large as the polygon: then it is simple."""
    double = _areas(flat, triangles)
    x, y = flat.T
    whole = float(x @ np.roll(y, -1) - y @ np.roll(x, -1))
    return bool(whole > 0 and double.min() > -1e-9 * whole and abs(double.sum() - whole) < 1e-6 * whole)


def spanned_patch(points: Floats) -> Ints | None:
    """(n - 2, 3) triangles over a polygon's own points (n, 3), together as small as can be; None for too many."""
    if not 3 <= len(points) <= MOST_SPANNED:
        return None
    found: Ints = _least_area(np.ascontiguousarray(points))
    return found


@compiled
def _least_area(points: Any) -> Any:
    number = len(points)
    cost = np.zeros((number, number))
    middle = np.zeros((number, number), dtype=np.int64)
    for span in range(2, number):
        for i in range(number - span):
            k = i + span
            cost[i, k] = np.inf
            for m in range(i + 1, k):
                ux, uy, uz = points[m, 0] - points[i, 0], points[m, 1] - points[i, 1], points[m, 2] - points[i, 2]
                vx, vy, vz = points[k, 0] - points[i, 0], points[k, 1] - points[i, 1], points[k, 2] - points[i, 2]
                x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
                total = cost[i, m] + cost[m, k] + np.sqrt(x * x + y * y + z * z)
                if total < cost[i, k]:
                    cost[i, k] = total
                    middle[i, k] = m
    found = np.empty((number - 2, 3), dtype=np.int64)
    stack = np.empty((2 * number, 2), dtype=np.int64)
    stack[0, 0], stack[0, 1] = 0, number - 1
    size, count = 1, 0
    while size:
        size -= 1
        i, k = stack[size, 0], stack[size, 1]
        if k - i < 2:
            continue
        m = middle[i, k]
        found[count, 0], found[count, 1], found[count, 2] = i, m, k
        count += 1
        stack[size, 0], stack[size, 1] = i, m
        stack[size + 1, 0], stack[size + 1, 1] = m, k
        size += 2
    return found


def smooth_patch(mesh: Mesh, loop: Ints) -> tuple[Floats, Ints] | None:
    """New points (k, 3) and triangles for a hole, running on as the surface around it does; None where it cannot.

    loop: (n,) vertices of the mesh along the rim, in the direction in which the patch runs. In the triangles, vertices
    from len(mesh.vertices) on are the new points.
    """
    points = mesh.vertices[loop]
    flat = seen_flat(points)
    if flat is None:
        return None
    edges = np.linalg.norm(points - np.roll(points, -1, axis=0), axis=1)
    inner = _points_within(flat, float(edges.mean()))
    if len(inner) == 0 or len(inner) > MOST_POINTS:
        return None
    found = _triangulated(flat, inner)
    if found is None:
        return None
    number = len(mesh.vertices)
    ids = np.concatenate([loop, number + np.arange(len(inner))])
    triangles = ids[found]
    whole = np.concatenate([mesh.vertices, _guess(points, flat, inner)])
    faired = _faired(Mesh(whole, np.concatenate([_near(mesh, loop), triangles])), ids[len(loop) :])
    return None if faired is None else (faired, triangles)


def _points_within(flat: Floats, step: float) -> Floats:
    """(k, 2) points inside a polygon (n, 2), about `step` apart, none near its rim."""
    low, high = flat.min(axis=0), flat.max(axis=0)
    if np.prod((high - low) / step + 1) > 8 * MOST_POINTS:
        step = float(np.sqrt(np.prod(high - low) / (4 * MOST_POINTS)))
    rows = np.arange(low[1], high[1], step * np.sqrt(0.75))
    columns = np.arange(low[0], high[0], step)
    x, y = np.meshgrid(columns, rows)
    x[1::2] += step / 2  # an even lattice of triangles
    every = np.column_stack([x.ravel(), y.ravel()])
    if len(every) == 0:
        return every
    from scipy.spatial import cKDTree

    dense = np.concatenate([flat + (np.roll(flat, -1, axis=0) - flat) * t for t in (0.0, 0.25, 0.5, 0.75)])
    every = every[cKDTree(dense).query(every)[0] > 0.55 * step]
    return every[_inside(flat, every)]


def _inside(flat: Floats, points: Floats) -> Any:
    """(k,) whether points (k, 2) lie in a polygon (n, 2): an odd number of its sides lies to their right."""
    found = np.zeros(len(points), dtype=bool)
    for a, b in zip(flat, np.roll(flat, -1, axis=0), strict=True):
        spans = (a[1] > points[:, 1]) != (b[1] > points[:, 1])
        across = b[1] - a[1] if b[1] != a[1] else 1.0
        found ^= spans & (points[:, 0] < a[0] + (points[:, 1] - a[1]) * (b[0] - a[0]) / across)
    return found


def _triangulated(flat: Floats, inner: Floats) -> Ints | None:
    """Triangles over a polygon's points and those within it; None when a side of the polygon would be missing."""
    from scipy.spatial import Delaunay

    every = np.concatenate([flat, inner])
    number = len(flat)
    sides = np.column_stack([np.arange(number), (np.arange(number) + 1) % number])
    found = Delaunay(every).simplices.astype(np.int64)
    found = with_lines(every, np.where((_areas(every, found) < 0)[:, None], found[:, ::-1], found), sides)
    least = 1e-12 * np.ptp(flat, axis=0).max() ** 2
    found = found[_inside(flat, every[found].mean(axis=1)) & (_areas(every, found) > least)]
    # Every side once, along the polygon; every other edge once each way.
    codes = found.reshape(-1) * len(every) + np.roll(found, -1, axis=1).reshape(-1)
    rim = sides @ [len(every), 1]
    if len(distinct(codes)) != len(codes) or not np.isin(rim, codes).all():
        return None
    inside = codes[~np.isin(codes, rim)]
    back = (inside % len(every)) * len(every) + inside // len(every)
    return found if np.isin(back, codes).all() else None


def _areas(points: Floats, triangles: Ints) -> Floats:
    """(t,) twice the area of triangles over points (n, 2), negative when clockwise."""
    a, b, c = points[triangles].transpose(1, 0, 2)
    found: Floats = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    return found


def _guess(points: Floats, flat: Floats, inner: Floats) -> Floats:
    """(k, 3): the inner points lifted to about where the rim is, by the inverse square of the distance to it."""
    away = np.maximum(((inner[:, None, :] - flat) ** 2).sum(axis=2), SOME)
    weight = 1 / away
    found: Floats = (weight @ points) / weight.sum(axis=1, keepdims=True)
    return found


def _near(mesh: Mesh, loop: Ints, rings: int = 2) -> Ints:
    """The triangles within `rings` of some vertices."""
    touched = np.zeros(len(mesh.vertices), dtype=bool)
    touched[loop] = True
    for _ in range(rings):
        near = mesh.triangles[touched[mesh.triangles].any(axis=1)]
        touched[near] = True
    return near


def _faired(mesh: Mesh, free: Ints) -> Floats | None:
    """(k, 3) places of the free vertices at which the surface is biharmonic, all others held; None where there are
    none. Cotangent weights, those of the second round from the surface that the first one found.
    """
    import igl

    used, local = np.unique(mesh.triangles, return_inverse=True)
    triangles = np.ascontiguousarray(local.reshape(-1, 3))
    index = np.searchsorted(used, free)
    held = np.setdiff1d(np.arange(len(used)), index)
    points = np.ascontiguousarray(mesh.vertices[used])
    for _ in range(FAIRING_ROUNDS):
        try:
            points = np.ascontiguousarray(igl.harmonic(points, triangles, held, points[held], 2))
        except RuntimeError:
            return None
    found: Floats = points[index]
    return found if np.isfinite(found).all() else None
