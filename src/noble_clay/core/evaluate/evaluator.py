"""Evaluating a piece: every list of parts combined in order, each subtree kept under the hash of what shapes it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from cachetools import LRUCache

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.evaluate.cache import ByteCache
from noble_clay.core.evaluate.fineness import ROUGHLY
from noble_clay.core.evaluate.keys import Keys, hashed
from noble_clay.core.evaluate.result import Result, has_slivers
from noble_clay.core.evaluate.self_intersections import Crossings
from noble_clay.core.evaluate.watch import Watch, naming
from noble_clay.core.field.forms import Form
from noble_clay.core.field.memory import Memory
from noble_clay.core.fields import MAX_COORDINATE
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.coincidence import snap_coincident, were_moved
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import CONTACT, SLIVER
from noble_clay.core.piece.limits import MAX_TRIANGLES
from noble_clay.core.piece.models import Part, Piece, is_soft
from noble_clay.core.piece.placing import standing

Assets = Callable[[str], Mesh]
"""From the SHA-256 of a mesh asset to its mesh; raises MeshError when there is none."""

Parts = tuple[Part, ...]
MOST_LISTS = 20_000
"""Lists whose last keys are remembered."""


def no_assets(sha256: str) -> Mesh:
    raise MeshError(f"the mesh {sha256[:12]}… is not there")


class Evaluator:
    """Turns pieces into solids and remembers what it made, within a budget of bytes."""

    def __init__(self, budget: int = 512_000_000, assets: Assets = no_assets, watch: Watch | None = None) -> None:
        self.cache: ByteCache[Solid] = ByteCache(budget)
        self._assets = assets
        self._meshes: ByteCache[Mesh] = ByteCache(budget // 4)
        self._left_out: dict[str, str] | None = None
        self._unlasting = 0  # counts what is made and is not to be kept, nor anything made of it
        self._roughly = False
        self.keys = Keys()
        self._last_keys: Any = LRUCache(MOST_LISTS)
        self._forms: ByteCache[Form] = ByteCache(budget // 4)
        self._rough: ByteCache[Solid] = ByteCache(budget // 8)
        self._memory = Memory(budget // 8)
        self.watch = watch or Watch()
        self.crossings = Crossings(self.keys, self.geometry, self.watch)

    def evaluate(self, piece: Piece, crossings: bool = True) -> Result:
        """crossings: look for parts that run through themselves; without, none is told of. Raises PieceError for a part
        beyond the allowed coordinates or too many triangles.
        """
        with self.leaving_out() as left_out:
            solid = self.list_solid(piece.parts)
        check_size(solid.triangles)
        key = self.keys.parts(piece.parts)
        if left_out:
            key = hashed(["without", key, *sorted(left_out)])
        result = Result(key, solid, left_out, self.crossings.parts(piece) if crossings else frozenset())
        if has_slivers(*result.shells, *result.measures):
            result = Result(key, solid.without_films(SLIVER), result.left_out, result.crossing)
        return result

    @contextmanager
    def leaving_out(self) -> Iterator[dict[str, str]]:
        """The parts that could not count in what is made inside, with the reason of each."""
        found: dict[str, str] = {}
        before, self._left_out = self._left_out, found
        try:
            yield found
        finally:
            self._left_out = before

    @contextmanager
    def roughly(self) -> Iterator[None]:
        """Inside, what goes by a lattice and is not kept is made on a coarser one: to be seen while a hand moves."""
        before, self._roughly = self._roughly, True
        try:
            yield
        finally:
            self._roughly = before

    def list_solid(self, parts: Parts) -> Solid:
        """A list of parts combined in order, starting from nothing; references left out."""
        key = self.keys.parts(parts)
        found = self.cache.get(key)
        if found is None:
            before = self._unlasting
            lines = [p for p in parts if not p.reference]
            found = self.run_together(lines, 0.0, None) if is_soft(parts, 0.0) else self._combined(lines)
            if self._unlasting == before:  # a mesh that is missing now may come yet
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
        before = self._unlasting
        base = self.geometry(part)
        if base.empty:
            return base
        each = [base.placed(matrix) for matrix in standing(part)]
        if part.copies is None:
            (placed,) = each
        else:
            snapped = snap_coincident(each)
            placed = boolean("union", snapped)
            if were_moved(each, snapped):
                placed = placed.contracted(CONTACT)
            check_size(placed.triangles, part)
        low_x, low_y, low_z, high_x, high_y, high_z = placed.bounds.reshape(-1)
        if max(-low_x, -low_y, -low_z, high_x, high_y, high_z) > MAX_COORDINATE:
            raise PieceError(Problem(f"it reaches beyond ±{MAX_COORDINATE:,.0f} mm", part.id, "place"))
        if self._unlasting == before:
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
            failures = self._unlasting
            found = self._made(part, count - 1, self._changed(part, count - 1), key)
            if self._unlasting == failures:
                self.cache.put(key, found)
        return found

    def _made(self, part: Part, index: int, before: Solid, key: str) -> Solid:
        change = part.changes[index]
        self.watch.begin(part, f"changes[{index}]")
        if before.empty:
            return before
        many = change.triangles_after(before.triangles)
        if many > MAX_TRIANGLES:
            most = f"it would make {many:,} triangles; a piece has at most {MAX_TRIANGLES:,}"
            raise PieceError(Problem(most, part.id, f"changes[{index}]"))
        try:
            with naming(part, f"changes[{index}]"):
                found = self._changed_by(change, before, key)
        except MeshError as error:
            raise PieceError(Problem(str(error), part.id, f"changes[{index}]")) from None
        check_size(found.triangles, part)
        return found

    def _changed_by(self, change: ShapeChange, before: Solid, key: str) -> Solid:
        """What a change makes of a solid; a rougher one, not to be kept, while a hand moves, if one comes of it."""
        rough = change.coarser(before, ROUGHLY) if self._roughly else change
        if rough is change:
            return change.made(before)
        self._unlasting += 1
        found = self._rough.get(key)
        if found is None:
            try:
                found = rough.made(before)
            except MeshError:
                found = change.made(before)
            self._rough.put(key, found)
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
                if self._left_out is not None:
                    self._left_out[part.id] = str(error)
                self._unlasting += 1
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
        if not join.soft:
            return self.list_solid(join.parts)
        key = self.keys.join(join)
        found = self.cache.get(key)
        if found is None:
            before = self._unlasting
            try:
                with naming(part, "join.blend"):
                    lines = [p for p in join.parts if not p.reference]
                    found = self.run_together(lines, join.blend, join.fineness)
            except MeshError as error:
                raise PieceError(Problem(str(error), part.id, "join.blend", join.blend)) from None
            if found.crosses_itself:
                self.crossings.left_crossing(part)
            if self._unlasting == before:
                self.cache.put(key, found)
        return found

    def run_together(self, lines: list[Part], blend: float, fineness: float | None) -> Solid:
        """A list in order, each step rounded over its radius, and each told of."""
        from noble_clay.core.evaluate.blends import Entering, joined_softly

        placed = [self.part_solid(p) for p in lines]
        solids = snap_coincident(placed, [p.op for p in lines])
        if self._roughly:
            self._unlasting += 1
            key = hashed(["rough", blend, fineness, *(self.keys.part(p) for p in lines)])
            rough = self._rough.get(key)
            if rough is not None:
                return rough
        entering = [Entering(p, p.radius_in(blend), s) for p, s in zip(lines, solids, strict=True)]
        found = joined_softly(entering, fineness, self._sampled, self._memory, self.watch.begin, self._roughly)
        check_size(found.triangles)
        if self._roughly:
            self._rough.put(key, found)
        return found

    def _sampled(self, part: Part, scale: Floats, cell: float, reach: float) -> Form:
        """A part's own shape, scaled along its axes, as the distance sampled near its surface; kept."""
        from noble_clay.core.field.sampled import sampled_form

        key = hashed(["sampled", self.keys.geometry(part), *scale, cell, reach])
        found = self._forms.get(key)
        if found is None:
            mesh = self.geometry(part).mesh_only()
            found = sampled_form(Mesh(mesh.vertices * scale, mesh.triangles), cell, reach)
            self._forms.put(key, found)
        return found

    def _combined(self, parts: list[Part]) -> Solid:
        """The parts in order, in runs of one op; what stands after each run is kept as the list that ends there, for
        later edits to begin with.
        """
        before = self._unlasting
        placed = [self.part_solid(p) for p in parts]
        solids = snap_coincident(placed, [p.op for p in parts])
        moved = were_moved(placed, solids)
        plain = not moved and self._unlasting == before
        keys = [self.keys.part(p) for p in parts]
        result = Solid.nothing()
        at = 0
        while at < len(parts):
            end = next((i for i in range(at, len(parts)) if parts[i].op != parts[at].op), len(parts))
            key = self.keys.parts(tuple(parts[:end]))
            found = self.cache.get(key) if plain else None
            if found is None:
                found = self._run(parts, keys, solids, result, at, end, plain)
                if plain:
                    self.cache.put(key, found)
            result, at = found, end
        return result.contracted(CONTACT) if moved else result

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


def check_size(triangles: int, part: Part | None = None) -> None:
    """Raises PieceError for more triangles than a piece may have."""
    if triangles > MAX_TRIANGLES:
        where = part.id if part else None
        raise PieceError(Problem(f"{triangles:,} triangles; a piece has at most {MAX_TRIANGLES:,}", where))
