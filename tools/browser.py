"""A headless Chromium with software WebGL, driven through ChromeDriver; for the browser tests and the screenshots."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

COARSE = 0.25
PATIENCE = 90
"""Seconds that a script in the page may take to answer."""


def open_browser(
    downloads: Path | None = None, size: tuple[int, int] = (1280, 800), smooth: bool = True
) -> webdriver.Chrome:
    """A fresh browser whose page is `size` pixels; files it downloads go to `downloads`. smooth: without, the camera
    does not glide, edges are not smoothed and a pixel drawn is as large as sixteen of the page, which is much quicker
    where software draws.
    """
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    profile = tempfile.mkdtemp(prefix="noble-clay-browser-")
    atexit.register(shutil.rmtree, profile, ignore_errors=True)
    for argument in (
        "--headless=new",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--disable-dev-shm-usage",
        "--use-gl=angle",
        "--use-angle=swiftshader",
        "--enable-unsafe-swiftshader",
        "--hide-scrollbars",
        f"--window-size={size[0]},{size[1]}",
        f"--user-data-dir={profile}",
    ):
        options.add_argument(argument)
    if not smooth:
        options.add_argument("--webgl-antialiasing-mode=none")
        options.add_argument("--force-prefers-reduced-motion")
        options.add_argument("--disable-gpu-compositing")  # the page itself is put together without the software GPU
    if os.geteuid() == 0:
        options.add_argument("--no-sandbox")
    if downloads is not None:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    browser.set_script_timeout(PATIENCE)
    draw_at(browser, 1 if smooth else COARSE, size)
    return browser


def draw_at(browser: webdriver.Chrome, scale: float, size: tuple[int, int] = (1280, 800)) -> None:
    """Have so many pixels drawn for each pixel of the page, along either side."""
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": size[0], "height": size[1], "deviceScaleFactor": scale, "mobile": False},
    )
