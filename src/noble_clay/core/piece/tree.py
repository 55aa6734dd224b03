"""Finding and replacing parts in the tree, and the two changes of which every edit is made: `Splice` and `Put`."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.mesh.affine import IDENTITY, compose
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import CLAY, Part, Piece
from noble_clay.core.piece.placing import place_matrix

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
    """Where the parts named stand, parents first, in the order of the recipe."""
    return (spot for spot in _index(piece.parts).values() if spot.part.id in ids)


def find(piece: Piece, part_id: str) -> Spot:
    """Raises PieceError when the piece has no such part."""
    spot = _index(piece.parts).get(part_id)
    if spot is None:
        raise PieceError(Problem("this part is not in the piece any more", part_id))
    return spot


MOST_INDEXES = 8
_INDEXES: OrderedDict[int, tuple[Parts, dict[str, Spot]]] = OrderedDict()
"""Spots by id of the trees asked about last, by identity: a tree is never changed in place."""


def _index(parts: Parts) -> dict[str, Spot]:
    """Every part's spot by its id, parents first. Of parts that share an id, the first."""
    known = _INDEXES.get(id(parts))
    if known is not None and known[0] is parts:
        return known[1]
    found: dict[str, Spot] = {}

    def below(parts: Parts, parents: Parts) -> None:
        for index, part in enumerate(parts):
            found.setdefault(part.id, Spot(part, parents, index))
            if part.join:
                below(part.join.parts, (*parents, part))

    below(parts, ())
    _INDEXES[id(parts)] = parts, found
    while len(_INDEXES) > MOST_INDEXES:
        with suppress(KeyError):  # another thread was quicker
            _INDEXES.popitem(last=False)
    return found


def outermost(piece: Piece, ids: tuple[str, ...]) -> list[Spot]:
    """The spots of the parts named, in recipe order, without those that lie in another one named.

    Raises PieceError when one is not in the piece.
    """
    wanted = set(ids)
    found = list(spots_of(piece, wanted))
    missing = wanted - {s.part.id for s in found}
    if missing:
        raise PieceError(Problem("this part is not in the piece any more", min(missing)))
    return [s for s in found if not any(p.id in wanted for p in s.parents)]


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
        """The new piece and the change that takes it back. Raises PieceError where the list is not that long."""
        removed = children_of(piece, self.parent)[self.index : self.index + self.remove]
        if len(removed) != self.remove or self.index > len(children_of(piece, self.parent)):
            raise PieceError(Problem("the recipe has changed under this edit", self.parent))
        after = replace_children(
            piece, self.parent, lambda parts: parts[: self.index] + self.insert + parts[self.index + self.remove :]
        )
        return after, Splice(self.parent, self.index, len(self.insert), removed)


@dataclass(frozen=True)
class Put:
    """Replace one part by another of the same id, where it stands. own: only what is the part's own; the list of the
    join that stands there stays.
    """

    part: Part
    own: bool = False


Change = Splice | Put


def apply_changes(piece: Piece, changes: Sequence[Change]) -> tuple[Piece, list[Change]]:
    """The piece after some changes, in order; and the changes, in order, that take it back."""
    back: list[Change] = []
    together = _Together()
    for change in changes:
        if isinstance(change, Put) and together.take(find(piece, change.part.id), change):
            continue
        piece, inverse = together.put(piece)
        back += inverse
        together = _Together()
        if isinstance(change, Splice):
            piece, splice = change.apply(piece)
            back.append(splice)
        else:
            together.take(find(piece, change.part.id), change)
    piece, inverse = together.put(piece)
    return piece, list(reversed([*back, *inverse]))


class _Together:
    """Parts to be replaced in one walk: none twice, and none in another, so that their order does not count."""

    def __init__(self) -> None:
        self._puts: dict[str, Put] = {}
        self._above: set[str] = set()

    def take(self, spot: Spot, put: Put) -> bool:
        """Take a replacement on; false where it has to come after those that are here already."""
        part_id = put.part.id
        if part_id in self._puts or part_id in self._above or any(p.id in self._puts for p in spot.parents):
            return False
        self._puts[part_id] = put
        self._above.update(p.id for p in spot.parents)
        return True

    def put(self, piece: Piece) -> tuple[Piece, list[Change]]:
        """The piece with all of them replaced, and what takes that back."""
        back: list[Change] = []
        parts = tuple(self._placed(part, back) for part in piece.parts) if self._puts else piece.parts
        return (piece.model_copy(update={"parts": parts}) if self._puts else piece), back

    def _placed(self, part: Part, back: list[Change]) -> Part:
        put = self._puts.get(part.id)
        if put is None:
            if part.id not in self._above:
                return part
            return part.with_children(tuple(self._placed(child, back) for child in part.children))
        if put.own and (put.part.join is None or part.join is None):
            raise PieceError(Problem("the recipe has changed under this edit", part.id))
        new = put.part.with_children(part.children) if put.own else put.part
        same_list = new.join is not None and part.join is not None and new.join.parts is part.join.parts
        back.append(Put(part.shell, own=True) if same_list else Put(part))
        return new


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


def shown_colours(piece: Piece) -> dict[str, str]:
    """The colour of every part: its own, else that of the nearest join around it that has one, else clay."""
    found: dict[str, str] = {}

    def colour(parts: tuple[Part, ...], inherited: str) -> None:
        for part in parts:
            found[part.id] = part.colour or inherited
            colour(part.children, found[part.id])

    colour(piece.parts, CLAY)
    return found


def shown_opacities(piece: Piece) -> dict[str, float]:
    """How far every part is not seen through: its own share, times those of the joins around it."""
    found: dict[str, float] = {}

    def visit(parts: tuple[Part, ...], around: float) -> None:
        for part in parts:
            found[part.id] = part.opacity * around
            visit(part.children, found[part.id])

    visit(piece.parts, 1.0)
    return found
