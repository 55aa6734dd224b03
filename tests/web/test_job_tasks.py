"""What jobs compute, run as a worker runs it: in a process with limits, its files in a folder that goes away."""

import json
import os
import signal
import subprocess
import sys
import time
from contextlib import suppress

import numpy as np
import psutil
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.pieces import asset_bytes, asset_mesh
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.mesh.mass import areas
from noble_clay.jobs import folders, limited
from noble_clay.jobs.folders import PREFIX, clear_abandoned, work_folder
from noble_clay.jobs.kinds import made
from noble_clay.jobs.kinds.base import INPUT, MADE, PIECE
from noble_clay.jobs.kinds.found_meshes import FINDINGS, MESH
from noble_clay.jobs.kinds.mend import MOVED, options_of
from noble_clay.jobs.limited import Stopped, in_limits
from tests.building import box, part, piece
from tests.damage import damaged, holed, inside_out, primitive

BALL = primitive("sphere", radius=10, facets=32)
BROKEN = damaged(BALL, [holed])


def laid(folder, data):
    (folder / INPUT).write_bytes(data)
    return folder


def told():
    said = []

    def tell(share, step):
        said.append((share, step))
        return True

    return said, tell


def test_a_file_is_read_into_a_mesh_findings_and_what_is_said_of_it(tmp_path):
    said, tell = told()
    found = in_limits("bring_in", laid(tmp_path, stl_bytes(BROKEN, "m")), {"ending": "stl"}, tell)
    kept = asset_mesh((tmp_path / MESH).read_bytes())
    assert found["triangles"] == len(kept.triangles) == len(BROKEN.triangles)
    assert found["size"] == pytest.approx([20, 20, 20], rel=1e-3)
    assert (found["unit"], found["manifold"]) == (None, False)
    findings = json.loads((tmp_path / FINDINGS).read_text())
    assert {f["kind"]: f["count"] for f in findings["findings"]} == {"open_edges": 9}
    assert len(findings["flaws"]) == 3
    assert [share for share, _ in said] == sorted(share for share, _ in said)


def laid_ready(folder, shared, what):
    """A folder as a worker lays it out for a job about a piece."""
    folder.mkdir()
    (folder / PIECE).write_text(what.text(), encoding="utf-8")
    (folder / MADE).symlink_to(shared, target_is_directory=True)
    return folder


def test_what_a_piece_came_to_is_kept_for_the_next_job_about_the_same_state(tmp_path, monkeypatch):
    monkeypatch.setattr(made, "SLOW_SECONDS", 0.0)
    shared = tmp_path / "shared"
    shared.mkdir()
    block = piece(box("a", (0, 0, 5), (10, 10, 10)), part("b", "sphere", (4, 0, 10), op="difference", radius=4))
    first = made.made_in(laid_ready(tmp_path / "1", shared, block))[1]
    evaluate = Evaluator.evaluate
    monkeypatch.setattr(Evaluator, "evaluate", lambda *_: pytest.fail("it is made again"))
    again = made.made_in(laid_ready(tmp_path / "2", shared, block))[1]
    assert again.key == first.key and again.crossing == first.crossing
    assert again.inspection.values() == first.inspection.values()
    cut, kept_cut = (areas(r.mesh)[r.part_of == r.part_ids.index("b")].sum() for r in (first, again))
    assert kept_cut == pytest.approx(cut)
    monkeypatch.setattr(Evaluator, "evaluate", evaluate)
    other = piece(box("a", (0, 0, 5), (10, 10, 12)))
    assert made.made_in(laid_ready(tmp_path / "3", shared, other))[1].solid.volume == pytest.approx(1200)
    for kept in shared.glob("*.npz"):
        kept.write_bytes(kept.read_bytes()[:-200])
    third = made.made_in(laid_ready(tmp_path / "4", shared, block))[1]
    assert third.solid.volume == pytest.approx(first.solid.volume), "what is damaged is made again"
    for height in range(1, 10):
        made.made_in(laid_ready(tmp_path / f"h{height}", shared, piece(box("a", (0, 0, 5), (9, 9, height)))))
    assert len(list(shared.iterdir())) == made.MOST_KEPT


def test_a_rehearsal_tells_what_mending_does_and_leaves_no_mesh(tmp_path):
    asked = {"options": {}, "scale": 1.0}
    here, there = tmp_path / "a", tmp_path / "b"
    here.mkdir(), there.mkdir()
    data = asset_bytes(BROKEN)[1]
    rehearsed = in_limits("rehearse", laid(here, data), asked, told()[1])["report"]
    mended = in_limits("mend", laid(there, data), asked, told()[1])["report"]
    assert {k: v for k, v in rehearsed.items() if k != "seconds"} == {k: v for k, v in mended.items() if k != "seconds"}
    assert not (here / MESH).exists()
    after = asset_mesh((there / MESH).read_bytes())
    assert len(np.frombuffer((there / MOVED).read_bytes(), "<f4")) == len(after.triangles)


@pytest.mark.parametrize("scale", [1.0, 25.4, 0.001])
def test_measures_are_those_of_the_mesh_as_it_is_shown(tmp_path, scale):
    report = in_limits("mend", laid(tmp_path, asset_bytes(BROKEN)[1]), {"options": {}, "scale": scale}, told()[1])[
        "report"
    ]
    moved = np.frombuffer((tmp_path / MOVED).read_bytes(), "<f4")
    assert report["volume_mm3"] == pytest.approx(4 / 3 * np.pi * 1000 * scale**3, rel=0.03)
    assert report["area_mm2"] == pytest.approx(4 * np.pi * 100 * scale**2, rel=0.03)
    assert np.ptp(report["bounds"], axis=0) == pytest.approx([20 * scale] * 3, rel=0.01)
    assert 0 < moved.max() <= report["deviation_mm"] * 1.001
    assert report["before"]["findings"][0]["count"] == 9, "a count has no size"


