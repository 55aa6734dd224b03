"""The report of a mending as a page: every number with its unit, every name harmless, what was left said."""

import re
from datetime import UTC, datetime

import numpy as np
import pytest

from noble_clay.core.mend.plan import RepairOptions, mend
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.jobs.kinds.mend import in_mm
from noble_clay.store.tables import JobRow
from noble_clay.web.report import report_page
from tests.damage import DAMAGES, damaged, primitive, together

BALL = primitive("sphere", radius=10, facets=32)
SHEET = Mesh(np.array([[0.0, 0, 0], [90, 0, 0], [90, 90, 0], [0, 90, 0]]), np.array([[0, 1, 2], [0, 2, 3]]))


def page(*meshes, names=None, name="Bell", piece="Band", scale=1.0, options=None):
    result = {f"p{i}": {"report": in_mm(mend(m, options)[1].values(), scale)} for i, m in enumerate(meshes)}
    job = JobRow(id="0" * 16, kind="mend", name=name, created_at=datetime(2026, 3, 4, 5, 6, tzinfo=UTC), result=result)
    return report_page(job, names or {}, piece)


def rows(html):
    """What the tables say, by their first column: before and after."""
    found = {}
    for row in html.split("<tr>"):
        cells = re.findall(r"<td>(.*?)</td>", re.sub("<small>.*?</small>|</?span.*?>", "", row))
        if len(cells) == 3:
            found[cells[0]] = tuple(cells[1:])
    return found


@pytest.mark.parametrize("damage", DAMAGES)
def test_every_damage_has_a_page_that_ends_well(damage):
    found = rows(page(damaged(BALL, DAMAGES[damage])))
    assert found["Closed"][1] == "yes"
    assert found["Bodies"][1] == "1"
    assert all(now == "0" for title, (_, now) in found.items() if title not in MEASURED)
    assert len(found) > len(MEASURED)


MEASURED = {"Closed", "Bodies", "Hollows", "Triangles", "Volume", "Surface"}


def test_it_says_when_whose_and_where():
    html = page(damaged(BALL, DAMAGES["holed"]), names={"p0": "Bell body"})
    assert "Mending of Bell <span>in Band</span>" in html
    assert "4 March 2026, 05:06 UTC" in html
    assert "<h2>Bell body</h2>" in html
    assert "<h2>p0</h2>" in page(BALL), "a part that is gone is called by its id"


@pytest.mark.parametrize("field", ["name", "piece", "part"])
def test_names_cannot_be_more_than_names(field):
    evil = "<script>alert(1)</script>"
    given = {"names": {"p0": evil}} if field == "part" else {field: evil}
    html = page(BALL, **given)
    assert "<script>" not in html
    assert "&lt;script&gt;" in html


def test_nothing_to_mend_is_said():
    html = page(BALL)
    assert "Nothing needed mending." in html
    assert "<ol>" not in html


def test_a_sheet_is_said_to_be_left_with_the_wall_that_would_do():
    html = page(SHEET)
    assert "Left as it is: it encloses nothing" in html
    assert "A wall of 0.7637 mm would do" in html
    walled = page(SHEET, options=RepairOptions(wall_mm=0.8))
    assert "Left as it is" not in walled
    assert "wall: 0.8 mm, area: 8,100 mm²" in walled


def test_every_part_has_its_own_table():
    html = page(damaged(BALL, DAMAGES["holed"]), BALL, names={"p0": "One", "p1": "Two"})
    first, second = html.split("<h2>Two</h2>")
    assert "Close holes: 3" in first and "Close holes" not in second
    assert html.count("<table>") == 2


@pytest.mark.parametrize(("scale", "volume"), [(1.0, "216 mm³"), (10.0, "216,000 mm³"), (0.1, "0.216 mm³")])
def test_measures_are_as_large_as_the_part_is_shown(scale, volume):
    cube = primitive("box", size=[6, 6, 6])
    assert rows(page(cube, scale=scale))["Volume"] == (volume, volume)


def test_what_is_still_wrong_stands_out():
    loose = together(BALL, primitive("sphere", (40, 0, 0), radius=5, facets=24))
    html = page(loose)
    assert "<span class=bad>1</span>" in html
    assert "<span class=good>" not in html
