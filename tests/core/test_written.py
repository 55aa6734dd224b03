"""What is told of a piece is told of its file: rounded to float32, slivers closed, crossings found."""

import io
import math

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.pieces import PieceFile, asset_bytes
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.stl import stl_file
from noble_clay.core.formats.threemf_write import Body, write_threemf_of
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.mesh.affine import IDENTITY
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.written import as_decimals, as_float32, not_cancelled, written
from tests.building import box, evaluated, join, part, piece
from tests.damage import primitive
from tests.examples import examples

NO_PARTS = np.zeros(0, dtype=np.int64)
HARMLESS = {"degenerate_faces", "loose_bodies"}


def read_back(document, result):
    """The piece's STL file, as anyone would read it: equal corners are one point."""
    return stl_file(piece_bytes(document, result, "stl")).mesh


def gables(number, size, away):
    ring = {"kind": "ring", "count": number, "axis": "z", "angle": 360 / number}
    return part("g", "gable", (0, away, 0), size=size, _copies=ring)


def plates(thickness, *turns):
    return [box(f"p{i}", size=(40, 40, thickness), turn=turn) for i, turn in enumerate(turns)]


@pytest.mark.parametrize(
    "parts",
    [
        *([gables(n, [6, 4, 5], 2)] for n in (3, 5, 7, 9, 12)),
        *([gables(n, [6, 6, 5], 8)] for n in (7, 9, 12)),
        plates(0.05, (0, 0, 0), (31, 7, 53), (12, 80, 1)),
        plates(0.4, (0, 0, 0), (0.01, 0, 0), (45, 0, 90)),
        [
            join(
                "far",
                box("a", size=(9, 9, 9)),
                part("b", "sphere", (4, 4, 4), radius=5),
                place={"position": [9e4, -4e4, 0]},
            )
        ],
        [join("tiny", *plates(0.3, (0, 0, 0), (40, 0, 0)), place={"scale": [0.002] * 3, "position": [70, 0, 0]})],
    ],
)
def test_the_file_is_what_the_piece_is_said_to_be(parts):
    document = piece(*parts)
    result = Evaluator().evaluate(document)
    found = inspect_mesh(read_back(document, result))
    assert found.manifold == result.inspection.manifold
    doubled = {f.kind for f in found.findings} & {"duplicate_faces", "self_intersections", "open_edges"}
    assert not doubled
    assert found.volume == pytest.approx(result.inspection.volume, rel=1e-3, abs=1e-6)


TURN = st.sampled_from([0, 0, 30, 45, 90, 17.3, 200.1])
SPOT = st.floats(-9, 9).map(lambda v: round(v, 2))
SHAPES = st.sampled_from(
    [
        ("box", {"size": [8, 5, 0.1]}),
        ("box", {"size": [6, 6, 6]}),
        ("gable", {"size": [7, 4, 5]}),
        ("cylinder", {"radius": 3, "height": 9, "facets": 12}),
        ("sphere", {"radius": 4, "facets": 10}),
    ]
)


@examples(60)
@given(
    st.lists(st.tuples(SHAPES, st.tuples(SPOT, SPOT, SPOT), st.tuples(TURN, TURN, TURN)), min_size=2, max_size=7),
    st.lists(st.sampled_from(["union", "difference", "intersection"]), min_size=7, max_size=7),
    st.sampled_from([(0, 0, 0), (500, -300, 0), (90_000, 0, 60_000)]),
)
def test_of_any_piece_the_file_is_as_sound_as_is_said(shapes, ops, far):
    parts = [
        part(f"p{i}", kind, at, turn, ops[i] if i else "union", **fields)
        for i, ((kind, fields), at, turn) in enumerate(shapes)
    ]
    document = piece(join("all", *parts, place={"position": list(far)}))
    result = Evaluator().evaluate(document)
    if result.inspection.triangles == 0:
        return
    found = inspect_mesh(read_back(document, result))
    # What lies within the contact distance counts as touching, also where a file tells the points apart.
    assert found.manifold or not result.inspection.manifold
    if result.inspection.manifold:
        told = {f.kind for f in result.inspection.findings}  # rounding may push a surface through another
        assert {f.kind for f in found.findings} <= HARMLESS | told


def test_nothing_moves_by_more_than_the_rounding():
    result = evaluated(gables(9, [6, 6, 5], 8), part("s", "sphere", (3, 2, 40), radius=7.7))
    exact, after = result.mesh.vertices, result.written.mesh.vertices
    nearest = np.abs(after[:, None] - exact[None]).max(axis=2).min(axis=1)
    assert nearest.max() <= np.spacing(np.float32(np.abs(exact).max()))
    assert result.inspection.volume == pytest.approx(
        float(trimesh.Trimesh(exact, result.mesh.triangles).volume), rel=1e-9
    )


