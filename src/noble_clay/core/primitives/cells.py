"""Cells: a block of random cells with a web between them."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from pydantic import Field, model_validator

from noble_clay.core.field_kinds import Shown
from noble_clay.core.fields import Flag, IsNumber, Length, LengthOrZero, Size3
from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.mesh.boxes import box_of
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import Factors, Primitive
from noble_clay.core.primitives.flat import extruded

MOST, MOST_IN_SPACE = 5_000, 1_000
EVENED, SAMPLES = 2, 64
"""How often the random middles are moved to the middles of their cells (Lloyd 1982), and points that each cell is
sampled by for that: even cells print better than slivers.
"""

ROUNDEST = 0.98
"""Share of the largest circle within a cell that its corners are rounded to at most."""

CORNER_STEPS = 8
"""Straight sides of a quarter of a rounded corner."""


class Cells(Primitive):
    """The same for the same seed, count and size. Cells too narrow for the gap are left out."""

    label: ClassVar[str] = "Cells"
    family: ClassVar[str] = "Made to fit"
    summary: ClassVar[str] = "random cells that leave a web where they cut: lanterns, coral, wings"
    sample: ClassVar[dict[str, Any]] = {"size": [30, 30, 6], "count": 24, "gap": 1.6, "seed": 1, "round": 1}

    kind: Literal["cells"]
    size: Annotated[Size3, Field(title="Size")]
    count: Annotated[int, Field(ge=1, le=MOST, title="Count"), IsNumber]
    gap: Annotated[Length, Field(title="Gap", description="from cell to cell")]
    seed: Annotated[int, Field(ge=0, le=2**31 - 1, title="Seed", description="another number, other cells"), IsNumber]
    round: Annotated[
        LengthOrZero,
        Shown(only_when={"in_space": (False,)}),
        Field(title="Corners", description="radius that corners are rounded by, in the plane"),
    ] = 0.0
    in_space: Annotated[Flag, Field(title="In space", description="cells all through the block, not columns")] = False

    @model_validator(mode="after")
    def _some_cells_are_left(self) -> Cells:
        if self.in_space and self.count > MOST_IN_SPACE:
            raise ValueError(f"count must be at most {MOST_IN_SPACE:,} in space; in the plane it may be {MOST:,}")
        if self.in_space and self.round > 0:
            raise ValueError("round must be 0 in space: corners are rounded in the plane")
        if not len(self.mesh().triangles):
            raise ValueError(f"gap must be narrower: at {self.gap:g} mm no cell is left")
        return self

    def mesh(self) -> Mesh:
        return _mesh(self.size, self.count, self.gap, self.seed, self.round, self.in_space)

    def bounds(self) -> Floats:
        return box_of(self.mesh().vertices)

    def triangle_count(self) -> int:
        return len(self.mesh().triangles)

    def stretched(self, factors: Factors) -> Primitive | None:
        x, y, z = (s * f for s, f in zip(self.size, factors, strict=True))
        return self.updated(size=[x, y, z])


@lru_cache(maxsize=32)
def _mesh(size: tuple[float, float, float], count: int, gap: float, seed: int, rounding: float, in_space: bool) -> Mesh:
    box = np.array(size)
    if not in_space:
        rings = _in_plane(box[:2], count, gap, seed, rounding)
        return extruded(rings, -box[2] / 2, box[2] / 2) if rings else Mesh.empty()
    middles = scattered(box, count, seed)
    block = Manifold.cube(tuple(box), center=True)
    cells = []
    for here, others in zip(middles, _neighbours(middles), strict=True):
        cell = block
        away = middles[others] - here
        order = np.argsort(np.einsum("ij,ij->i", away, away))
        for other, way in zip(middles[others][order], away[order], strict=True):
            normal = -way / np.linalg.norm(way)
            cell = cell.trim_by_plane(tuple(normal), float(normal @ (here + other) / 2 + gap / 2))
        if cell.volume() > HAIR:
            cells.append(cell)
    return mesh_of(Manifold.compose(cells)) if cells else Mesh.empty()


def scattered(box: Floats, count: int, seed: int) -> Floats:
    """(count, d) points in a box of size (d,) about the origin, at random and then made more even."""
    from scipy.spatial import cKDTree

    random = np.random.default_rng(seed)
    middles = (random.random((count, len(box))) - 0.5) * box
    samples = (random.random((SAMPLES * count, len(box))) - 0.5) * box
    for _ in range(EVENED):
        _, nearest = cKDTree(middles).query(samples)
        number = np.maximum(np.bincount(nearest, minlength=count), 1)
        sums = np.column_stack([np.bincount(nearest, samples[:, k], count) for k in range(len(box))])
        found = np.bincount(nearest, minlength=count) > 0
        middles[found] = (sums / number[:, None])[found]
    return middles


def _neighbours(middles: Floats) -> list[list[int]]:
    """Of each point those whose cells may touch its own."""
    from scipy.spatial import Delaunay

    count, dimensions = middles.shape
    if count <= dimensions + 1:
        return [[j for j in range(count) if j != i] for i in range(count)]
    first, others = Delaunay(middles).vertex_neighbor_vertices
    return [others[first[i] : first[i + 1]].tolist() for i in range(count)]


def _in_plane(box: Floats, count: int, gap: float, seed: int, rounding: float) -> list[Floats]:
    """The outlines of the cells (n, 2), drawn in by half the gap on every side but the block's own."""
    import shapely

    middles = scattered(box, count, seed)
    wide = box / 2 + gap
    rectangle = shapely.box(*(-box / 2), *(box / 2))
    if count == 1:
        cells = np.array([rectangle])
    else:
        # Mirrored in the sides of a larger block, so that cells at the rim end there.
        mirrored = [middles]
        for axis in (0, 1):
            for side in (-1, 1):
                image = middles.copy()
                image[:, axis] = 2 * side * wide[axis] - image[:, axis]
                mirrored.append(image)
        from scipy.spatial import Voronoi

        diagram = Voronoi(np.concatenate(mirrored))
        around = [diagram.vertices[diagram.regions[diagram.point_region[i]]] for i in range(count)]
        cells = np.array([shapely.MultiPoint(corners).convex_hull for corners in around])
        cells = shapely.buffer(cells, -gap / 2, join_style="mitre", mitre_limit=1e6)
        cells = shapely.intersection(cells, rectangle)
    cells = cells[shapely.area(cells) > HAIR]
    if rounding > 0 and len(cells):
        most = shapely.length(shapely.maximum_inscribed_circle(cells)) * ROUNDEST
        radius = np.minimum(rounding, most)
        inner = shapely.buffer(cells, -radius, join_style="mitre", mitre_limit=1e6)
        cells = shapely.buffer(inner, radius, quad_segs=CORNER_STEPS)
    return [np.array(cell.exterior.coords)[:-1] for cell in cells if not cell.is_empty]
