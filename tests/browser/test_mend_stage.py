"""Mend as a newcomer meets it: loose and touching parts shown and sunk together, an STL brought in and cut."""

import numpy as np
import trimesh
from selenium.webdriver.common.by import By

from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.mesh import Mesh
from tests.building import evaluated, part


def findings(hands):
    return [
        e.text.split("\n")[0] for e in hands.browser.find_elements(By.XPATH, "//button[contains(@class,'finding')]")
    ]


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
    hands.find("//button[contains(@class,'finding')]").click()
    assert "1 of 2" in hands.find("//output[@class='note']").text
    hands.button("Sink together")
    hands.until(lambda: findings(hands) == ["Cone only touches Box"], "the loose body was not mended")
    hands.button("Sink together")
    hands.until(lambda: findings(hands) == [], "the touching part was not mended")
    hands.settle()
    assert hands.soundness() == "Sound"
    assert "nothing to mend" in hands.find("//aside[@aria-label='Mending plan']").text
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: findings(hands) == ["Cone only touches Box"], "mending cannot be undone")


def test_an_stl_is_brought_in_mended_told_cut_and_exported(hands, tmp_path):
    ball = evaluated(part("b", "sphere", radius=12)).mesh
    broken = Mesh(ball.vertices, np.delete(ball.triangles[:, ::-1], [10, 900], axis=0))
    (tmp_path / "found shell.stl").write_bytes(stl_bytes(broken, "m"))
    (tmp_path / "rubbish.stl").write_bytes(b"this is no mesh")
    hands.new_piece()
    stage(hands, "Mend")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "rubbish.stl"))
    hands.until(lambda: "rubbish.stl" in hands.find("//p[@role='alert']").text, "the refusal does not name the file")
    hands.find("//input[@type='file']").send_keys(str(tmp_path / "found shell.stl"))
    report = hands.find("//*[@data-testid='bring-in-report']", 40).text
    assert "2 holes closed" in report
    assert "triangles turned outward" in report
    assert "can be joined and cut" in report
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


def test_the_crab_has_nothing_to_mend(hands):
    hands.open()
    hands.find("//a[.='Fiddler crab']").click()
    hands.find("//canvas")
    stage(hands, "Mend")
    hands.until(
        lambda: "There is nothing to mend" in hands.find("//aside[@aria-label='Mending plan']").text, "it is not told"
    )
    hands.until(lambda: hands.there("//*[contains(., '✓ Loose bodies')]"), "what was looked for is not told")
