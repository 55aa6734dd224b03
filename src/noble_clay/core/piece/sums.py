"""What a maker may type into a number field: sums such as `153+4` and lengths such as `3cm` or `1/4in`."""

from __future__ import annotations

import math
import re

from noble_clay.core.errors import PieceError, Problem

MM_PER = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8, "°": 1.0, "deg": 1.0}
_TOKEN = re.compile(r"\s*(?:(\d+(?:[.,]\d*)?|[.,]\d+)|([-+*/()])|([a-z°\"']+))")


def parse_sum(text: str) -> float:
    """The value of a typed sum, in mm (or degrees): + - * / and brackets, each number with an optional unit.

    Raises PieceError that says what could not be read. A unit after a bracket or a quotient applies to all of it:
    `1/4in` is a quarter of an inch.
    """
    if len(text) > 200:
        raise _refusal(text, "is longer than 200 characters")
    reader = _Reader(text)
    value = reader.sum()
    if reader.token is not None:
        raise _refusal(text, f"has {reader.token!r} where the sum should end")
    if not math.isfinite(value):
        raise _refusal(text, "is too large")
    return value


def _refusal(text: str, why: str) -> PieceError:
    return PieceError(Problem(f'"{text[:40]}" {why}; try 153+4, 2*12.5, 3cm or 1/4in'))


class _Reader:
    """Recursive descent over the tokens of one sum."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens = self._split(text.strip().lower())
        self.at = 0

    def _split(self, text: str) -> list[str]:
        if not text:
            raise _refusal(self.text, "is empty")
        tokens, at = [], 0
        while at < len(text):
            found = _TOKEN.match(text, at)
            if not found:
                raise _refusal(self.text, f"has {text[at]!r}, which is no part of a sum")
            tokens.append(next(g for g in found.groups() if g))
            at = found.end()
        return tokens

    @property
    def token(self) -> str | None:
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def take(self) -> str:
        token = self.token
        if token is None:
            raise _refusal(self.text, "stops too early")
        self.at += 1
        return token

    def sum(self) -> float:
        value = self.product()
        while self.token in ("+", "-"):
            value = value + self.product() if self.take() == "+" else value - self.product()
        return value

    def product(self) -> float:
        value = self.signed()
        while self.token in ("*", "/"):
            if self.take() == "*":
                value *= self.signed()
            else:
                divisor = self.signed()
                if divisor == 0:
                    raise _refusal(self.text, "divides by zero")
                value /= divisor
        return value

    def signed(self) -> float:
        sign, depth = 1.0, 0
        while self.token in ("+", "-"):
            sign, depth = (-sign if self.take() == "-" else sign), depth + 1
        return sign * self.with_unit()

    def number(self) -> float:
        token = self.take()
        try:
            return float(token.replace(",", "."))
        except ValueError:
            raise _refusal(self.text, f"has {token!r} where a number should be") from None

    def _fraction_ahead(self) -> bool:
        """Whether a plain number and a unit follow the stroke, as in 1/4in."""
        after = self.tokens[self.at + 1 : self.at + 3]
        return len(after) == 2 and after[0][0].isdigit() and (after[1][0].isalpha() or after[1][0] in "°\"'")

    def with_unit(self) -> float:
        if self.token == "(":
            self.take()
            value = self.sum()
            if self.take() != ")":
                raise _refusal(self.text, "has a bracket that is not closed")
        else:
            value = self.number()
            if self.token == "/" and self._fraction_ahead():
                self.take()
                divisor = self.number()
                value = value / divisor if divisor else math.inf
        if self.token is not None and self.token[0].isalpha() or self.token in ("°", '"', "'"):
            unit = {'"': "in", "'": "ft"}.get(self.token, self.token)
            if unit not in MM_PER:
                raise _refusal(self.text, f"has the unit {unit!r}; known are mm, cm, m, in and ft")
            self.take()
            value *= MM_PER[unit]
        return value
