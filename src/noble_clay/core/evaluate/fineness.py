"""How fine the lattice is on which a list runs together, where the maker has not said."""

from __future__ import annotations

FINENESS = 6
"""Cells of the lattice in a radius."""

MOST_ACROSS = 400
"""Cells across the list."""

LEAST_CELL = 0.01
"""The finest lattice, mm."""

ROUGHLY = 2.5
"""How much coarser a lattice is for what is seen while a hand moves."""


def default_cell(radii: list[float], longest: float) -> float:
    """The lattice's cell, mm: fine for the radii, but not too fine for the whole. radii: with which parts enter, 0 for
    those that do so sharply, not all. longest: side of the box around all that is united, mm.
    """
    radii = [r for r in radii if r]
    return max(LEAST_CELL, min(radii) / FINENESS, max(radii) / (3 * FINENESS), longest / MOST_ACROSS)
