"""A large piece tile by tile: what an edit does not touch is not joined again, and never the whole at once.

Space is divided by planes square to the axes until few parts come into each tile. A join asks of every point only which
parts hold it, so a tile's result needs only the parts that come in. The tiles' skins, without the walls between them,
are one skin: their vertices on the walls are the same points, and surfaces that hang together through those are one
shell. The volume that a shell encloses is the sum over its triangles (the divergence theorem), in whatever tile they
are.

The planes lie where no round number does, so that no face of a part lies in one. Whether the walls fit together is
checked: the tiles' volumes, walls included, must add up to the shells'. Where they do not, there is no skin.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cached_property
from io import BytesIO
from itertools import compress, groupby
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.evaluate.boxes import Boxes
from noble_clay.core.evaluate.cache import ByteCache
from noble_clay.core.evaluate.evaluator import Evaluator, check_size
from noble_clay.core.evaluate.keys import hashed
from noble_clay.core.fields import MAX_COORDINATE
from noble_clay.core.kernel.booleans import WALL, block, boolean
from noble_clay.core.kernel.coincidence import snap_coincident
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.mesh.boxes import through
from noble_clay.core.mesh.close_points import close_pairs
from noble_clay.core.mesh.gather import connected_components, lowest_of_components
from noble_clay.core.mesh.inspect import contact_flaws, contact_pairs, loose_bodies
from noble_clay.core.mesh.mass import is_film, shell_sums
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, double_normals
from noble_clay.core.mesh.tolerances import CONTACT, SLIVER
from noble_clay.core.mesh.topology import vertex_shells
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import place_matrix

Parts = tuple[Part, ...]
_Around = dict[int, tuple[list[Part], Floats, NDArray[np.bool_]]]
"""Of a list by its identity: its parts that count, their boxes (k, 2, 3), and which of them intersect (k,).
"""

MOST_IN, TOO_MANY_IN = 12, 30
"""Parts that come into a tile when it is made, and those at which it is divided again."""

ODD = 0.4437
"""Where in the gap between two faces a dividing plane goes: at no round number."""

MATCH = 1e-7
"""Points of two tiles this near each other on their wall are one, mm; where parts were made to meet, 2 · `CONTACT`."""

BUDGET = 200_000_000
"""Bytes of tiles that are kept."""


@dataclass(frozen=True, eq=False)
class Tile:
    """The skin of a piece inside one tile, its walls left out.

    part_of: (m,) index into `parts` of every triangle. shell: (m,). volumes, areas: (shells,) what the skin of each
    adds to the volume, seen from the origin, mm³, and its area, mm². on_wall: vertices (k,) on a wall. volume: mm³, of
    the closed solid. has_coincident_faces: whether parts were made to meet in it. touches: whether its skin may touch
    itself.
    """

    key: str
    mesh: Mesh
    part_of: Ints
    parts: tuple[str, ...]
    shell: Ints
    volumes: Floats
    areas: Floats
    on_wall: Ints
    volume: float
    has_coincident_faces: bool
    touches: bool

    @property
    def nbytes(self) -> int:
        return 1_000 + sum(a.nbytes for a in (self.mesh.vertices, self.mesh.triangles, self.part_of, self.shell))

    @staticmethod
    def of(key: str, solid: Solid) -> Tile:
        mesh, part_of, parts = solid.mesh_with_parts()
        walls = part_of == parts.index(WALL) if WALL in parts else np.zeros(len(part_of), dtype=bool)
        pairs = contact_pairs(mesh, CONTACT)
        walled = np.zeros(len(mesh.vertices), dtype=bool)
        walled[mesh.triangles[walls]] = True
        used = np.zeros(len(mesh.vertices), dtype=bool)
        used[mesh.triangles[~walls]] = True
        skin = mesh.keep(~walls)
        number, shell = vertex_shells(skin)
        across = double_normals(skin)
        each = np.einsum("ij,ji->i", skin.vertices[skin.triangles[:, 0]], across) / 6
        return Tile(
            key,
            skin,
            part_of[~walls],
            parts,
            shell,
            shell_sums(shell, each, number),
            shell_sums(shell, np.sqrt((across * across).sum(axis=0)) / 2, number),
            np.flatnonzero(walled[used]),
            solid.volume,
            solid.has_coincident_faces,
            bool(np.any(~walled[pairs].any(axis=1))),
        )

    def dump(self) -> bytes:
        """What `load` reads."""
        file = BytesIO()
        np.savez(
            file,
            facts=np.array(json.dumps([self.parts, self.volume, self.has_coincident_faces, self.touches])),
            vertices=self.mesh.vertices,
            triangles=self.mesh.triangles.astype(np.uint32),
            part_of=self.part_of.astype(np.uint32),
            shell=self.shell.astype(np.uint32),
            volumes=self.volumes,
            areas=self.areas,
            on_wall=self.on_wall,
        )
        return file.getvalue()

    @staticmethod
    def load(key: str, data: bytes) -> Tile:
        with np.load(BytesIO(data), allow_pickle=False) as file:
            parts, volume, coincident, touches = json.loads(str(file["facts"]))
            mesh = Mesh(file["vertices"], file["triangles"].astype(np.int64))
            part_of, shell = (file[name].astype(np.int64) for name in ("part_of", "shell"))
            sums = file["volumes"], file["areas"]
            return Tile(key, mesh, part_of, tuple(parts), shell, *sums, file["on_wall"], volume, coincident, touches)


@dataclass(frozen=True, eq=False)
class Skin:
    """Tiles put together: what they say of the piece, and, when it is asked for, the skin as it is seen.

    part_ids: what indices of parts mean. volumes, areas: (shells,) mm³ and mm². same: (k, 2) vertices that are one, on
    walls, all tiles' vertices counted on. kept: (shells of tiles,) whether a shell is no sliver.
    """

    key: str
    tiles: tuple[Tile, ...]
    part_ids: tuple[str, ...]
    volumes: Floats
    areas: Floats
    same: Ints
    kept: NDArray[np.bool_]
    left_out: dict[str, str]

    @property
    def triangles(self) -> int:
        ends = np.cumsum([0, *(len(t.volumes) for t in self.tiles)])
        keeps = [self.kept[a:b] for a, b in zip(ends[:-1], ends[1:], strict=True)]
        return sum(
            len(t.shell) if own.all() else int(own[t.shell].sum()) for t, own in zip(self.tiles, keeps, strict=True)
        )

    @property
    def vertices(self) -> int:
        return sum(len(t.mesh.vertices) for t in self.tiles) - len(np.unique(self.same[:, 1]))

    @property
    def bounds(self) -> Floats | None:
        """(2, 3) mm, None when empty."""
        if not self.tiles:
            return None
        points = [(t.mesh.vertices.min(axis=0), t.mesh.vertices.max(axis=0)) for t in self.tiles]
        return np.array([np.min([low for low, _ in points], axis=0), np.max([high for _, high in points], axis=0)])

    @cached_property
    def mesh(self) -> Mesh:
        """Its vertices on walls welded; an edge of one tile may meet two of its neighbour there."""
        return self._assembled[0]

    @property
    def part_of(self) -> Ints:
        """(m,) index into `part_ids` of every triangle of the mesh."""
        return self._assembled[1]

    @cached_property
    def _assembled(self) -> tuple[Mesh, Ints]:
        if not self.tiles:
            return Mesh.empty(), np.zeros(0, dtype=np.int64)
        starts = np.cumsum([0, *(len(t.mesh.vertices) for t in self.tiles)])
        shells = np.cumsum([0, *(len(t.volumes) for t in self.tiles)])
        index = {name: i for i, name in enumerate(self.part_ids)}
        # The lowest of the vertices that are one stands for all.
        first = lowest_of_components(int(starts[-1]), self.same)
        triangles, part_of = [], []
        for tile, start, shell in zip(self.tiles, starts, shells, strict=False):
            own = self.kept[shell + tile.shell]
            triangles.append(first[tile.mesh.triangles[own] + start])
            part_of.append(np.array([index.get(p, 0) for p in tile.parts])[tile.part_of[own]])
        vertices = np.concatenate([t.mesh.vertices for t in self.tiles])
        return Mesh(vertices, np.concatenate(triangles)).compact(), np.concatenate(part_of)

    @cached_property
    def soundness(self) -> dict[str, Any]:
        """As `Inspection.values`, but that no genus is told, and that an edge or triangle counts once for every tile
        that it comes into.
        """
        bodies = int(np.sum(self.volumes >= 0))
        touches = any(t.touches for t in self.tiles)
        flaws = contact_flaws(self.mesh, contact_pairs(self.mesh, CONTACT)) if touches else ()
        findings = flaws + loose_bodies(bodies)
        bounds = self.bounds
        manifold = bodies > 0 and not flaws
        return {
            "triangles": self.triangles,
            "vertices": self.vertices,
            "volume_mm3": float(self.volumes.sum()),
            "area_mm2": float(self.areas.sum()),
            "bounds": None if bounds is None else bounds.tolist(),
            "bodies": bodies,
            "voids": len(self.volumes) - bodies,
            "genus": None,
            "manifold": manifold,
            "findings": [f.values() for f in findings],
            "sound": manifold and not findings and not self.left_out,
            "left_out": [{"part": part, "why": why} for part, why in self.left_out.items()],
            "tiled": True,
        }


class TileStore(Protocol):
    """Where tiles are laid down as bytes, and may be gone from when they are wanted again."""

    def get(self, key: str) -> bytes | None: ...

    def put(self, key: str, data: bytes) -> None: ...


class TiledSkins:
    """Skins of pieces, each piece's tiles where they were when it was first asked for."""

    def __init__(self, evaluator: Evaluator, shelf: TileStore | None = None, budget: int = BUDGET) -> None:
        self._evaluator = evaluator
        self._shelf = shelf
        self._boxes = Boxes(evaluator)
        self._kept: ByteCache[Tile] = ByteCache(budget)
        self._division: tuple[str, list[Floats]] = "", []

    def skin(self, name: str, piece: Piece) -> Skin | None:
        """The skin of a piece; None where its tiles do not fit together. Raises PieceError as `Evaluator.evaluate`.

        name: of the piece; while it stays the same, so do its tiles.
        """
        with self._evaluator.leaving_out() as left_out:
            for part in piece.walk():
                if part.mesh is not None:
                    self._evaluator.geometry(part)
        boxes = self._divided(name, piece)
        tiles, triangles = [], 0
        around: _Around = {}
        for box in boxes:
            parts = self._coming_in(piece.parts, box, around)
            if parts:
                tiles.append(self._tile(parts, box))
                triangles += len(tiles[-1].mesh.triangles)
                check_size(triangles)
        return _together(tiles, left_out)

    def _divided(self, name: str, piece: Piece) -> list[Floats]:
        """The boxes (2, 3) of the tiles."""
        low, high = self._leaves(piece.parts)
        known, boxes = self._division
        if known != name:
            boxes = [np.array([[-2.0], [2.0]]) * np.full((1, 3), MAX_COORDINATE)]
        at_most = TOO_MANY_IN if known == name else MOST_IN
        found: list[Floats] = []
        for box in boxes:
            inside = np.flatnonzero(np.all((low <= box[1]) & (high >= box[0]), axis=1))
            found.extend(_divided(box, low[inside], high[inside], MOST_IN) if len(inside) > at_most else [box])
        self._division = name, found
        return found

    def _leaves(self, parts: Parts, matrix: Floats | None = None) -> tuple[Floats, Floats]:
        """(k, 3) lowest and highest corners of the boxes around the parts of a list and of plain joins in it."""
        boxes: list[Floats] = []
        for part in (p for p in parts if not p.reference):
            if part.plain_join:
                own = place_matrix(part.place, part.flip)
                low, high = self._leaves(part.children)
                boxes.extend(through(np.array(b), own) for b in zip(low, high, strict=True))
            else:
                boxes.append(self._boxes.of(part))
        every = np.array(boxes).reshape(-1, 2, 3)
        every = every[every[:, 0, 0] < np.inf]
        return every[:, 0], every[:, 1]

    def _coming_in(self, parts: Parts, box: Floats, around: _Around) -> Parts:
        """The parts of a list that a box of its frame needs, in order; plain joins with only those of theirs.

        around: the boxes of lists by their identity, filled in here.
        """
        if id(parts) not in around:
            lines = [p for p in parts if not p.reference]
            boxes = np.array([self._boxes.of(p) for p in lines]).reshape(-1, 2, 3)
            around[id(parts)] = lines, boxes, np.array([p.op == "intersection" for p in lines], dtype=bool)
        lines, boxes, crossing = around[id(parts)]
        comes = np.all((boxes[:, 0] <= box[1] + CONTACT) & (boxes[:, 1] >= box[0] - CONTACT), axis=1)
        found: list[Part] = []
        for part in compress(lines, comes | crossing):
            if not found and part.op == "difference":
                continue
            if part.plain_join and part.join is not None:
                within = self._coming_in(
                    part.join.parts, through(box, inverse(place_matrix(part.place, part.flip))), around
                )
                if within != part.join.parts:
                    part = part.model_copy(update={"join": part.join.model_copy(update={"parts": within})})
            found.append(part)
        return tuple(found)

    def _tile(self, parts: Parts, box: Floats) -> Tile:
        key = hashed(["tile with sums", box.tolist(), self._evaluator.keys.parts(parts)])
        found = self._kept.get(key) or self._laid_down(key)
        if found is None:
            placed = [self._evaluator.part_solid(p) for p in parts]
            solids = snap_coincident(placed, [p.op for p in parts])
            result = Solid.nothing()
            for op, run in groupby(zip(parts, solids, strict=True), key=lambda each: each[0].op):
                entering = [s for _, s in run if not s.empty or op == "intersection"]
                first = [result] if op != "union" or not result.empty else []
                result = boolean(op, first + entering) if entering else result
            found = Tile.of(key, boolean("intersection", [result, block(box)]))
            if self._shelf is not None:
                self._shelf.put(key, found.dump())
        self._kept.put(key, found)
        return found

    def _laid_down(self, key: str) -> Tile | None:
        data = self._shelf.get(key) if self._shelf is not None else None
        return Tile.load(key, data) if data else None


