"""The drawn tiles of the tray: each primitive's own mesh, seen from above the front left, in clay."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from noble_clay.core.field_kinds import fields_of
from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.mass import normals
from noble_clay.core.primitives.registry import PRIMITIVES

WIDTH, HEIGHT = 64, 44
COARSE = 28
"""Sides of what is round: a tile is small."""

LIGHT = np.array([-0.45, -0.55, 0.8]) / np.linalg.norm([-0.45, -0.55, 0.8])
DARK, BRIGHT = np.array([122, 84, 58]), np.array([232, 203, 178])


@lru_cache(maxsize=64)
def tile_svg(kind: str) -> str:
    """An SVG of the primitive that the tray puts down: its visible faces, the farthest drawn first."""
    cls = PRIMITIVES[kind]
    coarse = {f.name: COARSE for f in fields_of(cls) if f.shown.group == "roundness"}
    mesh = cls.model_validate({"kind": kind, **cls.sample, **coarse}).mesh()
    turn = turn_about("x", -62) @ turn_about("z", 28)
    facing = normals(mesh)
    seen = mesh.corners @ turn.T
    towards = facing @ turn.T
    visible = np.flatnonzero(towards[:, 2] > 1e-6)
    order = visible[np.argsort(seen[visible, :, 2].mean(axis=1))]
    flat = seen[:, :, :2] * [1, -1]
    low, high = flat.min(axis=(0, 1)), flat.max(axis=(0, 1))
    scale = min((WIDTH - 12) / (high[0] - low[0]), (HEIGHT - 8) / (high[1] - low[1]))
    flat = (flat - (low + high) / 2) * scale + [WIDTH / 2, HEIGHT / 2]
    shade = np.clip(facing @ LIGHT * 0.62 + 0.42, 0, 1)[:, None]
    colours = (DARK + (BRIGHT - DARK) * shade).astype(int)
    faces = []
    for i in order:
        points = " ".join(f"{x:.1f},{y:.1f}" for x, y in flat[i])
        colour = "#{:02x}{:02x}{:02x}".format(*colours[i])
        faces.append(f'<polygon points="{points}" fill="{colour}" stroke="{colour}" stroke-width=".4"/>')
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}">{"".join(faces)}</svg>'
