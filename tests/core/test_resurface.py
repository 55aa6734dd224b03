"""What an open mesh goes around, told region by region, is what its winding number says point by point."""

import igl
import numpy as np
import pytest

from noble_clay.core.mend.resurface import _sampled
from noble_clay.core.mesh.distance import MeshDistance
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
