"""What is to be shown of a piece: every part's own mesh, where its copies stand on the wheel, and how large it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from itertools import product

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.cache import ByteCache
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.handles import Handle
from noble_clay.core.mesh.affine import IDENTITY, compose
from noble_clay.core.mesh.mesh import Floats, Mesh, triple
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import copy_matrices, place_matrix

MOST_COPIES_SHOWN = 2_000
"""Copies of one part that are drawn whole; the joined result holds them all."""

Keep = Callable[[str, Callable[[], Mesh]], None]


@dataclass(frozen=True, eq=False)
class PartView:
    """One part. key: of its own mesh, for a primitive or mesh. matrices: (k, 3, 4) from its own frame to the wheel,
    one a copy, the original first. own: (2, 3) bounds in its own frame, before scaling; size: (3,) mm, after it; box:
    (2, 3) bounds of the original on the wheel; all None for a part of nothing. chord_error: mm, of a primitive with
    flat sides for a curve. handles: what can be drawn, each with the index of its shape change, or None.
    drawn_origin: of a drawn form, where its own origin is among the coordinates that its points have.
    """

    id: str
    key: str | None
    matrices: Floats
    own: Floats | None
    size: Floats | None
    box: Floats | None
    chord_error: float | None = None
    handles: tuple[tuple[int | None, Handle], ...] = ()
    drawn_origin: tuple[float, float, float] | None = None

    @property
    def nbytes(self) -> int:
        return 1_500 + int(self.matrices.nbytes)


VIEWS_BYTES = 60_000_000
"""Of the views remembered, about."""

POINTS_BYTES = 120_000_000
"""Of the points of geometries remembered: parts are often alike."""


class Views:
    """The views of pieces, as one evaluator sees them; a part that stands as it stood before is not looked at again.

    keep: is told of every key that the views name, with a function that makes its mesh.
    """

    def __init__(self, evaluator: Evaluator, keep: Keep | None = None) -> None:
        self._evaluator = evaluator
        self._keep = keep
        self._known: ByteCache[PartView] = ByteCache(VIEWS_BYTES)
        self._points: ByteCache[Floats] = ByteCache(POINTS_BYTES)

    def of(self, piece: Piece, quick: bool = False) -> list[PartView]:
        """Every part of the piece, parents first. quick: nothing is made for it; of what was not looked at before, a
        join is told as one of nothing, and a changed part as it was before its changes.
        """
        return list(self._list(piece.parts, [IDENTITY], quick, 0.0))

    def _list(self, parts: tuple[Part, ...], frames: list[Floats], quick: bool, blend: float) -> Iterator[PartView]:
        for number, part in enumerate(parts):
            place = place_matrix(part.place, part.flip)
            copies = copy_matrices(part) if part.copies else [IDENTITY]
            here = [compose(frame, compose(c, place)) for frame, c in product(frames, copies)][:MOST_COPIES_SHOWN]
            view = self._view(part, here, quick)
            if self._keep is not None and view.key is not None:
                shown = (
                    part if view.key == self._evaluator.keys.geometry(part) else part.model_copy(update={"changes": ()})
                )
                self._keep(view.key, partial(self._evaluator.own_mesh, shown))
            seam = None if quick else self._seam(part, parts[:number], blend)
            yield view if seam is None else replace(view, handles=(*view.handles, (None, seam)))
            yield from self._list(part.children, here, quick, part.join.blend if part.join else 0.0)

    def _seam(self, part: Part, before: tuple[Part, ...], blend: float) -> Handle | None:
        if part.radius_in(blend) <= 0 or not before or part.primitive is None or part.changed:
            return None
        from noble_clay.core.evaluate.seams import seam_handle

        try:
            return seam_handle(part, self._evaluator.own_mesh(part), before, blend)
        except MeshError:  # its mesh is not there
            return None

    def _view(self, part: Part, matrices: list[Floats], quick: bool) -> PartView:
        off = tuple(c.off for c in part.changes)  # handles name changes by their place in the stack
        memo = self._evaluator.keys.geometry(part), part.place.scale, off, np.array(matrices).tobytes()
        known = self._known.get(memo)
        if known is not None:
            return known if known.id == part.id else replace(known, id=part.id)
        if quick and part.join is not None:
            return PartView(part.id, None, np.array(matrices), None, None, None)
        if quick and part.changed:
            return self._view(part.model_copy(update={"changes": ()}), matrices, quick)
        try:
            found = self._looked_at(part, matrices)
        except MeshError:  # its mesh is not there; it may come yet, so this is not remembered
            return PartView(part.id, None, np.array(matrices), None, None, None)
        self._known.put(memo, found)
        return found

    def _own_points(self, key: str, part: Part) -> Floats:
        """The vertices of a primitive or mesh, also of one that cannot count. Raises MeshError when it is not there."""
        found = self._points.get(key)
        if found is None:
            found = self._evaluator.own_mesh(part).vertices
            self._points.put(key, found)
        return found

    def _looked_at(self, part: Part, matrices: list[Floats]) -> PartView:
        """Raises MeshError for a mesh that is not there."""
        key = self._evaluator.keys.geometry(part) if part.join is None else None
        points = self._evaluator.geometry(part).vertices if key is None else self._own_points(key, part)
        if len(points) == 0:
            return PartView(part.id, key, np.array(matrices), None, None, None)
        own = np.array([points.min(axis=0), points.max(axis=0)])
        size = (own[1] - own[0]) * np.array(part.place.scale)
        box = _box_around(points, matrices[0])
        error = part.primitive.chord_error() if part.primitive else None
        drawn = part.primitive.drawn_origin() if part.primitive and part.primitive.editor else None
        at = None if drawn is None else triple(drawn)
        return PartView(part.id, key, np.array(matrices), own, size, box, error, _handles(part, own), at)


def _handles(part: Part, own: Floats) -> tuple[tuple[int | None, Handle], ...]:
    """Of a part whose box, its changes made, is `own`; those of a primitive only while nothing has changed it."""
    found: list[tuple[int | None, Handle]] = []
    if part.primitive is not None and not part.changed:
        found += [(None, handle) for handle in part.primitive.handles()]
    for index, change in enumerate(part.changes):
        if not change.off:
            found += [(index, handle) for handle in change.handles(own)]
    return tuple(found)


def _box_around(points: Floats, matrix: Floats) -> Floats:
    """(2, 3) bounds of points (n, 3) seen through a (3, 4) matrix."""
    there = points @ matrix[:, :3].T + matrix[:, 3]
    return np.array([there.min(axis=0), there.max(axis=0)])


def world_boxes(views: list[PartView], seen_from: Floats = IDENTITY) -> list[Floats]:
    """(2, 3) bounds around every copy of every primitive and mesh; around its turned box where it is turned.

    seen_from: (3, 4) from the wheel to the frame that the bounds are in.
    """
    found = []
    for view in views:
        if view.key is not None and view.own is not None:
            corners = np.array(list(product(*view.own.T)))
            found += [_box_around(corners, compose(seen_from, matrix)) for matrix in view.matrices]
    return found
