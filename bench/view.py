"""The view while it is turned, and how long a piece takes until it is seen, beside bare pages in the same browser.

python -m bench.view [--quick]

Chromium without a graphics card, its page 1280 by 800 pixels. Of each piece: `requests` and `bytes` that opening it
takes from a browser that has nothing; `first_ms`, from the click on its card until the skin stands in the view, and
`first`, that to a bare page that fetches the same mesh, makes its normals and draws it once; `longest_ms`, the longest
task of the page until then, and `bare_longest_ms` of the bare one (a canvas is slow to begin with); `fps`, frames a
second while it is turned by hand for `SECONDS`, after `WARM_UP`, and `turning_longest_ms`, the longest task then;
`fps_ratio`, that to a bare page that draws the same triangles as one mesh, all of them, in a view as large, lit by two
lights, without shadows. A quick run takes pieces of a tenth.
"""

from __future__ import annotations

import argparse
import json
import os
import time
from pathlib import Path
from typing import Any

import httpx
from selenium import webdriver
from selenium.webdriver.common.by import By
from tests.serving import serving
from tools.browser import open_browser
from tools.cluster import Cluster
from tools.frontend import ensure_built
from tools.machine import ROOT

from bench.pieces import document, wall
from noble_clay.core.piece.models import Piece

SECONDS = 6
WARM_UP = 4
THREE = ROOT / "frontend/node_modules/three/build"

WATCH = """
  window.tasks = [];
  new PerformanceObserver((list) => {
    for (const task of list.getEntries()) tasks.push([task.startTime, task.duration]);
  }).observe({type: 'longtask', buffered: true});
"""

TURN = """
  const [seconds, done] = arguments;
  const canvas = document.querySelector('canvas[data-frame]');
  const at = canvas.getBoundingClientRect();
  const send = (type, x, y) => canvas.dispatchEvent(new PointerEvent(type, {
    clientX: at.left + x, clientY: at.top + y, pointerId: 7, pointerType: 'mouse', isPrimary: true,
    button: type === 'pointermove' ? -1 : 0, buttons: type === 'pointerup' ? 0 : 1, bubbles: true, cancelable: true,
  }));
  const gl = canvas.getContext('webgl2');
  const pixel = new Uint8Array(4);
  const wait = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
  wait();
  const [from, first] = [performance.now(), Number(canvas.dataset.frame)];
  let n = 0;
  send('pointerdown', 40, 200);
  const step = () => {
    n += 1;
    send('pointermove', 40 + (5 * n) % 400, 200);
    if (performance.now() - from < 1000 * seconds) { requestAnimationFrame(step); return; }
    wait();
    const took = performance.now() - from;
    const frames = Number(canvas.dataset.frame) - first;
    send('pointerup', 40, 200);
    const longest = Math.max(0, ...tasks.filter(([start]) => start >= from).map(([, long]) => long));
    done([1000 * frames / took, longest]);
  };
  requestAnimationFrame(step);
"""

BARE = """
  const [core, module, mesh, width, height, seconds, done] = arguments;
  (async () => {
    const started = performance.now();
    const url = (text) => URL.createObjectURL(new Blob([text], {type: 'text/javascript'}));
    const THREE = await import(url(module.replaceAll('./three.core.js', url(core))));
    const data = await (await fetch(mesh)).arrayBuffer();
    const head = new DataView(data);
    const [vertices, triangles] = [head.getUint32(4, true), head.getUint32(8, true)];
    const geometry = new THREE.BufferGeometry();
    const points = new Float32Array(data, 16, 3 * vertices);
    geometry.setAttribute('position', new THREE.BufferAttribute(points, 3));
    geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(data, 16 + 12 * vertices, 3 * triangles), 1));
    geometry.computeVertexNormals();
    geometry.computeBoundingSphere();
    const {center, radius} = geometry.boundingSphere;
    const canvas = document.createElement('canvas');
    document.body.replaceChildren(canvas);
    const renderer = new THREE.WebGLRenderer({canvas, antialias: true, alpha: true});
    renderer.setSize(width, height);
    const scene = new THREE.Scene();
    scene.add(new THREE.Mesh(geometry, new THREE.MeshStandardMaterial({color: 0xc0a080, roughness: 0.72})));
    scene.add(new THREE.HemisphereLight(0xffffff, 0x888888, 1.75));
    const sun = new THREE.DirectionalLight(0xffffff, 1.9);
    sun.position.set(-1, -1, 2);
    scene.add(sun);
    const camera = new THREE.PerspectiveCamera(30, width / height, radius / 100, radius * 20);
    camera.up.set(0, 0, 1);
    const gl = renderer.getContext();
    const pixel = new Uint8Array(4);
    let n = 0;
    const draw = () => {
      n += 1;
      camera.position.set(Math.sin(n / 40), -Math.cos(n / 40), 0.5).multiplyScalar(4 * radius).add(center);
      camera.lookAt(center);
      renderer.render(scene, camera);
    };
    const wait = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
    draw();
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    while (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await new Promise((go) => setTimeout(go, 5));
    const first = performance.now() - started;
    await new Promise((go) => setTimeout(go, 500));
    const longest = Math.max(0, ...tasks.map(([, long]) => long));
    const [from, before] = [performance.now(), n];
    const step = () => {
      draw();
      if (performance.now() - from < 1000 * seconds) { requestAnimationFrame(step); return; }
      wait();
      done([1000 * (n - before) / (performance.now() - from), first, longest]);
    };
    requestAnimationFrame(step);
  })().catch((e) => done(String(e.stack ?? e)));
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    share = 0.1 if parser.parse_args().quick else 1.0
    pieces = {
        "demo": None,
        "fine": wall(max(4, round(54 * share)), 128),
        "parts": wall(round(1_000 * share), 48),
    }
    ensure_built()
    cluster = Cluster("bench-postgres")
    cluster.start(anew=True)
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    try:
        with serving() as server, httpx.Client(base_url=server.url, timeout=600) as client:
            for name, piece in pieces.items():
                print(json.dumps({"piece": name} | measure(client, server.url, piece)), flush=True)
    finally:
        cluster.stop()
        cluster.remove()


def measure(client: httpx.Client, url: str, piece: Piece | None) -> dict[str, float]:
    """One piece, or the demo's octopus, in a browser of its own."""
    chosen = kept(client, piece) if piece else octopus(client)
    result = counted(client, chosen)
    browser = open_browser()
    try:
        ours = opened(browser, url, chosen)
        browser.execute_async_script(TURN, WARM_UP)
        fps, longest = browser.execute_async_script(TURN, SECONDS)
        size = browser.execute_script(
            "const c = document.querySelector('canvas[data-frame]'); return [c.clientWidth, c.clientHeight]"
        )
        texts = [Path(THREE / f"three.{kind}.js").read_text() for kind in ("core", "module")]
        browser.execute_cdp_cmd("Page.setBypassCSP", {"enabled": True})
        browser.get(f"{url}/api/formats")
        bare = browser.execute_async_script(BARE, *texts, f"{url}/api/meshes/{result['key']}", *size, SECONDS)
        if isinstance(bare, str):
            raise SystemExit(f"the bare page failed: {bare}")
    finally:
        browser.quit()
    bare_fps, bare_first, bare_longest = bare
    found = (
        {"triangles": result["triangles"]}
        | ours
        | {"first": ours["first_ms"] / bare_first, "bare_longest_ms": bare_longest}
    )
    found |= {"turning_longest_ms": longest, "fps": fps, "bare_fps": bare_fps, "fps_ratio": fps / bare_fps}
    return {name: round(value, 3 if value < 10 else 1) for name, value in found.items()}