@pytest.mark.parametrize("scale", [1.0, 25.4])
def test_wishes_reach_the_mesh_in_its_own_units(scale):
    options = options_of(
        {"weld_mm": 0.5, "wall_mm": 2.0, "crumb_mm3": 8.0, "skip": ["unite"], "bodies": "largest"}, scale
    )
    assert options.weld_mm * scale == pytest.approx(0.5)
    assert options.wall_mm * scale == pytest.approx(2)
    assert options.crumb_mm3 * scale**3 == pytest.approx(8)
    assert (options.skip, options.bodies, options.resolution_mm) == (frozenset({"unite"}), "largest", None)


def test_one_flaw_is_mended_where_only_one_is_asked_for(tmp_path):
    asked = {"only": {"kind": "open_edges", "number": 0}, "scale": 1.0}
    report = in_limits("mend", laid(tmp_path, asset_bytes(BROKEN)[1]), asked, told()[1])["report"]
    assert [f["count"] for f in report["findings"] if f["kind"] == "open_edges"] == [6]


@pytest.mark.parametrize(
    ("data", "words"), [(b"a list of eggs and milk", "not an STL"), (stl_bytes(BALL, "m")[:-7], "promises")]
)
def test_what_is_refused_is_refused_in_the_readers_words(tmp_path, data, words):
    with pytest.raises(MeshError, match=words):
        in_limits("bring_in", laid(tmp_path, data), {"ending": "stl"}, told()[1])
    assert not (tmp_path / MESH).exists()


def heavy():
    ball = primitive("sphere", radius=20, facets=128)
    return asset_bytes(damaged(type(ball)(ball.vertices + noise(ball), ball.triangles), [inside_out]))[1]


def noise(mesh):
    return np.random.default_rng(1).normal(0, 0.25, mesh.vertices.shape)


def test_whoever_waits_can_stop_it_and_nothing_goes_on(tmp_path):
    calls, seen = [], set()

    def pulse(share, step):
        calls.append(step)
        seen.update(running_tasks())
        return len(calls) < 3

    before = running_tasks()
    with pytest.raises(Stopped):
        in_limits("mend", laid(tmp_path, heavy()), {"options": {}, "scale": 1.0}, pulse)
    assert len(calls) == 3
    assert seen - before, "it did go on until then"
    until = time.monotonic() + 10
    while not running_tasks() <= before and time.monotonic() < until:
        time.sleep(0.05)
    assert running_tasks() <= before
    assert not (tmp_path / MESH).exists()


def running_tasks():
    """Processes that are children of the one from which tasks are forked: what else this process has started, a server
    and a browser, goes on as it likes.
    """
    found = set()
    for child in psutil.Process().children():
        with suppress(psutil.NoSuchProcess):
            if "multiprocessing.forkserver" in " ".join(child.cmdline()):
                found |= {p.pid for p in child.children()}
    return found


def test_what_takes_too_long_is_given_up_in_words(tmp_path, monkeypatch):
    monkeypatch.setattr(limited, "SECONDS", 0)
    with pytest.raises(MeshError, match="given up"):
        in_limits("mend", laid(tmp_path, heavy()), {"options": {}, "scale": 1.0}, told()[1])


def test_a_task_that_is_killed_is_told_and_not_waited_for(tmp_path):
    killed = []

    def pulse(share, step):
        if step not in ("waking up", "inspect") and not killed:
            for server in psutil.Process().children():
                if "forkserver" in " ".join(server.cmdline()):  # its children are tasks of this process, and no others
                    killed.extend(child.pid for child in server.children())
            for pid in killed:
                os.kill(pid, signal.SIGKILL)
        return True

    with pytest.raises(MeshError, match="given up"):
        in_limits("mend", laid(tmp_path, heavy()), {"options": {}, "scale": 1.0}, pulse)
    assert killed


def test_a_work_folder_is_there_while_it_is_needed():
    with work_folder() as folder:
        (folder / "a file").write_text("x")
        assert folder.name.startswith(f"{PREFIX}{os.getpid()}-")
        clear_abandoned()
        assert (folder / "a file").exists(), "its owner is alive"
    assert not folder.exists()


def test_what_a_dead_process_left_is_cleared_away(tmp_path, monkeypatch):
    monkeypatch.setattr(folders.tempfile, "gettempdir", lambda: str(tmp_path))
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    left = tmp_path / f"{PREFIX}{dead.pid}-abc"
    (left / "deep").mkdir(parents=True)
    mine = tmp_path / f"{PREFIX}{os.getpid()}-abc"
    other = tmp_path / f"{PREFIX}nobody-abc"
    mine.mkdir(), other.mkdir()
    clear_abandoned()
    assert (left.exists(), mine.exists(), other.exists()) == (False, True, True)


def forked(process):
    """Whether it was forked by a child of ours that is there for forking."""
    parent = process.parent()
    return parent is not None and parent.ppid() == os.getpid() and "forkserver" in " ".join(parent.cmdline())


def test_tasks_are_forked_from_one_process_that_has_loaded_what_they_need(tmp_path):
    data = asset_bytes(BALL)[1]
    parents = set()

    def pulse(share, step):
        parents.update(p.ppid() for p in psutil.Process().children(recursive=True) if forked(p))
        return True

    for number in range(2):
        folder = tmp_path / str(number)
        folder.mkdir()
        in_limits("inspect", laid(folder, data), {}, pulse)
        assert (folder / FINDINGS).exists()
    (loaded,) = parents
    assert psutil.Process(loaded).ppid() == os.getpid()
