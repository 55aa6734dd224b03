"""What a head travels: the regions of each layer, and from them the lines of walls, skins, infill and supports."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats, Ints
from noble_clay.core.printing.profiles import Printer, Settings

OUTER, WALL, SKIN, INFILL, SUPPORT = KINDS = range(5)
GAP_LINES = 1.0
"""Lines of room between a support and what stands beside it."""

STEEP_SHARE = 1.05
"""Of a layer: how far what is steep is grown, to come back to the body's side."""

NOTHING = CrossSection()
SIMPLER_MM = 0.01
"""Drawn paths may be so far off."""

BLOCK = 50
"""Layers that are kept together."""


@dataclass(frozen=True, eq=False)
class Regions:
    """One layer. thick: mm. here: all of it; inner: what its walls leave; core: what is filled loosely; prop: where
    support stands.
    """

    thick: float
    here: CrossSection
    inner: CrossSection
    core: CrossSection
    prop: CrossSection


def regions(layers: list[CrossSection], height: float, printer: Printer, settings: Settings) -> Iterator[Regions]:
    """Of every layer, from below. height: of the whole, mm: the last layer may be thinner."""
    line = printer.line
    layers = [layer.simplify(SIMPLER_MM) for layer in layers]
    props = supports(layers, settings.layer, line) if settings.support > 0 else [NOTHING] * len(layers)
    covered = within_all(layers, settings.skins)
    for number, (here, prop) in enumerate(zip(layers, props, strict=True)):
        thick = min(settings.layer, height - number * settings.layer)
        inner = offset(here, -settings.walls * line)
        yield Regions(thick, here, inner, inner ^ covered[number] if settings.skins else inner, prop)


def within_all(layers: list[CrossSection], away: int) -> list[CrossSection]:
    """For every layer, what it has in common with all up to so many above and below it; nothing where one is missing.

    Three intersections each, however many that are (van Herk, "A fast algorithm for local minimum and maximum filters",
    1992): any run of layers is the end of one block of them and the beginning of the next.
    """
    run = 2 * away + 1
    forth, back = list(layers), list(layers)
    for i in range(1, len(layers)):
        if i % run:
            forth[i] = forth[i - 1] ^ layers[i]
    for i in range(len(layers) - 2, -1, -1):
        if (i + 1) % run:
            back[i] = back[i + 1] ^ layers[i]
    last = len(layers) - 1
    return [back[i - away] ^ forth[i + away] if i >= away and i + away <= last else NOTHING for i in range(len(layers))]


def supports(layers: list[CrossSection], layer: float, line: float) -> list[CrossSection]:
    """For every layer, where support stands: below what leans out by more than 45 degrees, down to the bed or to the
    body, clear of its sides.
    """
    found = [NOTHING] * len(layers)
    wanted = NOTHING
    for number in range(len(layers) - 2, -1, -1):
        here, above = layers[number], layers[number + 1]
        out = above - here
        if not out.is_empty():
            # Where the next layer reaches further out than it is thick, all of it that is out wants support there.
            steep = above - offset(here, layer)
            wanted = wanted + (offset(steep, STEEP_SHARE * layer) ^ out)
        if not wanted.is_empty():
            wanted = wanted - here
            found[number] = wanted - offset(here, GAP_LINES * line)
    return found


def offset(area: CrossSection, by: float) -> CrossSection:
    return area.offset(by, JoinType.Miter) if not area.is_empty() else area


@dataclass(frozen=True, eq=False)
class Rings:
    """Outlines of some layers. points: (n, 2) mm. starts: (r + 1,) where each ring begins. kinds: (r,) of `KINDS`; of
    walls the ring is travelled, of the others it bounds what is filled. layer: (r,) to which each belongs.
    """

    points: Floats
    starts: Ints
    kinds: Ints
    layer: Ints

    def packed(self) -> bytes:
        held = io.BytesIO()
        np.savez(held, points=self.points.astype("<f4"), starts=self.starts, kinds=self.kinds, layer=self.layer)
        return held.getvalue()

    @classmethod
    def read(cls, data: bytes) -> Rings:
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            points = held["points"].astype(np.float64)
            return cls(points, *(held[name].astype(np.int64) for name in ("starts", "kinds", "layer")))

    def of(self, layer: int, kind: int) -> list[Floats]:
        return [
            self.points[self.starts[i] : self.starts[i + 1]]
            for i in np.flatnonzero((self.layer == layer) & (self.kinds == kind))
        ]


