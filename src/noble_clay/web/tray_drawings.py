"""The drawn tiles of the tray: each primitive's own mesh, seen from above the front left, in clay; and the same with
one field after the other grown and shrunk, so that it is seen what each does.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from pydantic import ValidationError

from noble_clay.core.field_kinds import AngleKind, CountKind, FieldSpec, NumberKind, VectorKind, fields_of
from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.registry import PRIMITIVES

WIDTH, HEIGHT = 64, 44
COARSE = 28
"""Sides of what is round: a tile is small."""

COARSER = 14
"""The same of one that moves, which is drawn many times."""

SHARES = (0.62, 0.8, 1.0, 1.25, 1.5, 1.25, 1.0, 0.8)
"""What a field is multiplied by, one after the other."""

MOST_MOVED, MOST_TRIANGLES = 4, 14_000
"""Fields that are shown moving, and triangles of all the meshes drawn for that."""

FRAME_SECONDS = 0.16

TURN = turn_about("x", -62) @ turn_about("z", 28)
"""From the form's own frame to the eye's: from above the front left."""

LIGHT = np.array([-0.45, -0.55, 0.8]) / np.linalg.norm([-0.45, -0.55, 0.8])
DARK, BRIGHT = np.array([122, 84, 58]), np.array([232, 203, 178])


@lru_cache(maxsize=64)
def tile_svg(kind: str) -> str:
    """An SVG of the primitive that the tray puts down: its visible faces, the farthest drawn first."""
    cls = PRIMITIVES[kind]
    mesh = cls.model_validate({"kind": kind, **cls.sample, **_coarse(kind, COARSE)}).mesh()
    return drawn(mesh)


def drawn(mesh: Mesh) -> str:
    """An SVG of a mesh as a tile shows it."""
    return _svg(HEIGHT, _faces(mesh, *_room([mesh])))


@lru_cache(maxsize=64)
def moving_svg(kind: str) -> str:
    """An SVG in which the primitive's first fields grow and shrink in turn, each named underneath."""
    cls = PRIMITIVES[kind]
    base = {"kind": kind, **cls.sample, **_coarse(kind, COARSER)}
    moved: list[tuple[str, list[Mesh]]] = []
    for spec in fields_of(cls):
        if spec.shown.group in ("", "size") and (values := _values(spec, base.get(spec.name, spec.default))):
            meshes = [m for value in values if (m := _built(kind, {**base, spec.name: value})) is not None]
            if len(meshes) > 2:
                moved.append((spec.title, meshes))
        if len(moved) == MOST_MOVED or sum(len(m.triangles) for _, ms in moved for m in ms) > MOST_TRIANGLES:
            break
    if not moved:
        return tile_svg(kind)
    if sum(len(m.triangles) for _, ms in moved for m in ms) > MOST_TRIANGLES:
        moved = [(title, meshes[::2]) for title, meshes in moved[:3]]
    room = _room([mesh for _, meshes in moved for mesh in meshes])
    count = sum(len(meshes) for _, meshes in moved)
    frames, number = [], 0
    for title, meshes in moved:
        for mesh in meshes:
            shown = ";".join("inline" if i == number else "none" for i in range(count))
            frames.append(
                f'<g display="{"none" if number else "inline"}"><animate attributeName="display" calcMode="discrete" '
                f'values="{shown}" dur="{count * FRAME_SECONDS:.2f}s" repeatCount="indefinite"/>{_faces(mesh, *room)}'
                f'<text x="{WIDTH / 2}" y="{HEIGHT + 6}" font-size="6.5" font-family="sans-serif" fill="#22312f" '
                f'text-anchor="middle">{_escaped(title)}</text></g>'
            )
            number += 1
    return _svg(HEIGHT + 10, "".join(frames))


def _coarse(kind: str, sides: int) -> dict[str, int]:
    return {f.name: sides for f in fields_of(PRIMITIVES[kind]) if f.shown.group == "roundness"}


def _values(spec: FieldSpec, value: Any) -> list[Any]:
    """What a field is shown with; nothing for one that is no number."""
    if value is None or value is False:
        return []
    if isinstance(spec.field, VectorKind):
        return [[v * share if i == 0 else v for i, v in enumerate(value)] for share in SHARES]
    if isinstance(spec.field, CountKind):
        return [round(value * share) for share in SHARES]
    if isinstance(spec.field, AngleKind):
        return [max(value, 60) * share for share in (0, 0.25, 0.5, 0.75, 1, 0.75, 0.5, 0.25)]
    if isinstance(spec.field, NumberKind) and value:
        return [value * share for share in SHARES]
    return []


def _built(kind: str, values: dict[str, Any]) -> Mesh | None:
    """None for values that go too far."""
    try:
        return PRIMITIVES[kind].model_validate(values).mesh()
    except ValidationError:
        return None


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")


def _room(meshes: list[Mesh]) -> tuple[Floats, float]:
    """The middle of what is seen of the meshes, and by how much it is scaled to fill the tile."""
    flat = np.concatenate([mesh.vertices for mesh in meshes]) @ TURN.T[:, :2] * [1, -1]
    low, high = flat.min(axis=0), flat.max(axis=0)
    return (low + high) / 2, float(min((WIDTH - 12) / (high[0] - low[0]), (HEIGHT - 8) / (high[1] - low[1])))


def _faces(mesh: Mesh, middle: Floats, scale: float) -> str:
    facing = normals(mesh)
    seen = mesh.corners @ TURN.T
    towards = facing @ TURN.T
    visible = np.flatnonzero(towards[:, 2] > 1e-6)
    order = visible[np.argsort(seen[visible, :, 2].mean(axis=1))]
    flat = (seen[:, :, :2] * [1, -1] - middle) * scale + [WIDTH / 2, HEIGHT / 2]
    shade = np.clip(facing @ LIGHT * 0.62 + 0.42, 0, 1)[:, None]
    colours = (DARK + (BRIGHT - DARK) * shade).astype(int)
    faces = []
    for i in order:
        points = " ".join(f"{x:.1f},{y:.1f}" for x, y in flat[i])
        colour = "#{:02x}{:02x}{:02x}".format(*colours[i])
        faces.append(f'<polygon points="{points}" fill="{colour}" stroke="{colour}" stroke-width=".4"/>')
    return "".join(faces)


def _svg(height: int, inside: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}">{inside}</svg>'
