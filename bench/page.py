"""The page with a recipe of 5,000 lines, beside a bare list of as many in the same browser.

python -m bench.page [--quick]

`select_all_ms` is the time from the key press (Ctrl+A) until the page is laid out with every line picked, the median
of seven, everything let go in between; `select_all_painted_ms` until that is painted, the view with its 5,000 boxes
drawn by software here. `scroll_ms` is the time from a new scroll position until the lines there are painted.
`select_all` and `scroll` are the painted ones to the same in a page of nothing but 5,000 list items, each marked by one
attribute. A quick run takes 1,000 lines.
"""

from __future__ import annotations

import argparse
import json
import os
import statistics
import time

import httpx
from selenium import webdriver
from selenium.webdriver.common.by import By
from tests.serving import serving
from tools.browser import open_browser
from tools.cluster import Cluster
from tools.frontend import ensure_built

TIMES = 7

PAINTED = """
  const [act, done] = [arguments[0], arguments[1]];
  const started = performance.now();
  new Function(act)();
  requestAnimationFrame(() => {
    document.body.getBoundingClientRect();
    const laidOut = performance.now() - started;
    const channel = new MessageChannel();
    channel.port1.onmessage = () => done([laidOut, performance.now() - started]);
    channel.port2.postMessage(0);
  });
"""
"""From an act until the frame that it leads to is laid out, and until it is painted, ms."""

KEY = """
  const key = new KeyboardEvent('keydown', {key: '%s', code: '%s', ctrlKey: %s, bubbles: true});
  document.body.dispatchEvent(key);
"""

BARE = """
  document.body.innerHTML = `<div class="recipe" style="height:700px;overflow:auto"><ul>${
    Array.from({length: arguments[0]}, (_, n) => `<li>Pin ${n}</li>`).join('')}</ul></div>`;
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    lines = 1_000 if parser.parse_args().quick else 5_000
    ensure_built()
    cluster = Cluster("bench-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    browser = open_browser(smooth=False)
    try:
        with serving() as server:
            ours = measure_ours(browser, server.url, lines)
        bare = measure_bare(browser, lines)
    finally:
        browser.quit()
        cluster.stop()
        cluster.remove()
    found = {"lines": lines, "select_all_ms": ours["laid out"], "select_all_painted_ms": ours["painted"]}
    found |= {"scroll_ms": ours["scrolled"], "select_all": ours["painted"] / bare["painted"]}
    found["scroll"] = ours["scrolled"] / bare["scrolled"]
    print(json.dumps({name: round(value, 2) for name, value in found.items()}))


def measure_ours(browser: webdriver.Chrome, url: str, lines: int) -> dict[str, float]:
    parts = [
        {
            "id": f"p{n}",
            "name": f"Pin {n}",
            "primitive": {"kind": "box", "size": [1, 1, 1]},
            "place": {"position": [2 * (n % 70), 2 * (n // 70), 0.5]},
        }
        for n in range(lines)
    ]
    with httpx.Client(base_url=url, timeout=120) as client:
        state = client.post("/api/pieces", json={"name": "Many pins"}).raise_for_status().json()
        body = {"base_revision": 0, "request_id": "many-pins", "edit": {"kind": "add_parts", "parts": parts}}
        client.post(f"/api/pieces/{state['id']}/edits", json=body).raise_for_status()
    browser.get(f"{url}/pieces/{state['id']}/make")
    end = time.monotonic() + 60
    while not browser.find_elements(By.ID, "line-p0"):
        assert time.monotonic() < end, "the recipe never comes"
        time.sleep(0.2)
    while "Still" in soundness(browser):
        assert time.monotonic() < end + 300, "the piece is never counted"
        time.sleep(0.2)
    time.sleep(3)  # the view is framed and drawn
    times = []
    for _ in range(TIMES):
        times.append(painted(browser, KEY % ("a", "KeyA", "true")))
        heading = browser.execute_script("return document.querySelector('aside.right h2').textContent")
        assert heading == f"{lines} parts", heading
        painted(browser, KEY % ("Escape", "Escape", "false"))
    return told(browser, times)


def soundness(browser: webdriver.Chrome) -> str:
    found = browser.find_elements(By.CSS_SELECTOR, "[data-testid=soundness]")
    return found[0].text if found else "Still nothing"


def measure_bare(browser: webdriver.Chrome, lines: int) -> dict[str, float]:
    browser.get("about:blank")
    browser.execute_script(BARE, lines)
    mark = "document.querySelectorAll('li').forEach((e) => e.setAttribute('aria-selected', '%s'))"
    times = []
    for _ in range(TIMES):
        times.append(painted(browser, mark % "true"))
        painted(browser, mark % "false")
    return told(browser, times)


def told(browser: webdriver.Chrome, times: list[tuple[float, float]]) -> dict[str, float]:
    act = "const r = document.querySelector('.recipe'); r.scrollTop = r.scrollHeight * {share}"
    scrolled = [painted(browser, act.format(share=n / TIMES))[1] for n in range(TIMES)]
    laid_out, drawn = (statistics.median(values) for values in zip(*times, strict=True))
    return {"laid out": laid_out, "painted": drawn, "scrolled": statistics.median(scrolled)}


def painted(browser: webdriver.Chrome, act: str) -> tuple[float, float]:
    laid_out, drawn = browser.execute_async_script(PAINTED, act)
    return laid_out, drawn


if __name__ == "__main__":
    main()
