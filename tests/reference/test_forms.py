"""The drawn, flat and fitted forms against geometry worked out another way; the source of each stands with it."""

import math
from importlib.resources import files

import igl
import numpy as np
import pytest
import shapely
import trimesh
from fontTools.pens.areaPen import AreaPen
from fontTools.ttLib import TTFont

from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.primitives.registry import PRIMITIVES


def made(kind, **fields):
    return PRIMITIVES[kind].model_validate({"kind": kind, **fields}).mesh()


def as_trimesh(mesh):
    return trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)


def volume(mesh):
    return as_trimesh(mesh).volume


def section(mesh, normal, origin=(0, 0, 0)):
    """The cut through a mesh as a shapely area, in two of its own coordinates."""
    kept = [i for i in range(3) if normal[i] == 0]
    lines = trimesh.intersections.mesh_plane(as_trimesh(mesh), normal, origin)[:, :, kept].round(9)
    lines = lines[np.any(lines[:, 0] != lines[:, 1], axis=1)]
    merged = shapely.line_merge(shapely.MultiLineString(list(lines)))
    area = shapely.Polygon()
    for line in getattr(merged, "geoms", [merged]):
        area = area.symmetric_difference(shapely.Polygon(line))
    return area


def away_from(mesh, points):
    """Signed distances, below 0 inside, by libigl."""
    return igl.signed_distance(np.ascontiguousarray(points), mesh.vertices, mesh.triangles)[0]


PROFILES = {
    "a vase, to the axis at both ends": [[0, 0], [9, 0], [12, 6], [5, 16], [8, 22]],
    "a ring": [[8, 0], [11, 0], [11, 4], [9, 6], [8, 0]],
    "a bowl with a lip that hangs over": [
        [0, 0],
        [6, 0],
        [10, 8],
        [13, 8],
        [13, 6],
        [14, 6],
        [14, 10],
        [9, 10],
        [5, 1],
        [0, 1],
    ],
}


@pytest.mark.parametrize("name", PROFILES)
@pytest.mark.parametrize("angle", [360, 90, 200])
def test_a_turned_profile_has_the_volume_of_pappus_less_what_the_facets_cut_off(name, angle):
    """Pappus' second theorem (common practice): area times the way of its centroid; an inscribed polygon of n sides has
    n / 2π · sin(2π / n) of the circle's area."""
    points = np.array(PROFILES[name], dtype=float)
    closed = (points[0] == points[-1]).all()
    ring = points if closed else np.concatenate([[[0, points[0, 1]]], points, [[0, points[-1, 1]]]])
    area = shapely.Polygon(ring)
    facets = 48
    steps = facets if angle == 360 else math.ceil(facets * angle / 360)
    step = math.radians(angle) / steps
    pappus = math.radians(angle) * area.centroid.x * area.area
    mesh = made("turned", profile=points.tolist(), angle=angle, facets=facets)
    assert volume(mesh) == pytest.approx(pappus * math.sin(step) / step, rel=1e-9)
    assert inspect_mesh(mesh).findings == ()


def test_a_smooth_profile_goes_through_its_points_and_leaves_the_axis_square_to_it():
    points = [[0, 0], [8, 3], [10, 10], [4, 18], [0, 20]]
    mesh = made("turned", profile=points, smooth=True, facets=64)
    on_plane = mesh.vertices[np.abs(mesh.vertices[:, 1]) < 1e-12]
    for r, z in points:
        assert np.linalg.norm(on_plane[:, [0, 2]] - [r, z - 10], axis=1).min() < 1e-9
    normals = as_trimesh(mesh).face_normals
    top = normals[as_trimesh(mesh).triangles_center[:, 2] > mesh.vertices[:, 2].max() - 0.05]
    assert len(top) and np.all(top[:, 2] > 0.9)


