"""What the core imports only when it is used, because it takes long to load: for a process to load beforehand from
which others are forked, so that none of them waits for it.
"""

from __future__ import annotations

HEAVY = (
    "igl",
    "lib3mf",
    "trimesh",
    "noble_clay.core.field.even",
    "noble_clay.core.field.key_table",
    "noble_clay.core.evaluate.blends",
    "noble_clay.core.field.sampled",
    "noble_clay.core.warm",
    "noble_clay.core.kept_loops",  # last: it reads those of all the others
)
