"""Evaluating a piece: every list of parts combined in order, each subtree kept under the hash of what shapes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.fields import MAX_COORDINATE
from noble_clay.core.measure.mass import shell_sums, volumes_and_areas
from noble_clay.core.mend.inspect import Inspection, inspect_solid, with_crossings
from noble_clay.core.mend.topology import vertex_shells
from noble_clay.core.mesh import Floats, Ints, Mesh
from noble_clay.core.piece.limits import MAX_TRIANGLES
from noble_clay.core.piece.models import Join, Part, Piece
from noble_clay.core.piece.placing import compose, place_matrix
from noble_clay.core.solid.cache import ByteCache
from noble_clay.core.solid.crossing import Crossings, crossings_anywhere, crossings_of
from noble_clay.core.solid.keys import Keys, hashed
from noble_clay.core.solid.meet import CONTACT, made_to_meet
from noble_clay.core.solid.solid import Solid, boolean
from noble_clay.core.solid.watch import Watch, naming
from noble_clay.core.solid.written import Written, read_back, written

Assets = Callable[[str], Mesh]
"""From the SHA-256 of a mesh asset to its mesh; raises MeshError when there is none."""

Parts = tuple[Part, ...]
MOST_LISTS = 20_000
"""Lists whose last keys are remembered, and parts whose keys are."""


def no_assets(sha256: str) -> Mesh:
    raise MeshError(f"the mesh {sha256[:12]}… is not there")


@dataclass(frozen=True, eq=False)
class Result:
    """A piece as one solid.

    key: what shapes it, hashed. left_out: parts that could not count, with the reason. crossing: parts whose own
    surface runs through itself. `mesh`, `part_of` and `part_ids` say the surface and which part every triangle came
    from; `written` says the surface as files hold it.
    """

    key: str
    solid: Solid
    left_out: dict[str, str]
    crossing: frozenset[str] = frozenset()

    @cached_property
    def _read(self) -> tuple[Mesh, NDArray[np.int64], tuple[str, ...]]:
        return self.solid.mesh_with_parts()

    @cached_property
    def shells(self) -> tuple[int, Ints]:
        """How many, and for every triangle (m,) which: what hangs together through shared vertices."""
        return vertex_shells(self.mesh)

    @cached_property
    def measures(self) -> tuple[Floats, Floats]:
        """(m,) mm³ and (m,) mm²: as `volumes_and_areas` tells them."""
        return volumes_and_areas(self.mesh)

    @cached_property
    def written(self) -> Written:
        """The surface as files hold it; its triangles mean the same parts."""
        return written(self.mesh, self.part_of)

    @cached_property
    def inspection(self) -> Inspection:
        """Whether the solid is sound, as files hold it; and what it measures, before it is rounded for them."""
        mesh = self.written.mesh
        as_it_was = mesh.triangles is self.mesh.triangles
        found = inspect_solid(mesh, CONTACT, self.written.merged, self.shells if as_it_was else None)
        if found.triangles:
            volumes, areas = self.measures
            found = replace(found, volume=float(volumes.sum()), area=float(areas.sum()), bounds=self.mesh.bounds)
        crossings = crossings_of(mesh, self.written.part_of, self.part_ids, self.crossing)
        if not crossings:
            crossings = crossings_anywhere(read_back(mesh), len(self.part_ids))
        return with_crossings(found, crossings)

    @property
    def mesh(self) -> Mesh:
        return self._read[0]

    @property
    def part_of(self) -> NDArray[np.int64]:
        """(m,) index into `part_ids` of every triangle."""
        return self._read[1]

    @property
    def part_ids(self) -> tuple[str, ...]:
        return self._read[2]


class Evaluator:
    """Turns pieces into solids and remembers what it made, within a budget of bytes."""

    def __init__(self, budget: int = 512_000_000, assets: Assets = no_assets) -> None:
        self.cache: ByteCache[Solid] = ByteCache(budget)
        self._assets = assets
        self._meshes: ByteCache[Mesh] = ByteCache(budget // 4)
        self.left_out: dict[str, str] = {}
        self._failures = 0
        self.keys = Keys()
        self._last_keys: dict[str, list[str]] = {}
        self.crossings = Crossings(self)
        self.watch = Watch()

    def evaluate(self, piece: Piece, crossings: bool = True) -> Result:
        """crossings: look for parts that run through themselves; without, none is told of. Raises PieceError for a part
        beyond the allowed coordinates or too many triangles.
        """
        self.begin()
        solid = self.list_solid(piece.parts)
        check_size(int(solid.manifold.num_tri()))
        key = self.keys.parts(piece.parts)
        if self.left_out:
            key = hashed(["without", key, *sorted(self.left_out)])
        result = Result(key, solid, dict(self.left_out), self.crossings.parts(piece) if crossings else frozenset())
        if has_slivers(*result.shells, *result.measures):
            result = Result(key, without_slivers(solid), result.left_out, result.crossing)
        return result

    def begin(self) -> None:
        """Forget what was noted of the piece before."""
        self.left_out = {}
        if len(self.keys) > MOST_LISTS:
            self.keys = Keys()
        if len(self._last_keys) > MOST_LISTS:
            self._last_keys.clear()

    def list_solid(self, parts: Parts) -> Solid:
        """A list of parts combined in order, starting from nothing; references left out."""
        key = self.keys.parts(parts)
        found = self.cache.get(key)
        if found is None:
            before = self._failures
            found = self._combined([p for p in parts if not p.reference])
            if self._failures == before:  # a mesh that is missing now may come yet
                self.cache.put(key, found)
        return found

    def part_solid(self, part: Part) -> Solid:
        """A part with its copies, in its parent's frame. Raises PieceError, also for a fault in making it."""
        self.watch.begin(part)
        with naming(part):
            return self._part_solid(part)

    def _part_solid(self, part: Part) -> Solid:
        key = self.keys.part(part)
        kept = self.cache.get(key)
        if kept is not None:
            return kept
        before = self._failures
        base = self.geometry(part)
        if base.empty:
            return base
        place = place_matrix(part.place, part.flip)
        if part.copies is None:
            placed = base.placed(place)
        else:
            placed = boolean("union", made_to_meet([base.placed(compose(m, place)) for m in part.copies.matrices()]))
            check_size(int(placed.manifold.num_tri()), part)
        low_x, low_y, low_z, high_x, high_y, high_z = placed.manifold.bounding_box()
        if max(-low_x, -low_y, -low_z, high_x, high_y, high_z) > MAX_COORDINATE:
            raise PieceError(Problem(f"it reaches beyond ±{MAX_COORDINATE:,.0f} mm", part.id, "place"))
        if self._failures == before:
            self.cache.put(key, placed)
        return placed

    def geometry(self, part: Part) -> Solid:
        """A part's own shape in its own frame, its changes made, before placing.

        Raises PieceError for a change that cannot be made to it.
        """
        return self._changed(part, len(part.changes))

    def _changed(self, part: Part, count: int) -> Solid:
        """The part's shape after the first `count` of its changes; each step is kept, so that the next begins there."""
        while count and part.changes[count - 1].off:
            count -= 1
        if count == 0:
            return self._unchanged(part)
        key = f"{self.keys.changed(part, count)}:{part.id}"
        found = self.cache.get(key)
        if found is None:
            failures = self._failures
            found = self._made(part, count - 1, self._changed(part, count - 1))
            if self._failures == failures:
                self.cache.put(key, found)
        return found

    def _made(self, part: Part, index: int, before: Solid) -> Solid:
        change = part.changes[index]
        self.watch.begin(part, f"changes[{index}]")
        if before.empty:
            return before
        many = change.triangles_after(int(before.manifold.num_tri()))
        if many > MAX_TRIANGLES:
            most = f"it would make {many:,} triangles; a piece has at most {MAX_TRIANGLES:,}"
            raise PieceError(Problem(most, part.id, f"changes[{index}]"))
        try:
            with naming(part, f"changes[{index}]"):
                found = change.made(before)
        except MeshError as error:
            raise PieceError(Problem(str(error), part.id, f"changes[{index}]")) from None
        check_size(int(found.manifold.num_tri()), part)
        return found

    def _unchanged(self, part: Part) -> Solid:
        if part.join is not None:
            return self.join_solid(part)
        key = f"{self.keys.changed(part, 0)}:{part.id}"
        found = self.cache.get(key)
        if found is None:
            try:
                found = Solid.from_mesh(self._raw_mesh(part), part.id, part.primitive is not None)
            except MeshError as error:
                self.left_out[part.id] = str(error)
                self._failures += 1
                return Solid.nothing()
            self.cache.put(key, found)
        return found

    def own_mesh(self, part: Part) -> Mesh:
        """The mesh of a primitive or mesh part in its own frame, its changes made, as it is shown.

        Raises MeshError when its asset is not there, PieceError for a change that cannot be made.
        """
        return self.geometry(part).mesh_only() if part.changed else self._raw_mesh(part)

    def _raw_mesh(self, part: Part) -> Mesh:
        if part.primitive is not None:
            return part.primitive.mesh()
        assert part.mesh is not None
        return self.asset(part.mesh.asset)

    def asset(self, sha256: str) -> Mesh:
        """A mesh that was brought in. Raises MeshError when it is not there."""
        found = self._meshes.get(sha256)
        if found is None:
            found = self._assets(sha256)
            self._meshes.put(sha256, found)
        return found

    def join_solid(self, part: Part) -> Solid:
        """What a join's list becomes in the join's own frame, run together where it has a blend."""
        join = part.join
        assert join is not None
        if join.blend == 0:
            return self.list_solid(join.parts)
        key = self.keys.join(join)
        found = self.cache.get(key)
        if found is None:
            before = self._failures
            try:
                with naming(part, "join.blend"):
                    found = self._blended(join)
            except MeshError as error:
                raise PieceError(Problem(str(error), part.id, "join.blend", join.blend)) from None
            if self._failures == before:
                self.cache.put(key, found)
        return found

    def _blended(self, join: Join) -> Solid:
        """The list in order, each step run together over the blend; what stands after each step is kept."""
        from noble_clay.core.solid.blend import Blending, blended, check_radius, default_cell

        lines = [p for p in join.parts if not p.reference]
        placed = [self.part_solid(p) for p in lines]
        solids = made_to_meet(placed, [p.op for p in lines])
        plain = all(s.manifold is p.manifold for s, p in zip(solids, placed, strict=True))
        keys = [self.keys.part(p) for p in lines]
        body = Blending.of(Solid.nothing())
        for index, (line, solid) in enumerate(zip(lines, solids, strict=True)):
            if body.solid.empty or solid.empty:
                body = Blending.of(boolean(line.op, [body.solid, solid])) if index else Blending.of_part(line, solid, 0)
                continue
            self.watch.begin(line, "blend")
            check_radius(join.blend, body.solid, solid)
            cell = join.fineness or default_cell(join.blend, body.solid, solid)
            key = hashed(["blended", join.blend, join.fineness, *keys[: index + 1]])
            found = self.cache.get(key) if plain else None
            if found is None:
                tool = Blending.of_part(line, solid, cell)
                first = Blending.of_part(lines[0], solids[0], cell) if index == 1 else body
                found = blended(line.op, first, tool, join.blend, cell)
                check_size(int(found.manifold.num_tri()))
                if plain:
                    self.cache.put(key, found)
            body = Blending.of(found)
        return body.solid

    def _combined(self, parts: list[Part]) -> Solid:
        """The parts in order, in runs of one op; what stands after each run is kept, for later edits to begin there."""
        before = self._failures
        placed = [self.part_solid(p) for p in parts]
        solids = made_to_meet(placed, [p.op for p in parts])
        as_they_were = all(s.manifold is p.manifold for s, p in zip(solids, placed, strict=True))
        plain = as_they_were and self._failures == before
        keys = [self.keys.part(p) for p in parts]
        result = Solid.nothing()
        at = 0
        while at < len(parts):
            end = next((i for i in range(at, len(parts)) if parts[i].op != parts[at].op), len(parts))
            key = hashed(["run", *keys[:end]])
            found = self.cache.get(key) if plain else None
            if found is None:
                found = self._run(parts, keys, solids, result, at, end, plain)
                if plain:
                    self.cache.put(key, found)
            result, at = found, end
        return result

    def _run(
        self, parts: list[Part], keys: list[str], solids: list[Solid], before: Solid, at: int, end: int, plain: bool
    ) -> Solid:
        """`before` combined with the solids from `at` to `end`, which all enter by the same op."""
        op = parts[at].op
        self.watch.go_on()
        run = [s for s in solids[at:end] if not s.empty or op == "intersection"]
        if at > 0:
            return boolean(op, [before, *run]) if run else before
        moved = self._only_change([p.id for p in parts[:end]], keys[:end])
        if plain and moved is not None and end > 2 and not solids[moved].empty:
            return boolean(op, [self._rest(keys, solids, end, moved), solids[moved]])
        return boolean(op, run) if run else before

    def _only_change(self, ids: list[str], keys: list[str]) -> int | None:
        """Which one of a list's parts differs from when the list was last combined; None when not exactly one does."""
        name = hashed(ids)
        last, self._last_keys[name] = self._last_keys.get(name), keys
        if last is None:
            return None
        changed = [i for i, (old, new) in enumerate(zip(last, keys, strict=True)) if old != new]
        return changed[0] if len(changed) == 1 else None

    def _rest(self, keys: list[str], solids: list[Solid], end: int, without: int) -> Solid:
        """The union of all but one of the first `end` parts: a part that is moved step by step meets it each time."""
        others = [i for i in range(end) if i != without]
        key = hashed(["rest", *(keys[i] for i in others)])
        found = self.cache.get(key)
        if found is None:
            found = boolean("union", [s for i in others if not (s := solids[i]).empty] or [Solid.nothing()])
            self.cache.put(key, found)
        return found


