"""All primitives: a new one is a new file and one line here; schema, tray, card and reference follow."""

from __future__ import annotations

from typing import TYPE_CHECKING

from noble_clay.core.primitives.ball_joint import BallJoint
from noble_clay.core.primitives.base import Primitive
from noble_clay.core.primitives.box import Box
from noble_clay.core.primitives.bricks import Bricks
from noble_clay.core.primitives.capsule import Capsule
from noble_clay.core.primitives.cells import Cells
from noble_clay.core.primitives.cone import Cone
from noble_clay.core.primitives.crescent import Crescent
from noble_clay.core.primitives.cylinder import Cylinder
from noble_clay.core.primitives.dome import Dome
from noble_clay.core.primitives.drop import Drop
from noble_clay.core.primitives.egg import Egg
from noble_clay.core.primitives.ellipsoid import Ellipsoid
from noble_clay.core.primitives.gable import Gable
from noble_clay.core.primitives.gear import Gear
from noble_clay.core.primitives.heart import Heart
from noble_clay.core.primitives.lettering import Lettering
from noble_clay.core.primitives.limb import Limb
from noble_clay.core.primitives.outline import Outline
from noble_clay.core.primitives.paddle import Paddle
from noble_clay.core.primitives.paraboloid import Paraboloid
from noble_clay.core.primitives.prism import Prism
from noble_clay.core.primitives.pyramid import Pyramid
from noble_clay.core.primitives.sphere import Sphere
from noble_clay.core.primitives.star import Star
from noble_clay.core.primitives.thread import Thread
from noble_clay.core.primitives.torus import Torus
from noble_clay.core.primitives.tube import Tube
from noble_clay.core.primitives.turned import Turned
from noble_clay.core.primitives.wedge import Wedge
from noble_clay.core.registry import any_of, by_kind, extended

PRIMITIVES: dict[str, type[Primitive]] = by_kind(
    extended(
        "PRIMITIVES",
        [
            Sphere,
            Ellipsoid,
            Egg,
            Dome,
            Capsule,
            Cylinder,
            Cone,
            Tube,
            Torus,
            Paraboloid,
            Box,
            Wedge,
            Gable,
            Prism,
            Pyramid,
            Turned,
            Outline,
            Limb,
            Lettering,
            Paddle,
            Heart,
            Drop,
            Crescent,
            Gear,
            Star,
            Thread,
            BallJoint,
            Cells,
            Bricks,
        ],
    )
)
"""Kind to class, in the order of the tray."""

if TYPE_CHECKING:
    AnyPrimitive = Primitive
else:
    AnyPrimitive = any_of(PRIMITIVES.values())
