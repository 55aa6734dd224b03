"""What every kind of job is; and what those have in common that are about meshes of a piece, or about a whole piece."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Assets
from noble_clay.core.formats.pieces import asset_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_json
from noble_clay.jobs.folders import shared_folder
from noble_clay.store import jobs
from noble_clay.store.assets import asset_data
from noble_clay.store.database import Sessions
from noble_clay.store.pieces import load_piece
from noble_clay.store.tables import JobRow

Params = dict[str, Any]
Tell = Callable[[float, str], None]
"""Told how far a task is, from 0 to 1, and which step is on."""

Asked = TypeVar("Asked", bound=BaseModel)

INPUT = "input"
PIECE = "piece.clay.json"
MADE = "made"
"""Beside it, a folder that a worker's jobs share: what pieces came to."""


class Nothing(BaseModel):
    """A job that is told nothing beyond what it is about."""

    model_config = ConfigDict(extra="forbid")


@dataclass(frozen=True)
class Run:
    """One run of a job's task. name: of what it is about, or "" where there is only one; folder: with its files."""

    name: str
    folder: Path
    params: Params


class JobKind:
    """A kind of long work.

    A worker lays out what each run needs (`inputs`), runs `task` in a process of its own with limits on memory and
    time, and keeps what came of it (`keep`) in the transaction that ends the job.
    """

    kind: ClassVar[str]
    label: ClassVar[str]
    """What it is called in the list of long work."""

    quiet: ClassVar[bool] = False
    """Whether it is left out of that list once it has ended well: nobody asked for it by itself."""

    params: ClassVar[type[BaseModel]] = Nothing
    """What is said when one is asked for about a whole piece."""

    of_piece: ClassVar[bool] = False
    """Whether one may be asked for about a whole piece."""

    def inputs(self, sessions: Sessions, row: JobRow, folder: Path) -> list[Run]:
        """The runs of the task, their files laid out in or under `folder`. Raises ClayError."""
        raise NotImplementedError

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        """The work itself: files in, files out, no database; JSON values are returned. Raises MeshError."""
        raise NotImplementedError

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        """Keep what came of it; `result` is kept with the row. Raises ClayError, and then nothing is kept."""

    def outcome(self, result: Params) -> str:
        """What came of it, in a few words for the list."""
        return ""


class MeshJob(JobKind):
    """About meshes of a piece: `params["meshes"]` says of each part the SHA-256 of its mesh, and what is asked."""

    def inputs(self, sessions: Sessions, row: JobRow, folder: Path) -> list[Run]:
        found = []
        for number, (name, params) in enumerate(row.params["meshes"].items()):
            with sessions.begin() as session:
                data = asset_data(session, params["sha256"])
            if data is None:
                raise MeshError("the mesh is not here any more; bring it in again")
            own = folder / str(number)
            own.mkdir()
            (own / INPUT).write_bytes(data)
            found.append(Run(name, own, params))
        return found


class PieceJob(JobKind):
    """About a whole piece as it was when the worker took the job, with its meshes."""

    of_piece: ClassVar[bool] = True

    def inputs(self, sessions: Sessions, row: JobRow, folder: Path) -> list[Run]:
        assert row.piece_id is not None
        with sessions.begin() as session:
            revision = lay_ready(session, row.piece_id, folder)
        return [Run("", folder, {**row.params, "revision": revision})]


def lay_ready(session: Session, piece_id: str, folder: Path) -> int:
    """Write a piece and its meshes into a folder, for `piece_in`; its revision. Raises NoSuchPiece, Unreadable."""
    kept = load_piece(session, piece_id)
    (folder / MADE).symlink_to(shared_folder(), target_is_directory=True)
    (folder / PIECE).write_text(kept.piece.text(), encoding="utf-8")
    for sha256 in {p.mesh.asset for p in kept.piece.walk() if p.mesh is not None}:
        data = asset_data(session, sha256)
        if data is not None:
            (folder / f"{sha256}.glb").write_bytes(data)
    return kept.revision


def piece_in(folder: Path) -> tuple[Piece, Assets]:
    """The piece that a `PieceJob`'s task is about, and its meshes."""

    def assets(sha256: str) -> Mesh:
        file = folder / f"{sha256}.glb"
        if not file.exists():
            raise MeshError(f"the mesh {sha256[:12]}… is not there")
        return asset_mesh(file.read_bytes())

    return piece_from_json((folder / PIECE).read_bytes()), assets


def asked_for(model: type[Asked], params: Params) -> Asked:
    """What was said with a job, among all that a run is told."""
    return model.model_validate({name: params[name] for name in model.model_fields})


def keep_files(session: Session, row: JobRow, folder: Path, names: Iterable[str]) -> None:
    """Keep files of a job's folder with the job, under their names."""
    for name in names:
        jobs.add_block(session, row.id, name, 0, (folder / name).read_bytes())
