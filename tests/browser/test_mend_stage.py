"""Mend as a newcomer meets it: loose and touching parts shown and sunk together, a mesh brought in, mended and cut."""

import uuid

import pytest
import trimesh
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By

from noble_clay.core.formats.stl import stl_bytes
from noble_clay.demo.barnacle_bell import barnacle_bell
from tests.building import box, part
from tests.damage import crumbed, damaged, primitive, torn


def findings(hands):
    return [e.text.split("\n")[0] for e in hands.browser.find_elements(By.CSS_SELECTOR, ".finding-pick")]


def stage(hands, name):
    hands.find(f"//nav//a[.='{name}']").click()


def test_loose_and_touching_parts_are_sunk_together(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    hands.put_down("Cylinder")
    hands.put_down("Cone")
    hands.type("Across", "0")
    hands.type("Away", "0")
    hands.type("Base at", "20")
    assert hands.soundness() == "2 bodies"
    stage(hands, "Mend")
    hands.until(
        lambda: findings(hands) == ["Loose body: Cylinder", "Cone only touches Box"], "the findings are not told"
    )
    hands.find("//button[contains(@class,'finding-pick')]").click()
    assert "1 of 2" in hands.find("//output[@class='note']").text
    hands.find("//div[@class='finding-fixes']/button[.='Sink Cylinder in']").click()
    hands.until(lambda: findings(hands) == ["Cone only touches Box"], "the loose body was not mended")
    hands.find("//*[@data-testid='recipe-plan']//button[.='Sink Cone in']").click()
    hands.until(lambda: findings(hands) == [], "the touching part was not mended")
    hands.settle()
    assert hands.soundness() == "Sound"
    assert "nothing to mend" in hands.find("//aside[@aria-label='Mending plan']").text
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: findings(hands) == ["Cone only touches Box"], "mending cannot be undone")


def test_the_barnacle_bell_is_brought_in_looked_over_mended_compared_cut_and_exported(hands, tmp_path):
    (tmp_path / "found bell.stl").write_bytes(stl_bytes(barnacle_bell(), "bell"))
    (tmp_path / "rubbish.stl").write_bytes(b"this is no mesh")
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "rubbish.stl"))
    hands.until(lambda: "rubbish" in hands.find("//p[@role='alert']", 40).text, "the refusal does not name the file")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "found bell.stl"))
    asked = hands.find("//*[@data-testid='ask-unit']", 40)
    assert "does not say in which unit" in asked.text
    hands.browser.refresh()  # a question that was not answered is asked again
    assert "found bell" in hands.find("//*[@data-testid='ask-unit']", 40).text
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'millimetres')]").click()

    hands.until(lambda: "Crack" in findings(hands), "what is wrong with it is not told")
    assert {"Crack", "Tangle", "Loose body", "Crumb"} <= set(findings(hands))
    assert hands.soundness() != "Sound"
    count = len(findings(hands))
    hands.find("//button[contains(@class,'finding-pick')]").click()
    for number in range(1, count + 1):
        told = f"{number} of {count}"
        hands.until(lambda told=told: told in hands.find("//output[@class='note']").text, f"{told} is not gone to")
        hands.find("//button[@aria-label='The next']").click()
    hands.until(lambda: f"1 of {count}" in hands.find("//output[@class='note']").text, "there is no way round")

    hands.button("Mend the piece")
    report = hands.find("//*[@data-testid='mend-report']", 60).text
    assert "no → yes" in report
    assert "Close holes" in report
    hands.until(lambda: hands.soundness() == "Sound", "it is not sound once mended")
    for word in ("Before", "Side by side", "Wiper", "How far it moved", "After"):
        hands.button(word)
        hands.until(
            lambda word=word: hands.there(f"//button[@aria-pressed='true' and .='{word}']"), f"{word} is not shown"
        )
    hands.button("Wiper")
    wiper = hands.find("//*[@data-testid='wiper']")
    buttons = hands.find("//div[contains(@class,'view-buttons')]").rect
    assert wiper.rect["y"] >= buttons["y"] + buttons["height"], "it crosses the buttons"
    ActionChains(hands.browser).drag_and_drop_by_offset(wiper, -136, 0).perform()
    assert hands.browser.execute_script("return getSelection().toString()") == "", "dragging it selects text"
    share = float(hands.find("//input[@aria-label='Where the wiper stands']").get_attribute("value"))
    assert share == pytest.approx(0.5 - 136 / hands.canvas().size["width"], abs=0.02)
    hands.button("After")
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: hands.soundness() != "Sound", "mending cannot be undone")
    hands.find("//button[@aria-label='Redo']").click()
    hands.until(lambda: hands.soundness() == "Sound", "mending cannot be done again")
    whole = trimesh.load(hands.download("STL"))

    stage(hands, "Make")
    hands.until(lambda: hands.lines() == ["found bell"], "the mesh is no part of the recipe")
    hands.put_down("Box", "Straight")
    for label, value in (
        ("Wide", "80"),
        ("Deep", "4"),
        ("High", "6"),
        ("Across", "0"),
        ("Away", "0"),
        ("Base at", "-1"),
    ):
        hands.type(label, value)
    hands.pick("found bell", "Box")
    hands.find("//button[contains(@class,'join-op') and contains(., 'Difference')]").click()
    hands.until(lambda: len(hands.lines()) == 3, "it was not cut")
    hands.settle()
    assert hands.soundness() == "Sound"
    cut = trimesh.load(hands.download("STL"))
    assert cut.is_watertight
    assert cut.body_count == 2, "the bell, and the hollow in its crown"
    assert 20 < whole.volume - cut.volume < 2 * 6 * 4 * 6, "a slot through the lip on both sides"


