"""Surfaces that lie on themselves: cut up in their plane, one piece of each kept, and what they go around as it was."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from noble_clay.core.mend.overlay import overlaid
from noble_clay.core.mend.plan import mend
from noble_clay.core.mend.resurface import resurface
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mass import areas, volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology
from tests.damage import primitive, together, without

TURNED = Rotation.from_rotvec([0.3, -0.7, 0.4]).as_matrix()
PLACES = [
    pytest.param(lambda p: p, id="as drawn"),
    pytest.param(lambda p: p @ TURNED.T, id="turned"),
    pytest.param(lambda p: 0.01 * p @ TURNED.T, id="tiny"),
    pytest.param(lambda p: p @ TURNED.T + [300.0, -200.0, 90.0], id="far out"),
]


def placed(mesh, place):
    return Mesh(place(mesh.vertices), mesh.triangles)


def size_of_volume(place):
    """What a place makes of 1 mm³."""
    return abs(np.linalg.det(place(np.eye(3)) - place(np.zeros((1, 3)))))


def box(low, high):
    low, high = np.array(low, dtype=float), np.array(high, dtype=float)
    return primitive("box", tuple((low + high) / 2), size=list(high - low))


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize(("other", "left"), [([3, 4, 5], 82.0), ([3, 5, 4], 64.0)], ids=["alike", "turned over"])
def test_of_two_triangles_in_one_plane_each_piece_is_left_once_or_cancelled(place, other, left):
    """50 mm² each, half of 6 by 6 over each other."""
    flat = np.array([[0, 0, 0], [10, 0, 0], [0, 10, 0], [4, 0, 0], [14, 0, 0], [4, 10, 0]], dtype=float)
    mesh = placed(Mesh(flat, np.array([[0, 1, 2], other])), place)
    pairs = crossing_pairs(mesh)
    assert len(pairs) == 1
    found = overlaid(mesh, pairs)
    assert len(crossing_pairs(found)) == 0
    np.testing.assert_array_equal(found.vertices[:6], mesh.vertices)
    scale = size_of_volume(place) ** (2 / 3)
    assert areas(found).sum() == pytest.approx(left * scale, rel=1e-4)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize(
    ("one", "other", "expected"),
    [
        pytest.param(((0, 0, 0), (10, 10, 10)), ((10, 3, -2), (20, 13, 5)), 1700.0, id="against each other"),
        pytest.param(((0, 0, 0), (10, 10, 10)), ((4, 3, 2), (14, 7, 10)), 1128.0, id="flush on top"),
        pytest.param(((0, 0, 0), (10, 10, 10)), ((0, 2, 3), (10, 8, 10)), 1000.0, id="within, on three sides"),
        pytest.param(((0, 0, 0), (10, 10, 10)), ((10, 0, 0), (20, 10, 10)), 2000.0, id="whole faces"),
    ],
)
def test_blocks_that_share_planes_become_one_exactly(place, one, other, expected):
    mesh = placed(together(box(*one), box(*other)), place)
    found = mesh
    for _ in range(2):
        found = untangle(found)[0]
    assert len(crossing_pairs(found)) == 0
    assert not Topology(found).open_halves.size
    assert volume(found) == pytest.approx(expected * size_of_volume(place), rel=2e-6)


def with_flap(mesh):
    """A box with a flap of no thickness that hangs on one of its edges and lies flat on the face beside that."""
    halves = np.stack([mesh.triangles, np.roll(mesh.triangles, -1, axis=1)], axis=2)
    lengths = np.linalg.norm(mesh.vertices[halves[..., 0]] - mesh.vertices[halves[..., 1]], axis=2)
    face, corner = np.argwhere(lengths < lengths.max() - 1e-9)[0]
    a, b = halves[face, corner]
    back, at = np.argwhere((halves[..., 0] == b) & (halves[..., 1] == a))[0]
    start, end = mesh.vertices[a], mesh.vertices[b]
    third, fourth = mesh.triangles[face, (corner + 2) % 3], mesh.triangles[back, (at + 2) % 3]
    inside = 0.4 * start + 0.4 * end + 0.2 * mesh.vertices[third]
    m, n, tip = len(mesh.vertices) + np.arange(3)
    points = np.concatenate([mesh.vertices, [0.6 * start + 0.4 * end, 0.4 * start + 0.6 * end, inside]])
    rest = np.delete(mesh.triangles, [face, back], axis=0)
    halved = [[a, m, third], [m, b, third], [b, n, fourth], [n, a, fourth]]
    flap = [[m, a, tip], [b, m, tip], [a, n, tip], [n, b, tip]]
    return Mesh(points, np.concatenate([rest, halved, flap]))


@pytest.mark.parametrize("place", PLACES)
def test_a_flap_that_lies_on_its_own_body_goes_and_the_body_stays_whole(place):
    whole = placed(primitive("box", size=[20, 14, 9]), place)
    mesh = placed(with_flap(primitive("box", size=[20, 14, 9])), place)
    assert Topology(mesh).is_manifold
    assert len(crossing_pairs(mesh)) > 0
    found, report = mend(mesh)
    assert report.after.manifold
    assert "resurface" not in [s.step for s in report.steps]
    assert report.after.volume == pytest.approx(volume(whole), rel=1e-5)


def test_a_closed_tangle_is_resurfaced_to_what_it_goes_around():
    """Two balls through each other, hollow: beside the closed form of their lens, and the hollow's."""
    balls = [primitive("sphere", (x, 0, 0), radius=10, facets=96) for x in (-6, 6)]
    hollow = primitive("sphere", (-10, 0, 0), radius=4, facets=96)
    mesh = together(*balls, Mesh(hollow.vertices, hollow.triangles[:, ::-1]))
    lens = np.pi * (4 * 10 + 12) * (2 * 10 - 12) ** 2 / 12
    ball = 4 / 3 * np.pi * 10**3
    found, _ = resurface(mesh, 0.4)
    assert volume(found) == pytest.approx(2 * ball - lens - 0.4**3 * ball, rel=0.005)
    assert len(crossing_pairs(found)) == 0


@pytest.mark.parametrize("holes", [1, 3])
def test_with_little_holes_it_is_the_same_and_closed(holes):
    ball = primitive("sphere", radius=10, facets=96)
    gone = np.random.default_rng(2).choice(len(ball.triangles), holes, replace=False)
    found, _ = resurface(without(ball, gone), 0.5)
    assert Topology(found).is_manifold
    assert volume(found) == pytest.approx(volume(ball), rel=0.005)


def test_a_bundle_of_needles_in_one_plane_is_not_cut_to_dust():
    """80 needles of 100 mm through one another: two thousand pairs cross; cut up they would be 16,000 pieces."""
    draw = np.random.default_rng(3)
    ends = draw.uniform(-1, 1, (80, 3)) * [1, 1, 0]
    ends[:, 0] -= 50
    others = draw.uniform(-1, 1, (80, 3)) * [1, 1, 0]
    others[:, 0] += 50
    points = np.stack([ends, others, others + [0, 0.5, 0]], axis=1).reshape(-1, 3)
    bundle = Mesh(points, np.arange(240).reshape(-1, 3))
    pairs = crossing_pairs(bundle)
    assert len(pairs) > 1000
    assert overlaid(bundle, pairs) is bundle
