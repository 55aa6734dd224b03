"""Adjusting parts by what stands around them: each is a question whose answer is one edit that carries the parts."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field, TypeAdapter

from noble_clay.core.adjust.centre import Centre
from noble_clay.core.adjust.line_up import LineUp
from noble_clay.core.adjust.mirror import MirrorInPlace
from noble_clay.core.adjust.seat import Seat
from noble_clay.core.adjust.set_down import SetDown
from noble_clay.core.adjust.sink import Sink

AnyAdjust = Annotated[Seat | LineUp | Sink | SetDown | Centre | MirrorInPlace, Field(discriminator="kind")]
ADJUST: TypeAdapter[AnyAdjust] = TypeAdapter(AnyAdjust, config=ConfigDict(defer_build=True))