L_SHAPE = [[0, 0], [20, 0], [20, 8], [8, 8], [8, 24], [0, 24]]
TOOTHED = [[0, 0], [30, 0], [30, 12], [17, 12], [16, 13.5], [15, 12], [14, 12], [14, 10], [13, 10], [13, 12], [0, 12]]


@pytest.mark.parametrize(("loop", "draft"), [(L_SHAPE, 12), (L_SHAPE, -15), (TOOTHED, 4)])
def test_a_drafted_outline_has_the_volume_of_the_prismatoid_formula(loop, draft):
    """Common practice: h / 6 · (bottom + 4 · middle + top), where no side vanishes; areas by shapely's offset."""
    height = 6.0
    inset = height * math.tan(math.radians(draft))
    areas = [shapely.Polygon(loop).buffer(-inset * s, join_style="mitre", mitre_limit=1e9).area for s in (0, 0.5, 1)]
    mesh = made("outline", loops=[loop], height=height, draft=draft)
    expected = height / 6 * (areas[0] + 4 * areas[1] + areas[2])
    assert volume(mesh) == pytest.approx(expected, rel=1e-9)
    assert inspect_mesh(mesh).findings == ()


def test_a_drafted_outline_whose_sides_vanish_has_the_area_of_the_offset_at_every_height():
    """The tooth and the notch are gone at a third of the height, and the wall splits into two at two thirds."""
    hourglass = [[0, 0], [10, 0], [15, 4], [20, 0], [30, 0], [30, 12], [20, 12], [15, 8], [10, 12], [0, 12]]
    mesh = made("outline", loops=[hourglass], height=6, draft=math.degrees(math.atan(3.5 / 6)))
    assert inspect_mesh(mesh).manifold
    for share in (0.1, 0.4, 0.55, 0.7, 0.95):
        wanted = shapely.Polygon(hourglass).buffer(-3.5 * share, join_style="mitre", mitre_limit=1e9)
        found = section(mesh, (0, 0, 1), (0, 0, (share - 0.5) * 6))
        assert found.area == pytest.approx(wanted.area, rel=1e-6)


@pytest.mark.parametrize("twist", [45, -360, 1000])
def test_a_twisted_outline_keeps_its_volume(twist):
    """Cavalieri's principle (common practice): every slice is only turned."""
    hole = [[2, 2], [6, 2], [6, 6], [2, 6]]
    area = shapely.Polygon(L_SHAPE).area - 16
    mesh = made("outline", loops=[L_SHAPE, hole], height=30, twist=twist)
    assert volume(mesh) == pytest.approx(area * 30, rel=2e-3)
    assert inspect_mesh(mesh).findings == ()
    assert section(mesh, (0, 0, 1), (0, 0, 3.123)).area == pytest.approx(area, rel=5e-3)


def test_an_island_in_a_hole_is_solid_and_curves_are_followed():
    square = [[-10, -10], [10, -10], [10, 10], [-10, 10]]
    loops = [square, (np.array(square) * 0.7).tolist(), (np.array(square) * 0.3).tolist()]
    assert volume(made("outline", loops=loops, height=5)) == pytest.approx(5 * 400 * (1 - 0.49 + 0.09))
    circle = "M10 0 A10 10 0 0 1 -10 0 A10 10 0 0 1 10 0 Z m-3 0 a7 7 0 10-14 0 7 7 0 1014 0z"
    assert volume(made("outline", svg=circle, height=2)) == pytest.approx(2 * math.pi * (100 - 49), rel=2e-3)


def round_cones(points, balls):
    """Signed distance to hulls of neighbouring balls, by brute force along each bone (Ericson, common practice)."""
    shares = np.linspace(0, 1, 400)[:, None]
    best = np.full(len(points), np.inf)
    for a, b in zip(balls, balls[1:], strict=False):
        for ball in np.asarray(a) + shares * (np.asarray(b) - np.asarray(a)):
            best = np.minimum(best, np.linalg.norm(points - ball[:3], axis=1) - ball[3])
    return best


