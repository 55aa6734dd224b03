"""./start: database, page and server up; the address when the page really answers; Ctrl+C stops it all."""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request

from tools.cluster import Cluster
from tools.compiled import ensure_compiled
from tools.frontend import ensure_built
from tools.machine import DATA, ROOT, Stop, ended_well, port_taken, say


def main() -> int:
    parser = argparse.ArgumentParser(prog="./start", description="Run Noble Clay on this machine.")
    parser.add_argument("--port", type=int, default=8080)
    port = parser.parse_args().port
    if port_taken(port):
        raise Stop(f"Port {port} is taken by another program. Try: ./start --port {port + 1}")
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    ensure_built()
    ensure_compiled()
    cluster = Cluster("postgres")
    server: subprocess.Popen[bytes] | None = None
    worker: subprocess.Popen[bytes] | None = None
    try:
        cluster.start()
        server = launched(["serve", "--port", str(port)], cluster.url)
        wait_until_it_answers(server, port)
        worker = launched(["worker"], cluster.url)
        say(f"\n  Noble Clay is ready:  http://127.0.0.1:{port}/\n  Ctrl+C stops it.\n")
        return server.wait()
    except KeyboardInterrupt:
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        say("Stopping ...")
        for process in (worker, server):
            if process is not None:
                stop(process)
        if hasattr(cluster, "bin"):
            cluster.stop()


def launched(command: list[str], url: str) -> subprocess.Popen[bytes]:
    """A command of ours as a process: the web server, or a worker beside it."""
    environment = {**os.environ, "NOBLE_CLAY_DATABASE": url, "NOBLE_CLAY_MESHES": str(DATA / "meshes")}
    return subprocess.Popen([sys.executable, "-m", "noble_clay.cli", *command], cwd=ROOT, env=environment)


def wait_until_it_answers(server: subprocess.Popen[bytes], port: int, patience: float = 60) -> None:
    """Return when page and database answer. Raises Stop when the server ends or stays silent."""
    until = time.monotonic() + patience
    while time.monotonic() < until:
        if server.poll() is not None:
            raise Stop("The server stopped while starting; its last words are above.")
        try:
            for path in ("/api/health", "/"):
                urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=2).read()
            return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise Stop(f"The server does not answer on port {port} after {patience:.0f} seconds.")


def stop(server: subprocess.Popen[bytes]) -> None:
    server.terminate()
    try:
        server.wait(10)
    except subprocess.TimeoutExpired:
        server.kill()
        server.wait()


if __name__ == "__main__":
    sys.exit(ended_well(main))
