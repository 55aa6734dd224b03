# ruff: noqa: E501  a table reads by its lines
"""What no form can be is refused in the maker's words, the field named, fast; nothing is built for it."""

import re

import numpy as np
import pytest

from noble_clay.core.errors import MeshError, PieceError
from noble_clay.core.formats.svg import path_data_of
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.core.primitives.svg_path import nodes_of, scaled
from tests.building import part

SQUARE = [[0, 0], [10, 0], [10, 10], [0, 10]]
BOW_TIE = [[0, 0], [10, 10], [10, 0], [0, 10]]
ZIGZAG = [[i % 2, i] for i in range(10_001)]

REFUSED = [
    ("turned", {"profile": [[0, 0], [8, 10], [8, 0], [0, 10]]}, "profile must not cross or touch itself; it does near (4"),
    ("turned", {"profile": [[0, 0], [-3, 5], [0, 9]]}, "must be at least 0 (found -3)"),
    ("turned", {"profile": [[5, 0], [0, 5], [5, 10]]}, "profile must not touch the axis between its ends; it does at height 5"),
    ("turned", {"profile": [[10, 0], [0.1, 10], [0.1, 30], [10, 40]], "smooth": True}, "profile must not cross the axis"),
    ("turned", {"profile": [[0, 0], [0, 9]]}, "profile must leave the axis"),
    ("turned", {"profile": [[3, 4], [3, 4], [0, 9]]}, "profile must not have a point twice in a row"),
    ("turned", {"profile": [[0, 0], [5, 5], [0, 9]], "sharp": [7]}, "sharp must name points of the profile, 0 to 2"),
    ("outline", {"loops": [BOW_TIE], "height": 3}, "loops must not cross or touch itself; it does near (5 5)".replace(" 5)", ", 5)")),
    ("outline", {"loops": [SQUARE, (np.array(SQUARE) + 5).tolist()], "height": 3}, "loops must not cross"),
    ("outline", {"loops": [ZIGZAG], "height": 3}, "loops must have at most 10,000 points together; these have 10,001"),
    ("outline", {"loops": [SQUARE], "svg": "M0 0 L9 0 L0 9 Z", "height": 3}, "loops or svg must be given, and not both"),
    ("outline", {"height": 3}, "loops or svg must be given"),
    ("outline", {"svg": "M0 0 L 10", "height": 3}, "svg"),
    ("outline", {"svg": "<script>alert(1)</script>", "height": 3}, "svg is not path data"),
    ("outline", {"svg": "M0 0 L10 0", "height": 3}, "svg encloses nothing"),
    ("outline", {"svg": "M0 0" + " l1 1 l1 -1" * 6000 + "Z", "height": 3}, "svg makes over 10,000 points"),
    ("outline", {"loops": [SQUARE], "height": 10, "draft": 40}, "draft must be below 26.565°"),
    ("limb", {"points": [[0, 0, 0], [0, 0, 9]], "radii": [1]}, "radii"),
    ("limb", {"points": [[0, 0, 0], [0, 0, 9]], "radii": [1, 2, 3]}, "radii must be one for each point: 2, not 3"),
    ("limb", {"points": [[0, 0, 0], [0, 0, 0]], "radii": [1, 2]}, "points must not have the same place twice in a row"),
    ("limb", {"points": [[0, 0, 0], [0, 0, 5]], "radii": [1, 2], "closed": True}, "points of a closed limb"),
    ("lettering", {"text": "☃", "size": 5, "depth": 1}, "'☃' (U+2603, snowman), which the font rubik does not have"),
    ("lettering", {"text": "a\nb", "size": 5, "depth": 1}, "text has '\\n'"),
    ("lettering", {"text": "   ", "size": 5, "depth": 1}, "text must have a letter that can be seen"),
    ("lettering", {"text": "long enough", "size": 9, "depth": 1, "ring_radius": 3}, "ring_radius must be at least"),
    ("paddle", {"length": 9, "width": 10, "height": 1}, "length must be no less than the width, 10 mm"),
    ("drop", {"length": 9, "width": 10, "height": 1}, "length must be no less than the width, 10 mm"),
    ("crescent", {"radius": 5, "bite_radius": 20, "offset": 3, "height": 1}, "bite_radius must be below 7.999 mm"),
    ("crescent", {"radius": 5, "bite_radius": 2, "offset": 9, "height": 1}, "offset must be below 6.999 mm"),
    ("crescent", {"radius": 5, "bite_radius": 2, "offset": 3, "height": 1}, "the bite would touch the rim in a point"),
    ("gear", {"teeth": 3, "module": 2, "height": 4}, "teeth: must be at least 6"),
    ("gear", {"teeth": 12, "module": 2, "height": 4, "bore": 9.6}, "bore must be below the root radius, 9.5 mm"),
    ("gear", {"teeth": 12, "module": 2, "height": 4, "backlash": 4}, "backlash must be below the tooth's thickness"),
    ("gear", {"teeth": 6, "module": 2, "height": 4, "pressure_angle": 38}, "pressure_angle must be less, or more teeth"),
    ("thread", {"diameter": 10, "pitch": 9.5, "turns": 2}, "pitch must be below 9.2366 mm, or no core is left"),
    ("ball_joint", {"ball_radius": 5, "neck": 4.9, "clearance": 0.2, "half": "ball"}, "neck must be at most"),
    ("ball_joint", {"ball_radius": 5, "neck": 2, "clearance": 3, "half": "socket"}, "clearance must be below"),
    ("cells", {"size": [30, 30, 5], "count": 100_000, "gap": 1, "seed": 1}, "count: must be at most 5,000"),
    ("cells", {"size": [30, 30, 5], "count": 4_000, "gap": 1, "seed": 1, "in_space": True}, "count must be at most 1,000 in space"),
    ("cells", {"size": [30, 30, 5], "count": 900, "gap": 9, "seed": 1}, "gap must be narrower: at 9 mm no cell is left"),
    ("bricks", {"size": [40, 5, 30], "brick": [2, 1], "mortar": 1.5, "depth": 1, "bond": "stack"}, "mortar must be narrower"),
    ("bricks", {"size": [40, 5, 30], "brick": [9, 4], "mortar": 1, "depth": 5, "bond": "stack"}, "depth must be below the wall's own"),
    ("bricks", {"size": [999, 5, 999], "brick": [2, 1], "mortar": 0.5, "depth": 1, "bond": "stack"}, "a wall has at most 20,000"),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "fields", "words"), REFUSED, ids=[f"{k}: {w[:40]}" for k, _, w in REFUSED])
