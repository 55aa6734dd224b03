"""All shape changes: a new one is a new file and one line here; schema, card, menus and reference follow."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.registry import Kinds, KnownLater

CHANGES: Kinds[type[ShapeChange]] = Kinds(
    "noble_clay.core.changes",
    "CHANGES",
    [
        "round",
        "hollow",
        "grow",
        "taper",
        "bend",
        "twist",
        "stretch",
        "flatten",
        "mirror_half",
        "studs",
        "subdivide",
        "simplify",
        "polish",
        "resurface",
    ],
)
"""Kind to class, in the order in which they are offered."""

if TYPE_CHECKING:
    AnyChange = ShapeChange
else:
    AnyChange = Annotated[Any, KnownLater(CHANGES)]
