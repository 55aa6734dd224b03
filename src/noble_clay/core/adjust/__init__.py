"""Adjusting parts by what stands around them: each is a question whose answer is one edit that carries the parts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from pydantic import ConfigDict, TypeAdapter

from noble_clay.core.adjust.adjust import Adjust
from noble_clay.core.adjust.centre import Centre
from noble_clay.core.adjust.line_up import LineUp
from noble_clay.core.adjust.mirror import MirrorInPlace
from noble_clay.core.adjust.seat import Seat
from noble_clay.core.adjust.set_down import SetDown
from noble_clay.core.adjust.sink import Sink
from noble_clay.core.registry import any_of, by_kind, extended

ADJUSTMENTS: dict[str, type[Adjust]] = by_kind(
    extended("ADJUSTMENTS", [Seat, LineUp, Sink, SetDown, Centre, MirrorInPlace])
)
"""Kind to class: a new adjustment is a new file and one line here."""

if TYPE_CHECKING:
    AnyAdjust = Adjust
else:
    AnyAdjust = any_of(ADJUSTMENTS.values())

ADJUST: TypeAdapter[AnyAdjust] = TypeAdapter(AnyAdjust, config=ConfigDict(defer_build=True))
