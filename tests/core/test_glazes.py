"""A piece as a body a glaze: they fill it between them, none overlaps another, each is sound and shows its colour."""

import itertools

import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.cut_parts import as_file_holds
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.several import Named, bodies_of, several_bytes
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mass import volume as signed_volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.together import together
from noble_clay.core.piece.models import CLAY
from noble_clay.core.piece.tree import shown_colours
from noble_clay.core.printing import glazes
from noble_clay.core.printing.glazes import by_glaze
from noble_clay.demo.loader import demo_pieces
from tests.building import box, join, part, piece
from tests.core.test_apart import BLUE, GREEN, GROUPED, HEAD, RED, SOFT_WITHIN


def divided(made, cells=64):
    result = Evaluator().evaluate(made)
    return result, {body.colour: body.solid for body in by_glaze(made, result, cells=cells)}


CORED = piece(
    join(
        "all",
        join(
            "shell",
            part("outer", "sphere", radius=10, _colour=RED),
            part("room", "sphere", op="difference", radius=7, _colour=RED),
        ),
        part("kernel", "sphere", radius=3, _colour=BLUE),
        part("pin", "cylinder", (0, 0, 6), radius=1, height=8, _colour=GREEN),
        place={"position": [-4000, 900, 60], "rotation": [10, 20, 30]},
    ),
    name="Cored, far out",
)


@pytest.mark.parametrize(
    "made",
    [HEAD, GROUPED, SOFT_WITHIN, CORED],
    ids=lambda made: made.name,
)
def test_the_bodies_fill_the_piece_and_none_overlaps_another(made):
    result, bodies = divided(made, 48)
    whole = result.solid
    for one, other in itertools.combinations(bodies.values(), 2):
        assert (one.manifold ^ other.manifold).volume() < 1e-6 * whole.volume
    assert sum(body.volume for body in bodies.values()) == pytest.approx(whole.volume, rel=1e-6)
    for colour, body in bodies.items():
        # Far out a body may be as files hold it: rounded.
        assert (body.manifold - whole.manifold).volume() < 1e-5 * whole.volume
        wrong = {flaw.kind for flaw in inspect_mesh(as_file_holds(body, None)[0]).findings}
        assert wrong <= {"loose_bodies"}, colour


@pytest.mark.parametrize("made", [HEAD, GROUPED], ids=lambda made: made.name)
def test_what_shows_of_a_body_has_its_glaze(made):
    """Points all over the piece's skin, but for those beside the lines between glazes: each is on its own's body."""
    result, bodies = divided(made)
    mesh, part_of, ids = result.solid.mesh_with_parts()
    colours = np.array([shown_colours(made).get(part, CLAY) for part in ids])[part_of]
    rng = np.random.default_rng(5)
    picked = rng.choice(len(mesh.triangles), 3000, p=areas(mesh) / areas(mesh).sum())
    weights = rng.dirichlet((1, 1, 1), 3000)
    points = (mesh.corners[picked] * weights[:, :, None]).sum(axis=1)
    for colour, body in bodies.items():
        own = colours[picked] == colour
        others = MeshDistance(mesh.keep(colours != colour)).unsigned_distance(points[own])[0]
        away = np.abs(MeshDistance(body.mesh_only()).unsigned_distance(points[own])[0])
        assert np.all(away[others > 0.5] < 1e-6), colour


def test_two_halves_of_a_bar_are_parted_where_their_glazes_meet():
    bar = piece(box("l", (-5, 0, 0), (10, 6, 4), _colour=RED), box("r", (5, 0, 0), (10, 6, 4), _colour=BLUE))
    _, bodies = divided(bar)
    for body, (low, high) in ((bodies[RED], (-10, 0)), (bodies[BLUE], (0, 10))):
        assert body.volume == pytest.approx(240, rel=1e-3)
        assert body.bounds[:, 0] == pytest.approx([low, high], abs=0.01)


def test_a_coat_is_as_deep_as_halfway_to_what_lies_under_it():
    """A hollow ball, red outside and blue inside: they meet at the mean radius of its wall, by the closed form."""
    ball = piece(
        part("outer", "sphere", radius=10, facets=128, _colour=RED),
        part("room", "sphere", op="difference", radius=6, facets=128, _colour=BLUE),
    )
    _, bodies = divided(ball)
    assert bodies[RED].volume == pytest.approx(4 / 3 * np.pi * (10**3 - 8**3), rel=5e-3)
    assert bodies[BLUE].volume == pytest.approx(4 / 3 * np.pi * (8**3 - 6**3), rel=5e-3)


def test_in_a_3mf_there_is_what_was_written_into_it():
    """The crab's bodies have points that decimals do not tell apart, within a body and between two."""
    crab = next(made for made in demo_pieces() if made.name == "Fiddler crab")
    result, bodies = divided(crab, 32)
    data = several_bytes(
        bodies_of([Named(colour, body, colour) for colour, body in bodies.items()], crab), crab.name, "3mf"
    )
    again = read_mesh(data, "3mf")
    assert {colour for colour in again.colours if colour} == set(bodies)
    assert signed_volume(again.mesh) == pytest.approx(result.solid.volume, rel=1e-6)


def test_one_glaze_alone_is_refused_in_words():
    with pytest.raises(MeshError, match="has one glaze"):
        divided(piece(box("a", _colour=RED), box("b", (0.5, 0, 0), _colour=RED)))


def test_a_glaze_that_hardly_shows_is_refused_by_its_colour():
    speck = part("speck", "sphere", (0, 0, 5), radius=0.002, _colour=BLUE)
    with pytest.raises(MeshError, match=f"{BLUE} shows so little"):
        divided(piece(box("a", size=(10, 10, 10), _colour=RED), speck))


def test_a_piece_of_a_millimetre_is_divided_as_finely_as_a_large_one():
    """Its line between two glazes stays where it was, to a small share of its size."""
    half = box("red", (-0.3, 0, 0), (0.6, 0.5, 0.4), turn=(0, 20, 0), _colour=RED)
    made = piece(half, part("blue", "sphere", (0.3, 0, 0), radius=0.3, facets=24, _colour=BLUE))
    result, bodies = divided(made)
    mesh, part_of, ids = result.solid.mesh_with_parts()
    middles = mesh.corners.mean(axis=1)
    for colour, name in ((RED, "red"), (BLUE, "blue")):
        own = part_of == ids.index(name)
        others = MeshDistance(mesh.keep(~own)).unsigned_distance(middles[own])[0]
        away = np.abs(MeshDistance(bodies[colour].mesh_only()).unsigned_distance(middles[own])[0])
        assert np.all(away[others > 0.03] < 1e-5), colour


def test_what_is_nearest_to_a_glaze_only_within_is_no_island_of_it():
    island = hexahedron((0.2, 0.2, 0.2))
    side = together([hexahedron((6.0, 1.0, 1.0)), Mesh(island.vertices + [0, 1.2, 0], island.triangles)])
    kept = glazes._that_shows(side, MeshDistance(hexahedron((4.0, 4.0, 4.0))))
    assert len(kept.triangles) == 12
    assert np.ptp(kept.vertices, axis=0).tolist() == [6, 1, 1]
