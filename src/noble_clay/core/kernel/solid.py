"""A solid: the kernel's manifold together with which part each of its original surfaces is."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from manifold3d import Error, Manifold, Mesh64
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.planes import Planes, planes_of
from noble_clay.core.mesh.mass import is_film, shell_volumes, signed_volumes
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.topology import vertex_shells

BYTES_PER_TRIANGLE = 200
"""What the kernel holds for a triangle, measured: about 170 to 210 bytes; and `vertices`, 12 more."""


@dataclass(frozen=True, eq=False)
class Solid:
    """A closed solid. labels: kernel's original id of a surface to the id of the part it is. planes: its flat faces.
    has_coincident_faces: whether any of its surfaces coincide, so that rounding may have left slivers. crosses_itself:
    whether what made it knows that its surface still runs through itself.
    """

    manifold: Manifold
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
        order = np.argsort(part_of, kind="stable")
        present, counts = np.unique(part_of, return_counts=True)
        first = Manifold.reserve_ids(len(present))
        originals = np.arange(first, first + len(present))
        manifold = Manifold(
            Mesh64(
                np.ascontiguousarray(mesh.vertices, dtype=np.float64),
                np.ascontiguousarray(mesh.triangles[order], dtype=np.uint64),
                run_index=np.concatenate([[0], np.cumsum(3 * counts)]).astype(np.uint64),
                run_original_id=originals.astype(np.uint32),
            )
        )
        if manifold.status() != Error.NoError:
            raise MeshError("the mesh is not a closed manifold")
        labels = {int(o): names[p] for o, p in zip(originals, present, strict=True)}
        return Solid(manifold, labels, planes or planes_of(mesh, even_is_round=primitive))

    @property
    def nbytes(self) -> int:
        return 1_000 + BYTES_PER_TRIANGLE * int(self.manifold.num_tri())

    @property
    def empty(self) -> bool:
        return bool(self.manifold.is_empty())

    @property
    def bounds(self) -> Floats:
        """(2, 3): lowest and highest corner, mm; of no meaning when empty."""
        return np.array(self.manifold.bounding_box()).reshape(2, 3)

    @cached_property
    def volume(self) -> float:
        """mm³."""
        return float(self.manifold.volume())

    @cached_property
    def bodies(self) -> int:
        """How many separate closed shells turned outward."""
        mesh = self.mesh_only()
        number, shell = vertex_shells(mesh)
        return int(np.sum(np.bincount(shell, weights=signed_volumes(mesh), minlength=number) > 0))

    def placed(self, matrix: Floats) -> Solid:
        """The solid through an affine (3, 4) matrix; mirrored ones stay turned outward."""
        moved = self.manifold.transform(np.ascontiguousarray(matrix))
        return Solid(moved, self.labels, self.planes.placed(matrix), self.has_coincident_faces)

    def mesh_only(self) -> Mesh:
        raw = self.manifold.to_mesh64()
        return Mesh(np.array(raw.vert_properties)[:, :3], np.array(raw.tri_verts).astype(np.int64))

    @cached_property
    def vertices(self) -> Floats:
        """(n, 3), mm, in the kernel's order."""
        return np.array(self.manifold.to_mesh64().vert_properties)[:, :3]

    def warped(self, old: Floats, new: Floats) -> Solid:
        """The solid with its vertices, now at `old` (n, 3), at `new`: the same triangles, the same origins."""

        def warp(points: Floats) -> Floats:
            assert np.array_equal(points, old), "the kernel keeps its vertices in one order"
            return new

        return Solid(self.manifold.warp_batch(warp), self.labels, self.planes, has_coincident_faces=True)

    def without_films(self, thickness: float) -> Solid:
        """Without shells that are thinner than `thickness` mm in the mean. (The kernel's own putting together of shells
        unites them, so that hollows would be lost.)
        """
        mesh, part_of, names = self.mesh_with_parts()
        number, shell = vertex_shells(mesh)
        volumes, areas = shell_volumes(mesh, shell, number)
        kept = ~is_film(volumes, areas, thickness)[shell]
        return self if kept.all() else Solid.from_parts(mesh.keep(kept), part_of[kept], names, planes=self.planes)

    @property
    def part_names(self) -> tuple[str, ...]:
        """The ids of the parts that its surfaces may be of; what the indices of `mesh_with_parts` mean."""
        return tuple(dict.fromkeys(self.labels.values()))

    def mesh_with_parts(self) -> tuple[Mesh, NDArray[np.int64], tuple[str, ...]]:
        """The mesh, for every triangle (m,) an index, and the part ids that the indices mean."""
        raw = self.manifold.to_mesh64()
        mesh = Mesh(np.array(raw.vert_properties)[:, :3], np.array(raw.tri_verts).astype(np.int64))
        names = self.part_names
        index = {name: i for i, name in enumerate(names)}
        runs = [index[self.labels[int(i)]] for i in raw.run_original_id]
        ends = np.array(raw.run_index, dtype=np.int64)
        lengths = (ends[1:] - ends[:-1]) // 3
        return mesh, np.repeat(np.array(runs, dtype=np.int64), lengths), names
