"""The piece format, version 1, as models: a piece is a tree of parts, never changed in place."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from noble_clay.core.changes.registry import AnyChange
from noble_clay.core.field_kinds import MM
from noble_clay.core.fields import Angle, Flag, IsNumber, Model, Point, Scale, Storable
from noble_clay.core.piece.beside import MOST_MEASURES, MOST_PICTURES, Measure, OwnId, ReferencePicture, Sha256
from noble_clay.core.piece.copies import AnyCopies
from noble_clay.core.primitives.base import Primitive
from noble_clay.core.primitives.registry import AnyPrimitive

Op = Literal["union", "difference", "intersection"]
Axis = Literal["x", "y", "z"]
AXES: tuple[Axis, ...] = ("x", "y", "z")
PartId = OwnId
MOST_NAME = 80
"""Letters of a name."""

Name = Annotated[str, Field(min_length=1, max_length=MOST_NAME), Storable]
Notes = Annotated[str, Field(max_length=20_000), Storable]
HexId = Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
Tag = Annotated[str, Field(min_length=1, max_length=40), Storable]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]

OWN_FIELDS = ("name", "notes", "drawer", "pictures", "measures")
"""Of a piece, beside its parts: what edits may change."""

MOST_CHANGES = 32
"""Shape changes stacked on one part."""

CLAY = "#c7a384"
"""The colour of a part that has none, nor any of its parents."""


class Place(Model):
    """Where a part stands in its parent: p lands at position + R · (scale * (flip * p))."""

    position: Point = (0.0, 0.0, 0.0)
    rotation: tuple[Angle, Angle, Angle] = (0.0, 0.0, 0.0)
    scale: tuple[Scale, Scale, Scale] = (1.0, 1.0, 1.0)


class MeshAsset(Model):
    """A mesh brought in or mended, kept beside the piece by its SHA-256."""

    asset: Sha256


class FromDrawer(Model):
    """Where a part was taken out of the maker's drawer. part: the id that it has there. mark: `drawer.content_mark` of
    what was taken out. scale: the one that it keeps, for a part of fixed size.
    """

    part: HexId
    mark: HexId
    scale: tuple[Scale, Scale, Scale] | None = None


class InDrawer(Model):
    """What the maker's drawer notes of a piece that lies in it. fixed: it keeps its size where it is used."""

    tags: Annotated[tuple[Tag, ...], Field(max_length=20)] = ()
    fixed: Flag = False


class Join(Model):
    """An ordered list of parts that becomes one solid.

    blend: radius over which every step of the list runs together, mm. fineness: of the lattice that finds the smooth
    run, mm; left out, it follows the radius.
    """

    blend: Annotated[float, MM, Field(ge=0, le=1000, title="Blend"), IsNumber] = 0.0
    fineness: Annotated[float, MM, Field(ge=0.01, le=100, title="Fineness"), IsNumber] | None = None
    parts: tuple[Part, ...]

    @property
    def soft(self) -> bool:
        """Whether any step of it is rounded."""
        return is_soft(self.parts, self.blend)


def is_soft(parts: tuple[Part, ...], blend: float) -> bool:
    """Whether any step of a list of that blend is rounded. The first part, the body, enters nothing."""
    return any(p.radius_in(blend) > 0 for p in [p for p in parts if not p.reference][1:])


def widest_radius(parts: tuple[Part, ...], blend: float) -> float:
    """The largest radius with which any part enters a list of that blend, mm."""
    return max((p.radius_in(blend) for p in parts if not p.reference), default=0.0)


