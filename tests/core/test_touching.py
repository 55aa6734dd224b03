"""Slanted faces in contact: found, made alike or moved past each other; and what the kernel leaves of that, tidied."""

import numpy as np
import pytest

from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.coincidence import snap_coincident, were_moved
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import translation
from noble_clay.core.mesh.contract_edges import contracted
from noble_clay.core.mesh.flat_overlap import cover_the_same
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.long_edges import without_long_edges
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.piece.models import Place
from noble_clay.core.piece.placing import place_matrix

TURNED = place_matrix(Place(rotation=(20, 35, 10)), ())
FLAT = np.array([[0.0, 0, 0], [4, 0, 0], [0, 4, 0]])


def block(name, size=(10, 10, 10), at=(0, 0, 0)):
    """A box that stands slantwise, placed before it is turned."""
    return Solid.from_mesh(hexahedron(size), name, True).placed(translation(np.array(at, dtype=float))).placed(TURNED)


@pytest.mark.parametrize(
    ("by", "covers"),
    [((0, 0, 0), True), ((1, 1, 0), True), ((4, 0, 0), False), ((2, 2, 0), False), ((1.999, 1.999, 0), True)],
)
def test_triangles_in_a_plane_cover_the_same_only_where_they_have_ground_in_common(by, covers):
    normals = np.array([[0.0, 0, 1]])
    assert cover_the_same(FLAT[None], FLAT[None] + by, normals, 1e-5)[0] == covers
    assert cover_the_same(FLAT[None] + by, FLAT[None, ::-1], normals, 1e-5)[0] == covers


def test_faces_with_the_same_corners_get_the_same_triangles_and_nothing_moves():
    below, above = block("below"), block("above", at=(0, 0, 10))
    mesh, part_of, names = above.mesh_with_parts()
    low = np.flatnonzero(np.isclose(mesh.vertices @ TURNED[:, 2], 5))
    bottom = np.isin(mesh.triangles, low).all(axis=1)
    (a, b, c), other = mesh.triangles[bottom][0], mesh.triangles[bottom][1]
    d = next(v for v in other if v not in (a, b, c))
    alone = next(v for v in (a, b, c) if v not in other)
    place = [a, b, c].index(alone)
    first, second = [a, b, c][place - 2], [a, b, c][place - 1]
    triangles = mesh.triangles.copy()
    triangles[bottom] = [[alone, first, d], [alone, d, second]]  # over the other diagonal
    other_way = Solid.from_parts(Mesh(mesh.vertices, triangles), part_of, names)
    assert other_way.volume == pytest.approx(1000)

    for solid in (above, other_way):
        settled = snap_coincident([below, solid])
        whole = boolean("union", settled)
        assert whole.bodies == 1
        assert whole.volume == pytest.approx(2000, rel=1e-12)
        assert settled[1].volume == pytest.approx(1000, rel=1e-12)
        assert np.allclose(np.sort(settled[1].vertices, axis=0), np.sort(solid.vertices, axis=0), atol=1e-9)


def test_a_face_that_lies_on_part_of_another_goes_a_hair_into_it():
    below, above = block("below"), block("above", size=(4, 4, 4), at=(1, 2, 7))
    settled = snap_coincident([below, above])
    assert were_moved([below, above], settled)
    assert settled[0].shape is below.shape
    along = settled[1].vertices @ TURNED[:, 2]
    assert along.min() == pytest.approx(5 - HAIR, abs=HAIR / 10)
    assert along.max() == pytest.approx(9, abs=HAIR / 10)
    assert boolean("union", settled).bodies == 1


def test_a_peg_goes_a_hair_into_the_walls_of_its_hole_and_a_tool_that_touches_leaves_the_body_alone():
    body, hole = block("body"), block("hole", size=(4, 4, 20))
    peg = block("peg", size=(4, 4, 12))
    bored = boolean("difference", [body, hole])
    for solids, ops in (([bored, peg], ["union", "union"]), ([body, hole, peg], ["union", "difference", "union"])):
        settled = snap_coincident(solids, ops)
        assert settled[-1].volume == pytest.approx(192 + 4 * 48 * HAIR, abs=10 * HAIR)
    tool = block("tool", size=(4, 4, 4), at=(0, 0, 7))
    assert snap_coincident([body, tool], ["union", "difference"])[1].volume < 64 - 10 * HAIR
    assert boolean("difference", snap_coincident([body, tool], ["union", "difference"])).volume == body.volume


def test_faces_side_by_side_in_one_plane_are_not_in_contact():
    """What two cuts leave of each other has only edges in common."""
    _, beside = snap_coincident([block("a"), block("b", at=(0, 10, 10))])
    assert beside.volume == pytest.approx(1000, abs=1e-9)


@pytest.mark.parametrize(("aside", "meets"), [(0, True), (99.9, True), (100, False)])
def test_faces_of_very_many_triangles_are_compared_some_at_a_time(aside, meets):
    """All pairs at once of 13,000 and 13,000 triangles would take gigabytes."""

    def slab(name, at):
        fine, _ = without_long_edges(hexahedron((100, 100, 10)), 1.8)
        return Solid.from_mesh(fine, name).placed(translation(np.array(at, dtype=float))).placed(TURNED)

    below, above = slab("below", (0, 0, 0)), slab("above", (aside, 0.3, 10))
    assert below.triangles > 26_000
    _, settled = snap_coincident([below, above])
    assert (np.abs(settled.vertices - above.vertices).max() > HAIR / 2) == meets


def test_what_a_part_was_cut_by_bounds_it_from_the_other_side():
    body, hole = block("body"), block("hole", size=(4, 4, 20))
    planes = boolean("difference", [body, hole]).planes
    walls = planes.normals[len(body.planes.reaches) :]
    assert np.allclose(walls, -hole.planes.normals)


def test_short_edges_go_and_the_box_stays():
    mesh = hexahedron((10, 10, 10))
    points = np.vstack([mesh.vertices, mesh.vertices[mesh.triangles[0]].mean(axis=0)])
    points = np.vstack([points, points[-1] + (mesh.vertices[mesh.triangles[0][0]] - points[-1]) * 1e-7])
    a, b, c = mesh.triangles[0]
    near, middle = 9, 8
    split = [[a, b, near], [b, c, middle], [c, a, near], [b, middle, near], [c, near, middle]]
    fine = Mesh(points, np.vstack([mesh.triangles[1:], split]))
    assert Topology(fine).is_manifold

    found, kept = contracted(fine, 1e-5)
    assert Topology(found).is_manifold
    assert len(found.triangles) == kept.sum() == len(mesh.triangles) + 2
    assert np.array_equal(found.bounds, mesh.bounds)
    assert contracted(mesh, 1e-5) is None


def test_short_edges_stay_where_nothing_would_be_left_without_them_or_no_manifold():
    assert contracted(hexahedron((1e-6, 1e-6, 1e-6)), 1e-5) is None

    square = np.array([[-1.0, -1], [1, -1], [1, 1], [-1, 1]])
    rings = [np.column_stack([square * wide, np.full(4, z)]) for wide, z in ((5, 0), (5e-7, 5), (5, 10))]
    walls = []
    for low in (0, 4):
        for i in range(4):
            a, b = low + i, low + (i + 1) % 4
            walls += [[a, b, b + 4], [a, b + 4, a + 4]]
    waist = Mesh(np.vstack(rings), np.array([[0, 2, 1], [0, 3, 2], *walls, [8, 9, 10], [8, 10, 11]]))
    assert Topology(waist).is_manifold
    assert contracted(waist, 1e-5) is None
