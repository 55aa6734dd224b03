"""A large skin where no graphics card draws: coarser while the view moves, all of it at rest, and picked as it is."""

import httpx
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def fine(hands):
    """Two balls of 16,000 triangles each, that meet."""
    with httpx.Client(base_url=hands.server.url, timeout=60) as client:
        piece = client.post("/api/pieces", json={"name": "Fine pair"}).raise_for_status().json()["id"]
        ball = {"kind": "sphere", "radius": 20, "facets": 128}
        parts = [
            {"id": f"b{n}", "name": name, "primitive": ball, "place": {"position": [at, 0, 20]}}
            for n, (name, at) in enumerate([("West", -14), ("East", 14)])
        ]
        body = {"base_revision": 0, "request_id": "both-balls", "edit": {"kind": "add_parts", "parts": parts}}
        client.post(f"/api/pieces/{piece}/edits", json=body).raise_for_status()
    hands.open(f"/pieces/{piece}/make")
    hands.find("//*[@data-testid='soundness'][contains(., 'Sound')]")
    hands.keys(Keys.HOME)
    hands.still()
    return hands


def triangles(hands):
    return int(hands.canvas().get_attribute("data-triangles"))


def fewest_turning(hands):
    """Triangles of the coarsest frame while the view turns."""
    fewest = min(hands.drawn_while(lambda: hands.drag((-250, 150), (90, 12))), default=triangles(hands))
    hands.still()
    return fewest


def test_it_is_coarser_while_it_turns_and_whole_at_rest(fine):
    whole = int(fine.figure("Triangles").replace(",", ""))
    assert whole > 20_000
    # Its first frames may be coarse: how quick the machine is shows only while it draws.
    fine.until(lambda: triangles(fine) >= whole, "not all of it is drawn at rest")
    fine.until(lambda: fewest_turning(fine) < 0.5 * whole, "all of it is drawn while it turns")
    # A quick machine has not found out before it has turned a while.
    fine.until(lambda: "drawn coarser" in fine.find("//div[@class='dial']").text, "nobody is told")
    fine.until(lambda: triangles(fine) >= whole, "it stays coarse at rest")
    # From the front, however far it was turned meanwhile, neither hides the other.
    fine.find("//*[@aria-label='Look from the front']").click()
    fine.still()
    fine.until(lambda: triangles(fine) >= whole, "it stays coarse when the turn is over")
    for name, x in (("West", -20), ("East", 20)):
        fine.keys(Keys.ESCAPE)
        fine.point_at(*fine.pixel_of([x, -19, 20]))
        ActionChains(fine.browser).click().perform()
        assert fine.find("//aside[contains(@class, 'right')]//h2").text.startswith(name)


def test_what_is_seen_through_is_coarser_too(fine):
    for name in ("West", "East"):
        fine.pick(name)
        fine.type("Glass, %", "50")
        fine.settle()
    fine.keys(Keys.ESCAPE)
    fine.still()
    fine.until(lambda: triangles(fine) > 20_000, "not all of the glass is drawn at rest")
    whole = triangles(fine)
    fine.until(lambda: fewest_turning(fine) < 0.5 * whole, "all of the glass is drawn while it turns")
    fine.until(lambda: triangles(fine) == whole, "it stays coarse at rest")


def test_what_is_small_is_drawn_as_it_is(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.still()
    assert "drawn coarser" not in hands.find("//div[@class='dial']").text
