"""Volumes, areas and centroids of every primitive against closed forms, and classic solids made by joins.

Facet error: an inscribed mesh with n sides is short of the true value by a term in 1/n². Meshes with n and 2n sides are
extrapolated (Richardson), which leaves the term in 1/n⁴.
"""

import math
from pathlib import Path

import numpy as np
import pytest

from noble_clay.core.mesh.mass import areas, centroid, volume
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import evaluated, part

PI = math.pi


def measures(kind, fields):
    mesh = PRIMITIVES[kind].model_validate({"kind": kind, **fields}).mesh()
    return np.array([volume(mesh), areas(mesh).sum(), centroid(mesh)[2]])


def extrapolated(kind, fields, facets=96):
    """Volume, area and height of the centroid as the number of sides goes to infinity."""
    if "facets" not in PRIMITIVES[kind].model_fields:
        return measures(kind, fields)

    def at(n):
        more = {"tube_facets": n} if kind == "torus" else {}
        edge = {"edge": {**fields["edge"], "segments": n // 8}} if "edge" in fields else {}
        return measures(kind, {**fields, "facets": n, **more, **edge})

    return (4 * at(2 * facets) - at(facets)) / 3


def ellipsoid_area(a, b, c):
    """By quadrature of the parametrised surface; value from no table."""
    u, w = np.polynomial.legendre.leggauss(200)
    theta, phi = (u + 1) * PI / 2, (u + 1) * PI
    s, t = np.sin(theta)[:, None], np.cos(theta)[:, None]
    cp, sp = np.cos(phi)[None], np.sin(phi)[None]
    density = s * np.sqrt((b * c * s * cp) ** 2 + (a * c * s * sp) ** 2 + (a * b * t) ** 2)
    return float((w[:, None] * w[None] * density).sum() * PI / 2 * PI)


def half_spheroid_area(a, c):
    """Lateral area of half a spheroid of equatorial radius a and half height c (value from memory)."""
    if c > a:
        e = math.sqrt(1 - a * a / (c * c))
        return PI * a * a + PI * a * c / e * math.asin(e)
    e = math.sqrt(1 - c * c / (a * a))
    return PI * a * a + PI * c * c / e * math.atanh(e)


def frustum(r, q, h):
    """Volume, lateral area and centroid over the base of a cone frustum (any mechanics handbook, value from memory)."""
    total = PI * h / 3 * (r * r + r * q + q * q)
    return total, PI * (r + q) * math.hypot(h, r - q), h / 4 * (r * r + 2 * r * q + 3 * q * q) / (r * r + r * q + q * q)


def polygon(n, r):
    """Area and side of a regular polygon by its circumradius (common practice)."""
    return n / 2 * r * r * math.sin(2 * PI / n), 2 * r * math.sin(PI / n)


HEX, HEX_SIDE = polygon(6, 5)
PARABOLOID_AREA = PI * 4 / (6 * 9**2) * ((4**2 + 4 * 9**2) ** 1.5 - 4**3)
EGG_LOW, EGG_HIGH = 15 * 1.25, 15 * 0.75
STAR_EDGE = math.hypot(7 - 3 * math.cos(PI / 5), 3 * math.sin(PI / 5))

# Source of each: solid geometry as in any table (value from memory) unless said otherwise.
CLOSED_FORMS = [
    ("box", {"size": [3, 4, 5]}, 60, 94, 0),
    ("sphere", {"radius": 7}, 4 / 3 * PI * 343, 4 * PI * 49, 0),
    ("ellipsoid", {"radii": [6, 4, 3]}, 4 / 3 * PI * 72, ellipsoid_area(6, 4, 3), 0),
    ("dome", {"radius": 8}, 2 / 3 * PI * 512, 3 * PI * 64, 3 / 8 * 8 - 4),  # centroid at 3r/8: Archimedes
    ("cylinder", {"radius": 3, "height": 8}, PI * 72, 2 * PI * 9 + 2 * PI * 24, 0),
    ("cone", {"bottom_radius": 5, "height": 12}, PI * 100, PI * 25 + PI * 65, 3 - 6),
    (
        "cone",
        {"bottom_radius": 5, "top_radius": 2, "height": 4},
        frustum(5, 2, 4)[0],
        frustum(5, 2, 4)[1] + PI * 29,
        frustum(5, 2, 4)[2] - 2,
    ),
    ("cone", {"bottom_radius": 0, "top_radius": 5, "height": 12}, PI * 100, PI * 25 + PI * 65, 3),
    ("tube", {"radius": 6, "wall": 2, "height": 5}, PI * 20 * 5, 2 * PI * 20 + 2 * PI * 10 * 5, 0),
    ("torus", {"ring_radius": 9, "tube_radius": 2}, 2 * PI**2 * 9 * 4, 4 * PI**2 * 18, 0),  # Pappus
    ("capsule", {"radius": 3, "length": 14}, 4 / 3 * PI * 27 + PI * 9 * 8, 4 * PI * 9 + 2 * PI * 3 * 8, 0),
    # Two half ellipsoids; the centroid of each is 3/8 of its height from the widest circle.
    (
        "egg",
        {"width": 20, "height": 30, "bias": -0.25},
        PI * 400 * 30 / 6,
        half_spheroid_area(10, EGG_LOW) + half_spheroid_area(10, EGG_HIGH),
        (EGG_HIGH**2 - EGG_LOW**2) * 3 / 8 / 30 + 3.75,
    ),
    ("paraboloid", {"radius": 4, "height": 9}, PI * 16 * 9 / 2, PARABOLOID_AREA + PI * 16, 3 - 4.5),
    ("wedge", {"size": [2, 3, 4]}, 12, 6 + 8 + 12 + 2 * 5, 4 / 3 - 2),
    ("gable", {"size": [5, 6, 4]}, 60, 30 + 24 + 2 * 5 * 5, 4 / 3 - 2),
    ("prism", {"sides": 6, "radius": 5, "height": 7}, HEX * 7, 2 * HEX + 6 * HEX_SIDE * 7, 0),
    (
        "pyramid",
        {"sides": 6, "radius": 5, "height": 9},
        HEX * 3,
        HEX + 3 * HEX_SIDE * math.hypot(9, 5 * math.cos(PI / 6)),
        9 / 4 - 4.5,
    ),
    (
        "star",
        {"points": 5, "radius": 7, "inner_radius": 3, "height": 2},
        2 * 5 * 21 * math.sin(PI / 5),
        10 * 21 * math.sin(PI / 5) + 20 * STAR_EDGE,
        0,
    ),
]


@pytest.mark.parametrize(("kind", "fields", "true_volume", "true_area", "true_height"), CLOSED_FORMS)
def test_volume_area_and_centroid(kind, fields, true_volume, true_area, true_height):
    found_volume, found_area, found_height = extrapolated(kind, fields)
    assert found_volume == pytest.approx(true_volume, rel=2e-6)
    assert found_area == pytest.approx(true_area, rel=1e-4)
    assert found_height == pytest.approx(true_height, abs=1e-4)


def test_every_primitive_is_measured_from_outside():
    elsewhere = Path(__file__).with_name("test_forms.py").read_text()
    rest = set(PRIMITIVES) - {case[0] for case in CLOSED_FORMS}
    assert all(f'made("{kind}"' in elsewhere for kind in rest)


def test_filleted_and_chamfered_box():
    """Rounded box: V = abc + 2r(ab+bc+ca) + πr²(a+b+c) + 4/3πr³ over the inner block a, b, c (Steiner's formula)."""
    a, b, c, r = 8, 6, 4, 2
    rounded = a * b * c + 2 * r * (a * b + b * c + c * a) + PI * r * r * (a + b + c) + 4 / 3 * PI * r**3
    coarse, fine = (
        measures("box", {"size": [12, 10, 8], "edge": {"kind": "fillet", "size": 2, "segments": n}})[0]
        for n in (24, 48)
    )
    assert (4 * fine - coarse) / 3 == pytest.approx(rounded, rel=1e-6)
    # Each edge loses half a square prism of its inner length, each corner 5/6 of a small cube.
    chamfered = 12 * 10 * 8 - 4 * (a + b + c) * r * r / 2 - 8 * 5 / 6 * r**3
    assert measures("box", {"size": [12, 10, 8], "edge": {"kind": "chamfer", "size": 2}})[0] == pytest.approx(chamfered)


def test_filleted_and_chamfered_cylinder_and_tube():
    """By Pappus: what an edge loses is its cross-section times the way of its centroid."""
    r, s = 10, 2
    lost = PI * 2 * (r * s * s / 2 - s**3 / 6)
    found = extrapolated("cylinder", {"radius": r, "height": 8, "edge": {"kind": "chamfer", "size": s}})[0]
    assert found == pytest.approx(PI * r * r * 8 - 2 * lost, rel=1e-6)
    # A cylinder with fillets of half its height is a quarter-torus rim around a disc: disc, half torus (Pappus).
    full = extrapolated("cylinder", {"radius": r, "height": 8, "edge": {"kind": "fillet", "size": 3.9999}})[0]
    rim = PI * 16 / 2 * 2 * PI * (6 + 4 * 4 / (3 * PI))
    assert full == pytest.approx(PI * 36 * 8 + rim, rel=1e-4)
    ring = extrapolated("tube", {"radius": r, "wall": 4, "height": 8, "edge": {"kind": "chamfer", "size": 1}})[0]
    inner_lost = PI * 2 * (6 * 0.5 + 1 / 6)
    outer_lost = PI * 2 * (10 * 0.5 - 1 / 6)
    assert ring == pytest.approx(PI * (100 - 36) * 8 - 2 * (inner_lost + outer_lost), rel=1e-6)


def joined(*parts):
    return evaluated(*parts).inspection.volume


def test_the_napkin_ring():
    """A sphere of any size bored through to height h leaves πh³/6 (classic; value from memory)."""
    for radius in (5, 9):
        bore = math.sqrt(radius**2 - 9)
        ball = part("a", "sphere", radius=radius, facets=256)
        hole = part("b", "cylinder", radius=bore, height=3 * radius, facets=256, op="difference")
        assert joined(ball, hole) == pytest.approx(PI * 6**3 / 6, rel=5e-3)


def test_two_and_three_crossing_cylinders():
    """Steinmetz: two equal cylinders at right angles share 16r³/3, three 8(2−√2)r³ (value from memory)."""
    rods = [
        part(name, "cylinder", None, turn, op=op, radius=5, height=30, facets=360)
        for name, turn, op in (
            ("a", (0, 0, 0), "union"),
            ("b", (90, 0, 0), "intersection"),
            ("c", (0, 90, 0), "intersection"),
        )
    ]
    assert joined(*rods[:2]) == pytest.approx(16 * 125 / 3, rel=3e-4)
    assert joined(*rods) == pytest.approx(8 * (2 - math.sqrt(2)) * 125, rel=3e-4)


def test_the_lens_of_two_spheres():
    """V = π(R+r−d)²(d²+2dr−3r²+2dR+6rR−3R²)/(12d) (Weisstein, Sphere-Sphere Intersection; value from memory)."""
    R, r, d = 6, 4, 7
    true = PI * (R + r - d) ** 2 * (d * d + 2 * d * r - 3 * r * r + 2 * d * R + 6 * r * R - 3 * R * R) / (12 * d)
    lens = joined(
        part("a", "sphere", radius=R, facets=256),
        part("b", "sphere", (d, 0, 0), op="intersection", radius=r, facets=256),
    )
    assert lens == pytest.approx(true, rel=2e-3)


def test_a_spherical_cap():
    """V = πh²(3r−h)/3 (value from memory)."""
    cap = joined(
        part("a", "sphere", radius=10, facets=256), part("b", "box", (0, 0, 17), op="intersection", size=[40, 40, 20])
    )
    assert cap == pytest.approx(PI * 9 * 27 / 3, rel=2e-3)


def test_an_octagonal_bar_from_two_boxes():
    """A regular octagon of width s has the area 2(√2−1)s² (common practice)."""
    turned = part("b", "box", None, (0, 0, 45), "intersection", size=[10, 10, 4])
    octagon = 2 * (math.sqrt(2) - 1) * 100
    assert joined(part("a", "box", size=[10, 10, 4]), turned) == pytest.approx(octagon * 4, rel=1e-9)


def test_a_bored_bead():
    """A bead bored 2 mm in a 20 mm cube (rule of the trade, common practice)."""
    bead = evaluated(
        part("a", "box", size=[20, 20, 20]), part("b", "cylinder", op="difference", radius=1, height=30, facets=64)
    ).inspection
    section = 32 * math.sin(2 * PI / 64)
    assert bead.volume == pytest.approx(8000 - section * 20)
    assert bead.genus == 1
