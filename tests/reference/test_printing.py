"""Standing, overhangs, walls, layers and the rehearsal against closed forms, figures by hand, and a library."""

import math

import numpy as np
import pytest
import shapely
import trimesh

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.mesh.mass import areas, volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.printing.check import check_print, fits
from noble_clay.core.printing.layers import islands, sections
from noble_clay.core.printing.motion import line_seconds, path_seconds
from noble_clay.core.printing.overhangs import overhanging
from noble_clay.core.printing.paths import regions
from noble_clay.core.printing.profiles import FILAMENTS, PRINTERS, Settings
from noble_clay.core.printing.rehearsal import rehearse
from noble_clay.core.printing.standing import set_down, standing
from tests.building import box, part, piece

PRINTER, PLA = PRINTERS[0], FILAMENTS[0]


def mesh_of(*parts):
    return set_down(Evaluator().evaluate(piece(*parts)).mesh)


def one(kind, **fields):
    return mesh_of(part("a", kind, **fields))


def layers_of(mesh, layer=0.2):
    return sections(manifold_of(mesh), layer)


def rehearsed(mesh, **settings):
    made = Settings(**settings)
    height = float(mesh.vertices[:, 2].max())
    return rehearse(list(regions(layers_of(mesh, made.layer), height, PRINTER, made)), PRINTER, PLA, made)


# Standing


@pytest.mark.parametrize(("radius", "height", "facets"), [(10, 30, 128), (4, 4, 12), (25, 1, 64)])
def test_a_cylinder_tips_where_its_centre_passes_its_edge(radius, height, facets):
    """atan(r / (h / 2)), with the flat sides of the polygon for the circle (mechanics handbook)."""
    found = standing(one("cylinder", radius=radius, height=height, facets=facets))
    assert found.tip_angle == pytest.approx(math.degrees(math.atan(radius * math.cos(math.pi / facets) / (height / 2))))
    assert found.floor_area == pytest.approx(facets / 2 * radius**2 * math.sin(2 * math.pi / facets))


def test_a_box_tips_over_its_nearer_edge_first():
    found = standing(mesh_of(box("a", (3, 0, 0), (20, 10, 30)), box("b", (9, 3, 20), (8, 4, 12))))
    assert found.tip_towards == pytest.approx(90), "towards where more of it is"
    solid = trimesh.Trimesh(*_arrays(mesh_of(box("a", (3, 0, 0), (20, 10, 30)), box("b", (9, 3, 20), (8, 4, 12)))))
    assert found.centre == pytest.approx(solid.center_mass, abs=1e-6), "as trimesh has it"
    assert found.tip_angle == pytest.approx(math.degrees(math.atan((5 - found.centre[1]) / found.centre[2])))


def _arrays(mesh):
    return mesh.vertices, mesh.triangles


def test_three_points_are_enough_to_stand_on_and_one_is_not():
    feet = [part(f"f{i}", "sphere", (10 * math.cos(a), 10 * math.sin(a), 0), radius=3) for i, a in enumerate((0, 2, 4))]
    stool = standing(mesh_of(part("seat", "cylinder", (0, 0, 3), radius=12, height=3), *feet))
    assert len(stool.support) == 3 and stool.floor_area == 0 and stool.stands
    assert not standing(one("sphere", radius=5)).stands
    assert not standing(one("sphere", radius=0.05)).stands
    leaning = standing(mesh_of(box("foot", (0, 0, 0), (4, 4, 2)), box("arm", (12, 0, 2), (28, 4, 2))))
    assert not leaning.stands and leaning.tip_towards == pytest.approx(0), "it falls to +x"


# Overhangs and islands


def test_overhang_of_a_sphere_is_its_cap_below_45_degrees():
    """2 pi r^2 (1 - cos 45 degrees), the area of a spherical cap."""
    mesh = one("sphere", radius=10, facets=256)
    found = areas(mesh)[overhanging(mesh)].sum()
    assert found == pytest.approx(2 * math.pi * 100 * (1 - math.sqrt(0.5)), rel=0.02)


@pytest.mark.parametrize(("lean", "counts"), [(44, False), (45, False), (46, True), (80, True)])
def test_what_leans_out_by_more_than_45_degrees_counts(lean, counts):
    top = 5 + 10 * math.tan(math.radians(lean))
    mesh = one("cone", bottom_radius=5, top_radius=top, height=10)
    assert bool(overhanging(mesh).any()) is counts


def test_what_lies_on_the_bed_is_no_overhang():
    assert not overhanging(one("box", size=[9, 9, 9])).any()


def test_what_begins_in_the_air_is_found_where_it_does():
    hook = mesh_of(
        box("post", (0, 0, 15), (6, 6, 30)), box("arm", (8, 0, 28), (22, 6, 4)), box("tip", (17, 0, 24), (4, 6, 4))
    )
    ((layer, area),) = islands(layers_of(hook))
    assert layer * 0.2 == pytest.approx(22, abs=0.21) and area.area() == pytest.approx(24)
    assert islands(layers_of(one("sphere", radius=8))) == []


