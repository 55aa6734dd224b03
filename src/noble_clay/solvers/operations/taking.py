"""Meshes to take away or to look at."""

from __future__ import annotations

from typing import Any

from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.evaluate.coarser import coarser
from noble_clay.core.evaluate.keys import hashed
from noble_clay.core.formats.read_back import check_read_back
from noble_clay.core.formats.several import Named, bodies_of, several_bytes
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.printing.apart import shares
from noble_clay.solvers.solver import Solver


def export(solver: Solver, document: dict[str, Any], file_format: str, by: float = 0.0, apart: bool = False) -> bytes:
    """The piece as a file, read back and compared; `by` mm coarser, or `apart`: a body a line. Raises PieceError when
    nothing is left of it, and MeshError where it cannot be so coarse, or not be taken apart.
    """
    piece = piece_from_values(document)
    result = solver.evaluator.evaluate(piece)
    if result.solid.empty:
        raise PieceError(Problem("nothing is left of this piece, so there is nothing to export"))
    if apart:
        if by > 0:
            raise MeshError("coarser bodies would no longer fit each other: take them as fine as they are")
        named = [Named(share.part.name, share.solid) for share in shares(piece, result, solver.evaluator)]
        return several_bytes(bodies_of(named, piece), piece.name, file_format)
    if by > 0:
        result = coarser(result, by)
    data = piece_bytes(piece, result, file_format)
    check_read_back(data, file_format, result.written.mesh)
    return data


def asset_key(solver: Solver, sha256: str) -> str:
    """The key of an asset's own mesh, which is at hand from now on. Raises MeshError when it is not kept."""
    key = hashed(["mesh", sha256])
    solver.keep_mesh(key, lambda: solver.evaluator.asset(sha256))
    return key
