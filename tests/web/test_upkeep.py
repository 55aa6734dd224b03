"""What is not needed any more goes, and nothing that a piece or a step of one still names."""

import os
import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select, text

from noble_clay.core.formats.pieces import asset_bytes
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.store import jobs
from noble_clay.store.assets import asset_data, keep_asset
from noble_clay.store.database import migrate, open_database, sessions
from noble_clay.store.tables import FindingsRow
from noble_clay.store.upkeep import ASSET_DAYS, JOB_DAYS, tidy_up
from tests.damage import primitive

LATER = datetime.now(UTC) + timedelta(days=ASSET_DAYS + 1)

OWN_SERVER = True


@pytest.fixture
def maker_of_rows(own_database):
    engine = open_database()
    migrate(engine)
    return sessions(engine)


def kept(session, radius):
    """A mesh of its own, and findings of it."""
    sha256, data = asset_bytes(primitive("sphere", radius=radius + uuid.uuid4().int % 1000 / 1e4, facets=8))
    keep_asset(session, sha256, data)
    jobs.keep_findings(session, sha256, {"triangles": 1})
    return sha256


def test_meshes_that_nothing_names_go_and_those_of_pieces_their_steps_and_jobs_stay(api, maker, maker_of_rows):
    with maker_of_rows.begin() as session:
        lost, shown, undone, asked = (kept(session, r) for r in (1, 2, 3, 4))
        jobs.create_job(session, "inspect", "x", maker.state["id"], {"meshes": {"m": {"sha256": asked}}})
    maker.edit(kind="add_parts", parts=[{"id": "m", "mesh": {"asset": shown}}])
    maker.edit(kind="set_part", ids=["m"], fields={"mesh": {"asset": undone}})
    maker.step("undo")
    with maker_of_rows.begin() as session:
        assert tidy_up(session)["assets"] == 0, "not while it is young"
        assert tidy_up(session, LATER)["assets"] >= 1
        assert [asset_data(session, s) is not None for s in (lost, shown, undone, asked)] == [False, True, True, True]
        found = set(session.scalars(select(FindingsRow.sha256)))
        assert lost not in found and {shown, undone, asked} <= found
    assert maker.step("redo")["piece"]["parts"][0]["mesh"]["asset"] == undone
    # A piece that is gone for good takes its meshes with it, in time.
    api.delete(maker.url)
    api.post("/api/pieces/bin/empty")
    with maker_of_rows.begin() as session:
        tidy_up(session, LATER)
        assert asset_data(session, shown) is None


def test_a_mesh_that_is_kept_again_is_as_good_as_new(maker_of_rows):
    with maker_of_rows.begin() as session:
        sha256, data = asset_bytes(primitive("box", size=[1, 2, 3 + uuid.uuid4().int % 1000 / 1e4]))
        keep_asset(session, sha256, data)
        session.execute(text("update assets set at = '2001-01-01'"))
        keep_asset(session, sha256, data)
        tidy_up(session)
        assert asset_data(session, sha256) is not None


def test_ended_jobs_go_by_age_with_their_files_and_others_stay(maker_of_rows):
    with maker_of_rows.begin() as session:
        ended, fresh, waiting = (jobs.create_job(session, "bring_in", n, None, {}) for n in ("old", "new", "waits"))
        for row in (ended, fresh):
            row.state, row.attempt = "running", 1
            jobs.add_block(session, row.id, "moved-0", 0, b"x")
            jobs.end_job(session, row, "done", result={})
        ended.ended_at = datetime.now(UTC) - timedelta(days=JOB_DAYS + 1)
        session.flush()
        assert tidy_up(session)["jobs"] == 1
    with maker_of_rows.begin() as session:
        with pytest.raises(jobs.NoSuchJob):
            jobs.load_job(session, ended.id)
        assert list(jobs.job_file(session, ended.id, "moved-0")) == []
        assert jobs.load_job(session, fresh.id).state == "done"
        assert jobs.load_job(session, waiting.id).state == "waiting"


def test_mesh_files_are_kept_within_their_budget_the_last_used_stay(tmp_path):
    files = MeshFiles(tmp_path)
    mesh = primitive("sphere", radius=1, facets=16)
    keys = [f"{i:064x}" for i in range(6)]
    for number, key in enumerate(keys):
        files.write(key, mesh)
        stamp = 1_000_000 + number
        os.utime(files.path(key), (stamp, stamp))
    assert files.has(keys[0]), "asked for just now"
    size = files.path(keys[0]).stat().st_size
    files.prune(budget=2 * size)
    assert [files.path(k) is not None for k in keys] == [True, False, False, False, False, True]
