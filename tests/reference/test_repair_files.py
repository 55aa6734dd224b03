"""Mended files, read back in 32 bits and judged by trimesh and libigl: also tiny, far out, and where bodies touch."""

import io

import igl
import numpy as np
import pytest
import trimesh

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.mend.plan import mend
from noble_clay.core.mend.seen import Seen
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.winding import Winding
from tests.damage import DAMAGES, damaged, primitive, together, without

PLACES = {"as it is": (1.0, 0.0), "tiny": (0.003, 0.0), "far out": (1.0, 4000.0), "tiny and off": (0.01, 30.0)}
"""Scale, and how far off along each axis, mm."""

BLOCKS = [(0, 0, 0), (10, 10, 0), (0, 10, 10), (20, 0, 0), (20, 20, 10), (10, 0, 20)]
"""Middles of cubes of 10 mm, some of which touch in an edge, some in a corner."""


def placed(mesh, place):
    scale, off = PLACES[place]
    return Mesh(mesh.vertices * scale + off, mesh.triangles)


def as_read_by_trimesh(mesh):
    """The STL that is written of it, as trimesh reads that; corners that are the same to the bit are one point."""
    read = trimesh.load(io.BytesIO(mesh_bytes(mesh, "mended", "stl")), file_type="stl", process=False)
    points, index = np.unique(read.triangles.astype(np.float32).reshape(-1, 3), axis=0, return_inverse=True)
    return trimesh.Trimesh(points, index.reshape(-1, 3), process=False)


@pytest.mark.parametrize("place", PLACES)
def test_bodies_that_touch_in_an_edge_or_a_corner_are_apart_in_the_file(place):
    blocks = placed(together(*(primitive("box", at, size=[10, 10, 10]) for at in BLOCKS)), place)
    for given in (blocks, read_mesh(mesh_bytes(blocks, "blocks", "stl"), ".stl").mesh):
        mended, report = mend(given)
        file = as_read_by_trimesh(mended)
        assert file.is_watertight and file.is_winding_consistent and report.after.manifold
        assert len(file.split()) == report.after.bodies == len(BLOCKS), "none is lost"
        assert file.volume == pytest.approx(6000 * PLACES[place][0] ** 3, rel=0.01)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("damage", DAMAGES)
def test_what_is_said_of_a_mended_mesh_is_so_of_its_file_wherever_it_is(damage, place):
    ring = primitive("torus", ring_radius=20, tube_radius=6, facets=48, tube_facets=24)
    broken = damaged(ring, DAMAGES[damage])
    there, report = mend(placed(broken, place))
    file = as_read_by_trimesh(there)
    assert report.after.manifold == (file.is_watertight and file.is_winding_consistent and file.volume > 0)
    assert report.after.manifold
    scale, off = PLACES[place]
    off_by = np.sqrt(igl.point_mesh_squared_distance(ring.vertices, (there.vertices - off) / scale, there.triangles)[0])
    assert np.mean(off_by < 0.005 * np.linalg.norm(np.ptp(ring.vertices, axis=0))) > 0.95, "its shape is kept"


@pytest.mark.parametrize("opened", [False, True])
def test_winding_numbers_are_as_right_far_out_as_they_are_near(opened):
    """Of a ball, and of one without its cap, beside `libigl`'s exact sum, which reckons in 64 bits."""
    ball = primitive("sphere", radius=5, facets=32)
    if opened:
        ball = without(ball, ball.corners[:, :, 2].min(axis=1) > 3)
    draw = np.random.default_rng(3)
    way = draw.normal(size=(200, 3))
    points = way / np.linalg.norm(way, axis=1)[:, None] * draw.uniform(0, 8, (200, 1))
    for off in (0.0, 90_000.0):
        vertices = ball.vertices + off
        exact = igl.winding_number(vertices, ball.triangles, points + off)
        assert Winding(Mesh(vertices, ball.triangles)).numbers(points + off) == pytest.approx(exact, abs=0.02)


def opened(mesh, *ways):
    """Without the faces that look along any of some directions."""
    a, b, c = mesh.corners.transpose(1, 0, 2)
    normals = np.cross(b - a, c - a)
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    return without(mesh, (normals @ np.array(ways, dtype=float).T > 0.99).any(axis=1))


