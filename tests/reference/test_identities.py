"""What must hold between joins whatever the parts: inclusion–exclusion, De Morgan, order, Euler (set algebra).

Volumes agree to what the contact distance of 0.00001 mm can move: about a hundred-thousandth.
"""

import igl
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.evaluate.evaluator import Evaluator
from tests.building import box, evaluated, join, part, piece
from tests.drawn import FORMS
from tests.examples import examples

at = st.tuples(*[st.floats(-6, 6)] * 3)
turn = st.tuples(*[st.floats(-180, 180)] * 3)
shape = st.sampled_from(FORMS)
solid = st.tuples(shape, at, turn)


def placed(name, values, op="union"):
    primitive, position, rotation = values
    return {"id": name, "op": op, "primitive": primitive, "place": {"position": position, "rotation": rotation}}


def volume(*parts):
    return Evaluator().evaluate(piece(*parts)).inspection.volume


@examples(60)
@given(solid, solid)
def test_inclusion_and_exclusion(a, b):
    union = volume(placed("a", a), placed("b", b))
    shared = volume(placed("a", a), placed("b", b, "intersection"))
    assert union + shared == pytest.approx(volume(placed("a", a)) + volume(placed("b", b)), rel=1e-5)


@examples(60)
@given(solid, solid)
def test_what_is_cut_and_what_is_shared_make_the_whole(a, b):
    cut = join("cut", placed("a", a), placed("b", b, "difference"))
    shared = join("shared", placed("c", a), placed("d", b, "intersection"))
    assert volume(cut, shared) == pytest.approx(volume(placed("a", a)), rel=1e-5)


@examples(40)
@given(solid, solid)
def test_de_morgan_inside_a_box(a, b):
    """Box − (A ∪ B) = (Box − A) ∩ (Box − B)."""
    room = box("room", size=(40, 40, 40))
    left = volume(room, {**join("j", placed("a", a), placed("b", b)), "op": "difference"})
    without_b = {**join("k", box("room2", size=(40, 40, 40)), placed("b", b, "difference")), "op": "intersection"}
    right = volume(join("h", room, placed("a", a, "difference")), without_b)
    assert left == pytest.approx(right, rel=1e-6)


@examples(30)
@given(st.lists(solid, min_size=3, max_size=5), st.randoms(use_true_random=False))
def test_union_does_not_depend_on_order(solids, random):
    parts = [placed(f"p{i}", s) for i, s in enumerate(solids)]
    before = volume(*parts)
    random.shuffle(parts)
    assert volume(*parts) == pytest.approx(before, rel=1e-5)


@examples(40)
@given(
    st.lists(solid, min_size=2, max_size=4),
    st.lists(st.sampled_from(["union", "difference", "intersection"]), min_size=3, max_size=3),
)
def test_every_result_is_a_closed_manifold_that_euler_agrees_with(solids, ops):
    """V − E + F = 2 (bodies + voids − genus) (Euler, Poincaré)."""
    parts = [placed(f"p{i}", s, "union" if i == 0 else ops[i - 1]) for i, s in enumerate(solids)]
    result = Evaluator().evaluate(piece(*parts))
    found = result.inspection
    if found.triangles == 0:
        return
    edges = np.unique(
        np.sort(
            np.stack([result.mesh.triangles, np.roll(result.mesh.triangles, 1, axis=1)], -1).reshape(-1, 2), axis=1
        ),
        axis=0,
    )
    # Bodies that happen to meet in a point or edge are told; nothing else may be wrong.
    assert found.manifold or {f.kind for f in found.findings} & {"overshared_edges", "pinched_vertices"}
    assert found.vertices - len(edges) + found.triangles == 2 * (found.bodies + found.voids - found.genus)


@pytest.mark.parametrize(
    ("parts", "genus"),
    [
        ([part("a", "torus", ring_radius=9, tube_radius=2)], 1),
        ([box("a", size=(9, 9, 9)), part("b", "cylinder", op="difference", radius=1, height=20)], 1),
        (
            [part("a", "torus", ring_radius=9, tube_radius=2, _copies={"kind": "row", "count": 4, "step": [12, 0, 0]})],
            7,
        ),
        ([part("a", "sphere", radius=9), part("b", "sphere", op="difference", radius=7)], 0),
        (
            [
                part("a", "cylinder", radius=9, height=9),
                part("b", "cylinder", (0, 0, 2), op="difference", radius=7, height=9),
            ],
            0,
        ),
    ],
)
def test_genus(parts, genus):
    """Of a ring, a pierced bead, a chain of overlapping rings (4 rings, 3 crossings more), a hollow ball, a cup."""
    assert evaluated(*parts).inspection.genus == genus


def test_points_are_inside_exactly_when_the_formulas_say():
    """Membership of random points against analytic primitives: (sphere ∪ box) − cylinder."""
    result = evaluated(
        part("a", "sphere", radius=6, facets=200),
        box("b", (5, 0, 0), (8, 4, 6)),
        part("c", "cylinder", op="difference", radius=2, height=30, facets=200),
    )
    points = np.random.default_rng(3).uniform([-7, -7, -7], [10, 7, 7], (4000, 3))
    sphere = np.linalg.norm(points, axis=1) - 6
    boxed = np.max(np.abs(points - [5, 0, 0]) - [4, 2, 3], axis=1)
    bored = np.hypot(points[:, 0], points[:, 1]) - 2
    clear = (np.abs(sphere) > 0.02) & (np.abs(boxed) > 1e-6) & (np.abs(bored) > 0.02)
    expected = ((sphere < 0) | (boxed < 0)) & (bored > 0)

    inside = igl.fast_winding_number(result.mesh.vertices, result.mesh.triangles, points) > 0.5
    assert np.array_equal(inside[clear], expected[clear])
