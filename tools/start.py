"""./start: database, page and server up; the address when the page really answers; whatever of it dies is started
again; Ctrl+C stops it all.
"""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request

from tools import running
from tools.cluster import Cluster
from tools.compiled import ensure_compiled
from tools.frontend import ensure_built
from tools.machine import DATA, Stop, ended_well, port_taken, say
from tools.supervise import FIRST_PAUSE, LONGEST_PAUSE, Kept, end_all, wait_while

LOOK_SECONDS = 0.3
"""Between two looks at whether all is running."""


def main() -> int:
    parser = argparse.ArgumentParser(prog="./start", description="Run Noble Clay on this machine.")
    parser.add_argument("--port", type=int, default=8080, help="1 to 65535; 8080 when left out")
    port = parser.parse_args().port
    if not 1 <= port <= 65535:
        raise Stop(f"There is no port {port}: take one from 1 to 65535. Try: ./start --port 8080")
    with running.alone():
        left = running.clear_left()
    if port in left:
        wait_while(lambda: port_taken(port), 5)
    if port_taken(port):
        raise Stop(f"Port {port} is taken by another program. Try: ./start --port {_free_after(port)}")
    signal.signal(signal.SIGTERM, _end)
    signal.signal(signal.SIGINT, _end)
    ensure_built()
    ensure_compiled()
    cluster = Cluster("postgres")
    kept: list[Kept] = []
    try:
        with running.alone():
            running.enter(port, [])
            cluster.start()
        server = _ours("The web server", ["serve", "--port", str(port)], cluster.url)
        kept.append(server)
        wait_until_it_answers(server.start(), port)
        kept.append(_ours("The worker", ["worker"], cluster.url))
        kept[-1].start()
        _enter(port, kept)
        say(f"\n  Noble Clay is ready:  http://127.0.0.1:{port}/\n  Ctrl+C stops it.\n")
        look_after(port, cluster, kept)
    except KeyboardInterrupt:
        pass
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        say("Stopping ...")
        end_all([k.process for k in kept])
        with running.alone():
            running.leave()
            if hasattr(cluster, "bin") and not running.others():
                cluster.stop()
    return 0


ASKED: list[int] = []
"""The signals by which it was asked to end: what one of them raises can be lost where Python itself cleans up."""


def _end(number: int, frame: object) -> None:
    ASKED.append(number)
    if number == signal.SIGINT:
        raise KeyboardInterrupt
    sys.exit(0)


def look_after(port: int, cluster: Cluster, kept: list[Kept]) -> None:
    """Keep all of it running until this is asked to end."""
    pause, again_at = FIRST_PAUSE, 0.0
    while not ASKED:
        time.sleep(LOOK_SECONDS)
        restarted = [one for one in kept if one.look_after()]
        if restarted:
            _enter(port, kept)
        if cluster.alive():
            again_at = 0.0
        elif again_at == 0.0:
            again_at = time.monotonic() + pause
            say(f"  The database has ended; it is started again in {pause:.0f} s.")
            pause = min(2 * pause, LONGEST_PAUSE)
        elif time.monotonic() > again_at:
            again_at = 0.0
            with running.alone():
                try:
                    cluster.start()
                except Stop as stop:
                    say(f"  {stop}")


def _enter(port: int, kept: list[Kept]) -> None:
    running.enter(port, [k.process.pid for k in kept if k.process is not None])


def _ours(what: str, command: list[str], url: str) -> Kept:
    """A command of ours: the web server, or a worker beside it."""
    environment = {**os.environ, "NOBLE_CLAY_DATABASE": url, "NOBLE_CLAY_MESHES": str(DATA / "meshes")}
    return Kept(what, [sys.executable, "-m", "noble_clay.cli", *command], environment)


def _free_after(port: int) -> int:
    """The next port that is free."""
    return next((p for p in range(port + 1, 65536) if not port_taken(p)), 8080)


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


if __name__ == "__main__":
    sys.exit(ended_well(main))
