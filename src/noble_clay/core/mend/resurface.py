"""Resurface: a closed skin of even triangles around whatever a mesh goes around, however broken it is.

The surface is where the generalized winding number w passes a half (Jacobson et al. 2013). With d the distance to the
mesh, g = (1 - 2 w) d is a continuous field: about the signed distance near the mesh, and zero, where the mesh has a
hole, on the lid that the winding number puts there. It is sampled on a narrow band about its zeros only, taken out by
marching cubes, drawn back onto the mesh, and given its sharp edges again.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.field.band import Band
from noble_clay.core.field.even import drawn_to
from noble_clay.core.field.sharp import sharpened
from noble_clay.core.mend.close_holes import close_holes, open_loops
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.half_edges import rim, unpaired
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.winding import Winding

CELLS = 160
"""Cells along the mesh's diagonal where no resolution is given."""

NEARBY = (1.0, 0.93, 1.09)
"""Shares of a resolution that are tried after each other: at one it may not close, as the lattice's points lie."""

HOLE = 4.0
"""Cells: holes no larger than a square of so many a side get a lid first, as it hardly matters which."""

MOST_LIDS = 0.25
"""Triangles in lids, as a share of the mesh's: with more, the mesh's own winding numbers are reckoned sooner."""

ON_LID = 1e-5
"""How near a lid, as a share of the mesh's size, a point is taken to lie on it."""

STEEP = 2.0
"""The field grows by at most about this much in a mm: once for the distance, once for the winding number."""


def resurface(mesh: Mesh, resolution: float | None = None) -> tuple[Mesh, Done]:
    """The skin at a resolution, mm; an empty mesh where the winding number nowhere passes a half. Without a resolution,
    at one that fits the mesh; as it was where none about that does.

    Raises MeshError when the resolution asked for is too fine, or the lattice does not close at it.
    """
    if len(mesh.triangles) == 0:
        return mesh, Done("resurface", 0)
    if resolution is not None:
        return _skin(mesh, resolution)
    return rebuilt(mesh, diagonal(mesh.corners.reshape(-1, 3)) / CELLS) or (mesh, Done("resurface", 0))


def rebuilt(mesh: Mesh, cell: float, lobes: bool = False) -> tuple[Mesh, Done] | None:
    """The skin at about that resolution, mm; None where it closes at none that is near.

    lobes: also around what the mesh goes around the other way, as where a surface runs through itself to its far side.
    """
    for share in NEARBY:
        try:
            return _skin(mesh, share * cell, lobes)
        except MeshError:
            continue
    return None


def _skin(mesh: Mesh, cell: float, lobes: bool = False) -> tuple[Mesh, Done]:
    low, high = mesh.corners.min(axis=(0, 1)) - 2.5 * cell, mesh.corners.max(axis=(0, 1)) + 2.5 * cell
    mesh = _little_holes_shut(mesh, HOLE * cell)
    distance = MeshDistance(mesh)
    sampled = _sampled_closed if distance.winding.is_closed else _sampled
    band, values = sampled(distance, low, high, cell, lobes)
    if len(band.points) == 0:
        return Mesh.empty(), Done("resurface", 0)
    skin = band.surface(values)
    if len(skin.triangles) == 0:
        return skin, Done("resurface", 0)
    if unpaired(skin.triangles, len(skin.vertices)).any():  # where rims lie close the field is steeper
        skin = close_holes(skin)[0]
    if unpaired(skin.triangles, len(skin.vertices)).any():
        raise MeshError(f"resolution {cell:.3g} mm does not close here; take a finer or coarser one")
    done = Done("resurface", len(skin.triangles), {"resolution_mm": cell})
    edged, held = sharpened(skin, _normals(skin, distance, cell), cell, low)
    for plain, on_edges in ((edged, held), (skin, np.zeros(0, dtype=np.int64))):
        found = drawn_to(plain, on_edges, distance, within=cell)
        if len(known_crossings(found)) == 0:
            return found, done
    return skin, done  # where it is drawn to does not hold a skin of this resolution


def _little_holes_shut(mesh: Mesh, most: float) -> Mesh:
    """The mesh with a lid over every hole for which that is no larger than a square of `most`, mm, a side."""
    points, lids, hole = _lids(mesh)
    if len(lids) == 0:
        return mesh
    little = np.bincount(hole, weights=areas(Mesh(points, lids))) <= most**2
    return Mesh(points, np.concatenate([mesh.triangles, lids[little[hole]]])).compact()


