"""A closed manifold that the kernel has not read yet: what is only shown and measured never needs to be."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from manifold3d import Error, Manifold, Mesh64

from noble_clay.core.errors import MeshError
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh


@dataclass(frozen=True, eq=False)
class Surface:
    """mesh: its triangles in runs, one original surface after the other. starts: (k + 1,) where each run begins, and
    how many triangles there are. originals: (k,) the kernel's ids of those surfaces. before: the surface that this one
    was before it was placed, and by which (3, 4) matrix, so that the kernel reads it once, wherever it is placed.
    """

    mesh: Mesh
    starts: Ints
    originals: Ints
    before: tuple[Surface, Floats] | None = None

    @staticmethod
    def of(mesh: Mesh, part_of: Ints) -> tuple[Surface, Ints]:
        """A mesh of one triangle or more with, for each, (m,) which part it is of; and the part of each run."""
        few = len(part_of) and int(part_of.max()) < 2**16  # those are sorted by their digits, several times as quickly
        order = np.argsort(part_of.astype(np.uint16) if few else part_of, kind="stable")
        present, counts = np.unique(part_of, return_counts=True)
        first = Manifold.reserve_ids(len(present))
        surface = Surface(
            Mesh(np.ascontiguousarray(mesh.vertices, dtype=np.float64), np.ascontiguousarray(mesh.triangles[order])),
            np.concatenate([[0], np.cumsum(counts)]),
            np.arange(first, first + len(present)),
        )
        return surface, present

    def placed(self, matrix: Floats) -> Surface:
        """Through an affine (3, 4) matrix; mirrored it stays turned outward."""
        mirrored = np.linalg.det(matrix[:, :3]) < 0
        triangles = np.ascontiguousarray(self.mesh.triangles[:, ::-1]) if mirrored else self.mesh.triangles
        placed = Mesh(self.mesh.vertices @ matrix[:, :3].T + matrix[:, 3], triangles)
        return replace(self, mesh=placed, before=(self, matrix))

    def warped(self, new: Floats) -> Surface:
        """With its vertices at `new` (n, 3)."""
        return replace(self, mesh=Mesh(new, self.mesh.triangles), before=None)

    @cached_property
    def bounds(self) -> Floats:
        """(2, 3): lowest and highest corner, mm."""
        return np.array([self.mesh.vertices.min(axis=0), self.mesh.vertices.max(axis=0)])

    @cached_property
    def manifold(self) -> Manifold:
        """As the kernel's own. Raises MeshError when it is no closed, consistently turned manifold."""
        if self.before is not None:
            surface, matrix = self.before
            return surface.manifold.transform(np.ascontiguousarray(matrix))
        manifold = Manifold(
            Mesh64(
                self.mesh.vertices,
                self.mesh.triangles.astype(np.uint64),
                run_index=(3 * self.starts).astype(np.uint64),
                run_original_id=self.originals.astype(np.uint32),
            )
        )
        if manifold.status() != Error.NoError:
            raise MeshError("the mesh is not a closed manifold")
        return manifold
