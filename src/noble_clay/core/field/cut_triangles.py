"""Triangles of parts' own meshes cut along the faces of the lattice's cells, those of their pieces that are in cells of
their own step: closed lines around each. See `own_pieces`.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.block_map import what_is
from noble_clay.core.field.lattice import BLOCK, TILE
from noble_clay.core.field.nodes import edge_key, face_key, mesh_edge_key
from noble_clay.core.loops import compiled, small


@small
def cells_about(points: Any, triangle: Any, low: Any, high: Any) -> None:
    for axis in range(3):
        a, b, c = points[triangle[0], axis], points[triangle[1], axis], points[triangle[2], axis]
        low[axis], high[axis] = int(np.floor(min(a, b, c))), int(np.floor(max(a, b, c)))


@compiled
def _grown(array: Any, least: Any) -> Any:
    """An array with room for `least` rows."""
    if len(array) >= least:
        return array
    wider = np.empty((max(least, 2 * len(array)), *array.shape[1:]), dtype=array.dtype)
    wider[: len(array)] = array
    return wider


@compiled
def cut_triangles(
    points: Any,
    triangles: Any,
    step: Any,
    some: Any,
    low: Any,
    across: Any,
    first: Any,
    tiles: Any,
    inside: Any,
    own_step: Any,
    cells: Any,
) -> Any:
    """The pieces of some triangles; see `Pieces`; and those that failed."""
    keys, places = np.empty(4096, dtype=np.int64), np.empty((4096, 3))
    sizes, of = np.empty(1024, dtype=np.int64), np.empty(1024, dtype=np.int64)
    borders = np.empty((1024, 5), dtype=np.int64)
    bad = np.empty(len(some), dtype=np.int64)
    n_keys = n_pieces = n_borders = n_bad = 0
    # Lines of one triangle: nodes from and to, and the cells in which they begin and end; where they begin.
    lines, begins = np.empty((256, 4), dtype=np.int64), np.empty((256, 3))
    # Where the triangle's border passes each plane of the lattice, upward and downward: node, the cell's second and
    # third index, and the place.
    passing, passed = np.empty((64, 6), dtype=np.int64), np.empty((64, 6))
    # Steps along an edge: axis, plane, way; and the place.
    way, at = np.empty((64, 3), dtype=np.int64), np.empty((64, 3))
    base, extent = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    one, other = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    node, begins_y = np.empty(3), np.empty(3)
    left, onto, shares = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64), np.empty(3)
    corner_keys = across[0] * across[1] * across[2] * 3
    # Beyond these there is nothing.
    least, most = first - 2, first + 2
    for axis in range(3):
        most[axis] += tiles.shape[axis] * TILE * BLOCK
    for s in range(len(some)):
        t = some[s]
        mine = step[t]
        cells_about(points, triangles[t], base, extent)
        for axis in range(3):
            extent[axis] -= base[axis]
        planes = extent[0] + extent[1] + extent[2]
        if planes > len(way):
            passing, passed = _grown(passing, planes), _grown(passed, planes)
            way, at = _grown(way, planes), _grown(at, planes)
        passing[:planes, 0], passing[:planes, 3] = 0, 0
        offset = 0
        n_lines = 0
        # Around the triangle's border.
        for e in range(3):
            i, j = triangles[t, e], triangles[t, (e + 1) % 3]
            lo, hi = min(i, j), max(i, j)
            count = _walk(points, lo, hi, way, at, left, onto, shares)
            forward = i == lo
            for axis in range(3):
                one[axis] = int(np.floor(points[i, axis]))
            in_own = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
            begin = corner_keys + i
            begin_cell = _cell_code(one, low, across)
            _put(node, points[i])
            for c in range(count + 1):
                if c < count:
                    n = c if forward else count - 1 - c
                    axis, plane, up = way[n, 0], way[n, 1], way[n, 2]
                    rises = (up == 1) == forward
                    _put(other, one)
                    other[axis] += 1 if rises else -1
                    now_own = what_is(first, tiles, inside, own_step, cells, other[0], other[1], other[2]) == mine
                    key = mesh_edge_key(lo, hi, len(points), axis, plane - low[axis], across)
                    offset = plane - base[axis] - 1
                    for before in range(axis):
                        offset += extent[before]
                    where = 0 if rises else 3
                    passing[offset, where] = key
                    passing[offset, where + 1] = one[(axis + 1) % 3]
                    passing[offset, where + 2] = one[(axis + 2) % 3]
                    for k in range(3):
                        passed[offset, where + k] = at[n, k]
                    if in_own == now_own:
                        _put(one, other)
                        continue
                else:
                    key, now_own = corner_keys + j, False
                if in_own:
                    if n_lines == len(lines):
                        lines, begins = _grown(lines, n_lines + 1), _grown(begins, n_lines + 1)
                    lines[n_lines, 0], lines[n_lines, 1] = begin, key
                    lines[n_lines, 2], lines[n_lines, 3] = begin_cell, _cell_code(one, low, across)
                    for k in range(3):
                        begins[n_lines, k] = node[k]
                    n_lines += 1
                if c < count:
                    _put(one, other)
                    if now_own:
                        begin, begin_cell = key, _cell_code(one, low, across)
                        _put(node, at[n])
                    in_own = now_own
        # Across it, along each plane of the lattice.
        first_border = n_borders
        offset = 0
        for axis in range(3):
            b, c = (axis + 1) % 3, (axis + 2) % 3
            for k in range(extent[axis]):
                plane = base[axis] + 1 + k
                row = offset + k
                if passing[row, 0] == 0 or passing[row, 3] == 0:
                    continue
                if plane < least[axis] or plane > most[axis]:
                    continue
                p_key, q_key = passing[row, 0], passing[row, 3]
                ib, ic, jb, jc = passing[row, 1], passing[row, 2], passing[row, 4], passing[row, 5]
                over_b, over_c = passed[row, 3 + b] - passed[row, b], passed[row, 3 + c] - passed[row, c]
                # Of a line that comes from far outside the list's space, only what is in it.
                share = max(
                    _share_until(passed[row, b], over_b, least[b], most[b]),
                    _share_until(passed[row, c], over_c, least[c], most[c]),
                )
                if share >= 1:
                    continue
                if share > 0:
                    place_b, place_c = passed[row, b] + share * over_b, passed[row, c] + share * over_c
                    ib = min(max(ib, jb), max(min(ib, jb), int(np.floor(place_b))))
                    ic = min(max(ic, jc), max(min(ic, jc), int(np.floor(place_c))))
                room = abs(jb - ib) + abs(jc - ic) + 1
                if room > 2 * (most - least).max():
                    jb = min(most[b], max(least[b], jb))
                    jc = min(most[c], max(least[c], jc))
                    room = abs(jb - ib) + abs(jc - ic) + 1
                if n_lines + room > len(lines):
                    lines, begins = _grown(lines, n_lines + room), _grown(begins, n_lines + room)
                if n_borders + room > len(borders):
                    borders = _grown(borders, n_borders + room)
                x_key = p_key
                _put(node, passed[row])
                for _ in range(room):
                    # The next line of the lattice that is crossed within the plane.
                    one[axis], one[b], one[c] = plane, ib, ic
                    s_b = s_c = np.inf
                    if jb != ib:
                        s_b = ((ib + 1 if jb > ib else ib) - passed[row, b]) / over_b if over_b != 0 else 0.0
                    if jc != ic:
                        s_c = ((ic + 1 if jc > ic else ic) - passed[row, c]) / over_c if over_c != 0 else 0.0
                    over = 0.0
                    if jb == ib and jc == ic:
                        y_key = q_key
                    elif s_b <= s_c:
                        other[axis], other[b], other[c] = plane, (ib + 1 if jb > ib else ib), ic
                        y_key = edge_key(other, c, low, across)
                        ib += 1 if jb > ib else -1
                        over = s_b
                    else:
                        other[axis], other[b], other[c] = plane, ib, (ic + 1 if jc > ic else ic)
                        y_key = edge_key(other, b, low, across)
                        ic += 1 if jc > ic else -1
                        over = s_c
                    upper = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
                    face = face_key(one, axis, low, across)
                    one[axis] -= 1
                    lower = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
                    over = min(1.0, max(0.0, over))
                    for a in range(3):
                        begins_y[a] = passed[row, 3 + a]
                        if y_key != q_key:
                            begins_y[a] = passed[row, a] + (passed[row, 3 + a] - passed[row, a]) * over
                            # On the edge of the lattice it was said to be on.
                            if a == axis or (a == b and s_b <= s_c) or (a == c and s_b > s_c):
                                begins_y[a] = other[a]
                            else:
                                begins_y[a] = min(other[a] + 1.0, max(float(other[a]), begins_y[a]))
                    if upper != lower:
                        if upper:
                            one[axis] += 1
                        code = _cell_code(one, low, across)
                        lines[n_lines, 0], lines[n_lines, 1] = (y_key, x_key) if upper else (x_key, y_key)
                        lines[n_lines, 2], lines[n_lines, 3] = code, code
                        for a in range(3):
                            begins[n_lines, a] = begins_y[a] if upper else node[a]
                        borders[n_borders, 0] = face
                        borders[n_borders, 1], borders[n_borders, 2] = lines[n_lines, 0], lines[n_lines, 1]
                        borders[n_borders, 3], borders[n_borders, 4] = t, 1 if upper else 0
                        n_lines += 1
                        n_borders += 1
                    x_key = y_key
                    _put(node, begins_y)
            offset += extent[axis]
        if n_lines == 0:
            continue
        if n_keys + n_lines > len(keys):
            keys, places = _grown(keys, n_keys + n_lines), _grown(places, n_keys + n_lines)
        if n_pieces + n_lines > len(sizes):
            sizes, of = _grown(sizes, n_pieces + n_lines), _grown(of, n_pieces + n_lines)
        number = _around(lines, begins, n_lines, keys, places, n_keys, sizes, n_pieces)
        if number < 0:
            bad[n_bad] = t
            n_bad += 1
            n_borders = first_border
            continue
        of[n_pieces : n_pieces + number] = t
        n_pieces += number
        n_keys += n_lines
    return (
        keys[:n_keys].copy(),
        places[:n_keys].copy(),
        sizes[:n_pieces].copy(),
        of[:n_pieces].copy(),
        borders[:n_borders].copy(),
        bad[:n_bad].copy(),
    )


@small
def _share_until(start: Any, over: Any, least: Any, most: Any) -> Any:
    """Which share of a way lies before it comes between two places; above 1 where it never does."""
    if (over >= 0 and start > most) or (over <= 0 and start < least):
        return 2.0
    if start < least:
        return (least - start) / over
    return (most - start) / over if start > most else 0.0


@small
def _put(into: Any, place: Any) -> None:
    """Three numbers into an array, with which to fill a slice would make another first."""
    for k in range(3):
        into[k] = place[k]


@small
def _cell_code(cell: Any, low: Any, across: Any) -> Any:
    return ((cell[0] - low[0]) * across[1] + cell[1] - low[1]) * across[2] + cell[2] - low[2]


@small
def _walk(points: Any, lo: Any, hi: Any, way: Any, at: Any, n: Any, next_plane: Any, share: Any) -> Any:
    """The steps from cell to cell along an edge, in order, with their places; how many. n, next_plane, share: (3,) room
    to work in.
    """
    for axis in range(3):
        start, end = int(np.floor(points[lo, axis])), int(np.floor(points[hi, axis]))
        n[axis] = end - start
        next_plane[axis] = start + 1 if end > start else start
        share[axis] = np.inf
        if n[axis] != 0:
            share[axis] = (next_plane[axis] - points[lo, axis]) / (points[hi, axis] - points[lo, axis])
    count = 0
    while n[0] != 0 or n[1] != 0 or n[2] != 0:
        axis = 0
        for other in range(1, 3):
            if share[other] < share[axis]:
                axis = other
        up = 1 if n[axis] > 0 else 0
        way[count, 0], way[count, 1], way[count, 2] = axis, next_plane[axis], up
        for other in range(3):
            at[count, other] = points[lo, other] + (points[hi, other] - points[lo, other]) * share[axis]
        at[count, axis] = next_plane[axis]
        count += 1
        n[axis] -= 1 if up else -1
        next_plane[axis] += 1 if up else -1
        share[axis] = np.inf
        if n[axis] != 0:
            share[axis] = (next_plane[axis] - points[lo, axis]) / (points[hi, axis] - points[lo, axis])
    return count


MANY_LINES = 32
"""Lines of one triangle among which the next is not looked for one by one."""


@compiled
def _around(lines: Any, begins: Any, count: Any, keys: Any, places: Any, at: Any, sizes: Any, piece: Any) -> Any:
    """Lines joined to closed ones, from keys[at] and sizes[piece] on; how many, or -1 where they do not close. Where
    four lines meet, one goes on in the cell in which it came.
    """
    if count <= MANY_LINES:
        return _joined(lines, begins, count, NO_ORDER, keys, places, at, sizes, piece)
    return _joined(lines, begins, count, np.argsort(lines[:count, 0]), keys, places, at, sizes, piece)


NO_ORDER = np.zeros(0, dtype=np.int64)

USED = 1 << 62
"""Added to where a line ends, once it is a part of a closed one."""


@small
def _joined(
    lines: Any, begins: Any, count: Any, order: Any, keys: Any, places: Any, at: Any, sizes: Any, piece: Any
) -> Any:
    """As `_around`. order: (count,) of the lines by where they begin, or none. Marks the lines' fourth column."""
    number, filled = 0, at
    for start in range(count):
        if lines[start, 3] > USED // 2:
            continue
        line, size = start, 0
        while True:
            cell = lines[line, 3]
            lines[line, 3] += USED
            keys[filled] = lines[line, 0]
            for k in range(3):
                places[filled, k] = begins[line, k]
            filled, size = filled + 1, size + 1
            to, found, first = lines[line, 1], -1, 0
            if len(order):
                last = count
                while first < last:
                    middle = (first + last) // 2
                    if lines[order[middle], 0] < to:
                        first = middle + 1
                    else:
                        last = middle
            for n in range(first, count):
                onward = order[n] if len(order) else n
                if lines[onward, 0] != to:
                    if len(order):
                        break
                    continue
                if lines[onward, 3] > USED // 2 and onward != start:
                    continue
                if found < 0 or lines[onward, 2] == cell:
                    found = onward
            if found < 0:
                return -1
            if found == start:
                break
            line = found
        if size < 3:
            return -1
        sizes[piece + number] = size
        number += 1
    return number
