"""A figure that turns once around, as a moving picture: animated GIF or WebP."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.sheet.picture import EYE, drawn, extent

if TYPE_CHECKING:
    from PIL.Image import Image

TALL = 0.75
"""How high a picture is to its width."""

Moving = Literal["gif", "webp"]
MOVING: tuple[Moving, ...] = ("gif", "webp")


class Turning(BaseModel):
    """pictures: in one turn. width: px. seconds: that one turn takes."""

    model_config = ConfigDict(extra="forbid", frozen=True, defer_build=False)

    pictures: int = Field(36, ge=8, le=120)
    width: int = Field(480, ge=64, le=1600)
    seconds: float = Field(4, ge=0.5, le=60)


def turned_once(
    mesh: Mesh, colours: NDArray[np.uint8], asked: Turning, tell: Callable[[float], None] = lambda share: None
) -> list[Image]:
    """Pictures of a mesh that turns to the left about the upright axis through the middle of its box, all of them as
    large as the widest needs. colours: (m, 3) of the triangles, or (3,) of all.
    """
    bounds = mesh.bounds
    middle = np.zeros(3) if bounds is None else np.append((bounds[0] + bounds[1])[:2] / 2, 0)
    centred = Mesh(mesh.vertices - middle, mesh.triangles)
    eyes = [EYE @ turn_about("z", 360 * n / asked.pictures) for n in range(asked.pictures)]
    corners = [extent(centred.vertices @ eye.T) for eye in eyes]
    around = np.min([low for low, _ in corners], axis=0), np.max([top for _, top in corners], axis=0)
    found = []
    for n, eye in enumerate(eyes):
        tell(n / len(eyes))
        found.append(drawn(centred, colours, asked.width, round(TALL * asked.width), eye, around))
    return found


def moving(pictures: list[Image], seconds: float, kind: Moving) -> bytes:
    """The pictures one after the other, over and over."""
    held = io.BytesIO()
    first, *others = pictures
    pause = round(1000 * seconds / len(pictures))
    first.save(held, kind.upper(), save_all=True, append_images=others, duration=pause, loop=0, quality=85)
    return held.getvalue()
