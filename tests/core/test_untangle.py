"""Small tangles are drawn apart: nothing else moves, and what is no small tangle stays as it is."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.field import looked_through
from noble_clay.core.field.memory import Memory
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.untangle import untangled
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.printing.cutting import Plane, cut
from noble_clay.demo.loader import demo_pieces
from tests.damage import primitive, together

BALL = primitive("sphere", radius=10, facets=48)


def folded(number):
    """A ball with some corners pushed through the faces beside them."""
    vertices = BALL.vertices.copy()
    rng = np.random.default_rng(number)
    chosen = rng.choice(len(vertices), number, replace=False)
    for i in chosen:
        around = np.unique(BALL.triangles[(BALL.triangles == i).any(axis=1)])
        vertices[i] += 2.2 * (vertices[around[around != i][0]] - vertices[i])
    return Mesh(vertices, BALL.triangles), chosen


@pytest.mark.parametrize("number", [1, 3, 8])
def test_folds_are_drawn_flat_and_the_rest_stays(number):
    mesh, chosen = folded(number)
    assert len(crossing_pairs(mesh)) > 0
    found, clean = untangled(mesh)
    assert clean
    assert len(crossing_pairs(found)) == 0
    np.testing.assert_array_equal(found.triangles, mesh.triangles)
    far = np.linalg.norm(BALL.vertices[:, None] - BALL.vertices[chosen], axis=2).min(axis=1) > 6
    np.testing.assert_array_equal(found.vertices[far], mesh.vertices[far])
    assert volume(found) == pytest.approx(volume(BALL), rel=0.01)


def test_what_crosses_nowhere_is_the_very_same():
    assert untangled(BALL) == (BALL, True)


def test_a_skin_is_looked_through_only_where_it_is_new(monkeypatch):
    """A fold in a ball that was known to be clean is found and drawn flat; then that skin is known."""
    memory, fresh = Memory(10_000_000), []

    def recorded(mesh, slack, new):
        fresh.append(int(new.sum()))
        return untangled(mesh, slack, new)

    monkeypatch.setattr(looked_through, "untangled", recorded)
    mesh, chosen = folded(2)
    around = np.isin(mesh.triangles, chosen).any(axis=1).sum()
    looked_through.looked_through(BALL, memory)
    found, clean = looked_through.looked_through(mesh, memory)
    assert clean
    assert len(crossing_pairs(found)) == 0
    assert looked_through.looked_through(found, memory) == (found, True)
    assert fresh == [len(BALL.triangles), around, 0]


def test_what_was_clean_in_two_skins_is_looked_at_where_both_come_together():
    """Each ball was there without the other: neither is taken to be clear of the other."""
    memory = Memory(10_000_000)
    far = Mesh(BALL.vertices + [50.0, 0, 0], BALL.triangles)
    near = Mesh(BALL.vertices + [9.0, 1.0, 2.0], BALL.triangles)
    for skin in (together(BALL, far), together(near, far)):
        assert looked_through.looked_through(skin, memory)[1]
    assert not looked_through.looked_through(together(BALL, near, far), memory)[1]


def test_two_balls_in_each_other_are_no_small_tangle():
    both = together(BALL, Mesh(BALL.vertices + [9.0, 1.0, 2.0], BALL.triangles))
    assert untangled(both) == (both, False)


@pytest.mark.parametrize("made", demo_pieces(), ids=lambda p: p.name)
def test_the_demo_crosses_itself_nowhere_also_when_it_is_cut(made):
    result = Evaluator().evaluate(made)
    assert len(crossing_pairs(result.written.mesh)) == 0
    for part in cut(result.solid, [Plane("x", 1.3)]).parts:
        assert len(crossing_pairs(part.solid.mesh_only())) == 0


def soft_pair():
    parts = [
        {"id": part, "name": part, "primitive": {"kind": "sphere", "radius": 10}, "place": {"position": [at, 0, 0]}}
        for part, at in (("left", 0), ("right", 14))
    ]
    join = {"id": "pair", "name": "Pair", "join": {"blend": 3, "parts": parts}}
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": "Pair", "parts": [join]})


def test_what_is_not_drawn_apart_is_made_anew_on_the_lattice(monkeypatch):
    """No list is known that needs it: the first skin is called a tangle here."""
    plain = Evaluator().evaluate(soft_pair())
    looked = []
    monkeypatch.setattr(looked_through, "untangled", lambda mesh, *given: not_at_first(looked, mesh))
    found = Evaluator().evaluate(soft_pair())
    assert len(looked) == 2
    assert found.crossing == frozenset()
    assert len(crossing_pairs(found.written.mesh)) == 0
    assert len(found.mesh.triangles) != len(plain.mesh.triangles)
    assert volume(found.mesh) == pytest.approx(volume(plain.mesh), rel=0.01)


def not_at_first(looked, mesh):
    looked.append(mesh)
    return (mesh, False) if len(looked) == 1 else untangled(mesh)


def test_what_crosses_even_then_is_told(monkeypatch):
    monkeypatch.setattr(looked_through, "untangled", lambda mesh, *given: (mesh, False))
    evaluator = Evaluator()
    assert evaluator.evaluate(soft_pair()).crossing == {"pair", "left", "right"}
    other = Evaluator()
    other.crossings.note(evaluator.crossings.of(soft_pair()))
    assert other.crossings.parts(soft_pair()) == {"pair", "left", "right"}, "and known to others"
