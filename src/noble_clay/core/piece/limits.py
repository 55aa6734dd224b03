"""The bounds of a piece as a whole: depth, ids, bodies, copies and triangles, checked before anything is built."""

from __future__ import annotations

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.models import Part, Piece

MAX_PARTS = 5_000
MAX_DEPTH = 32
MAX_SOLIDS = 50_000
MAX_TRIANGLES = 10_000_000
MAX_BYTES = 20_000_000
"""Of the text of a piece file."""

SIZE_FIXED = "its size is fixed in the drawer; free it on its card first"
"""What is said to whoever would change it."""


def check_limits(piece: Piece) -> None:
    """Raise PieceError for a piece that is too large or too deep, repeats an id, begins a list with a cutter, or
    changes a size that is fixed.
    """
    check_depth(piece.parts)
    seen: set[str] = set()
    problems: list[Problem] = []
    for part in piece.walk():
        if part.id in seen:
            problems.append(Problem("this id is used twice; each part needs its own", part.id, "id"))
        seen.add(part.id)
    if len(seen) > MAX_PARTS:
        problems.append(Problem(f"a piece has at most {MAX_PARTS:,} parts; this has {len(seen):,}", field="parts"))
    _check_bodies(piece.parts, problems)
    for part in piece.walk():
        if part.join:
            _check_bodies(part.join.parts, problems)
    if any(part.fixed_scale for part in piece.walk()):
        _check_fixed(piece.parts, None, problems)
    if problems:
        raise PieceError(problems)
    _check_amounts(piece.parts, 1, 0, 0)


def too_deep(part_id: str | None = None) -> PieceError:
    return PieceError(Problem(f"joins may be nested at most {MAX_DEPTH} levels deep", part_id, "join"))


def check_depth(parts: tuple[Part, ...]) -> None:
    """Raise PieceError for joins nested too deep; without recursion, which they could exhaust."""
    level, depth = list(parts), 1
    while level:
        if depth > MAX_DEPTH:
            raise too_deep(level[0].id)
        level = [child for part in level if part.join for child in part.join.parts]
        depth += 1


def _triangles(part: Part) -> int:
    """About how many triangles a primitive has, its changes made."""
    assert part.primitive is not None
    count = part.primitive.triangle_count()
    for change in part.changes:
        if not change.off:
            count = change.triangles_after(count)
    return count


def _check_bodies(parts: tuple[Part, ...], problems: list[Problem]) -> None:
    body = next((p for p in parts if not p.reference), None)
    if body is not None and body.op != "union":
        problems.append(
            Problem("the first part of a list is its body, so its op must be union", body.id, "op", body.op)
        )


def _check_fixed(parts: tuple[Part, ...], scaled: Part | None, problems: list[Problem]) -> None:
    """Note parts of fixed size whose size changes with their copies, or with what they stand in: `scaled`."""
    for part in parts:
        varied = part.copies is not None and part.copies.vary is not None and part.copies.vary.size > 0
        if part.fixed_scale and varied:
            problems.append(Problem(SIZE_FIXED, part.id, "copies.vary"))
        if part.fixed_scale and scaled is not None:
            words = f"it would change the size of {part.name}, which is fixed in the drawer; free that first"
            problems.append(Problem(words, scaled.id, "place.scale"))
        sized = varied or any(abs(s) != 1 for s in part.place.scale)
        _check_fixed(part.children, part if sized else scaled, problems)


def _check_amounts(parts: tuple[Part, ...], times: int, solids: int, triangles: int) -> tuple[int, int]:
    """Add up solids and triangles of `parts`, each counted `times`; refuse at the first that is too many."""
    for part in parts:
        each = times * (part.copies.total() if part.copies else 1)
        if each > MAX_SOLIDS:
            raise PieceError(
                Problem(f"its copies make {each:,} solids; a piece has at most {MAX_SOLIDS:,}", part.id, "copies.count")
            )
        if part.primitive:
            solids += each
            triangles += each * _triangles(part)
        elif part.mesh:
            solids += each
        if solids > MAX_SOLIDS:
            raise PieceError(Problem(f"with it the piece has over {MAX_SOLIDS:,} solids", part.id, "copies"))
        if triangles > MAX_TRIANGLES:
            raise PieceError(
                Problem(f"with it the piece has over {MAX_TRIANGLES:,} triangles; take fewer sides", part.id, "facets")
            )
        solids, triangles = _check_amounts(part.children, each, solids, triangles)
    return solids, triangles
