"""The boolean kernel's manifold, with which part each of its triangles is of."""
