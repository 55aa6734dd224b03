"""Piece files: `.clay.json`, and `.claypack`, a ZIP of piece.json with its meshes and reference pictures beside it,
and, as far as it is to tell them, its history (history.json) and a picture of itself (picture.png).
"""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import re
import zipfile
import zlib
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.evaluate.evaluator import Assets
from noble_clay.core.formats.pictures import PNG
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.limits import MAX_BYTES
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_json

if TYPE_CHECKING:
    from noble_clay.core.formats.steps import PackedHistory

MAX_ASSET_BYTES = 200_000_000
HISTORY, PICTURE = "history.json", "picture.png"
_ASSET = re.compile(r"assets/([0-9a-f]{64})\.(?:glb|png|jpg|webp)")


@dataclass(frozen=True)
class PieceFile:
    """A piece with what came with it. assets: meshes as GLB and reference pictures, by SHA-256. picture: of the piece
    itself, PNG.
    """

    piece: Piece
    assets: dict[str, bytes] = field(default_factory=dict)
    history: PackedHistory | None = None
    picture: bytes | None = None

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
            used = {p.mesh.asset: p.id for p in piece.walk() if p.mesh is not None}
            assets = {sha: _asset(archive, sizes, sha, name, used.get(sha)) for sha, name in piece.assets.items()}
            history = None
            if HISTORY in sizes:
                from noble_clay.core.formats.steps import history_from_json

                history = history_from_json(archive.read(HISTORY), piece)
                assets |= _of_history(archive, sizes, assets)
            picture = archive.read(PICTURE) if PICTURE in sizes else None
            if picture is not None and not picture.startswith(PNG):
                picture = None
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
    return PieceFile(piece, assets, history, picture)


def _asset(archive: zipfile.ZipFile, sizes: dict[str, int], sha256: str, name: str, part_id: str | None) -> bytes:
    """The file of a part's mesh, or, without a part, of a reference picture."""
    kind, field_name = ("mesh", "mesh.asset") if part_id is not None else ("picture", "pictures")
    if name not in sizes:
        raise PieceError(Problem(f"its {kind} {name} is not in the pack", part_id, field_name))
    data = archive.read(name)
    if hashlib.sha256(data).hexdigest() != sha256:
        words = f"its {kind} {name} is not what its name says: the SHA-256 differs"
        raise PieceError(Problem(words, part_id, field_name))
    return data


def _of_history(archive: zipfile.ZipFile, sizes: dict[str, int], known: dict[str, bytes]) -> dict[str, bytes]:
    """What only earlier states had beside them; what is not as its name says is left out."""
    found = {}
    for name in sizes:
        named = _ASSET.fullmatch(name)
        if named is not None and named[1] not in known:
            data = archive.read(name)
            if hashlib.sha256(data).hexdigest() == named[1]:
                found[named[1]] = data
    return found


def piece_json(piece: Piece) -> bytes:
    """The piece as the text of a `.clay.json` file; on one line where it would otherwise be too large to be read."""
    spread = (json.dumps(piece.dump(), indent=1, ensure_ascii=False) + "\n").encode()
    return spread if len(spread) <= MAX_BYTES else piece.text().encode()


def piece_pack(file: PieceFile) -> bytes:
    """The piece and what comes with it as a `.claypack`."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("piece.json", piece_json(file.piece))
        if file.history is not None:
            archive.writestr(HISTORY, file.history.text())
        if file.picture is not None:
            archive.writestr(PICTURE, file.picture)
        names = file.piece.assets
        for sha256, data in sorted(file.assets.items()):
            archive.writestr(names.get(sha256) or _asset_name(sha256, data), data)
    return out.getvalue()


def _asset_name(sha256: str, data: bytes) -> str:
    """Of a file that only earlier states had: by what it begins with."""
    marks = {b"glTF": "glb", PNG[:4]: "png", b"RIFF": "webp"}
    return f"assets/{sha256}.{marks.get(data[:4], 'jpg')}"


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