def test_it_is_refused_in_words(kind, fields, words):
    values = {"format": "noble-clay-piece", "version": 1, "name": "Refused", "parts": [part("it", kind, **fields)]}
    with pytest.raises(PieceError) as refused:
        piece_from_values(values)
    problem = refused.value.problems[0]
    assert problem.part == "it"
    assert words in f"{problem.field}: {problem.message}" or words in str(refused.value), str(refused.value)


def test_a_thread_of_a_metre_is_refused_by_its_triangles_before_it_is_cut():
    fine = part("it", "thread", diameter=5, pitch=0.01, turns=100_000)
    values = {"format": "noble-clay-piece", "version": 1, "name": "Fine", "parts": [fine]}
    with pytest.raises(PieceError, match="over 10,000,000 triangles"):
        piece_from_values(values)


def test_a_limb_that_runs_through_itself_is_one_sound_solid():
    knot = [[0, 0, 0], [10, 0, 0], [10, 10, 0], [5, 4, 0], [5, -8, 1]]
    for smooth in (False, True):
        form = PRIMITIVES["limb"].model_validate(
            {"kind": "limb", "points": knot, "radii": [2, 2, 2.5, 2, 1], "smooth": smooth, "facets": 24}
        )
        found = inspect_mesh(form.mesh())
        assert (found.manifold, found.bodies, found.findings) == (True, 1, ())


def svg(inside, head=""):
    return f'{head}<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">{inside}</svg>'.encode()


def test_a_drawing_is_taken_in_where_it_stands_with_y_upward():
    found = nodes_of(
        path_data_of(svg('<g transform="translate(10 0)"><rect x="5" y="20" width="30" height="10"/></g>'))
    )
    corners = {(round(n.x, 6), round(n.y, 6)) for n in found[0]}
    assert corners == {(15, -20), (45, -20), (45, -30), (15, -30)}
    circle = nodes_of(path_data_of(svg('<circle cx="0" cy="0" r="5"/><path d="M20 0 h4 v4 z"/>')))
    assert len(circle) == 2 and len(circle[0]) == 4


BILLION = (
    "<!DOCTYPE lolz [" + "".join(f'<!ENTITY l{i} "{f"&l{i - 1};" * 10 if i else "lol"}">' for i in range(9)) + "]>"
)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (svg("&l8;", BILLION), "entities of its own"),
        (b"not a drawing at all", "no SVG drawing"),
        (svg("<text>hello</text>"), "no shape with an outline"),
        (svg("<script>fetch('http://example.org')</script>"), "no shape with an outline"),
        (svg('<image href="http://example.org/x.png" width="9" height="9"/>'), "no shape with an outline"),
        (svg("<!-- " + "x" * 5_000_001 + " -->"), "larger than 5 MB"),
    ],
)  # fmt: skip
def test_a_drawing_that_cannot_be_taken_in_is_refused_in_words(data, words):
    with pytest.raises(MeshError, match=re.escape(words)):
        path_data_of(data)


def test_path_data_is_scaled_with_its_flags_as_they_are():
    small = PRIMITIVES["outline"].model_validate(
        {"kind": "outline", "svg": "M0 0a7 4 30 10 8 3l-3-4Q9,9,0 0z", "height": 1}
    )
    large = small.stretched((3, 3, 3))
    assert large.svg == scaled(small.svg, 3)
    assert large.bounds() == pytest.approx(small.bounds() * 3, rel=1e-6)
