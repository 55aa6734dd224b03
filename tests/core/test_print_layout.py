"""On the bed: turning and placing, arranging, ways to lie, the lines of layers, bridges, hollows, maps."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from manifold3d import CrossSection

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.piece.read import validated
from noble_clay.core.printing.arranging import arranged, footprint
from noble_clay.core.printing.bed import Bed, laid, shortest_turn
from noble_clay.core.printing.check import check_print
from noble_clay.core.printing.hollows import hollows
from noble_clay.core.printing.layers import bridges, sections
from noble_clay.core.printing.maps import maps_of
from noble_clay.core.printing.orientation import orientations
from noble_clay.core.printing.paths import INFILL, OUTER, SKIN, Rings, blocks, hatched, lines_of, regions, within_all
from noble_clay.core.printing.plate import ToLay, beds_of, lay_out
from noble_clay.core.printing.profiles import FILAMENTS, PRINTERS, Settings
from tests.building import box, part, piece
from tests.examples import examples

PRINTER = PRINTERS[0]
ways = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.01)


def mesh_of(*parts):
    return Evaluator().evaluate(piece(*parts)).mesh


@examples(60)
@given(ways, st.floats(-360, 360), st.floats(0.01, 100))
def test_what_was_said_looks_down_and_the_lowest_point_is_on_the_bed(down, spin, scale):
    bed = Bed(down=down, spin=spin, scale=scale)
    turning = bed.turning()
    np.testing.assert_allclose(turning @ turning.T, np.eye(3), atol=1e-12)
    assert np.linalg.det(turning) == pytest.approx(1)
    np.testing.assert_allclose(turning @ (np.array(down) / math.hypot(*down)), [0, 0, -1], atol=1e-9)
    mesh = mesh_of(box("a", (30, -5, 7), (3, 4, 5)))
    lying = laid(mesh, bed.placing(mesh))
    low, high = lying.bounds
    assert low[2] == pytest.approx(0, abs=1e-9)
    np.testing.assert_allclose((low + high)[:2], 0, atol=1e-6 * scale)


def test_opposite_ways_are_turned_into_each_other():
    for way in np.vstack([np.eye(3), -np.eye(3)]):
        turn = shortest_turn(way, -way)
        np.testing.assert_allclose(turn @ way, -way, atol=1e-12)
        assert np.linalg.det(turn) == pytest.approx(1)


@pytest.mark.parametrize(
    ("field", "value"), [("scale", 0), ("scale", math.nan), ("copies", 0), ("gap", -1), ("down", [0, 0, 0])]
)
def test_a_bed_that_cannot_be_is_refused_with_the_field(field, value):
    with pytest.raises(PieceError) as refused:
        validated(Bed.model_validate, {field: value})
    assert field in str(refused.value)


def apart(spots, things):
    """The least distance between any two, by shapely."""
    import shapely

    placed = []
    for spot, thing in zip(spots, things, strict=True):
        turned = thing.rotate(90) if spot.turned else thing
        placed.append(shapely.Polygon(turned.translate((spot.x, spot.y)).to_polygons()[0]))
    return min(a.distance(b) for i, a in enumerate(placed) for b in placed[:i])


@examples(15)
@given(
    st.lists(st.tuples(st.floats(5, 60), st.floats(5, 60), st.integers(3, 9)), min_size=2, max_size=8),
    st.floats(0.5, 15),
)
def test_what_is_arranged_keeps_its_distance_and_stays_on_the_bed(shapes, gap):
    things = [CrossSection.circle(1, n).scale((w / 2, d / 2)) for w, d, n in shapes]
    spots = arranged(things, 200, 150, gap)
    found = [(s, t) for s, t in zip(spots, things, strict=True) if s is not None]
    assert found
    for spot, thing in found:
        low_x, low_y, high_x, high_y = (thing.rotate(90) if spot.turned else thing).bounds()
        assert spot.x + low_x >= -100 - 1e-9 and spot.x + high_x <= 100 + 1e-9
        assert spot.y + low_y >= -75 - 1e-9 and spot.y + high_y <= 75 + 1e-9
    if len(found) > 1:
        assert apart(*zip(*found, strict=True)) >= gap


def test_nine_beads_and_what_is_too_long_for_one_way_round():
    bead = CrossSection.circle(6, 48)
    spots = arranged([bead] * 9, 60, 60, 2)
    assert None not in spots
    assert (spots[0].x, spots[0].y) == pytest.approx((0, 0), abs=0.5), "the first lies in the middle"
    (bar,) = arranged([CrossSection.square((20, 150), True)], 160, 40, 2)
    assert bar.turned
    squares = [CrossSection.square((30, 30), True)] * 5
    assert [s and s.bed for s in arranged(squares, 70, 35, 2, beds=2)] == [0, 0, 1, 1, None]
    assert arranged([CrossSection.square((50, 50), True)], 40, 40, 2) == [None]


def test_rings_lie_in_each_other_where_there_is_room():
    """A footprint is what is covered, not its hull."""
    ring = mesh_of(part("a", "tube", radius=50, wall=3, height=5))
    bead = mesh_of(part("a", "sphere", radius=10))
    spots = arranged([footprint(manifold_of(m)) for m in (ring, bead)], 105, 105, 4)
    assert None not in spots


def test_a_lying_capsule_lies_flattest_and_stands_tallest():
    found = orientations(mesh_of(part("a", "capsule", turn=(20, 35, 0), radius=5, length=40)))
    best = {name: way for way in found for name in way.best_for}
    assert best["tallest"].height == pytest.approx(40, abs=0.3)
    assert best["flattest"].height == pytest.approx(10, abs=0.1)
    # Cut across it is a round of 5 mm; lying, a layer a tenth up is a strip 40 mm long.
    assert best["strongest"].neck > math.pi * 25


def test_a_mushroom_is_laid_on_its_head():
    found = orientations(
        mesh_of(
            part("stem", "cylinder", (0, 0, 10), radius=3, height=20),
            part("cap", "cylinder", (0, 0, 22), radius=12, height=4),
        )
    )
    assert found[0].down == (0, 0, -1), "as it was made, first"
    clear_of_the_stem = 3 + 0.4
    assert found[0].support == pytest.approx(math.pi * (12**2 - clear_of_the_stem**2) * 20, rel=0.01)
    assert found[0].overhang == pytest.approx(math.pi * (12**2 - 3**2), rel=0.01)
    best = next(way for way in found if "least support" in way.best_for)
    assert best.support == pytest.approx(0, abs=0.1)
    np.testing.assert_allclose(best.down, [0, 0, 1], atol=1e-9)
    assert best.rests_on == pytest.approx(math.pi * 144, rel=0.01)


def test_support_is_told_as_a_rehearsal_tells_it():
    """It stands on the body where that is below."""
    mesh = mesh_of(
        part("foot", "cylinder", (0, 0, 5), radius=15, height=10),
        part("stem", "cylinder", (0, 0, 20), radius=3, height=40),
        part("brim", "cylinder", (0, 0, 45), radius=14, height=12),
    )
    rehearsed = check_print(mesh, PRINTERS[0], FILAMENTS[0], Settings(support=1)).rehearsal.support
    assert orientations(mesh)[0].support == pytest.approx(rehearsed, rel=0.05)
    assert rehearsed == pytest.approx(math.pi * (14**2 - 3.4**2) * 29, rel=0.05)


@examples(40)
@given(st.floats(0.3, 3), st.floats(-90, 90), st.integers(3, 40))
def test_lines_fill_what_rings_bound(spacing, degrees, sides):
    """Their lengths times their distance are the area; a ring within it stays free."""
    outer, inner = CrossSection.circle(20, sides), CrossSection.circle(8, sides)
    area = outer - inner
    lines = hatched([np.array(ring) for ring in area.to_polygons()], spacing, degrees)
    length = np.hypot(*(lines[:, 2:] - lines[:, :2]).T)
    assert length.sum() * spacing == pytest.approx(area.area(), rel=0.03 * spacing)
    middles = (lines[:, 2:] + lines[:, :2]) / 2
    assert np.all(np.hypot(*middles.T) > 8 * math.cos(math.pi / sides) - 1e-9)
    along = np.degrees(np.arctan2(*(lines[:, 2:] - lines[:, :2])[length > 1e-6].T[::-1]))
    np.testing.assert_allclose((along - degrees + 90) % 180, 90, atol=1e-4)


@examples(20)
@given(st.integers(0, 4), st.lists(st.tuples(st.integers(-5, 5), st.integers(-5, 5)), min_size=1, max_size=14))
def test_what_layers_have_in_common_is_that_of_each_with_all_near_it(away, corners):
    layers = [CrossSection.square((12, 9), True).translate(corner) for corner in corners]
    for number, found in enumerate(within_all(layers, away)):
        near = range(number - away, number + away + 1)
        wanted = layers[number]
        for other in near:
            wanted = wanted ^ (layers[other] if 0 <= other < len(layers) else CrossSection())
        assert found.area() == pytest.approx(wanted.area(), abs=1e-6)


def test_layers_have_skins_under_and_over_infill_and_are_read_back():
    solid = manifold_of(mesh_of(box("a", (0, 0, 5), (30, 20, 10))))
    settings = Settings(layer=0.2, walls=3, skins=4, infill=0.2)
    filled = list(regions(sections(solid, 0.2), 10, PRINTER, settings))
    assert len(filled) == 50
    held = [Rings.read(rings.packed()) for _, rings in blocks(iter(filled), PRINTER, settings)]
    assert len(held) == 1
    for number, kind in ((0, SKIN), (3, SKIN), (4, INFILL), (45, INFILL), (46, SKIN), (49, SKIN)):
        lines, kinds = lines_of(held[0], number, PRINTER, settings)
        assert kind in kinds
        assert ({SKIN, INFILL} - {kind}).isdisjoint(kinds.tolist())
        width = lines[kinds == OUTER][:, [0, 2]]
        assert np.ptp(width) == pytest.approx(30 - PRINTER.line, abs=1e-4), "the outer wall's middle"


def test_a_bridge_spans_two_posts_and_a_lip_is_none():
    bridge = [box("a", (-10, 0, 5), (4, 8, 10)), box("b", (10, 0, 5), (4, 8, 10)), box("top", (0, 0, 11), (24, 8, 2))]
    found = bridges(sections(manifold_of(mesh_of(*bridge)), 0.2), 1.0)
    assert [(number, round(area.area())) for number, area in found] == [(50, 16 * 8)]
    lip = [box("a", (0, 0, 5), (4, 8, 10)), box("top", (0, 0, 11), (24, 8, 2))]
    assert bridges(sections(manifold_of(mesh_of(*lip)), 0.2), 1.0) == []


def test_a_shut_in_hollow_is_told_with_its_lowest_place_and_an_open_one_is_not():
    shell = box("a", (0, 0, 10), (20, 20, 20)), part("void", "sphere", (0, 0, 10), op="difference", radius=6)
    (found,) = hollows(mesh_of(*shell))
    assert found.volume == pytest.approx(4 / 3 * math.pi * 6**3, rel=0.01)
    assert found.at == pytest.approx((0, 0, 4), abs=0.05)
    drain = part("drain", "cylinder", (0, 0, 2), op="difference", radius=1, height=8)
    assert hollows(mesh_of(*shell, drain)) == []


def test_maps_tell_how_far_it_leans_and_how_thick_it_is():
    mesh = mesh_of(
        part("a", "cone", (0, 0, 10), bottom_radius=2, top_radius=2 + 20 * math.sqrt(3), height=20, facets=96)
    )
    found = maps_of(manifold_of(mesh))
    sides = (found.leans > 1) & (found.leans < 89)
    np.testing.assert_allclose(found.leans[sides], 60, atol=0.1)
    assert found.leans[~sides].max() == pytest.approx(0, abs=1e-6), "top and foot"
    slab = maps_of(manifold_of(mesh_of(box("a", (0, 0, 1.5), (40, 30, 3)))))
    assert set(np.round(slab.thick, 3).tolist()) == {3, 30, 40}
    assert len(slab.leans) > 1000, "cut into bits"


def test_several_pieces_lie_on_one_bed_each_its_own_way_and_none_near_another():
    slab, rod = mesh_of(box("a", (30, -5, 7), (60, 40, 5))), mesh_of(part("r", "cylinder", radius=6, height=90))
    huge = mesh_of(box("h", (0, 0, 0), (400, 3, 3)))
    things = [
        ToLay(slab, Bed(), 2),
        ToLay(rod, Bed(down=(1, 0, 0), scale=0.5), 5),
        ToLay(huge, Bed(), 1),
        ToLay(slab, Bed(spin=45), 60),
    ]
    lying = lay_out(things, PRINTER, 4.0)
    assert [len(one.spots) for one in lying[:3]] == [2, 5, 0]
    assert not lying[2].fits
    assert len(lying[3].spots) == 60
    beds = beds_of(lying)
    assert 3 < beds <= 12, "one bed has no room for so many"
    np.testing.assert_allclose(sorted(lying[1].size), [6, 6, 45], atol=0.1)
    for bed in range(beds):
        areas = []
        for thing, one in zip(things, lying, strict=True):
            for matrix in one.matrices(bed):
                placed = laid(thing.mesh, matrix)
                low, high = placed.bounds
                assert low[2] == pytest.approx(0, abs=1e-9)
                assert np.abs([low[:2], high[:2]]).max() <= PRINTER.bed[0] / 2 + 1e-6
                areas.append(shapely.convex_hull(shapely.multipoints(placed.vertices[:, :2])))
        apart = [a.distance(b) for i, a in enumerate(areas) for b in areas[:i]]
        assert areas and min(apart, default=4) >= 4 - 1e-6
