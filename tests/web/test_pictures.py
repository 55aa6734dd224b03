"""Reference pictures brought in, stood in a piece, kept with it and in its pack; packs with their history."""

import io
from datetime import UTC, datetime

import numpy as np
import pytest
from PIL import Image
from sqlalchemy import func, select

from noble_clay.core.formats.pieces import PieceFile, piece_pack
from noble_clay.core.formats.steps import PackedHistory, PackedStep
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.read import piece_from_values
from noble_clay.store.database import open_database, sessions
from noble_clay.store.pieces import KEPT_EVERY
from noble_clay.store.tables import EditRow
from tests.building import box, piece


def png(value=90, size=(40, 30)):
    out = io.BytesIO()
    Image.fromarray(np.full((size[1], size[0], 3), value, np.uint8)).save(out, "PNG")
    return out.getvalue()


def brought_in(maker, data):
    answer = maker.client.post("/api/pictures", content=data)
    assert answer.status_code == 201, answer.text
    return answer.json()


def stood(maker, data=None, **fields):
    kept = brought_in(maker, data or png())
    return maker.edit(kind="keep_picture", picture={"id": "p", "name": "Photo", **kept, **fields})


def test_a_picture_is_kept_with_the_piece_given_out_and_every_step_undone(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    state = stood(maker, width=25.0)
    [kept] = state["piece"]["pictures"]
    assert (kept["pixels"], kept["width"], state["undo"]) == ([40, 30], 25.0, "Stood the picture Photo")
    answer = maker.client.get(f"/api/pictures/{kept['asset']}.png")
    assert answer.headers["content-type"] == "image/png" and answer.headers["x-content-type-options"] == "nosniff"
    assert np.asarray(Image.open(io.BytesIO(answer.content)))[0, 0].tolist() == [90, 90, 90]
    assert maker.edit(kind="drop_picture", id="p")["piece"]["pictures"] == []
    assert maker.step("undo")["piece"]["pictures"] == [kept]
    assert maker.client.get("/api/pictures/" + "0" * 64 + ".png").status_code == 404


def test_what_cannot_be_stood_is_refused_and_nothing_is_lost(maker):
    for data, words in (
        (b"<svg onload='alert(1)'/>", "PNG, JPEG or WebP"),
        (png()[:60], "cannot be read"),
        (b"", "PNG, JPEG or WebP"),
    ):
        answer = maker.client.post("/api/pictures", content=data)
        assert answer.status_code == 422 and words in answer.json()["message"]
    unknown = {"id": "p", "name": "Photo", "asset": "0" * 64, "ending": "png", "pixels": [4, 4]}
    answer = maker.post({"kind": "keep_picture", "picture": unknown})
    assert answer.status_code == 422 and "bring it in first" in answer.json()["message"]
    assert maker.fresh()["revision"] == 0


def test_a_pack_takes_pictures_measures_and_the_whole_history_along(maker, api):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    stood(maker, width=25.0)
    spot = {"point": [1, 2, 3], "kind": "corner", "normal": [0, 0, 1]}
    maker.edit(kind="keep_measure", measure={"id": "m", "skin": "k", "start": spot})
    maker.edit(kind="drop_picture", id="p")
    away = maker.step("undo")["piece"]
    steps = api.get(f"{maker.url}/history").json()
    api.put(f"{maker.url}/history/{steps['here']}/version", json={"name": "With it"})
    pack = api.get(f"{maker.url}/export?format=claypack").raise_for_status().content

    opened = api.post("/api/pieces/open", content=pack).raise_for_status().json()
    assert opened["piece"] == away and opened["id"] != maker.state["id"]
    assert (opened["undo"], opened["redo"]) == ("Measured at a corner", "Took away the picture Photo")
    again = api.get(f"/api/pieces/{opened['id']}/history").json()
    told = [(s["number"], s["words"], s["at"], s["version"]) for s in again["steps"]]
    assert told == [
        (s["number"], s["words"], s["at"], v)
        for s, v in zip(steps["steps"], [None, "With it", None, None], strict=True)
    ]
    body = {"base_revision": opened["revision"], "step": again["steps"][-1]["id"]}
    back = api.post(f"/api/pieces/{opened['id']}/history/go", json=body).raise_for_status().json()
    assert back["piece"]["pictures"] == back["piece"]["measures"] == []
    end = (
        api.post(
            f"/api/pieces/{opened['id']}/history/go",
            json={"base_revision": back["revision"], "step": again["steps"][0]["id"]},
        )
        .raise_for_status()
        .json()
    )
    assert end["piece"]["pictures"] == [] and len(end["piece"]["measures"]) == 1
    alone = api.get(f"{maker.url}/export?format=claypack&history=false").content
    assert api.post("/api/pieces/open", content=alone).json()["undo"] is None


@pytest.mark.parametrize("size", [9_000])
def test_a_picture_of_too_many_pixels_is_refused_quickly(maker, size):
    out = io.BytesIO()
    Image.new("1", (size, size)).save(out, "PNG")
    answer = maker.client.post("/api/pictures", content=out.getvalue())
    assert answer.status_code == 422 and "at most 50 million" in answer.json()["message"]


def test_a_pack_of_thousands_of_steps_opens_and_goes_to_either_end(api):
    now, steps = piece(*(box(f"b{i}", (3 * i, 0, 0), (2, 2, 2)) for i in range(10))), []
    first = now
    for number in range(1_200):
        values = {"kind": "move", "ids": [f"b{number % 10}"], "by": [0, 0.25, 0]}
        outcome = apply(now, edit_from_values(values))
        now = outcome.piece
        steps.append(
            PackedStep(
                edit=values,
                inverse=outcome.inverse.model_dump(mode="json", exclude_defaults=True),
                words=f"Moved {number}",
                before=number - 1 if number else None,
                live=True,
                version=f"Version {number}" if number % 12 == 0 else None,
                at=datetime.now(UTC),
            )
        )
    told = PackedHistory(format="noble-clay-history", version=1, position=len(steps), steps=tuple(steps))
    state = api.post("/api/pieces/open", content=piece_pack(PieceFile(now, {}, told))).raise_for_status().json()
    url = f"/api/pieces/{state['id']}/history"
    history = api.get(url).json()
    assert history["length"] == 1_200 and len(history["versions"]) == 100
    for step, expected in ((0, first), (history["here"], now)):
        body = {"base_revision": state["revision"], "step": step}
        state = api.post(f"{url}/go", json=body).raise_for_status().json()
        assert piece_from_values(state["piece"]) == expected
    with sessions(open_database()).begin() as session:
        kept = select(func.count()).where(EditRow.piece_id == state["id"], EditRow.document.is_not(None))
        assert session.scalar(kept) == 1_200 // KEPT_EVERY, "no step is far from a document"
