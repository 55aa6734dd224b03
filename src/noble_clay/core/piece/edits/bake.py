"""Baking: a part's parameters given up for the mesh that they make."""

from __future__ import annotations

from typing import Literal

from noble_clay.core.piece.edits.edit import Edit, check_unlocked
from noble_clay.core.piece.models import MeshAsset, PartId, Piece
from noble_clay.core.piece.tree import Change, Put, Splice, find


class Bake(Edit):
    """The part, its joins and changes made, becomes a mesh part in the same spot. asset: that mesh."""

    kind: Literal["bake"]
    id: PartId
    asset: MeshAsset

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        spot = find(piece, self.id)
        check_unlocked(spot.part)
        update = {"primitive": None, "join": None, "mesh": self.asset, "changes": ()}
        baked = spot.part.model_copy(update=update)
        if spot.part.join is None:
            return [Put(baked)], (self.id,)
        return [Splice(spot.parent_id, spot.index, 1, (baked,))], (self.id,)

    def describe(self, piece: Piece) -> str:
        return f"Baked {find(piece, self.id).part.name}"
