"""What a solver can be asked: a function each, by name. It takes the solver and plain values, and gives such values."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from noble_clay.solvers.operations.dragging import draft
from noble_clay.solvers.operations.joining import allow, baked, facts, marks
from noble_clay.solvers.operations.laying import lie, steadyings
from noble_clay.solvers.operations.measuring import spot
from noble_clay.solvers.operations.needing import needs
from noble_clay.solvers.operations.picturing import cut_face, pictured, skin
from noble_clay.solvers.operations.placing import adjust, around, face, spot_beside, spot_on, standing
from noble_clay.solvers.operations.showing import adopt, count, outline, show
from noble_clay.solvers.operations.taking import asset_key, export

OPERATIONS: dict[str, Callable[..., Any]] = {
    function.__name__: function
    for function in (
        show,
        outline,
        count,
        adopt,
        draft,
        spot_beside,
        spot_on,
        standing,
        lie,
        steadyings,
        around,
        adjust,
        face,
        facts,
        allow,
        baked,
        marks,
        needs,
        export,
        asset_key,
        pictured,
        skin,
        cut_face,
        spot,
    )
}
"""A new one is a function and one line here; what is asked names it."""
