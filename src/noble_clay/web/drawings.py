"""Drawings as the page edits them: path data taken apart into points with handles, and SVG files taken in."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.svg import LARGEST, path_data_of
from noble_clay.core.piece.models import PartId
from noble_clay.core.primitives.svg_path import LONGEST, nodes_of
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/drawings", tags=["drawings"])

Pair = tuple[float, float]


class DrawnPoint(BaseModel):
    """A point of a loop, mm. before, after: where the handles of the curves to it and from it stand, seen from it."""

    x: float
    y: float
    before: Pair
    after: Pair


class PathText(BaseModel):
    """SVG path data, mm, y upward."""

    svg: Annotated[str, Field(max_length=LONGEST)]


class SvgFile(BaseModel):
    """The text of an SVG file."""

    text: Annotated[str, Field(max_length=LARGEST)]


class Drawing(BaseModel):
    """Closed loops of points, and the path data that says the same."""

    svg: str
    loops: list[list[DrawnPoint]]


class Backdrop(BaseModel):
    """Closed rings of what stands around a drawn part, in the coordinates of its drawing, mm."""

    rings: list[list[Pair]]


@router.get("/around/{piece_id}/{part_id}")
async def what_is_around(shop: AWorkshop, piece_id: PieceId, part_id: PartId) -> Backdrop:
    """The neighbours of an outline where they meet its floor, or of a profile where its plane cuts them."""
    rings = await shop.answer(piece_id, "around", await shop.document(piece_id), part_id)
    return Backdrop(rings=rings)


@router.post("/points")
def take_apart(path: PathText) -> Drawing:
    """Path data as loops of points with handles."""
    try:
        loops = nodes_of(path.svg)
    except ValueError as error:
        raise MeshError(str(error)) from None
    return Drawing(svg=path.svg, loops=[[DrawnPoint(**asdict(node)) for node in loop] for loop in loops])


@router.post("/file")
def take_in(file: SvgFile) -> Drawing:
    """The outlines of all shapes of an SVG file, as they stand in it; nothing that could run or fetch is looked at."""
    return take_apart(PathText(svg=path_data_of(file.text.encode())))
