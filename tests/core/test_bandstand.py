"""The scene of the demo: the whole band on its rock, as one sound body that is cut for a small bed."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.printing.cutting import Plane, cut
from noble_clay.core.printing.standing import standing
from noble_clay.demo.bandstand_rock import STANDS, bandstand_rock
from noble_clay.demo.loader import demo_pieces

BED_MM = 180


def without_prefix(part, prefix):
    found = {**part, "id": part["id"].removeprefix(prefix)}
    if "join" in part:
        found["join"] = {**part["join"], "parts": [without_prefix(p, prefix) for p in part["join"]["parts"]]}
    return found


def test_every_figure_has_its_place_and_is_what_it_is_by_itself():
    figures = demo_pieces()
    assert {f.name for f in figures} == set(STANDS)
    scene = {p["name"]: p for p in bandstand_rock(figures).dump()["parts"]}
    assert {"Rock", "Singing puffer", "Barnacle bell"} <= scene.keys()
    for figure in figures:
        group = scene[figure.name]
        parts = [without_prefix(p, f"{group['id']}-") for p in group["join"]["parts"]]
        assert parts == figure.dump()["parts"]
        assert group["place"]["position"][2] > 10, "on the rock"


def test_the_whole_band_is_one_sound_body_that_stands():
    made = Evaluator().evaluate(bandstand_rock(demo_pieces()))
    mesh, found = made.mesh, made.inspection
    assert found.sound and found.voids == 0
    wide, deep, _ = np.ptp(mesh.vertices, axis=0)
    assert wide == pytest.approx(250, abs=10) and deep < BED_MM < wide, "too wide for a small bed"
    assert standing(mesh).tip_angle > 20


def test_its_rock_is_cut_in_two_that_go_together_and_fit_a_small_bed():
    solid = Evaluator().evaluate(bandstand_rock([])).solid
    found = cut(solid, [Plane("x", 0)], "round", 0.15)
    assert len(found.parts) == 2
    for part in found.parts:
        assert part.solid.bodies == 1
        assert np.ptp(part.solid.bounds, axis=0).max() < BED_MM
    assert [p.pegs + p.sockets > 0 for p in found.parts] == [True, True]
    assert found.least_gap == pytest.approx(0.15, abs=0.01)
    assert all(fit.slides for fit in found.fits)
