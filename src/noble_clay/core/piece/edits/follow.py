"""Parts that follow their body's roundness get new sides whenever an edit changes what their body is."""

from __future__ import annotations

from collections.abc import Iterator

from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.tree import Put

Parts = tuple[Part, ...]


def followings(piece: Piece) -> list[Put]:
    """What makes every part that follows its body as near to the true curve as that is; nothing where it is already."""
    return list(_in_list(piece.parts))


def _in_list(parts: Parts) -> Iterator[Put]:
    counted = [p for p in parts if not p.reference]
    error = _chord_error(counted[0]) if counted else None
    for part in counted[1:]:
        if part.follows_body and part.primitive is not None and error is not None and not part.locked:
            following = part.primitive.with_chord_error(error)
            if following is not part.primitive:
                yield Put(part.model_copy(update={"primitive": following}))
    for part in parts:
        if part.join is not None:
            yield from _in_list(part.join.parts)


def _chord_error(part: Part) -> float | None:
    """mm: of a primitive, or of the body of a join; None for what has no sides."""
    if part.primitive is not None:
        return part.primitive.chord_error()
    body = next((p for p in part.children if not p.reference), None)
    return None if body is None else _chord_error(body)
