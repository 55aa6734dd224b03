"""What a mending step returns beside the mesh: what it did, in numbers."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Done:
    """One step: its name, how many flaws it mended, and more numbers worth telling."""

    step: str
    count: int
    more: dict[str, Any] = field(default_factory=dict)

    def values(self) -> dict[str, Any]:
        return {"step": self.step, "count": self.count, **self.more}
