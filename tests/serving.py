"""A real server on the test cluster, for the web and browser tests."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx
import psutil
from tools.machine import ROOT, free_port
from tools.start import wait_until_it_answers


@dataclass
class Server:
    """A running `noble-clay serve`."""

    port: int
    process: subprocess.Popen[bytes]
    worker: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def client(self) -> httpx.Client:
        return httpx.Client(base_url=self.url, timeout=60)

    def solvers(self) -> list[psutil.Process]:
        """Its solver processes."""
        children = psutil.Process(self.process.pid).children(recursive=True)
        return [p for p in children if "forkserver" in " ".join(p.cmdline())]


def launch(port: int, meshes: Path) -> Server:
    environment = {**os.environ, "NOBLE_CLAY_MESHES": str(meshes)}
    command = [sys.executable, "-m", "noble_clay.cli", "serve", "--port", str(port)]
    process = subprocess.Popen(command, cwd=ROOT, env=environment)
    wait_until_it_answers(process, port)
    return Server(port, process)


def launch_worker() -> subprocess.Popen[bytes]:
    """A worker on the same database, as a group of processes of its own."""
    command = [sys.executable, "-m", "noble_clay.cli", "worker"]
    return subprocess.Popen(command, cwd=ROOT, start_new_session=True)


def end(process: subprocess.Popen[bytes]) -> None:
    process.send_signal(signal.SIGTERM)
    try:
        process.wait(10)
    except subprocess.TimeoutExpired:
        process.kill()


@contextmanager
def serving() -> Iterator[Server]:
    """A server and a worker until the block ends. Killed ones may have been replaced in the meantime."""
    with tempfile.TemporaryDirectory() as folder:
        server = launch(free_port(), Path(folder))
        server.worker = launch_worker()
        try:
            yield server
        finally:
            end(server.process)
            end(server.worker)


def relaunched(server: Server) -> None:
    """Start it again on its port after it was killed, with no mesh at hand."""
    server.process = launch(server.port, Path(tempfile.mkdtemp())).process