def has_slivers(number: int, shell: Ints, volumes: Floats, areas: Floats) -> bool:
    """Whether a shell is thinner than the contact distance: what rounding leaves where curved faces coincide.

    number: of shells. shell, volumes (mm³), areas (mm²): (m,) of every triangle.
    """
    return bool(np.any(is_sliver(shell_sums(shell, volumes, number), shell_sums(shell, areas, number))))


def is_sliver(volumes: Floats, areas: Floats) -> NDArray[np.bool_]:
    """(n,) which shells of these volumes, mm³, and areas, mm², are thinner than the contact distance."""
    found: NDArray[np.bool_] = np.abs(volumes) <= CONTACT / 4 * areas
    return found


def without_slivers(solid: Solid) -> Solid:
    """The solid without shells thinner than the contact distance."""
    kept = [s for s in solid.manifold.decompose() if abs(s.volume()) > CONTACT / 4 * s.surface_area()]
    return Solid(Manifold.compose(kept), solid.labels, solid.planes) if kept else Solid.nothing()


def check_size(triangles: int, part: Part | None = None) -> None:
    """Raises PieceError for more triangles than a piece may have."""
    if triangles > MAX_TRIANGLES:
        where = part.id if part else None
        raise PieceError(Problem(f"{triangles:,} triangles; a piece has at most {MAX_TRIANGLES:,}", where))