def test_a_limb_is_the_sum_of_its_round_cones():
    balls = [(0, 0, 0, 4), (3, 2, 12, 2.5), (14, -2, 16, 3), (15, -2, 16.5, 1)]
    form = PRIMITIVES["limb"].model_validate(
        {"kind": "limb", "points": [b[:3] for b in balls], "radii": [b[3] for b in balls], "facets": 96}
    )
    mesh = form.mesh()
    vertices = mesh.vertices + form.drawn_origin()
    assert np.abs(round_cones(vertices, balls)).max() < 2e-3, "on the true surface"
    random = np.random.default_rng(5)
    low, high = vertices.min(axis=0), vertices.max(axis=0)
    points = low + random.random((60_000, 3)) * (high - low)
    inside = np.count_nonzero(round_cones(points, balls) < 0) / len(points) * np.prod(high - low)
    assert volume(mesh) == pytest.approx(inside, rel=0.02)
    distance = form.form()(points[:4000] - form.drawn_origin())
    assert np.abs(np.maximum(distance, 0) - np.maximum(round_cones(points[:4000], balls), 0)).max() < 2e-3


def test_a_limb_of_two_balls_has_the_volume_of_its_cone_and_caps():
    """Closed form (common practice): a frustum between the circles where the cone touches, and two caps."""
    r1, r2, length = 5.0, 2.0, 20.0
    lean = (r1 - r2) / length
    a, b = r1 * math.sqrt(1 - lean**2), r2 * math.sqrt(1 - lean**2)
    cut = length + (r2 - r1) * lean
    frustum = math.pi * cut / 3 * (a * a + a * b + b * b)
    caps = sum(math.pi * h * h * (3 * r - h) / 3 for r, h in ((r1, r1 + r1 * lean), (r2, r2 - r2 * lean)))
    mesh = made("limb", points=[[0, 0, 0], [0, 0, length]], radii=[r1, r2], facets=128)
    assert volume(mesh) == pytest.approx(frustum + caps, rel=1.5e-3)


def test_a_smooth_limb_of_even_thickness_has_the_volume_of_pappus():
    """A ring of points on a circle: the curve is nearly that circle, so nearly a torus (Pappus)."""
    turns = np.radians(np.arange(0, 360, 15))
    points = np.column_stack([20 * np.cos(turns), 20 * np.sin(turns), 0 * turns]).tolist()
    mesh = made("limb", points=points, radii=[4] * len(points), smooth=True, closed=True, facets=64)
    assert inspect_mesh(mesh).genus == 1
    assert volume(mesh) == pytest.approx(2 * math.pi**2 * 20 * 16, rel=3e-3)


def test_flat_forms_have_their_areas():
    """Each by elementary geometry (common practice)."""
    n = {"facets": 512, "height": 1}
    assert volume(made("paddle", length=30, width=10, **n)) == pytest.approx(200 + math.pi * 25, rel=1e-4)
    wide, deep = math.sqrt(0.5) + 1, 1.5 * math.sqrt(0.5) + 0.5
    heart = (1 + math.pi / 4) * 20 / wide * 18 / deep
    assert volume(made("heart", width=20, depth=18, **n)) == pytest.approx(heart, rel=1e-4)
    r, d = 7.0, 24.0 - 7.0
    turn = math.acos(r / d)
    drop = r * r * (math.pi - turn) + r * math.sqrt(d * d - r * r)
    assert volume(made("drop", width=14, length=24, **n)) == pytest.approx(drop, rel=1e-4)
    r, b, x = 12.0, 10.0, 6.0
    a1 = r * r * math.acos((x * x + r * r - b * b) / (2 * x * r))
    a2 = b * b * math.acos((x * x + b * b - r * r) / (2 * x * b))
    lens = a1 + a2 - 0.5 * math.sqrt((-x + r + b) * (x + r - b) * (x - r + b) * (x + r + b))
    crescent = math.pi * r * r - lens
    assert volume(made("crescent", radius=r, bite_radius=b, offset=x, **n)) == pytest.approx(crescent, rel=1e-4)


