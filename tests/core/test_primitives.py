"""Every primitive within its ranges: closed, outward, without degenerate triangles, vertices on the true surface."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.examples import examples

mm = st.floats(0.1, 500, allow_nan=False)
sides = st.integers(3, 40)
edges = st.none() | st.fixed_dictionaries(
    {"kind": st.sampled_from(["chamfer", "fillet"]), "segments": st.integers(1, 9), "share": st.floats(0.01, 0.95)}
)

FIELDS = {
    "box": {"size": st.tuples(mm, mm, mm), "edge": edges},
    "sphere": {"radius": mm, "facets": sides},
    "ellipsoid": {"radii": st.tuples(mm, mm, mm), "facets": sides},
    "dome": {"radius": mm, "facets": sides},
    "cylinder": {"radius": mm, "height": mm, "facets": sides, "edge": edges},
    "cone": {"bottom_radius": mm, "top_radius": st.just(0.0) | mm, "height": mm, "facets": sides},
    "tube": {"radius": mm, "wall": st.floats(0.05, 0.95), "height": mm, "facets": sides, "edge": edges},
    "torus": {"ring_radius": mm, "tube_radius": st.floats(0.05, 0.95), "facets": sides, "tube_facets": sides},
    "capsule": {"radius": mm, "length": st.floats(2, 20), "facets": sides},
    "egg": {"width": mm, "height": mm, "bias": st.floats(-0.8, 0.8), "facets": sides},
    "paraboloid": {"radius": mm, "height": mm, "facets": sides},
    "wedge": {"size": st.tuples(mm, mm, mm)},
    "gable": {"size": st.tuples(mm, mm, mm)},
    "prism": {"sides": sides, "radius": mm, "height": mm},
    "pyramid": {"sides": sides, "radius": mm, "height": mm, "top_radius": st.just(0.0) | mm},
    "star": {"points": st.integers(2, 20), "radius": mm, "inner_radius": st.floats(0.05, 0.95), "height": mm},
}


def build(kind, values):
    """The primitive; shares of another field become lengths."""
    values = dict(values)
    if kind == "tube":
        values["wall"] *= values["radius"]
    if kind == "torus":
        values["tube_radius"] *= values["ring_radius"]
    if kind == "capsule":
        values["length"] *= values["radius"]
    if kind == "star":
        values["inner_radius"] *= values["radius"]
    edge = values.pop("edge", None)
    if edge:
        limit = {
            "box": lambda: min(values["size"]) / 2,
            "cylinder": lambda: min(values["radius"], values["height"] / 2),
            "tube": lambda: min(values["wall"], values["height"]) / 2,
        }[kind]()
        values["edge"] = {"kind": edge["kind"], "segments": edge["segments"], "size": max(0.001, limit * edge["share"])}
    return PRIMITIVES[kind].model_validate({"kind": kind, **values})


def test_every_primitive_is_drawn_from():
    assert set(FIELDS) == set(PRIMITIVES)


@pytest.mark.parametrize("kind", PRIMITIVES)
def test_closed_outward_and_whole_over_all_its_range(kind):
    @examples(40)
    @given(st.fixed_dictionaries(FIELDS[kind]))
    def check(values):
        primitive = build(kind, values)
        mesh = primitive.mesh()
        found = inspect_mesh(mesh)
        assert found.manifold, found.findings
        assert found.findings == ()
        assert found.volume > 0
        assert found.bodies == 1
        assert found.genus == (1 if kind in ("tube", "torus") else 0)
        assert len(mesh.triangles) <= primitive.triangle_count()

    check()


@pytest.mark.parametrize("kind", [k for k in PRIMITIVES if k not in ("prism", "pyramid", "star")])
def test_the_bounding_box_is_centred(kind):
    primitive = PRIMITIVES[kind].model_validate({"kind": kind, **PRIMITIVES[kind].sample})
    low, high = primitive.mesh().bounds
    np.testing.assert_allclose(low, -high, atol=1e-12)


def test_round_ones_meet_corner_to_corner_at_their_widest():
    def widest(kind, **fields):
        vertices = PRIMITIVES[kind].model_validate({"kind": kind, "facets": 20, **fields}).mesh().vertices
        radius = np.hypot(vertices[:, 0], vertices[:, 1])
        rim = vertices[np.isclose(radius, 5)][:, :2]
        return sorted(set(map(tuple, np.round(rim, 12))))

    first = widest("cylinder", radius=5, height=3)
    assert len(first) == 20
    assert (5.0, 0.0) in first
    assert widest("sphere", radius=5) == first
    assert widest("dome", radius=5) == first
    assert widest("capsule", radius=5, length=30) == first
    assert widest("cone", bottom_radius=5, height=9) == first


def test_polygons_face_the_front_and_stars_point_back():
    prism = PRIMITIVES["prism"].model_validate({"kind": "prism", "sides": 5, "radius": 10, "height": 2}).mesh().vertices
    front = prism[np.isclose(prism[:, 1], prism[:, 1].min())]
    assert len(front) == 4
    assert math.isclose(prism[:, 1].min(), -10 * math.cos(math.pi / 5))
    star = PRIMITIVES["star"].model_validate(
        {"kind": "star", "points": 5, "radius": 10, "inner_radius": 4, "height": 2}
    )
    tip = star.mesh().vertices[np.argmax(star.mesh().vertices[:, 1])]
    np.testing.assert_allclose(tip[:2], [0, 10], atol=1e-12)


@pytest.mark.parametrize(
    ("kind", "fields", "off"),
    [
        ("sphere", {"radius": 14}, lambda p: np.linalg.norm(p, axis=1) - 14),
        ("ellipsoid", {"radii": [9, 5, 3]}, lambda p: np.linalg.norm(p / [9, 5, 3], axis=1) - 1),
        (
            "torus",
            {"ring_radius": 9, "tube_radius": 3},
            lambda p: np.hypot(np.hypot(p[:, 0], p[:, 1]) - 9, p[:, 2]) - 3,
        ),
        (
            "capsule",
            {"radius": 3, "length": 20},
            lambda p: np.hypot(np.hypot(p[:, 0], p[:, 1]), np.maximum(np.abs(p[:, 2]) - 7, 0)) - 3,
        ),
    ],
)
def test_vertices_lie_on_the_true_surface(kind, fields, off):
    vertices = PRIMITIVES[kind].model_validate({"kind": kind, "facets": 37, **fields}).mesh().vertices
    np.testing.assert_allclose(off(vertices), 0, atol=1e-12)


@pytest.mark.parametrize("kind", PRIMITIVES)
def test_stretching_by_its_own_fields_is_what_scaling_would_do(kind):
    primitive = PRIMITIVES[kind].model_validate({"kind": kind, **PRIMITIVES[kind].sample})
    for factors in ((2, 2, 2), (2, 2, 3), (1, 2, 3)):
        stretched = primitive.stretched(factors)
        if stretched is not None:
            np.testing.assert_allclose(stretched.mesh().bounds, primitive.mesh().bounds * factors, atol=1e-9)
    assert primitive.stretched((2, 2, 2)) is not None