def _divided(box: Floats, low: Floats, high: Floats, most: int) -> list[Floats]:
    """A box divided until at most `most` of the boxes from `low` to `high`, each (k, 3), come into each part of it, or
    dividing helps no more.
    """
    if len(low) <= most:
        return [box]
    best: tuple[float, int, float] | None = None
    for axis in range(3):
        faces = np.unique(np.concatenate([low[:, axis], high[:, axis]]))
        faces = faces[(faces > box[0, axis]) & (faces < box[1, axis])]
        near = len(faces) // 10 + 1
        middle = faces[max(0, len(faces) // 2 - near) : len(faces) // 2 + near]
        if len(middle) < 2:
            continue
        gap = int(np.argmax(np.diff(middle)))
        at = float(middle[gap] + ODD * (middle[gap + 1] - middle[gap]))
        counts = int(np.sum(low[:, axis] <= at)), int(np.sum(high[:, axis] >= at))
        cost = max(counts) + sum(counts) / 2
        if max(counts) < 0.9 * len(low) and (best is None or cost < best[0]):
            best = cost, axis, at
    if best is None:
        return [box]
    _, axis, at = best
    lower, upper = box.copy(), box.copy()
    lower[1, axis] = upper[0, axis] = at
    below, above = low[:, axis] <= at, high[:, axis] >= at
    return _divided(lower, low[below], high[below], most) + _divided(upper, low[above], high[above], most)


def _together(tiles: list[Tile], left_out: dict[str, str]) -> Skin | None:
    key = hashed(["tiles", *(t.key for t in tiles)])
    enclosed = sum(t.volume for t in tiles)
    filled = tuple(t for t in tiles if len(t.mesh.triangles))
    names = tuple(dict.fromkeys(p for t in filled for p in t.parts if p != WALL))
    if not filled:
        nothing = np.zeros((0, 2), dtype=np.int64)
        return Skin(key, (), names, np.zeros(0), np.zeros(0), nothing, np.zeros(0, dtype=bool), dict(left_out))
    starts = np.cumsum([0, *(len(t.mesh.vertices) for t in filled)])
    shells = np.cumsum([0, *(len(t.volumes) for t in filled)])
    on_wall, points, shell_at, owner = [], [], [], []
    for i, tile in enumerate(filled):
        of_vertex = np.zeros(len(tile.mesh.vertices), dtype=np.int64)
        of_vertex[tile.mesh.triangles] = tile.shell[:, None]
        on_wall.append(tile.on_wall + starts[i])
        points.append(tile.mesh.vertices[tile.on_wall])
        shell_at.append(of_vertex[tile.on_wall] + shells[i])
        owner.append(np.full(len(tile.on_wall), i))
    near = 2 * CONTACT if any(t.has_coincident_faces for t in filled) else MATCH
    pairs = close_pairs(np.concatenate(points), np.concatenate(owner), near)
    number, joined = connected_components(int(shells[-1]), np.ascontiguousarray(np.concatenate(shell_at)[pairs]))
    volumes, areas = (
        shell_sums(joined, np.concatenate(of), number)
        for of in ([t.volumes for t in filled], [t.areas for t in filled])
    )
    if abs(volumes.sum() - enclosed) > MATCH * np.abs(volumes).sum() + CONTACT:
        return None
    thin = (
        is_film(volumes, areas, SLIVER) if any(t.has_coincident_faces for t in filled) else np.zeros(number, dtype=bool)
    )
    same = np.concatenate(on_wall)[pairs]
    return Skin(key, filled, names, volumes[~thin], areas[~thin], same, ~thin[joined], dict(left_out))
