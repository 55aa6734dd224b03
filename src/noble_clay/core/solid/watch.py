"""Watching an evaluation: told of every part whose turn it is, it may end the work."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from noble_clay.core.errors import ClayError, Fault, Problem
from noble_clay.core.piece.models import Part


class Watch:
    """Does nothing of what it is told. `part`: the id of the part whose turn it was last."""

    part: str | None = None

    def expect(self, parts: int) -> None:
        """How many parts the work is about."""

    def begin(self, part: Part) -> None:
        """It is this part's turn. May raise Stopped."""
        self.part = part.id

    def go_on(self) -> None:
        """A step of the work is done. May raise Stopped."""


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
