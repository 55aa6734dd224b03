"""Parts that meet without overlapping: sunk together."""

from __future__ import annotations

import numpy as np

from noble_clay.core.needs.need import InspectionContext, Need, Remedy, move

MOST_PAIRS = 400
"""Pairs of neighbours that are compared; a piece with more is told that not all were."""


def touching(context: InspectionContext) -> tuple[list[Need], bool]:
    """Of the pairs that one list adds, those in contact only; and whether all pairs were looked at."""
    found: list[Need] = []
    for number, near in enumerate(context.neighbours.pairs(context.piece)):
        if number == MOST_PAIRS:
            return found, False
        pair = context.neighbours.compared(near)
        if pair.meets.relation != "touching":
            continue
        linear = near.frame[:, :3]
        way = linear @ pair.sink
        remedy = Remedy("sink", near.b.id, float(np.linalg.norm(way)), move(way, near.b.id))
        found.append(
            Need(
                "touching",
                (near.b.id,),
                linear @ np.array(pair.meets.at) + near.frame[:, 3],
                0.0,
                {"gap_mm": pair.meets.gap, "depth_mm": pair.meets.depth},
                along=pair.meets.along,
                other=near.a.id,
                remedies=() if near.b.locked else (remedy,),
            )
        )
    return found, True
