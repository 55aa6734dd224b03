"""Meshes for the view as immutable files by key, in one folder bounded in size."""

from __future__ import annotations

import os
import re
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.whole_file import write_all_whole, written_whole
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.packed import mesh_blocks, packed_mesh

BUDGET = 1_000_000_000
_KEY = re.compile(r"[0-9a-f]{64}")


class MeshFiles:
    """Written by solvers, read by the web process; a lost file is made again from its piece. Tiles of large pieces lie
    beside the meshes, as bytes.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, key: str) -> Path | None:
        """Where a key's mesh lies, None when it is no key or not there."""
        found = self._path(key) if _KEY.fullmatch(key) else None
        return found if found and found.exists() else None

    def _path(self, key: str) -> Path:
        return self.folder / key[:2] / f"{key}.mesh"

    def has(self, key: str) -> bool:
        path = self._path(key)
        if not path.exists():
            return False
        os.utime(path)
        return True

    def write(self, key: str, mesh: Mesh, part_of: NDArray[np.int64] | None = None) -> None:
        """Write whole or not at all."""
        path = self._path(key)
        path.parent.mkdir(exist_ok=True)
        with written_whole(path) as file:
            for block in mesh_blocks(mesh, part_of):
                file.write(block)

    def read(self, key: str) -> tuple[Mesh, NDArray[np.int64]]:
        """A skin and the part of every triangle, 0 where it has none. Raises MeshError when it is not at hand."""
        path = self.path(key)
        if path is None:
            raise MeshError("this mesh is not at hand; load the piece again")
        mesh, part_of = packed_mesh(path.read_bytes())
        return mesh, np.zeros(len(mesh.triangles), dtype=np.int64) if part_of is None else part_of

    def get(self, key: str) -> bytes | None:
        """What was `put` under a key, None when it is not there any more."""
        path = self._tile(key)
        try:
            os.utime(path)
            return path.read_bytes()
        except FileNotFoundError:
            return None

    def put(self, key: str, data: bytes) -> None:
        """Write whole or not at all."""
        path = self._tile(key)
        path.parent.mkdir(exist_ok=True)
        write_all_whole({path: data})

    def _tile(self, key: str) -> Path:
        return self.folder / key[:2] / f"{key}.tile"

    def prune(self, budget: int = BUDGET) -> None:
        """Delete the files used longest ago until the rest is within the budget."""
        files = [(p.stat().st_mtime, p.stat().st_size, p) for p in self.folder.glob("*/*")]
        held = sum(size for _, size, _ in files)
        for _, size, path in sorted(files, key=lambda f: f[0]):
            if held <= budget:
                break
            path.unlink(missing_ok=True)
            held -= size
