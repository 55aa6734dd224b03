"""The kinds of flaw in a mesh, and how much each matters to a print."""

from __future__ import annotations

from typing import Literal

Severity = Literal["breaks", "spoils", "harmless"]
"""breaks: no slicer can tell what is solid (a mesh is no closed manifold), or the piece comes apart. spoils: it prints,
but not as it looks.
"""

MeshFlaw = Literal[
    "open_edges",
    "overshared_edges",
    "pinched_vertices",
    "flipped_faces",
    "inside_out_bodies",
    "duplicate_faces",
    "self_intersections",
    "loose_bodies",
    "degenerate_faces",
]
"""The kinds of finding in a mesh, as the piece format names them."""

SEVERITY: dict[MeshFlaw, Severity] = {
    "open_edges": "breaks",
    "overshared_edges": "breaks",
    "pinched_vertices": "breaks",
    "flipped_faces": "breaks",
    "inside_out_bodies": "breaks",
    "duplicate_faces": "breaks",
    "self_intersections": "spoils",
    "loose_bodies": "spoils",
    "degenerate_faces": "harmless",
}
