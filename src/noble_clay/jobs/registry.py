"""All kinds of job: a new one is a new file in `kinds` and one line here; queue, worker, API and page follow."""

from __future__ import annotations

from noble_clay.core.registry import extended
from noble_clay.jobs.kinds.base import JobKind
from noble_clay.jobs.kinds.bring_in import BringIn
from noble_clay.jobs.kinds.cut_apart import CutApart
from noble_clay.jobs.kinds.divide import DivideByGlaze
from noble_clay.jobs.kinds.inspect_mesh import InspectMesh
from noble_clay.jobs.kinds.making_of import MakingOf
from noble_clay.jobs.kinds.mend import Mend
from noble_clay.jobs.kinds.orient import Orient
from noble_clay.jobs.kinds.plate import TakeOutPlate
from noble_clay.jobs.kinds.print_check import CheckPrint
from noble_clay.jobs.kinds.rehearse import Rehearse
from noble_clay.jobs.kinds.turntable import TakeTurntable

KINDS = [
    BringIn,
    InspectMesh,
    Mend,
    Rehearse,
    CheckPrint,
    Orient,
    CutApart,
    TakeOutPlate,
    DivideByGlaze,
    MakingOf,
    TakeTurntable,
]
JOBS: dict[str, JobKind] = {cls.kind: cls() for cls in extended("JOBS", KINDS)}
"""By kind."""
