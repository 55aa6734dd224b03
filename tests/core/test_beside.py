"""What a piece keeps beside its parts: reference pictures and measures, as edits that are taken back."""

import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.piece.compare import differences
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.raw import taken_back
from noble_clay.core.piece.read import piece_from_values
from tests.building import box, piece

START = piece(box("a"))


def picture(number=0, **fields):
    asset = f"{number:064x}"
    return {
        "id": f"p{number}",
        "name": f"Photo {number}",
        "asset": asset,
        "ending": "png",
        "pixels": [30, 40],
        **fields,
    }


def measure(number=0, to=(3, 4, 0)):
    spot = {"kind": "corner", "normal": [0, 0, 1]}
    end = {"end": {**spot, "point": list(to)}} if to else {}
    return {"id": f"m{number}", "skin": "k", "start": {**spot, "point": [0, 0, 0]}, **end}


def done(document, kind, **values):
    return apply(document, edit_from_values({"kind": kind, **values}))


def test_each_is_put_changed_and_taken_away_and_every_step_is_taken_back():
    edits = [
        ("keep_picture", {"picture": picture()}),
        ("keep_picture", {"picture": picture(width=12.5, plane="side")}),
        ("keep_measure", {"measure": measure()}),
        ("keep_picture", {"picture": picture(1)}),
        ("drop_picture", {"id": "p0"}),
        ("drop_measures", {"ids": ["m0", "gone"]}),
    ]
    states, outcomes = [START], []
    for kind, values in edits:
        outcomes.append(done(states[-1], kind, **values))
        states.append(outcomes[-1].piece)
    assert [p.width for p in states[2].pictures] == [12.5] and [p.id for p in states[-1].pictures] == ["p1"]
    assert states[3].measures[0].end.point == (3, 4, 0) and states[-1].measures == ()
    for state in states:
        assert piece_from_values(state.dump()) == state
    for former, outcome in zip(reversed(states[:-1]), reversed(outcomes), strict=True):
        assert apply(outcome.piece, outcome.inverse).piece == former
        inverse = outcome.inverse.model_dump(mode="json", exclude_defaults=True)
        assert piece_from_values(taken_back(outcome.piece.dump(), inverse)) == former


def test_they_change_no_part_and_are_told_in_words():
    after = done(done(START, "keep_picture", picture=picture()).piece, "keep_measure", measure=measure()).piece
    assert after.parts is START.parts
    assert [d.words for d in differences(START, after)] == [("other reference pictures", "other measures")]
    for kind, values, words in [
        ("keep_picture", {"picture": picture(1)}, "Stood the picture Photo 1"),
        ("keep_picture", {"picture": picture(width=5)}, "Scaled the picture Photo 0"),
        ("keep_picture", {"picture": picture(locked=True)}, "Locked the picture Photo 0"),
        ("keep_picture", {"picture": picture(middle=[1, 2, 3])}, "Placed the picture Photo 0"),
        ("keep_measure", {"measure": measure(1)}, "Measured 5 mm"),
        ("keep_measure", {"measure": measure(1, to=None)}, "Measured at a corner"),
        ("drop_measures", {"ids": ["m0"]}, "Took a measure away"),
    ]:
        assert edit_from_values({"kind": kind, **values}).describe(after) == words


def test_what_is_locked_stays_until_it_is_unlocked():
    locked = done(START, "keep_picture", picture=picture(locked=True)).piece
    for kind, values in [
        ("keep_picture", {"picture": picture(locked=True, width=3)}),
        ("drop_picture", {"id": "p0"}),
    ]:
        with pytest.raises(PieceError, match="Photo 0 is locked"):
            done(locked, kind, **values)
    hidden = done(locked, "keep_picture", picture=picture(locked=True, hidden=True, name="Side")).piece
    assert hidden.pictures[0].hidden and hidden.pictures[0].name == "Side"
    assert done(locked, "keep_picture", picture=picture(width=3)).piece.pictures[0].width == 3


def test_six_pictures_and_forty_measures_at_most():
    full = START
    for number in range(6):
        full = done(full, "keep_picture", picture=picture(number)).piece
    with pytest.raises(PieceError, match="at most 6 reference pictures"):
        done(full, "keep_picture", picture=picture(6))
    assert len(done(full, "keep_picture", picture=picture(3, width=9)).piece.pictures) == 6
    for number in range(43):
        full = done(full, "keep_measure", measure=measure(number)).piece
    assert [m.id for m in full.measures] == [f"m{i}" for i in range(3, 43)], "the oldest go"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"pictures": [picture(), picture()]}, "pictures.*id p0 twice"),
        ({"pictures": [picture(n) for n in range(7)]}, "pictures"),
        ({"pictures": [picture(asset="../etc/passwd")]}, "64 hexadecimal digits"),
        ({"pictures": [picture(ending="svg")]}, "ending"),
        ({"pictures": [picture(width=0)]}, "width.*at least 0.001"),
        ({"pictures": [picture(opacity=0)]}, "opacity.*at least 0.05"),
        ({"measures": [measure(to=(1e6, 0, 0))]}, "at most 100,000"),
    ],
)
def test_a_file_that_says_them_wrong_is_refused_in_words(fields, words):
    with pytest.raises(PieceError, match=words):
        piece_from_values({**START.dump(), **fields})