class Part(Model):
    """One line of the recipe: geometry, how it enters its parent, where it stands and how it is shown.

    blend: radius with which it enters its list, mm; 0 is sharp, none is the list's. follows_body: a round primitive
    keeps as near to its true curve as the body of its list does to its own.
    """

    id: PartId
    name: Name
    op: Op = "union"
    primitive: AnyPrimitive | None = None
    join: Join | None = None
    mesh: MeshAsset | None = None
    changes: Annotated[tuple[AnyChange, ...], Field(max_length=MOST_CHANGES)] = ()
    blend: Annotated[float, MM, Field(ge=0, le=1000, title="Blend"), IsNumber] | None = None
    place: Place = Place()
    flip: tuple[Axis, ...] = ()
    copies: AnyCopies | None = None
    colour: Colour | None = None
    opacity: Annotated[float, Field(ge=0, le=1), IsNumber] = 1.0
    hidden: Flag = False
    reference: Flag = False
    locked: Flag = False
    follows_body: Flag = False
    drawer: FromDrawer | None = None

    @model_validator(mode="before")
    @classmethod
    def _named_after_its_geometry(cls, data: Any) -> Any:
        if not isinstance(data, dict) or data.get("name") is not None:
            return data
        primitive = data.get("primitive")
        kind = primitive.get("kind") if isinstance(primitive, dict) else getattr(primitive, "kind", None)
        fallback = kind if isinstance(kind, str) else "join" if data.get("join") is not None else "mesh"
        return {**data, "name": fallback.capitalize()}

    @field_validator("flip")
    @classmethod
    def _each_axis_once(cls, value: tuple[Axis, ...]) -> tuple[Axis, ...]:
        if len(set(value)) != len(value):
            raise ValueError("flip names an axis twice: each of x, y, z at most once")
        return value

    @model_validator(mode="after")
    def _one_geometry(self) -> Part:
        given = [n for n in ("primitive", "join", "mesh") if getattr(self, n) is not None]
        if len(given) != 1:
            found = " and ".join(given) if given else "none of them"
            raise ValueError(f"a part has exactly one of primitive, join and mesh; this has {found}")
        return self

    @model_validator(mode="after")
    def _as_large_as_it_is_kept(self) -> Part:
        if self.fixed_scale and any(abs(a) != abs(b) for a, b in zip(self.place.scale, self.fixed_scale, strict=True)):
            raise ValueError("place would change its size, which is fixed in the drawer; free it on its card first")
        return self

    @property
    def fixed_scale(self) -> tuple[float, float, float] | None:
        """The scale that it has to keep; None for a part of no fixed size."""
        return self.drawer.scale if self.drawer else None

    @property
    def changed(self) -> bool:
        """Whether any of its shape changes is on."""
        return any(not c.off for c in self.changes)

    @property
    def only_list(self) -> bool:
        """Whether it is nothing but its list, moved: a join without changes or copies."""
        return self.join is not None and not self.copies and not self.changed

    @property
    def plain_join(self) -> bool:
        """The same, without blend."""
        return self.only_list and self.join is not None and not self.join.soft

    def radius_in(self, blend: float) -> float:
        """With which it enters a list of that blend, mm."""
        return blend if self.blend is None else self.blend

    @property
    def children(self) -> tuple[Part, ...]:
        return self.join.parts if self.join else ()

    @property
    def geometry(self) -> Primitive | Join | MeshAsset:
        found = self.primitive or self.join or self.mesh
        assert found is not None
        return found

    def with_children(self, parts: tuple[Part, ...]) -> Part:
        assert self.join is not None
        return self.model_copy(update={"join": self.join.model_copy(update={"parts": parts})})

    @property
    def shell(self) -> Part:
        """The part without the list of its join: what is its own."""
        return self.with_children(()) if self.join else self

    def walk(self) -> Iterator[Part]:
        """This part and all in it, parents first."""
        yield self
        for child in self.children:
            yield from child.walk()


class Piece(Model):
    """A whole document. pictures, measures: what it keeps beside its parts."""

    format: Literal["noble-clay-piece"]
    version: Literal[1]
    name: Name
    notes: Notes = ""
    drawer: InDrawer | None = None
    parts: tuple[Part, ...] = ()
    pictures: Annotated[tuple[ReferencePicture, ...], Field(max_length=MOST_PICTURES)] = ()
    measures: Annotated[tuple[Measure, ...], Field(max_length=MOST_MEASURES)] = ()

    @model_validator(mode="after")
    def _each_beside_it_once(self) -> Piece:
        for word, ids in (("pictures", [p.id for p in self.pictures]), ("measures", [m.id for m in self.measures])):
            if twice := [i for i in ids if ids.count(i) > 1]:
                raise ValueError(f"{word} have the id {twice[0]} twice; each needs its own")
        return self

    @staticmethod
    def new(name: str) -> Piece:
        return Piece(format="noble-clay-piece", version=1, name=name)

    def walk(self) -> Iterator[Part]:
        """Every part, parents first, in the order of the recipe."""
        for part in self.parts:
            yield from part.walk()

    @property
    def assets(self) -> dict[str, str]:
        """The files beside it: SHA-256 to the name in a pack."""
        meshes = {p.mesh.asset: f"assets/{p.mesh.asset}.glb" for p in self.walk() if p.mesh is not None}
        return {**meshes, **{p.asset: p.file_name for p in self.pictures}}

    @property
    def shell(self) -> Piece:
        """The piece without its parts."""
        return self.model_copy(update={"parts": ()})

    def text(self) -> str:
        """The document as the shortest JSON text."""
        return self.model_dump_json(exclude_defaults=True)

    def dump(self) -> dict[str, Any]:
        """The document as JSON values, without what equals its default. Equal pieces give equal dumps."""
        return {"parts": [], **json.loads(self.text())}