def made(hands, *parts):
    """A piece of parts, opened at the Mend stage."""
    with hands.server.client() as client:
        piece = client.post("/api/pieces", json={"name": "Trial"}).json()
        edit = {"kind": "add_parts", "parts": list(parts)}
        body = {"base_revision": 0, "request_id": str(uuid.uuid4()), "edit": edit}
        client.post(f"/api/pieces/{piece['id']}/edits", json=body).raise_for_status()
    hands.open(f"/pieces/{piece['id']}/mend")


def bore(part_id, name, x):
    return part(part_id, "cylinder", (x, 0, 0), op="difference", radius=8, height=40, _name=name)


def test_walls_of_nothing_and_steps_are_mended_in_the_recipe_one_by_one_or_as_one_step(hands):
    made(
        hands,
        box("plinth", size=(60, 30, 10), _name="Plinth"),
        bore("left", "Left bore", -8.05),
        bore("right", "Right bore", 8.05),
        box("step", (-26, 0, 0.0004), (12, 40, 10), _name="Step"),
        box("lid", (24, 0, 6), (4, 4, 2), _name="Lid"),
    )
    names = ["Lid only touches Plinth", "Between Left bore and Right bore", "Plinth, Step"]
    hands.until(lambda: findings(hands) == names, "not everything is told, what matters most first")
    assert [e.text for e in hands.browser.find_elements(By.CSS_SELECTOR, ".severity")] == [
        "spoils the print",
        "spoils the print",
        "harmless",
    ]
    hands.find("//button[contains(@class,'finding-pick') and contains(., 'Between')]").click()
    offered = [e.text for e in hands.browser.find_elements(By.XPATH, "//div[@class='finding-fixes']/button")]
    assert offered == ["Widen Left bore", "Move Left bore through", "Move Left bore back", "To Make"]
    hands.find("//button[.='Move Left bore back']").click()
    hands.until(lambda: findings(hands) == [names[0], names[2]], "the wall is not mended")
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: findings(hands) == names, "it cannot be undone")

    select = "//aside[@aria-label='What was found']//select"
    hands.choose(select, "Lid (1)")
    hands.until(lambda: findings(hands) == names[:1], "the findings of one part are not told by themselves")
    hands.choose(select, "the whole piece (3)")

    hands.button("Mend all 3")
    hands.until(lambda: findings(hands) == [], "not everything was mended")
    hands.settle()
    assert hands.soundness() == "Sound"
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: findings(hands) == names, "all together are not one step")
    hands.find("//button[contains(@class,'finding-pick') and contains(., 'Between')]").click()
    hands.button("To Make")
    chosen = "//*[@role='treeitem' and @aria-selected='true']"
    hands.until(lambda: len(hands.browser.find_elements(By.XPATH, chosen)) == 2, "its parts are not in hand in Make")


