"""Letters engraved into the faces of a cut, where nobody sees them once the parts are together: A goes to A."""

from __future__ import annotations

import numpy as np
from manifold3d import CrossSection, FillRule, JoinType, Manifold

from noble_clay.core.primitives.text import outlines_of
from noble_clay.core.printing.areas import spot_within, thickest

DEEP_MM = 0.6
LEAST_MM, MOST_MM = 3.0, 9.0
"""How high letters are: below the least none can be read in a print."""

UNDER_MM = 1.2
"""What must be left below them."""

CLEAR_MM = 1.0
"""Of pegs and sockets."""

AIR_MM = 0.5
FONT = "rubik"


def letter(number: int) -> str:
    """Of the first joint A, of the 27th A2."""
    round_, place = divmod(number, 26)
    return chr(ord("A") + place) + (str(round_ + 1) if round_ else "")


def engraved(lower: Manifold, upper: Manifold, at: float, word: str) -> tuple[Manifold, Manifold] | None:
    """What is taken from the lower and from the upper side of a level cut for a word on both; None without room."""
    near = AIR_MM / 10
    free = (lower.slice(at - near) ^ upper.slice(at + near)) - lower.slice(at + near).offset(CLEAR_MM, JoinType.Round)
    best = max(free.decompose(), key=thickest, default=None)
    if best is None:
        return None
    radius = thickest(best)
    size = min(radius, MOST_MM)
    if size < LEAST_MM:
        return None
    rings = outlines_of(word, FONT, size, 0.0, None).rings
    drawn = CrossSection(rings, FillRule.NonZero)
    low_x, low_y, high_x, high_y = drawn.bounds()
    x, y = spot_within(best, radius)
    middle = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
    below = drawn.translate((x - middle[0], y - middle[1]))
    # The upper face is seen from below: its word is the mirror image.
    above = drawn.translate((-middle[0], -middle[1])).scale((-1.0, 1.0)).translate((x, y))
    if not (_inside(below, lower, at - DEEP_MM - UNDER_MM, at) and _inside(above, upper, at, at + DEEP_MM + UNDER_MM)):
        return None
    deep = DEEP_MM + AIR_MM
    return below.extrude(deep).translate((0, 0, at - DEEP_MM)), above.extrude(deep).translate((0, 0, at - AIR_MM))


def _inside(area: CrossSection, solid: Manifold, low: float, high: float) -> bool:
    block = area.extrude(high - low).translate((0, 0, low))
    return bool((block - solid).volume() < 0.02 * block.volume())
