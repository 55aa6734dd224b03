"""Meshes mended: each part gets its new mesh, all as one step."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.edits.edit import Edit, check_unlocked, names
from noble_clay.core.piece.models import MeshAsset, PartId, Piece
from noble_clay.core.piece.tree import Change, Put, find


class Mended(Edit):
    """meshes: by part, the asset before and the one after; refused where a part has another mesh by now."""

    kind: Literal["mended"]
    meshes: Annotated[dict[PartId, tuple[MeshAsset, MeshAsset]], Field(min_length=1)]

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for part_id, (before, after) in self.meshes.items():
            part = find(piece, part_id).part
            check_unlocked(part)
            if part.mesh != before:
                raise PieceError(Problem("this part has another mesh by now; mend it again", part_id, "mesh"))
            found.append(Put(part.model_copy(update={"mesh": after})))
        return found, tuple(self.meshes)

    def describe(self, piece: Piece) -> str:
        return f"Mended {names([find(piece, i).part for i in self.meshes])}"
