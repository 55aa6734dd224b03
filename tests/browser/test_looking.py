"""The eye: turned by steps, back to where it looked from; and a picture of what it sees, to take away."""

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def ball(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.button("perspective")  # the test before may have left it parallel, where a pose is told by smaller numbers
    hands.keys(Keys.ESCAPE, Keys.HOME)
    hands.still()
    return hands


def eye(hands):
    """The pose of the camera, as the matrix by which it shows the wheel."""
    hands.still()
    return np.array(hands.canvas().get_attribute("data-onto").split(), dtype=float)


def test_four_quarters_are_once_around_and_the_eye_goes_back(ball):
    home = eye(ball)
    poses = [home]
    for _ in range(4):
        ball.keys(".")
        ball.until(lambda: np.abs(eye(ball) - poses[-1]).max() > 0.1, "it does not turn")
        poses.append(eye(ball))
    assert np.abs(poses[4] - home).max() < 1e-4, "four quarters are a whole turn"
    assert all(np.abs(p - home).max() > 0.1 for p in poses[1:4]), "and none of them before"
    ball.find("//button[@aria-label='Turn a quarter to the left']").click()
    assert np.abs(eye(ball) - poses[3]).max() < 1e-4
    ball.find("//button[@aria-label='Look from higher']").click()
    higher = eye(ball)
    for _ in range(20):
        ball.keys("=")
    assert np.abs(eye(ball) - higher).max() > 0.01, "tilted farther, and never over the top"
    ball.find("//*[@role='button' and @aria-label='Look from the left']").click()
    left = eye(ball)
    ball.keys("-")
    ball.find("//button[@aria-label='Back to where you looked from']").click()
    assert np.abs(eye(ball) - left).max() < 1e-4, "not back to where it looked from"


def test_a_picture_of_any_size_on_nothing(ball):
    before = eye(ball)
    ball.find("//div[@class='looks-row']//button[starts-with(., 'As glazed')]").click()
    ball.find("//button[starts-with(., 'Take a picture')]").click()
    ball.type("px wide", "640")
    ball.type("px high", "900")
    ball.find("//section[@aria-label='Picture']//input[@type='checkbox']").click()
    path = ball.arrived(lambda: ball.button("Take it as PNG"), "no picture came")
    picture = Image.open(path)
    assert picture.format == "PNG" and picture.size == (640, 900) and path.name == "New piece.png"
    seen = np.asarray(picture.convert("RGBA"))[..., 3]
    assert seen[0].max() == 0 and seen[450, 320] == 255, "a ball in the middle, nothing around it"
    assert 0.1 < (seen > 0).mean() < 0.7
    assert np.abs(eye(ball) - before).max() < 1e-4, "the view is as it was"


def test_the_figure_stays_in_sight_while_an_edit_is_made(ball):
    ball.pick("Sphere")
    ball.still()
    known = int(ball.figure("Triangles").replace(",", ""))
    drawn = ball.drawn_while(lambda: (ball.type("Radius", "17"), ball.still()))
    assert drawn, "the edit is not shown"
    assert min(drawn) >= known, "it is out of sight while its new skin loads"
    assert len(drawn) <= 8, "it is drawn again and again though nothing changes"
