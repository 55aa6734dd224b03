"""Where a new part goes: on the wheel, beside what is there and never inside it."""

from __future__ import annotations

from collections.abc import Sequence

from noble_clay.core.mesh.mesh import Floats

GAP_MM = 4.0


def free_spot(size: Sequence[float], boxes: Sequence[Floats]) -> tuple[float, float]:
    """(x, y) in whole mm for the middle of something `size` (x, y) wide: as near the wheel's middle as is free.

    boxes: (2, 3) bounds of what stands on the wheel. Only their outlines seen from above count.
    """
    half_x, half_y = size[0] / 2 + GAP_MM, size[1] / 2 + GAP_MM
    candidates = [(0.0, 0.0)]
    for low, high in boxes:
        middle_x, middle_y = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2
        candidates += [
            (high[0] + half_x, middle_y),
            (low[0] - half_x, middle_y),
            (middle_x, low[1] - half_y),
            (middle_x, high[1] + half_y),
        ]
    # Whole millimetres, away from the middle, so that rounding never eats the gap.
    rounded = [(_outward(x), _outward(y)) for x, y in candidates]
    free = [c for c in rounded if not any(_overlap(c, half_x, half_y, box) for box in boxes)]
    return min(free, key=_out_of_the_way)


def _out_of_the_way(spot: tuple[float, float]) -> tuple[float, float, float]:
    """The nearer the better, but rather to the right than to the left, and last behind, where others hide it."""
    x, y = spot
    return round(x * x + y * y * (4 if y > 0 else 1), 6), -x, y


def _outward(value: float) -> float:
    whole = float(int(value))
    return whole if whole == value else whole + (1.0 if value > 0 else -1.0)


def _overlap(at: tuple[float, float], half_x: float, half_y: float, box: Floats) -> bool:
    margin = 1.0  # rounding moves a candidate by less than this
    return bool(
        at[0] + half_x - margin > box[0, 0]
        and at[0] - half_x + margin < box[1, 0]
        and at[1] + half_y - margin > box[0, 1]
        and at[1] - half_y + margin < box[1, 1]
    )
