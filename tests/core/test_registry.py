"""Kinds: each imported when it is used, told apart in words, and none there twice."""

import subprocess
import sys
from typing import Annotated, Any, Literal

import pytest
from pydantic import BaseModel, TypeAdapter, ValidationError

from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.primitives.box import Box
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.core.registry import Kinds, KnownLater, any_of

EAGER = TypeAdapter(any_of(PRIMITIVES.values()))
LATER = TypeAdapter(Annotated[Any, KnownLater(PRIMITIVES)])


@pytest.mark.parametrize("kinds", [PRIMITIVES, CHANGES], ids=["primitives", "changes"])
def test_each_class_is_of_the_kind_it_is_listed_as(kinds):
    assert [cls.model_fields["kind"].annotation for cls in kinds.values()] == [Literal[kind] for kind in kinds]
    assert len(kinds) == len(set(kinds))


@pytest.mark.parametrize(
    "value",
    [
        {"kind": "box", "size": [1, 2, -3]},
        {"kind": "box", "size": "wide", "colour": 1},
        {"kind": "box"},
        {"kind": "blob", "radius": 1},
        {"kind": ["box"]},
        {"kind": 3},
        {"kind": None},
        {"size": [1, 1, 1]},
        [],
        "box",
        None,
    ],
)
def test_a_refusal_is_that_of_the_whole_union(value):
    with pytest.raises(ValidationError) as later:
        LATER.validate_python(value)
    with pytest.raises(ValidationError) as eager:
        EAGER.validate_python(value)

    def told(error, kind):
        return [(e["type"], e["msg"], tuple(p for p in e["loc"] if p != kind)) for e in error.value.errors()]

    assert told(later, "box") == told(eager, "box")


def test_what_is_read_is_written_alike():
    values = {"kind": "box", "size": [1, 2, 3]}
    box = LATER.validate_python(values)
    assert isinstance(box, Box) and LATER.validate_python(box) is box
    assert LATER.dump_json(box, exclude_defaults=True) == EAGER.dump_json(box, exclude_defaults=True)
    assert LATER.json_schema() == EAGER.json_schema()


def test_a_box_is_read_without_all_the_other_forms():
    code = (
        "import sys; from noble_clay.core.piece.read import piece_from_values;"
        "piece_from_values({'format': 'noble-clay-piece', 'version': 1, 'name': 'x', 'parts':"
        " [{'id': 'b', 'name': 'b', 'primitive': {'kind': 'box', 'size': [1, 1, 1]}}]});"
        "print([m for m in ('box', 'thread', 'gear', 'cells') if f'noble_clay.core.primitives.{m}' in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "['box']"


def test_a_kind_that_is_there_already_is_refused(monkeypatch):
    class Other(BaseModel):
        kind: Literal["box"]

    monkeypatch.setattr("noble_clay.core.registry.extended", lambda name, own: [Other])
    with pytest.raises(ValueError, match="two classes are of the kind box"):
        Kinds("noble_clay.core.primitives", "PRIMITIVES", ["box"])
