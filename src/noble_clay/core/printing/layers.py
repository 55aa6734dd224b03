"""A body in layers: exact sections half way up each, those that begin in the air, and what is too fine to be laid."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.mesh.mesh import Floats

MOST_LAYERS = 20_000
TOUCH_MM2 = 1e-4
"""What shares less with the layer below does not rest on it."""

NEAR_MM = 0.01
"""As near to what lies below, a span rests on it; and as far off an outline may be that was drawn in and out again."""


def sections(solid: Manifold, layer: float) -> list[CrossSection]:
    """The section of every layer, from below, of a solid that stands on z = 0. layer: mm. Raises MeshError for too many
    layers.
    """
    height = solid.bounding_box()[5]
    count = layer_count(height, layer)
    return [solid.slice(min((i + 0.5) * layer, (i * layer + height) / 2)) for i in range(count)]


def layer_count(height: float, layer: float) -> int:
    """Raises MeshError for more than can be worked out."""
    count = max(1, math.ceil(height / layer - 1e-6))
    if count > MOST_LAYERS:
        raise MeshError(f"layer: {layer:g} mm makes {count:,} layers of this; at most {MOST_LAYERS:,} can be rehearsed")
    return count


def bridges(layers: list[CrossSection], least: float) -> list[tuple[int, CrossSection]]:
    """Areas of at least `least` mm² that span the air from one place below to another: the number of the layer, from 0,
    and the area itself.
    """
    found = []
    for number, (below, here) in enumerate(zip(layers, layers[1:], strict=False), start=1):
        out = here - below
        if out.area() < least:
            continue
        for area in out.decompose():
            if area.area() >= least and len((area.offset(NEAR_MM, JoinType.Miter) ^ below).decompose()) > 1:
                found.append((number, area))
    return found


def islands(layers: list[CrossSection]) -> list[tuple[int, CrossSection]]:
    """Areas that begin in the air: the number of the layer, from 0, and the area itself."""
    found = []
    for number, (below, here) in enumerate(zip(layers, layers[1:], strict=False), start=1):
        if (here ^ below).num_contour() == here.num_contour() == 1:
            continue
        rests_on = below.decompose()
        boxes = np.array([part.bounds() for part in rests_on]).reshape(-1, 4)
        for area in here.decompose():
            low_x, low_y, high_x, high_y = area.bounds()
            near = (boxes[:, 0] <= high_x) & (boxes[:, 2] >= low_x) & (boxes[:, 1] <= high_y) & (boxes[:, 3] >= low_y)
            if all((area ^ rests_on[i]).area() < TOUCH_MM2 for i in np.flatnonzero(near)):
                found.append((number, area))
    return found


def too_fine(layers: list[CrossSection], width: float) -> list[tuple[int, CrossSection]]:
    """Areas narrower than `width` mm, the nozzle's, so that no line finds room in them, and larger than its square: the
    number of the layer, from 0, and the area. Of what goes on from layer to layer, the layer where it is largest.
    """
    found: list[tuple[int, CrossSection]] = []
    below: list[tuple[Floats, int]] = []
    for number, here in enumerate(layers):
        here = here.simplify(NEAR_MM / 2)
        core = here.offset(-width / 2, JoinType.Miter)
        lost = here - core.offset(width / 2 + NEAR_MM, JoinType.Miter)
        now: list[tuple[Floats, int]] = []
        for area in lost.decompose() if lost.area() > width**2 else []:
            if area.area() < width**2:
                continue
            box = np.array(area.bounds()).reshape(2, 2)
            goes_on = (at for other, at in below if (box[0] <= other[1]).all() and (box[1] >= other[0]).all())
            at = next(goes_on, len(found))
            if at == len(found):
                found.append((number, area))
            elif area.area() > found[at][1].area():
                found[at] = number, area
            now.append((box, at))
        below = now
    return found