@pytest.mark.parametrize(("fin", "lost"), [(0.3, True), (0.5, False)])
def test_what_is_narrower_than_the_nozzle_is_told_once_where_it_is_largest(fin, lost):
    """A fin that no line of 0.4 mm goes into, on a block with a round peg; their own corners are not lost."""
    mesh = mesh_of(
        box("block", (0, 0, 5), (20, 20, 10)),
        box("fin", (12, 0, 5), (8, fin, 6)),
        part("peg", "cylinder", (0, 0, 12), radius=3, height=6, facets=64),
        part("point", "cone", (-6, -6, 13), bottom_radius=3, top_radius=0, height=6),
    )
    found = check_print(mesh, PRINTER, PLA, Settings(layer=0.2)).fine
    assert bool(found) == lost
    for place in found:
        assert place.size == pytest.approx(6 * fin, rel=0.05)
        assert place.at[0] == pytest.approx(13, abs=0.1) and 2 <= place.at[2] <= 8


# Walls


@pytest.mark.parametrize("wall", [0.6, 1.2, 3.0])
def test_the_thinnest_of_a_shell_is_its_wall(wall):
    shell = mesh_of(
        {**part("a", "box", size=[30, 20, 15]), "changes": [{"kind": "hollow", "wall": wall, "open": "z+"}]}
    )
    found = check_print(shell, PRINTER, PLA, Settings())
    assert found.thinnest == pytest.approx(wall, rel=1e-3)
    assert bool(found.thin > 0.5 * areas(shell).sum()) == (wall < 0.8)


def test_two_plates_are_as_thick_as_the_thinner():
    plates = mesh_of(box("a", (0, 0, 0), (20, 20, 5)), box("b", (20, 0, 0), (21, 20, 0.5)))
    found = check_print(plates, PRINTER, PLA, Settings())
    assert found.thinnest == pytest.approx(0.5, abs=1e-6)
    assert found.thin == pytest.approx(2 * 20 * 20.5, rel=0.03), "both sides of what stands out"


# Layers and what they take


@pytest.mark.parametrize(
    "fields", [{"kind": "sphere", "radius": 9}, {"kind": "torus", "ring_radius": 12, "tube_radius": 4}]
)
def test_layers_add_up_to_the_volume(fields):
    """Cavalieri, half way up each layer: the error is that of a midpoint rule."""
    mesh = one(**fields)
    layers = layers_of(mesh)
    assert sum(s.area() for s in layers) * 0.2 == pytest.approx(volume(mesh), rel=4e-3)
    assert len(layers) == math.ceil(float(mesh.vertices[:, 2].max()) / 0.2 - 1e-6)


def test_filament_and_mass_of_a_full_cube_by_hand():
    full = rehearsed(one("box", size=[20, 20, 20]), infill=1)
    assert full.filament == pytest.approx(8000 / (math.pi * 0.875**2), rel=1e-6)
    assert full.mass == pytest.approx(8 * 1.24, rel=1e-6)
    assert full.cost == pytest.approx(full.mass / 1000 * 20)


def test_walls_skins_and_infill_of_a_cube_by_hand():
    inside = (20 - 2 * 2 * 0.42) ** 2 * (100 - 2 * 4) * 0.2
    for infill in (0, 0.15, 0.5):
        found = rehearsed(one("box", size=[20, 20, 20]), infill=infill)
        assert found.plastic == pytest.approx(8000 - (1 - infill) * inside, rel=1e-6)


def test_where_the_mass_of_a_full_print_is():
    """The solid's own centroid, by trimesh."""
    mesh = mesh_of(box("foot", (0, 0, 2), (30, 20, 4)), box("neck", (9, 3, 14), (6, 8, 24)))
    solid = trimesh.Trimesh(*_arrays(mesh))
    assert rehearsed(mesh, infill=1).centre == pytest.approx(solid.center_mass, abs=0.01)


def test_where_the_mass_of_bare_walls_is():
    """The centroid of what shapely leaves between an outline and one two lines further in."""
    mesh = mesh_of(box("a", (0, 0, 10), (30, 8, 20)), box("b", (11, 10, 10), (8, 28, 20)))
    area = shapely.union(shapely.box(-15, -4, 15, 4), shapely.box(7, -4, 15, 24))
    walls = shapely.difference(area, area.buffer(-2 * 0.42, join_style="mitre"))
    found = rehearsed(mesh, infill=0, skins=0)
    assert found.centre == pytest.approx((walls.centroid.x, walls.centroid.y, 10), abs=0.02)
    assert found.plastic == pytest.approx(20 * walls.area, rel=5e-3)


def test_a_hollow_head_weighs_less_than_it_looks():
    """A block high up, mostly infill, over a plate that is all skin: as printed the mass lies lower."""
    mesh = mesh_of(box("plate", (0, 0, 0.8), (40, 40, 1.6)), box("head", (0, 0, 21.6), (30, 30, 40)))
    found = check_print(mesh, PRINTER, PLA, Settings(infill=0.1))
    told = found.values()
    assert found.rehearsal.centre[2] < found.standing.centre[2] - 1
    assert told["printed_tip_angle_deg"] > told["tip_angle_deg"] + 1
    expected = math.degrees(math.atan2(20, found.rehearsal.centre[2]))
    assert told["printed_tip_angle_deg"] == pytest.approx(expected, abs=0.01)


