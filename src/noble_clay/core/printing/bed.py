"""How a piece lies on the bed: which way down, how large, how many times, and what it is printed with."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import ConfigDict, Field, model_validator

from noble_clay.core.fields import Coordinate, Flag, IsNumber, Model
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.models import HexId
from noble_clay.core.printing.cutting import PegKind
from noble_clay.core.printing.profiles import FILAMENTS, PRINTERS, Settings

DOWN = np.array([0.0, 0.0, -1.0])
MOST_COPIES = 200
MOST_PLANES = 12
MOST_BESIDE = 30
"""Other pieces on one bed."""

ProfileName = Annotated[str, Field(min_length=1, max_length=40)]
Way = Annotated[float, Field(ge=-1e6, le=1e6), IsNumber]


class CutPlane(Model):
    """Square to an axis of the piece, `at` mm along it."""

    axis: Literal["x", "y", "z"]
    at: Coordinate


class CutLines(Model):
    """planes: where the piece is cut into parts. peg: what holds these together. clearance: mm of room around pegs.
    labels: letters on the hidden faces that tell what goes to what.
    """

    planes: Annotated[tuple[CutPlane, ...], Field(max_length=MOST_PLANES)] = ()
    peg: PegKind = "round"
    clearance: Annotated[float, Field(ge=0, le=5), IsNumber] = 0.2
    labels: Flag = True


class Beside(Model):
    """Another piece on the same bed, so many times; it lies as its own bed says."""

    piece: HexId
    copies: Annotated[int, Field(ge=1, le=MOST_COPIES), IsNumber] = 1


class Bed(Model):
    """printer, filament: names of profiles. down: the way, in the piece, that looks at the bed. spin: degrees about the
    upright, then. scale: times as large as modelled. gap: mm between what stands beside each other.
    cut: where it is cut into parts. beside: what else lies on it.
    """

    model_config = ConfigDict(defer_build=False)

    printer: ProfileName = PRINTERS[0].name
    filament: ProfileName = FILAMENTS[0].name
    settings: Settings = Settings()
    down: tuple[Way, Way, Way] = (0.0, 0.0, -1.0)
    spin: Annotated[float, Field(ge=-360, le=360), IsNumber] = 0.0
    scale: Annotated[float, Field(ge=0.001, le=1000), IsNumber] = 1.0
    copies: Annotated[int, Field(ge=1, le=MOST_COPIES), IsNumber] = 1
    gap: Annotated[float, Field(ge=0.5, le=100), IsNumber] = 6.0
    cut: CutLines = CutLines()
    beside: Annotated[tuple[Beside, ...], Field(max_length=MOST_BESIDE)] = ()

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Bed:
        if math.hypot(*self.down) < 1e-6:
            raise ValueError("down must point somewhere")
        return self

    @model_validator(mode="after")
    def _each_once(self) -> Bed:
        if len({other.piece for other in self.beside}) < len(self.beside):
            raise ValueError("beside names a piece twice: raise its copies")
        return self

    def turning(self) -> Floats:
        """(3, 3): turns the piece so that `down` looks at the bed, by the shortest way, and then by `spin`."""
        return spun(self.spin) @ shortest_turn(np.array(self.down), DOWN)

    def placing(self, mesh: Mesh) -> Floats:
        """(3, 4): carries a mesh onto the bed: its lowest point at z = 0, the middle of its box over the origin."""
        linear = self.scale * self.turning()
        points = mesh.vertices @ linear.T
        low, high = points.min(axis=0), points.max(axis=0)
        return np.column_stack([linear, -np.array([*(low + high)[:2] / 2, low[2]])])


def laid(mesh: Mesh, placing: Floats) -> Mesh:
    return Mesh(mesh.vertices @ placing[:, :3].T + placing[:, 3], mesh.triangles)


def spun(degrees: float) -> Floats:
    """(3, 3): a turn about the upright; right angles are exact."""
    c, s = (round(f(math.radians(degrees)), 15) for f in (math.cos, math.sin))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def shortest_turn(start: Floats, end: Floats) -> Floats:
    """(3, 3): turns one way (3,) into another; of opposite ones, about an axis square to both."""
    a, b = start / np.linalg.norm(start), end / np.linalg.norm(end)
    axis, cosine = np.cross(a, b), float(a @ b)
    if cosine < -1 + 1e-12:
        axis = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
        axis /= np.linalg.norm(axis)
        return 2 * np.outer(axis, axis) - np.eye(3)
    x, y, z = axis
    skew = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    return np.eye(3) + skew + skew @ skew / (1 + cosine)