def test_the_heart_is_as_the_words_say():
    """A square on its corner with half circles on its upper sides, its point to the front."""
    heart = section(
        made("heart", width=20, depth=20 / (math.sqrt(0.5) + 1) * (1.5 * math.sqrt(0.5) + 0.5), height=2), (0, 0, 1)
    )
    side = 20 / (math.sqrt(0.5) + 1)
    half = side * math.sqrt(0.5)
    point = np.array([0, heart.bounds[1]])
    square = shapely.Polygon([point, point + [half, half], point + [0, 2 * half], point + [-half, half]])
    bulges = [shapely.Point(*(point + [s * half / 2, 1.5 * half])).buffer(side / 2, quad_segs=16) for s in (-1, 1)]
    assert heart.symmetric_difference(shapely.union_all([square, *bulges])).area < 0.01 * heart.area


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("starts", [1, 3])
def test_a_thread_has_the_iso_profile(hand, starts):
    """ISO 68-1 basic profile (value from memory): H = √3/2 P, crest P/8, root P/4, flanks at 30° to the section."""
    pitch, diameter = 3.0, 16.0
    mesh = made("thread", diameter=diameter, pitch=pitch, turns=8, starts=starts, hand=hand, facets=256)
    assert volume(mesh) > 0 and inspect_mesh(mesh).findings == ()
    cut = section(mesh, (0, 1, 0))
    edge = np.array([(x, z) for x, z in cut.exterior.coords if x > 0 and abs(z) < 9])
    assert edge[:, 0].max() * 2 == pytest.approx(diameter, abs=1e-6)
    assert edge[:, 0].min() * 2 == pytest.approx(diameter - 1.0825 * pitch, abs=1e-3)

    def width(radius):
        line = shapely.LineString([(radius, -12), (radius, 12)]).intersection(cut)
        parts = [p for p in getattr(line, "geoms", [line]) if abs(p.centroid.y) < 8]
        middles = sorted(p.centroid.y for p in parts)
        return np.median([p.length for p in parts]), np.diff(middles)

    crest, gaps = width(diameter / 2 - 1e-6)
    assert crest == pytest.approx(pitch / 8, abs=1e-4)
    assert gaps == pytest.approx(pitch, abs=1e-6)
    at_pitch = diameter / 2 - 3 / 8 * math.sqrt(3) / 2 * pitch
    assert width(at_pitch)[0] == pytest.approx(pitch / 2, abs=1e-4)
    lower = width(at_pitch - 0.5)[0]
    assert math.degrees(math.atan((lower - pitch / 2) / 2 / 0.5)) == pytest.approx(30, abs=0.05)


def test_a_right_handed_thread_rises_counter_clockwise_seen_from_above():
    """Common practice: turned clockwise, it goes in."""
    mesh = made("thread", diameter=16, pitch=3, turns=4, hand="right", facets=64)
    ridge = mesh.vertices[np.hypot(*mesh.vertices[:, :2].T) > 8 - 1e-9]

    def height(degrees):
        angle = np.degrees(np.arctan2(ridge[:, 1], ridge[:, 0])) % 360
        here = ridge[np.abs(angle - degrees) < 1e-6, 2]
        return here[(here > -1) & (here < 2)].mean()

    assert height(90) - height(0) == pytest.approx(0.75, abs=1e-9)


