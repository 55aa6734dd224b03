"""The field of a whole list: the distances to its parts folded in order, each step rounded over its own radius.

What two surfaces leave between them is closed by a ball of radius r that rolls along their seam: with a the field so
far, b the distance to the next part, and q the point nearest to p at which both are at least r,

    smooth minimum of a and b at p = r - |p - q|        where both are below r at p,
                                     min(a, b)           elsewhere.

A right angle gets a fillet of exactly r; flush faces stay flat, and parts that coincide stay as they are, since the
ball touches only one of them at a time. q is found by a few steps of sequential quadratic programming: both fields are
taken for planes where q was last thought to be, and p is brought to the nearer side of both. With u and v how far p
lies under those planes and c the cosine between them, |p - q|² = (u² + v² - 2 c u v) / (1 - c²) where both count. For
surfaces that face each other (c < 0) c counts as 0, since the ball would touch them further than r from the other:
beyond r, nothing changes. So parts that do not touch grow a bridge where they are nearer than (2 - sqrt 2) r.

A difference is the smooth minimum of what is outside the body with the tool, an intersection that of both outsides,
turned inside out. Along with it goes the margin: how far a point of the surface is from where it is rounded or hidden,
negative within.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from noble_clay.core.field.form_distance import form_at, form_many
from noble_clay.core.field.forms import Form
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.mesh import Floats, Ints

UNION, DIFFERENCE, INTERSECTION = 0, 1, 2
OPS = {"union": UNION, "difference": DIFFERENCE, "intersection": INTERSECTION}

FAR = 1e30
"""The field before anything is there, mm."""

MOST_STEPS = 5
"""Steps of sequential quadratic programming for one point."""

ROW = ("kind", "number", "block", "value", "scale", *"xyz", *(f"turn{i}" for i in range(9)), "step")
STEP = ROW.index("step")
"""What there is of a placed form in a row of numbers: its kind, where its own begin in the other arrays, how it is
placed, and of which step it is.
"""

SHARP_MARGIN = 2.0
"""Within so many cells of a sharp seam the surface is found on the lattice."""


@dataclass(frozen=True, eq=False)
class Placed:
    """A form through a rigid motion, with mirroring, and one scale for all axes. matrix: (3, 4)."""

    form: Form
    matrix: Floats


@dataclass(frozen=True, eq=False)
class Step:
    """One part of a list with its copies, united. radius: over which it enters, mm."""

    op: str
    radius: float
    forms: tuple[Placed, ...]


class Fold:
    """The field of a list of steps. cell: of the lattice that it will be looked at on, mm."""

    def __init__(self, steps: list[Step], cell: float) -> None:
        self.steps = steps
        forms = [p for s in steps for p in s.forms]
        distinct = {id(p.form): p.form for p in forms}
        starts: dict[int, tuple[int, int, int]] = {}
        numbers, blocks, values = [], [], []
        at = at_block = at_value = 0
        for name, form in distinct.items():
            starts[name] = at, at_block, at_value
            numbers.append(form.numbers)
            at += len(form.numbers)
            if form.blocks is not None:
                blocks.append(form.blocks)
                values.append(form.values)
                at_block, at_value = at_block + len(form.blocks), at_value + len(form.values)
        rows = np.zeros((len(forms), len(ROW)))
        for row, placed in zip(rows, forms, strict=True):
            scale = float(np.linalg.norm(placed.matrix[:, 0]))
            row[:] = [
                placed.form.kind,
                *starts[id(placed.form)],
                scale,
                *placed.matrix[:, 3],
                *(placed.matrix[:, :3] / scale).reshape(-1),
                0,
            ]
        rows[:, STEP] = np.repeat(np.arange(len(steps)), [len(s.forms) for s in steps])
        wide = SHARP_MARGIN * cell
        self.arrays = (
            rows,
            np.array([[OPS[s.op], s.radius, max(s.radius, wide)] for s in steps], dtype=float).reshape(-1, 3),
            np.ascontiguousarray(np.concatenate([*numbers, np.zeros(1)])),
            np.concatenate([*blocks, np.zeros(0, dtype=np.int64)]),
            np.concatenate([*values, np.zeros((0, 9, 9, 9))]),
        )

    @cached_property
    def digests(self) -> Ints:
        """(n,) of each form: of all that it brings to the field and to what is seen of it on the lattice."""
        found = []
        for number, (step, of_step) in enumerate(zip(self.steps, self.arrays[1], strict=True)):
            for placed in step.forms:
                found.append(hash((number, *of_step, placed.form.digest, placed.matrix.tobytes())))
        return np.array(found, dtype=np.int64)

    @property
    def reach(self) -> float:
        """How far from a part anything of another one matters to its margin, mm."""
        return float(self.arrays[1][:, 2].max())

    @property
    def error(self) -> float:
        """How far the parts' meshes are off their true shapes at most, mm."""
        scale = self.arrays[0][:, ROW.index("scale")]
        return max(p.form.error * s for p, s in zip((p for s in self.steps for p in s.forms), scale, strict=True))

    @property
    def every(self) -> Ints:
        """The numbers of all forms, in order: what may be `active`."""
        return np.arange(len(self.arrays[0]))

    def at(self, points: Floats, active: Ints | None = None) -> tuple[Floats, Floats, Floats]:
        """(n,) the field, (n, 3) its gradient of length 1, (n,) the margin, at points (n, 3), mm.

        active: forms that can matter there, in order; all where none are given.
        """
        every = self.every if active is None else active
        found = _at_points(*self.arrays, every, np.ascontiguousarray(points), 1e-6)
        return found[:, 0], found[:, 1:4], found[:, 4]

    def margin(self, points: Floats, active: Ints) -> Floats:
        """(n,) the margin at points (n, 3), mm, from the forms `active`, in order."""
        found: Floats = _at_points(*self.arrays, active, np.ascontiguousarray(points), FAR)[:, 4]
        return found