@pytest.mark.parametrize("place", PLACES)
def test_what_is_seen_through_an_opening_is_not_swallowed_by_a_lid(place):
    """A cover without a floor, as of an engine, with pipes in it: modelled of faces only."""
    cover = opened(primitive("box", (0, 0, 6), size=[36, 20, 12]), (0, 0, -1))
    pipes = [
        opened(primitive("cylinder", (x, 0, 6), radius=4, height=11, facets=32), (0, 0, 1), (0, 0, -1)) for x in (-9, 9)
    ]
    whole = together(cover, *pipes)
    mended, report = mend(placed(whole, place))
    file = as_read_by_trimesh(mended)
    assert report.after.manifold and file.is_watertight and file.volume > 0
    scale, off = PLACES[place]
    assert file.volume < 0.3 * 36 * 20 * 12 * scale**3, "it is not filled"
    strewn = np.asarray(
        trimesh.sample.sample_surface(trimesh.Trimesh(whole.vertices, whole.triangles), 3000, seed=2)[0]
    )
    away = np.sqrt(igl.point_mesh_squared_distance(strewn, (mended.vertices - off) / scale, mended.triangles)[0])
    assert np.mean(away < 0.005 * np.linalg.norm(np.ptp(whole.vertices, axis=0))) > 0.99


@pytest.mark.parametrize("share", [0.02, 0.2])
def test_a_body_with_a_hole_gets_a_lid_and_no_wall(share):
    ball = primitive("sphere", radius=10, facets=48)
    holed = without(ball, ball.corners.mean(axis=1)[:, 2] > 10 * (1 - 2 * share))
    mended, report = mend(holed)
    assert [s.step for s in report.steps] == ["close_holes"]
    assert as_read_by_trimesh(mended).volume > 0.85 * as_read_by_trimesh(ball).volume


@pytest.mark.parametrize("damage", ["", "jittered", "cracked"])
@pytest.mark.parametrize("place", PLACES)
def test_blocks_and_pins_that_share_faces_are_united_as_they_are(place, damage):
    """No two are cut up alike. The volume by hand; as few triangles as it takes, since nothing is built anew."""
    pins = [primitive("cylinder", (x, 8, 9), radius=3, height=10, facets=f) for x, f in ((-6, 17), (6, 40))]
    blocks = [primitive("box", (x, 0, 9), size=[8, 30, 10]) for x in (-16, 16)]
    plate, beam = primitive("box", (0, 0, 2), size=[40, 30, 4]), primitive("box", (0, 0, 16), size=[40, 10, 4])
    flush = together(plate, *blocks, *pins, beam)
    given = placed(damaged(flush, DAMAGES.get(damage, [])), place)
    mended, report = mend(given)
    file = as_read_by_trimesh(mended)
    assert file.is_watertight and file.is_winding_consistent and report.after.manifold
    round_ = sum(10 * 9 * f / 2 * np.sin(2 * np.pi / f) for f in (17, 40))
    assert file.volume == pytest.approx((4800 + 2 * 2400 + 1600 + round_) * PLACES[place][0] ** 3, rel=0.01)
    assert len(mended.triangles) < 1000, "built anew, where a hair would do"


@pytest.mark.parametrize("place", ["as it is", "far out"])
def test_a_pile_of_bodies_in_contact_keeps_them_all(place):
    """Fifteen blocks and their pegs, some a hair apart, some a hair within each other, their points a little astray."""
    bodies = []
    for n in range(15):
        bodies.append(primitive("box", (0, 0, 6 * n), size=[14 - 0.4 * n, 12, 6 + (0, 1e-7, -1e-7)[n % 3]]))
        bodies.append(primitive("capsule", (0, 9, 6 * n), radius=1.5, length=10, facets=20))
    pile = placed(damaged(together(*bodies), DAMAGES["jittered"]), place)
    mended, report = mend(pile)
    file = as_read_by_trimesh(mended)
    assert file.is_watertight and report.after.manifold
    seen = Seen.of(pile)
    assert seen.kept_by(Mesh(np.asarray(file.vertices), np.asarray(file.faces))) > 0.97