@pytest.mark.parametrize(("teeth", "backlash", "pressure"), [(16, 0, 20), (40, 0.2, 20), (24, 0.1, 25)])
def test_a_gears_teeth_are_as_thick_at_the_pitch_circle_as_they_should(teeth, backlash, pressure):
    """Involute spur gear (ISO 53 proportions, value from memory): π m / 2 less the backlash; also by the involute's own
    equation at two other radii."""
    module = 2.0
    gear = section(
        made("gear", teeth=teeth, module=module, height=4, backlash=backlash, pressure_angle=pressure), (0, 0, 1)
    )
    pitch = module * teeth / 2
    corners = np.hypot(*np.array(gear.exterior.coords).T)
    assert corners.max() == pytest.approx(pitch + module, abs=1e-9)
    assert corners.min() == pytest.approx(pitch - 1.25 * module, abs=2e-3)
    base = pitch * math.cos(math.radians(pressure))

    def thickness(radius):
        circle = shapely.Point(0, 0).buffer(radius, quad_segs=20_000).exterior
        arcs = shapely.line_merge(circle.intersection(gear))
        return np.median([a.length for a in arcs.geoms])

    def inv(radius):
        angle = math.acos(base / radius)
        return math.tan(angle) - angle

    for radius in (pitch, pitch + 0.6 * module, pitch - 0.2 * module):
        wanted = radius * ((math.pi * module / 2 - backlash) / pitch + 2 * (inv(pitch) - inv(radius)))
        assert thickness(radius) == pytest.approx(wanted, abs=4e-3)
    assert gear.contains(shapely.Point(pitch + 0.9 * module, 0)), "a tooth's middle is on +x"


@pytest.mark.parametrize("font", ["rubik", "fraunces", "grandstander"])
def test_letters_have_the_area_of_the_fonts_own_outlines(font):
    """The area enclosed by the font's contours, by fontTools, of letters whose contours do not overlap."""
    path = str(files("noble_clay.core") / "fonts" / f"{font}.ttf")
    ttf = TTFont(path)
    scale = 10 / ttf["OS/2"].sCapHeight
    names, glyphs = ttf.getBestCmap(), ttf.getGlyphSet()
    for letter in "OSIlo":
        pen = AreaPen(glyphs)
        glyphs[names[ord(letter)]].draw(pen)
        mesh = made("lettering", text=letter, size=10, depth=2, font=font)
        assert volume(mesh) == pytest.approx(2 * abs(pen.value) * scale**2, rel=5e-3), letter
    height = np.ptp(made("lettering", text="H", size=10, depth=2, font=font).vertices[:, 1])
    assert height == pytest.approx(10, rel=0.02), "capitals are as high as was said"


def test_text_is_as_wide_as_its_advances_and_hebrew_runs_leftward():
    ttf = TTFont(str(files("noble_clay.core") / "fonts" / "rubik.ttf"))
    scale = 10 / ttf["OS/2"].sCapHeight
    wide = [np.ptp(made("lettering", text=t, size=10, depth=1).vertices[:, 0]) for t in ("II", "II ", "III")]
    advance = ttf["hmtx"][ttf.getBestCmap()[ord("I")]][0] * scale
    assert wide[2] - wide[0] == pytest.approx(advance, abs=1e-6)
    spaced = np.ptp(made("lettering", text="II", size=10, depth=1, spacing=2.5).vertices[:, 0])
    assert spaced - wide[0] == pytest.approx(2.5, abs=1e-6)
    # Lamed, the tall letter, is the third of four: read from the right, it stands left of the middle.
    word = made("lettering", text="שולם", size=10, depth=1)
    assert word.vertices[np.argmax(word.vertices[:, 1]), 0] < 0


def test_text_on_a_ring_stands_on_its_circle():
    mesh = made("lettering", text="HHHHH", size=5, depth=1, ring_radius=30)
    reach = np.hypot(*mesh.vertices[:, :2].T)
    assert 29.9 < reach.min() <= 30.05 and reach.max() == pytest.approx(35, abs=0.3)
    assert mesh.vertices[:, 1].min() > 0, "its middle is towards +y"
    assert mesh.vertices[:, 0].min() == pytest.approx(-mesh.vertices[:, 0].max(), abs=1e-6)


