"""Running the application on this machine: tables up to date, the demo there, solvers started, then the web server."""

from __future__ import annotations

import ipaddress
import os
import socket
import sys
from pathlib import Path

import uvicorn

from noble_clay.demo.loader import demo_files
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.pool import Pool
from noble_clay.store.assets import keep_asset
from noble_clay.store.database import migrate, open_database, sessions
from noble_clay.store.pieces import create_piece, has_demo
from noble_clay.web.app import create_app
from noble_clay.web.state import Workshop

MOST_ASKED = 1_000_000
"""Bytes of one question over a socket."""


def serve(host: str, port: int) -> int:
    """Serve until stopped; returns an exit status. Only loopback addresses are served."""
    if host != "localhost" and not ipaddress.ip_address(host).is_loopback:
        print(f"noble-clay: {host} is not a loopback address; this serves one machine only", file=sys.stderr)
        return 2
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            print(f"noble-clay: port {port} is taken; choose another with --port", file=sys.stderr)
            return 2
    engine = open_database()
    migrate(engine)
    maker = sessions(engine)
    with maker.begin() as session:
        if not has_demo(session):
            for file in demo_files():
                for sha256, data in file.assets.items():
                    keep_asset(session, sha256, data)
                create_piece(session, file.piece, demo=True)
    files = MeshFiles(Path(os.environ.get("NOBLE_CLAY_MESHES", ".data/meshes")))
    files.prune()
    shop = Workshop(maker, Pool(files.folder), files)
    try:
        uvicorn.run(
            create_app(shop),
            host=host,
            port=port,
            log_level="warning",
            ws_max_size=MOST_ASKED,
            timeout_graceful_shutdown=1,
        )
    finally:
        shop.close()
    return 0