def test_support_fills_the_room_under_a_table():
    table = mesh_of(box("leg", (0, 0, 10), (10, 10, 20)), box("top", (0, 0, 21), (30, 30, 2)))
    found = rehearsed(table, support=0.2)
    room = 30 * 30 - (10 + 2 * 0.42) ** 2
    assert found.support == pytest.approx(0.2 * room * 20, rel=0.01)
    assert rehearsed(table, support=0).support == 0
    assert rehearsed(one("cone", bottom_radius=10, top_radius=2, height=20)).support == pytest.approx(0, abs=1e-6)


# Time


def test_one_straight_line_by_its_kinematics():
    """v^2 / a to speed up and slow down; below that a triangle of 2 sqrt(s / a) (mechanics handbook)."""
    assert line_seconds(200, 100, 2000) == pytest.approx(200 / 100 + 100 / 2000)
    assert line_seconds(2, 100, 2000) == pytest.approx(2 * math.sqrt(2 / 2000))
    broken = np.column_stack([np.linspace(0, 200, 41), np.zeros(41)])
    assert path_seconds(broken, 100, 2000, 0.02) == pytest.approx(200 / 100 + 100 / 2000, rel=1e-9)


def test_corners_cost_what_their_speed_says():
    square = np.array([[0, 0], [50, 0], [50, 50], [0, 50], [0, 0]], dtype=float)
    stopping = 4 * line_seconds(50, 100, 2000)
    assert path_seconds(square, 100, 2000, 1e-9) == pytest.approx(stopping, rel=1e-3)
    assert 4 * 50 / 100 < path_seconds(square, 100, 2000, 0.05) < stopping
    back = np.array([[0, 0], [50, 0], [0, 0]], dtype=float)
    assert path_seconds(back, 100, 2000, 1) == pytest.approx(2 * line_seconds(50, 100, 2000)), "it turns on the spot"


def test_no_point_of_a_path_is_faster_than_it_can_be_left():
    """Beside a plan by brute force: many short steps, each as fast as those beside it allow."""
    rng = np.random.default_rng(5)
    turns = np.cumsum(rng.uniform(-0.4, 0.4, 300))
    path = np.cumsum(np.column_stack([np.cos(turns), np.sin(turns)]) * rng.uniform(0.05, 3, (300, 1)), axis=0)
    found = path_seconds(path, 120, 3000, 0.02)
    steps = np.diff(path, axis=0)
    length = np.hypot(*steps.T)
    unit = steps / length[:, None]
    half = np.sqrt((1 + (unit[1:] * unit[:-1]).sum(axis=1)) / 2)
    corner = np.concatenate([[0], np.minimum(120**2, 3000 * 0.02 * half / (1 - half)), [0]])
    square = corner.copy()
    for _ in range(len(square)):
        square[1:] = np.minimum(square[1:], square[:-1] + 2 * 3000 * length)
        square[:-1] = np.minimum(square[:-1], square[1:] + 2 * 3000 * length)
    seconds = 0.0
    for s, a, b in zip(length, square[:-1], square[1:], strict=True):
        top = min(120**2, (a + b) / 2 + 3000 * s)
        seconds += (2 * top**0.5 - a**0.5 - b**0.5) / 3000 + max(0, s - (2 * top - a - b) / 6000) / top**0.5
    assert found == pytest.approx(seconds, rel=1e-9)


def test_it_fits_also_turned_by_a_right_angle():
    bed = PRINTERS[0].model_copy(update={"bed": (200.0, 100.0, 50.0)})
    assert [fits(s, bed) for s in ([200, 100, 50], [100, 200, 50], [101, 200, 50], [10, 10, 51])] == 2 * [True] + 2 * [
        False
    ]


def test_a_taller_and_a_wider_print_take_longer():
    seconds = [rehearsed(one("box", size=[s, 10, h])).seconds for s, h in ((10, 10), (20, 10), (10, 20))]
    assert seconds[0] < min(seconds[1:])
    empty = Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))
    with pytest.raises(MeshError, match="nothing is left"):
        check_print(empty, PRINTER, PLA, Settings())


def test_support_fills_the_room_under_a_ball_as_far_as_it_leans_out():
    """Closed form: between the bed and the ball within r = R / √2, π r² R less 2π/3 (R³ − (R² − r²)^1.5)."""
    radius = 20.0
    mesh = one("sphere", radius=radius, facets=128)
    r2 = radius**2 / 2
    room = math.pi * r2 * radius - 2 * math.pi / 3 * (radius**3 - (radius**2 - r2) ** 1.5)
    found = rehearsed(mesh, support=1, layer=0.1)
    # Support keeps a line's width clear of the ball's sides.
    assert found.support == pytest.approx(room, rel=0.12)
    assert found.support < room
