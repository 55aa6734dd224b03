"""What an edit makes is read back equal, or refused in words: any edits, with values at every limit and beyond."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.errors import PieceError
from noble_clay.core.formats.pieces import piece_json, read_piece_file
from noble_clay.core.piece.edits import EDIT, apply, edit_from_values
from noble_clay.core.piece.limits import MAX_DEPTH
from noble_clay.core.piece.models import MOST_CHANGES
from noble_clay.core.piece.read import piece_from_json
from noble_clay.core.piece.tree import find
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, join, part, piece
from tests.examples import examples

MESH = {"asset": "ab" * 32}
IDS = ["far", "high", "tiny", "inner", "chain", "mesh", "ring", "stack", "ghost"]
START = piece(
    box("far", (100_000, 0, 0), (20, 20, 20)),
    box("low", (-100_000, 0, 0), (20, 20, 20)),
    part("high", "sphere", (0, 0, 99_990), radius=5),
    join(
        "tiny",
        box("inner", (1, 2, 3), (2, 2, 2), _op="union"),
        part("core", "cylinder", (99_000, 0, 0), radius=2, height=9, _op="difference"),
        place={"position": [-99_000, 0, 50_000], "scale": [1e-5, 1e-5, 1e-5]},
    ),
    join("chain", join("link", box("end", size=(1, 1, 1)), place={"scale": [1e5, 1e5, 1e5]})),
    {"id": "mesh", "mesh": MESH},
    part("ring", "sphere", (30, 0, 0), radius=3, _copies={"kind": "ring", "count": 5, "axis": "z", "angle": 72}),
    box("stack", _changes=[{"kind": "flatten", "depth": 0.001}] * MOST_CHANGES),
)

EDGES = [0.0, -0.0, 1e-12, 1e-9, 0.0005, 0.001, 1.0, 3.7, 9_000.0, 99_999.9, 1e5, 1.0001e5, 2e5, 1e9, 1e300]
NUMBER = st.sampled_from([*EDGES, *(-v for v in EDGES)])
SIZE = st.sampled_from([1e-4, 0.001, 0.5, 1.0, 2.0, 3.0, 4.0, 1000.0, 100_000.0, 200_000.0, 200_001.0, 1e300])
POINT = st.tuples(NUMBER, NUMBER, NUMBER).map(list)
TEXT = st.text("aé\0\ud800 ", min_size=0, max_size=3) | st.sampled_from(["x" * 80, "x" * 81])
ID = st.sampled_from(IDS)
LIST = st.lists(ID, min_size=1, max_size=3)
OP = st.sampled_from(["union", "difference", "intersection"])
COPIES = st.one_of(
    st.none(),
    st.builds(lambda n, s: {"kind": "row", "count": n, "step": s}, st.sampled_from([2, 9, 50_000, 50_001]), POINT),
    st.builds(
        lambda c, r: {"kind": "ring", "count": 9, "axis": "x", "angle": 40, "centre": c, "rise": r}, POINT, NUMBER
    ),
    st.builds(lambda at: {"kind": "twin", "axis": "y", "at": at}, NUMBER),
    st.builds(
        lambda n, s: {"kind": "grid", "counts": [n, 2, 1], "step": s}, st.sampled_from([1, 7, 25_000, 25_001]), POINT
    ),
    st.builds(lambda a, b: {"kind": "path", "points": [a, b], "count": 4, "turn": True}, POINT, POINT),
)
PLACE = st.builds(
    lambda p, r, s: {"position": p, "rotation": r, "scale": s},
    POINT,
    POINT,
    st.tuples(*[st.sampled_from([1e-300, 1e-9, 1.0, 2.5, 1e5, 1.1e5])] * 3).map(list),
)


def shape(kind, values):
    """A primitive of that kind whose numbers are of `values`, in turn."""
    turn = iter(values * 20)
    sample = {"kind": kind, **PRIMITIVES[kind].sample}

    def other(value):
        if isinstance(value, list | tuple):
            return [other(v) for v in value]
        return next(turn) if isinstance(value, float) else value

    return {
        k: other(float(v) if isinstance(v, int) and k not in ("facets", "sides", "points") else v)
        for k, v in sample.items()
    }


PRIMITIVE = st.builds(shape, st.sampled_from(list(PRIMITIVES)), st.lists(SIZE, min_size=1, max_size=4))
CHANGE = st.builds(lambda kind: {"kind": kind, **CHANGES[kind].sample}, st.sampled_from(list(CHANGES)))


def nested(levels, innermost):
    for level in range(levels):
        innermost = {"id": f"n{level}", "join": {"parts": [innermost]}}
    return innermost


DRAWER = st.none() | st.builds(
    lambda p, s: {"part": p * 16, "mark": "0" * 16, "scale": s},
    st.sampled_from(["a", "g"]),
    st.none() | st.tuples(*[st.sampled_from([1e-9, 1.0, -1.0, 2.5])] * 3).map(list),
)
FIELDS = st.one_of(
    st.builds(lambda v: {"name": v}, TEXT),
    st.builds(lambda v: {"op": v}, OP),
    st.builds(lambda v: {"place": v}, PLACE),
    st.builds(lambda v: {"flip": v}, st.sampled_from([["x"], ["x", "x"], []])),
    st.builds(lambda v: {"copies": v}, COPIES),
    st.builds(lambda v: {"opacity": v}, st.sampled_from([-1, 0, 0.5, 1, 2])),
    st.builds(lambda n, v: {n: v}, st.sampled_from(["hidden", "reference", "locked", "follows_body"]), st.booleans()),
    st.builds(lambda v: {"mesh": {"asset": v * 64}}, st.sampled_from(["0", "g"])),
    st.builds(lambda v: {"drawer": v}, DRAWER),
)
ADDED = st.one_of(
    st.builds(lambda p, place: {"id": "new", "primitive": p, "place": place}, PRIMITIVE, PLACE),
    st.builds(lambda n: nested(n, box("deep")), st.sampled_from([1, 30, 31, 32, 33, 60, 150])),
    st.builds(
        lambda c: {"id": "new", "mesh": MESH, "copies": c, "notes": 1} if c is None else box("new", _copies=c), COPIES
    ),
)
SPOT = st.builds(
    lambda p, r: {"point": p, "kind": "corner", "normal": [0, 0, 1], "radius": r},
    POINT,
    st.none() | st.sampled_from([-1, 0, 3, 1e9, 1e300]),
)
REFERENCE = st.builds(
    lambda i, n, p, m, w, o: {
        "id": f"p{i}",
        "name": n,
        "asset": "ab" * 32,
        "ending": "png",
        "pixels": p,
        "middle": m,
        "width": w,
        **o,
    },
    st.integers(0, 9),
    TEXT,
    st.sampled_from([[1, 1], [4096, 4096], [0, 5], [4097, 1]]),
    POINT,
    SIZE,
    st.sampled_from([{}, {"plane": "floor", "opacity": 0.05, "locked": True}, {"opacity": 0.0}, {"hidden": True}]),
)
KINDS = {
    "add_parts": st.builds(lambda p, a: {"parts": [a], "parent": p}, st.none() | ID, ADDED),
    "remove_parts": st.builds(lambda i: {"ids": i}, LIST),
    "set_part": st.builds(lambda i, f: {"ids": i, "fields": f}, LIST, FIELDS),
    "set_primitive": st.builds(lambda i, p: {"id": i, "primitive": p}, ID, PRIMITIVE),
    "set_chord_error": st.builds(lambda i, m: {"id": i, "most": m}, ID, st.sampled_from([1e-3, 0.05, 3, 1e5])),
    "resize": st.builds(
        lambda i, s, w, h: {"id": i, "size": s, "was": w, **h},
        ID,
        st.tuples(SIZE, SIZE, SIZE).map(list),
        st.tuples(SIZE, SIZE, SIZE).map(list),
        st.sampled_from([{}, {"hold": [0, 0.5, 1]}, {"hold": [1, 1, 1], "own": [[-1e5] * 3, [1e5] * 3]}]),
    ),
    "move": st.builds(lambda i, v: {"ids": i, "by": v}, LIST, POINT),
    "carry": st.builds(
        lambda i, a, n, c, v: {"moves": [{"id": i, "turn": {"axis": a, "angle": n, "centre": c}, "by": v}]},
        ID,
        POINT,
        NUMBER,
        POINT,
        POINT,
    ),
    "again": st.builds(lambda i, b: {"ids": [i], "before": [b]}, ID, ID),
    "break_copies": st.builds(lambda i: {"ids": i}, LIST),
    "arrange": st.builds(
        lambda i, p, n: {"ids": i, "parent": p, "index": n}, LIST, st.none() | ID, st.sampled_from([-1, 0, 2, 10**30])
    ),
    "join": st.builds(lambda a, b, op: {"ids": [a, b], "op": op}, ID, ID, OP),
    "ungroup": st.builds(lambda i: {"id": i}, ID),
    "swap_body": st.builds(
        lambda i, b: {"id": i, "body": b}, st.sampled_from(["tiny", "chain"]), st.sampled_from(["inner", "core"])
    ),
    "split": st.builds(lambda a, b: {"ids": [a, b]}, ID, ID),
    "cut_with_copy": st.builds(lambda a, b, c: {"body": a, "tool": b, "clearance": c}, ID, ID, SIZE),
    "cut_inside": st.builds(lambda a, w: {"id": a, "wall": w, "open": "z+"}, ID, SIZE),
    "set_changes": st.builds(
        lambda a, c, n: {"id": a, "stack": [c] * n}, ID, CHANGE, st.sampled_from([0, 1, MOST_CHANGES, MOST_CHANGES + 1])
    ),
    "set_join": st.builds(lambda a, b, f: {"id": a, "blend": b, "fineness": f}, ID, SIZE, st.none() | SIZE),
    "bake": st.builds(lambda i: {"id": i, "asset": MESH}, ID),
    "mended": st.builds(lambda i: {"meshes": {i: [MESH, {"asset": "cd" * 32}]}}, ID),
    "several": st.builds(
        lambda i, v, a: {"edits": [{"kind": "move", "ids": i, "by": v}, {"kind": "add_parts", "parts": [a]}]},
        LIST,
        POINT,
        ADDED,
    ),
    "set_piece": st.builds(
        lambda n, t, d: {"name": n, "notes": t, "drawer": d},
        st.none() | TEXT,
        st.none() | st.just("x" * 20_001),
        st.none() | st.builds(lambda tag, n: {"tags": [tag] * n, "fixed": True}, TEXT, st.sampled_from([0, 20, 21])),
    ),
    "keep_picture": st.builds(lambda p: {"picture": p}, REFERENCE),
    "drop_picture": st.builds(lambda i: {"id": f"p{i}"}, st.integers(0, 9)),
    "keep_measure": st.builds(
        lambda i, s, a, b: {"measure": {"id": f"m{i}", "skin": s, "start": a, "end": b}},
        st.integers(0, 9),
        TEXT,
        SPOT,
        st.none() | SPOT,
    ),
    "drop_measures": st.builds(lambda n: {"ids": [f"m{i}" for i in range(n)]}, st.sampled_from([0, 1, 40, 41])),
    "follow_drawer": st.builds(lambda i, a: {"ids": i, "part": a}, LIST, ADDED),
    "take_in": st.builds(lambda a: {"part": a}, ADDED),
    "restore": st.builds(
        lambda i, p, n, a: {
            "steps": [{"kind": "splice", "parent": None, "index": n, "remove": 1, "insert": [a]}],
            "notes": "x" * p,
        },
        ID,
        st.sampled_from([1, 20_000, 20_001]),
        st.sampled_from([-1, 0, 3, 999]),
        ADDED,
    ),
}
ANY_EDIT = st.one_of(*(values.map(lambda v, k=kind: {"kind": k, **v}) for kind, values in KINDS.items()))


def test_every_kind_of_edit_is_tried():
    known = set(EDIT.json_schema()["discriminator"]["mapping"])
    assert known == set(KINDS)


@examples(150)
@given(st.lists(ANY_EDIT, min_size=1, max_size=6))
def test_what_an_edit_makes_is_read_back_equal_or_refused_with_nothing_kept(values):
    now, kept = START, []
    for value in values:
        before = now.text()
        try:
            outcome = apply(now, edit_from_values(value))
        except PieceError as error:
            assert error.problems[0].message
            assert now.text() == before
            continue
        document = json.loads(json.dumps(outcome.piece.dump()))
        assert piece_from_json(json.dumps(document)) == outcome.piece
        assert read_piece_file(piece_json(outcome.piece)).piece == outcome.piece
        kept.append((now, outcome.inverse.model_dump(mode="json", exclude_defaults=True)))
        now = outcome.piece
    for former, inverse in reversed(kept):
        now = apply(now, edit_from_values(json.loads(json.dumps(inverse)))).piece
        assert now == former


def edited(document, **values):
    return apply(document, edit_from_values(values)).piece


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"kind": "join", "ids": ["far", "low"], "op": "union"}, "low.*place.position.*at least -100,000"),
        ({"kind": "arrange", "ids": ["far"], "parent": "tiny", "index": 0}, "far.*place.position"),
        ({"kind": "cut_with_copy", "body": "far", "tool": "stack", "clearance": 1}, "changes.*at most 32"),
        ({"kind": "restore", "steps": [], "notes": "x" * 20_001}, "notes.*20000"),
        ({"kind": "add_parts", "parts": [nested(33, box("b"))]}, "32 levels"),
        ({"kind": "add_parts", "parts": [nested(150, box("b"))]}, "32 levels"),
        ({"kind": "set_part", "ids": ["far"], "fields": {"name": "a\0b"}}, r"name.*U\+0000"),
        ({"kind": "set_piece", "name": "half \ud83d"}, "name.*half of a character"),
    ],
)
def test_an_edit_over_a_limit_is_refused_and_says_where(values, words):
    with pytest.raises(PieceError, match=words):
        edited(START, **values)


def test_joining_again_and_again_ends_at_the_deepest_level_that_is_read():
    document, levels = piece(box("a"), *(box(f"b{i}") for i in range(40))), 0
    with pytest.raises(PieceError, match="32 levels"):
        for number in range(40):
            document = edited(document, kind="join", ids=[document.parts[0].id, f"b{number}"], op="union")
            levels += 1
    assert levels == MAX_DEPTH - 1
    assert piece_from_json(document.text()) == document


def test_ungrouping_very_small_scales_keeps_them():
    document = piece(join("j", box("a", _place={"scale": [1e-5] * 3}), place={"scale": [1e-5] * 3}))
    assert edited(document, kind="ungroup", id="j").parts[0].place.scale == pytest.approx((1e-10,) * 3, rel=1e-9)


def test_an_inverse_holds_what_changed_and_not_the_list_below_it():
    document = piece(join("j", *(box(f"b{i}") for i in range(50))), box("other"))
    outcome = apply(document, edit_from_values({"kind": "move", "ids": ["j", "other"], "by": [1, 0, 0]}))
    assert len(outcome.inverse.model_dump_json(exclude_defaults=True)) < 400
    assert outcome.piece.parts[0].join.parts is document.parts[0].join.parts
    assert apply(outcome.piece, outcome.inverse).piece == document


def test_parts_put_into_one_another_are_put_in_order():
    """A join put whole and a part of it put after, or before, mean what they say one after the other."""
    document = piece(join("j", box("a"), box("b", (0.5, 0, 0))))
    other = find(document, "j").part.model_copy(update={"name": "Other"}).model_dump(mode="json")
    small = find(document, "a").part.model_copy(update={"name": "Small"}).model_dump(mode="json")
    whole_first = [{"kind": "put", "part": other}, {"kind": "put", "part": small}]
    for steps, name in ((whole_first, "Small"), (whole_first[::-1], "Box")):
        outcome = apply(document, edit_from_values({"kind": "restore", "steps": steps}))
        assert [p.name for p in outcome.piece.walk()] == ["Other", name, "Box"]
        assert apply(outcome.piece, outcome.inverse).piece == document
