"""Mend as a newcomer meets it: loose and touching parts shown and sunk together, a mesh brought in, mended and cut."""

import trimesh
from selenium.webdriver.common.by import By

from noble_clay.core.formats.stl import stl_bytes
from tests.damage import crumbed, damaged, flipped, primitive, torn


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


def test_a_mesh_is_brought_in_looked_over_mended_compared_cut_and_exported(hands, tmp_path):
    ball = primitive("sphere", radius=12, facets=48)
    broken = damaged(ball, [torn, flipped, crumbed])
    (tmp_path / "found shell.stl").write_bytes(stl_bytes(broken, "m"))
    (tmp_path / "rubbish.stl").write_bytes(b"this is no mesh")
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "rubbish.stl"))
    hands.until(lambda: "rubbish" in hands.find("//p[@role='alert']", 40).text, "the refusal does not name the file")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "found shell.stl"))
    asked = hands.find("//*[@data-testid='ask-unit']", 40)
    assert "does not say in which unit" in asked.text
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'millimetres')]").click()

    hands.until(lambda: "Crack" in findings(hands), "what is wrong with it is not told")
    assert "Inside-out faces" in findings(hands)
    assert hands.soundness() != "Sound"
    hands.find("//button[contains(@class,'finding-pick') and contains(., 'Crack')]").click()
    assert "Crack" in hands.find("//output[@class='note']").text
    hands.find("//button[@aria-label='The next']").click()
    hands.until(lambda: "2 of" in hands.find("//output[@class='note']").text, "the next one is not gone to")

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
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: hands.soundness() != "Sound", "mending cannot be undone")
    hands.find("//button[@aria-label='Redo']").click()
    hands.until(lambda: hands.soundness() == "Sound", "mending cannot be done again")

    stage(hands, "Make")
    hands.until(lambda: hands.lines() == ["found shell"], "the mesh is no part of the recipe")
    hands.put_down("Box", "Straight")
    hands.type("Wide", "40")
    hands.type("Deep", "40")
    hands.type("Across", "0")
    hands.type("Away", "0")
    hands.type("Base at", "12")
    hands.pick("found shell", "Box")
    hands.find("//button[contains(@class,'join-op') and contains(., 'Difference')]").click()
    hands.until(lambda: len(hands.lines()) == 3, "it was not cut")
    hands.settle()
    assert hands.soundness() == "Sound"
    mesh = trimesh.load(hands.download("STL"))
    assert mesh.is_watertight
    assert mesh.bounds[1][2] == 12


def test_all_in_the_recipe_is_mended_as_one_step(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    for by in ("-8.05", "8.05"):
        hands.put_down("Cylinder")
        for label, value in (("Radius", "8"), ("Height", "40"), ("Across", by), ("Away", "0"), ("Base at", "-5")):
            hands.type(label, value)
    hands.pick("Box")
    for label, value in (("Wide", "60"), ("Deep", "30"), ("Tall", "10")):
        hands.type(label, value)
    hands.pick("Box", "Cylinder", "Cylinder 2")
    hands.find("//button[contains(@class,'join-op') and contains(., 'Difference')]").click()
    hands.until(lambda: len(hands.lines()) == 4, "they were not joined")
    hands.pick("Joined")
    hands.put_down("Cone")
    stage(hands, "Mend")


def test_long_work_is_listed(hands, tmp_path):
    (tmp_path / "note.obj").write_bytes(b"milk, eggs")
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "note.obj"))
    hands.find("//p[@role='alert']", 40)
    hands.find("//a[.='All long work']").click()
    row = hands.find("//ul[@class='job-list']/li").text
    assert "Bring in: note" in row
    assert "not an OBJ file" in row


def test_the_crab_has_nothing_to_mend(hands):
    hands.open()
    hands.find("//a[.='Fiddler crab']").click()
    hands.find("//canvas")
    stage(hands, "Mend")
    hands.until(
        lambda: "There is nothing to mend" in hands.find("//aside[@aria-label='Mending plan']").text, "it is not told"
    )
    hands.until(lambda: hands.there("//*[contains(., '✓ Loose bodies')]"), "what was looked for is not told")
