"""What flaws, needs and mending steps are called, and what they do to a print; for reports and for the page."""

from __future__ import annotations

from typing import TypedDict


class KindWords(TypedDict):
    title: str
    about: str


KINDS: dict[str, KindWords] = {
    "open_edges": {"title": "Cracks", "about": "A slicer cannot tell what is inside."},
    "overshared_edges": {
        "title": "Overshared edges",
        "about": "More than two faces meet: walls fuse there, or one is lost.",
    },
    "pinched_vertices": {
        "title": "Pinches",
        "about": "Surfaces meet in a single point, which no printer can make.",
    },
    "flipped_faces": {
        "title": "Inside-out faces",
        "about": "Turned against their neighbours: they print as holes.",
    },
    "inside_out_bodies": {
        "title": "Inside-out bodies",
        "about": "Solid where it should be hollow, or the other way round.",
    },
    "degenerate_faces": {"title": "Slivers", "about": "Triangles without area: trouble for other programs only."},
    "duplicate_faces": {"title": "Doubles", "about": "Triangles that lie on others: a slicer counts them twice."},
    "self_intersections": {
        "title": "Tangles",
        "about": "The surface runs through itself: inner walls, and a wrong volume.",
    },
    "loose_bodies": {"title": "Loose bodies", "about": "Apart from the rest: it would fall off, or lie inside."},
    "loose_body": {"title": "Loose bodies", "about": "Apart from the rest: the print comes in pieces."},
    "crumb": {"title": "Crumbs", "about": "Under 1 mm³ and apart: it falls off, or is lost."},
    "touching": {"title": "Parts that only touch", "about": "No overlap: a weak seam, and easily a gap."},
    "pinched": {
        "title": "Pinches",
        "about": "Parts meet only in an edge or a point, which no printer can make.",
    },
    "thin_wall": {
        "title": "Walls of nothing",
        "about": "Thinner than half a line of a common nozzle: left out of the print, or torn.",
    },
    "almost_flush": {
        "title": "Almost flush",
        "about": "A step too low for any layer, and a strip of slivers in the mesh.",
    },
}
"""By kind: of findings in a mesh (`mend.severity`), then of needs of a joined piece (`needs.need`)."""

STEPS: dict[str, str] = {
    "inspect": "Looking it over",
    "weld": "Weld points that lie together",
    "drop_useless": "Drop triangles that enclose nothing",
    "zip_cracks": "Zip cracks together",
    "turn_slivers": "Turn slivers",
    "orient": "Turn faces outward",
    "drop_crumbs": "Drop crumbs",
    "drop_body": "Drop a loose body",
    "drop_inner": "Drop inner walls",
    "separate": "Part what only touches",
    "thicken": "Give sheets a wall",
    "close_holes": "Close holes",
    "mend_shells": "Untangle each shell",
    "unite": "Unite bodies that meet",
    "draw_apart": "Draw apart what lies on itself",
    "untangle": "Untangle into one skin",
    "patch_over": "Patch the last crossings over",
    "steady": "Part what is sound by hairs only",
    "resurface": "Resurface",
    "bridge": "Bridge to the largest body",
    "keep_largest": "Keep the largest body only",
}
"""By the name that a step has in reports."""

GLAZES: dict[str, str] = {
    "Bone": "#e9dfc9",
    "Shino": "#e2b08a",
    "Celadon": "#a9c4ae",
    "Lichen": "#8f9a5b",
    "Copper": "#c9683f",
    "Oxblood": "#8c2f2b",
    "Rutile": "#c99a4b",
    "Tenmoku": "#4a2f24",
    "Cobalt": "#2f4f86",
    "Ash": "#9a9c97",
    "Slip": "#f4f1ea",
    "Kiln black": "#26282a",
}
"""The named palette."""
