"""Blends: closed, only near the seam, the same by every way of knowing distances, and refused in words."""

import numpy as np
import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, evaluated, join, part, piece

OPS = ["union", "difference", "intersection"]


def blended(blend, *parts, **more):
    return evaluated({"id": "whole", "join": {"blend": blend, "parts": list(parts), **more}})


def pair(op):
    return box("a", size=(20, 20, 10)), part("b", "cylinder", at=(3, 2, 4), op=op, radius=5, height=24, facets=48)


@pytest.mark.parametrize("op", OPS)
def test_a_blend_is_one_closed_body_and_goes_the_right_way(op):
    sharp, smooth = evaluated(join("whole", *pair(op))), blended(2, *pair(op))
    assert smooth.inspection.sound
    if op == "union":
        assert smooth.solid.volume > sharp.solid.volume
    else:
        assert smooth.solid.volume < sharp.solid.volume
    assert set(smooth.part_ids) == {"a", "b"}
    # Where the lattice finds it, a cylinder is round: up to its 48 sides' chord error outside them.
    assert smooth.solid.bounds[:, :2] == pytest.approx(sharp.solid.bounds[:, :2], abs=5 * (1 - np.cos(np.pi / 48)))


@pytest.mark.parametrize("op", OPS)
def test_away_from_the_seam_every_triangle_is_one_of_the_sharp_result(op):
    fields = {"radius": 30 if op == "intersection" else 5, "height": 24, "facets": 128}
    at = (3, 2, -10) if op == "intersection" else (3, 2, 4)
    parts = box("a", size=(20, 20, 10)), part("b", "cylinder", at=at, op=op, **fields)
    sharp, smooth = evaluated(join("whole", *parts)).mesh, blended(2, *parts).mesh
    body = part_distance("box", (0, 0, 0), size=(20, 20, 10))
    tool = part_distance("cylinder", at, **fields)

    def far(mesh):
        seam = np.maximum(np.abs(body(mesh.vertices)), np.abs(tool(mesh.vertices)))
        return {tuple(np.round(v, 6)) for v in mesh.vertices[seam > 2.6]}

    assert far(sharp) and far(sharp) <= far(smooth)


def part_distance(kind, at, **fields):
    form = PRIMITIVES[kind].model_validate({"kind": kind, **fields}).form()
    return lambda points: form(points - np.array(at))


SAMPLED = {"bricks", "cells", "gear", "limb", "thread"}
"""Forms whose distance is sampled from the mesh, as they are put down: without a closed form, or of many sides."""


@pytest.mark.parametrize("kind", sorted(SAMPLED))
def test_other_forms_are_sampled_and_run_together_all_the_same(kind):
    cls = PRIMITIVES[kind]
    assert cls.model_validate({"kind": kind, **cls.sample}).form() is None
    sharp = evaluated(part("it", kind, **cls.sample), part("ball", "sphere", at=(0, 0, 6), radius=6))
    found = blended(1.5, part("it", kind, **cls.sample), part("ball", "sphere", at=(0, 0, 6), radius=6))
    assert found.inspection.manifold
    assert sharp.solid.volume < found.solid.volume < sharp.solid.volume * 1.35


@pytest.mark.parametrize("kind", sorted(set(PRIMITIVES) - SAMPLED))
def test_closed_forms_agree_with_the_distance_to_the_mesh(kind):
    cls = PRIMITIVES[kind]
    primitive = cls.model_validate({"kind": kind, **cls.sample})
    mesh, form = primitive.mesh(), primitive.form()
    points = np.random.default_rng(1).uniform(-20, 20, (4000, 3))
    by_mesh = MeshDistance(mesh)(points)
    inside = by_mesh < 0
    assert 0 < inside.sum() < len(points)
    assert np.abs(form(points) - by_mesh).max() <= form.error * 1.01 + 1e-9


def test_parts_farther_apart_than_the_blend_stay_as_they_are():
    apart = [part("a", "sphere", radius=5), part("b", "sphere", at=(20, 0, 0), radius=5)]
    assert blended(2, *apart).solid.volume == pytest.approx(evaluated(*apart).solid.volume)


def test_parts_nearer_than_the_blend_are_bridged():
    near = [part("a", "sphere", radius=5), part("b", "sphere", at=(10.4, 0, 0), radius=5)]
    assert evaluated(*near).inspection.bodies == 2
    assert blended(2, *near).inspection.bodies == 1


def test_every_step_of_a_list_is_blended_and_copies_enter_together():
    parts = [
        part("body", "sphere", radius=10, facets=48),
        part("limb", "capsule", at=(10, 0, 0), turn=(0, 90, 0), radius=3, length=16, facets=24)
        | {"copies": {"kind": "ring", "count": 4, "axis": "z", "angle": 90}},
        part("mouth", "sphere", at=(0, -10, 3), op="difference", radius=4, facets=24),
    ]
    result = blended(1.5, *parts)
    assert result.inspection.sound
    assert set(result.part_ids) == {"body", "limb", "mouth"}


def test_a_body_of_a_part_that_is_scaled_is_measured_by_its_mesh():
    stretched = {**part("b", "sphere", at=(8, 0, 0), radius=5)}
    stretched["place"]["scale"] = [1, 2, 1]
    assert blended(1, box("a", size=(10, 10, 10)), stretched).inspection.sound


@pytest.mark.parametrize(
    ("blend", "more", "words"),
    [
        (60, {}, ["whole", "join.blend", "at most 24 mm"]),
        (2, {"fineness": 0.01}, ["whole", "coarser"]),
    ],
)
def test_a_blend_that_cannot_be_is_refused(blend, more, words):
    with pytest.raises(PieceError) as refusal:
        blended(blend, *pair("union"), **more)
    for word in words:
        assert word in refusal.value.describe()


def test_a_step_that_stays_is_not_blended_again():
    evaluator = Evaluator()

    def document(x):
        parts = [*pair("union"), part("c", "sphere", at=(x, -10, 0), radius=4, facets=24)]
        return piece({"id": "whole", "join": {"blend": 1.5, "parts": parts}})

    evaluator.evaluate(document(0))
    misses = evaluator.cache.misses
    evaluator.evaluate(document(1))
    assert evaluator.cache.misses - misses <= 6
