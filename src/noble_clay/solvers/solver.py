"""A solver: what answers questions about pieces, its caches warm. It runs in a process of its own (`process.py`)."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from noble_clay.core.evaluate.drafts import Drafter
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.large_pieces import TiledSkins
from noble_clay.core.evaluate.result import Result
from noble_clay.core.evaluate.view import Views
from noble_clay.core.evaluate.watch import Watch
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.measure.spots import Edges
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.models import Piece, is_soft
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.values import soundness_values
from noble_clay.store.assets import stored_assets
from noble_clay.store.database import open_database, sessions

WithParts = tuple[Mesh, NDArray[np.int64], tuple[str, ...]]
"""A mesh, for every triangle the index of its part, and the ids that the indices mean."""

LEAST_CACHE = 250_000_000
"""Bytes that a process that answers keeps of solids, where memory is scarce."""

MANY_PARTS = 150
"""A piece of more parts is shown part by part until its joined skin is there."""

MOST_SHOWN = 16
"""Pieces whose last joined skin is remembered."""


@dataclass(frozen=True, eq=False)
class Shown:
    """What the view has of a piece: the document that its joined skin is of, that skin, and how long it took."""

    piece: Piece
    result: dict[str, Any]
    soundness: dict[str, Any]
    seconds: float

    @property
    def bounds(self) -> Floats | None:
        """(2, 3) mm: around the skin; None when it is empty."""
        bounds = self.soundness["bounds"]
        return None if bounds is None else np.array(bounds)


class Solver:
    """What questions about pieces are answered with. What can be asked is in `operations`."""

    def __init__(self, mesh_folder: Path, cache_bytes: int = LEAST_CACHE, watch: Watch | None = None) -> None:
        self.watch = watch or Watch()
        self.evaluator = Evaluator(cache_bytes, stored_assets(sessions(open_database())), self.watch)
        self.files = MeshFiles(mesh_folder)
        self.views = Views(self.evaluator, self.keep_mesh)
        self.neighbours = Neighbours(self.evaluator)
        self.local = Drafter(self.evaluator)
        self.tiles = TiledSkins(self.evaluator, self.files)
        self.held: tuple[str, int, Piece] | None = None
        self.shown: Any = LRUCache(MOST_SHOWN)
        self.took: dict[str, float] = {}
        """By the key of a skin whose soundness is counted aside, how long it took to join here."""
        self.edges: tuple[str, Edges] | None = None
        """Of the piece that was measured last, by the key of its parts."""
        self.floats: tuple[str, list[dict[str, Any]]] | None = None

    def begun(self, document: dict[str, Any]) -> Piece:
        """The piece of a question about the whole of it."""
        piece = piece_from_values(document)
        self.watch.expect(piece)
        return piece

    def counted(self, piece: Piece, most_crossed: int | None = None) -> dict[str, Any]:
        """The joined skin and its soundness. most_crossed: where more triangles of one part would have to be looked
        through for crossings, the soundness is not told.
        """
        started = time.perf_counter()
        result = self.evaluator.evaluate(piece, crossings=False)
        known = most_crossed is None or self.evaluator.crossings.quick(piece, most_crossed)
        if known:
            result = replace(result, crossing=self.evaluator.crossings.parts(piece))
        found = soundness_values(result) if known else None
        seconds = time.perf_counter() - started
        return {"result": self.skin_of(piece, result), "soundness": found, "seconds": seconds}

    def skin_of(self, piece: Piece, result: Result) -> dict[str, Any]:
        """The joined skin as the view fetches it, kept under its key."""
        parts = self.keep_skin(result.key, piece, lambda: (result.mesh, result.part_of, result.part_ids))
        return {"key": result.key, "triangles": len(result.mesh.triangles), "parts": parts}

    def remember(self, piece_id: str, shown: Shown) -> None:
        self.shown.pop(piece_id, None)
        if shown.soundness["left_out"]:  # a mesh that is missing now may come yet
            return
        self.shown[piece_id] = shown

    def keep_skin(self, key: str, piece: Piece, make: Callable[[], WithParts]) -> list[str]:
        """Write a mesh under its key unless it is there; what its indices of parts mean.

        That must follow from the key alone: in which order the kernel comes upon parts depends on what it did before.
        """
        ids = sorted(part.id for part in piece.walk())
        if not self.files.has(key):
            mesh, part_of, names = make()
            index = {part: i for i, part in enumerate(ids)}
            self.files.write(key, mesh, np.array([index.get(name, 0) for name in names], dtype=np.int64)[part_of])
        return ids

    def keep_mesh(self, key: str, make: Callable[[], Mesh]) -> None:
        if not self.files.has(key):
            self.files.write(key, make())


def is_large(piece: Piece) -> bool:
    """Whether it is shown part by part until its joined skin is there, which is made tile by tile."""
    return sum(1 for _ in piece.walk()) > MANY_PARTS and not is_soft(piece.parts, 0.0)
