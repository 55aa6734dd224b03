"""python -m tools.screenshots [NAME ...]: the pictures of docs/screenshots, from the demo on a database of its own."""

from __future__ import annotations

import os
import sys
import time
import uuid
from typing import Any

import httpx
from selenium import webdriver
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from tests.serving import serving

from tools.browser import open_browser
from tools.cluster import Cluster
from tools.frontend import ensure_built
from tools.machine import ROOT, ended_well

CORAL, BONE, DRUM = "#c9683f", "#e9dfc9", "#8f9a5b"
OCTOPUS: list[dict[str, Any]] = [
    {
        "id": "head",
        "name": "Head",
        "primitive": {"kind": "egg", "width": 34, "height": 40, "bias": -0.2},
        "place": {"position": [0, 0, 28]},
        "colour": CORAL,
    },
    {
        "id": "limb",
        "name": "Limb",
        "primitive": {"kind": "capsule", "radius": 4, "length": 38},
        "place": {"position": [19, 0, 10], "rotation": [0, 72, 0]},
        "copies": {"kind": "ring", "count": 8, "axis": "z", "angle": 45},
        "colour": CORAL,
    },
    {
        "id": "eye",
        "name": "Eye",
        "primitive": {"kind": "sphere", "radius": 5},
        "place": {"position": [7, -14, 34]},
        "copies": {"kind": "twin", "axis": "x"},
        "colour": BONE,
    },
    {
        "id": "drum",
        "name": "Drum",
        "primitive": {"kind": "cylinder", "radius": 11, "height": 14},
        "place": {"position": [14, -50, 7]},
        "colour": DRUM,
    },
]
SNAIL: list[dict[str, Any]] = [
    {
        "id": "snail",
        "name": "Snail body",
        "join": {
            "blend": 5,
            "parts": [
                {
                    "id": "foot",
                    "name": "Foot",
                    "primitive": {"kind": "ellipsoid", "radii": [13, 30, 9]},
                    "place": {"position": [0, 0, 9]},
                    "colour": "#8f9a5b",
                },
                {
                    "id": "whorl",
                    "name": "Whorl",
                    "primitive": {"kind": "sphere", "radius": 17},
                    "place": {"position": [0, 8, 27]},
                    "colour": CORAL,
                },
                {
                    "id": "neck",
                    "name": "Neck",
                    "primitive": {"kind": "capsule", "radius": 6, "length": 30},
                    "place": {"position": [0, -24, 20], "rotation": [20, 0, 0]},
                    "colour": "#8f9a5b",
                },
            ],
        },
        "changes": [{"kind": "flatten", "depth": 1.5}, {"kind": "hollow", "wall": 2.4, "drain": {"diameter": 7}}],
    },
]
VENTS: list[dict[str, Any]] = [
    {
        "id": "drum",
        "name": "Drum",
        "primitive": {"kind": "cylinder", "radius": 24, "height": 18, "facets": 96},
        "place": {"position": [0, 0, 9]},
        "colour": DRUM,
    },
    *(
        {
            "id": name.lower().replace(" ", "-"),
            "name": name,
            "op": "difference",
            "primitive": {"kind": "cylinder", "radius": 7, "height": 24, "facets": 64},
            "place": {"position": [x, -8, 12]},
        }
        for name, x in (("Left vent", -7.06), ("Right vent", 7.06))
    ),
    {
        "id": "knob",
        "name": "Knob",
        "primitive": {"kind": "sphere", "radius": 4},
        "place": {"position": [0, 14, 22]},
        "colour": BONE,
    },
    {
        "id": "stand",
        "name": "Stand",
        "primitive": {"kind": "box", "size": [20, 14, 8]},
        "place": {"position": [0, 26, 4.0004]},
        "colour": CORAL,
    },
]
FOLDER = ROOT / "docs" / "screenshots"


