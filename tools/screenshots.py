"""python -m tools.screenshots: the pictures of docs/screenshots, from the demo on a database of its own."""

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
                for name, show in (("pieces", show_pieces), ("make", show_make), ("mend", show_mend)):
                    show(browser, server.url)
                    browser.save_screenshot(str(FOLDER / f"{name}.png"))
            finally:
                browser.quit()
    finally:
        cluster.stop()
        cluster.remove()
    return 0


def prepare(client: httpx.Client) -> None:
    """Beside the crab: one whose bow floats, and a claw by itself."""
    card = next(c for c in client.get("/api/pieces").json() if c["demo"])
    floating = client.post(f"/api/pieces/{card['id']}/duplicate").json()
    post(client, floating, kind="set_piece", name="Crab, bow in the air")
    post(client, floating, kind="move", ids=["bow"], by=[-2, -10, 13])
    claw = next(p for p in floating["piece"]["parts"] if p["id"] == "big-claw")
    alone = client.post("/api/pieces", json={"name": "Claw study"}).json()
    post(client, alone, kind="add_parts", parts=[claw])
    low = alone["scene"]["soundness"]["bounds"][0][2]
    post(client, alone, kind="move", ids=["big-claw"], by=[-43, 27, -low])


def post(client: httpx.Client, state: dict[str, Any], **edit: Any) -> None:
    body = {"base_revision": state["revision"], "request_id": str(uuid.uuid4()), "edit": edit}
    state.update(client.post(f"/api/pieces/{state['id']}/edits", json=body).raise_for_status().json())


def show_pieces(browser: webdriver.Chrome, url: str) -> None:
    browser.get(url)
    drawn = "return document.querySelectorAll('article').length === 3 && "
    drawn += "[...document.querySelectorAll('article')].every(a => a.querySelector('img')?.naturalWidth > 100)"
    wait(lambda: browser.execute_script(drawn))
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
    click(browser, "//a[.='Crab, bow in the air']")
    click(browser, "//nav//a[.='Mend']")
    click(browser, "//button[contains(@class,'finding')]")
    time.sleep(2)


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
