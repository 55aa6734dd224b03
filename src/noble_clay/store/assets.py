"""Files that stand beside pieces, by SHA-256: meshes and reference pictures."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Assets
from noble_clay.core.formats.pieces import asset_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.store.database import Sessions
from noble_clay.store.tables import AssetRow


def keep_asset(session: Session, sha256: str, data: bytes) -> None:
    """Keep a mesh; one that is there already stays, and is as good as new."""
    put = insert(AssetRow).values(sha256=sha256, data=data)
    session.execute(put.on_conflict_do_update(index_elements=["sha256"], set_={"at": func.now()}))


def asset_data(session: Session, sha256: str) -> bytes | None:
    return session.scalar(select(AssetRow.data).where(AssetRow.sha256 == sha256))


def asset_is_kept(session: Session, sha256: str) -> bool:
    return session.scalar(select(AssetRow.at).where(AssetRow.sha256 == sha256)) is not None


def stored_assets(sessions: Sessions) -> Assets:
    """A loader for the evaluator; raises MeshError for a mesh that is not kept."""

    def load(sha256: str) -> Mesh:
        with sessions() as session:
            data = asset_data(session, sha256)
        if data is None:
            raise MeshError(f"the mesh {sha256[:12]}… is not here; bring it in again")
        return asset_mesh(data)

    return load
