"""What a joined piece still needs: loose bodies and parts that only touch, each with the edit that would mend it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.measure.contact import Contact, contact, sink_by
from noble_clay.core.measure.mass import signed_volumes
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.mend.inspect import CRUMB_MM3
from noble_clay.core.mend.topology import vertex_shells
from noble_clay.core.mesh import Floats, Mesh
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.solid.evaluate import Result
from noble_clay.core.solid.solid import Solid

MOST_PAIRS = 400
"""Pairs of neighbours that are compared; a piece with more is told that not all were."""

MOST_BODIES = 50


@dataclass(frozen=True, eq=False)
class Loose:
    """A body separate from the largest one. parts: whose surface it has. sink: (3,) mm on the wheel that would move
    `part` into `other`, or None where no single part can be moved.
    """

    number: int
    volume: float
    parts: tuple[str, ...]
    middle: Floats
    triangles: Mesh
    gap: float
    part: str | None
    other: str | None
    sink: Floats | None

    @property
    def crumb(self) -> bool:
        return self.volume < CRUMB_MM3


@dataclass(frozen=True, eq=False)
class Touch:
    """Two parts of one list that meet without overlapping. sink: (3,) mm on the wheel to move `part` into `other`."""

    part: str
    other: str
    meets: Contact
    at: Floats
    sink: Floats


@dataclass(frozen=True)
class Needs:
    """loose: bodies beside the largest. touches: pairs in contact only. all_compared: whether every pair was."""

    loose: tuple[Loose, ...]
    touches: tuple[Touch, ...]
    all_compared: bool


def needs(piece: Piece, result: Result, neighbours: Neighbours) -> Needs:
    """Look a piece over for what keeps it from being one sound body."""
    touches, all_compared = _touches(piece, neighbours)
    return Needs(loose_bodies(piece, result), touches, all_compared)


def loose_bodies(piece: Piece, result: Result) -> tuple[Loose, ...]:
    """The bodies beside the largest one, at most `MOST_BODIES`."""
    mesh = result.mesh
    number, shell = vertex_shells(mesh)
    volumes = np.bincount(shell, weights=signed_volumes(mesh), minlength=number)
    bodies = [i for i in np.argsort(-volumes) if volumes[i] > 0]
    if len(bodies) < 2:
        return ()
    parts_of = {
        i: tuple(result.part_ids[p] for p in np.unique(result.part_of[shell == i])) for i in bodies[:MOST_BODIES]
    }
    main = mesh.keep(shell == bodies[0])
    main_solid = Solid.from_mesh(main, "main")
    found: list[Loose] = []
    for i in bodies[1:MOST_BODIES]:
        body = mesh.keep(shell == i)
        solid = Solid.from_mesh(body, "loose")
        meets = contact(main_solid, solid)
        mover = _mover(piece, parts_of[i], parts_of[bodies[0]])
        sink = sink_by(main_solid, solid, meets=meets) if mover else None
        found.append(
            Loose(
                number=len(found) + 1,
                volume=float(volumes[i]),
                parts=parts_of[i],
                middle=body.vertices.mean(axis=0),
                triangles=body,
                gap=meets.gap,
                part=mover,
                other=parts_of[bodies[0]][0] if parts_of[bodies[0]] else None,
                sink=sink,
            )
        )
    return tuple(found)


def _mover(piece: Piece, loose: tuple[str, ...], main: tuple[str, ...]) -> str | None:
    """The outermost part or join that holds all of a loose body and nothing of the main one; None when shared."""
    inside, outside = set(loose), set(main)

    def search(parts: tuple[Part, ...]) -> str | None:
        for part in parts:
            held = {p.id for p in part.walk()}
            if inside <= held and part.copies is None:
                return part.id if not outside & held else search(part.children)
        return None

    return search(piece.parts)


def _touches(piece: Piece, neighbours: Neighbours) -> tuple[tuple[Touch, ...], bool]:
    """Of the pairs that one list adds, those in contact only; and whether all pairs were looked at."""
    found: list[Touch] = []
    for number, near in enumerate(neighbours.pairs(piece)):
        if number == MOST_PAIRS:
            return tuple(found), False
        pair = neighbours.compared(near)
        if pair.meets.relation == "touching":
            at = near.frame[:, :3] @ np.array(pair.meets.at) + near.frame[:, 3]
            found.append(Touch(near.b.id, near.a.id, pair.meets, at, near.frame[:, :3] @ pair.sink))
    return tuple(found), True
