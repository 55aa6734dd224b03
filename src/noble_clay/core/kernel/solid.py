"""A solid: the kernel's manifold together with which part each of its original surfaces is."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from noble_clay.core.kernel.plain import mesh_of, mesh_read
from noble_clay.core.kernel.planes import Planes, planes_of
from noble_clay.core.kernel.surface import Surface
from noble_clay.core.mesh.affine import IDENTITY
from noble_clay.core.mesh.contract_edges import contracted
from noble_clay.core.mesh.mass import is_film, shell_volumes, signed_volumes, volume
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.topology import Topology, vertex_shells

BYTES_PER_TRIANGLE = 200
"""What the kernel holds for a triangle, measured: about 170 to 210 bytes; and `vertices`, 12 more. (Of what enters a
soft list the mesh is kept, too, 44 more: parts, which are small beside what comes of them.)
"""


@dataclass(frozen=True, eq=False)
class Solid:
    """A closed solid. shape: the kernel's own, or a surface that it reads when it is first needed. labels: kernel's
    original id of a surface to the id of the part it is. planes: its flat faces. has_coincident_faces: whether any of
    its surfaces coincide, so that rounding may have left slivers. crosses_itself: whether what made it knows that its
    surface still runs through itself.
    """

    shape: Manifold | Surface
    labels: dict[int, str]
    planes: Planes
    has_coincident_faces: bool = False
    crosses_itself: bool = False

    @staticmethod
    def nothing() -> Solid:
        return Solid(Manifold(), {}, Planes.none())

    @staticmethod
    def from_mesh(mesh: Mesh, part_id: str, primitive: bool = False) -> Solid:
        """Raises MeshError when the mesh is no closed, consistently turned manifold."""
        return Solid.from_parts(mesh, np.zeros(len(mesh.triangles), dtype=np.int64), (part_id,), primitive)

    @staticmethod
    def from_parts(
        mesh: Mesh,
        part_of: NDArray[np.int64],
        names: tuple[str, ...],
        primitive: bool = False,
        planes: Planes | None = None,
    ) -> Solid:
        """A mesh with, for every triangle (m,), the index of its part among `names`. Raises MeshError too.

        planes: its flat faces, where they are known.
        """
        if len(mesh.triangles) == 0:
            return Solid.nothing()
        surface, present = Surface.of(mesh, part_of)
        planes = planes or planes_of(mesh, even_is_round=primitive)
        return Solid(surface.manifold, _labels(surface, present, names), planes)

    @staticmethod
    def unread(mesh: Mesh, part_of: NDArray[np.int64], names: tuple[str, ...], planes: Planes) -> Solid:
        """As `from_parts`, of a mesh that was made to be a closed manifold. Where it is one, the kernel, which takes a
        while to read it, does so when it is first to join it with something. Where it is not, the kernel reads it at
        once.
        """
        if len(mesh.triangles) == 0 or not np.isfinite(mesh.vertices).all() or not Topology(mesh).is_manifold:
            return Solid.from_parts(mesh, part_of, names, planes=planes)
        surface, present = Surface.of(mesh, part_of)
        return Solid(surface, _labels(surface, present, names), planes)

    @property
    def manifold(self) -> Manifold:
        """The kernel's. Raises MeshError where it does not take the surface."""
        return self.shape.manifold if isinstance(self.shape, Surface) else self.shape

    @property
    def triangles(self) -> int:
        """How many."""
        if isinstance(self.shape, Surface):
            return len(self.shape.mesh.triangles)
        return int(self.shape.num_tri())

    @property
    def nbytes(self) -> int:
        return 1_000 + BYTES_PER_TRIANGLE * self.triangles

    @property
    def empty(self) -> bool:
        return not isinstance(self.shape, Surface) and bool(self.shape.is_empty())

    @property
    def bounds(self) -> Floats:
        """(2, 3): lowest and highest corner, mm; of no meaning when empty."""
        if isinstance(self.shape, Surface):
            return self.shape.bounds
        return np.array(self.shape.bounding_box()).reshape(2, 3)

    @cached_property
    def volume(self) -> float:
        """mm³."""
        return volume(self.shape.mesh) if isinstance(self.shape, Surface) else float(self.shape.volume())

    @cached_property
    def bodies(self) -> int:
        """How many separate closed shells turned outward."""
        mesh = self.mesh_only()
        number, shell = vertex_shells(mesh)
        return int(np.sum(np.bincount(shell, weights=signed_volumes(mesh), minlength=number) > 0))

    def placed(self, matrix: Floats) -> Solid:
        """The solid through an affine (3, 4) matrix; mirrored ones stay turned outward."""
        if np.array_equal(matrix, IDENTITY):
            return self
        if isinstance(self.shape, Surface):
            moved: Manifold | Surface = self.shape.placed(matrix)
        else:
            moved = self.shape.transform(np.ascontiguousarray(matrix))
        return Solid(moved, self.labels, self.planes.placed(matrix), self.has_coincident_faces)

    def mesh_only(self) -> Mesh:
        return self.shape.mesh if isinstance(self.shape, Surface) else mesh_of(self.shape)

    @cached_property
    def vertices(self) -> Floats:
        """(n, 3), mm, in the order that `mesh_only` has them in."""
        if isinstance(self.shape, Surface):
            return self.shape.mesh.vertices
        return mesh_of(self.shape).vertices

    def warped(self, old: Floats, new: Floats) -> Solid:
        """The solid with its vertices, now at `old` (n, 3), at `new`: the same triangles, the same origins."""

        if isinstance(self.shape, Surface):
            moved: Manifold | Surface = self.shape.warped(new)
        else:

            def warp(points: Floats) -> Floats:
                assert np.array_equal(points, old), "the kernel keeps its vertices in one order"
                return new

            moved = self.shape.warp_batch(warp)
        return Solid(moved, self.labels, self.planes, has_coincident_faces=True)

    def without_films(self, thickness: float) -> Solid:
        """Without shells that are thinner than `thickness` mm in the mean. (The kernel's own putting together of shells
        unites them, so that hollows would be lost.)
        """
        mesh, part_of, names = self.mesh_with_parts()
        number, shell = vertex_shells(mesh)
        volumes, areas = shell_volumes(mesh, shell, number)
        kept = ~is_film(volumes, areas, thickness)[shell]
        return self if kept.all() else Solid.unread(mesh.keep(kept), part_of[kept], names, self.planes)

    def simplified(self, distance: float) -> Solid:
        """With fewer triangles, none further than `distance` mm from where the surface was; parts stay apart."""
        return Solid(self.manifold.simplify(distance), self.labels, self.planes)

    def contracted(self, length: float) -> Solid:
        """With the ends of edges shorter than `length` mm made one, where it stays a manifold without them."""
        if self.empty:
            return self
        mesh, part_of, names = self.mesh_with_parts()
        shorter = contracted(mesh, length)
        if shorter is None:
            return self
        found, kept = shorter
        made = Solid.unread(found, part_of[kept], names, self.planes)
        return replace(made, has_coincident_faces=self.has_coincident_faces)

    @property
    def part_names(self) -> tuple[str, ...]:
        """The ids of the parts that its surfaces may be of; what the indices of `mesh_with_parts` mean."""
        return tuple(dict.fromkeys(self.labels.values()))

    @cached_property
    def kept_mesh_with_parts(self) -> tuple[Mesh, NDArray[np.int64], tuple[str, ...]]:
        """The same, kept: of what is read again with each edit of the list that it is in."""
        return self.mesh_with_parts()

    def mesh_with_parts(self) -> tuple[Mesh, NDArray[np.int64], tuple[str, ...]]:
        """The mesh, for every triangle (m,) an index, and the part ids that the indices mean."""
        if isinstance(self.shape, Surface):
            mesh, starts, originals = self.shape.mesh, self.shape.starts, self.shape.originals
        else:
            raw = self.shape.to_mesh64()
            mesh, starts, originals = mesh_read(raw), np.array(raw.run_index, dtype=np.int64) // 3, raw.run_original_id
        names = self.part_names
        index = {name: i for i, name in enumerate(names)}
        runs = [index[self.labels[int(i)]] for i in originals]
        return mesh, np.repeat(np.array(runs, dtype=np.int64), np.diff(starts)), names


def _labels(surface: Surface, parts: NDArray[np.int64], names: tuple[str, ...]) -> dict[int, str]:
    """parts: (k,) index among `names` of each run."""
    return {int(original): names[part] for original, part in zip(surface.originals, parts, strict=True)}
