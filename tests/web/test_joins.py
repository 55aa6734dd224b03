"""Splitting, baking, blending and changing shapes over the API: kept, undone, refused in words."""

import uuid

from tests.building import box, join, part


def test_a_split_is_kept_and_one_that_misses_is_refused(maker):
    maker.edit(
        kind="add_parts", parts=[box("a", size=(10, 10, 10)), box("b", (5, 0, 0), (4, 30, 30)), box("c", (40, 0, 0))]
    )
    refused = maker.post({"kind": "split", "ids": ["a", "c"]})
    assert refused.status_code == 422
    assert "misses Box" in refused.json()["message"]
    state = maker.edit(kind="split", ids=["a", "b"])
    assert state["revision"] == 2, "what was refused left nothing behind"
    assert [p["name"] for p in state["piece"]["parts"]] == ["Box outside", "Box inside", "Box 3"]
    assert state["undo"] == "Split Box by Box 2"
    assert len(maker.step("undo")["piece"]["parts"]) == 3


def bake(maker, part_id):
    body = {"base_revision": maker.state["revision"], "request_id": str(uuid.uuid4()), "id": part_id}
    return maker.client.post(f"{maker.url}/bake", json=body)


def test_a_join_is_baked_with_its_changes_and_taken_back(maker):
    maker.drilled()
    join = maker.state["piece"]["parts"][0]["id"]
    maker.edit(kind="set_changes", id=join, stack=[{"kind": "flatten", "depth": 4, "side": "z+"}])
    before = maker.state["scene"]["soundness"]
    maker.take(bake(maker, join))
    (baked,) = maker.state["piece"]["parts"]
    assert baked["mesh"] and not baked.get("join") and not baked.get("changes")
    after = maker.state["scene"]["soundness"]
    assert after["sound"]
    assert abs(after["volume_mm3"] - before["volume_mm3"]) < 1e-6 * before["volume_mm3"]
    assert maker.step("undo")["piece"]["parts"][0]["join"]["parts"][1]["id"] == "rod"
    assert bake(maker, "nobody").status_code == 422


def test_a_blend_and_a_hollow_are_live(maker):
    maker.edit(kind="add_parts", parts=[part("a", "sphere", radius=10), part("b", "sphere", (12, 0, 0), radius=6)])
    join = maker.edit(kind="join", ids=["a", "b"], op="union")["chosen"][0]
    sharp = maker.state["scene"]["soundness"]["volume_mm3"]
    smooth = maker.edit(kind="set_join", id=join, blend=3)["scene"]["soundness"]
    assert smooth["sound"] and smooth["volume_mm3"] > sharp
    hollow = maker.edit(kind="set_changes", id=join, stack=[{"kind": "hollow", "wall": 2}])["scene"]["soundness"]
    assert (hollow["voids"], hollow["manifold"]) == (1, True)


def test_what_cannot_be_made_is_told_with_its_field_and_the_document_is_safe(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(10, 10, 10))])
    refused = maker.post({"kind": "set_changes", "id": "a", "stack": [{"kind": "hollow", "wall": 9}]})
    assert refused.status_code == 422
    (problem,) = refused.json()["problems"]
    assert (problem["part"], problem["field"]) == ("a", "changes[0]")
    assert "wall 9 mm is too thick" in problem["message"]
    maker.edit(kind="set_changes", id="a", stack=[{"kind": "hollow", "wall": 4}])
    # A later edit may take the ground from under a change: it is kept, and what is wrong is told.
    state = maker.edit(kind="set_primitive", id="a", primitive={"kind": "box", "size": [6, 6, 6]})
    assert state["scene"]["soundness"] is None
    assert "wall 4 mm is too thick" in state["problem"]["problems"][0]["message"]
    assert maker.step("undo")["scene"]["soundness"]["manifold"]


def test_facts_of_several_bodies(maker):
    maker.edit(
        kind="add_parts",
        parts=[
            box("a", size=(10, 10, 10)),
            box("b", (10, 0, 0), (12, 10, 10)),
            part("c", "cylinder", radius=2, height=8),
        ],
    )
    body = {"ids": ["a", "b", "c"], "op": "difference", "bodies": 2}
    added, cut = maker.client.post(f"{maker.url}/facts", json=body).json()
    assert added["op"] == "union" and added["volume_after"] > added["volume_before"]
    assert cut["meets"]["relation"] == "inside" and cut["reach"] is None


def test_every_shape_change_is_offered_with_a_sample_that_can_be_made(maker):
    offered = maker.client.get("/api/changes").json()
    assert [c["kind"] for c in offered][:2] == ["round", "hollow"] and len(offered) == 14
    maker.edit(kind="add_parts", parts=[part("a", "sphere", radius=10, facets=24)])
    for change in offered:
        maker.edit(kind="set_changes", id="a", stack=[change["sample"]])
        state = maker.counted()
        assert state["scene"]["soundness"]["manifold"], change["kind"]
        names = {f["name"] for f in change["fields"]}
        assert names == set(change["sample"]) - {"kind", "off"}
        choices = [f["field"] for f in change["fields"] if f["field"]["kind"] == "choice"]
        assert all(f["options"] for f in choices)
    assert state["undo"] == "Changed resurface of Sphere"


def test_a_part_runs_in_over_a_radius_of_its_own_until_that_is_taken_away(maker):
    state = maker.edit(
        kind="add_parts", parts=[join("j", box("a", size=(20, 20, 10)), box("b", (0, 0, 8), (6, 6, 20)))]
    )
    sharp = state["scene"]["soundness"]["volume_mm3"]
    own = maker.edit(kind="set_part", ids=["b"], fields={"blend": 2.5})
    [group] = own["piece"]["parts"]
    assert group["join"]["parts"][1]["blend"] == 2.5
    assert own["scene"]["soundness"]["volume_mm3"] > sharp + 10
    refused = maker.post({"kind": "set_part", "ids": ["b"], "fields": {"blend": 500}})
    assert refused.status_code == 422
    assert "blend must be at most 23 mm" in refused.json()["message"]
    assert maker.edit(kind="set_part", ids=["b"], fields={"blend": None})["scene"]["soundness"]["volume_mm3"] == sharp
