"""Reading a piece from JSON: every refusal names the part, the field, the value and what is allowed."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from pydantic import ConfigDict, TypeAdapter, ValidationError

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.limits import MAX_BYTES, MAX_DEPTH, MAX_PARTS, check_limits, too_deep
from noble_clay.core.piece.models import Part, Piece

T = TypeVar("T")


def piece_from_json(text: str | bytes) -> Piece:
    """Read a piece file's text. Raises PieceError."""
    if len(text) > MAX_BYTES:
        raise PieceError(Problem(f"the file is larger than {MAX_BYTES // 1_000_000} MB"))
    try:
        raw = json.loads(text)
    except RecursionError:
        raise too_deep() from None
    except UnicodeDecodeError as error:
        raise PieceError(Problem(f"the file is not UTF-8 text: {error.reason} at byte {error.start}")) from None
    except ValueError as error:
        raise PieceError(Problem(f"the file is not valid JSON: {error}")) from None
    return piece_from_values(raw)


def piece_from_values(raw: Any) -> Piece:
    """Check a piece given as JSON values. Raises PieceError."""
    if not isinstance(raw, dict):
        raise PieceError(Problem("a piece file is one JSON object with format, version, name and parts"))
    _check_version(raw.get("version"))
    _check_depth(raw)
    piece = validated(Piece.model_validate, raw)
    check_limits(piece)
    return piece


VERSION = 1


def _check_version(version: Any) -> None:
    if isinstance(version, int) and version > VERSION:
        words = f"is {version}: a newer Noble Clay wrote this file, and this one reads version {VERSION} only"
        raise PieceError(Problem(words, field="version", value=version))


def check_readable(before: Piece, after: Piece) -> None:
    """Raise PieceError unless `after` will be read back as it is: the one rule for what an edit may make.

    It is what `piece_from_values` asks of a file; of the parts, only those are looked at that `before` has not got.
    """
    check_limits(after)
    if after.shell != before.shell:
        validated(Piece.model_validate, {**after.shell.model_dump(mode="json"), "parts": []})
    known = {id(part) for part in before.walk()}
    changed = [part.shell for part in after.walk() if id(part) not in known]
    values = [part.model_dump(mode="json", exclude_defaults=True) for part in changed]
    reread = validated(_PARTS.validate_python, values)
    for part, again in zip(changed, reread, strict=True):
        if part != again:
            raise PieceError(Problem("it would not be read back as it is, so it is not kept", part.id))
    if len(after.text()) > MAX_BYTES:
        raise PieceError(Problem(f"with it the piece's file would be larger than {MAX_BYTES // 1_000_000} MB"))


_PARTS: TypeAdapter[tuple[Part, ...]] = TypeAdapter(tuple[Part, ...], config=ConfigDict(defer_build=True))


def validated(reader: Callable[[Any], T], raw: Any) -> T:
    """What the reader makes of `raw`; a refusal becomes a PieceError in words."""
    try:
        return reader(raw)
    except ValidationError as error:
        raise PieceError(problems_of(error.errors(include_url=False), raw)) from None


def problems_of(errors: Sequence[Any], raw: Any) -> list[Problem]:
    """Pydantic's error records as Problems that know their part and field; `raw` is what was read."""
    # A list whose items are wrong is also called too short: that says nothing more.
    inner = [tuple(e["loc"]) for e in errors]
    echo = [e["type"] == "too_short" and any(i[: len(e["loc"])] == tuple(e["loc"]) != i for i in inner) for e in errors]
    return [_problem(dict(e), raw) for e, repeats in zip(errors, echo, strict=True) if not repeats]


def _check_depth(raw: dict[str, Any]) -> None:
    """Bound depth and number before anything recursive looks at the values."""
    waiting = [(raw.get("parts"), 1)]
    count = 0
    while waiting:
        parts, depth = waiting.pop()
        if not isinstance(parts, list):
            continue
        if depth > MAX_DEPTH and parts:
            raise too_deep()
        count += len(parts)
        if count > MAX_PARTS:
            raise PieceError(Problem(f"a piece has at most {MAX_PARTS:,} parts", field="parts"))
        for part in parts:
            if isinstance(part, dict) and isinstance(part.get("join"), dict):
                waiting.append((part["join"].get("parts"), depth + 1))


def _problem(error: dict[str, Any], raw: Any) -> Problem:
    part, path, here = None, "", raw
    for step in error["loc"]:
        if isinstance(step, int):
            path += f"[{step}]"
            here = here[step] if isinstance(here, list | tuple) and step < len(here) else None
        elif isinstance(here, dict) and step not in here and here.get("kind") == step:
            continue  # the tag of a union: not a field of the file
        else:
            path += f".{step}" if path else str(step)
            here = here.get(step) if isinstance(here, dict) else None
        if isinstance(here, dict) and isinstance(here.get("id"), str):
            part, path = here["id"], ""
    message, value = _words(error, here)
    named = message.split(" ", 1)[0]
    if error["type"] == "value_error" and isinstance(here, dict) and named in here:
        path = f"{path}.{named}" if path else named
        value = here[named] if not isinstance(here[named], dict | list) else None
    return Problem(message, part, path or None, value)


def _words(error: dict[str, Any], here: Any) -> tuple[str, Any]:
    kind, context = error["type"], error.get("ctx", {})
    match kind:
        case "missing":
            return "is required", None
        case "extra_forbidden":
            return "is not a field that this version knows", None
        case "union_tag_invalid":
            return f"unknown kind {context['tag']!r}; known are {context['expected_tags']}", None
        case "union_tag_not_found":
            return "needs a kind", None
        case "value_error":
            simple = not isinstance(here, dict | list)
            return str(context["error"]), here if simple else None
        case "greater_than_equal":
            return f"must be at least {_plain(context['ge'])}", here
        case "greater_than":
            return f"must be above {_plain(context['gt'])}", here
        case "less_than_equal":
            return f"must be at most {_plain(context['le'])}", here
        case "finite_number":
            return "must be a finite number", here
        case "int_from_float":
            return "must be a whole number", here
        case "string_pattern_mismatch":
            return _pattern_words(context["pattern"]), here
        case "string_unicode":
            return "must not hold half of a character, which no file can keep", here
        case "recursion_loop":
            return f"joins may be nested at most {MAX_DEPTH} levels deep", None
        case "literal_error":
            return f"must be {context['expected']}", here
        case "string_too_short" | "string_too_long":
            return str(error["msg"]).replace("String should have", "must have"), here if len(str(here)) < 60 else None
    return str(error["msg"]).replace("Input should be", "must be"), here if not isinstance(here, dict | list) else None


def _plain(bound: float) -> str:
    """A bound without a fraction that says nothing."""
    return f"{int(bound):,}" if float(bound).is_integer() else f"{bound:,}"


def _pattern_words(pattern: str) -> str:
    for mark, words in _PATTERNS.items():
        if mark in pattern:
            return words
    return "has a form that is not allowed here"


_PATTERNS = {
    "{1,40}": "must be 1 to 40 letters, digits, - or _",
    "#": "must be a colour such as #c7a384",
    "{64}": "must be 64 hexadecimal digits",
    "{16}": "must be 16 hexadecimal digits, as in the address of a piece or a job",
    "{8,64}": "must be 8 to 64 letters, digits or -",
}
"""What in a pattern tells it from the others, and what it asks in words."""
