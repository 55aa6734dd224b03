"""A disk without room: told as that, in words, and nobody else hears of it."""

import os

import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.jobs.kinds.base import INPUT
from noble_clay.jobs.kinds.found_meshes import MESH
from noble_clay.jobs.limited import in_limits
from noble_clay.solvers.operations import OPERATIONS
from noble_clay.solvers.process import _answer
from noble_clay.solvers.solver import Solver
from tests.building import box, piece
from tests.damage import primitive

FULL = "/dev/full"
"""The system's own file that never has room."""


def test_a_job_that_cannot_write_what_it_made_says_why(tmp_path):
    (tmp_path / INPUT).write_bytes(stl_bytes(primitive("sphere", radius=10, facets=32), "m"))
    (tmp_path / MESH).symlink_to(FULL)
    with pytest.raises(MeshError, match="no room left on the disk"):
        in_limits("bring_in", tmp_path, {"ending": "stl"}, lambda share, step: True)


@pytest.mark.usefixtures("server")
def test_a_step_that_cannot_be_shown_for_want_of_room_says_why_and_can_be_asked_again(tmp_path):
    document = piece(box("a", (0, 0, 5), (10, 10, 10))).dump()
    key = OPERATIONS["show"](Solver(tmp_path / "elsewhere"), "p", document)["result"]["key"]
    folder = tmp_path / "full" / key[:2]
    folder.mkdir(parents=True)
    waiting = folder / f".{key}.mesh.{os.getpid()}"
    waiting.symlink_to(FULL)
    solver = Solver(tmp_path / "full")
    said, problems = _answer(solver, "show", ("p", document))
    assert said == "refused" and "no room left on the disk" in str(problems[0])
    assert not solver.files.has(key), "what is not whole is not there"
    assert not waiting.is_symlink(), "nor is what was begun"
    said, scene = _answer(solver, "show", ("p", document))
    assert said == "done" and scene["soundness"]["sound"] and solver.files.has(key)
