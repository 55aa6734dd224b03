"""A recipe of thousands of lines is scrolled, walked and picked from as one of ten."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

LINES = 5_000
IN_SIGHT = 140
"""Lines that may be drawn at a time, those around the ones in sight among them."""


@pytest.fixture
def long_one(hands):
    """References: shown and listed, but joined with nothing."""
    parts = [
        {
            "id": f"p{n}",
            "name": f"Pin {n}",
            "reference": True,
            "hidden": True,
            "primitive": {"kind": "box", "size": [1, 1, 1]},
            "place": {"position": [2 * (n % 70), 2 * (n // 70), 0.5]},
        }
        for n in range(LINES)
    ]
    with httpx.Client(base_url=hands.server.url, timeout=60) as client:
        state = client.post("/api/pieces", json={"name": "Many pins"}).raise_for_status().json()
        edit = {"kind": "add_parts", "parts": parts}
        body = {"base_revision": 0, "request_id": "many-pins", "edit": edit}
        client.post(f"/api/pieces/{state['id']}/edits", json=body).raise_for_status()
    hands.open(f"/pieces/{state['id']}/make")
    hands.until(lambda: hands.lines()[:1] == ["Pin 0"], "the recipe never comes", 60)
    hands.still()
    return hands


def test_only_what_is_in_sight_is_drawn_and_all_can_be_reached(long_one):
    hands = long_one
    assert len(hands.lines()) < IN_SIGHT
    hands.browser.execute_script("document.querySelector('.recipe').scrollTop = 1e9")
    hands.until(lambda: hands.lines()[-1] == f"Pin {LINES - 1}", "the end is never shown")
    assert len(hands.lines()) < IN_SIGHT
    last = hands.find(f"//*[@id='line-p{LINES - 1}']")
    last.click()
    for _ in range(60):
        last.send_keys(Keys.ARROW_UP)
        last = hands.browser.switch_to.active_element
    name = f"line-p{LINES - 61}"
    hands.until(lambda: hands.browser.switch_to.active_element.get_attribute("id") == name, "the keys never get there")


def test_all_are_found_by_name_and_picked_at_once(long_one):
    hands = long_one
    hands.find("//input[@aria-label='Find parts by name']").send_keys("Pin", Keys.ENTER)
    hands.find(f"//h2[.='{LINES} parts']", patience=30)
    assert hands.there("//*[contains(., 'and 4,976 more')]")
