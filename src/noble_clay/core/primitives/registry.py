"""All primitives: a new one is a new file and one line here; schema, tray, card and reference follow."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

from noble_clay.core.primitives.base import Primitive
from noble_clay.core.registry import Kinds, KnownLater

PRIMITIVES: Kinds[type[Primitive]] = Kinds(
    "noble_clay.core.primitives",
    "PRIMITIVES",
    [
        "sphere",
        "ellipsoid",
        "egg",
        "dome",
        "capsule",
        "cylinder",
        "cone",
        "tube",
        "torus",
        "paraboloid",
        "box",
        "wedge",
        "gable",
        "prism",
        "pyramid",
        "turned",
        "outline",
        "limb",
        "lettering",
        "paddle",
        "heart",
        "drop",
        "crescent",
        "gear",
        "star",
        "thread",
        "ball_joint",
        "cells",
        "bricks",
    ],
)
"""Kind to class, in the order of the tray."""

if TYPE_CHECKING:
    AnyPrimitive = Primitive
else:
    AnyPrimitive = Annotated[Any, KnownLater(PRIMITIVES)]
