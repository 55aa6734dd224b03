"""A line of text as outlines: shaped by HarfBuzz, drawn by the fonts that ship with the application."""

from __future__ import annotations

import math
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

import numpy as np
from manifold3d import CrossSection, FillRule

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR

OFF = 1 / 400
"""Share of the height of capital letters that the chords of a letter's curves are off them at most."""


@dataclass(frozen=True)
class Outlines:
    """rings: (n, 2), mm, outer ones counter-clockwise, holes clockwise. length: of the line, mm."""

    rings: list[Floats]
    length: float


@dataclass(frozen=True)
class _Letter:
    """A glyph of a font, and where it stands on the line, in units of the font. advance: to where the next begins."""

    glyph: str
    x: float
    y: float
    start: float
    advance: float


def outlines_of(text: str, font: str, size: float, spacing: float, ring_radius: float | None) -> Outlines:
    """A line of text with capital letters `size` mm high. spacing: mm added to every advance. ring_radius: of the
    circle about the origin that it stands on, its middle towards +y.

    Raises ValueError, its words beginning with `text`, for characters that the font lacks, and for what draws nothing.
    """
    face = _face(font)
    scale = size / face.cap_height
    letters = _shaped(text, font, spacing / scale)
    length = sum(letter.advance for letter in letters) * scale
    polygons = []
    for letter in letters:
        for ring in face.drawn(letter.glyph):
            points = (ring + [letter.x, letter.y]) * scale
            if ring_radius is not None:
                middle = (letter.start + letter.advance / 2) * scale
                turn = (length / 2 - middle) / ring_radius
                c, s = math.cos(turn), math.sin(turn)
                flat = points - [middle, -ring_radius]
                points = flat @ np.array([[c, s], [-s, c]])
            polygons.append(points)
    # Contours of one letter may overlap, and letters run into each other: what is within any is inside.
    whole = CrossSection(polygons, FillRule.NonZero) if polygons else CrossSection()
    rings = [np.array(ring, dtype=float) for ring in whole.simplify(HAIR).to_polygons()]
    rings = [ring for ring in rings if len(ring) >= 3]
    if not rings:
        raise ValueError("text must have a letter that can be seen")
    return Outlines(rings, length)


def _shaped(text: str, font: str, spacing: float) -> list[_Letter]:
    """The glyphs of a line from left to right. spacing: in units of the font."""
    import uharfbuzz as hb

    face = _face(font)
    letters: list[_Letter] = []
    at = 0.0
    for run, rightward in _runs(text):
        buffer = hb.Buffer()
        buffer.add_str(run)
        buffer.direction = "ltr" if rightward else "rtl"
        buffer.guess_segment_properties()
        hb.shape(face.shaper, buffer)
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            if info.codepoint == 0:
                missing = run[info.cluster]
                name = unicodedata.name(missing, "").lower()
                raise ValueError(
                    f"text has {missing!r} (U+{ord(missing):04X}{', ' + name if name else ''}), "
                    f"which the font {font} does not have"
                )
            advance = position.x_advance + (spacing if position.x_advance else 0.0)
            glyph = face.names[info.codepoint]
            letters.append(_Letter(glyph, at + position.x_offset, position.y_offset, at, advance))
            at += advance
    return letters


def _runs(text: str) -> Iterator[tuple[str, bool]]:
    """Stretches of one direction in the order in which they stand, and whether each runs to the right.

    A line begins as its first letter runs; what has no direction of its own goes with what stands before it (the
    common cases of Unicode Standard Annex 9, without nesting).
    """
    runs: list[tuple[str, bool]] = []
    base = next((way for c in text if (way := _way(c)) is not None), True)
    for character in text:
        way = _way(character)
        before = runs[-1][1] if runs else base
        way = before if way is None else way
        if runs and way == runs[-1][1]:
            runs[-1] = (runs[-1][0] + character, way)
        else:
            runs.append((character, way))
    yield from runs if base else reversed(runs)


def _way(character: str) -> bool | None:
    """True: runs to the right; False: to the left; None: as its neighbours do."""
    kind = unicodedata.bidirectional(character)
    if kind in ("L", "EN", "AN"):
        return True
    return False if kind in ("R", "AL") else None


class _Face:
    """A font: its shaper, the names of its glyphs, how high its capitals are, and its glyphs' outlines, flattened."""

    def __init__(self, font: str) -> None:
        import uharfbuzz as hb
        from fontTools.ttLib import TTFont

        path = files("noble_clay.core") / "fonts" / f"{font}.ttf"
        data = path.read_bytes()
        self.shaper = hb.Font(hb.Face(data))
        with path.open("rb") as file:
            self._font = TTFont(file, lazy=False)
        self.names = self._font.getGlyphOrder()
        self.cap_height = float(self._font["OS/2"].sCapHeight)
        self._glyphs: Any = self._font.getGlyphSet()
        self._drawn: dict[str, list[Floats]] = {}

    def drawn(self, glyph: str) -> list[Floats]:
        """(n, 2) each, in units of the font."""
        if glyph not in self._drawn:
            pen = _pen(self._glyphs, self.cap_height * OFF)
            self._glyphs[glyph].draw(pen)
            self._drawn[glyph] = [np.array(ring, dtype=float) for ring in pen.rings if len(ring) >= 3]
        return self._drawn[glyph]


@lru_cache(maxsize=8)
def _face(font: str) -> _Face:
    return _Face(font)


def _pen(glyphs: Any, off: float) -> Any:
    """A pen that gathers rings, curves replaced by chords that are off them by `off` at most."""
    from fontTools.pens.basePen import BasePen

    class Flattening(BasePen):  # type: ignore[misc]
        def __init__(self) -> None:
            super().__init__(glyphs)
            self.rings: list[list[tuple[float, float]]] = []

        def _moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802
            self.rings.append([point])

        def _lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
            if point != self.rings[-1][-1]:
                self.rings[-1].append(point)

        def _curveToOne(self, *points: tuple[float, float]) -> None:  # noqa: N802
            a, b, c, d = np.array([self.rings[-1][-1], *points], dtype=float)
            bend = 6 * max(float(np.hypot(*(a - 2 * b + c))), float(np.hypot(*(b - 2 * c + d))))
            t = np.linspace(0, 1, max(1, math.ceil(math.sqrt(bend / (8 * off)))) + 1)[1:, None]
            curve = (1 - t) ** 3 * a + 3 * t * (1 - t) ** 2 * b + 3 * t * t * (1 - t) * c + t**3 * d
            for x, y in curve:
                self._lineTo((float(x), float(y)))

        def _closePath(self) -> None:  # noqa: N802
            if len(self.rings[-1]) > 1 and self.rings[-1][0] == self.rings[-1][-1]:
                self.rings[-1].pop()

    return Flattening()
