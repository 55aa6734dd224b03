"""A printer's stand-in: goes through a rehearsed print layer by layer, quicker than a real one would, and can be paused
and stopped.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, field
from itertools import accumulate
from typing import Literal

State = Literal["printing", "paused", "done", "stopped"]


@dataclass
class Run:
    """layers: seconds that each takes. speed: printed seconds in a second."""

    layers: list[float]
    speed: float
    printed: float = 0.0
    state: State = "printing"
    _ends: list[float] = field(init=False)

    def __post_init__(self) -> None:
        self._ends = list(accumulate(self.layers))

    @property
    def total(self) -> float:
        """Seconds of the whole print."""
        return self._ends[-1] if self._ends else 0.0

    @property
    def layer(self) -> int:
        """That is being printed, from 0; the last one at the end."""
        return min(bisect_right(self._ends, self.printed), max(len(self.layers) - 1, 0))

    def go_on(self, seconds: float) -> None:
        """So many seconds of a clock have passed."""
        if self.state == "printing":
            self.printed = min(self.total, self.printed + seconds * self.speed)
            if self.printed >= self.total:
                self.state = "done"

    def pause(self) -> None:
        if self.state == "printing":
            self.state = "paused"

    def resume(self) -> None:
        if self.state == "paused":
            self.state = "printing"

    def stop(self) -> None:
        if self.state in ("printing", "paused"):
            self.state = "stopped"

    @property
    def over(self) -> bool:
        return self.state in ("done", "stopped")

    def values(self) -> dict[str, float | int | str]:
        """As it is told: the layer from 0, seconds that are printed and left."""
        return {
            "state": self.state,
            "layer": self.layer,
            "printed": self.printed,
            "left": self.total - self.printed,
            "share": self.printed / self.total if self.total else 1.0,
        }
