"""The Mend stage: what a piece needs, and bringing meshes in."""

from __future__ import annotations

import hashlib
from typing import Annotated

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from noble_clay.core.piece.edits import AddParts
from noble_clay.core.piece.models import MeshAsset, Part, Place
from noble_clay.jobs.reader import bring_in
from noble_clay.store import pieces as store
from noble_clay.store.assets import keep_asset
from noble_clay.web.answers import BroughtInAnswer, FindingAnswer, NeedsAnswer, StepDone
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, state_of

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["mend"])


@router.get("/needs")
def get_needs(shop: AWorkshop, piece_id: PieceId) -> NeedsAnswer:
    """Loose bodies and parts that only touch, each with the movement that would mend it."""
    with shop.transaction() as session:
        kept = store.load_piece(session, piece_id)
    found = shop.pool.ask(piece_id, "needs", kept.piece.dump())
    return NeedsAnswer.model_validate({**found, "revision": kept.revision})


@router.post("/bring-in", openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}})
async def post_bring_in(
    shop: AWorkshop, piece_id: PieceId, request: Request, name: Annotated[str, Query(min_length=1, max_length=80)]
) -> BroughtInAnswer:
    """An STL, the raw body, as a part: mended as far as that goes, standing in the middle of the wheel."""
    data = await request.body()
    return await run_in_threadpool(_brought_in, shop, piece_id, name, data)


def _brought_in(shop: AWorkshop, piece_id: str, name: str, data: bytes) -> BroughtInAnswer:
    mesh = bring_in(data)
    part = Part(
        id="mesh",
        name=name,
        mesh=MeshAsset(asset=mesh.sha256),
        place=Place(position=(0.0, 0.0, round(mesh.height / 2, 6))),
    )
    edit = AddParts(kind="add_parts", parts=(part,))
    request_id = hashlib.sha256(data).hexdigest()[:32]
    with shop.transaction() as session:
        keep_asset(session, mesh.sha256, mesh.data)
        now = store.load_piece(session, piece_id)
        kept = store.apply_edit(session, piece_id, now.revision, f"{request_id}-{now.revision}", edit)
    report = mesh.report
    return BroughtInAnswer(
        state=state_of(shop, kept),
        part=kept.chosen[0],
        sound=report["manifold"],
        steps=[StepDone(step=s["step"], count=s["count"]) for s in report["steps"]],
        findings_before=[FindingAnswer.model_validate(f) for f in report["before"]["findings"]],
        findings_after=[FindingAnswer.model_validate(f) for f in report["findings"]],
        deviation_mm=report["deviation_mm"],
    )
