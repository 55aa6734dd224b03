"""The few errors of the core, each worded for the maker."""

from __future__ import annotations

import errno
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: in which part and field, with which value, and what is allowed."""

    message: str
    part: str | None = None
    field: str | None = None
    value: Any = None

    def __str__(self) -> str:
        where = []
        if self.part is not None:
            where.append(f'part "{self.part}"')
        if self.field:
            where.append(self.field)
        said = f"{', '.join(where)}: {self.message}" if where else self.message
        if self.value is not None:
            said += f" (found {_short(self.value)})"
        return said


def _short(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


class ClayError(Exception):
    """Base of all errors that a maker may read."""


class PieceError(ClayError):
    """A piece, part or edit that cannot be accepted; carries every problem found."""

    def __init__(self, problems: Problem | list[Problem]) -> None:
        self.problems = problems if isinstance(problems, list) else [problems]
        super().__init__(self.describe())

    def describe(self) -> str:
        """All problems in one line."""
        text = str(self.problems[0])
        more = len(self.problems) - 1
        return text if more <= 0 else f"{text}; and {more} more"


class Fault(PieceError):
    """Something went wrong that is no fault of the piece: the cause is an error of the code, and is logged."""


NO_ROOM = "there is no room left on the disk, so nothing was written; make some, then try again"


def is_no_room(error: BaseException) -> bool:
    """Whether a file could not be written for want of room."""
    return isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


class Stopped(ClayError):
    """Whoever wanted this does not any more."""

    def __init__(self) -> None:
        super().__init__("this was stopped")


class MeshError(ClayError):
    """A mesh file or mesh that cannot be read or used."""
