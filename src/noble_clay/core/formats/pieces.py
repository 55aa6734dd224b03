"""Piece files: `.clay.json`, and `.claypack`, a ZIP of piece.json with the mesh assets beside it."""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import zipfile
import zlib
from dataclasses import dataclass, field

from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.evaluate.evaluator import Assets
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.limits import MAX_BYTES
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_json

MAX_ASSET_BYTES = 200_000_000


@dataclass(frozen=True)
class PieceFile:
    """A piece with the mesh assets that came with it, GLB bytes by SHA-256."""

    piece: Piece
    assets: dict[str, bytes] = field(default_factory=dict)

    def loader(self) -> Assets:
        """A function from SHA-256 to mesh over these assets."""

        def load(sha256: str) -> Mesh:
            if sha256 not in self.assets:
                raise MeshError(f"the mesh {sha256[:12]}… did not come with the piece")
            return asset_mesh(self.assets[sha256])

        return load


def read_piece_file(data: bytes) -> PieceFile:
    """A piece file of either form. Raises PieceError."""
    if data[:4] != b"PK\x03\x04":
        return PieceFile(piece_from_json(data))
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            sizes = {i.filename: i.file_size for i in archive.infolist()}
            if sum(sizes.values()) > MAX_ASSET_BYTES:
                raise PieceError(Problem(f"the pack unpacks to more than {MAX_ASSET_BYTES // 1_000_000} MB"))
            if sizes.get("piece.json", MAX_BYTES + 1) > MAX_BYTES:
                raise PieceError(Problem("the pack has no piece.json, or one that is too large"))
            piece = piece_from_json(archive.read("piece.json"))
            assets = {}
            for part in piece.walk():
                if part.mesh is not None:
                    assets[part.mesh.asset] = _asset(archive, sizes, part.mesh.asset, part.id)
    except (
        zipfile.BadZipFile,
        zlib.error,
        lzma.LZMAError,
        OSError,
        EOFError,
        NotImplementedError,
        RuntimeError,
    ) as error:
        raise PieceError(Problem(f"the pack is not a whole ZIP file: {error}")) from None
    return PieceFile(piece, assets)


def _asset(archive: zipfile.ZipFile, sizes: dict[str, int], sha256: str, part_id: str) -> bytes:
    name = f"assets/{sha256}.glb"
    if name not in sizes:
        raise PieceError(Problem(f"its mesh {name} is not in the pack", part_id, "mesh.asset"))
    data = archive.read(name)
    if hashlib.sha256(data).hexdigest() != sha256:
        raise PieceError(Problem(f"its mesh {name} is not what its name says: the SHA-256 differs", part_id, "mesh"))
    return data


def piece_json(piece: Piece) -> bytes:
    """The piece as the text of a `.clay.json` file; on one line where it would otherwise be too large to be read."""
    spread = (json.dumps(piece.dump(), indent=1, ensure_ascii=False) + "\n").encode()
    return spread if len(spread) <= MAX_BYTES else piece.text().encode()


def piece_pack(file: PieceFile) -> bytes:
    """The piece and its meshes as a `.claypack`."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("piece.json", piece_json(file.piece))
        for sha256, data in sorted(file.assets.items()):
            archive.writestr(f"assets/{sha256}.glb", data)
    return out.getvalue()


def asset_bytes(mesh: Mesh) -> tuple[str, bytes]:
    """A mesh as a GLB asset, and the SHA-256 that names it. Coordinates are rounded to float32."""
    import trimesh

    data = bytes(trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False).export(file_type="glb"))
    return hashlib.sha256(data).hexdigest(), data


def asset_mesh(data: bytes) -> Mesh:
    """The mesh of a GLB asset. Raises MeshError."""
    from noble_clay.core.formats.glb import glb_file

    try:
        return glb_file(data).mesh
    except MeshError as error:
        raise MeshError(f"the mesh asset cannot be read: {error}") from None
