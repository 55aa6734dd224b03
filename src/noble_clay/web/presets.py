"""Presets: small recipes that are put down whole, and can be opened and changed. Each is a piece file in one folder."""

from __future__ import annotations

import json
import re
from functools import lru_cache
from pathlib import Path

from fastapi import APIRouter, Response
from pydantic import BaseModel

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values

FOLDER = Path(__file__).parents[1] / "presets"
ENDING = ".clay.json"

router = APIRouter(prefix="/api/presets", tags=["presets"])


class Preset(BaseModel):
    """slug: its file's name."""

    slug: str
    name: str
    notes: str


def preset_files() -> list[Path]:
    return sorted(FOLDER.glob(f"*{ENDING}"))


@lru_cache(maxsize=1)
def presets() -> tuple[Preset, ...]:
    """All of them by name; each is read as any piece file is."""
    found = []
    for path in preset_files():
        slug = path.name.removesuffix(ENDING)
        piece = preset_piece(slug)
        found.append(Preset(slug=slug, name=piece.name, notes=piece.notes))
    return tuple(sorted(found, key=lambda p: p.name))


def preset_piece(slug: str) -> Piece:
    """Raises PieceError where there is none of that name."""
    path = FOLDER / f"{slug}{ENDING}"
    if not path.is_file():
        raise PieceError(Problem("there is no preset of that name", field="preset"))
    return piece_from_values(json.loads(path.read_text(encoding="utf-8")))


@router.get("")
def list_presets() -> list[Preset]:
    """All presets, by name."""
    return list(presets())


@router.get("/{slug}/tile.svg", response_class=Response)
def preset_tile(slug: str) -> Response:
    """A drawing of the preset."""
    path = FOLDER / f"{slug}.svg"
    if not re.fullmatch(r"[a-z0-9-]+", slug) or not path.is_file():
        return Response(status_code=404)
    return Response(path.read_bytes(), media_type="image/svg+xml", headers={"cache-control": "max-age=3600"})
