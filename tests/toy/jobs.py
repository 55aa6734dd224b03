"""A job about a whole piece: its volume, so many times over."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, ClassVar

from pydantic import BaseModel, ConfigDict, Field

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.jobs.kinds.base import JobKind, Params, PieceJob, Tell, piece_in


class WeighParams(BaseModel):
    model_config = ConfigDict(extra="forbid")

    times: Annotated[int, Field(ge=1, le=100, title="Times")] = 1


class Weigh(PieceJob):
    kind: ClassVar[str] = "weigh"
    label: ClassVar[str] = "Weigh"
    params: ClassVar[type[BaseModel]] = WeighParams

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        piece, assets = piece_in(folder)
        tell(0.5, "weighing")
        volume = Evaluator(assets=assets).evaluate(piece).inspection.volume
        return {"volume": volume * params["times"], "revision": params["revision"]}

    def outcome(self, result: Params) -> str:
        return f"{result['volume']:.0f} mm³"


JOBS: list[type[JobKind]] = [Weigh]
