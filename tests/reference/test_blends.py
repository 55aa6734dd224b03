"""Blends against closed forms and against their field sampled independently."""

import math

import numpy as np
import pytest

from tests.building import box, evaluated, part


def blended(blend, *parts, **more):
    return evaluated({"id": "whole", "join": {"blend": blend, "parts": list(parts), **more}})


def on_surface(mesh, number, seed=0):
    """Points spread over a mesh by area."""
    random = np.random.default_rng(seed)
    corners = mesh.corners
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    chosen = corners[random.choice(len(area), number, p=area / area.sum())]
    weights = random.dirichlet([1, 1, 1], number)
    return np.einsum("ij,ijk->ik", weights, chosen)


MIDDLES, RADIUS, BLEND = np.array([[0.0, 0, 0], [18, 6, 4]]), 15.0, 4.0


def spheres(**more):
    parts = [part(f"s{i}", "sphere", at=at, radius=RADIUS, facets=128) for i, at in enumerate(MIDDLES)]
    return blended(BLEND, *parts, **more)


def distances(points):
    return [np.linalg.norm(points - m, axis=1) - RADIUS for m in MIDDLES]


def to_rolled(points):
    """Distances to the way of a ball that rolls along the seam of the two spheres, from geometry: its middle goes round
    the axis at the same distance, RADIUS + BLEND, from both middles, so that it leaves a torus.
    """
    axis = (MIDDLES[1] - MIDDLES[0]) / np.linalg.norm(MIDDLES[1] - MIDDLES[0])
    half = np.linalg.norm(MIDDLES[1] - MIDDLES[0]) / 2
    ring = math.sqrt((RADIUS + BLEND) ** 2 - half**2)
    along = (points - MIDDLES.mean(axis=0)) @ axis
    out = np.linalg.norm(points - MIDDLES.mean(axis=0) - along[:, None] * axis, axis=1)
    return np.hypot(out - ring, along) - BLEND


def test_two_spheres_run_together_as_a_ball_that_rolls_between_them_leaves_it():
    points = on_surface(spheres().mesh, 20_000)
    a, b = distances(points)
    near = (a > 0.2) & (b > 0.2)
    assert near.sum() > 300, "there is a smooth run"
    assert np.percentile(np.abs(to_rolled(points[near])), 99) < 0.02
    assert np.percentile(np.minimum(np.abs(a), np.abs(b))[~near], 99) < 0.2


def test_away_from_the_seam_the_vertices_are_on_the_spheres():
    result = spheres()
    a, b = distances(result.mesh.vertices)
    far = np.maximum(np.abs(a), np.abs(b)) > BLEND + 2 * BLEND / 6  # two cells of the lattice
    assert far.sum() > 5000
    assert np.minimum(np.abs(a), np.abs(b))[far].max() < 1e-5


def test_away_from_the_seam_flat_faces_stay_in_their_planes():
    vertices = blended(
        2, box("a", size=(20, 20, 10)), part("b", "cylinder", at=(0, 0, 8), radius=5, height=20)
    ).mesh.vertices
    below = vertices[vertices[:, 2] < 5 - 1e-9]
    planes = np.abs(np.abs(below) - [10, 10, 5])
    outside = np.hypot(below[:, 0], below[:, 1]) > 5 + 2.5
    assert planes[outside].min(axis=1).max() < 1e-5


@pytest.mark.parametrize("fineness", [0.5, 0.25])
def test_a_post_on_a_plate_gets_a_fillet_of_the_radius(fineness):
    """A ball of radius q rolled around a post of radius R leaves, by Pappus, what a square of q less a quarter disc
    turned about the axis is: area q² (1 - pi/4), its centroid at R + q (10 - 3 pi) / (3 (4 - pi)).
    """
    R, q = 6.0, 3.0
    parts = [box("plate", size=(40, 40, 6)), part("post", "cylinder", at=(0, 0, 10), radius=R, height=20, facets=256)]
    added = blended(q, *parts, fineness=fineness).solid.volume - evaluated(*parts).solid.volume
    centroid = R + q * (10 - 3 * math.pi) / (3 * (4 - math.pi))
    assert added == pytest.approx(2 * math.pi * centroid * q * q * (1 - math.pi / 4), rel=0.03)


def test_the_rim_of_a_hole_is_rounded_by_the_radius():
    """The same quarter, turned about the axis of a hole of radius R: its centroid lies outside R."""
    R, q = 6.0, 2.0
    parts = [
        box("plate", size=(40, 40, 10)),
        part("hole", "cylinder", op="difference", radius=R, height=30, facets=256),
    ]
    taken = evaluated(*parts).solid.volume - blended(q, *parts, fineness=0.25).solid.volume
    centroid = R + q * (10 - 3 * math.pi) / (3 * (4 - math.pi))
    assert taken == pytest.approx(2 * 2 * math.pi * centroid * q * q * (1 - math.pi / 4), rel=0.03)
