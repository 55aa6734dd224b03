"""Affine maps as (3, 4) matrices: turns, mirrors, translations, their products and inverses, and back to degrees."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import UNIT

IDENTITY: Floats = np.eye(3, 4)


def translation(by: Sequence[float] | Floats) -> Floats:
    return np.column_stack([np.eye(3), by])


def turn_about(axis: str, degrees: float) -> Floats:
    """(3, 3) right-handed turn about x, y or z; quarter turns are exact."""
    quarter, rest = divmod(degrees % 360.0, 90.0)
    c, s = (1.0, 0.0) if rest == 0 else (math.cos(math.radians(rest)), math.sin(math.radians(rest)))
    for _ in range(int(quarter) % 4):
        c, s = -s, c
    i = "xyz".index(axis)
    j, k = (i + 1) % 3, (i + 2) % 3
    matrix = np.eye(3)
    matrix[j, j], matrix[j, k], matrix[k, j], matrix[k, k] = c, -s, s, c
    return matrix


def turn_about_line(axis: Floats, degrees: float) -> Floats:
    """(3, 3) right-handed turn about a unit vector (3,), by Rodrigues' formula; about x, y and z as `turn_about`."""
    along = int(np.argmax(np.abs(axis)))
    if abs(axis[along]) > 1 - 1e-15:
        return turn_about("xyz"[along], degrees * float(np.sign(axis[along])))
    x, y, z = axis
    skew = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    found: Floats = np.eye(3) + s * skew + (1 - c) * (skew @ skew)
    return found


def rotation(degrees: Sequence[float]) -> Floats:
    """(3, 3): R = Rz · Ry · Rx, turned about the fixed x, then y, then z axis."""
    rx, ry, rz = degrees
    found: Floats = turn_about("z", rz) @ turn_about("y", ry) @ turn_about("x", rx)
    return found


def degrees_of(matrix: Floats) -> tuple[float, float, float]:
    """The angles (rx, ry, rz) with `rotation(angles)` equal to a (3, 3) rotation matrix."""
    ry = math.asin(max(-1.0, min(1.0, -matrix[2, 0])))
    if abs(matrix[2, 0]) < 1 - UNIT:
        rx = math.atan2(matrix[2, 1], matrix[2, 2])
        rz = math.atan2(matrix[1, 0], matrix[0, 0])
    else:
        rx, rz = 0.0, math.atan2(-matrix[0, 1], matrix[1, 1])
        if ry < 0:
            rz = math.atan2(-matrix[0, 1], matrix[1, 1])
    x, y, z = (round(math.degrees(a), 10) + 0.0 for a in (rx, ry, rz))
    return x, y, z


def rotation_between(a: Floats, b: Floats) -> Floats:
    """(3, 3): the smallest turn that takes unit vector a to unit vector b (Rodrigues' formula)."""
    axis, cosine = np.cross(a, b), float(np.dot(a, b))
    if cosine < -1 + UNIT:
        side = np.cross(a, [1.0, 0, 0] if abs(a[0]) < 0.9 else [0, 1.0, 0])
        side /= np.linalg.norm(side)
        return 2 * np.outer(side, side) - np.eye(3)
    x, y, z = axis
    skew = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    found: Floats = np.eye(3) + skew + skew @ skew / (1 + cosine)
    return found


def about(turn: Floats, centre: Sequence[float]) -> Floats:
    """(3, 4): a linear map done about `centre` rather than the origin."""
    middle = np.asarray(centre, dtype=float)
    return np.column_stack([turn, middle - turn @ middle])


def compose(outer: Floats, inner: Floats) -> Floats:
    """(3, 4): first `inner`, then `outer`."""
    return np.column_stack([outer[:, :3] @ inner[:, :3], outer[:, :3] @ inner[:, 3] + outer[:, 3]])


def inverse(matrix: Floats) -> Floats:
    """(3, 4): back from where an invertible `matrix` takes points."""
    if np.array_equal(matrix[:, :3], np.eye(3)):
        return translation(-matrix[:, 3])
    linear = np.linalg.inv(matrix[:, :3])
    return np.column_stack([linear, -linear @ matrix[:, 3]])


def mirror_signs(flip: Sequence[str]) -> Floats:
    """(3,) of -1 where the axis is mirrored, else 1."""
    return np.array([-1.0 if axis in flip else 1.0 for axis in "xyz"])
