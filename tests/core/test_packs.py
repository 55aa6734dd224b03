"""Packs: the piece with its meshes, reference pictures, history and picture, written and read back."""

import io
import json
import zipfile
from datetime import UTC, datetime

import numpy as np
import pytest
from PIL import Image

from noble_clay.core.errors import PieceError
from noble_clay.core.formats.pictures import read_picture
from noble_clay.core.formats.pieces import PieceFile, piece_pack, read_piece_file
from noble_clay.core.formats.steps import PackedHistory
from noble_clay.core.piece.edits import apply, edit_from_values
from tests.building import box, piece

START = piece(box("a"))


def photo():
    out = io.BytesIO()
    Image.fromarray(np.arange(300, dtype=np.uint8).reshape(10, 10, 3)).save(out, "PNG")
    return read_picture(out.getvalue())


PHOTO = photo()
PNG = b"\x89PNG\r\n\x1a\n rest"


def worked():
    """A piece with a picture, and the steps that led to it: a fork, a name, one that can be redone."""
    reference = {
        "id": "p",
        "name": "Photo",
        "asset": PHOTO.sha256,
        "ending": PHOTO.ending,
        "pixels": list(PHOTO.pixels),
    }
    edits = [
        (None, {"kind": "keep_picture", "picture": reference}),
        (0, {"kind": "set_part", "ids": ["a"], "fields": {"name": "Left"}}),
        (0, {"kind": "set_part", "ids": ["a"], "fields": {"name": "Right"}}),
        (2, {"kind": "set_part", "ids": ["a"], "fields": {"colour": "#112233"}}),
    ]
    states, steps = {None: START}, []
    for number, (before, values) in enumerate(edits):
        outcome = apply(states[before], edit_from_values(values))
        states[number] = outcome.piece
        steps.append(
            {
                "edit": values,
                "inverse": outcome.inverse.model_dump(mode="json", exclude_defaults=True),
                "words": f"step {number}",
                "before": before,
                "live": number != 1,
                "version": "Named" if number == 1 else None,
                "at": datetime(2026, 5, number + 1, tzinfo=UTC).isoformat(),
            }
        )
    told = {"format": "noble-clay-history", "version": 1, "position": 2, "steps": steps}
    return states[2], PackedHistory.model_validate_json(json.dumps(told))


def test_all_that_a_pack_holds_comes_back_equal():
    document, history = worked()
    data = piece_pack(PieceFile(document, {PHOTO.sha256: PHOTO.data}, history, PNG))
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert sorted(archive.namelist()) == [f"assets/{PHOTO.sha256}.png", "history.json", "picture.png", "piece.json"]
    found = read_piece_file(data)
    assert (found.piece, found.history, found.picture) == (document, history, PNG)
    assert found.assets == {PHOTO.sha256: PHOTO.data}


def test_what_only_an_earlier_state_had_beside_it_comes_along():
    document, history = worked()
    data = piece_pack(PieceFile(document.model_copy(update={"pictures": ()}), {PHOTO.sha256: PHOTO.data}))
    assert read_piece_file(data).assets == {}, "without a history nobody asks for it"
    gone = PieceFile(START, {PHOTO.sha256: PHOTO.data}, history.model_copy(update={"position": 0}))
    assert read_piece_file(piece_pack(gone)).assets == {PHOTO.sha256: PHOTO.data}


def repacked(data, **files):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            if files.get(name, b"") is not None:
                new.writestr(name, files.get(name, old.read(name)))
        for name in files.keys() - set(old.namelist()):
            new.writestr(name, files[name])
    return out.getvalue()


def told_otherwise(change):
    document, history = worked()
    told = json.loads(history.text())
    change(told)
    whole = piece_pack(PieceFile(document, {PHOTO.sha256: PHOTO.data}, history))
    return repacked(whole, **{"history.json": json.dumps(told).encode()})


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda t: t.update(position=9), "beyond its last step"),
        (lambda t: t["steps"][1].update(before=3), "stands before the one"),
        (lambda t: t["steps"][1].update(live=True), "do not follow each other"),
        (lambda t: t["steps"][0]["edit"].update(kind="explode"), "unknown kind"),
        (lambda t: t["steps"][0].update(inverse={"kind": "ungroup", "id": "a"}), "no inverse"),
        (lambda t: t["steps"][2]["inverse"]["steps"][0]["part"].update(id="b"), "cannot be taken back"),
        (lambda t: t.update(version=2), "version"),
        (lambda t: t["steps"][0].update(words="a\0"), "words"),
    ],
)
def test_a_history_that_does_not_hold_together_is_refused_with_the_way_out(change, words):
    data = told_otherwise(change)
    with pytest.raises(PieceError, match=words) as refused:
        read_piece_file(data)
    assert "without its history.json the piece opens alone" in str(refused.value)
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            if name != "history.json":
                new.writestr(name, old.read(name))
    assert read_piece_file(out.getvalue()).piece == worked()[0]


def test_a_picture_that_is_missing_or_another_is_named():
    document, _ = worked()
    with pytest.raises(PieceError, match=f"its picture assets/{PHOTO.sha256}.png is not in the pack"):
        read_piece_file(piece_pack(PieceFile(document)))
    with pytest.raises(PieceError, match="its picture .* the SHA-256 differs"):
        read_piece_file(piece_pack(PieceFile(document, {PHOTO.sha256: b"other"})))


def test_a_picture_of_the_piece_that_is_none_is_left_out():
    assert read_piece_file(piece_pack(PieceFile(START, {}, None, b"<script>"))).picture is None
