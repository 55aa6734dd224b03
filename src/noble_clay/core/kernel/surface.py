"""A closed manifold that the kernel has not read yet: what is only shown and measured never needs to be."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Error, Manifold, Mesh64

from noble_clay.core.errors import MeshError
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh


@dataclass(frozen=True, eq=False)
class Surface:
    """mesh: its triangles in runs, one original surface after the other. starts: (k + 1,) where each run begins, and
    how many triangles there are. originals: (k,) the kernel's ids of those surfaces.
    """

    mesh: Mesh
    starts: Ints
    originals: Ints

    @staticmethod
    def of(mesh: Mesh, part_of: Ints) -> tuple[Surface, Ints]:
        """A mesh of one triangle or more with, for each, (m,) which part it is of; and the part of each run."""
        order = np.argsort(part_of, kind="stable")
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
        return replace(self, mesh=Mesh(self.mesh.vertices @ matrix[:, :3].T + matrix[:, 3], triangles))

    def read(self) -> Manifold:
        """As the kernel's own. Raises MeshError when it is no closed, consistently turned manifold."""
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