def rings_of(layers: list[tuple[int, Regions]], printer: Printer, settings: Settings) -> Rings:
    """The outlines of numbered layers."""
    line = printer.line
    found: list[tuple[int, int, Floats]] = []
    for number, r in layers:
        for wall in range(settings.walls):
            kind = OUTER if wall == 0 else WALL
            found += [(number, kind, ring) for ring in _rings(offset(r.here, -(wall + 0.5) * line))]
        skin = r.inner - r.core if settings.skins else NOTHING
        for kind, area in ((SKIN, skin), (INFILL, r.core), (SUPPORT, r.prop)):
            found += [(number, kind, ring) for ring in _rings(area)]
    lengths = [len(ring) for *_, ring in found]
    return Rings(
        np.concatenate([ring for *_, ring in found]) if found else np.zeros((0, 2)),
        np.concatenate([[0], np.cumsum(lengths)]).astype(np.int64),
        np.array([kind for _, kind, _ in found], dtype=np.int64),
        np.array([number for number, *_ in found], dtype=np.int64),
    )


def _rings(area: CrossSection) -> list[Floats]:
    return [np.array(ring) for ring in area.simplify(SIMPLER_MM).to_polygons()]


def lines_of(rings: Rings, layer: int, printer: Printer, settings: Settings) -> tuple[Floats, NDArray[np.uint8]]:
    """(k, 4) straight lines x, y to x, y of a layer, and (k,) of which of `KINDS` each is: walls first, as they are
    laid. Fillings are lines at 45 degrees, turned by a right angle from layer to layer.
    """
    line = printer.line
    found: list[Floats] = []
    kinds: list[int] = []
    for kind in (OUTER, WALL):
        for ring in rings.of(layer, kind):
            found.append(np.column_stack([ring, np.roll(ring, -1, axis=0)]))
            kinds += [kind] * len(ring)
    slant = 45.0 if layer % 2 else -45.0
    for kind, share, degrees in (
        (SKIN, 1.0, slant),
        (INFILL, settings.infill, slant),
        (SUPPORT, settings.support, 0.0),
    ):
        if share > 0:
            lines = hatched(rings.of(layer, kind), line / share, degrees)
            found.append(lines)
            kinds += [kind] * len(lines)
    return np.concatenate(found) if found else np.zeros((0, 4)), np.array(kinds, dtype=np.uint8)


def hatched(rings: list[Floats], spacing: float, degrees: float) -> Floats:
    """(k, 4) lines that fill what rings bound, so far apart, mm, so many degrees from the x axis."""
    if not rings:
        return np.zeros((0, 4))
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    turn = np.array([[c, -s], [s, c]])  # rows times this: turned back, so that the lines are level
    starts = np.concatenate(rings) @ turn / spacing
    number = np.arange(len(starts))
    ends = starts[np.concatenate([np.roll(n, -1) for n in np.split(number, np.cumsum([len(r) for r in rings])[:-1])])]
    low = np.ceil(np.minimum(starts[:, 1], ends[:, 1])).astype(np.int64)
    count = np.ceil(np.maximum(starts[:, 1], ends[:, 1])).astype(np.int64) - low
    which = np.repeat(np.arange(len(starts)), count)
    level = low[which] + np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    a, b = starts[which], ends[which]
    x = a[:, 0] + (level - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    order = np.lexsort((x, level))
    level, x = level[order], x[order]
    # Every level is crossed an even number of times: from one crossing to the next lies inside, then outside.
    from_, to = np.column_stack([x[::2], level[::2]]), np.column_stack([x[1::2], level[1::2]])
    back = turn.T * spacing
    return np.column_stack([from_ @ back, to @ back])


def blocks(found: Iterator[Regions], printer: Printer, settings: Settings) -> Iterator[tuple[int, Rings]]:
    """The number of each block of layers, and its rings."""
    held: list[tuple[int, Regions]] = []
    for number, r in enumerate(found):
        held.append((number, r))
        if len(held) == BLOCK:
            yield number // BLOCK, rings_of(held, printer, settings)
            held = []
    if held:
        yield held[0][0] // BLOCK, rings_of(held, printer, settings)
