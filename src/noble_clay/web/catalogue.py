"""The tray: every primitive with its fields and its drawn tile; and sums typed into fields."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response

from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.fields import Model
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.sums import parse_sum
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.web.answers import Amount, ChangeAnswer, FieldAnswer, PrimitiveAnswer
from noble_clay.web.tiles import tile_svg

router = APIRouter(prefix="/api", tags=["catalogue"])


@router.get("/primitives")
def list_primitives() -> list[PrimitiveAnswer]:
    """All primitives, in the order of the tray."""
    return [
        PrimitiveAnswer(
            kind=kind,
            label=cls.label,
            family=cls.family,
            summary=cls.summary,
            sample=cls.model_validate({"kind": kind, **cls.sample}).model_dump(mode="json"),
            fields=_fields(cls),
        )
        for kind, cls in PRIMITIVES.items()
    ]


@router.get("/changes")
def list_changes() -> list[ChangeAnswer]:
    """All shape changes, in the order in which they are offered."""
    return [
        ChangeAnswer(
            kind=kind,
            label=cls.label,
            summary=cls.summary,
            sample=cls.model_validate({"kind": kind, **cls.sample}).model_dump(mode="json"),
            fields=_fields(cls),
        )
        for kind, cls in CHANGES.items()
    ]


@router.get("/primitives/{kind}/tile.svg", response_class=Response)
def primitive_tile(kind: str) -> Response:
    """A drawing of the primitive as it is put down."""
    if kind not in PRIMITIVES:
        return Response(status_code=404)
    return Response(tile_svg(kind), media_type="image/svg+xml", headers={"cache-control": "max-age=3600"})


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


def _fields(cls: type[Model]) -> list[FieldAnswer]:
    schema: dict[str, Any] = cls.model_json_schema()
    found = []
    for name, model_field in cls.model_fields.items():
        if name in ("kind", "off"):
            continue
        field = schema["properties"][name]
        either = field.get("anyOf", [])
        plain = next((f for f in either if f.get("type") != "null"), field.get("prefixItems", [field])[0])
        default = None if model_field.is_required() else model_field.default
        found.append(
            FieldAnswer(
                name=name,
                title=model_field.title or field.get("title", name),
                description=field.get("description", ""),
                kind=_kind(name, field, plain),
                unit=plain.get("unit", ""),
                least=plain.get("minimum"),
                most=plain.get("maximum"),
                options=plain.get("enum", []),
                optional=any(f.get("type") == "null" for f in either),
                default=default.model_dump(mode="json") if isinstance(default, Model) else default,
            )
        )
    return found


def _kind(name: str, field: dict[str, Any], plain: dict[str, Any]) -> Any:
    if name in ("edge", "drain", "stud"):
        return name
    if "enum" in plain:
        return "choice"
    if "prefixItems" in field:
        return "size"
    return "whole" if plain.get("type") == "integer" else "number"
