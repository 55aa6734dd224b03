"""./start: two in one checkout share the database, what dies is started again, Ctrl+C ends it all, and soon."""

import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from contextlib import suppress
from pathlib import Path

import psutil
import pytest
from tools.machine import ROOT, free_port


class Started:
    """A `./start` on data of the test's own."""

    def __init__(self, data, *arguments):
        environment = {**os.environ, "NOBLE_CLAY_DATA": str(data)}
        command = [sys.executable, "-m", "tools.start", *arguments]
        self.log = Path(data) / f"start-{time.monotonic_ns()}.log"
        with self.log.open("wb") as out:
            self.process = subprocess.Popen(
                command, cwd=ROOT, env=environment, stdout=out, stderr=subprocess.STDOUT, start_new_session=True
            )

    def describe(self, words, patience=240):
        until = time.monotonic() + patience
        while time.monotonic() < until:
            if words in self.log.read_text():
                return True
            time.sleep(0.1)
        raise AssertionError(f"it never said {words!r}:\n{self.log.read_text()}")

    def below(self):
        """All processes under it; not the database, which may outlive it for others."""
        below = psutil.Process(self.process.pid).children(recursive=True)
        return [p for p in below if p.name() not in ("postgres", "pg_ctl")]

    def one(self, command):
        """The process of a command of ours right under it."""
        return next(p for p in psutil.Process(self.process.pid).children() if command in p.cmdline())

    def stop(self, how=signal.SIGINT):
        started = time.monotonic()
        self.process.send_signal(how)
        self.process.wait(20)
        return time.monotonic() - started


def answers(port):
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2) as answer:
            return json.loads(answer.read())["status"] == "well"
    except (urllib.error.URLError, OSError):
        return False


def alive(processes):
    return [p for p in processes if p.is_running() and p.status() != psutil.STATUS_ZOMBIE]


def until(true, patience=40, otherwise="it never came to be"):
    end = time.monotonic() + patience
    while not true():
        assert time.monotonic() < end, otherwise() if callable(otherwise) else otherwise
        time.sleep(0.1)


def ended(processes, patience):
    """Until none of them is left."""
    until(lambda: not alive(processes), patience, lambda: [(p, p.cmdline()[-3:]) for p in alive(processes)])


@pytest.fixture
def data(tmp_path, monkeypatch):
    """A folder for databases, which are gone at the end."""
    monkeypatch.setenv("NOBLE_CLAY_DATA", str(tmp_path))
    yield tmp_path
    script = "; ".join(
        [
            "from tools.cluster import Cluster, ensure_programs",
            "cluster = Cluster('postgres')",
            "cluster.bin = ensure_programs()",
            "cluster.stop()",
            "cluster.remove()",
        ]
    )
    with suppress(subprocess.TimeoutExpired):
        subprocess.run([sys.executable, "-c", script], cwd=ROOT, check=False, timeout=20)


def test_a_port_that_is_none_is_refused_in_words(data):
    started = Started(data, "--port", "99999")
    assert started.process.wait(20) == 1
    assert "There is no port 99999" in started.log.read_text()


def test_two_share_a_database_and_what_is_killed_comes_again(data):
    ports = free_port(), free_port()
    first = Started(data, "--port", str(ports[0]))
    first.describe("is ready")
    second = Started(data, "--port", str(ports[1]))
    second.describe("is ready")
    try:
        # Whoever ends first leaves the database running for the other, and ends all of its own within 3 s.
        mine = first.below()
        assert first.stop() < 4
        ended(mine, 3)
        assert answers(ports[1]) and not answers(ports[0])

        for command in ("worker", "serve"):
            killed = second.one(command)
            killed.kill()
            until(lambda c=command, k=killed: _another(second, c, k.pid))
        until(lambda: answers(ports[1]))
        assert "The worker was ended (SIGKILL); it is started again" in second.log.read_text()

        postmaster = _postmaster(data)
        postmaster.kill()
        second.describe("The database has ended")
        until(lambda: answers(ports[1]))

        # Killed itself: what it has left does not stop a new one on the same port.
        left = second.below()
        second.process.kill()
        second.process.wait()
        third = Started(data, "--port", str(ports[1]))
        third.describe("is ready")
        assert answers(ports[1])
        ended(left, 30)
        assert third.stop(signal.SIGTERM) < 5
        assert not _postmaster(data), "the last one out ends the database"
    finally:
        for one in (first, second):
            one.process.kill()


def _another(started, command, pid):
    with suppress(StopIteration, psutil.NoSuchProcess):
        return started.one(command).pid != pid
    return False


def _postmaster(data):
    """The database's first process, by the folder that it was started with."""
    config = json.loads((data / "postgres.json").read_text())
    for process in psutil.process_iter(["cmdline"]):
        if f"port={config['port']}" in " ".join(process.info["cmdline"] or []):
            return process
    return None
