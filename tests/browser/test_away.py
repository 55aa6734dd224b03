"""The database stopped while someone works: the page says so, keeps the gesture, and goes on when it is back."""

from selenium.webdriver.common.keys import Keys

OWN_SERVER = True


def test_a_gesture_waits_for_the_database(cluster, hands):
    hands.new_piece()
    hands.put_down("Sphere")
    before = hands.read("Across")
    cluster.stop()
    try:
        box = hands.field("Across")
        box.send_keys(Keys.CONTROL, "a")
        box.send_keys(str(before + 7), Keys.ENTER)
        hands.until(lambda: hands.there("//b[.='Waiting for the workshop.']"), "the page does not say that it waits")
        assert "One step waits here" in hands.find("//div[@class='notice']").text
    finally:
        cluster.start()
    hands.until(lambda: not hands.there("//b[.='Waiting for the workshop.']"), "it does not go on", 30)
    hands.settle()
    hands.until(lambda: hands.read("Across") == before + 7, "the gesture was lost")
    hands.browser.refresh()
    hands.pick("Sphere")
    assert hands.read("Across") == before + 7
