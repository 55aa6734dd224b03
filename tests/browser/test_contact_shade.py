"""Contact shade: a ball that touches a plate darkens it where they are close, not out in the open; cut open as well."""

import io

import httpx
import numpy as np
import pytest
from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

PLATE = {"kind": "box", "size": [60, 60, 2]}
BALL = {"kind": "sphere", "radius": 12}
UNDER, OPEN = (4.0, -4.0, 2.0), (24.0, -24.0, 2.0)
"""On the plate: where the ball is 1.4 mm over it, and where nothing is near."""

WATCH = """
  window.hidden = false;
  const canvas = document.querySelector('canvas[data-shaded]');
  const seen = () => { window.hidden ||= canvas.dataset.shaded === 'false'; };
  new MutationObserver(seen).observe(canvas, {attributes: true, attributeFilter: ['data-shaded']});
"""


@pytest.fixture
def client(server):
    with httpx.Client(base_url=server.url, headers={"origin": server.url}) as client:
        kept = client.get("/api/preferences").json()
        yield client
        client.put("/api/preferences", json=kept).raise_for_status()


@pytest.fixture
def standing(hands, client):
    parts = [
        {"id": "plate", "name": "Plate", "primitive": PLATE, "place": {"position": [0, 0, 1]}},
        {"id": "ball", "name": "Ball", "primitive": BALL, "place": {"position": [0, 0, 13.95]}},
    ]
    piece = client.post("/api/pieces", json={"name": "Contact"}).raise_for_status().json()["id"]
    body = {"base_revision": 0, "request_id": "plate-and-ball", "edit": {"kind": "add_parts", "parts": parts}}
    client.post(f"/api/pieces/{piece}/edits", json=body).raise_for_status()
    hands.open(f"/pieces/{piece}/make")
    hands.find("//*[@data-testid='soundness'][contains(., 'Sound')]")
    return hands


def shaded(hands, as_asked):
    hands.until(lambda: hands.canvas().get_attribute("data-shaded") == as_asked, f"the shade is not {as_asked}")


def choose(hands, saying):
    ActionChains(hands.browser).key_down(Keys.CONTROL).send_keys(",").key_up(Keys.CONTROL).perform()
    hands.find(f"//section[@aria-label='Contact shade']//label[contains(., '{saying}')]").click()
    hands.button("Back")
    hands.find("//canvas")
    hands.keys(Keys.HOME)


def brightness(hands, point):
    """Of the view around a point of the wheel, 0 to 255."""
    hands.still()
    seen = np.asarray(Image.open(io.BytesIO(hands.browser.get_screenshot_as_png())).convert("L"), dtype=float)
    share = len(seen) / hands.browser.execute_script("return innerHeight")
    x, y = (round(v * share) for v in hands.pixel_of(point))
    return seen[y - 1 : y + 2, x - 1 : x + 2].mean()


def test_what_is_close_is_darker_and_what_is_open_is_not(standing):
    choose(standing, "never")
    plain = [brightness(standing, point) for point in (UNDER, OPEN)]
    choose(standing, "on every machine")
    shaded(standing, "true")
    close, free = (brightness(standing, point) for point in (UNDER, OPEN))
    assert close < plain[0] - 6, "no darker under the ball"
    assert abs(free - plain[1]) < 2, "darker in the open as well"

    standing.browser.execute_script(WATCH)
    standing.keys(".")
    standing.until(lambda: standing.browser.execute_script("return window.hidden"), "it stays though the eye turns")
    shaded(standing, "true")
    standing.button("Section")
    shaded(standing, "true")
    standing.find("//div[@class='looks-row']//button[starts-with(., 'As glazed')]").click()
    standing.find("//button[starts-with(., 'Smoothness')]").click()
    standing.until(lambda: standing.canvas().get_attribute("data-shaded") == "false", "bands are shaded")
    assert standing.complaints() == []
