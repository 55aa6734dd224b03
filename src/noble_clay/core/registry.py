"""Registries: lists of classes that are told apart by their `kind`, and what others add to them.

A package named in `NOBLE_CLAY_EXTENSIONS` (several, by commas) may add its own: its module `primitives` has a list
`PRIMITIVES`, `changes` one `CHANGES`, and so on, each of classes like those of this project. They are imported when the
registry is, so that models, schema and pages know them.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from importlib import import_module
from importlib.util import find_spec
from typing import TYPE_CHECKING, Annotated, Any, TypeVar, Union, get_args

if TYPE_CHECKING:  # the command line asks which formats there are before it needs any model
    from pydantic import BaseModel

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


def any_of(classes: Iterable[type[BaseModel]]) -> Any:
    """The type of a field that holds a record of any of the classes, told apart by `kind`."""
    from pydantic import Field

    return Annotated[Union[tuple(classes)], Field(discriminator="kind")]  # noqa: UP007