def test_layers_on_the_same_points_cancel_each_other():
    up, down = [0, 1, 2], [2, 1, 0]
    assert not_cancelled(np.array([up, down])).tolist() == [False, False]
    assert not_cancelled(np.array([up, down, [1, 2, 0]])).tolist() == [True, False, False]
    assert not_cancelled(np.array([up, [0, 1, 3]])).tolist() == [True, True]
    assert not_cancelled(np.array([up, [1, 2, 0]])).tolist() == [True, True], "doubled, not opposed"


def test_a_slit_thinner_than_a_float32_can_tell_is_closed():
    cube = primitive("box", size=[4, 4, 4])
    low = Mesh(cube.vertices + [100, 0, 0], cube.triangles)
    apart = np.nextafter(102.0, 103.0)  # in double precision; 102 in single
    mirrored = low.vertices * [-1, 1, 1] + [102 + apart, 0, 0]
    high = Mesh(mirrored, low.triangles[:, ::-1])
    both = Mesh(np.concatenate([low.vertices, high.vertices]), np.concatenate([low.triangles, high.triangles + 8]))
    found = written(both, np.repeat([0, 1], 12))
    assert len(found.mesh.triangles) == 20 and len(found.part_of) == 20
    assert inspect_mesh(found.mesh).volume == pytest.approx(128)
    assert inspect_mesh(found.mesh).manifold and inspect_mesh(found.mesh).bodies == 1


@pytest.mark.parametrize("turn", [(0, 0, 0), (10, 20, 30)])
@pytest.mark.parametrize("beside", [None, box("c", (0, 0, 30), (2, 2, 2))])
def test_an_intersection_that_shares_only_a_face_leaves_nothing(turn, beside):
    flat = join(
        "j", box("a", size=(4, 4, 4)), box("b", (4, 1, 0), (4, 4, 4), op="intersection"), place={"rotation": list(turn)}
    )
    result = evaluated(*([beside, flat] if beside else [flat]))
    assert result.inspection.triangles == (12 if beside else 0)
    assert result.inspection.sound is (beside is not None)


def crossed():
    """Two boxes through each other, as one mesh."""
    a, b = primitive("box", size=[10, 10, 10]), primitive("box", size=[4, 4, 20])
    return Mesh(np.concatenate([a.vertices, b.vertices]), np.concatenate([a.triangles, b.triangles + len(a.vertices)]))


def with_mesh(mesh, *parts):
    sha256, data = asset_bytes(mesh)
    document = piece({"id": "m", "mesh": {"asset": sha256}}, *parts)
    return document, Evaluator(assets=PieceFile(document, {sha256: data}).loader()).evaluate(document)


def test_a_mesh_that_runs_through_itself_is_not_sound_until_the_crossing_is_cut_away():
    document, result = with_mesh(crossed())
    kinds = {f.kind: f.count for f in result.inspection.findings}
    assert kinds["self_intersections"] > 0 and not result.inspection.sound
    assert (
        kinds["self_intersections"]
        == {f.kind: f.count for f in inspect_mesh(read_back(document, result)).findings}["self_intersections"]
    )
    _, cut = with_mesh(crossed(), box("cut", (0, 0, 0), (8, 8, 40), op="difference"))
    assert "self_intersections" not in {f.kind for f in cut.inspection.findings}
    _, whole = with_mesh(primitive("sphere", radius=6, facets=24), box("b", (5, 0, 0), (6, 3, 3)))
    assert whole.inspection.sound


def test_a_part_that_is_bent_and_stays_clear_of_itself_is_sound():
    rod = {"kind": "cylinder", "radius": 3, "height": 40, "facets": 24}
    assert evaluated(
        {"id": "r", "primitive": rod, "changes": [{"kind": "bend", "angle": 350, "axis": "z"}]}
    ).inspection.sound


def test_a_face_between_two_parts_holds(tmp_path):
    parts = box("a", size=(6, 6, 6)), box("b", (0, 0, 6), (6, 6, 6))
    result = evaluated(*parts)
    assert result.inspection.sound and result.inspection.volume == pytest.approx(432)
    data = piece_bytes(piece(*parts), result, "stl")
    assert math.isclose(trimesh.load(io.BytesIO(data), file_type="stl").volume, 432, rel_tol=1e-6)


@pytest.mark.parametrize("size", [0.01, 1, 10, 40, 300, 4000])
def test_points_are_as_a_3mf_gives_them_back(size):
    rng = np.random.default_rng(3)
    points = as_float32(rng.uniform(-size, size, (999, 3)))
    mesh = Mesh(points, np.arange(999).reshape(-1, 3))
    again = read_mesh(write_threemf_of([Body(mesh, "points", None, [IDENTITY])], "points"), "3mf").mesh
    np.testing.assert_array_equal(again.vertices, as_decimals(points))
