"""Boxes square to the axes: (2, 3), the lowest and the highest corner, mm."""

from __future__ import annotations

from itertools import product

import numpy as np

from noble_clay.core.mesh.mesh import Floats

NOTHING = np.array([[np.inf] * 3, [-np.inf] * 3])
"""The box around nothing."""


def box_of(points: Floats) -> Floats:
    """(2, d): the box around points (n, d), n > 0."""
    return np.array([points.min(axis=0), points.max(axis=0)])


def around(boxes: list[Floats]) -> Floats:
    """The box around boxes."""
    every = np.array([NOTHING, *boxes])
    return np.array([every[:, 0].min(axis=0), every[:, 1].max(axis=0)])


def longest_side(boxes: list[Floats]) -> float:
    """Of the box around boxes."""
    low, high = around(boxes)
    return float((high - low).max())


def through(box: Floats, matrix: Floats) -> Floats:
    """The box around a box seen through a (3, 4) matrix."""
    if box[0, 0] == np.inf:
        return box
    corners = np.array(list(product(*box.T))) @ matrix[:, :3].T + matrix[:, 3]
    return box_of(corners)


def holds(outer: Floats, inner: Floats) -> bool:
    return bool(np.all(outer[0] <= inner[0]) and np.all(inner[1] <= outer[1]))
