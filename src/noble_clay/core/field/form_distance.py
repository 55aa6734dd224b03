"""Signed distances to forms in their own frames, with the way in which they grow fastest; compiled, point by point."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from noble_clay.core.field.forms import (
    BOX,
    CAPSULE,
    CONVEX,
    EGG,
    ELLIPSOID,
    EXTRUDED,
    GRID_BLOCK,
    LIMB,
    SPHERE,
    TORUS,
    TURNED,
)
from noble_clay.core.loops import compiled, small


@compiled
def at_points(kind: Any, numbers: Any, blocks: Any, values: Any, points: Any) -> Any:
    found = np.empty(len(points))
    for i in range(len(points)):
        found[i] = form_at(kind, numbers, 0, blocks, 0, values, 0, points[i, 0], points[i, 1], points[i, 2])[0]
    return found


@small
def form_at(
    kind: Any, numbers: Any, at: Any, blocks: Any, at_block: Any, values: Any, at_value: Any, x: Any, y: Any, z: Any
) -> Any:
    """(distance, and its gradient of length 1). at, at_block, at_value: where the form's own begin in the arrays."""
    if kind == SPHERE:
        return _to_sphere(numbers[at], x, y, z)
    if kind == BOX:
        return _to_box(numbers, at, x, y, z)
    if kind == ELLIPSOID:
        return _to_ellipsoid(numbers[at], numbers[at + 1], numbers[at + 2], x, y, z)
    if kind == EGG:
        return _to_egg(numbers[at], numbers[at + 1], numbers[at + 2], x, y, z - numbers[at + 3])
    if kind == TORUS:
        r = math.sqrt(x * x + y * y)
        out = r - numbers[at]
        d = math.sqrt(out * out + z * z)
        if d < 1e-300 or r < 1e-300:
            return d - numbers[at + 1], 0.0, 0.0, 1.0
        return d - numbers[at + 1], out / d * x / r, out / d * y / r, z / d
    if kind == CAPSULE:
        half = numbers[at + 1]
        return _to_sphere(numbers[at], x, y, z - min(half, max(-half, z)))
    if kind == TURNED:
        r = math.sqrt(x * x + y * y)
        d, gr, gz = _to_segments(numbers, at + 1, int(numbers[at]), r, z)
        if r < 1e-300:
            return d, gr, 0.0, gz
        return d, gr * x / r, gr * y / r, gz
    if kind == EXTRUDED:
        return _to_extruded(numbers, at, x, y, z)
    if kind == CONVEX:
        return _to_convex(numbers, at, x, y, z)
    if kind == LIMB:
        return _to_limb(numbers, at, x, y, z)
    return _in_grid(numbers, at, blocks, at_block, values, at_value, x, y, z)


@small
def form_many(
    kind: Any, numbers: Any, at: Any, blocks: Any, at_block: Any, values: Any, at_value: Any, found: Any
) -> None:
    """As `form_at`, for many points (n, 3) in the first columns of `found` (n, 4), which are overwritten."""
    # A loop for each of the common kinds: there nothing is left of calling.
    if kind == SPHERE:
        for i in range(len(found)):
            found[i] = _to_sphere(numbers[at], found[i, 0], found[i, 1], found[i, 2])
    elif kind == ELLIPSOID:
        a, b, c = numbers[at], numbers[at + 1], numbers[at + 2]
        for i in range(len(found)):
            found[i] = _to_ellipsoid(a, b, c, found[i, 0], found[i, 1], found[i, 2])
    elif kind == CAPSULE:
        for i in range(len(found)):
            up = found[i, 2] - min(numbers[at + 1], max(-numbers[at + 1], found[i, 2]))
            found[i] = _to_sphere(numbers[at], found[i, 0], found[i, 1], up)
    else:
        for i in range(len(found)):
            found[i] = form_at(
                kind, numbers, at, blocks, at_block, values, at_value, found[i, 0], found[i, 1], found[i, 2]
            )


@small
def _to_sphere(radius: Any, x: Any, y: Any, z: Any) -> Any:
    d = math.sqrt(x * x + y * y + z * z)
    if d < 1e-300:
        return -radius, 1.0, 0.0, 0.0
    return d - radius, x / d, y / d, z / d


