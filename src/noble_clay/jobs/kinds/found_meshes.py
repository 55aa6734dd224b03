"""A mesh as a job leaves it in its folder: looked over, with its findings; and kept from there."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from noble_clay.core.formats.pieces import asset_bytes, asset_mesh
from noble_clay.core.mend.places import flaws
from noble_clay.core.mesh.inspect import Inspection, inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.store import jobs
from noble_clay.store.assets import keep_asset

MESH, FINDINGS = "mesh.glb", "findings.json"


def leave_mesh(folder: Path, mesh: Mesh) -> dict[str, Any]:
    """Leave a mesh as an asset with its findings; and what is told of it."""
    sha256, data = asset_bytes(mesh)
    (folder / MESH).write_bytes(data)
    rounded = asset_mesh(data)  # what is kept, is what is told of
    found = inspect_mesh(rounded)
    leave_findings(folder, rounded, found)
    low, high = np.min(rounded.vertices, axis=0), np.max(rounded.vertices, axis=0)
    return {"sha256": sha256, "low": low.tolist(), "high": high.tolist(), "manifold": found.manifold, **_short(found)}


def in_words(found: dict[str, Any]) -> str:
    """What is told of a mesh, in a few words."""
    closed = "closed" if found["manifold"] else "not closed"
    bodies, triangles = found["bodies"], found["triangles"]
    return f"{closed}, {_many(bodies, 'body', 'bodies')}, {_many(triangles, 'triangle', 'triangles')}"


def _many(count: int, one: str, many: str) -> str:
    return f"{count:,} {one if count == 1 else many}"


def _short(found: Inspection) -> dict[str, Any]:
    values = found.values()
    return {k: values[k] for k in ("triangles", "volume_mm3", "bodies", "voids", "findings")}


def leave_findings(folder: Path, mesh: Mesh, found: Inspection) -> None:
    values = {**found.values(), "sound": found.sound, "flaws": [f.values() for f in flaws(mesh)]}
    (folder / FINDINGS).write_text(json.dumps(values))


def keep_mesh(session: Session, folder: Path, sha256: str) -> None:
    keep_asset(session, sha256, (folder / MESH).read_bytes())
    keep_findings(session, folder, sha256)


def keep_findings(session: Session, folder: Path, sha256: str) -> None:
    jobs.keep_findings(session, sha256, json.loads((folder / FINDINGS).read_text()))
