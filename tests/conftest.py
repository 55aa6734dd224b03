"""What every test run has: how much is tried, a database and a server for each process, and what is told at the end."""

from __future__ import annotations

import os
from collections import defaultdict
from itertools import zip_longest
from pathlib import PurePath

import pytest
from tools.cluster import Cluster

from tests.examples import choose_profile
from tests.serving import serving

MOST_RERUN = 2
"""Tests that may pass only when they are run once more."""


def pytest_addoption(parser):
    parser.addoption("--long", action="store_true", help="property tests try many more examples, new ones each time")


def pytest_collection_modifyitems(items):
    """Files of the browser, which take the processor, and of the web, which mostly wait, in turns; then the others."""
    files = list(dict.fromkeys(item.path for item in items))
    folders = {f: [p for p in files if p.parent.name == f] for f in ("browser", "web")}
    turns = [p for both in zip_longest(*folders.values()) for p in both if p is not None]
    place = {path: number for number, path in enumerate([*turns, *(p for p in files if p not in turns)])}
    items.sort(key=lambda item: place[item.path])


def pytest_configure(config):
    choose_profile(config.getoption("--long"))


@pytest.fixture(scope="session")
def cluster():
    """A PostgreSQL of this process's own."""
    found = Cluster(f"test-postgres-{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}")
    found.start(anew=True)
    os.environ["NOBLE_CLAY_DATABASE"] = found.url
    yield found
    found.stop()
    found.remove()


@pytest.fixture(scope="session")
def shared_server(cluster):
    with serving() as running:
        yield running


@pytest.fixture(scope="module")
def own_database(cluster, request):
    """A database of the module's own, so that nobody else's worker does its work."""
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.add_database(request.module.__name__.replace(".", "_"))
    yield
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url


@pytest.fixture(scope="module")
def own_server(own_database):
    with serving() as running:
        yield running


@pytest.fixture(scope="module")
def server(request):
    """A server with a worker: the one that most modules share, or, where a module says `OWN_SERVER = True`, its own."""
    own = getattr(request.module, "OWN_SERVER", False)
    return request.getfixturevalue("own_server" if own else "shared_server")


def rerun(terminal) -> list[str]:
    """Tests that failed, were run once more and passed."""
    again = {report.nodeid for report in terminal.stats.get("rerun", [])}
    return sorted(again - {report.nodeid for report in terminal.stats.get("failed", [])})


@pytest.hookimpl(tryfirst=True)
def pytest_sessionfinish(session):
    terminal = session.config.pluginmanager.get_plugin("terminalreporter")
    if terminal is not None and len(rerun(terminal)) > MOST_RERUN and session.exitstatus == 0:
        session.exitstatus = pytest.ExitCode.TESTS_FAILED


def pytest_terminal_summary(terminalreporter):
    spent: dict[str, float] = defaultdict(float)
    for reports in terminalreporter.stats.values():
        for report in reports:
            if isinstance(report, pytest.TestReport):
                spent[PurePath(report.nodeid).parts[1]] += report.duration
    told = ", ".join(f"{folder} {seconds:,.0f} s" for folder, seconds in sorted(spent.items()))
    terminalreporter.write_line(f"Spent in tests, by folder: {told}")
    again = rerun(terminalreporter)
    if again:
        terminalreporter.write_sep("=", f"passed only when run once more; more than {MOST_RERUN} fail the run")
        for name in again:
            terminalreporter.write_line(name)
