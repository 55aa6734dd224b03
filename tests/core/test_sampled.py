"""Distances of what has no closed form of its own: stretched flat forms exactly, others sampled near the surface."""

import numpy as np
import pytest

from noble_clay.core.field import sampled
from noble_clay.core.field.sampled import sampled_form
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, evaluated, join, part
from tests.damage import primitive

FACTORS = (1.6, 0.7, 1.2)
EXACT = ["box", "cylinder", "drop", "gable", "heart", "outline", "prism", "pyramid", "star", "tube", "wedge"]


def stretched_mesh(values):
    mesh = values.mesh()
    return Mesh(mesh.vertices * FACTORS, mesh.triangles)


@pytest.mark.parametrize("kind", EXACT)
def test_a_stretched_flat_form_is_as_far_away_as_its_mesh(kind):
    values = PRIMITIVES[kind].model_validate({"kind": kind, **PRIMITIVES[kind].sample})
    mesh = stretched_mesh(values)
    low, high = mesh.bounds
    points = np.random.default_rng(1).uniform(low - 5, high + 5, (2_000, 3))
    assert np.allclose(values.form_of_stretched(FACTORS)(points), MeshDistance(mesh)(points), atol=1e-9)


def test_what_is_round_both_ways_has_no_closed_form_when_stretched():
    for kind in ("torus", "capsule", "egg", "limb"):
        values = PRIMITIVES[kind].model_validate({"kind": kind, **PRIMITIVES[kind].sample})
        assert values.form_of_stretched(FACTORS) is None


@pytest.mark.parametrize("cell", [0.3, 0.6])
@pytest.mark.parametrize("kind", ["torus", "star", "egg", "thread"])
def test_samples_lie_on_the_distance_wherever_it_was_worked_out(kind, cell):
    """At every point of the lattice: edges, the middle of the part, where it curves."""
    mesh = stretched_mesh(PRIMITIVES[kind].model_validate({"kind": kind, **PRIMITIVES[kind].sample}))
    form, distance = sampled_form(mesh, cell, 2.0), MeshDistance(mesh)
    origin, used = form.numbers[:3], form.numbers[3]
    low, high = (np.floor((corner - origin) / used).astype(int) for corner in mesh.bounds)
    points = origin + np.random.default_rng(2).integers(low, high + 1, (8_000, 3)) * used
    true = distance(points)
    near = np.abs(true) < 2.0
    off = np.abs(form(points) - true)[near] / used
    assert near.sum() > 1_000
    assert np.percentile(off, 99) < 0.05
    assert off.max() < 0.15


def test_most_of_the_samples_follow_from_every_other_one(monkeypatch):
    asked = []
    real = MeshDistance._to_feet
    monkeypatch.setattr(MeshDistance, "_to_feet", lambda self, points: asked.append(len(points)) or real(self, points))
    form = sampled_form(primitive("torus", ring_radius=12, tube_radius=5, facets=64, tube_facets=32), 0.3, 1.5)
    assert sum(asked) < form.values.size / 3


def test_an_oval_post_in_a_soft_list_is_not_sampled(monkeypatch):
    def fail(*given):
        raise AssertionError("sampled")

    monkeypatch.setattr(sampled, "sampled_form", fail)
    oval = part("b", "cylinder", radius=4, height=30, facets=48)
    oval["place"] = {"scale": [1.5, 1, 1]}
    soft = join("j", box("a", size=(20, 20, 10)), oval)
    soft["join"]["blend"] = 2
    assert evaluated(soft).inspection.manifold


def test_a_soft_list_of_a_stretched_ring_is_where_the_ring_is():
    ring = part("b", "torus", ring_radius=9, tube_radius=3, facets=64, tube_facets=32)
    ring["place"] = {"scale": [1.4, 1, 0.8], "position": [0, 0, 6]}
    soft = join("j", box("a", size=(40, 40, 6)), ring)
    soft["join"]["blend"] = 2
    mesh = evaluated(soft).mesh
    raw = primitive("torus", ring_radius=9, tube_radius=3, facets=64, tube_facets=32)
    alone = MeshDistance(Mesh(raw.vertices * (1.4, 1, 0.8) + (0, 0, 6), raw.triangles))
    beyond = mesh.vertices[mesh.vertices[:, 2] > 6]
    assert len(beyond) > 500
    assert np.abs(alone(beyond)).max() < 0.03