def test_one_flaw_of_a_mesh_is_mended_by_itself_and_the_plan_says_what_it_would_do(hands, tmp_path):
    ball = primitive("sphere", radius=12, facets=48)
    (tmp_path / "shell.stl").write_bytes(stl_bytes(damaged(ball, [torn, crumbed]), "m"))
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "shell.stl"))
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'millimetres')]", 40).click()
    hands.until(lambda: findings(hands) == ["Crack"] + ["Crumb"] * 4, "what is wrong with it is not told")
    outlook = hands.find("//*[@data-testid='outlook']", 40).text
    assert "Closed, 1 body" in outlook
    steps = {
        e.text.split("\n")[0]: e.text.split("\n")[-1]
        for e in hands.browser.find_elements(By.CSS_SELECTOR, ".plan-step")
    }
    assert (steps["Close holes"], steps["Drop crumbs"], steps["Unite bodies that meet"]) == ("1", "4", "0")
    hands.find("//label[contains(@class,'plan-step') and contains(., 'Drop crumbs')]/input").click()
    hands.until(lambda: "5 bodies" in hands.find("//*[@data-testid='outlook']", 40).text, "the outlook did not change")

    hands.find("//button[contains(@class,'finding-pick')]").click()
    hands.button("Close it")
    hands.until(lambda: findings(hands) == ["Crumb"] * 4, "the crack was not closed by itself")
    hands.find("//*[.='every neighbour was compared']", 30)
    assert findings(hands) == ["Crumb"] * 4, "what is found in the mesh is told again of the piece"
    hands.button("Mend all 4")
    hands.until(lambda: hands.soundness() == "Sound", "the crumbs were not dropped together")
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: findings(hands) == ["Crumb"] * 4, "mending one kind is not one step")


def test_several_files_are_dropped_in_at_once_and_stand_beside_each_other(hands, tmp_path):
    for number in range(4):
        ball = primitive("sphere", radius=5 + number, facets=24)
        (tmp_path / f"ball {number}.stl").write_bytes(stl_bytes(ball, "m"))
    (tmp_path / "list.stl").write_bytes(b"milk and eggs")
    hands.new_piece()
    stage(hands, "Mend")
    files = sorted(tmp_path.glob("*.stl"))
    hands.find("//input[@type='file']").send_keys("\n".join(str(f) for f in files))
    hands.until(lambda: "3 more files" in hands.find("//*[@data-testid='ask-unit']", 60).text, "not all ask", 60)
    assert "list.stl" in hands.find("//p[@role='alert']").text
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'centimetres')]").click()
    hands.until(lambda: not hands.there("//*[@data-testid='ask-unit']"), "they are not put down", 30)
    stage(hands, "Make")
    hands.until(lambda: len(hands.lines()) == 4, "not every file became a part", 30)
    hands.settle()
    assert hands.soundness() == "4 bodies", "each stands by itself"


def test_long_work_is_listed(hands, tmp_path):
    (tmp_path / "note.obj").write_bytes(b"milk, eggs")
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "note.obj"))
    hands.find("//p[@role='alert']", 40)
    hands.find("//a[.='All long work']").click()
    row = hands.find("//ul[@class='job-list']/li[contains(., 'Bring in: note')]")
    assert "not an OBJ file" in row.text


def test_the_crab_has_nothing_to_mend(hands):
    hands.open()
    hands.find("//a[.='Fiddler crab']").click()
    hands.find("//canvas")
    stage(hands, "Mend")
    hands.until(
        lambda: "There is nothing to mend" in hands.find("//aside[@aria-label='Mending plan']").text, "it is not told"
    )
    hands.until(lambda: hands.there("//*[contains(., '✓ Loose bodies')]"), "what was looked for is not told")
