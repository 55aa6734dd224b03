"""What jobs compute: reading a stranger's file, looking a mesh over, mending it. Files in, files out, no database.

Each takes a folder, what was asked, and a function that is told how far it is; each leaves files in the folder and
returns plain values.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from noble_clay.core.field.distance import MeshDistance
from noble_clay.core.formats.pieces import asset_bytes, asset_mesh
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mend.inspect import Inspection, inspect_mesh
from noble_clay.core.mend.mend_place import mend_place
from noble_clay.core.mend.places import flaws
from noble_clay.core.mend.plan import Report, Wishes, mend
from noble_clay.core.mesh import Mesh

Tell = Callable[[float, str], None]
INPUT, MESH, FINDINGS, MOVED = "input", "mesh.glb", "findings.json", "moved.f4"


def bring_in(folder: Path, asked: dict[str, Any], tell: Tell) -> dict[str, Any]:
    """Read a mesh file and look it over; its middle comes to the origin. Raises MeshError."""
    tell(0.05, "reading")
    file = read_mesh((folder / INPUT).read_bytes(), asked["ending"])
    bounds = file.mesh.bounds
    assert bounds is not None
    mesh = Mesh(file.mesh.vertices - bounds.mean(axis=0), file.mesh.triangles)
    tell(0.5, "looking it over")
    found = _kept(folder, mesh)
    names = list(dict.fromkeys(n for n in file.names if n))[:20]
    colours = {c for c in file.colours if c}
    return {
        **found,
        "unit": file.unit,
        "size": (bounds[1] - bounds[0]).tolist(),
        "names": names,
        "colour": colours.pop() if len(colours) == 1 else None,
    }


def look_over(folder: Path, asked: dict[str, Any], tell: Tell) -> dict[str, Any]:
    """Find what is wrong with an asset."""
    tell(0.1, "looking it over")
    mesh = asset_mesh((folder / INPUT).read_bytes())
    _findings(folder, mesh, inspect_mesh(mesh))
    return {}


def mend_mesh(folder: Path, asked: dict[str, Any], tell: Tell) -> dict[str, Any]:
    """Mend an asset. asked: `scale`, mm in a unit of the mesh, and either `wishes`, their lengths in mm, or `only`, the
    kind and number of a single flaw.
    """
    before = asset_mesh((folder / INPUT).read_bytes())
    mended, report = _mended(before, asked, lambda share, step: tell(0.9 * share, step))
    tell(0.92, "looking it over")
    found = _kept(folder, mended)
    shown = asset_mesh((folder / MESH).read_bytes())
    moved = MeshDistance(before).away(shown.corners.mean(axis=1))[0] * asked["scale"]  # of each triangle's middle
    (folder / MOVED).write_bytes(moved.astype("<f4").tobytes())
    return {**found, "report": in_mm(report.values(), asked["scale"])}


def rehearse(folder: Path, asked: dict[str, Any], tell: Tell) -> dict[str, Any]:
    """Tell what mending an asset would do, and keep nothing of it."""
    _, report = _mended(asset_mesh((folder / INPUT).read_bytes()), asked, tell)
    return {"report": in_mm(report.values(), asked["scale"])}


def in_mm(values: Any, scale: float) -> Any:
    """Measures of a mesh as they are where it is shown, `scale` times as large: lengths, areas and volumes by the ends
    of their names.
    """
    match values:
        case dict():
            return {key: _scaled(key, in_mm(value, scale), scale) for key, value in values.items()}
        case list():
            return [in_mm(value, scale) for value in values]
        case _:
            return values


def _scaled(key: str, value: Any, scale: float) -> Any:
    power = next((p for p, end in enumerate(("_mm", "_mm2", "_mm3"), 1) if key.endswith(end)), 0)
    if key == "bounds" and value is not None:
        return [[c * scale for c in corner] for corner in value]
    return value * scale**power if power and value is not None else value


def _mended(mesh: Mesh, asked: dict[str, Any], tell: Tell) -> tuple[Mesh, Report]:
    only = asked.get("only")
    if only is not None:
        return mend_place(mesh, only["kind"], only["number"], tell)
    return mend(mesh, wishes_of(asked["wishes"], asked["scale"]), tell)


def wishes_of(values: dict[str, Any], scale: float) -> Wishes:
    """What a maker asks for, in mm, in the units of a mesh that is shown `scale` times as large."""
    lengths = {k: values[k] / scale for k in ("weld_mm", "wall_mm", "resolution_mm") if values.get(k) is not None}
    crumb = values["crumb_mm3"] / scale**3 if values.get("crumb_mm3") is not None else None
    skip = frozenset(values.get("skip", ()))
    return Wishes(skip=skip, crumb_mm3=crumb, bodies=values.get("bodies", "leave"), **lengths)


def _kept(folder: Path, mesh: Mesh) -> dict[str, Any]:
    sha256, data = asset_bytes(mesh)
    (folder / MESH).write_bytes(data)
    rounded = asset_mesh(data)  # what is kept, is what is told of
    found = inspect_mesh(rounded)
    _findings(folder, rounded, found)
    low, high = np.min(rounded.vertices, axis=0), np.max(rounded.vertices, axis=0)
    return {"sha256": sha256, "low": low.tolist(), "high": high.tolist(), "manifold": found.manifold, **_short(found)}


def _short(found: Inspection) -> dict[str, Any]:
    values = found.values()
    return {k: values[k] for k in ("triangles", "volume_mm3", "bodies", "voids", "findings")}


def _findings(folder: Path, mesh: Mesh, found: Inspection) -> None:
    values = {**found.values(), "sound": found.sound, "flaws": [f.values() for f in flaws(mesh)]}
    (folder / FINDINGS).write_text(json.dumps(values))


TASKS: dict[str, Callable[[Path, dict[str, Any], Tell], dict[str, Any]]] = {
    "bring_in": bring_in,
    "look_over": look_over,
    "mend": mend_mesh,
    "rehearse": rehearse,
}
