"""Pictures of meshes without a screen: flat shaded, seen from above the front left, hidden surface by depth."""

from __future__ import annotations

import io
import math
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

if TYPE_CHECKING:
    from PIL.Image import Image as Picture

FINER = 2
"""Drawn so many times as large, then made smaller, so that edges are smooth."""

AT_A_TIME = 2_000_000
"""Pixels that are looked at together."""

EDGE = 0.06
"""Of the picture, left free on every side."""

EYE = turn_about("x", -64) @ turn_about("z", 26)
LIGHT = np.array([-0.45, -0.55, 0.8]) / np.linalg.norm([-0.45, -0.55, 0.8])
DIM, LIT = 0.5, 0.62
"""How bright what faces away from the light is, and how much more what faces it."""

PAPER = 255, 253, 248


def picture(mesh: Mesh, colours: NDArray[np.uint8], width: int, height: int) -> bytes:
    """PNG of a mesh that fills it; colours: (m, 3) of the triangles, or (3,) of all."""
    held = io.BytesIO()
    drawn(mesh, colours, width, height, EYE, extent(mesh.vertices @ EYE.T)).save(held, "PNG", optimize=True)
    return held.getvalue()


def drawn(
    mesh: Mesh, colours: NDArray[np.uint8], width: int, height: int, eye: Floats, around: tuple[Floats, Floats]
) -> Picture:
    """The picture that an eye has of a mesh. eye: (3, 3), by which the mesh is turned to it; x to the right, y up, z to
    the front. around: the corners (2,) of what fills the picture, as the eye has it, mm.
    """
    from PIL import Image

    wide, high = FINER * width, FINER * height
    image = np.full((high * wide, 3), PAPER, dtype=np.uint8)
    if len(mesh.triangles):
        facing = normals(mesh)
        turned = mesh.vertices @ eye.T
        shown = np.flatnonzero((facing @ eye.T)[:, 2] > 0)
        flat, depth = _fitted(turned, around, wide, high), turned[:, 2]
        # The light stays with the eye, as a window does when a figure is turned before it.
        shade = np.clip(DIM + LIT * (facing[shown] @ (eye.T @ EYE @ LIGHT)), 0, 1.15)[:, None]
        paint = np.clip(np.broadcast_to(colours, (len(mesh.triangles), 3))[shown] * shade, 0, 255).astype(np.uint8)
        _fill(image, flat[mesh.triangles[shown]], depth[mesh.triangles[shown]], paint, wide, high)
    return Image.fromarray(image.reshape(high, wide, 3)).resize((width, height), Image.Resampling.BOX)


def extent(turned: Floats) -> tuple[Floats, Floats]:
    """The lowest and highest corner (2,) of points (n, 3), as the eye has them."""
    if len(turned) == 0:
        return np.zeros(2), np.ones(2)
    return turned[:, :2].min(axis=0), turned[:, :2].max(axis=0)


def _fitted(turned: Floats, around: tuple[Floats, Floats], wide: int, high: int) -> Floats:
    """(n, 2) pixels, from the upper left."""
    low, top = around
    size = np.maximum(top - low, 1e-9)
    scale = (1 - 2 * EDGE) * min(wide / size[0], high / size[1])
    flat: Floats = (turned[:, :2] - (low + top) / 2) * [scale, -scale] + [wide / 2, high / 2]
    return flat


def _fill(
    image: NDArray[np.uint8], flat: Floats, depth: Floats, paint: NDArray[np.uint8], wide: int, high: int
) -> None:
    """Paint triangles (m, 3, 2) with depths (m, 3), larger in front, over an image of wide x high pixels."""
    front = np.full(wide * high, -np.inf)
    low = np.clip(np.floor(flat.min(axis=1)), 0, [wide - 1, high - 1]).astype(np.int64)
    top = np.clip(np.ceil(flat.max(axis=1)), 0, [wide - 1, high - 1]).astype(np.int64)
    size = top - low + 1
    count = size[:, 0] * size[:, 1]
    start = 0
    ends = np.cumsum(count)
    while start < len(flat):
        stop = max(start + 1, int(np.searchsorted(ends, (ends[start - 1] if start else 0) + AT_A_TIME)))
        some = slice(start, stop)
        _paint(image, front, flat[some], depth[some], paint[some], low[some], size[some], wide)
        start = stop


def _paint(
    image: NDArray[np.uint8],
    front: Floats,
    flat: Floats,
    depth: Floats,
    paint: NDArray[np.uint8],
    low: Ints,
    size: Ints,
    wide: int,
) -> None:
    count = size[:, 0] * size[:, 1]
    which = np.repeat(np.arange(len(flat)), count)
    number = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    x, y = low[which, 0] + number % size[which, 0], low[which, 1] + number // size[which, 0]
    (ax, ay), (bx, by), (cx, cy) = flat.transpose(1, 2, 0)
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    area = np.where(np.abs(area) < 1e-12, math.inf, area)
    px, py = x + 0.5, y + 0.5
    u = ((bx - ax)[which] * (py - ay[which]) - (by - ay)[which] * (px - ax[which])) / area[which]
    v = ((cx - bx)[which] * (py - by[which]) - (cy - by)[which] * (px - bx[which])) / area[which]
    w = 1 - u - v
    inside = (u >= 0) & (v >= 0) & (w >= 0)
    which, u, v, w = which[inside], u[inside], v[inside], w[inside]
    at = y[inside] * wide + x[inside]
    # u weighs the third corner, v the first.
    z = v * depth[which, 0] + w * depth[which, 1] + u * depth[which, 2]
    order = np.argsort(z, kind="stable")
    at, z, which = at[order], z[order], which[order]
    nearer = z > front[at]
    at, z, which = at[nearer], z[nearer], which[nearer]
    front[at], image[at] = z, paint[which]  # of several on one pixel the last, which is the nearest, stays
