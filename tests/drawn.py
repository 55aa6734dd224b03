"""Parts drawn at random from a seed: any form at any place and angle, half as a maker types them, half as a hand leaves
them.
"""

from __future__ import annotations

import random
from typing import Any

from tests.building import join

FORMS = [
    {"kind": "box", "size": [7, 5, 9]},
    {"kind": "sphere", "radius": 5, "facets": 20},
    {"kind": "cylinder", "radius": 4, "height": 9, "facets": 20},
    {"kind": "torus", "ring_radius": 5, "tube_radius": 2, "facets": 20, "tube_facets": 10},
    {"kind": "star", "points": 5, "radius": 7, "inner_radius": 3, "height": 6},
    {"kind": "tube", "radius": 6, "wall": 2, "height": 5, "facets": 20},
]


class Drawn:
    """A form at a random place, `size` times as large and `away` mm out along each axis."""

    def __init__(self, chance: random.Random, size: float = 1, away: float = 0) -> None:
        self.form = chance.choice(FORMS)
        exact = chance.random() < 0.5
        self.at = [round(chance.uniform(-6, 6), 1 if exact else 6) * size + away for _ in range(3)]
        self.turn = [chance.choice([0, 15, 30, 45, 90]) if exact else chance.uniform(-180, 180) for _ in range(3)]
        self.size = size

    def part(self, name: str, op: str = "union") -> dict[str, Any]:
        place = {"position": self.at, "rotation": self.turn, "scale": [self.size] * 3}
        return {"id": name, "op": op, "primitive": self.form, "place": place}


def drawn_join(seed: int) -> dict[str, Any]:
    """A join of one to three of them, added, cut or kept."""
    chance = random.Random(seed)
    ops = ["union", *(chance.choice(["union", "union", "difference", "intersection"]) for _ in range(2))]
    return join("drawn", *(Drawn(chance).part(f"p{i}", op) for i, op in enumerate(ops[: chance.choice([1, 2, 3])])))
