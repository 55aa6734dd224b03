"""Bodies that are flush but for what another program's numbers leave become one exact body, and are not built anew."""

import numpy as np
import pytest
from manifold3d import Manifold, OpType

from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.mend.plan import mend
from noble_clay.core.mend.unite import flush_faces, kernel_solid
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.cross import SLACK
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.written import in_float32
from tests.core.test_mend import solid
from tests.core.test_steady import elsewhere
from tests.damage import together


def round_bar(height, radius):
    return Manifold.cylinder(height, radius, radius, 24)


def pegged_plate():
    bores = [round_bar(6, 5).translate([10, 10, 0]), round_bar(6, 4).translate([28, 18, 0])]
    pegs = [round_bar(10, 5).translate([10, 10, 0]), bores[1]]
    return [Manifold.cube([40, 30, 6]) - bores[0] - bores[1], *pegs]


def stack():
    return [round_bar(5, 10 - i).translate([0, 0, 5 * i]) for i in range(5)]


def tubes():
    return [round_bar(20, r) - round_bar(20, r - 2) for r in (10, 8, 6)]


def bricks():
    return [Manifold.cube([8, 4, 3]).translate([8 * (i + k % 2 / 2), 0, 3 * k]) for k in range(6) for i in range(5)]


def halved_ball():
    ball = Manifold.sphere(6, 24)
    return [ball ^ Manifold.cube([20, 20, 20]).translate([x, -10, -10]) for x in (0, -20)]


def blocks_and_ball():
    blocks = [
        Manifold.cube([10, 10, 10]).translate([10 * (i % 3), 10 * (i // 3 % 2), 10 * (i // 6)]) for i in range(12)
    ]
    return [*blocks, Manifold.sphere(6, 24)]


def shaken(bodies, slacks, seed):
    """Each body off its place by up to so many slacks along each axis, all turned together (but for seed 0), and
    rounded as a file has it.
    """
    random = np.random.default_rng(seed)
    meshes = [mesh_of(body) for body in bodies]
    most = slacks * SLACK * max(np.abs(m.vertices).max() for m in meshes)
    given = together(*(Mesh(m.vertices + random.uniform(-most, most, 3), m.triangles) for m in meshes))
    turn = rotation(random.uniform(-180, 180, 3)) if seed else np.eye(3)
    return in_float32(Mesh(given.vertices @ turn.T, given.triangles))


@pytest.mark.parametrize("seed", [0, 1])
@pytest.mark.parametrize("slacks", [0.3, 3.0])
@pytest.mark.parametrize("bodies", [pegged_plate, stack, tubes, bricks, halved_ball, blocks_and_ball])
def test_flush_bodies_become_one_and_stay_what_they_are(bodies, slacks, seed):
    given = shaken(bodies(), slacks, seed)
    assert len(flush_faces(given)) > 0
    mended, report = mend(given)
    assert report.after.sound
    assert not {"resurface", "untangle"} & {s.step for s in report.steps}
    exact = Manifold.batch_boolean(bodies(), OpType.Add)
    assert volume(mended) == pytest.approx(exact.volume(), rel=2e-5)
    assert len(mended.triangles) < 2.5 * len(given.triangles)


@pytest.mark.parametrize("bodies", [pegged_plate, stack, tubes, halved_ball, blocks_and_ball])
def test_they_are_sound_wherever_they_are_put(bodies):
    mended, _ = mend(shaken(bodies(), 1.0, 1))
    assert all(inspect_mesh(elsewhere(mended, place)).sound for place in range(8))


def test_bodies_with_room_between_them_stay_two_to_the_bit():
    apart = together(solid("box", size=[30, 30, 20]), solid("box", (3, 2, 21), size=[10, 10, 20]))
    assert len(flush_faces(apart)) == 0
    mended, report = mend(apart)
    np.testing.assert_array_equal(mended.vertices, apart.vertices)
    assert (report.steps, report.after.bodies) == ((), 2)


def test_a_clearance_of_a_print_is_no_contact():
    """A peg in a bore with 0.01 mm all around, a hundredth of what prints."""
    bore = Manifold.cube([30, 30, 10]) - round_bar(10, 5).translate([15, 15, 0])
    peg = round_bar(10, 4.99).translate([15, 15, 0])
    given = together(mesh_of(bore), mesh_of(peg))
    assert len(flush_faces(given)) == 0
    assert mend(given)[1].after.bodies == 2


def test_a_flush_body_with_a_hollow_keeps_it():
    shell = mesh_of(Manifold.cube([20, 20, 20]) - Manifold.cube([10, 10, 10]).translate([5, 5, 5]))
    lid = Manifold.cube([10, 10, 5]).translate([5, 5, 20 + 2e-6])
    mended, report = mend(together(shell, mesh_of(lid)))
    assert (report.after.bodies, report.after.voids) == (1, 1)
    assert volume(mended) == pytest.approx(8000 - 1000 + 500, rel=1e-6)


def test_turned_inside_out_is_refused_by_the_kernel_and_mended_all_the_same():
    one, other = (mesh_of(body) for body in halved_ball())
    mended, report = mend(together(one, Mesh(other.vertices, other.triangles[:, ::-1])))
    assert report.after.sound
    assert volume(mended) == pytest.approx(Manifold.sphere(6, 24).volume(), rel=1e-5)
    assert kernel_solid(mended) is not None
