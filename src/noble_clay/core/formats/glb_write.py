"""Writing GLB (glTF 2.0): one mesh, as one primitive, or with a primitive and a material for each colour."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

from noble_clay.core.formats.glb import BIN, JSON, TRIANGLES
from noble_clay.core.formats.named_parts import NamedParts, by_colour
from noble_clay.core.formats.rounding import rounded
from noble_clay.core.mesh.mesh import Mesh

FLOAT, UNSIGNED = 5126, 5125
ARRAY, ELEMENTS = 34962, 34963
ROUGHNESS = 0.7


def write_glb(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """The shape only: one primitive, so that whatever reads it gets one closed mesh. Numbers are mm, z upwards."""
    return _glb(mesh if parts is not None else rounded(mesh), name, None)


def write_coloured_glb(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """A primitive for each colour; all share one list of points. Who takes each by itself gets open pieces."""
    return _glb(mesh if parts is not None else rounded(mesh), name, parts)


def _glb(mesh: Mesh, name: str, parts: NamedParts | None) -> bytes:
    points = mesh.vertices.astype("<f4")
    runs = by_colour(len(mesh.triangles), parts)
    index = np.concatenate([mesh.triangles[which] for _, which in runs]) if runs else mesh.triangles
    binary = points.tobytes() + index.astype("<u4").tobytes()
    box = {"min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist()} if len(points) else {}
    accessors = [{"bufferView": 0, "componentType": FLOAT, "count": len(points), "type": "VEC3", **box}]
    primitives: list[dict[str, Any]] = []
    materials: list[dict[str, Any]] = []
    at = 0
    for colour, which in runs:
        count = 3 * len(which)
        accessors.append(
            {"bufferView": 1, "byteOffset": 4 * at, "componentType": UNSIGNED, "count": count, "type": "SCALAR"}
        )
        materials.append(
            {
                "name": colour,
                "pbrMetallicRoughness": {
                    "baseColorFactor": [*(linear(int(colour[i : i + 2], 16) / 255) for i in (1, 3, 5)), 1.0],
                    "metallicFactor": 0.0,
                    "roughnessFactor": ROUGHNESS,
                },
            }
        )
        primitives.append(
            {
                "attributes": {"POSITION": 0},
                "indices": len(accessors) - 1,
                **({"material": len(primitives)} if parts is not None else {}),
                "mode": TRIANGLES,
            }
        )
        at += count
    document = {
        "asset": {"version": "2.0", "generator": "Noble Clay"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"name": name, "mesh": 0}],
        "meshes": [{"name": name, "primitives": primitives}],
        **({"materials": materials} if parts is not None else {}),
        "accessors": accessors,
        "bufferViews": [
            {"buffer": 0, "byteLength": points.nbytes, "target": ARRAY},
            {"buffer": 0, "byteOffset": points.nbytes, "byteLength": 4 * index.size, "target": ELEMENTS},
        ],
        "buffers": [{"byteLength": len(binary)}],
    }
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), JSON) + text + struct.pack("<II", len(binary), BIN) + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def linear(shade: float) -> float:
    """Of sRGB, 0 to 1 (IEC 61966-2-1)."""
    return shade / 12.92 if shade <= 0.04045 else ((shade + 0.055) / 1.055) ** 2.4