def opened(browser: webdriver.Chrome, url: str, piece: str) -> dict[str, float]:
    """From the shelf to the first picture of the skin."""
    browser.set_script_timeout(300)
    browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH})
    browser.get(url)
    card = f"a[href='/pieces/{piece}/make']"
    until(lambda: browser.find_elements(By.CSS_SELECTOR, card), "the piece's card never comes")
    until(lambda: all_pictured(url), "the cards get no pictures")
    browser.execute_cdp_cmd("Network.clearBrowserCache", {})
    browser.get(url)
    until(lambda: browser.find_elements(By.CSS_SELECTOR, card), "the piece's card never comes")
    found = browser.execute_async_script(
        """
        const [card, done] = arguments;
        performance.clearResourceTimings();
        const from = performance.now();
        document.querySelector(card).click();
        const look = () => {
          const canvas = document.querySelector('canvas[data-frame]');
          if (!canvas || Number(canvas.dataset.triangles) < 12000) { requestAnimationFrame(look); return; }
          const gl = canvas.getContext('webgl2');
          const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
          gl.flush();
          const drawn = () => {
            if (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) { setTimeout(drawn, 5); return; }
            const took = performance.now() - from;
            const got = performance.getEntriesByType('resource');
            setTimeout(() => done({
              first_ms: took, requests: got.length, bytes: got.reduce((n, r) => n + r.transferSize, 0),
              longest_ms: Math.max(0, ...tasks.filter(([start]) => start >= from).map(([, long]) => long)),
            }), 3000);
          };
          drawn();
        };
        look();
        """,
        card,
    )
    return dict(found)


def all_pictured(url: str) -> bool:
    return all(c["thumbnail_revision"] == c["revision"] for c in httpx.get(f"{url}/api/pieces", timeout=60).json())


def kept(client: httpx.Client, piece: Piece) -> str:
    made = client.post("/api/pieces", json={"name": piece.name}).raise_for_status().json()
    parts = document(piece)["parts"]
    body = {"base_revision": 0, "request_id": "all-at-once", "edit": {"kind": "add_parts", "parts": parts}}
    answer = client.post(f"/api/pieces/{made['id']}/edits", json=body)
    if not answer.is_success:
        raise SystemExit(answer.text)
    return str(made["id"])


def octopus(client: httpx.Client) -> str:
    return next(str(p["id"]) for p in client.get("/api/pieces").json() if "ctopus" in p["name"])


def counted(client: httpx.Client, piece: str) -> dict[str, Any]:
    """The joined skin of a piece, once it is there."""

    def skin() -> dict[str, Any] | None:
        state = client.get(f"/api/pieces/{piece}").json()
        scene = state["scene"]
        return scene["result"] if scene and not state["making"] and not scene["patch"] else None

    return until(skin, "the piece is never counted", 300)


def until(ask: Any, otherwise: str, seconds: float = 60) -> Any:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := ask():
            return found
        time.sleep(0.2)
    raise SystemExit(otherwise)


if __name__ == "__main__":
    main()