@small
def _to_box(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    ox, oy, oz = abs(x) - numbers[at], abs(y) - numbers[at + 1], abs(z) - numbers[at + 2]
    rounding = numbers[at + 3]
    sx, sy, sz = math.copysign(1.0, x), math.copysign(1.0, y), math.copysign(1.0, z)
    if ox <= 0 and oy <= 0 and oz <= 0:
        if ox >= oy and ox >= oz:
            return ox - rounding, sx, 0.0, 0.0
        if oy >= oz:
            return oy - rounding, 0.0, sy, 0.0
        return oz - rounding, 0.0, 0.0, sz
    px, py, pz = max(ox, 0.0), max(oy, 0.0), max(oz, 0.0)
    d = math.sqrt(px * px + py * py + pz * pz)
    return d - rounding, sx * px / d, sy * py / d, sz * pz / d


@small
def _to_ellipsoid(a: Any, b: Any, c: Any, x: Any, y: Any, z: Any) -> Any:
    """Its nearest point is (e_i² y_i / (t + e_i²)), where the sum of (e_i y_i / (t + e_i²))² is 1 (Eberly 2013)."""
    ax, ay, az = abs(x), abs(y), abs(z)
    aa, bb, cc = a * a, b * b, c * c
    least = min(aa, bb, cc)
    # On an axis the way to the surface may lead off it: a hair beside it, the formula knows.
    hair = 1e-9 * math.sqrt(least)
    ax, ay, az = max(ax, hair), max(ay, hair), max(az, hair)
    t = max(a * ax - aa, b * ay - bb, c * az - cc)
    for _ in range(12):
        px, py, pz = a * ax / (t + aa), b * ay / (t + bb), c * az / (t + cc)
        g = px * px + py * py + pz * pz
        slope = px * px / (t + aa) + py * py / (t + bb) + pz * pz / (t + cc)
        step = (g * math.sqrt(g) - g) / slope  # Newton on 1 - g^(-1/2), which is nearly straight
        t += step
        if abs(step) <= 1e-12 * (abs(t) + least):
            break
    fx, fy, fz = aa * ax / (t + aa), bb * ay / (t + bb), cc * az / (t + cc)
    nx, ny, nz = fx / aa, fy / bb, fz / cc
    length = math.sqrt(nx * nx + ny * ny + nz * nz)
    nx, ny, nz = nx / length, ny / length, nz / length
    d = math.sqrt((ax - fx) ** 2 + (ay - fy) ** 2 + (az - fz) ** 2)
    if (ax * ax / aa + ay * ay / bb + az * az / cc) < 1:
        d = -d
    return d, math.copysign(nx, x), math.copysign(ny, y), math.copysign(nz, z)


@small
def _to_egg(radius: Any, below: Any, above: Any, x: Any, y: Any, up: Any) -> Any:
    mine, other = (above, below) if up > 0 else (below, above)
    d, gx, gy, gz = _to_ellipsoid(radius, radius, mine, x, y, up)
    if d >= 0:
        return d, gx, gy, gz
    # From within, the other half may be nearer: no further than by way of the plane between the two.
    e, hx, hy, _ = _to_ellipsoid(radius, radius, other, x, y, 0.0)
    e -= abs(up)
    if e > d:
        rest = math.sqrt(max(0.0, 1 - hx * hx - hy * hy))
        return e, hx, hy, -math.copysign(rest, up)
    return d, gx, gy, gz


@small
def _to_segments(numbers: Any, at: Any, count: Any, x: Any, y: Any) -> Any:
    """(distance, gradient) in the plane to segments with the inside on their left, which close a region, or close it
    with the axis x = 0.
    """
    least, bx, by, nearest = np.inf, 0.0, 0.0, 0
    inside = False
    for k in range(count):
        i = at + 4 * k
        x0, y0, x1, y1 = numbers[i], numbers[i + 1], numbers[i + 2], numbers[i + 3]
        dx, dy = x1 - x0, y1 - y0
        along = ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy)
        along = min(1.0, max(0.0, along))
        ex, ey = x - x0 - along * dx, y - y0 - along * dy
        away = ex * ex + ey * ey
        if away < least:
            least, bx, by, nearest = away, ex, ey, i
        if (y0 > y) != (y1 > y) and x < x0 + (y - y0) / dy * dx:
            inside = not inside
    d = math.sqrt(least)
    if d < 1e-9:
        dx, dy = numbers[nearest + 2] - numbers[nearest], numbers[nearest + 3] - numbers[nearest + 1]
        length = math.sqrt(dx * dx + dy * dy)
        return (-d if inside else d), dy / length, -dx / length
    if inside:
        return -d, -bx / d, -by / d
    return d, bx / d, by / d


