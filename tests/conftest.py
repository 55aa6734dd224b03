"""What every test run has: how much is tried, a database for each worker, and what is told at the end."""

from __future__ import annotations

import os
from collections import defaultdict
from pathlib import PurePath

import psycopg
import pytest
from psycopg import sql

from tests.examples import choose_profile

DATABASE = "NOBLE_CLAY_DATABASE"
MOST_RERUN = 2
"""Tests that may pass only when they are run once more."""


def pytest_addoption(parser):
    parser.addoption("--long", action="store_true", help="property tests try many more examples, new ones each time")


def pytest_configure(config):
    choose_profile(config.getoption("--long"))
    worker = os.environ.get("PYTEST_XDIST_WORKER")
    if worker and DATABASE in os.environ:
        os.environ[DATABASE] = database_of(worker, os.environ[DATABASE])


def database_of(worker: str, url: str) -> str:
    """The URL of a worker's own database beside the one at `url`, made where it is not there."""
    server, name = url.rsplit("/", 1)
    own = f"{name}_{worker}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as connection:
        if not connection.execute("select 1 from pg_database where datname = %s", (own,)).fetchone():
            connection.execute(sql.SQL("create database {}").format(sql.Identifier(own)))
    return f"{server}/{own}"


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