@small
def _own_frame(rows: Any, form: Any, x: Any, y: Any, z: Any) -> Any:
    """A point in the frame of a form."""
    x, y, z = x - rows[form, 5], y - rows[form, 6], z - rows[form, 7]
    scale = rows[form, 4]
    return (
        (rows[form, 8] * x + rows[form, 11] * y + rows[form, 14] * z) / scale,
        (rows[form, 9] * x + rows[form, 12] * y + rows[form, 15] * z) / scale,
        (rows[form, 10] * x + rows[form, 13] * y + rows[form, 16] * z) / scale,
    )


@small
def _out_of_own(rows: Any, form: Any, d: Any, gx: Any, gy: Any, gz: Any) -> Any:
    """A distance and its gradient in the frame of a form, as they are in the list's."""
    return (
        d * rows[form, 4],
        rows[form, 8] * gx + rows[form, 9] * gy + rows[form, 10] * gz,
        rows[form, 11] * gx + rows[form, 12] * gy + rows[form, 13] * gz,
        rows[form, 14] * gx + rows[form, 15] * gy + rows[form, 16] * gz,
    )


@small
def placed_many(rows: Any, numbers: Any, blocks: Any, values: Any, form: Any, points: Any, found: Any) -> None:
    """Into found (n, 4): the distance and its gradient to one form of a fold, at points (n, 3)."""
    for i in range(len(points)):
        found[i, 0], found[i, 1], found[i, 2] = _own_frame(rows, form, points[i, 0], points[i, 1], points[i, 2])
    form_many(
        int(rows[form, 0]),
        numbers,
        int(rows[form, 1]),
        blocks,
        int(rows[form, 2]),
        values,
        int(rows[form, 3]),
        found[: len(points)],
    )
    for i in range(len(points)):
        found[i] = _out_of_own(rows, form, found[i, 0], found[i, 1], found[i, 2], found[i, 3])


@small
def placed_at(rows: Any, numbers: Any, blocks: Any, values: Any, form: Any, x: Any, y: Any, z: Any) -> Any:
    """(distance, gradient) of one form of a fold."""
    x, y, z = _own_frame(rows, form, x, y, z)
    d, gx, gy, gz = form_at(
        int(rows[form, 0]), numbers, int(rows[form, 1]), blocks, int(rows[form, 2]), values, int(rows[form, 3]), x, y, z
    )
    return _out_of_own(rows, form, d, gx, gy, gz)


