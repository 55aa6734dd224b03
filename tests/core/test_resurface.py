"""What an open mesh goes around, told region by region, is what its winding number says point by point."""

import igl
import numpy as np
import pytest

from noble_clay.core.mend.resurface import _sampled, _spans
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.half_edges import rim
from noble_clay.core.mesh.mesh import Mesh
from tests.damage import primitive, together

BALL = primitive("sphere", radius=5, facets=48)
RING = primitive("torus", ring_radius=8, tube_radius=3)


def without_cap(mesh: Mesh, way: int, beyond: float) -> Mesh:
    return mesh.keep(mesh.corners[:, :, way].mean(axis=1) < beyond)


@pytest.mark.parametrize(
    "mesh",
    [
        without_cap(BALL, 2, 3.5),
        without_cap(without_cap(BALL, 2, 3), 0, 4),
        without_cap(RING, 0, 9.5),
        together(without_cap(RING, 1, 9), Mesh(BALL.vertices + (8, 0, 0), BALL.triangles)),
    ],
    ids=["a bowl", "two holes", "a cut ring", "a ball through a cut ring"],
)
def test_an_open_mesh_has_its_own_winding_number_at_every_point(mesh):
    """Reference: the exact sum of solid angles of libigl (Jacobson et al. 2013)."""
    low, high = mesh.bounds
    distance = MeshDistance(mesh)
    band, values = _sampled(distance, low - 1, high + 1, 0.5, lobes=False)
    around = igl.winding_number(mesh.vertices, mesh.triangles, band.points)
    away, _ = distance.unsigned_distance(band.points)
    wanted = (1 - 2 * np.clip(around, 0, 1)) * away
    assert len(band.points) > 1_000
    assert np.abs(values - wanted).max() < 0.02
    assert np.quantile(np.abs(values - wanted), 0.9) < 0.003


@pytest.mark.parametrize("facets", [16, 48, 90])
def test_what_spans_a_hole_leaves_no_rim_and_only_few_triangles_reach_across(facets):
    """Reference: the chords of a circle. But for the seven first, none spans more than an eighth of it and a point."""
    bowl = without_cap(primitive("sphere", radius=5, facets=facets), 2, 1)
    edges = rim(bowl.triangles, len(bowl.vertices))
    spans = _spans(bowl)
    assert len(rim(np.concatenate([bowl.triangles, spans]), len(bowl.vertices))) == 0
    assert len(spans) == len(edges) - 2
    radius = np.hypot(*bowl.vertices[edges[:, 0], :2].T).max()
    sides = bowl.vertices[spans, :2] - bowl.vertices[np.roll(spans, 1, axis=1), :2]
    longest = np.linalg.norm(sides, axis=2).max(axis=1)
    assert (longest > 2 * radius * np.sin(np.pi * (1 / 8 + 1 / len(edges)))).sum() <= 7