@small
def _to_extruded(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    axis = int(numbers[at + 2])
    if axis == 0:
        x, y, z = y, z, x
    elif axis == 1:
        x, y, z = z, x, y
    flat, gx, gy = _to_segments(numbers, at + 3, int(numbers[at]), x, y)
    over, sign = abs(z) - numbers[at + 1], math.copysign(1.0, z)
    if flat > 0 and over > 0:
        d = math.sqrt(flat * flat + over * over)
        hx, hy, hz = gx * flat / d, gy * flat / d, sign * over / d
    elif flat > over:
        d, hx, hy, hz = flat, gx, gy, 0.0
    else:
        d, hx, hy, hz = over, 0.0, 0.0, sign
    if axis == 0:
        return d, hz, hx, hy
    if axis == 1:
        return d, hy, hz, hx
    return d, hx, hy, hz


@small
def _to_convex(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    count = int(numbers[at])
    most, nx, ny, nz = -np.inf, 0.0, 0.0, 1.0
    for k in range(count):
        i = at + 1 + 12 * k
        over = (
            numbers[i] * (x - numbers[i + 3])
            + numbers[i + 1] * (y - numbers[i + 4])
            + numbers[i + 2] * (z - numbers[i + 5])
        )
        if over > most:
            most, nx, ny, nz = over, numbers[i], numbers[i + 1], numbers[i + 2]
    if most <= 0:
        return most, nx, ny, nz
    least, bx, by, bz = np.inf, nx, ny, nz
    for k in range(count):
        i = at + 1 + 12 * k
        over = (
            numbers[i] * (x - numbers[i + 3])
            + numbers[i + 1] * (y - numbers[i + 4])
            + numbers[i + 2] * (z - numbers[i + 5])
        )
        if over <= 0 or over * over >= least:
            continue
        ex, ey, ez = _from_triangle(numbers, i + 3, x, y, z)
        away = ex * ex + ey * ey + ez * ez
        if away < least:
            least, bx, by, bz = away, ex, ey, ez
    d = math.sqrt(least)
    if d < 1e-9:
        return d, nx, ny, nz
    return d, bx / d, by / d, bz / d


@small
def _to_limb(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    """The least of the distances to its round cones; inside, never further from the surface than it is."""
    best, hx, hy, hz = np.inf, 0.0, 0.0, 1.0
    for k in range(int(numbers[at])):
        d, gx, gy, gz = _to_round_cone(numbers, at + 1 + 8 * k, x, y, z)
        if d < best:
            best, hx, hy, hz = d, gx, gy, gz
    return best, hx, hy, hz


@small
def _to_round_cone(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    """To two balls and the cone that touches both: nearest is the ball whose middle lies where the cone's normal
    through the point meets the axis.
    """
    ax, ay, az, r = numbers[at], numbers[at + 1], numbers[at + 2], numbers[at + 3]
    ux, uy, uz = numbers[at + 4] - ax, numbers[at + 5] - ay, numbers[at + 6] - az
    thinner = r - numbers[at + 7]
    length = math.sqrt(ux * ux + uy * uy + uz * uz)
    px, py, pz = x - ax, y - ay, z - az
    if abs(thinner) >= length:  # one ball holds the other
        share = 0.0 if thinner > 0 else 1.0
    else:
        along = (px * ux + py * uy + pz * uz) / length
        square = px * px + py * py + pz * pz - along * along
        out = math.sqrt(max(0.0, square))
        lean = thinner / length
        share = (along - out * lean / math.sqrt(1 - lean * lean)) / length
        share = min(1.0, max(0.0, share))
    return _to_sphere(r - share * thinner, px - share * ux, py - share * uy, pz - share * uz)


@small
def _from_triangle(numbers: Any, at: Any, x: Any, y: Any, z: Any) -> Any:
    """The way from the nearest point of a triangle to the point (Ericson, Real-Time Collision Detection, 5.1.5)."""
    ax, ay, az = numbers[at], numbers[at + 1], numbers[at + 2]
    ux, uy, uz = numbers[at + 3] - ax, numbers[at + 4] - ay, numbers[at + 5] - az
    vx, vy, vz = numbers[at + 6] - ax, numbers[at + 7] - ay, numbers[at + 8] - az
    px, py, pz = x - ax, y - ay, z - az
    d1, d2 = ux * px + uy * py + uz * pz, vx * px + vy * py + vz * pz
    uu, uv, vv = ux * ux + uy * uy + uz * uz, ux * vx + uy * vy + uz * vz, vx * vx + vy * vy + vz * vz
    d3, d4, d5, d6 = d1 - uu, d2 - uv, d1 - uv, d2 - vv
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0 and d2 <= 0:
        s, t = 0.0, 0.0
    elif d3 >= 0 and d4 <= d3:
        s, t = 1.0, 0.0
    elif d6 >= 0 and d5 <= d6:
        s, t = 0.0, 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        s, t = d1 / (d1 - d3), 0.0
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        s, t = 0.0, d2 / (d2 - d6)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        s = 1.0 - t
    else:
        total = va + vb + vc
        s, t = vb / total, vc / total
    return px - s * ux - t * vx, py - s * uy - t * vy, pz - s * uz - t * vz


@small
def _in_grid(
    numbers: Any, at: Any, blocks: Any, at_block: Any, values: Any, at_value: Any, x: Any, y: Any, z: Any
) -> Any:
    cell = numbers[at + 3]
    nx, ny, nz = int(numbers[at + 4]), int(numbers[at + 5]), int(numbers[at + 6])
    qx, qy, qz = (x - numbers[at]) / cell, (y - numbers[at + 1]) / cell, (z - numbers[at + 2]) / cell
    wx, wy, wz = nx * GRID_BLOCK, ny * GRID_BLOCK, nz * GRID_BLOCK
    cx, cy, cz = min(max(qx, 0.0), wx - 1e-9), min(max(qy, 0.0), wy - 1e-9), min(max(qz, 0.0), wz - 1e-9)
    bx, by, bz = int(cx) // GRID_BLOCK, int(cy) // GRID_BLOCK, int(cz) // GRID_BLOCK
    block = (bx * ny + by) * nz + bz
    out = math.sqrt((qx - cx) ** 2 + (qy - cy) ** 2 + (qz - cz) ** 2) * cell
    which = blocks[at_block + block]
    if which < 0:
        d = numbers[at + 7 + block]
        return (d + out if d > 0 else d), 0.0, 0.0, 1.0
    which += at_value
    lx, ly, lz = cx - bx * GRID_BLOCK, cy - by * GRID_BLOCK, cz - bz * GRID_BLOCK
    ix, iy, iz = int(lx), int(ly), int(lz)
    tx, ty, tz = lx - ix, ly - iy, lz - iz
    v000, v001 = values[which, ix, iy, iz], values[which, ix, iy, iz + 1]
    v010, v011 = values[which, ix, iy + 1, iz], values[which, ix, iy + 1, iz + 1]
    v100, v101 = values[which, ix + 1, iy, iz], values[which, ix + 1, iy, iz + 1]
    v110, v111 = values[which, ix + 1, iy + 1, iz], values[which, ix + 1, iy + 1, iz + 1]
    a00, a01 = v000 + (v100 - v000) * tx, v001 + (v101 - v001) * tx
    a10, a11 = v010 + (v110 - v010) * tx, v011 + (v111 - v011) * tx
    b0, b1 = a00 + (a10 - a00) * ty, a01 + (a11 - a01) * ty
    d = b0 + (b1 - b0) * tz
    gx0 = (v100 - v000) * (1 - ty) + (v110 - v010) * ty
    gx1 = (v101 - v001) * (1 - ty) + (v111 - v011) * ty
    gx = gx0 * (1 - tz) + gx1 * tz
    gy = (a10 - a00) * (1 - tz) + (a11 - a01) * tz
    gz = b1 - b0
    length = math.sqrt(gx * gx + gy * gy + gz * gz)
    if length < 1e-300:
        return d + out, 0.0, 0.0, 1.0
    return d + out, gx / length, gy / length, gz / length
