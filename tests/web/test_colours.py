"""Every triangle of a shown skin keeps its part, whatever was evaluated before and by whichever solver."""

import struct
import uuid

import numpy as np
import pytest

from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.solvers.operations.showing import show
from noble_clay.solvers.solver import Solver
from tests.building import box, piece

PLACES = {"a": (0, 0, 0), "b": (8, 0, 0), "c": (0, 8, 0), "d": (0, 0, 8), "e": (-8, 0, 0)}
ROW = piece(*(box(name, at, (10, 6, 6)) for name, at in PLACES.items()))


def middles(folder, result):
    """Where the triangles of each part are on average, as the page would find out."""
    data = next(folder.rglob(f"{result['key']}.mesh")).read_bytes()
    vertices, triangles, _ = struct.unpack("<III", data[4:16])
    points = np.frombuffer(data, "<f4", 3 * vertices, 16).reshape(-1, 3)
    corners = np.frombuffer(data, "<u4", 3 * triangles, 16 + 12 * vertices).reshape(-1, 3)
    part_of = np.frombuffer(data, "<u4", triangles, 16 + 12 * (vertices + triangles))
    return {result["parts"][p]: points[corners[part_of == p]].mean(axis=(0, 1)) for p in np.unique(part_of)}


@pytest.mark.parametrize("moved", list("abcde"))
def test_a_skin_found_under_its_key_is_told_of_the_same_parts(server, tmp_path, moved):
    first, second = Solver(tmp_path), Solver(tmp_path)
    edit = edit_from_values({"kind": "move", "ids": [moved], "by": [0, 0, 0.5]})
    after = apply(ROW, edit).piece
    name = uuid.uuid4().hex
    show(first, name, ROW.dump())
    whole = show(first, name, after.dump())["result"]  # the others of the list are united first from now on
    again = apply(after, edit_from_values({"kind": "move", "ids": [moved], "by": [0, 0, -0.25]})).piece
    show(first, name, again.dump())
    found = show(second, name, again.dump())["result"]
    assert found["parts"] == whole["parts"] == sorted(PLACES)
    for part, middle in middles(tmp_path, found).items():
        assert np.linalg.norm(middle - PLACES[part]) < 6, f"{part} is where {middle} is"
