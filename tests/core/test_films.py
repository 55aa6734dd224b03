"""Films that rounding leaves are taken away; what is hollow stays so."""

import pytest

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from tests.damage import primitive, together


def turned_inside_out(mesh):
    return Mesh(mesh.vertices, mesh.triangles[:, ::-1])


HOLLOW = together(
    primitive("box", size=[10, 10, 10]),
    turned_inside_out(primitive("box", size=[6, 6, 6])),
    primitive("box", size=[2, 2, 2]),
)


def test_a_hollow_and_what_floats_in_it_outlive_a_film_that_is_taken_away():
    film = primitive("box", (30, 0, 0), size=[10, 10, 1])
    film = Mesh(film.vertices * [1, 1, 1e-6], film.triangles)
    solid = Solid.from_mesh(together(HOLLOW, film), "a").without_films(1e-5)
    assert solid.volume == pytest.approx(1000 - 216 + 8, rel=1e-12)
    assert solid.bounds[1].tolist() == [5, 5, 5]
    assert solid.part_names == ("a",)


def test_what_has_no_film_is_left_as_it_is():
    solid = Solid.from_mesh(HOLLOW, "a")
    assert solid.without_films(1e-5) is solid
