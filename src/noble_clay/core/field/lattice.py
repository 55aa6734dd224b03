"""The lattice that is fixed in space, and its blocks of cells."""

from __future__ import annotations

import numpy as np

BLOCK = 4
"""Cells along the edge of the smallest block."""

TILE = 16
"""Smallest blocks along the edge of the largest."""

ODD = 0.4437
"""Where the lattice's first point is, in cells: few faces lie in its planes."""

NOTHING, LATTICE = -1, -2
"""What a cell is that is not a step's own."""

BEFORE = np.array([[x, y, z] for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) < (0, 0, 0)])
"""To the neighbours of a block that come before it in order."""