@pytest.mark.parametrize("clearance", [0.2, 0.6])
def test_ball_and_socket_are_the_clearance_apart_and_hold(clearance):
    """Measured between the two meshes by libigl; a cup holds whose opening is narrower than the ball."""
    fields = {"ball_radius": 6, "neck": 2.5, "clearance": clearance, "facets": 96}
    ball, socket = (made("ball_joint", half=half, **fields) for half in ("ball", "socket"))
    assert inspect_mesh(socket).findings == () and inspect_mesh(socket).bodies == 1
    away = away_from(ball, socket.vertices)
    assert away.min() == pytest.approx(clearance, abs=0.01)
    inner = np.linalg.norm(socket.vertices, axis=1) < 6 + clearance + 1e-6
    on_ball = inner & (socket.vertices[:, 2] > 0)
    assert away[on_ball] == pytest.approx(clearance, abs=0.01)
    low = socket.vertices[:, 2] < socket.vertices[:, 2].min() + 1e-6
    opening = np.hypot(*socket.vertices[low, :2].T).min()
    assert 2.5 + clearance <= opening < 6
    assert socket.vertices[:, 2].min() < 0, "past its widest"


@pytest.mark.parametrize("in_space", [False, True])
def test_cells_are_the_gap_apart_and_cover_the_rest(in_space):
    fields = {"size": [30, 20, 12], "count": 20, "gap": 1.0, "seed": 3, "in_space": in_space}
    cells = as_trimesh(made("cells", **fields)).split()
    assert len(cells) == 20
    for cell in cells:
        assert cell.volume == pytest.approx(cell.convex_hull.volume, rel=1e-6)
    points = np.random.default_rng(1).random((1500, 3)) * [30, 20, 12] - [15, 10, 6]
    away = np.array([igl.signed_distance(points, np.array(c.vertices), np.array(c.faces))[0] for c in cells])
    away.sort(axis=0)
    assert away[0].max() < 1.0, "no place is further from a cell than the web is wide"
    assert (away[0] + away[1])[away[0] > 0].min() > 1 - 1e-6, "between two it is as far from one to the other"
    whole = sum(c.volume for c in cells)
    assert whole < 30 * 20 * 12 * 0.95
    again = made("cells", **fields)
    assert np.array_equal(again.vertices, made("cells", **fields).vertices)
    other = made("cells", **{**fields, "seed": 4})
    assert other.vertices.shape != again.vertices.shape or not np.array_equal(other.vertices, again.vertices)


@pytest.mark.parametrize(
    ("bond", "counted"),
    [
        # 40 wide, bricks of 9 and joints of 1: four to a course; five where the first and last are cut; six courses.
        ("stack", 6 * 4),
        ("running", 3 * 4 + 3 * 5),
        # A pair is 9 + 1 + 4 + 1 = 15 wide: [9] [4] by turns from the left; or set off by 12.5 of it.
        ("flemish", 3 * 6 + 3 * 6),
    ],
)
def test_bricks_are_counted(bond, counted):
    mesh = made("bricks", size=[40, 5, 30], brick=[9, 4], mortar=1, depth=1.5, bond=bond)
    found = inspect_mesh(mesh)
    assert (found.bodies, found.genus, found.findings) == (1, 0, ())
    front = section(mesh, (0, 1, 0), (0, -2.5 + 0.7, 0))
    assert len(front.geoms) == counted
    assert volume(mesh) == pytest.approx(40 * 30 * 3.5 + 1.5 * front.area, rel=1e-9)
    heights = {round(b.bounds[3] - b.bounds[1], 6) for b in front.geoms}
    assert heights == {4}
    if bond == "flemish":
        rows = {}
        for brick in front.geoms:
            rows.setdefault(round(brick.centroid.y, 3), []).append(
                (brick.bounds[2] - brick.bounds[0], brick.centroid.x)
            )
        first, second = (rows[y] for y in sorted(rows)[:2])
        long_middles = [x for w, x in first if w == pytest.approx(9)]
        short_middles = [x for w, x in second if w == pytest.approx(4)]
        assert short_middles and all(min(abs(x - m) for m in long_middles) < 1e-9 for x in short_middles)
