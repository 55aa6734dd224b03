"""Several small edits as one step of the history."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.piece.edits.edit import Edit
from noble_clay.core.piece.edits.fields import Move, Resize
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.tree import Change, apply_changes

OneEdit = Annotated[Move | Resize | AddParts, Field(discriminator="kind")]


class Several(Edit):
    """Each is done on what the one before it made; all or none."""

    kind: Literal["several"]
    edits: Annotated[tuple[OneEdit, ...], Field(min_length=1, max_length=1_000)]
    how: Literal["Mended", "Made it stand"] = "Mended"

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        chosen: dict[str, None] = {}
        for edit in self.edits:
            changes, ids = edit.changes(piece)
            piece, _ = apply_changes(piece, changes)
            found += changes
            chosen.update(dict.fromkeys(ids))
        return found, tuple(chosen)

    def describe(self, piece: Piece) -> str:
        if self.how != "Mended":
            return self.how
        return self.edits[0].describe(piece) if len(self.edits) == 1 else f"Mended {len(self.edits)} places"
