"""Forms to which the signed distance is known, in their own frames: each a kind and its numbers, so that the compiled
loops of `form_distance` can go through many of them without calling back into Python.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from noble_clay.core.mesh.mesh import Floats

SPHERE, BOX, ELLIPSOID, EGG, TORUS, CAPSULE, TURNED, EXTRUDED, CONVEX, LIMB, GRID = range(11)

GRID_BLOCK = 8
"""Cells along the edge of a block of a sampled distance."""


@dataclass(frozen=True, eq=False)
class Form:
    """kind: one of those above. numbers: (k,) what the kind takes. error: how far the part's mesh is off it, mm.
    samples: of a GRID, its blocks' numbers (b,), each -1 or where in `values` (n, 9, 9, 9) it is sampled.
    """

    kind: int
    numbers: Floats
    error: float = 0.0
    blocks: Any = None
    values: Any = None

    @cached_property
    def digest(self) -> int:
        """Of all that the distance depends on."""
        sampled = b"" if self.values is None else self.blocks.tobytes() + self.values.tobytes()
        return hash((self.kind, self.numbers.tobytes(), sampled))

    @property
    def nbytes(self) -> int:
        return int(self.numbers.nbytes + (0 if self.values is None else self.values.nbytes + self.blocks.nbytes))

    def __call__(self, points: Floats) -> Floats:
        """(n,) signed distances of points (n, 3), mm, negative inside."""
        from noble_clay.core.field.form_distance import at_points

        blocks = np.zeros(0, dtype=np.int64) if self.blocks is None else self.blocks
        values = np.zeros((0, 9, 9, 9)) if self.values is None else self.values
        found: Floats = at_points(self.kind, self.numbers, blocks, values, np.ascontiguousarray(points))
        return found


def sphere(radius: float, error: float) -> Form:
    return Form(SPHERE, np.array([radius]), error)


def box(size: tuple[float, float, float], rounding: float = 0.0, error: float = 0.0) -> Form:
    """rounding: radius of its edges and corners, mm."""
    return Form(BOX, np.array([*(s / 2 - rounding for s in size), rounding]), error)


def ellipsoid(radii: tuple[float, float, float], error: float) -> Form:
    return Form(ELLIPSOID, np.array(radii), error)


def egg(radius: float, below: float, above: float, widest: float, error: float) -> Form:
    """below, above: how far it reaches from its widest circle, which is at height `widest`."""
    return Form(EGG, np.array([radius, below, above, widest]), error)


def torus(ring: float, tube: float, error: float) -> Form:
    return Form(TORUS, np.array([ring, tube]), error)


def capsule(radius: float, straight: float, error: float) -> Form:
    """straight: half of its straight length."""
    return Form(CAPSULE, np.array([radius, straight]), error)


def turned(profile: Floats, closed: bool, error: float) -> Form:
    """A profile turned about z. profile: (k, 2) points (r, z), the solid on their left, pole to pole or closed."""
    ends = np.roll(profile, -1, axis=0) if closed else profile[1:]
    starts = profile if closed else profile[:-1]
    segments = np.column_stack([starts, ends])
    long = np.hypot(*(segments[:, 2:] - segments[:, :2]).T) > 1e-12
    # What lies on the axis is no surface.
    on_axis = (segments[:, 0] == 0) & (segments[:, 2] == 0)
    kept = segments[long & ~on_axis]
    return Form(TURNED, np.concatenate([[len(kept)], kept.reshape(-1)]), error)


def extruded(outline: Floats | Sequence[Floats], height: float, axis: int = 2) -> Form:
    """An outline (k, 2), counter-clockwise, carried along an axis through its middle: that and the two that follow it
    are the outline's z, x and y. Or several, of which holes run clockwise.
    """
    rings = [outline] if isinstance(outline, np.ndarray) else outline
    segments = np.concatenate([np.column_stack([ring, np.roll(ring, -1, axis=0)]) for ring in rings])
    return Form(EXTRUDED, np.concatenate([[len(segments), height / 2, axis], segments.reshape(-1)]))


def convex(corners: Floats) -> Form:
    """A convex solid of few triangles. corners: (m, 3, 3), counter-clockwise from outside."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    rows = np.column_stack([normals, corners.reshape(-1, 9)])
    return Form(CONVEX, np.concatenate([[len(rows)], rows.reshape(-1)]))


def limb(bones: Floats, error: float) -> Form:
    """Round cones: bones (k, 8) are the two balls (x, y, z, radius) of each, and what is between them."""
    return Form(LIMB, np.concatenate([[len(bones)], bones.reshape(-1)]), error)


def stretched(form: Form, factors: Sequence[float]) -> Form | None:
    """A form as much larger along x, y and z, where its kind can tell that: flat faces stay flat, but balls become no
    balls. None where it cannot.
    """
    numbers = form.numbers.copy()
    scale = np.array(factors)
    if form.kind == BOX and numbers[3] == 0:
        numbers[:3] *= scale
    elif form.kind == EXTRUDED:
        along, x, y = np.roll(scale, -int(numbers[2]))
        numbers[1] *= along
        numbers[3:] = (numbers[3:].reshape(-1, 2) * (x, y)).reshape(-1)
    elif form.kind == CONVEX:
        return convex(numbers[1:].reshape(-1, 12)[:, 3:].reshape(-1, 3, 3) * scale)
    else:
        return None
    return Form(form.kind, numbers, form.error)


def grid(origin: Floats, cell: float, counts: Any, blocks: Any, coarse: Floats, values: Floats) -> Form:
    """A distance sampled near its surface. counts: (3,) blocks along each axis. blocks: (b,) as `Form` has them;
    coarse: (b,) the distance to where a block is not sampled, never too far from zero.
    """
    numbers = np.concatenate([origin, [cell], np.asarray(counts, dtype=float), coarse])
    return Form(GRID, numbers, 0.0, np.asarray(blocks, dtype=np.int64), values)
