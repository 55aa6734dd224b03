"""A link to a read-only page: it shows its piece and nothing else, and leads nowhere once it is withdrawn."""

import os

import httpx
import pytest
from tools.machine import free_port

from tests.building import box, join
from tests.serving import end, launch
from tests.waiting import wait_until


def given(maker):
    link = maker.client.put(f"{maker.url}/link").raise_for_status().json()["link"]
    assert maker.client.put(f"{maker.url}/link").json()["link"] == link, "the same, until it is withdrawn"
    assert maker.client.get(f"{maker.url}/link").json()["link"] == link
    return link


def shown(client, link):
    """What the page is told, once the piece is made and counted."""

    def made():
        found = client.get(f"/api/look/{link}").raise_for_status().json()
        return found if found["sound"] is not None else None

    return wait_until(made, "it is never shown")


def test_it_shows_the_piece_as_it_is_at_any_time_and_nothing_of_how_it_is_kept(maker):
    inner = box("b", (6, 0, 0), (9, 9, 9), _opacity=0.5)
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9)), join("g", inner, colour="#102030")])
    link = given(maker)
    found = shown(maker.client, link)
    assert found["name"] == "Test piece" and found["sound"] is True
    assert found["bounds"] == [[-4.5, -4.5, -4.5], [10.5, 4.5, 4.5]]
    glazes = {(p["colour"], p["opacity"]) for p in found["parts"]}
    assert glazes == {("#c7a384", 1.0), ("#102030", 1.0), ("#102030", 0.5)}
    assert len(maker.client.get(found["skin"]).raise_for_status().content) > 100
    told = maker.client.get(f"/api/look/{link}").text
    for secret in (maker.state["id"], "history", "undo", '"a"', '"g"'):
        assert secret not in told
    maker.edit(kind="set_piece", name="Other")
    assert shown(maker.client, link)["name"] == "Other"
    other = maker.client.get(f"/api/look/{link}/skins/{'0' * 64}")
    assert other.status_code == 404, "a mesh that is not this piece's"


def test_once_withdrawn_it_leads_nowhere_for_good(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    link = given(maker)
    skin = shown(maker.client, link)["skin"]
    maker.client.delete(f"{maker.url}/link").raise_for_status()
    for address in (f"/api/look/{link}", skin):
        answer = maker.client.get(address)
        assert answer.status_code == 404 and "withdrawn" in answer.json()["message"]
    again = given(maker)
    assert again != link and maker.client.get(f"/api/look/{link}").status_code == 404
    maker.client.delete(maker.url).raise_for_status()
    assert maker.client.get(f"/api/look/{again}").status_code == 404, "nor to what lies in the bin"
    maker.client.post(f"{maker.url}/restore").raise_for_status()
    assert shown(maker.client, again)["sound"]


def test_a_copy_and_a_pack_have_no_link_of_it(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    link = given(maker)
    copy = maker.client.post(f"{maker.url}/duplicate").raise_for_status().json()
    assert maker.client.get(f"/api/pieces/{copy['id']}/link").json()["link"] is None
    assert link.encode() not in maker.client.get(f"{maker.url}/export?format=claypack").content


@pytest.mark.parametrize("link", ["x", "0" * 32, "..%2F" * 8 + "ab", "%00" * 11])
def test_what_is_no_link_leads_nowhere(maker, link):
    assert maker.client.get(f"/api/look/{link}").status_code in (404, 422)


def test_by_the_name_that_is_given_outside_it_answers_for_what_is_shown_and_nothing_else(maker, tmp_path):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    link = given(maker)
    os.environ["NOBLE_CLAY_SHOWN_AT"] = "https://clay.example.org/"
    try:
        server = launch(free_port(), tmp_path)
    finally:
        del os.environ["NOBLE_CLAY_SHOWN_AT"]
    try:
        with httpx.Client(base_url=server.url, timeout=60, headers={"host": "clay.example.org"}) as outside:
            assert outside.get(f"/look/{link}").status_code == 200
            assert outside.get(shown(outside, link)["skin"]).status_code == 200
            for path in ("/", "/api/pieces", maker.url, f"{maker.url}/link", "/api/preferences", "/api/health"):
                assert outside.get(path).status_code == 403, path
            assert outside.delete(f"/api/look/{link}").status_code == 403
            elsewhere = outside.get(f"/look/{link}", headers={"host": "evil.example.org"})
            assert elsewhere.status_code == 403
        with server.client() as inside:
            assert inside.get(f"{maker.url}/link").json() == {"link": link, "at": "https://clay.example.org"}
    finally:
        end(server.process)
