"""The path data of SVG (its attribute `d`) as loops of points."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR

LONGEST = 1_000_000
"""Letters of path data."""

MOST_NODES = 10_000
"""Points of a path that is taken apart for drawing."""

OFF = 2e-4
"""Share of the drawing's size that the chords of its curves may be off them."""

ROUGH = 16
"""Steps of a curve by which it is known how far it bends."""

KNOWN = re.compile(r"[MmZzLlHhVvCcSsQqTtAa0-9eE+\-.,\s]*")


@lru_cache(maxsize=64)
def loops_of(data: str, most: int) -> tuple[tuple[Floats, ...], float]:
    """Closed loops (n, 2), in the path's own coordinates, and how far their chords are off its curves at most, mm.

    A subpath that is not closed is closed by a straight line. Raises ValueError for what is no path data, encloses
    nothing, or has more than `most` points.
    """
    from svgelements import Close, Line, Move, Path

    bad = KNOWN.match(data)
    if bad is None or bad.end() < len(data):
        raise ValueError(f"svg is not path data: it has {data[bad.end() if bad else 0]!r}, which no path has")
    try:
        path = Path(data)
        rough = [_roughly(segment) for segment in path]
    except Exception as error:  # the reader's own, of many kinds
        raise ValueError("svg is not path data: it breaks off, or a command has too few numbers") from error
    drawn = np.concatenate([np.zeros((0, 2)), *rough])
    if len(drawn) == 0 or not np.all(np.isfinite(drawn)):
        raise ValueError("svg draws nothing")
    tolerance = OFF * max(*np.ptp(drawn, axis=0), HAIR)
    loops: list[list[Floats]] = []
    total = 0
    for segment, bent in zip(path, rough, strict=True):
        if isinstance(segment, Move):
            loops.append([_point(segment.end)])
            continue
        if not loops:
            raise ValueError("svg is not path data: it must begin with M")
        if isinstance(segment, Line | Close):
            points = np.array([_point(segment.end)]) if segment.end is not None else np.zeros((0, 2))
        else:
            points = _flattened(segment, bent, tolerance)
        total += len(points)
        if total > most:
            raise ValueError(f"svg makes over {most:,} points, the most that an outline has: draw it with fewer")
        loops[-1].extend(points)
        if isinstance(segment, Close):
            loops.append([_point(segment.end)] if segment.end is not None else [])
    found = [ring for loop in loops if len(ring := _without_repeats(np.array(loop).reshape(-1, 2))) >= 3]
    if not found:
        raise ValueError("svg encloses nothing")
    return tuple(found), tolerance


TOKEN = re.compile(r"[A-Za-z]|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
FLAG = re.compile(r"[\s,]*([01])")


def scaled(data: str, factor: float) -> str:
    """The same path data, larger by `factor`; of arcs the flags and the turn stay."""
    found: list[str] = []
    at, command, number = 0, "", 0
    while (token := TOKEN.search(data, at)) is not None:
        if token[0].isalpha():
            command, number = token[0], 0
            found.append(command)
            at = token.end()
            continue
        place = number % 7 if command in "Aa" else 0
        if place in (3, 4):  # flags may stand without anything between them
            flag = FLAG.match(data, at)
            found.append(flag[1] if flag else token[0])
            at = flag.end() if flag else token.end()
        else:
            found.append(token[0] if place == 2 and command in "Aa" else repr(float(token[0]) * factor))
            at = token.end()
        number += 1
    return " ".join(found)


def _point(point: Any) -> Floats:
    return np.array([point.x, point.y], dtype=float)


def _roughly(segment: Any) -> Floats:
    """(n, 2) points of a segment: both ends of a line, more of a curve."""
    from svgelements import Close, Line, Move

    if isinstance(segment, Line | Close | Move):
        return np.array([(p.x, p.y) for p in (segment.start, segment.end) if p is not None], dtype=float).reshape(-1, 2)
    return _along(segment, ROUGH)


def _flattened(segment: Any, rough: Floats, tolerance: float) -> Floats:
    """(n, 2) points of a curve after its first."""
    bend = np.linalg.norm(rough[2:] - 2 * rough[1:-1] + rough[:-2], axis=1).max()
    bend *= ROUGH**2  # about the second derivative
    steps = min(1000, max(1, math.ceil(math.sqrt(bend / (8 * tolerance)))))
    return _along(segment, steps)[1:]


def _along(segment: Any, steps: int) -> Floats:
    """(steps + 1, 2) points of a curve at even shares: of a Bézier curve by its corners, of an arc by its own rule."""
    from svgelements import CubicBezier, QuadraticBezier

    t = np.arange(steps + 1) / steps
    if isinstance(segment, CubicBezier):
        corners = [segment.start, segment.control1, segment.control2, segment.end]
        shares = [(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3]
    elif isinstance(segment, QuadraticBezier):
        corners = [segment.start, segment.control, segment.end]
        shares = [(1 - t) ** 2, 2 * t * (1 - t), t**2]
    else:
        return np.array(segment.npoint(t), dtype=float)
    found: Floats = np.column_stack(shares) @ np.array([(c.x, c.y) for c in corners])
    return found


def _without_repeats(ring: Floats) -> Floats:
    if len(ring) < 2:
        return ring
    kept: Floats = ring[np.linalg.norm(ring - np.roll(ring, 1, axis=0), axis=1) > HAIR]
    return kept


@dataclass(frozen=True)
class Node:
    """A point of a drawn loop. before, after: where the handles of the curve to it and from it are, from it."""

    x: float
    y: float
    before: tuple[float, float] = (0.0, 0.0)
    after: tuple[float, float] = (0.0, 0.0)


def nodes_of(data: str) -> list[list[Node]]:
    """The loops of path data as points with handles: every curve as a cubic one. Raises ValueError like `loops_of`."""
    from svgelements import Close, CubicBezier, Line, Move, Path

    loops_of(data, MOST_NODES)
    path = Path(data)
    path.approximate_arcs_with_cubics(error=0.25)  # of a turn, each
    found: list[list[list[Floats]]] = []
    for segment in path:
        if isinstance(segment, Move):
            found.append([[_point(segment.end), np.zeros(2), np.zeros(2)]])
            continue
        loop = found[-1]
        end = _point(segment.end if segment.end is not None else segment.start)
        if isinstance(segment, Line | Close):
            handles = [np.zeros(2), np.zeros(2)]
        else:
            start = loop[-1][0]
            if isinstance(segment, CubicBezier):
                first, second = _point(segment.control1), _point(segment.control2)
            else:  # a quadratic one, raised by a degree
                control = _point(segment.control)
                first, second = start + (control - start) * 2 / 3, end + (control - end) * 2 / 3
            handles = [first - start, second - end]
        loop[-1][2] = handles[0]
        loop.append([end, handles[1], np.zeros(2)])
        if isinstance(segment, Close):
            found.append([[end, np.zeros(2), np.zeros(2)]])
    loops = []
    for loop in found:
        while len(loop) > 1 and np.linalg.norm(loop[0][0] - loop[-1][0]) < HAIR:
            _, before, _ = loop.pop()  # the last is the first again
            loop[0][1] = before if np.any(before) else loop[0][1]
        nodes = [Node(float(p[0]), float(p[1]), _pair(a), _pair(b)) for p, a, b in loop]
        if len(nodes) >= 2:
            loops.append(nodes)
    return loops


def _pair(point: Floats) -> tuple[float, float]:
    return float(point[0]), float(point[1])