def main() -> int:
    ensure_built()
    FOLDER.mkdir(parents=True, exist_ok=True)
    cluster = Cluster("screenshot-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    try:
        with serving() as server, server.client() as client:
            prepare(client)
            browser = open_browser()
            try:
                for name, show in VIEWS.items():
                    if sys.argv[1:] and name not in sys.argv[1:]:
                        continue
                    show(browser, server.url)
                    shaded(browser)
                    browser.save_screenshot(str(FOLDER / f"{name}.png"))
            finally:
                browser.quit()
    finally:
        cluster.stop()
        cluster.remove()
    return 0


def shaded(browser: webdriver.Chrome) -> None:
    """Once the view has its contact shade, where there is a view that has one."""
    canvas = browser.find_elements(By.XPATH, "//canvas[@data-shaded]")
    for _ in range(40):
        if all(c.get_attribute("data-shaded") == "true" for c in canvas):
            return
        time.sleep(0.2)


def prepare(client: httpx.Client) -> None:
    """Beside the demo: a crab whose bow floats, a claw by itself, what is blocked out, and parts in the drawer."""
    card = next(c for c in client.get("/api/pieces").json() if c["name"] == "Fiddler crab")
    floating = client.post(f"/api/pieces/{card['id']}/duplicate").json()
    post(client, floating, kind="set_piece", name="Crab, bow in the air")
    post(client, floating, kind="move", ids=["bow"], by=[-2, -10, 13])
    claw = next(p for p in floating["piece"]["parts"] if p["id"] == "big-claw")
    alone = client.post("/api/pieces", json={"name": "Claw study"}).json()
    post(client, alone, kind="add_parts", parts=[claw])
    low = alone["scene"]["soundness"]["bounds"][0][2]
    post(client, alone, kind="move", ids=["big-claw"], by=[-43, 27, -low])
    octopus = client.post("/api/pieces", json={"name": "Drumming octopus, blocked out"}).json()
    post(client, octopus, kind="add_parts", parts=OCTOPUS)
    snail = client.post("/api/pieces", json={"name": "Lantern snail, blended"}).json()
    post(client, snail, kind="add_parts", parts=SNAIL)
    for name, part, tags, fixed in (
        ("Crab claw", (card["name"], "big-claw"), "crab, claw", False),
        ("Lantern shell", ("Lantern snail", "lantern"), "shell, snail", False),
        ("Tea light", ("Lantern snail", "tea-light"), "hole, candle", True),
        ("Laced drum", ("Drumming octopus", "drum"), "drum, music", False),
    ):
        keep(client, name, *part, tags, fixed)
    vents = client.post("/api/pieces", json={"name": "Drum, vents too close"}).json()
    post(client, vents, kind="add_parts", parts=VENTS)
    kept = client.get("/api/preferences").json()
    client.put("/api/preferences", json={**kept, "contact_shade": "always"}).raise_for_status()


def keep(client: httpx.Client, name: str, piece: str, part: str, tags: str, fixed: bool) -> None:
    """Put a part of the demo into the drawer."""
    card = next(c for c in client.get("/api/pieces").json() if c["name"] == piece)
    fields = {"name": name, "tags": tags.split(", "), "fixed": fixed}
    body = {"base_revision": card["revision"], "request_id": str(uuid.uuid4()), "ids": [part], "fields": fields}
    client.post(f"/api/pieces/{card['id']}/keep", json=body, timeout=120).raise_for_status()


def post(client: httpx.Client, state: dict[str, Any], **edit: Any) -> None:
    body = {"base_revision": state["revision"], "request_id": str(uuid.uuid4()), "edit": edit}
    url = f"/api/pieces/{state['id']}"
    state.update(client.post(f"{url}/edits", json=body).raise_for_status().json())
    while state["making"]:
        time.sleep(0.2)
        state.update(client.get(url).raise_for_status().json())


def show_pieces(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    drawn = "return document.querySelectorAll('article').length === 10 && "
    drawn += "[...document.querySelectorAll('article')].every(a => a.querySelector('img')?.naturalWidth > 100)"
    wait(lambda: browser.execute_script(drawn), 120)
    browser.refresh()
    wait(lambda: browser.execute_script(drawn))


def show_make(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Fiddler crab']")
    click(browser, line("Palm"))
    chain = ActionChains(browser).key_down(Keys.CONTROL)
    chain.click(browser.find_element(By.XPATH, line("Bite"))).key_up(Keys.CONTROL).perform()
    wait(lambda: "takes out" in browser.find_element(By.CSS_SELECTOR, ".note").text)
    time.sleep(1)


def show_mend(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Drum, vents too close']")
    click(browser, "//nav//a[.='Mend']")
    click(browser, "//button[contains(@class,'finding-pick') and contains(., 'Between')]")
    time.sleep(2)


def show_findings(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Barnacle bell']")
    click(browser, "//nav//a[.='Mend']")
    click(browser, "//button[contains(@class,'finding-pick') and contains(., 'Crack')]")
    wait(lambda: browser.find_elements(By.XPATH, "//*[@data-testid='outlook']"), 60)
    time.sleep(2)


def show_mended(browser: webdriver.Chrome, url: str) -> None:
    show_findings(browser, url)
    click(browser, "//button[.='Mend the piece']")
    wait(lambda: browser.find_elements(By.XPATH, "//*[@data-testid='mend-report']"), 90)
    click(browser, "//button[.='How far it moved']")
    browser.execute_script("document.querySelector('[data-testid=mend-report]').scrollIntoView({ block: 'start' })")
    time.sleep(2)


def show_copies(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Drumming octopus, blocked out']")
    click(browser, line("Limb"))
    wait(lambda: browser.find_elements(By.CSS_SELECTOR, ".grip.copy"))
    browser.execute_script("document.querySelector('.section.copies').scrollIntoView({ block: 'center' })")
    time.sleep(1.5)


def show_join(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Drumming octopus, blocked out']")
    click(browser, line("Head"))
    chain = ActionChains(browser).key_down(Keys.CONTROL)
    for name in ("Limb", "Eye"):
        chain.click(browser.find_element(By.XPATH, line(name)))
    chain.key_up(Keys.CONTROL).perform()
    ActionChains(browser).move_to_element(browser.find_element(By.CSS_SELECTOR, ".join-op.difference")).perform()
    note = "//*[@data-testid='drag-note'][contains(., 'how it would look')]"
    wait(lambda: browser.find_elements(By.XPATH, note))
    time.sleep(2.5)


def show_soft(browser: webdriver.Chrome, url: str) -> None:
    """A part that runs into others: its own radius, and the handle where the run begins."""
    browser.get(url)
    click(browser, "//a[.='Lantern snail, blended']")
    click(browser, line("Neck"))
    wait(lambda: browser.find_elements(By.XPATH, "//button[@aria-label='Blend']"))
    time.sleep(2)


def show_apart(browser: webdriver.Chrome, url: str) -> None:
    """What a crab is built from."""
    browser.get(url)
    click(browser, "//a[.='Fiddler crab']")
    click(browser, "//button[.='Pulled apart']")
    wait(lambda: browser.find_elements(By.CSS_SELECTOR, ".apart-number"))
    time.sleep(3)


def show_measure(browser: webdriver.Chrome, url: str) -> None:
    """A snail in grey clay, measured across its shell and at a point."""
    browser.get(url)
    click(browser, "//a[.='Lantern snail']")
    click(browser, "//button[.='Hide cutters']")
    click(browser, "//button[starts-with(.,'As glazed')]")
    click(browser, "//button[starts-with(.,'Grey clay')]")
    click(browser, "//button[.='Measure']")
    time.sleep(3)
    canvas = browser.find_element(By.TAG_NAME, "canvas")
    for at in ((-50, 20), (95, 30), (20, -60)):
        ActionChains(browser).move_to_element_with_offset(canvas, *at).click().perform()
        time.sleep(1.5)
    click(browser, "//button[.='Keep this point']")
    time.sleep(1)


def show_history(browser: webdriver.Chrome, url: str) -> None:
    """Two ways on from one step, and what the piece has that it had not there."""
    with httpx.Client(base_url=url, timeout=60) as client:
        state = client.post("/api/pieces", json={"name": "Limpet drum"}).raise_for_status().json()
        piece = f"/api/pieces/{state['id']}"

        def step(way: str, **more: object) -> None:
            nonlocal state
            body = {"base_revision": state["revision"], **more}
            state = client.post(f"{piece}/{way}", json=body).raise_for_status().json()

        def edit(**edit: object) -> None:
            step("edits", request_id=str(uuid.uuid4()), edit=edit)

        def add(name: str, z: float, colour: str, **form: object) -> None:
            place = {"position": [0, 0, z]}
            part = {"id": name.lower(), "name": name, "primitive": form, "place": place, "colour": colour}
            edit(kind="add_parts", parts=[part])

        add("Drum", 12, "#c9952f", kind="cylinder", radius=22, height=24)
        add("Skin", 25, "#e9e2cf", kind="cylinder", radius=20, height=4)
        add("Limpet", 34, "#9db8a5", kind="cone", bottom_radius=16, top_radius=0, height=20)
        fork = client.get(f"{piece}/history").json()["here"]
        edit(kind="set_part", ids=["limpet"], fields={"colour": "#8a3b2c"})
        client.put(f"{piece}/history/{client.get(f'{piece}/history').json()['here']}/version", json={"name": "Oxblood"})
        step("history/go", step=fork)
        add("Foot", 2, "#4a6b5d", kind="torus", ring_radius=24, tube_radius=3)
        edit(kind="set_primitive", id="limpet", primitive={"kind": "dome", "radius": 15})
    browser.get(f"{url}/pieces/{state['id']}/make")
    click(browser, "//button[.='History']")
    wait(lambda: len(browser.find_elements(By.CSS_SELECTOR, ".steps img")) >= 5)
    click(browser, "//button[@aria-label='More about step 3']")
    click(browser, "//button[.='Compare with the piece']")
    wait(lambda: browser.find_elements(By.XPATH, "//section[@aria-label='Compared']//li"))
    time.sleep(3)


def show_profile(browser: webdriver.Chrome, url: str) -> None:
    """A lantern's wall on the drawing board, one of its points chosen."""
    browser.get(url)
    click(browser, "//a[.='Lantern snail']")
    click(browser, line("Shell wall"))
    click(browser, "//button[.='Draw its profile']")
    choose_drawn(browser, 3)


def choose_drawn(browser: webdriver.Chrome, number: int) -> None:
    """Click a point on the drawing board, once the view beside it stands."""
    points = ".sheet [data-point]"
    wait(lambda: len(browser.find_elements(By.CSS_SELECTOR, points)) > number + 2)
    time.sleep(3)
    ActionChains(browser).click(browser.find_elements(By.CSS_SELECTOR, points)[number]).perform()
    time.sleep(1)


def show_limb(browser: webdriver.Chrome, url: str) -> None:
    """A snail's neck while its points are drawn in the view."""
    browser.get(url)
    click(browser, "//a[.='Lantern snail']")
    click(browser, line("Neck"))
    click(browser, "//button[.='Draw it in the view']")
    wait(lambda: browser.find_elements(By.CSS_SELECTOR, ".grip.limb-point"))
    click(browser, "//button[starts-with(.,'Frame')]")
    time.sleep(3)


def show_section(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    click(browser, "//a[.='Lantern snail, blended']")
    click(browser, line("Snail body"))
    click(browser, "//button[.='Section']")
    click(browser, "//section[@aria-label='Section']//button[.='from the side']")
    browser.execute_script("document.querySelector('.section.blend').scrollIntoView({ block: 'start' })")
    time.sleep(2)


def show_drawer(browser: webdriver.Chrome, url: str) -> None:
    browser.get(f"{url}/drawer")
    drawn = "const a = [...document.querySelectorAll('article')]; "
    drawn += "return a.length === 4 && a.every(c => c.querySelector('img')?.naturalWidth > 100)"
    wait(lambda: browser.execute_script(drawn), 60)
    time.sleep(0.5)


def show_print(browser: webdriver.Chrome, url: str) -> None:
    """The snail on the bed of a printer, from below, where it leans out."""
    open_print(browser, url, "Lantern snail")
    click(browser, "//button[.='Overhangs']")
    wait(lambda: browser.find_elements(By.XPATH, "//output[@aria-label='Scale of colours']"))
    click(browser, "//*[@aria-label='Look from the front']")
    canvas = browser.find_element(By.TAG_NAME, "canvas")
    chain = ActionChains(browser).move_to_element_with_offset(canvas, 200, 250).click_and_hold()
    chain.move_by_offset(60, -30).move_by_offset(60, -30).release().perform()
    time.sleep(2)


def show_layers(browser: webdriver.Chrome, url: str) -> None:
    open_print(browser, url, "Fiddler crab")
    click(browser, "//button[.='Layers']")
    slider = browser.find_element(By.XPATH, "//input[@aria-label='Layer']")
    slider.send_keys(Keys.HOME)
    slider.send_keys(Keys.PAGE_UP * 4)
    time.sleep(2)


def show_cut(browser: webdriver.Chrome, url: str) -> None:
    """The whole band's rock cut between the figures, so that its halves plug together."""
    open_print(browser, url, "Bandstand rock")
    click(browser, "//summary[contains(., 'Cut into parts')]")
    click(browser, "//button[.='Add a plane']")
    click(browser, "//button[.='Cut it']")
    wait(lambda: browser.find_elements(By.XPATH, "//*[@data-testid='cut-parts']"), 120)
    browser.execute_script("document.querySelector('.cut-apart').scrollIntoView({ block: 'start' })")
    time.sleep(4)


def show_sheet(browser: webdriver.Chrome, url: str) -> None:
    """How the crab is built, as another maker reads it."""
    open_print(browser, url, "Fiddler crab")
    click(browser, "//button[.='Write the sheet']")
    page = "//a[.='Read it as a page']"
    wait(lambda: browser.find_elements(By.XPATH, page), 120)
    browser.get(browser.find_element(By.XPATH, page).get_attribute("href") or "")
    time.sleep(1)


def open_print(browser: webdriver.Chrome, url: str, name: str) -> None:
    browser.get(url)
    click(browser, f"//a[.='{name}']")
    click(browser, "//nav//a[.='Print']")
    wait(lambda: browser.find_elements(By.XPATH, "//dt[.='Time']"), 240)
    time.sleep(2)


def show_preferences(browser: webdriver.Chrome, url: str) -> None:
    browser.get(f"{url}/preferences")
    wait(lambda: browser.find_elements(By.CSS_SELECTOR, ".shortcut"))
    time.sleep(0.5)


VIEWS = {
    "pieces": show_pieces,
    "make": show_make,
    "make-copies": show_copies,
    "make-join": show_join,
    "make-soft": show_soft,
    "make-section": show_section,
    "make-apart": show_apart,
    "make-history": show_history,
    "draw-profile": show_profile,
    "draw-limb": show_limb,
    "mend": show_mend,
    "mend-moved": show_mended,
    "print": show_print,
    "print-layers": show_layers,
    "print-parts": show_cut,
    "sheet": show_sheet,
    "drawer": show_drawer,
    "preferences": show_preferences,
    # The last: what is measured on the snail stays on it.
    "make-measure": show_measure,
}


def line(name: str) -> str:
    return f"//*[@role='treeitem'][.//span[normalize-space(.)='{name}']]"


def click(browser: webdriver.Chrome, xpath: str) -> None:
    wait(lambda: browser.find_elements(By.XPATH, xpath))
    browser.find_element(By.XPATH, xpath).click()


def wait(true: Any, patience: float = 30) -> None:
    until = time.monotonic() + patience
    while time.monotonic() < until:
        if true():
            return
        time.sleep(0.1)
    raise TimeoutError("the page does not show what the picture is of")


if __name__ == "__main__":
    sys.exit(ended_well(main))
