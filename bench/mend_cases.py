"""Meshes as hard as those that are found: what each kind of maker leaves behind, made on purpose, without chance but
for seeded one.

Kinds: open and closed shells within and beside each other, bodies in contact, sheets that run through each other,
straps and covers laid on a body, coinciding faces, blocks that touch in an edge or a corner, thousands of crossings;
and the damages of `tests/damage.py` in every pair, over those. Some are tiny, some far out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import combinations

import numpy as np
from tests.damage import (
    Damage,
    cracked,
    crumbed,
    damaged,
    doubled,
    flipped,
    holed,
    jittered,
    kinked,
    primitive,
    stepped,
    together,
    torn,
    without,
)

from noble_clay.core.mesh.mesh import Mesh

PAIRED: dict[str, Damage] = {
    "holed": holed,
    "torn": torn,
    "flipped": flipped,
    "doubled": doubled,
    "crumbed": crumbed,
    "cracked": cracked,
    "stepped": stepped,
    "kinked": kinked,
}


def moved(mesh: Mesh, at: tuple[float, float, float], scale: float = 1.0) -> Mesh:
    return Mesh(scale * mesh.vertices + at, mesh.triangles)


def opened(mesh: Mesh, way: tuple[float, float, float]) -> Mesh:
    """Without the faces that look that way."""
    a, b, c = (mesh.corners[:, i] for i in range(3))
    normals = np.cross(b - a, c - a)
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    return without(mesh, normals @ np.array(way, dtype=float) > 0.99)


def reversed_(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.triangles[:, ::-1])


def strip(points: np.ndarray, across: np.ndarray) -> Mesh:
    """A band of two triangles a step along points (n, 3), as wide as `across` (n, 3) reaches."""
    n = len(points)
    first = np.arange(n - 1)
    quads = [np.column_stack([first, first + 1, first + n]), np.column_stack([first + 1, first + n + 1, first + n])]
    return Mesh(np.concatenate([points, points + across]), np.concatenate(quads))


def brick() -> Mesh:
    """Walls and a lid without a floor, a second such shell within, studs on it, and open tubes under it."""
    outer = opened(primitive("box", size=[32, 16, 10]), (0, 0, -1))
    inner = reversed_(opened(primitive("box", (0, 0, -0.5), size=[29, 13, 9]), (0, 0, -1)))
    studs = [
        primitive("cylinder", (x, y, 6), radius=2.4, height=2.2, facets=24) for x in (-12, -4, 4, 12) for y in (-4, 4)
    ]
    tubes = []
    for x in (-8, 0, 8):
        tube = primitive("cylinder", (x, 0, -0.5), radius=3.2, height=9, facets=24)
        tubes.append(opened(opened(tube, (0, 0, 1)), (0, 0, -1)))
    return together(outer, inner, *studs, *tubes)


def cover() -> Mesh:
    """A shield of two sheets that are not joined at their rims, with bolts through it and a closed boss behind."""
    turn = np.linspace(-1.2, 1.2, 40)
    sheets = []
    for radius in (30, 28.5):
        rim = np.column_stack([radius * np.sin(turn), np.full(40, -20.0), radius * np.cos(turn)])
        sheet = strip(rim, np.tile([0.0, 40.0, 0.0], (40, 1)))
        sheets.append(sheet if radius == 30 else reversed_(sheet))
    bolts = [primitive("cylinder", (0, y, 29), radius=2, height=6, facets=20) for y in (-12, 0, 12)]
    return together(*sheets, *bolts, primitive("sphere", (0, 0, 24), radius=7, facets=32))


def spine(scale: float = 1.0) -> Mesh:
    """Fifteen bodies in a bow, each on the next: some a hair apart, some a hair within, some in full contact."""
    found = []
    for n in range(15):
        high = 6.0 + (0, 1e-7, -1e-7)[n % 3]
        body = primitive("box", (0, 0, 6.0 * n), size=[14 - 0.4 * n, 12, high])
        wing = primitive("capsule", (0, 9, 6.0 * n), radius=1.5, length=10, facets=20)
        found += [body, wing]
    mesh = together(*found)
    bow = mesh.vertices[:, 2] / 90
    bent = mesh.vertices + np.column_stack([8 * np.sin(2 * bow), np.zeros(len(bow)), np.zeros(len(bow))])
    return Mesh(scale * bent, mesh.triangles)


def strapped() -> Mesh:
    """A figure with belts laid on its skin as sheets, a blade of no thickness, and rings about its arms."""
    body = primitive("capsule", (0, 0, 30), radius=10, length=50, facets=48)
    head = primitive("sphere", (0, 0, 62), radius=8, facets=48)
    arms = [primitive("capsule", (s * 13, 0, 36), radius=3.5, length=30, facets=32) for s in (-1, 1)]
    rings = [primitive("torus", (s * 13, 0, 30), ring_radius=3.6, tube_radius=0.8, facets=32) for s in (-1, 1)]
    turn = np.linspace(0, 2 * np.pi, 65)
    belts = []
    for z, reach in ((26, 10.0), (34, 10.05), (40, 10.4)):
        around = np.column_stack([reach * np.cos(turn), reach * np.sin(turn), np.full(65, float(z))])
        belts.append(strip(around, np.tile([0.0, 0.0, 3.0], (65, 1))))
    edge = np.column_stack([np.full(12, -16.0), np.linspace(-4, -30, 12), np.full(12, 22.0)])
    return together(body, head, *arms, *rings, *belts, strip(edge, np.tile([0.0, 0.0, 4.0], (12, 1))))


def leaves() -> Mesh:
    """A stem, with two dozen leaves of one sheet each that run through it and each other."""
    stem = primitive("cylinder", (0, 0, 20), radius=2, height=40, facets=24)
    found = [stem]
    for n in range(24):
        along = np.linspace(0, 14, 8)
        turn = 2.4 * n
        way = np.array([np.cos(turn), np.sin(turn), 0.35])
        side = 4 * np.array([-np.sin(turn), np.cos(turn), 0.0])
        middle = np.array([0, 0, 6 + 1.3 * n]) + along[:, None] * way - side / 2
        found.append(strip(middle, np.tile(side, (8, 1))))
    return together(*found)


def drawn() -> Mesh:
    """Blocks and pins that share whole faces and rims, no two cut up alike."""
    plate = primitive("box", (0, 0, 2), size=[40, 30, 4])
    blocks = [primitive("box", (x, 0, 9), size=[8, 30, 10]) for x in (-16, 16)]
    pins = [primitive("cylinder", (x, 8, 9), radius=3, height=10, facets=f) for x, f in ((-6, 17), (6, 40))]
    beam = primitive("box", (0, 0, 16), size=[40, 10, 4])
    return together(plate, *blocks, *pins, beam)


def corners() -> Mesh:
    """Blocks that touch in an edge or in a corner only."""
    at = [(0, 0, 0), (10, 10, 0), (0, 10, 10), (20, 0, 0), (20, 20, 10), (10, 0, 20)]
    return together(*(primitive("box", p, size=[10, 10, 10]) for p in at))


def tangled(facets: int) -> Mesh:
    """Two rough balls far into each other, a ring through both: thousands of crossings."""
    rng = np.random.default_rng(5)
    found = []
    for at in ((-6, 0, 0), (6, 2, 1)):
        ball = primitive("sphere", at, radius=14, facets=facets)
        length = 1 + 0.012 * rng.standard_normal(len(ball.vertices))
        found.append(Mesh((ball.vertices - at) * length[:, None] + at, ball.triangles))
    ring = primitive("torus", ring_radius=14, tube_radius=4, facets=facets, tube_facets=facets // 2)
    return together(*found, ring)


KINDS: dict[str, Callable[[], Mesh]] = {
    "brick": brick,
    "cover": cover,
    "spine": spine,
    "strapped": strapped,
    "leaves": leaves,
    "drawn": drawn,
    "corners": corners,
}


def hard_meshes(quick: bool) -> Iterator[tuple[str, Mesh]]:
    """Every kind as it is, tiny, and far out; damaged in every pair of ways; and the large ones."""
    for name, make in KINDS.items():
        mesh = make()
        yield name, mesh
        yield f"{name}, tiny", moved(mesh, (0, 0, 0), 0.002)
        yield f"{name}, far out", moved(mesh, (4000, -2500, 900))
        yield f"{name}, loose", damaged(mesh, [jittered])
    for number, (one, other) in enumerate(combinations(PAIRED, 2)):
        name, make = list(KINDS.items())[number % len(KINDS)]
        yield f"{name}, {one} and {other}", damaged(make(), [PAIRED[one], PAIRED[other]], seed=number)
    yield "tangled", tangled(64)
    if not quick:
        yield "tangled, fine", tangled(160)
