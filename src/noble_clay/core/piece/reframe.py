"""Putting a part into another frame without moving it: needed when parts go into or out of a join."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.mesh.affine import degrees_of, inverse, mirror_signs, rotation
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SHARE, UNIT
from noble_clay.core.piece.copies import Grid, Path, Ring, Row, Twin
from noble_clay.core.piece.models import AXES, Axis, Join, Part, Place
from noble_clay.core.piece.placing import place_matrix


def tidy(values: Sequence[float] | Floats) -> list[float]:
    """Coordinates without the noise of binary fractions, at a millionth of a micrometre."""
    return [round(float(v), 9) + 0.0 for v in values]


def tidy_scale(values: Sequence[float] | Floats) -> list[float]:
    """Factors without the noise of binary fractions: twelve digits, however small they are."""
    return [float(f"{float(v):.12g}") for v in values]


def shifted(part: Part, by: Sequence[float] | Floats) -> Part:
    """The part and its copies moved by `by` (3,) in its parent's frame."""
    place = part.place.model_copy(update={"position": tuple(tidy(np.add(part.place.position, by)))})
    copies = part.copies
    match copies:
        case Ring():
            copies = copies.model_copy(update={"centre": tuple(tidy(np.add(copies.centre, by)))})
        case Twin():
            copies = copies.model_copy(update={"at": round(copies.at + float(by["xyz".index(copies.axis)]), 9)})
        case Path():
            copies = copies.model_copy(update={"points": tuple(tuple(tidy(np.add(p, by))) for p in copies.points)})
    return part.model_copy(update={"place": place, "copies": copies})


def stood(part: Part, low: Sequence[float], high: Sequence[float], place: Place) -> Part:
    """The part with the middle of the foot of its box (low, high), mm, where `place` has its origin, turned with it."""
    by = (-(low[0] + high[0]) / 2, -(low[1] + high[1]) / 2, -low[2])
    return out_of(Part(id="floor", name="Floor", join=Join(parts=()), place=place), shifted(part, by))


def carried(part: Part, matrix: Floats) -> Part:
    """The part through a similarity (3, 4) of its parent's frame: turned, mirrored, scaled evenly, moved.

    Its copies keep their own rule. Raises PieceError for a matrix that would shear it.
    """
    linear = matrix[:, :3]
    position = tuple(tidy(linear @ np.array(part.place.position) + matrix[:, 3]))
    update: dict[str, object] = {"position": position}
    flip: tuple[Axis, ...] = part.flip
    if not np.array_equal(linear, np.eye(3)):
        size = float(np.cbrt(abs(np.linalg.det(linear))))
        pure = linear / size
        if not np.allclose(pure @ pure.T, np.eye(3), atol=SHARE):
            raise PieceError(
                Problem("it stands in a stretched join, where a turn would bend it; set the join's scale even", part.id)
            )
        turned = pure @ rotation(part.place.rotation)
        if np.linalg.det(pure) < 0:
            # A mirror is a turn after a flip of any own axis: the one that it reverses most leaves the least turn.
            own = rotation(part.place.rotation).T @ turned
            axis = int(np.argmin(own.diagonal()))
            turned = turned * np.where(np.arange(3) == axis, -1.0, 1.0)
            flip = tuple(a for a in AXES if (a in part.flip) != (a == AXES[axis]))
        update["rotation"] = degrees_of(turned)
        if abs(size - 1) > UNIT:
            update["scale"] = tuple(tidy_scale(np.array(part.place.scale) * size))
    return part.model_copy(update={"place": part.place.model_copy(update=update), "flip": flip})


def into(join: Part, child: Part) -> Part:
    """`child` of a join's parent as a part of that join, in the same spot. Raises PieceError where it cannot be."""
    back = inverse(place_matrix(join.place, join.flip))
    if np.array_equal(back[:, :3], np.eye(3)):
        return shifted(child, back[:, 3])
    return carried(child, back).model_copy(update={"copies": _copies_through(child, back[:, :3], back[:, 3])})


def out_of(join: Part, child: Part) -> Part:
    """`child` of `join` as a part of the join's parent, in the same spot. Raises PieceError where it cannot be."""
    turn = rotation(join.place.rotation)
    scale, signs = np.array(join.place.scale), mirror_signs(join.flip)
    plain = np.array_equal(turn, np.eye(3)) and np.all(scale == 1) and np.all(signs == 1)
    if plain:
        return shifted(child, join.place.position)
    if len(set(join.place.scale)) > 1 and any(r % 90 for r in child.place.rotation):
        raise PieceError(
            Problem(
                f'"{join.name}" is stretched and this part is turned within it, so it cannot stand alone; '
                "set the join's scale to equal numbers first",
                child.id,
            )
        )
    linear = turn * (scale * signs)
    matrix = place_matrix(join.place, join.flip)
    inner = rotation(child.place.rotation)
    # S·F·R·s·f with F the join's mirror: F·R·F is again a rotation, so the child takes over the mirror.
    conjugate = np.diag(signs) @ inner @ np.diag(signs)
    stretch = np.abs(inner.T @ np.diag(scale) @ inner).diagonal() if len(set(scale)) > 1 else scale
    flip = tuple(a for a, s in zip("xyz", mirror_signs(child.flip) * signs, strict=True) if s < 0)
    place = child.place.model_copy(
        update={
            "position": tuple(tidy(matrix[:, :3] @ np.array(child.place.position) + matrix[:, 3])),
            "rotation": degrees_of(turn @ conjugate),
            "scale": tuple(tidy_scale(np.array(child.place.scale) * stretch)),
        }
    )
    return child.model_copy(
        update={"place": place, "flip": flip, "copies": _copies_through(child, linear, join.place.position)}
    )


def _copies_through(child: Part, linear: Floats, position: Sequence[float] | Floats) -> object:
    def point(p: Sequence[float]) -> tuple[float, ...]:
        return tuple(tidy(linear @ np.array(p) + np.array(position)))

    copies = child.copies
    if isinstance(copies, Row):
        return copies.model_copy(update={"step": tuple(tidy(linear @ np.array(copies.step)))})
    if isinstance(copies, Path) and copies.count is not None:
        return copies.model_copy(update={"points": tuple(point(p) for p in copies.points)})
    if copies is None:
        return None
    kind = {Ring: "ring", Twin: "twin", Grid: "grid", Path: "path"}[type(copies)]
    raise PieceError(
        Problem(f"its {kind} copies are tied to the turned or scaled join; break the copies apart first", child.id)
    )
