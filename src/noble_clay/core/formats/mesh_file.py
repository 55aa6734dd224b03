"""What a mesh file holds: a mesh whose equal points are one and, where the format has them, unit, names, colours."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.fields import storable
from noble_clay.core.mesh.gather import distinct, equal_corners
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

MAX_TRIANGLES = 2_000_000
LARGEST = 1e9
"""Coordinates beyond this, in the file's unit, are taken for an error in it."""

UNITS = {"micron": 0.001, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0}
"""mm in each, by the names that 3MF gives them."""


@dataclass(frozen=True, eq=False)
class MeshFile:
    """mesh: in the file's own unit. unit: one of `UNITS`, None where the format has none. body_of: (m,) index of every
    triangle into `names` and `colours` (#rrggbb or None).
    """

    mesh: Mesh
    unit: str | None
    names: tuple[str, ...]
    colours: tuple[str | None, ...]
    body_of: NDArray[np.int64]

    def in_mm(self, unit: str | None = None) -> Mesh:
        """The mesh in mm. unit: what the numbers are where the file does not say; mm by default."""
        factor = UNITS[self.unit or unit or "millimeter"]
        return Mesh(self.mesh.vertices * factor, self.mesh.triangles) if factor != 1.0 else self.mesh


@dataclass(frozen=True, eq=False)
class Body:
    """One named run of triangles over points of its own. vertices: (n, 3). triangles: (m, 3)."""

    vertices: Floats
    triangles: Ints
    name: str = ""
    colour: str | None = None


def mesh_file(bodies: list[Body], unit: str | None = None) -> MeshFile:
    """Bodies as one mesh, points with equal coordinates made one. Raises MeshError for none, too many triangles, or
    numbers that are no coordinates.
    """
    bodies = [b for b in bodies if len(b.triangles)]
    if not bodies:
        raise MeshError("the file holds no triangles")
    check_count(sum(len(b.triangles) for b in bodies))
    for body in bodies:
        _check(body)
    starts = np.cumsum([0, *(len(b.vertices) for b in bodies)])
    points = np.ascontiguousarray(np.concatenate([b.vertices for b in bodies]), dtype=np.float64)
    triangles = np.concatenate([b.triangles + s for b, s in zip(bodies, starts, strict=False)])
    index, firsts = equal_corners(points)
    mesh = Mesh(points[firsts], index[triangles])
    if len(firsts) > 3 * len(triangles) or len(distinct(mesh.triangles)) < len(firsts):
        mesh = mesh.compact()
    body_of = np.repeat(np.arange(len(bodies)), [len(b.triangles) for b in bodies])
    return MeshFile(mesh, unit, tuple(storable(b.name) for b in bodies), tuple(b.colour for b in bodies), body_of)


MOST_PLACED = 100_000
"""Objects of a file, each counted as often as the file places it."""


def check_placed(objects: int) -> None:
    """Raises MeshError for more objects, counted as often as they are placed, than can be read."""
    if objects > MOST_PLACED:
        raise MeshError(f"the file places its objects over {MOST_PLACED:,} times, by what it repeats within itself")


def check_count(triangles: int) -> None:
    """Raises MeshError for more triangles than can be read."""
    if triangles > MAX_TRIANGLES:
        raise MeshError(f"{triangles:,} triangles; at most {MAX_TRIANGLES:,} can be read; make it coarser first")


def _check(body: Body) -> None:
    where = f' of "{body.name}"' if body.name else ""
    finite = np.isfinite(body.vertices)
    if not finite.all():
        bad = int(np.flatnonzero(~finite.all(axis=1))[0])
        raise MeshError(f"point {bad + 1:,}{where} has a coordinate that is not a finite number")
    if len(body.vertices) and np.abs(body.vertices).max() > LARGEST:
        bad = int(np.argmax(np.abs(body.vertices).max(axis=1)))
        raise MeshError(f"point {bad + 1:,}{where} lies beyond {LARGEST:g}: no model is that large")
    if body.triangles.min() < 0 or body.triangles.max() >= len(body.vertices):
        low, high = body.triangles.min(axis=1), body.triangles.max(axis=1)
        bad = int(np.flatnonzero((low < 0) | (high >= len(body.vertices)))[0])
        raise MeshError(
            f"triangle {bad + 1:,}{where} names a point that is not there: there are {len(body.vertices):,}"
        )


def hex_colour(red: float, green: float, blue: float) -> str:
    """#rrggbb of three shares, 0 to 1."""
    return "#" + "".join(f"{round(255 * min(1.0, max(0.0, c))):02x}" for c in (red, green, blue))
