"""Reference pictures: brought in, and given to the view."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from noble_clay.core.formats.pictures import MEDIA, read_picture
from noble_clay.core.piece.beside import Ending
from noble_clay.store.assets import asset_data, keep_asset
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/pictures", tags=["pictures"])


class PictureAnswer(BaseModel):
    """A picture that is kept: what a piece says of it, its place aside. pixels: width and height."""

    asset: str
    ending: Ending
    pixels: tuple[int, int]


@router.post(
    "",
    status_code=201,
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}},
)
async def post_picture(shop: AWorkshop, request: Request) -> PictureAnswer:
    """Keep a picture (PNG, JPEG or WebP: the raw body), so that an edit can stand it in a piece."""
    data = await request.body()
    file = await run_in_threadpool(read_picture, data)
    await shop.stored(lambda session: keep_asset(session, file.sha256, file.data))
    return PictureAnswer(asset=file.sha256, ending=file.ending, pixels=file.pixels)


@router.get("/{asset}.{ending}", response_class=Response)
def get_picture(shop: AWorkshop, asset: Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")], ending: Ending) -> Response:
    """A picture by its SHA-256."""
    with shop.transaction() as session:
        data = asset_data(session, asset)
    if data is None:
        return Response(status_code=404)
    headers = {"cache-control": "private, max-age=31536000, immutable"}
    return Response(data, media_type=MEDIA[ending], headers=headers)
