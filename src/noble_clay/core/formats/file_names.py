"""Names of files that any system takes."""

from __future__ import annotations

import re


def plain_name(name: str) -> str:
    """A piece's name as part of a file's: letters, digits, dots, dashes and lines below only."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-.") or "piece"
