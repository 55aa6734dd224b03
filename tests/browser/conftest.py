"""A real browser on a real server, and a newcomer's hands."""

import tempfile
import time
from contextlib import suppress
from pathlib import Path

import httpx
import numpy as np
import pytest
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from tools.browser import COARSE, draw_at, open_browser

PATIENCE = 45
"""Seconds that a page is waited for: a busy machine takes its time, and what is there is seen at once."""


class Chrome:
    """One browser for all tests of a process; a new one where its page has crashed, so that no other fails for it."""

    def __init__(self, downloads):
        self.downloads = downloads
        self.browser = self._opened()
        self.sound = True
        """Whether the last test passed."""

    def _opened(self):
        browser = open_browser(self.downloads, smooth=False)
        browser.downloads = self.downloads
        return browser

    def page(self, server):
        """The browser as the test before left it, or with an empty page where that failed or was of another server: its
        page would hand in pictures which this one has not got.
        """
        try:
            if self.sound and self.browser.current_url.startswith(server.url):
                return self.browser
            self.browser.get("about:blank")
        except WebDriverException:
            with suppress(WebDriverException):
                self.browser.quit()
            self.browser = self._opened()
            self.browser.get("about:blank")
        return self.browser


@pytest.fixture(scope="session")
def chrome(tmp_path_factory):
    found = Chrome(tmp_path_factory.mktemp("downloads"))
    yield found
    found.browser.quit()


STILL = """
  const done = arguments[0];
  let last, since;
  const look = (now) => {
    const {frame, coarser, compiling} = document.querySelector('canvas')?.dataset ?? {};
    const coming = Number(document.body.dataset.coming ?? 0);
    if (frame !== last || coarser === 'true' || compiling === 'true' || coming) [last, since] = [frame, now];
    if (frame && now - since > 250) done();
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);"""

SETTLED = """
  const done = arguments[0];
  const begun = performance.now();
  const kept = () => [...document.querySelectorAll('span')].some((span) => span.textContent.startsWith('Kept '));
  const counting = () => document.querySelector('[data-testid=soundness]')?.textContent.includes('Still ');
  const look = () => {
    if (kept() && !counting()) done(null);
    else if (performance.now() - begun > 60_000) done(`the piece is never ${kept() ? 'counted' : 'kept'}`);
    else setTimeout(look, 40);
  };
  let left = 6;
  const frame = () => (left-- ? requestAnimationFrame(frame) : look());
  frame();"""
"""In the page itself: asked from outside again and again it would take a busy machine's time."""


RECORD = """
  window.drawn = [];
  const canvas = document.querySelector('canvas[data-frame]');
  new MutationObserver(() => drawn.push(Number(canvas.dataset.triangles)))
    .observe(canvas, {attributes: true, attributeFilter: ['data-frame']});
"""


GO = "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))"
"""As the address bar's arrows would: the application looks where it stands, and shows that."""


