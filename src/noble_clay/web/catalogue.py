"""What there is to choose from, by kinds: forms and their tiles, shape changes, copies, formats; and typed sums."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.field_kinds import fields_of
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.piece.copies import COPIES, Rule
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.sums import parse_sum
from noble_clay.core.primitives.base import Primitive, Round
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.core.registry import kind_of
from noble_clay.web.answers import Amount, ChangeAnswer, FormatAnswer, KindAnswer, PrimitiveAnswer
from noble_clay.web.tray_drawings import moving_svg, tile_svg

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.get("/primitives")
def list_primitives() -> list[PrimitiveAnswer]:
    """All primitives, in the order of the tray."""
    return [
        PrimitiveAnswer(
            **_said(kind, cls),
            family=cls.family,
            sample=_sample(cls),
            round=issubclass(cls, Round),
            editor=cls.editor,
        )
        for kind, cls in PRIMITIVES.items()
    ]


@router.get("/changes")
def list_changes() -> list[ChangeAnswer]:
    """All shape changes, in the order in which they are offered."""
    return [ChangeAnswer(**_said(kind, cls), sample=_sample(cls)) for kind, cls in CHANGES.items()]


@router.get("/copies")
def list_copies() -> list[KindAnswer]:
    """All ways of copying a part, in the order in which they are offered."""
    return [KindAnswer(**_said(kind, cls)) for kind, cls in COPIES.items()]


@router.get("/formats")
def list_formats() -> list[FormatAnswer]:
    """All kinds of mesh file, in the order in which they are offered."""
    return [
        FormatAnswer(
            ending=f.ending, name=f.name, about=f.about, reads=bool(f.reads), writes=bool(f.writes), offered=f.offered
        )
        for f in FORMATS.values()
    ]


def _said(kind: str, cls: type[Primitive] | type[ShapeChange] | type[Rule]) -> dict[str, Any]:
    return {
        "kind": kind,
        "label": cls.label,
        "summary": cls.summary,
        "fields": [f for f in fields_of(cls) if f.shown.group != "apart"],
        "either": cls.either,
    }


def _sample(cls: type[Primitive] | type[ShapeChange]) -> dict[str, Any]:
    """Of a new one, with all that it does not say itself."""
    return cls.model_validate({"kind": kind_of(cls), **cls.sample}).model_dump(mode="json")


@router.get("/primitives/{kind}/tile.svg", response_class=Response)
def primitive_tile(kind: str) -> Response:
    """A drawing of the primitive as it is put down."""
    if kind not in PRIMITIVES:
        return Response(status_code=404)
    return Response(tile_svg(kind), media_type="image/svg+xml", headers={"cache-control": "max-age=3600"})


@router.get("/primitives/{kind}/moving.svg", response_class=Response)
def primitive_moving(kind: str) -> Response:
    """The same drawing with one field after the other grown and shrunk, each named."""
    if kind not in PRIMITIVES:
        return Response(status_code=404)
    return Response(moving_svg(kind), media_type="image/svg+xml", headers={"cache-control": "max-age=3600"})


@router.get("/sum")
def read_sum(text: Annotated[str, Query(max_length=400)]) -> Amount:
    """What a typed sum such as `153+4`, `3cm` or `1/4in` comes to, in mm or degrees."""
    return Amount(value=parse_sum(text))


@router.get("/schema/piece.json", response_class=Response)
def piece_schema() -> Response:
    """The JSON Schema of the piece format."""
    return Response(schema_text(), media_type="application/schema+json")


@lru_cache(maxsize=1)
def schema_text() -> str:
    import json

    return json.dumps(Piece.model_json_schema(), indent=1) + "\n"
