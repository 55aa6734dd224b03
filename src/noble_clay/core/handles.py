"""A handle in the view: a point of a part, drawn along a line to change one number of a form or shape change."""

from __future__ import annotations

from dataclasses import dataclass

Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Handle:
    """at: where it stands, and along: the unit vector it is drawn along, both in the part's own frame, mm.

    field: the field that it sets, from `value` by `per` for every mm that it is drawn, to no less than `least` and no
    more than `most`. label: what it shows, in words; unit: of the value, as it is told. of_part: whether the
    field is the part's own, not its form's or change's.
    """

    field: str
    label: str
    at: Triple
    along: Triple
    value: float
    per: float = 1.0
    least: float | None = None
    most: float | None = None
    unit: str = "mm"
    of_part: bool = False
