"""Drafts while one part is dragged, over the socket of a real server, beside the bare kernel's full evaluation.

python -m bench.drag [--quick]

Pieces of 25, 100 and 300 parts, in which one part is dragged step by step. A draft's time is from the question to the
last byte of the answer on the socket.
`draft_25`, `draft_100` and `draft_300` are its median as a ratio to the bare kernel's evaluation of the same piece from
nothing, in the same run; `p95_…` the same for the 95th percentile. The first draft of a drag, which joins what stands
still around the part, is told apart (`first_…`). `calls_…` and `triangles_…` are what the view draws in a frame
meanwhile. A quick run takes coarser parts (24 sides) and looks at the view with 25 only.
"""

from __future__ import annotations

import argparse
import json
import os
import statistics
import struct
import time
from typing import Any

import httpx
from selenium import webdriver
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from tests.serving import Server, serving
from tools.browser import open_browser
from tools.cluster import Cluster
from tools.frontend import ensure_built
from websockets.sync.client import connect

from bench.evaluate import best, kernel
from bench.pieces import chain, document

STEPS = 40


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    quick = parser.parse_args().quick
    ensure_built()
    cluster = Cluster("bench-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    found: dict[str, float] = {}
    print(
        f"{'parts':>6}{'kernel, ms':>12}{'draft, ms':>11}{'95th, ms':>10}{'first, ms':>11}{'ratio':>8}"
        f"{'draw calls':>12}{'triangles':>11}"
    )
    try:
        with serving() as server, server.client() as client:
            for count in (25, 100, 300):
                row = measure(server, client, count, quick)
                print(
                    f"{count:>6}{row['kernel']:>12.0f}{row['draft']:>11.1f}{row['p95']:>10.1f}{row['first']:>11.0f}"
                    f"{row['draft'] / row['kernel']:>8.4f}{row.get('calls', '-'):>12}{row.get('triangles', '-'):>11}"
                )
                found[f"draft_{count}"] = round(row["draft"] / row["kernel"], 4)
                found[f"p95_{count}"] = round(row["p95"] / row["kernel"], 4)
                found[f"first_{count}"] = round(row["first"] / row["kernel"], 4)
                for name in ("calls", "triangles"):
                    if name in row:
                        found[f"{name}_{count}"] = row[name]
    finally:
        cluster.stop()
        cluster.remove()
    print(json.dumps(found))


def measure(server: Server, client: httpx.Client, count: int, quick: bool) -> dict[str, Any]:
    piece = chain(count, facets=24 if quick else 64)
    seconds, _ = best(kernel, piece, 1 if count > 100 else 3)
    state = client.post("/api/pieces", json={"name": piece.name}).raise_for_status().json()
    body = {
        "base_revision": 0,
        "request_id": f"bench-{count:08d}",
        "edit": {"kind": "add_parts", "parts": document(piece)["parts"]},
    }
    revision = client.post(f"/api/pieces/{state['id']}/edits", json=body).raise_for_status().json()["revision"]
    moved = f"p{count // 3}"
    while client.get(f"/api/pieces/{state['id']}/count").raise_for_status().json()["soundness"] is None:
        time.sleep(0.2)
    times = []
    with connect(
        f"ws://127.0.0.1:{server.port}/api/pieces/{state['id']}/drafts", origin=server.url, max_size=None
    ) as socket:
        for n in range(STEPS):
            edit = {"kind": "move", "ids": [moved], "by": [0.25 * n, 0.1 * n, 0]}
            started = time.perf_counter()
            socket.send(json.dumps({"n": n, "revision": revision, "edit": edit}))
            answer = socket.recv(120)
            check(answer)
            times.append((time.perf_counter() - started) * 1000)
    first, *rest = times
    found = {
        "kernel": seconds * 1000,
        "draft": statistics.median(rest),
        "p95": sorted(rest)[int(len(rest) * 0.95)],
        "first": first,
    }
    return {**found, **(frame_cost(server, state["id"], moved) if count == 25 or not quick else {})}


def check(answer: str | bytes) -> None:
    """That it is a draft of what has changed, not of the whole."""
    assert isinstance(answer, bytes), answer
    (length,) = struct.unpack_from("<I", answer, 4)
    assert json.loads(answer[8 : 8 + length])["box"] is not None


SCROLLED_TO = """
  const line = document.getElementById(arguments[0]);
  if (line) return line;
  for (let e = document.querySelector('[role=treeitem]'); e; e = e.parentElement)
    if (e.scrollHeight > e.clientHeight + 1) e.scrollTop += e.clientHeight / 2;
  return null;"""
"""A line of a long recipe, of which only what is in sight is there: scrolled on by half a page, or the line."""


def frame_cost(server: Server, piece_id: str, moved: str) -> dict[str, int]:
    """What a frame draws while the part is held in the middle of a drag."""
    browser = open_browser()
    try:
        browser.get(f"{server.url}/pieces/{piece_id}/make")
        line = until(browser, lambda: browser.execute_script(SCROLLED_TO, f"line-{moved}"))
        browser.execute_script("arguments[0].scrollIntoView(); arguments[0].click()", line)
        grip = until(browser, lambda: browser.find_element(By.CSS_SELECTOR, ".grip.move"))
        until(
            browser,
            lambda: int(browser.find_element(By.TAG_NAME, "canvas").get_attribute("data-triangles") or 0) > 500,
        )
        chain_of = ActionChains(browser).move_to_element(grip).click_and_hold()
        chain_of.move_by_offset(6, 2).pause(1).move_by_offset(4, 2).pause(1).perform()
        canvas = browser.find_element(By.TAG_NAME, "canvas")
        cost = {name: int(canvas.get_attribute(f"data-{name}") or 0) for name in ("calls", "triangles")}
        ActionChains(browser).release().perform()
        return cost
    finally:
        browser.quit()


def until(browser: webdriver.Chrome, found: Any, patience: float = 120) -> Any:
    end = time.monotonic() + patience
    while True:
        try:
            value = found()
            if value:
                return value
        except Exception:
            if time.monotonic() > end:
                raise
        if time.monotonic() > end:
            raise TimeoutError(browser.current_url)
        time.sleep(0.1)


if __name__ == "__main__":
    main()
