"""Documents that cannot be read, as plain values: counted, and taken back step by step to where they could be."""

from __future__ import annotations

from typing import Any

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.models import OWN_FIELDS

Values = dict[str, Any]


def count_parts(document: Any) -> int:
    """How many parts a document has, as far as it has the form of one."""
    waiting, count = [_list(document, "parts")], 0
    while waiting:
        for part in waiting.pop():
            count += 1
            waiting.append(_list(_at(part, "join"), "parts"))
    return count


def taken_back(document: Values, inverse: Values) -> Values:
    """The document before an edit, whose inverse, an edit of the kind `restore`, is given. Neither need be readable.

    Raises PieceError where the inverse does not fit.
    """
    after = {**document, **{k: inverse[k] for k in OWN_FIELDS if inverse.get(k) is not None}}
    try:
        for step in inverse.get("steps", ()):
            after = {**after, "parts": _stepped(_list(after, "parts"), step)}
    except (KeyError, TypeError, IndexError):
        raise PieceError(Problem("this step cannot be taken back: what it kept does not fit the recipe")) from None
    return after


def _stepped(parts: list[Any], step: Values) -> list[Any]:
    if step["kind"] == "put":
        new = step["part"]
        path = _path(parts, new["id"])
        index = path[-1]
        old = _under(parts, path[:-1])[index]
        if step.get("own"):
            new = {**new, "join": {**new["join"], "parts": old["join"]["parts"]}}
        return _replaced(parts, path[:-1], index, 1, [new])
    path = [] if step.get("parent") is None else _path(parts, step["parent"])
    return _replaced(parts, path, step["index"], step["remove"], list(step["insert"]))


def _replaced(parts: list[Any], path: list[int], index: int, remove: int, insert: list[Any]) -> list[Any]:
    """The tree in which the list under `path`, indices from the top, has some parts replaced."""
    if not path:
        return [*parts[:index], *insert, *parts[index + remove :]]
    here, *deeper = path
    part = parts[here]
    inner = _replaced(part["join"]["parts"], deeper, index, remove, insert)
    return [*parts[:here], {**part, "join": {**part["join"], "parts": inner}}, *parts[here + 1 :]]


def _under(parts: list[Any], path: list[int]) -> list[Any]:
    for index in path:
        parts = parts[index]["join"]["parts"]
    return parts


def _path(parts: list[Any], part_id: str) -> list[int]:
    """Where a part stands: indices from the top. Raises KeyError when it is not there."""
    waiting = [([i], part) for i, part in enumerate(parts)]
    while waiting:
        path, part = waiting.pop(0)
        if _at(part, "id") == part_id:
            return path
        waiting += [([*path, i], child) for i, child in enumerate(_list(_at(part, "join"), "parts"))]
    raise KeyError(part_id)


def _at(value: Any, key: str) -> Any:
    return value.get(key) if isinstance(value, dict) else None


def _list(value: Any, key: str) -> list[Any]:
    found = _at(value, key)
    return found if isinstance(found, list) else []
