"""Two windows at work on one piece at random, at the same time: in the end both have what the server has, and nothing
that was accepted is missing.
"""

from contextlib import suppress

import httpx
import pytest
from selenium.common.exceptions import WebDriverException
from sqlalchemy import text

from noble_clay.store.database import open_database

ACTS = 20
MINUTE = 60
"""Acts of each window; in the long run as many as come in so many seconds: one that is not in front acts slowly."""

LISTEN = """
  window.heard = {accepted: [], refused: 0, newest: null};
  const plain = window.fetch;
  window.fetch = async (...asked) => {
    const request = new Request(...asked);
    const body = request.method === 'POST' ? await request.clone().text() : '';
    const answer = await plain(request);
    const of = /[/]api[/]pieces[/][0-9a-f]{16}([/](edits|undo|redo|adjust|put-down))?$/.exec(request.url);
    if (of && answer.ok) {
      const state = await answer.clone().json();
      const {newest} = heard;
      const {revision} = state;
      if (!newest || revision > newest.revision) heard.newest = {revision, piece: JSON.stringify(state.piece)};
      const id = body && JSON.parse(body).request_id;
      if (id && !heard.accepted.includes(id)) heard.accepted.push(id);
    } else if (of) heard.refused += 1;
    return answer;
  };
"""
"""Before the page begins: what the server answers it."""

ACT = """
  let [seed, most, seconds] = arguments;
  const end = performance.now() + 1000 * seconds;
  const draw = (n) => { seed = (seed * 1103515245 + 12345) % 2147483648; return Math.floor(seed / 65536) % n; };
  const press = (key, held) =>
    document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true, cancelable: true, ...held}));
  const click = (all) => all.length && all[draw(all.length)].click();
  const acts = [
    () => click(document.querySelectorAll('[role=treeitem]')),
    () => click(document.querySelectorAll('[role=treeitem]')),
    () => press('ArrowRight'), () => press('ArrowUp'), () => press('PageUp'),
    () => press('z', {ctrlKey: true}), () => press('y', {ctrlKey: true}),
    () => press('d', {ctrlKey: true}), () => press('Delete'),
    () => click(document.querySelectorAll('button.tile')),
  ];
  const busy = () => document.querySelector('.top-right').innerText.includes('Working');
  window.acted = 0;
  const acting = setInterval(() => {
    if (window.acted >= most || performance.now() > end) {
      clearInterval(acting);
      window.done = true;
    } else if (!busy() || draw(3) === 0) {
      acts[draw(acts.length)]();
      window.acted += 1;
    }
  }, 180);
"""


@pytest.fixture
def windows(hands):
    """The piece in two windows, both of which say what they are answered."""
    hands.new_piece()
    for _ in range(2):
        hands.put_down("Sphere")
    first, url = hands.browser.current_window_handle, hands.browser.current_url
    handles = []
    for _ in range(2):
        hands.browser.switch_to.new_window("window")
        hands.browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": LISTEN})
        hands.browser.get(url)
        hands.find("//*[@role='treeitem']")
        handles.append(hands.browser.current_window_handle)
    yield handles
    for handle in handles:
        with suppress(WebDriverException):
            hands.browser.switch_to.window(handle)
            hands.browser.close()
    hands.browser.switch_to.window(first)


def of_both(hands, windows, script, *given):
    found = []
    for handle in windows:
        hands.browser.switch_to.window(handle)
        found.append(hands.browser.execute_script(script, *given))
    return found


def test_both_end_with_what_the_server_has_and_no_accepted_edit_is_missing(hands, windows, request, cluster):
    long = request.config.getoption("--long")
    acts, seconds = (100 * ACTS, MINUTE) if long else (ACTS, 100)
    for number, handle in enumerate(windows):
        hands.browser.switch_to.window(handle)
        hands.browser.execute_script(ACT, 7 + number, acts, seconds)
    hands.until(lambda: all(of_both(hands, windows, "return window.done")), "they do not end", 150)
    piece_id = hands.browser.current_url.split("/pieces/")[1].split("/")[0]
    url = f"{hands.server.url}/api/pieces/{piece_id}"
    shown = "return document.querySelector('.app').dataset.revision"

    def in_step():
        for handle in windows:
            hands.browser.switch_to.window(handle)
            hands.settle()
        answer = httpx.get(url).raise_for_status()
        return of_both(hands, windows, shown) == [str(answer.json()["revision"])] * 2 and answer

    kept = hands.until(in_step, "the windows do not come to the same", 60)
    heard = of_both(hands, windows, "return window.heard")
    piece = hands.browser.execute_script("return JSON.stringify(JSON.parse(arguments[0]).piece)", kept.text)
    if long:
        assert min(of_both(hands, windows, "return window.acted")) > ACTS
    for one in heard:
        assert one["newest"] == {"revision": kept.json()["revision"], "piece": piece}, "byte for byte"
    with open_database().connect() as connection:
        query = text("select request_id from edits where piece_id = :piece")
        rows = {row[0] for row in connection.execute(query, {"piece": piece_id})}
    for one in heard:
        assert set(one["accepted"]) <= rows, "what was accepted is kept"
    assert len(rows) == len({i for one in heard for i in one["accepted"]}) + 2, "and nothing else"
