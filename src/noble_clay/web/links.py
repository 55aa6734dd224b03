"""A read-only page of a piece, by a link that can be withdrawn: what it needs, and nothing else of what is here."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel

from noble_clay.core.piece.models import CLAY
from noble_clay.core.piece.tree import shown_colours, shown_opacities
from noble_clay.solvers.desk import StateView
from noble_clay.store import links as store
from noble_clay.store.pieces import StoredPiece
from noble_clay.web.answers import Triple
from noble_clay.web.guards import SHOWN_AT
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, scene_of

router = APIRouter(tags=["links"])
Link = Annotated[str, Path(pattern=r"^[A-Za-z0-9_-]{32}$")]


class LinkAnswer(BaseModel):
    """link: of the piece's page, at `/look/<link>`, if it has one. at: where the page is reached from outside, if that
    was set up; else it is where this page is.
    """

    link: str | None
    at: str | None = SHOWN_AT


class ShownPart(BaseModel):
    """How the triangles of a part are glazed."""

    colour: str
    opacity: float


class ShownPiece(BaseModel):
    """A piece as a stranger may see it. skin: where its mesh is; none while that is being made. parts: what the part
    index of each triangle means. problem: it cannot be made.
    """

    name: str
    revision: int
    skin: str | None
    parts: list[ShownPart]
    bounds: tuple[Triple, Triple] | None
    sound: bool | None
    problem: bool


@router.get("/api/pieces/{piece_id}/link")
def get_link(shop: AWorkshop, piece_id: PieceId) -> LinkAnswer:
    with shop.transaction() as session:
        return LinkAnswer(link=store.link_of(session, piece_id))


@router.put("/api/pieces/{piece_id}/link")
def put_link(shop: AWorkshop, piece_id: PieceId) -> LinkAnswer:
    """Give the piece a link, unless it has one."""
    with shop.transaction() as session:
        return LinkAnswer(link=store.give_link(session, piece_id))


@router.delete("/api/pieces/{piece_id}/link", status_code=204)
def delete_link(shop: AWorkshop, piece_id: PieceId) -> None:
    """Withdraw the piece's link: whoever has it sees nothing any more."""
    with shop.transaction() as session:
        store.withdraw_link(session, piece_id)


@router.get("/api/look/{link}")
async def get_shown(shop: AWorkshop, response: Response, link: Link) -> ShownPiece:
    """The piece of a link as it is now."""
    response.headers["cache-control"] = "no-store"
    kept, look = await _shown(shop, link)
    scene = look.scene
    result = scene["result"] if scene is not None else None
    soundness = scene["soundness"] if scene is not None else None
    colours, opacities = shown_colours(kept.piece), shown_opacities(kept.piece)
    parts = result["parts"] if result is not None else []
    return ShownPiece(
        name=kept.piece.name,
        revision=kept.revision,
        skin=f"/api/look/{link}/skins/{result['key']}" if result is not None and result["triangles"] else None,
        parts=[ShownPart(colour=colours.get(i, CLAY), opacity=opacities.get(i, 1.0)) for i in parts],
        bounds=soundness["bounds"] if soundness is not None else None,
        sound=soundness["sound"] if soundness is not None else None,
        problem=look.problems is not None,
    )


@router.get("/api/look/{link}/skins/{key}", response_class=Response)
async def get_shown_skin(shop: AWorkshop, link: Link, key: str) -> Response:
    """The mesh of the piece of a link, as it is now."""
    _, look = await _shown(shop, link)
    result = look.scene["result"] if look.scene is not None else None
    path = shop.files.path(key) if result is not None and result["key"] == key else None
    if path is None:
        return Response(status_code=404)
    return FileResponse(path, media_type="application/octet-stream", headers={"cache-control": "no-store"})


async def _shown(shop: Workshop, link: str) -> tuple[StoredPiece, StateView]:
    kept = await shop.stored(lambda session: store.linked_piece(session, link))
    return kept, await scene_of(shop, kept)
