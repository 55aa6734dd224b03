"""The history beside the view: every step, back to any and forth, the ways that part, names, comparing."""

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


def steps(hands):
    """Their words, the last first."""
    rows = hands.browser.find_elements(By.XPATH, "//ol[@class='steps']/li[contains(@class,'step')]")
    return [row.text.splitlines()[0] for row in rows]


def row(hands, number):
    return f"//li[contains(@class,'step')][.//button[@aria-label='More about step {number}']]"


def more(hands, number, item):
    hands.find(f"{row(hands, number)}//button[@aria-label='More about step {number}']").click()
    hands.find(f"//div[contains(@class,'dropdown-menu') and contains(@class,'show')]//button[.='{item}']").click()


def sized(hands, radii):
    """The only part gets one radius after the other, as by another window."""
    url = f"{hands.server.url}/api/pieces/{hands.browser.current_url.split('/')[-2]}"
    for radius in radii:
        state = httpx.get(url).raise_for_status().json()
        [ball] = state["piece"]["parts"]
        edit = {"kind": "set_primitive", "id": ball["id"], "primitive": {**ball["primitive"], "radius": radius}}
        request = {"base_revision": state["revision"], "request_id": f"radius-{radius}", "edit": edit}
        httpx.post(f"{url}/edits", json=request).raise_for_status()


def test_twenty_steps_back_and_forth_after_a_reload_and_a_branch_is_kept(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    sized(hands, range(10, 31))
    hands.chord("h", Keys.ALT)
    hands.until(lambda: len(steps(hands)) == 23, "a step each, and the beginning")
    assert steps(hands)[-1] == "The beginning" and steps(hands)[-2] == "Put down Sphere"
    hands.find(f"{row(hands, 22)}//img")
    hands.find(f"{row(hands, 2)}/button").click()
    hands.until(lambda: hands.piece()["parts"][0]["primitive"]["radius"] == 10, "twenty steps back at once")
    hands.browser.refresh()
    hands.find("//*[@role='treeitem']")
    hands.settle()
    hands.button("History")
    assert hands.find(f"{row(hands, 2)}/button").get_attribute("aria-current") == "step"
    hands.find(f"{row(hands, 22)}/button").click()
    hands.until(lambda: hands.piece()["parts"][0]["primitive"]["radius"] == 30, "and forth again")
    hands.find(f"{row(hands, 2)}/button").click()
    hands.until(lambda: hands.piece()["parts"][0]["primitive"]["radius"] == 10, "back once more")
    hands.find("//button[@aria-label='Close the history']").click()
    hands.put_down("Cone")
    hands.chord("h", Keys.ALT)
    way = hands.find("//li[@class='way']/button")
    assert "20 steps" in way.text
    way.click()
    hands.until(lambda: [p["name"] for p in hands.piece()["parts"]] == ["Sphere"], "the way that was left")
    hands.until(lambda: hands.piece()["parts"][0]["primitive"]["radius"] == 30, "to its end")


def test_a_version_is_named_found_compared_and_copied(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.put_down("Cone")
    hands.button("History")
    more(hands, 1, "Name it")
    hands.find("//input[@aria-label='Name of step 1']").send_keys("Only the head", Keys.ENTER)
    hands.find("//b[@class='version'][.='Only the head']")
    hands.find("//aside[@aria-label='History']//button[starts-with(.,'Named')]").click()
    hands.until(lambda: steps(hands) == ["Only the head"], "the named ones only")
    more(hands, 1, "Compare with the piece")
    compared = hands.find("//section[@aria-label='Compared'][.//li]")
    assert "1 line differs from “Only the head”" in compared.text and "Cone: new" in compared.text
    hands.find("//aside[@aria-label='History']//button[starts-with(.,'All')]").click()
    more(hands, 2, "Compare with Only the head")
    hands.find("//section[@aria-label='Compared'][contains(., 'differs in step 2 from “Only the head”')]")
    hands.find("//section[@aria-label='Compared']//button[.='Cone']").click()
    hands.find("//button[@aria-label='Stop comparing']").click()
    hands.find("//button[@aria-label='Close the history']").click()
    assert hands.read("Height") > 0, "the part that differs is picked"
    hands.button("History")
    more(hands, 1, "Begin a new piece from here")
    hands.until(lambda: hands.piece()["name"].endswith("Only the head"), "the copy is opened")
    assert [p["name"] for p in hands.piece()["parts"]] == ["Sphere"]
