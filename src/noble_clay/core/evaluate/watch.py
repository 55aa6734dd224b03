"""Watching an evaluation: told of every part whose turn it is, it may end the work."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from noble_clay.core.errors import ClayError, Fault, Problem
from noble_clay.core.piece.models import Part, Piece


class Watch:
    """Does nothing of what it is told. `part`: the id of the part whose turn it was last."""

    part: str | None = None

    def expect(self, piece: Piece) -> None:
        """The work is about a whole piece."""

    def begin(self, part: Part, step: str = "") -> None:
        """It is this part's turn, or that of a step of it. May raise Stopped."""
        self.part = part.id

    def go_on(self) -> None:
        """The work goes on. May raise Stopped."""


def steps_of(piece: Piece) -> int:
    """About how many times a watch is told that it is some part's turn, or a step's, while a piece is made."""
    parts = list(piece.walk())
    blended = sum(2 * len(p.join.parts) for p in parts if p.join is not None and p.join.soft)
    return len(parts) + blended + sum(not c.off for p in parts for c in p.changes)


@contextmanager
def naming(part: Part, field: str | None = None) -> Iterator[None]:
    """What goes wrong inside, and is no refusal, is told as a Fault of this part; the innermost says which."""
    try:
        yield
    except (ClayError, MemoryError):
        raise
    except Exception as error:
        words = "it cannot be made, by a fault of Noble Clay's own; take the last step back, or change it"
        raise Fault(Problem(words, part.id, field)) from error
