"""Several pieces on one bed, or on as many as they need: each lies as its own bed says, as often as is wanted, and none
near another.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.printing.arranging import Spot, arranged, footprint
from noble_clay.core.printing.bed import Bed, laid, spun
from noble_clay.core.printing.check import fits
from noble_clay.core.printing.profiles import Printer

MOST_BEDS = 12
"""That are laid out one after another."""


@dataclass(frozen=True, eq=False)
class ToLay:
    """A piece's mesh, the bed that says how it lies, and how many times."""

    mesh: Mesh
    bed: Bed
    copies: int


@dataclass(frozen=True, eq=False)
class Laid:
    """mesh: over the bed's middle, where `placing` (3, 4) carries it. size: (3,) mm. fits: the printer has room for it.
    spots: of those copies that find room.
    """

    mesh: Mesh
    placing: Floats
    size: Floats
    fits: bool
    spots: list[Spot]

    def matrices(self, bed: int = 0) -> list[Floats]:
        """(3, 4) for each spot on a bed: carries the piece's own mesh there."""
        return [at_spot(self.placing, spot) for spot in self.spots if spot.bed == bed]


def beds_of(lying: Sequence[Laid]) -> int:
    """How many beds it takes, at least one."""
    return max((spot.bed + 1 for one in lying for spot in one.spots), default=1)


def lay_out(things: Sequence[ToLay], printer: Printer, gap: float) -> list[Laid]:
    """Where each of some pieces comes to lie. gap: mm between any two."""
    placings = [thing.bed.placing(thing.mesh) for thing in things]
    meshes = [laid(thing.mesh, placing) for thing, placing in zip(things, placings, strict=True)]
    sizes = [mesh.vertices.max(axis=0) - mesh.vertices.min(axis=0) for mesh in meshes]
    room = [fits(size.tolist(), printer) for size in sizes]
    of = [n for n, thing in enumerate(things) for _ in range(thing.copies if room[n] else 0)]
    prints = {n: footprint(manifold_of(meshes[n])) for n in set(of)}
    spots = arranged([prints[n] for n in of], printer.bed[0], printer.bed[1], gap, MOST_BEDS)
    found: list[list[Spot]] = [[] for _ in things]
    for n, spot in zip(of, spots, strict=True):
        if spot is not None:
            found[n].append(spot)
    return [Laid(*values) for values in zip(meshes, placings, sizes, room, found, strict=True)]


def at_spot(placing: Floats, spot: Spot) -> Floats:
    """(3, 4): a placing carried on to a spot."""
    moved: Floats = (spun(90) if spot.turned else np.eye(3)) @ placing
    moved[:2, 3] += spot.x, spot.y
    return moved