class Hands:
    """What a person does with mouse and keyboard, and what they read."""

    def __init__(self, browser, server):
        self.browser, self.server = browser, server

    def find(self, xpath, patience=PATIENCE):
        return self.until(lambda: self.browser.find_elements(By.XPATH, xpath), f"nothing at {xpath}", patience)[0]

    def there(self, xpath):
        return bool(self.browser.find_elements(By.XPATH, xpath))

    def until(self, true, otherwise, patience=PATIENCE):
        end = time.monotonic() + patience
        while time.monotonic() < end:
            try:
                found = true()
            except StaleElementReferenceException:
                found = None
            if found:
                return found
            time.sleep(0.05)
        raise AssertionError(otherwise)

    def settle(self):
        """Until every gesture is answered and counted; a gesture takes a few drawn frames to begin."""
        never = self.browser.execute_async_script(SETTLED)
        assert never is None, never

    def open(self, path="/"):
        self.browser.get(self.server.url + path)

    def new_piece(self):
        """A new piece at its first stage, in the page that is there: loading it anew takes most of a short test."""
        made = httpx.post(f"{self.server.url}/api/pieces", json={"name": "New piece"}).raise_for_status().json()
        self.go(f"/pieces/{made['id']}/make")
        self.find("//div[@class='teach']")
        self.still()

    def go(self, path):
        """Go to a page of the application as its own links do, without loading it anew."""
        if not self.browser.current_url.startswith(self.server.url):
            self.open(path)
        else:
            self.browser.execute_script(GO, path)

    def button(self, text):
        """Clicks it once: figures that come meanwhile move what stands below them away from under the pointer."""
        path = f"//button[normalize-space(.)='{text}']"

        def clicked():
            with suppress(ElementClickInterceptedException):
                self.find(path).click()
                return True

        self.until(clicked, f"something lies over {path}")

    def put_down(self, label, family="Round"):
        self.find(f"//button[@role='tab' and .='{family}']").click()
        before = len(self.lines())
        self.find(f"//button[contains(@class,'tile') and contains(., '{label}')]").click()
        self.until(lambda: len(self.lines()) > before, f"no {label} came")
        self.settle()

    def lines(self):
        """The names in the recipe, all at once: asked for one by one they take a tenth of a second each."""
        return self.browser.execute_script(
            "return [...document.querySelectorAll('[role=treeitem] span.label')].map((line) => line.innerText.trim())"
        )

    def pick(self, name, *more):
        self.find(f"//*[@role='treeitem'][.//span[normalize-space(.)='{name}']]").click()
        for other in more:
            line = self.find(f"//*[@role='treeitem'][.//span[normalize-space(.)='{other}']]")
            ActionChains(self.browser).key_down(Keys.CONTROL).click(line).key_up(Keys.CONTROL).perform()

    def field(self, label):
        return self.find(f"//div[@class='field'][label[normalize-space(.)='{label}']]/input")

    def type(self, label, text):
        box = self.field(label)
        box.click()
        box.send_keys(Keys.CONTROL, "a")
        box.send_keys(text, Keys.ENTER)
        self.settle()

    def choose(self, select, option):
        """Choose from a list, given by its xpath, once that is there and offers it."""
        self.until(lambda: self._chosen(f"{select}/option[normalize-space(.)='{option}']"), f"no {option} in {select}")

    def _chosen(self, option):
        found = self.browser.find_elements(By.XPATH, option)
        return bool(found) and not found[0].click()

    def read(self, label):
        return float(self.field(label).get_attribute("value").rstrip("°"))

    def keys(self, *keys):
        ActionChains(self.browser).send_keys(*keys).perform()
        self.settle()

    def chord(self, key, *held):
        chain = ActionChains(self.browser)
        for k in held:
            chain.key_down(k)
        chain.send_keys(key)
        for k in held:
            chain.key_up(k)
        chain.perform()
        self.settle()

    def piece(self):
        """The document of the piece that is open, as the server has it."""
        self.settle()
        piece_id = self.browser.current_url.split("/pieces/")[1].split("/")[0]
        return httpx.get(f"{self.server.url}/api/pieces/{piece_id}").raise_for_status().json()["piece"]

    def soundness(self):
        """What the page says of the piece once that is made and counted."""

        def said():
            word = self.find("//*[@data-testid='soundness']").text.split("\n")[-1].lstrip("●▲○ ").strip()
            return not word.startswith("Still ") and word

        return self.until(said, "the piece is never counted", 60)

    def figure(self, name):
        return self.find(f"//*[@data-testid='figures']//div[dt='{name}']/dd").text

    def note(self):
        return self.find("//*[@data-testid='join-note']").text

    def canvas(self):
        return self.find("//canvas")

    def drag(self, start, way):
        """Press at `start`, px from the view's middle, and let go `way` px on."""
        chain = ActionChains(self.browser).move_to_element_with_offset(self.canvas(), *start).click_and_hold()
        for _ in range(4):
            chain.move_by_offset(way[0] // 4, way[1] // 4)
        chain.release().perform()
        self.settle()

    def grip(self, label):
        """A grip, once it stands still."""
        found = self.find(f"//button[contains(@class,'grip') and @aria-label='{label}']")
        # A grip stands where it belongs one drawn frame after what it holds has changed.
        last = None
        while last != (last := found.rect):
            self.frames(5)
        return found

    def frames(self, number):
        """Until the page has drawn so many frames."""
        wait = "const [n, done] = arguments; let left = n; const f = () => left-- ? requestAnimationFrame(f) : done();"
        self.browser.execute_async_script(f"{wait} f()", number)

    def still(self):
        """Until the view draws nothing more: the eye stands, and all that was asked for is shown."""
        self.until(lambda: self.there("//canvas"), "no view")
        self.browser.execute_async_script(STILL)

    def pixel_of(self, point):
        """Where on the page a point of the wheel is shown, mm."""
        canvas = self.canvas()
        columns = np.array(canvas.get_attribute("data-onto").split(), dtype=float).reshape(4, 4).T
        x, y, _, w = columns @ [*point, 1]
        box = canvas.rect
        return box["x"] + (x / w * 0.5 + 0.5) * box["width"], box["y"] + (0.5 - y / w * 0.5) * box["height"]

    def point_at(self, x, y):
        """Come to a point of the page as a hand does, in more than one movement."""
        for dx in (-3, 0):
            chain = ActionChains(self.browser, duration=20)
            chain.w3c_actions.pointer_action.move_to_location(int(x) + dx, int(y))
            chain.perform()
            self.frames(10)

    def point_until(self, x, y, told):
        """Rest at a point of the page until the note in the view says it; a hand that rests still moves a little."""

        def seen():
            self.point_at(x, y)
            notes = self.browser.find_elements(By.XPATH, "//*[@data-testid='drag-note']")
            return any(told in note.text for note in notes)

        self.until(seen, f"the view does not say {told!r}")

    def pull(self, label, way, held=(), stride=12):
        """Drag a grip by so many px, `stride` at a time, keys held down meanwhile."""
        chain = ActionChains(self.browser, duration=20)
        for key in held:
            chain.key_down(key)
        chain.move_to_element(self.grip(label)).click_and_hold()
        steps = max(5, int(max(abs(w) for w in way) / stride))
        for _ in range(steps):
            chain.move_by_offset(way[0] / steps, way[1] / steps).pause(0.03)
        chain.release()
        for key in held:
            chain.key_up(key)
        chain.perform()
        self.settle()

    def place(self):
        return [self.read(name) for name in ("Across", "Away", "Base at")]

    def notes_while(self, act):
        """What the note of a drag said while `act` went on."""
        watch = """
          window.notes = new Set();
          window.watch = setInterval(() => {
            const note = document.querySelector('[data-testid="drag-note"]');
            if (note) window.notes.add(note.textContent);
          }, 10)"""
        self.browser.execute_script(watch)
        act()
        return self.browser.execute_script("clearInterval(window.watch); return [...window.notes]")

    def drawn_while(self, act):
        """Of every frame that was drawn while `act` went on, how many triangles."""
        self.browser.execute_script(RECORD)
        act()
        return self.browser.execute_script("return drawn")

    def told(self):
        return self.find("//div[contains(@class,'notice')]").text

    def download(self, item):
        def ask():
            self.button("Export")
            self.find(f"//a[contains(@class,'dropdown-item')][b='{item}']").click()

        return self.arrived(ask, f"no {item} arrived")

    def arrived(self, ask, otherwise):
        """The file that arrives once it is asked for."""
        for old in self.browser.downloads.iterdir():
            old.unlink()
        ask()

        def finished():
            # The browser writes under a hidden or a `.crdownload` name until the file is whole.
            names = [f for f in self.browser.downloads.iterdir() if not f.name.startswith(".")]
            files = [f for f in names if f.suffix != ".crdownload"]
            return files and files[0]

        return self.until(finished, otherwise)

    def complaints(self):
        """What the browser's console holds against the page."""
        return [e["message"] for e in self.browser.get_log("browser") if e["level"] == "SEVERE"]


HERE = Path(__file__).parent


def pytest_collection_modifyitems(items):
    """A test that fails is run once more: a browser on a busy machine may be late where nothing is wrong."""
    for item in items:
        if HERE in item.path.parents:
            item.add_marker(pytest.mark.flaky(reruns=1))


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    """With a test that fails, what the page said by then, and a picture of it beside the test's other files."""
    report = yield
    hands = item.funcargs.get("hands")
    if "chrome" in item.funcargs and report.when != "teardown":
        item.funcargs["chrome"].sound = not report.failed
    if hands is not None and report.when == "call" and report.failed:
        picture = Path(tempfile.mkdtemp(prefix="noble-clay-failed-")) / f"{item.name[:60]}.png"
        draw_at(hands.browser, 1)  # to be read
        hands.browser.save_screenshot(str(picture))
        draw_at(hands.browser, COARSE)
        picture.with_suffix(".txt").write_text(report.longreprtext)  # of a first run nothing else tells why
        said = [hands.browser.find_element(By.TAG_NAME, "body").text, *hands.complaints(), str(picture)]
        report.sections.append(("the page by then", "\n".join(said)))
    return report


@pytest.fixture
def hands(chrome, server):
    found = Hands(chrome.page(server), server)
    found.complaints()
    return found
