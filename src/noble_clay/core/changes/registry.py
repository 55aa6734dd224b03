"""All shape changes: a new one is a new file and one line here; schema, card, menus and reference follow."""

from __future__ import annotations

from typing import TYPE_CHECKING

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.changes.bend import Bend
from noble_clay.core.changes.flatten import Flatten
from noble_clay.core.changes.grow import Grow
from noble_clay.core.changes.hollow import Hollow
from noble_clay.core.changes.mirror_half import MirrorHalf
from noble_clay.core.changes.polish import Polish
from noble_clay.core.changes.resurface import Resurface
from noble_clay.core.changes.round import Round
from noble_clay.core.changes.simplify import Simplify
from noble_clay.core.changes.stretch import Stretch
from noble_clay.core.changes.studs import Studs
from noble_clay.core.changes.subdivide import Subdivide
from noble_clay.core.changes.taper import Taper
from noble_clay.core.changes.twist import Twist
from noble_clay.core.registry import any_of, by_kind, extended

CHANGES: dict[str, type[ShapeChange]] = by_kind(
    extended(
        "CHANGES",
        [
            Round,
            Hollow,
            Grow,
            Taper,
            Bend,
            Twist,
            Stretch,
            Flatten,
            MirrorHalf,
            Studs,
            Subdivide,
            Simplify,
            Polish,
            Resurface,
        ],
    )
)
"""Kind to class, in the order in which they are offered."""

if TYPE_CHECKING:
    AnyChange = ShapeChange
else:
    AnyChange = any_of(CHANGES.values())
