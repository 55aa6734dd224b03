"""Triangles cut along planes: the same surface, closed, with no more triangles than it takes."""

import numpy as np
import pytest

from noble_clay.core.mesh.mass import areas, normals, signed_volumes, volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.sliced import sliced
from noble_clay.core.mesh.topology import Topology
from tests.damage import primitive

SHAPES = {
    "a box": primitive("box", size=(10, 10, 10)),
    "a ball": primitive("sphere", radius=5, facets=24),
    "a thin disc": primitive("cylinder", radius=5, height=0.01, facets=40),
    "a ring": primitive("torus", ring_radius=4, tube_radius=1),
}


def turned(mesh, seed):
    rng = np.random.default_rng(seed)
    matrix, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    return Mesh(mesh.vertices @ (matrix * np.sign(np.linalg.det(matrix))), mesh.triangles)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("count", [1, 2, 7, 100])
@pytest.mark.parametrize("seed", [None, 1, 2])
def test_the_surface_is_the_same_and_nothing_crosses_a_plane(name, count, seed):
    mesh = SHAPES[name] if seed is None else turned(SHAPES[name], seed)
    low, high = mesh.bounds[:, 2]
    cuts = np.linspace(low, high, count + 2)[1:-1]
    found, origin = sliced(mesh, 2, cuts)
    assert Topology(found).is_manifold
    assert volume(found) == pytest.approx(volume(mesh), rel=1e-9)
    assert np.bincount(origin, areas(found), len(mesh.triangles)) == pytest.approx(areas(mesh), rel=1e-7, abs=1e-12)
    assert (areas(found) > 0).all()
    height = found.corners[..., 2]
    for at in cuts:
        assert not ((height.min(axis=1) < at - 1e-6) & (height.max(axis=1) > at + 1e-6)).any()
    across = (
        (mesh.corners[..., 2].min(axis=1)[:, None] < cuts) & (mesh.corners[..., 2].max(axis=1)[:, None] > cuts)
    ).sum(axis=1)
    assert (np.bincount(origin, minlength=len(mesh.triangles)) <= 2 * across + 2).all()


def test_pieces_lie_in_the_triangle_they_are_of_and_are_turned_as_it_is():
    mesh = turned(SHAPES["a ball"], 3)
    found, origin = sliced(mesh, 0, np.linspace(-4, 4, 9))
    normal = normals(mesh)[origin]
    off = np.einsum("nij,nj->ni", found.corners - mesh.corners[origin][:, :1], normal)
    assert np.abs(off).max() < 1e-9
    assert (np.einsum("ij,ij->i", normals(found), normal) > 0).all()


def test_a_corner_near_a_plane_counts_as_on_it_and_stays_where_it_is():
    mesh = SHAPES["a box"]
    found, _ = sliced(mesh, 2, np.array([-4.99, 0.0, 4.99]), slack=0.05)
    assert sorted(set(found.vertices[:, 2].tolist())) == [-5, 0, 5]
    assert signed_volumes(found).sum() == pytest.approx(1000)


@pytest.mark.parametrize("cuts", [[-7.0, 5.0, 9.0], []])
def test_planes_beside_a_mesh_leave_it_as_it_is(cuts):
    mesh = SHAPES["a box"]
    found, origin = sliced(mesh, 1, np.array(cuts))
    assert found is mesh
    assert origin.tolist() == list(range(len(mesh.triangles)))
