"""The tolerances that several rooms share, each with its unit and its reason."""

from __future__ import annotations

CONTACT = 1e-5
"""Distances below this count as contact, mm."""
