"""Registries: lists of classes that are told apart by their `kind`, and what others add to them.

A package named in `NOBLE_CLAY_EXTENSIONS` (several, by commas) may add its own: its module `primitives` has a list
`PRIMITIVES`, `changes` one `CHANGES`, and so on, each of classes like those of this project. They are imported when the
registry is, so that models, schema and pages know them; of this project's own, those of long lists when they are used.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property
from importlib import import_module
from importlib.util import find_spec
from typing import TYPE_CHECKING, Annotated, Any, Generic, TypeVar, Union, cast, get_args

if TYPE_CHECKING:  # the command line asks which formats there are before it needs any model
    from pydantic import BaseModel, TypeAdapter

VARIABLE = "NOBLE_CLAY_EXTENSIONS"
Class = TypeVar("Class", bound="type[BaseModel]")


def extended(name: str, own: list[Any]) -> list[Any]:
    """`own`, and after them what the list of that name, such as `PRIMITIVES`, has in each extension.

    Raises ImportError for an extension that is not there.
    """
    found = list(own)
    for package in filter(None, os.environ.get(VARIABLE, "").split(",")):
        module = f"{import_module(package).__name__}.{name.lower()}"
        if find_spec(module) is not None:
            found += getattr(import_module(module), name)
    return found


def kind_of(cls: type[BaseModel]) -> str:
    """The one value that a class's field `kind` may have."""
    (kind,) = get_args(cls.model_fields["kind"].annotation)
    return str(kind)


def by_kind(classes: Iterable[Class]) -> dict[str, Class]:
    """Kind to class, in their order. Raises ValueError for a kind that is there twice."""
    found: dict[str, Class] = {}
    for cls in classes:
        if found.setdefault(kind_of(cls), cls) is not cls:
            raise ValueError(f"two classes are of the kind {kind_of(cls)}")
    return found


class Kinds(Mapping[str, Class], Generic[Class]):
    """Kind to class in their order, each class imported when it is asked for: a piece uses few of many.

    own: kinds, each a module of `package` with a class that is named like it, `ball_joint` with `BallJoint`.
    Raises ValueError for a kind of an extension that is there already.
    """

    def __init__(self, package: str, name: str, own: list[str]) -> None:
        self._package = package
        self._found: dict[str, Class | None] = dict.fromkeys(own)
        for kind, cls in by_kind(cast("list[Class]", extended(name, []))).items():
            if self._found.setdefault(kind, cls) is not cls:
                raise ValueError(f"two classes are of the kind {kind}")

    def __getitem__(self, kind: str) -> Class:
        found = self._found[kind]
        if found is None:
            module = import_module(f"{self._package}.{kind}")
            found = self._found[kind] = getattr(module, kind.title().replace("_", ""))
        return found

    def __iter__(self) -> Iterator[str]:
        return iter(self._found)

    def __len__(self) -> int:
        return len(self._found)


class KnownLater:
    """Marks a field as `any_of` the classes of `kinds`, and imports of them only what is read."""

    def __init__(self, kinds: Mapping[str, type[BaseModel]]) -> None:
        self._kinds = kinds

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> Any:
        from pydantic_core.core_schema import no_info_plain_validator_function

        return no_info_plain_validator_function(self._read)

    def __get_pydantic_json_schema__(self, schema: Any, handler: Any) -> Any:
        return handler(self._union.core_schema)

    @cached_property
    def _union(self) -> TypeAdapter[Any]:
        from pydantic import TypeAdapter

        return TypeAdapter(any_of(self._kinds.values()))

    def _read(self, value: Any) -> Any:
        """The record of a value; what is of no known kind the union refuses."""
        kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
        if isinstance(kind, str) and kind in self._kinds:
            return self._kinds[kind].model_validate(value)
        return self._union.validate_python(value)


def any_of(classes: Iterable[type[BaseModel]]) -> Any:
    """The type of a field that holds a record of any of the classes, told apart by `kind`."""
    from pydantic import Field

    return Annotated[Union[tuple(classes)], Field(discriminator="kind")]  # noqa: UP007
