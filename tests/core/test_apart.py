"""A piece as several bodies: they fill it between them, none overlaps another, each is sound."""

import itertools

import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.cut_parts import as_file_holds
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.printing.apart import INSIDE, shares
from noble_clay.demo.loader import demo_pieces
from tests.building import box, join, part, piece

RED, BLUE, GREEN = "#c03030", "#3030c0", "#30a040"
HEAD = piece(
    part("head", "sphere", (0, 0, 20), radius=20, _colour=RED),
    part("eye", "sphere", (8, -15, 26), radius=5, _colour=BLUE),
    part("mouth", "box", (0, -20, 12), op="difference", size=[10, 10, 3]),
    part("tooth", "box", (0, -16, 12.5), size=[3, 4, 2], _colour=GREEN),
    part("grid", "box", (0, 0, 0), size=[100, 100, 1], _reference=True),
    name="Head",
)
GROUPED = piece(
    join(
        "arm",
        part("sleeve", "cylinder", (0, 0, 10), radius=6, height=20, _colour=RED),
        part("hand", "sphere", (0, 0, 22), radius=5, _colour=BLUE),
        part("hole", "cylinder", (0, 0, 10), op="difference", radius=2, height=60),
        place={"rotation": [0, 90, 30], "position": [500, 0, 40]},
        copies={"kind": "twin", "axis": "x", "at": 0},
    ),
    box("chest", (0, 0, 40), (992, 20, 12), _colour=RED),
    name="Two arms on a bar",
)
BALLS = [
    part("a", "sphere", (0, 0, 10), radius=10, _colour=RED),
    part("b", "sphere", (16, 0, 10), radius=8, _colour=BLUE),
]
SOFT_WITHIN = piece(
    {"id": "all", "join": {"blend": 4, "parts": BALLS}}, box("slab", (8, 0, 1), (40, 12, 2)), name="Soft"
)


def taken_apart(made):
    evaluator = Evaluator()
    result = evaluator.evaluate(made)
    return result, shares(made, result, evaluator)


@pytest.mark.parametrize(
    ("made", "lines"),
    [
        (HEAD, ["head", "eye", "tooth"]),
        (GROUPED, ["arm", "chest"]),
        (SOFT_WITHIN, ["all", "slab"]),
        *[(p, None) for p in demo_pieces() if p.name != "Drumming octopus"],
    ],
    ids=lambda value: getattr(value, "name", ""),
)
def test_the_bodies_fill_the_piece_and_none_overlaps_another(made, lines):
    result, found = taken_apart(made)
    assert lines is None or [s.part.id for s in found] == lines
    whole = result.solid.manifold
    for one, other in itertools.combinations(found, 2):
        assert (one.solid.manifold ^ other.solid.manifold).volume() < 1e-6 * whole.volume()
    assert sum(s.solid.volume for s in found) == pytest.approx(whole.volume(), rel=1e-4)
    for share in found:
        assert abs((share.solid.manifold - whole).volume()) < 1e-6 * whole.volume()
        wrong = {flaw.kind for flaw in inspect_mesh(as_file_holds(share.solid, None)[0]).findings}
        assert wrong <= {"loose_bodies"}, share.part.name
        inside = {p.id for p in share.part.walk()}
        assert set(share.solid.labels.values()) <= inside | {INSIDE}


def test_what_was_put_on_later_keeps_its_whole_shape():
    _, (head, eye, _) = taken_apart(HEAD)
    ball = Evaluator().evaluate(piece(part("eye", "sphere", (8, -15, 26), radius=5)))
    assert eye.solid.volume == pytest.approx(ball.solid.volume, rel=1e-9)
    assert head.solid.volume < 4 / 3 * 3.1416 * 20**3 - 150


def test_one_alone_is_refused_in_words():
    with pytest.raises(MeshError, match="only one part"):
        taken_apart(piece(box("b", (0, 0, 5), (10, 10, 10)), part("hole", "sphere", op="difference", radius=2)))


def test_what_runs_together_softly_is_refused_in_words():
    with pytest.raises(MeshError, match='"B" runs softly into what stands before it'):
        taken_apart(piece(BALLS[0], {**BALLS[1], "name": "B", "blend": 4}))