@small
def _away(u: Any, v: Any, c: Any) -> Any:
    """(how far p is from being on the outer side of two planes, and how far along either's normal it is to go): p lies
    u and v under them, and c is the cosine between their normals.
    """
    c = min(1.0, max(0.0, c))
    if u <= c * v:
        return max(v, 0.0), 0.0, max(v, 0.0)
    if v <= c * u:
        return u, u, 0.0
    left = 1 - c * c
    if left < 1e-12:
        return max(u, v), u if u >= v else 0.0, 0.0 if u >= v else v
    return math.sqrt(max(0.0, (u * u + v * v - 2 * c * u * v) / left)), (u - c * v) / left, (v - c * u) / left


@small
def end_of_step(rows: Any, active: Any, at: Any, last: Any) -> Any:
    end = at + 1
    while end < last and rows[active[end], STEP] == rows[active[at], STEP]:
        end += 1
    return end


@small
def signs_of(op: Any) -> Any:
    """The signs with which the body and the part enter the minimum; it comes out with the body's."""
    if op == UNION:
        return 1.0, 1.0
    return (-1.0, 1.0) if op == DIFFERENCE else (-1.0, -1.0)


@small
def _nearest_of_step(each: Any, first: Any, last: Any, i: Any) -> Any:
    """Which of the forms each[first:last] of one step is nearest to point i."""
    found = first
    for k in range(first + 1, last):
        if each[k, i, 0] < each[found, i, 0]:
            found = k
    return found


@small
def _roughly(rows: Any, steps: Any, active: Any, first: Any, last: Any, each: Any, i: Any) -> Any:
    """(field, gradient) at point i, each step's surfaces taken for the planes that they are seen as from there. each:
    the distances to the forms active[first:last].
    """
    f, fx, fy, fz = FAR, 0.0, 0.0, 1.0
    at = first
    while at < last:
        step, end = int(rows[active[at], STEP]), end_of_step(rows, active, at, last)
        d, dx, dy, dz = each[_nearest_of_step(each, at - first, end - first, i), i]
        sa, sb = signs_of(steps[step, 0])
        a, b, r = sa * f, sb * d, steps[step, 1]
        if r > 0 and a < r and b < r:
            far, along_a, along_b = _away(r - a, r - b, sa * sb * (fx * dx + fy * dy + fz * dz))
            f = sa * (r - far)
            fx, fy, fz = _direction(
                along_a * fx + sa * sb * along_b * dx,
                along_a * fy + sa * sb * along_b * dy,
                along_a * fz + sa * sb * along_b * dz,
                fx,
                fy,
                fz,
            )
        elif b < a:
            f, fx, fy, fz = sa * b, sa * sb * dx, sa * sb * dy, sa * sb * dz
        at = end
    return f, fx, fy, fz


@small
def _direction(x: Any, y: Any, z: Any, ox: Any, oy: Any, oz: Any) -> Any:
    """A way made of length 1; the other one where it has none, midway between surfaces that face each other."""
    length = math.sqrt(x * x + y * y + z * z)
    if length < 1e-12:
        return ox, oy, oz
    return x / length, y / length, z / length


