"""Blends against closed forms and against their field sampled independently."""

import itertools
import math

import numpy as np
import pytest
from scipy.spatial import cKDTree

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


@pytest.mark.parametrize("turn", [0, 30, 15])
def test_faces_that_meet_at_an_angle_get_a_fillet_of_the_radius(turn):
    """From geometry: a ball that touches both faces has its middle at its radius from either. A post that leans by
    `turn` stands at 90° + turn to the plate on one side; on the other, at 90° - turn, the ball would touch further than
    its radius from the other face, where nothing changes: there the surface is the one that ends at the radius.
    """
    radius, middle = 5.0, np.array([0.0, 0, 18])
    mesh = blended(
        radius, box("plate", (0, 0, -5), (80, 40, 10)), box("post", middle, (10, 30, 60), turn=(0, turn, 0))
    ).mesh
    points = on_surface(mesh, 60_000)
    points = points[np.abs(points[:, 1]) < 5]
    lean = math.radians(turn)
    for side in (1, -1):
        face = side * np.array([math.cos(lean), -math.sin(lean)])  # in x and z
        # The middle of the ball: z is the radius, and it is as far from the face.
        ball = np.array([(5 + radius + face @ middle[[0, 2]] - face[1] * radius) / face[0], radius])
        out = points[:, [0, 2]] - ball
        # How much of the way from there leads towards the face, and how much down to the plate.
        to_face, down = np.linalg.solve(-np.column_stack([face, [0, 1]]), out.T) / radius
        from_ball = np.linalg.norm(out, axis=1)
        if turn and side > 0:
            from_face, from_plate = out @ face + radius, out[:, 1] + radius
            from_ball = np.hypot(radius - from_face, radius - from_plate)
            to_face, down = 1 - from_face / radius, 1 - from_plate / radius
        near = (to_face > 0.1) & (down > 0.1) & (from_ball < 1.3 * radius)
        near &= (out @ face > -0.9 * radius) & (out[:, 1] > -0.9 * radius)
        assert near.sum() > 30, "there is a smooth run"
        assert np.percentile(np.abs(from_ball[near] - radius), 99) < 0.03


def capsule_distance(points, low, high, radius):
    way = high - low
    share = np.clip((points - low) @ way / (way @ way), 0, 1)
    return np.linalg.norm(points - low - share[:, None] * way, axis=1) - radius


def box_distance(points, middle, size):
    beyond = np.abs(points - middle) - np.array(size) / 2
    return np.linalg.norm(np.maximum(beyond, 0), axis=1) + np.minimum(beyond.max(axis=1), 0)


def test_a_figure_is_what_no_ball_of_the_radius_reaches():
    """Closing by a ball, as mathematical morphology defines it: the air is all balls of the radius that lie outside of
    every part. Their middles are found on a dense grid by plain formulas of the parts; the surface has to be at exactly
    the radius from the nearest of them, and the volume what is farther.
    """
    radius, step = 3.0, 0.5
    balls = [((0, 0, 20), 14.0), ((0, 0, 39), 9.0)]
    limbs = [((8, 0, 24), (27, -3, 24), 4.0), ((-8, 0, 22), (-27, 3, 22), 4.0), ((9, 0, 10), (11, 0, -10), 4.5)]
    limbs.append(((-9, 0, 10), (-11, 0, -10), 4.5))
    feet = [((11, -3, -12), (9, 16, 5)), ((-11, -3, -12), (9, 16, 5))]

    parts = [part(f"ball{i}", "sphere", at, radius=r, facets=256) for i, (at, r) in enumerate(balls)]
    for i, (low, high, r) in enumerate(limbs):
        way = np.subtract(high, low)
        length = float(np.linalg.norm(way))
        lean, about = math.acos(way[2] / length), math.atan2(way[1], way[0])
        turn = (0, math.degrees(lean), math.degrees(about))
        middle = np.add(low, high) / 2
        parts.append(part(f"limb{i}", "capsule", middle, turn, radius=r, length=length + 2 * r, facets=256))
    parts += [box(f"foot{i}", at, size) for i, (at, size) in enumerate(feet)]
    result = blended(radius, *parts)

    def distances(points):
        found = [np.linalg.norm(points - np.array(at), axis=1) - r for at, r in balls]
        found += [capsule_distance(points, np.array(a, float), np.array(b, float), r) for a, b, r in limbs]
        found += [box_distance(points, np.array(at), size) for at, size in feet]
        return np.array(found)

    def onto(points, some):
        """Where these distances are the radius, by Newton's steps along their slopes."""
        for _ in range(6):
            off = distances(points)[some] - radius
            slopes = np.stack(
                [distances(points + e)[some] - distances(points - e)[some] for e in 1e-4 * np.eye(3)], axis=-1
            )
            points = points - np.einsum("pij,jp->pi", np.linalg.pinv(slopes.transpose(1, 0, 2) / 2e-4, rcond=1e-3), off)
        every = distances(points)
        return points[(np.abs(every[some] - radius).max(axis=0) < 1e-6) & (every.min(axis=0) > radius - 1e-6)]

    axes = [np.arange(low, high, step) for low, high in [(-36, 36), (-21, 21), (-22, 56)]]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
    every = distances(grid)
    at_grid = every.min(axis=0)
    # A ball touches one part or, where the surface is run together, two or three.
    some_of_them = [list(some) for n in (1, 2, 3) for some in itertools.combinations(range(len(every)), n)]
    close = np.abs(every - radius) < 1.5 * step
    middles = cKDTree(np.concatenate([onto(grid[close[some].all(axis=0)], some) for some in some_of_them]))

    off = np.abs(middles.query(on_surface(result.mesh, 20_000))[0] - radius)
    assert np.percentile(off, 99) < 0.05
    share = (at_grid < 0).astype(float)
    near = np.abs(at_grid) < radius
    share[near] = np.clip(0.5 + (middles.query(grid[near])[0] - radius) / step, 0, 1)
    assert result.inspection.volume == pytest.approx(share.sum() * step**3, rel=0.002)
    assert result.inspection.volume > 1.005 * (at_grid < 0).sum() * step**3, "it is run together"
