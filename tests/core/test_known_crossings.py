"""What crosses in a mesh, told by what is known of the one before it: the same as looked for anew."""

import numpy as np
import pytest

from noble_clay.core.mend import known_crossings as room
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mesh import Mesh
from tests.damage import primitive, together

BALLS = together(*(primitive("sphere", (x, 0.3 * x, 0.1 * x), radius=5, facets=32) for x in (0, 4, 8)))


def moved(mesh, draw):
    """Its box stays, by which is told what is apart by rounding only."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    within = np.flatnonzero(((mesh.vertices > low) & (mesh.vertices < high)).all(axis=1))
    points = mesh.vertices.copy()
    points[draw.choice(within, 30)] *= 0.95
    return Mesh(points, mesh.triangles)


def fewer(mesh, draw):
    return mesh.keep(draw.random(len(mesh.triangles)) > 0.1).compact()


def mixed(mesh, draw):
    """Other indices, every triangle begun at another corner, some turned over."""
    index = draw.permutation(len(mesh.vertices))
    points = np.empty_like(mesh.vertices)
    points[index] = mesh.vertices
    triangles = np.roll(index[mesh.triangles], 1, axis=1)[draw.permutation(len(mesh.triangles))]
    triangles[::7] = triangles[::7, ::-1]
    return Mesh(points, triangles)


def parted(mesh, draw):
    """Some triangles with corners of their own where they had those of their neighbours."""
    own = draw.choice(len(mesh.triangles), 40, replace=False)
    triangles = mesh.triangles.copy()
    triangles[own] = len(mesh.vertices) + np.arange(120).reshape(-1, 3)
    return Mesh(np.concatenate([mesh.vertices, mesh.corners[own].reshape(-1, 3)]), triangles)


def doubled(mesh, draw):
    return Mesh(mesh.vertices, np.concatenate([mesh.triangles, mesh.triangles[:50]]))


@pytest.mark.parametrize("step", [moved, fewer, mixed, parted, doubled])
def test_after_a_step_the_same_pairs_are_known_as_are_found_anew(step, monkeypatch):
    looked_at = []

    def counted(mesh, slack=None, fresh=None):
        looked_at.append(len(mesh.triangles) if fresh is None else int(fresh.sum()))
        return crossing_pairs(mesh, slack, fresh)

    monkeypatch.setattr(room, "crossing_pairs", counted)
    draw = np.random.default_rng(5)
    mesh = BALLS
    assert len(known_crossings(mesh)) > 100
    for _ in range(3):
        after = step(mesh, draw)
        known = known_crossings(after)
        np.testing.assert_array_equal(known, crossing_pairs(after))
        assert looked_at[-1] < len(after.triangles) / 2, "most of it is looked at anew"
        mesh = after
