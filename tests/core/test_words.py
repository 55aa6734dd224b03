"""Whatever can be found, needed or done has a name for the maker."""

from typing import get_args

from noble_clay.core.mend import mend_place, plan
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.severity import SEVERITY, MeshFlaw
from noble_clay.core.needs.need import SEVERITY as NEED_SEVERITY
from noble_clay.core.needs.need import Kind
from noble_clay.core.words import KINDS, STEPS
from tests.damage import DAMAGES, damaged, primitive


def test_every_kind_has_a_name_and_a_severity():
    assert set(KINDS) == {*get_args(MeshFlaw), *get_args(Kind)}
    assert set(SEVERITY) == set(get_args(MeshFlaw))
    assert set(NEED_SEVERITY) == set(get_args(Kind))
    assert all(words["title"] and words["about"].endswith(".") for words in KINDS.values())


def test_every_step_that_a_report_names_has_words():
    ball = primitive("sphere", radius=8, facets=24)
    done = set()
    for damage in DAMAGES.values():
        mesh = damaged(ball, damage)
        for found in inspect_mesh(mesh).findings:
            assert found.kind in KINDS
        _, report = plan.mend(mesh, plan.RepairOptions(resolution_mm=1.0, bodies="bridge"))
        done |= {step.step for step in report.steps}
    assert done <= set(STEPS)
    assert {"close_holes", "orient", "resurface"} <= done
    for steps in mend_place.KIND_STEPS.values():
        assert {step.__name__ for step in steps} <= set(STEPS)
