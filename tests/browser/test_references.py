"""Reference pictures in the view: brought in, scaled by two points, dragged, locked; and a page to show a piece by."""

import io

import httpx
import numpy as np
import pytest
from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def photo(tmp_path):
    """Red on the left, blue on the right, 60 x 90 pixels."""
    pixels = np.zeros((90, 60, 3), np.uint8)
    pixels[:, :30, 0] = pixels[:, 30:, 2] = 255
    Image.fromarray(pixels).save(tmp_path / "heron.png")
    return tmp_path / "heron.png"


def picture(hands):
    return hands.piece()["pictures"][0]


def colour_at(hands, point):
    """Whether the view is red or blue there."""
    hands.still()
    x, y = hands.pixel_of(point)
    seen = np.asarray(Image.open(io.BytesIO(hands.browser.get_screenshot_as_png())).convert("RGB")).astype(int)
    scale = seen.shape[1] / hands.browser.execute_script("return innerWidth")
    red, _, blue = seen[int(y * scale), int(x * scale)]
    return "red" if red > blue + 40 else "blue" if blue > red + 40 else "neither"


def test_a_picture_stands_where_it_is_put_is_scaled_by_two_points_dragged_locked_and_taken_back(hands, photo):
    hands.new_piece()
    hands.chord("r", Keys.ALT)
    hands.find("//input[@aria-label='Reference picture']").send_keys(str(photo))
    hands.find("//section[@aria-label='Reference pictures']//button[.='heron']")
    kept = picture(hands)
    assert (kept["name"], kept["pixels"], kept["middle"][2] * 2) == ("heron", [60, 90], kept["width"] * 1.5)
    hands.find("//*[@aria-label='Look from the front']").click()
    hands.still()
    x, y, z = kept["middle"]
    quarter = kept["width"] / 4
    hands.until(lambda: colour_at(hands, (x - quarter, y, z)) == "red", "its left is not to the left")
    assert colour_at(hands, (x + quarter, y, z)) == "blue"

    hands.button("Scale")
    for side in (-1, 1):
        hands.point_at(*hands.pixel_of((x + side * quarter, y, z)))
        ActionChains(hands.browser).click().perform()
    hands.find("//section[@aria-label='Scale the picture'][contains(., 'mm apart')]")
    hands.type("apart, mm", "50")
    scaled = picture(hands)
    assert scaled["width"] == pytest.approx(100, rel=0.03), "a quarter to the other is half of it"
    shift = np.subtract(scaled["middle"], kept["middle"])
    assert shift[0] == pytest.approx((scaled["width"] - kept["width"]) / 4, abs=1), "the first point stays"

    hands.drag((0, -40), (60, 0))
    moved = picture(hands)
    assert moved["middle"][0] > scaled["middle"][0] + 2 and moved["middle"][1] == scaled["middle"][1]
    hands.button("Lock")
    hands.settle()
    hands.drag((60, -40), (60, 0))
    assert picture(hands)["middle"] == moved["middle"], "what is locked stays"
    assert not hands.field("Width, mm").is_enabled()
    hands.chord("z", Keys.CONTROL)
    hands.chord("z", Keys.CONTROL)
    hands.chord("z", Keys.CONTROL)
    assert picture(hands) == kept
    hands.button("Take away")
    hands.until(lambda: hands.piece()["pictures"] == [], "it is not taken away")
    assert hands.complaints() == []


def test_what_is_no_picture_is_refused_in_words_and_the_piece_stays(hands, tmp_path):
    hands.new_piece()
    hands.button("References")
    (tmp_path / "song.png").write_text("<svg onload='alert(1)'/>")
    hands.find("//input[@aria-label='Reference picture']").send_keys(str(tmp_path / "song.png"))
    hands.until(lambda: "PNG, JPEG or WebP" in hands.told(), "not said")
    assert hands.piece()["pictures"] == []
    assert all("422" in line for line in hands.complaints())


def test_a_link_shows_the_piece_and_once_withdrawn_nothing(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.keys(Keys.ESCAPE)
    hands.button("Give it a link")
    address = hands.find("//input[@aria-label='Link to the piece']").get_attribute("value")
    made = hands.browser.current_url
    hands.go(address.removeprefix(hands.server.url))
    hands.find("//header//h1[.='New piece']")
    hands.until(lambda: int(hands.canvas().get_attribute("data-triangles") or 0) > 1000, "it is not shown")
    assert not hands.there("//header//button | //header//a | //textarea | //nav"), "there is nothing to change it by"
    hands.button("Grey clay")
    link = address.rsplit("/", 1)[1]
    piece_id = made.split("/")[-2]
    httpx.delete(f"{hands.server.url}/api/pieces/{piece_id}/link").raise_for_status()
    hands.find("//h1[.='There is nothing to see here']", 20)
    assert "withdrawn" in hands.browser.find_element(By.TAG_NAME, "main").text
    assert all(link in line and "404" in line for line in hands.complaints())
    hands.browser.execute_script("history.back()")
    hands.find("//div[@data-testid='show-link']//button[.='Give it a link']")
