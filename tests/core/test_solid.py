"""Solids that the kernel reads only when it is needed, beside those that it has read."""

import numpy as np
import pytest
from manifold3d import Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel import surface
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.triangle_set import TriangleSet, triangle_numbers
from tests.damage import primitive, together

RING = primitive("torus", ring_radius=11, tube_radius=4)
NAMES = ("low", "high")
PLACE = np.column_stack([[[0.0, -2, 0], [1, 0, 0], [0, 0, 1.5]], [4.0, 5, 6]])
MIRRORED = PLACE * [[-1], [1], [1]]


def is_manifold(mesh):
    return Topology(mesh).is_manifold


def halves(mesh):
    """Which of two parts each triangle is of."""
    return (mesh.corners.mean(axis=1)[:, 2] > 0).astype(np.int64)


def unread(mesh=RING):
    return Solid.unread(mesh, halves(mesh), NAMES, Planes.none())


def read(mesh=RING):
    return Solid.from_parts(mesh, halves(mesh), NAMES, planes=Planes.none())


def by_part(solid):
    """Of each part, its triangles, in an order of their own."""
    mesh, part_of, names = solid.mesh_with_parts()
    middles = mesh.corners.mean(axis=1).round(6)
    return {name: sorted(map(tuple, middles[part_of == k].tolist())) for k, name in enumerate(names)}


@pytest.mark.parametrize("matrix", [np.eye(3, 4), PLACE, MIRRORED], ids=["there", "placed", "mirrored"])
def test_what_is_not_read_yet_is_as_what_is(matrix):
    mine, theirs = unread().placed(matrix), read().placed(matrix)
    assert not isinstance(mine.shape, Manifold)
    assert (mine.triangles, mine.bodies, mine.empty) == (theirs.triangles, theirs.bodies, False)
    assert mine.volume == pytest.approx(theirs.volume)
    assert mine.volume > 0
    np.testing.assert_allclose(mine.bounds, theirs.bounds, atol=1e-9)
    assert by_part(mine) == by_part(theirs)
    assert mine.manifold.volume() == pytest.approx(theirs.volume)
    np.testing.assert_array_equal(mine.vertices, mine.mesh_only().vertices)


def test_it_is_joined_as_what_was_read():
    ball = Solid.from_mesh(primitive("sphere", radius=9), "ball")
    mine, theirs = (boolean("difference", [each, ball]) for each in (unread(), read()))
    assert mine.volume == pytest.approx(theirs.volume)
    assert by_part(mine) == by_part(theirs)


def test_the_kernel_reads_it_once_wherever_it_is_placed(monkeypatch):
    reads = []
    real = surface.Mesh64
    monkeypatch.setattr(surface, "Mesh64", lambda *given, **more: reads.append(1) or real(*given, **more))
    solid = unread()
    there, back = solid.placed(PLACE), solid.placed(PLACE).placed(MIRRORED)
    assert not reads
    for each in (there, back, solid, there):
        assert each.manifold.volume() == pytest.approx(each.volume)
        low, high = each.bounds
        np.testing.assert_allclose(each.manifold.bounding_box(), [*low, *high], atol=1e-9)
    assert len(reads) == 1


def test_its_vertices_are_moved():
    solid = unread().placed(PLACE).placed(np.eye(3, 4))
    moved = solid.warped(solid.vertices, solid.vertices + [1.0, 0, 0])
    np.testing.assert_array_equal(moved.vertices, solid.vertices + [1.0, 0, 0])
    assert moved.manifold.bounding_box()[0] == pytest.approx(solid.bounds[0, 0] + 1)
    assert moved.has_coincident_faces
    assert not solid.has_coincident_faces


@pytest.mark.parametrize("taken", [1, 7])
def test_what_does_not_close_is_refused(taken):
    with pytest.raises(MeshError, match="not a closed manifold"):
        unread(Mesh(RING.vertices, RING.triangles[taken:]))


def test_nothing_is_no_surface():
    assert unread(Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))).empty


def pinched(first=0, second=400):
    """Two rings apart that have one vertex in common."""
    both = together(RING, Mesh(RING.vertices + [0, 0, 30], RING.triangles))
    triangles = np.where(both.triangles == len(RING.vertices) + second, first, both.triangles)
    return Mesh(both.vertices, triangles).compact()


def glued():
    """Two boxes whose edges lie in one: four triangles share it."""
    box = primitive("box", size=[2, 2, 2])
    both = together(box, Mesh(box.vertices + [2, 2, 0], box.triangles))
    _, first, number = np.unique(both.vertices.round(9), axis=0, return_index=True, return_inverse=True)
    return Mesh(both.vertices[first], number.reshape(-1)[both.triangles])


@pytest.mark.parametrize("taken", [0, 17])
def test_a_manifold_is_one_fan_at_every_vertex(taken):
    order = np.random.default_rng(taken).permutation(len(RING.triangles))
    assert is_manifold(Mesh(RING.vertices, RING.triangles[order]))
    assert is_manifold(together(RING, Mesh(RING.vertices + [0, 0, 30], RING.triangles)))
    cone = primitive("cone", bottom_radius=5, top_radius=0, height=9, facets=48)
    assert is_manifold(cone)
    assert not is_manifold(Mesh(cone.vertices, np.delete(cone.triangles, taken, axis=0)))
    turned = cone.triangles.copy()
    turned[taken] = turned[taken, ::-1]
    assert not is_manifold(Mesh(cone.vertices, turned))
    assert not is_manifold(Mesh(RING.vertices, np.concatenate([RING.triangles, RING.triangles])))


def test_what_meets_in_a_point_or_an_edge_is_none_and_the_kernel_reads_it_at_once():
    for mesh in (pinched(), glued()):
        assert not is_manifold(mesh)
        solid = unread(mesh)
        assert isinstance(solid.shape, Manifold)
        assert is_manifold(solid.mesh_only()), "it parts them"


def test_triangles_are_found_again_by_where_they_stand():
    shifted = Mesh(RING.vertices.copy(), RING.triangles[::-1])
    shifted.vertices[7] += 1e-13
    known = TriangleSet.of(triangle_numbers(RING, 0.5))
    moved = (shifted.triangles == 7).any(axis=1)
    assert moved.sum() > 3
    np.testing.assert_array_equal(known.holds(triangle_numbers(shifted, 0.5)), ~moved)
    assert not known.holds(triangle_numbers(RING, 0.25)).any()