def _lids(mesh: Mesh) -> tuple[Floats, Ints, Ints]:
    """A fan over every hole, from the middle of its rim: points, the mesh's before those of its own; triangles (k, 3)
    that together with the mesh's leave no rim; and (k,) of which hole each is.
    """
    edges = rim(mesh.triangles, len(mesh.vertices))
    used, ends = np.unique(edges, return_inverse=True)
    ends = ends.reshape(-1, 2)
    number, hole = connected_components(len(used), np.ascontiguousarray(ends))
    places = mesh.vertices[used]
    low, high = np.full((number, 3), np.inf), np.full((number, 3), -np.inf)
    np.minimum.at(low, hole, places)
    np.maximum.at(high, hole, places)
    of: Ints = hole[ends[:, 0]]
    points = np.concatenate([mesh.vertices, (low + high) / 2])
    return points, np.column_stack([edges[:, 1], edges[:, 0], len(mesh.vertices) + of]), of


def _spans(mesh: Mesh) -> Ints:
    """Triangles (k, 3) over every hole, that together with the mesh's leave no rim: each over the ends of a stretch of
    the rim and its middle, and so on in both halves. They are as small as the stretch that they span, and only few
    reach across: of fans the sum over all that lie together would have to be taken one by one.
    """
    loops = open_loops(rim(mesh.triangles, len(mesh.vertices)))
    return np.concatenate([np.zeros((0, 3), dtype=np.int64), *(loop[_halved(len(loop))] for loop in loops)])


@cache
def _halved(number: int) -> Ints:
    """(number - 2, 3) the triangles of a loop of so many points."""
    found, stretches = [], [(0, number - 1)]
    while stretches:
        first, last = stretches.pop()
        if last - first > 1:
            middle = (first + last) // 2
            found.append((first, middle, last))
            stretches += [(first, middle), (middle, last)]
    return np.array(found)


def _sampled(distance: MeshDistance, low: Floats, high: Floats, cell: float, lobes: bool) -> tuple[Band, Floats]:
    """The points of a lattice about the zeros of the field, and its values there. With lids over its holes the mesh
    would have whole winding numbers, alike all over a region: so its own are those less what the lids have.
    """

    def field(points: Floats) -> Floats:
        away, _ = distance.unsigned_distance(points)
        found: Floats = _side(distance.winding.numbers(points), lobes) * away
        return found

    band = Band.where([(lambda p: field(p) / STEEP, -cell / 2, cell / 2)], low, high, cell)
    if len(band.points) == 0:
        return band, np.zeros(0)
    mesh = distance.mesh
    over = _spans(mesh)
    if len(over) > MOST_LIDS * len(mesh.triangles):
        return band, field(band.points)
    lids = Mesh(mesh.vertices, over).compact()
    whole = Winding(Mesh(mesh.vertices, np.concatenate([mesh.triangles, over])))
    away, _ = distance.unsigned_distance(band.points)
    off_lids, _ = MeshDistance(lids).unsigned_distance(band.points)
    around = _alike(band, np.minimum(away, off_lids), cell, whole) - Winding(lids).numbers(band.points)
    on_lid = off_lids < ON_LID * diagonal(mesh.vertices)  # on either side of it, by the rounding
    if on_lid.any():
        around[on_lid] = distance.winding.numbers(band.points[on_lid])
    return band, _side(around, lobes) * away


def _sampled_closed(distance: MeshDistance, low: Floats, high: Floats, cell: float, lobes: bool) -> tuple[Band, Floats]:
    """The same of a mesh without open edges."""
    band = Band.where([(lambda p: distance.unsigned_distance(p)[0], -cell, cell)], low, high, cell)
    away, _ = distance.unsigned_distance(band.points)
    return band, _side(_alike(band, away, cell, distance.winding), lobes) * away


def _alike(band: Band, away: Floats, cell: float, winding: Winding) -> Floats:
    """(n,) the winding number of a mesh without open edges at the points of a band. It stays the same in a ball that
    holds nothing of the surface, and so is asked at one point of all that such balls link. away: (n,) mm, how far the
    surface is.
    """
    beside = band.neighbours
    clear = away[beside].sum(axis=1) > cell * (1 + 1e-9)
    number, region = connected_components(len(away), np.ascontiguousarray(beside[clear]))
    farthest = np.argsort(away)
    asked = np.zeros(number, dtype=np.int64)
    asked[region[farthest]] = farthest  # of each region the last that is put there: the farthest
    found: Floats = winding.numbers(band.points[asked])[region]
    return found


def _side(around: Floats, lobes: bool) -> Floats:
    """(n,) 1 outside, -1 inside."""
    found: Floats = 1.0 - 2 * np.clip(np.abs(around) if lobes else around, 0, 1)
    return found


def _normals(skin: Mesh, distance: MeshDistance, cell: float) -> Floats:
    """(n, 3) those of the mesh near it, and of the skin itself on lids over holes."""
    import igl

    away, _ = distance.unsigned_distance(skin.vertices)
    own = igl.per_vertex_normals(skin.vertices, skin.triangles)
    near = distance.face_normals(skin.vertices)
    near = np.where((np.einsum("ij,ij->i", near, own) < 0)[:, None], -near, near)
    lid = (away > 0.75 * cell) | ~np.isfinite(near).all(axis=1)
    found: Floats = np.where(lid[:, None], own, near)
    return np.nan_to_num(found)