@compiled
def fold_many(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    active: Any,
    first: Any,
    last: Any,
    points: Any,
    band: Any,
    error: Any,
    each: Any,
    found: Any,
) -> None:
    """Into found (n, 6): field, its gradient, margin, and the step whose surface it is, at points (n, 3), from
    the forms active[first:last]. band: further than that from the surface the field need only be on the right side,
    mm. error: how exactly it is wanted, mm; FAR for the margin alone. each: (2, last - first or more, n, 4), room to
    work in.
    """
    count = len(points)
    here, there = each[0], each[1]
    for at in range(first, last):
        placed_many(rows, numbers, blocks, values, active[at], points, here[at - first])
    other = first  # behind the last form that enters otherwise than by a union
    for at in range(first, last):
        if steps[int(rows[active[at], STEP]), 0] != UNION:
            other = at + 1
    # Of points whose nearest point on the ball's way is still looked for: which, where it is thought to be, and how far
    # off it is: at most, at least, as last thought.
    which, looked, spans = np.empty(count, dtype=np.int64), np.empty((count, 3)), np.empty((count, 3))
    for i in range(count):
        found[i, 0], found[i, 1], found[i, 2], found[i, 3], found[i, 4], found[i, 5] = FAR, 0.0, 0.0, 1.0, FAR, -1.0
    at = first
    while at < last:
        step, end = int(rows[active[at], STEP]), end_of_step(rows, active, at, last)
        sa, sb = signs_of(steps[step, 0])
        r, wide = steps[step, 1], steps[step, 2]
        open_ones = 0
        for i in range(count):
            d, dx, dy, dz = here[_nearest_of_step(here, at - first, end - first, i), i]
            a, ax, ay, az = sa * found[i, 0], sa * found[i, 1], sa * found[i, 2], sa * found[i, 3]
            b, bx, by, bz = sb * d, sb * dx, sb * dy, sb * dz
            if b < a:
                found[i, 4], found[i, 5] = a - wide, step
            else:
                found[i, 4] = min(found[i, 4], b - wide)
            if r > 0 and a < r and b < r:
                u, v = r - a, r - b
                most, least = max(u, v), math.sqrt(u * u + v * v)
                far, along_a, along_b = _away(u, v, ax * bx + ay * by + az * bz)
                wx, wy, wz = along_a * ax + along_b * bx, along_a * ay + along_b * by, along_a * az + along_b * bz
                # What unions only add to stays inside; what nothing follows is outside.
                inside = most > r + band and (end >= other if sa > 0 else end == last)
                outside = least < r - band and end == last
                if error < FAR and not inside and not outside:
                    which[open_ones] = i
                    looked[open_ones, 0], looked[open_ones, 1], looked[open_ones, 2] = wx, wy, wz
                    spans[open_ones, 0], spans[open_ones, 1], spans[open_ones, 2] = least, most, far
                    open_ones += 1
                found[i, 0] = sa * (r - far)
                gx, gy, gz = _direction(wx, wy, wz, ax, ay, az)
                found[i, 1], found[i, 2], found[i, 3] = sa * gx, sa * gy, sa * gz
            elif b < a:
                found[i, 0], found[i, 1], found[i, 2], found[i, 3] = sa * b, sa * bx, sa * by, sa * bz
        for _ in range(MOST_STEPS):
            if open_ones == 0:
                break
            for k in range(open_ones):
                for axis in range(3):
                    looked[k, axis] += points[which[k], axis]
            for n in range(first, end):
                placed_many(rows, numbers, blocks, values, active[n], looked[:open_ones], there[n - first])
            still = 0
            for k in range(open_ones):
                i = which[k]
                x, y, z = points[i, 0] - looked[k, 0], points[i, 1] - looked[k, 1], points[i, 2] - looked[k, 2]
                a, ax, ay, az = _roughly(rows, steps, active, first, at, there, k)
                b, bx, by, bz = there[_nearest_of_step(there, at - first, end - first, k), k]
                a, ax, ay, az, b, bx, by, bz = sa * a, sa * ax, sa * ay, sa * az, sb * b, sb * bx, sb * by, sb * bz
                u, v = r - a - (ax * x + ay * y + az * z), r - b - (bx * x + by * y + bz * z)
                far, along_a, along_b = _away(u, v, ax * bx + ay * by + az * bz)
                wx, wy, wz = along_a * ax + along_b * bx, along_a * ay + along_b * by, along_a * az + along_b * bz
                least, most, before = spans[k]
                # The way is as far as the planes first said at most, and as near as the nearer of them.
                found[i, 0] = sa * (r - min(least, max(most, far)))
                gx, gy, gz = _direction(wx, wy, wz, ax, ay, az)
                found[i, 1], found[i, 2], found[i, 3] = sa * gx, sa * gy, sa * gz
                if abs(far - before) >= error:
                    which[still] = i
                    looked[still, 0], looked[still, 1], looked[still, 2] = wx, wy, wz
                    spans[still, 0], spans[still, 1], spans[still, 2] = least, most, far
                    still += 1
            open_ones = still
        at = end


BATCH = 256
"""Points that are gone through together."""


@compiled
def _at_points(
    rows: Any, steps: Any, numbers: Any, blocks: Any, values: Any, active: Any, points: Any, error: Any
) -> Any:
    found = np.empty((len(points), 6))
    each = np.empty((2, len(active), BATCH, 4))
    for start in range(0, len(points), BATCH):
        some = points[start : start + BATCH]
        fold_many(
            rows,
            steps,
            numbers,
            blocks,
            values,
            active,
            0,
            len(active),
            some,
            FAR,
            error,
            each,
            found[start : start + BATCH],
        )
    return found
