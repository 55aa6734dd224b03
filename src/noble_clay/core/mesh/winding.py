"""How often a surface goes around points: the generalized winding number.

G. Barill, N. Dickson, R. Schmidt, D. Levin and A. Jacobson, "Fast winding numbers for soups and clouds", 2018; as
`libigl` has it.
"""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.mesh import Floats, Ints


def winding_numbers(vertices: Floats, triangles: Ints, points: Floats) -> Floats:
    """(k,) how often triangles (m, 3) go around each of the points (k, 3): 1 inside a closed body, 0 outside.

    Close to the surface, it is right to about a millionth of its size: the library reckons in 32 bits, so that what is
    far out is brought to the middle first.
    """
    import igl

    middle = (vertices.max(axis=0) + vertices.min(axis=0)) / 2
    found: Floats = igl.fast_winding_number(
        np.ascontiguousarray(vertices - middle), triangles, np.ascontiguousarray(points - middle)
    )
    return found
