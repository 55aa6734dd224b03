"""Everything that is compiled, called once: compiled functions are kept on disk, so that nobody's first step waits.

`python -m noble_clay.core.warm` after an installation or a change takes up to two minutes; every later process reads
them.
"""

from __future__ import annotations

import numpy as np

from noble_clay.core.field import forms
from noble_clay.core.field.even import even_surface
from noble_clay.core.field.fold import Fold, Placed, Step
from noble_clay.core.field.looked_through import looked_through
from noble_clay.core.field.memory import Memory
from noble_clay.core.field.offset import offset_surface
from noble_clay.core.field.own_pieces import OwnPieces
from noble_clay.core.field.run_together import divided, run_together
from noble_clay.core.field.sampled import sampled_form
from noble_clay.core.field.seam import meet
from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.facets import with_lines
from noble_clay.core.mend.patch import spanned_patch
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.plan import mend
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.pairing import is_closed_manifold
from noble_clay.core.mesh.rays import first_met
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.triangle_set import triangle_numbers
from noble_clay.core.primitives.base import revolve
from noble_clay.core.primitives.sphere import half_circle


def warm_distances() -> None:
    """What evaluating pieces needs, besides the topology of meshes and soft lists."""
    box = hexahedron((1.0, 1.0, 1.0))
    for mesh in (box, _protected(box)):
        MeshDistance(mesh)(np.zeros((1, 3)))
        offset_surface(mesh, -0.2, 0.1, self_intersecting=True)
        even_surface(mesh, 0.2)


def warm_soft_lists() -> None:
    """A box and a ball run together."""
    box, ball = hexahedron((2.0, 2.0, 2.0)), revolve(half_circle(16), 16)
    at = np.column_stack([np.eye(3), [1.0, 0.2, 0.1]])
    steps = [
        Step("union", 0.0, (Placed(forms.box((2.0, 2.0, 2.0)), np.eye(3, 4)),)),
        Step("union", 0.5, (Placed(forms.sphere(1.0, 0.0), at),)),
    ]
    meshes = [box, Mesh(ball.vertices + at[:, 3], ball.triangles)]
    memory = Memory(1_000_000)
    for _ in range(2):  # the second time all of it is known
        together = run_together(divided(Fold(steps, 0.1), meshes, 0.1), meshes, memory)
        looked_through(together.mesh, memory)
    Fold(steps, 0.1).at(np.zeros((1, 3)))
    for mesh in (box, _protected(box)):
        is_closed_manifold(mesh.triangles, len(mesh.vertices))
        triangle_numbers(mesh, 0.1)
    crossing_pairs(revolve(half_circle(64), 64))  # as many as several threads look at
    # What is only called where the two surfaces do not meet at once.
    blocks = divided(Fold(steps, 0.1), meshes, 0.1)
    blocks.look(Memory(1_000_000), lambda share: None)
    own = OwnPieces(meshes, [False, False], blocks, blocks.nodes)
    cells = np.floor(own.points[:1]).astype(np.int64)
    blocks.open(cells)
    own.cut_again(cells)
    meet(own, blocks, np.zeros((len(own.triangles), 3)), cells)
    sampled_form(box, 0.2, 0.5)(np.zeros((1, 3)))


def _protected(mesh: Mesh) -> Mesh:
    """As primitives keep theirs, which others share: a loop is compiled anew for what may not be written to."""
    triangles = mesh.triangles.copy()
    triangles.flags.writeable = False
    return Mesh(mesh.vertices, triangles)


def warm_mending() -> None:
    """Two boxes that run into each other and turned against themselves, with a hole: every step has something to do."""
    box = hexahedron((2.0, 2.0, 2.0))
    two = together([box, Mesh(box.vertices + [0.7, 0.8, 0.9], box.triangles)])
    inspect_mesh(untangle(two)[0])
    inspect_mesh(_protected(two))
    patch_over(two)
    on_edge = 0.25 * box.vertices @ np.array([[1.0, 0, -1], [0, 1, 0], [1, 0, 1]])
    inspect_mesh(together([box, Mesh(on_edge - [0, 0, on_edge[:, 2].min() - 1], box.triangles)]))
    close_holes(Mesh(two.vertices, two.triangles[:-2]))
    spanned_patch(np.array([[0.0, 0, 0], [1, 0, 0.2], [1, 1, 0], [0, 1, 0.2]]))
    first_met(box, np.zeros((1, 3)), np.array([[0.0, 0.0, 1.0]]), 1.0)
    with_lines(np.array([[0.0, 0], [1, 0], [0, 1]]), np.array([[0, 1, 2]]), np.array([[0, 1]]))
    mixed = np.where((np.arange(len(two.triangles)) % 5 == 0)[:, None], two.triangles[:, ::-1], two.triangles)
    mend(Mesh(two.vertices, mixed[:-2]))


if __name__ == "__main__":
    warm_distances()
    warm_soft_lists()
    warm_mending()
