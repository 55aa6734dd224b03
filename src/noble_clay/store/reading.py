"""Reading kept documents: each once, as long as it stays the same."""

from __future__ import annotations

from collections import OrderedDict
from contextlib import suppress
from typing import Any

from noble_clay.core.errors import PieceError
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values

MOST_READ = 16
"""Pieces kept as they were last read."""

_READ: OrderedDict[str, tuple[dict[str, Any], Piece]] = OrderedDict()


def read_document(piece_id: str, document: dict[str, Any]) -> Piece:
    """The piece of a document. One that was read last time is known by comparing it. Raises PieceError."""
    known = _READ.get(piece_id)
    if known is not None and known[0] == document:
        return known[1]
    piece = piece_from_values(document)
    note_document(piece_id, document, piece)
    return piece


def note_document(piece_id: str, document: dict[str, Any], piece: Piece) -> None:
    """This is what a piece's document reads as."""
    _READ.pop(piece_id, None)
    _READ[piece_id] = document, piece
    while len(_READ) > MOST_READ:
        with suppress(KeyError):  # another thread was quicker
            _READ.popitem(last=False)


def unreadable_why(piece_id: str, document: dict[str, Any]) -> str | None:
    """Why a document cannot be read, in words; None where it can be."""
    try:
        read_document(piece_id, document)
    except PieceError as error:
        return str(error)
    return None
