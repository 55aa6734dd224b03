"""What a joined piece still needs: loose bodies and parts that only touch, each with the edit that would mend it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from noble_clay.core.measure.contact import Contact, contact, sink_by
from noble_clay.core.measure.mass import signed_volumes
from noble_clay.core.mend.inspect import CRUMB_MM3
from noble_clay.core.mend.topology import vertex_shells
from noble_clay.core.mesh import Floats, Mesh
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import IDENTITY, compose, place_matrix
from noble_clay.core.solid.evaluate import Evaluator, Result
from noble_clay.core.solid.meet import CONTACT
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


def needs(piece: Piece, result: Result, evaluator: Evaluator) -> Needs:
    """Look a piece over for what keeps it from being one sound body."""
    touches, all_compared = _touches(piece, evaluator)
    return Needs(_loose(piece, result, evaluator), touches, all_compared)


def _loose(piece: Piece, result: Result, evaluator: Evaluator) -> tuple[Loose, ...]:
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
        sink = sink_by(main_solid, solid) if mover else None
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


def _touches(piece: Piece, evaluator: Evaluator) -> tuple[tuple[Touch, ...], bool]:
    found: list[Touch] = []
    compared = 0

    def look(parts: tuple[Part, ...], frame: Floats) -> None:
        nonlocal compared
        adding = [p for p in parts if not p.reference and p.op == "union"]
        solids = [(p, s) for p in adding if not (s := evaluator.part_solid(p)).empty]
        for (a, solid_a), (b, solid_b) in combinations(solids, 2):
            if compared >= MOST_PAIRS or not _boxes_meet(solid_a, solid_b):
                continue
            compared += 1
            meets = contact(solid_a, solid_b)
            if meets.relation == "touching":
                at = frame[:, :3] @ np.array(meets.at) + frame[:, 3]
                found.append(Touch(b.id, a.id, meets, at, frame[:, :3] @ sink_by(solid_a, solid_b)))
        for part in parts:
            if part.join and not part.reference:
                look(part.join.parts, compose(frame, place_matrix(part.place, part.flip)))

    look(piece.parts, IDENTITY)
    return tuple(found), compared < MOST_PAIRS


def _boxes_meet(a: Solid, b: Solid) -> bool:
    box_a, box_b = np.array(a.manifold.bounding_box()), np.array(b.manifold.bounding_box())
    return bool(np.all(box_a[:3] <= box_b[3:] + CONTACT) and np.all(box_b[:3] <= box_a[3:] + CONTACT))
