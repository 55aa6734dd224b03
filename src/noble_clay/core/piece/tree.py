"""Finding and replacing parts in the tree, and the two changes of which every edit is made: `Splice` and `Put`."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.mesh import Floats
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import IDENTITY, compose, place_matrix

Parts = tuple[Part, ...]


@dataclass(frozen=True)
class Spot:
    """Where a part stands in the tree: its parents from the top, its list's parent id and its index there."""

    part: Part
    parents: tuple[Part, ...]
    index: int

    @property
    def parent_id(self) -> str | None:
        return self.parents[-1].id if self.parents else None

    @property
    def scale(self) -> float:
        """mm on the wheel in a unit of the part's own frame; the mean where it is stretched."""
        linear = frame_of((*self.parents, self.part))[:, :3]
        return float(abs(np.linalg.det(linear))) ** (1 / 3)


def spots_of(piece: Piece, ids: set[str]) -> Iterator[Spot]:
    """Where the parts named stand, parents first."""

    def below(parts: Parts, parents: Parts) -> Iterator[Spot]:
        for index, part in enumerate(parts):
            if part.id in ids:
                yield Spot(part, parents, index)
            if part.join:
                yield from below(part.join.parts, (*parents, part))

    yield from below(piece.parts, ())


def find(piece: Piece, part_id: str) -> Spot:
    """Raises PieceError when the piece has no such part."""
    for spot in spots_of(piece, {part_id}):
        return spot
    raise PieceError(Problem("this part is not in the piece any more", part_id))


def children_of(piece: Piece, parent: str | None) -> Parts:
    """The list of parts under a join, or the piece's own. Raises PieceError when `parent` is no join."""
    if parent is None:
        return piece.parts
    part = find(piece, parent).part
    if part.join is None:
        raise PieceError(Problem("this part is not a join, so nothing can go into it", parent))
    return part.join.parts


def less(parts: Parts, without: set[str]) -> Parts:
    """A list without some parts, wherever they stand in it; what counts in it still begins with a body."""
    kept: list[Part] = []
    for part in parts:
        if part.id in without or (part.op != "union" and all(p.reference for p in kept) and not part.reference):
            continue
        kept.append(part.with_children(less(part.children, without)) if part.join else part)
    return tuple(kept)


def replace_children(piece: Piece, parent: str | None, change: Callable[[Parts], Parts]) -> Piece:
    """A piece in which one list of parts is another; all else is shared."""
    if parent is None:
        return piece.model_copy(update={"parts": change(piece.parts)})
    spot = find(piece, parent)
    new = spot.part.with_children(change(children_of(piece, parent)))
    return replace_children(piece, spot.parent_id, lambda parts: _set(parts, spot.index, new))


def _set(parts: Parts, index: int, part: Part) -> Parts:
    return (*parts[:index], part, *parts[index + 1 :])


@dataclass(frozen=True)
class Splice:
    """At `index` of a list, take `remove` parts out and put others in."""

    parent: str | None
    index: int
    remove: int
    insert: Parts

    def apply(self, piece: Piece) -> tuple[Piece, Splice]:
        """The new piece and the change that takes it back."""
        removed = children_of(piece, self.parent)[self.index : self.index + self.remove]
        if len(removed) != self.remove or self.index > len(children_of(piece, self.parent)):
            raise PieceError(Problem("the recipe has changed under this edit", self.parent))
        after = replace_children(
            piece, self.parent, lambda parts: parts[: self.index] + self.insert + parts[self.index + self.remove :]
        )
        return after, Splice(self.parent, self.index, len(self.insert), removed)


@dataclass(frozen=True)
class Put:
    """Replace one part by another of the same id, where it stands."""

    part: Part

    def apply(self, piece: Piece) -> tuple[Piece, Put]:
        spot = find(piece, self.part.id)
        after = replace_children(piece, spot.parent_id, lambda parts: _set(parts, spot.index, self.part))
        return after, Put(spot.part)


def frame_of(parents: Parts) -> Floats:
    """(3, 4): from the frame of the innermost join to the wheel's."""
    matrix = IDENTITY
    for parent in parents:
        matrix = compose(matrix, place_matrix(parent.place, parent.flip))
    return matrix


def into_frame(parents: Parts, vector: Floats) -> Floats:
    """A movement on the wheel, (3,), as the same movement in the innermost join's frame."""
    linear = frame_of(parents)[:, :3]
    if np.array_equal(linear, np.eye(3)):
        return vector
    return np.linalg.solve(linear, vector).astype(np.float64)
