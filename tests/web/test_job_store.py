"""Jobs in the database: taken once, ended once, freed when a worker has died, whoever asks at the same time."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from threading import Barrier

import pytest
from sqlalchemy import select

from noble_clay.store import jobs as store
from noble_clay.store.database import open_database, sessions
from noble_clay.store.tables import JobFileRow


@pytest.fixture(scope="module")
def maker(server):
    return sessions(open_database())


@pytest.fixture
def job(maker):
    """One that no worker knows of: it is in no queue, and too young to be swept up."""
    with maker.begin() as session:
        row = store.create_job(session, "rehearse", "A test", None, {"meshes": {}})
        store.add_block(session, row.id, "input", 0, b"first ")
        store.add_block(session, row.id, "input", 1, b"second")
        store.add_block(session, row.id, "kept", 0, b"result")
    yield row.id
    with maker.begin() as session:
        row = store.load_job(session, row.id, lock=True)
        if row.state not in store.ENDED:
            store.end_job(session, row, "cancelled")


def state(maker, job):
    with maker.begin() as session:
        return store.load_job(session, job)


def claimed(maker, job):
    with maker.begin() as session:
        return store.claim_job(session, job)


def freed_after(maker, job, seconds):
    """What is freed once a job has been silent for so long: in one transaction, before a worker of the server looks."""
    with maker.begin() as session:
        row = store.load_job(session, job, lock=True)
        row.beat_at = datetime.now(UTC) - timedelta(seconds=seconds)
        session.flush()
        return store.free_stalled(session)


def freed(maker):
    with maker.begin() as session:
        return store.free_stalled(session)


def test_of_many_that_ask_at_once_one_gets_it(maker, job):
    start = Barrier(8)

    def ask(_):
        start.wait()
        return claimed(maker, job)

    with ThreadPoolExecutor(8) as pool:
        found = [row for row in pool.map(ask, range(8)) if row is not None]
    assert len(found) == 1
    assert (state(maker, job).state, state(maker, job).attempt) == ("running", 1)


def test_a_file_comes_back_block_by_block_and_goes_with_the_end(maker, job):
    with maker.begin() as session:
        assert list(store.job_file(session, job, "input")) == [b"first ", b"second"]
    claimed(maker, job)
    with maker.begin() as session:
        store.end_job(session, store.mine_to_end(session, job, 1), "done", result={"a": 1})
    with maker.begin() as session:
        assert list(store.job_file(session, job, "input")) == []
        assert b"".join(store.job_file(session, job, "kept")) == b"result", "what came of it stays"
        assert not session.scalars(select(JobFileRow).where(JobFileRow.job_id == job, JobFileRow.name == "input")).all()
    assert (state(maker, job).progress, state(maker, job).result) == (1.0, {"a": 1})


def test_a_beat_says_how_far_it_is_and_hears_of_a_cancel(maker, job):
    claimed(maker, job)
    with maker.begin() as session:
        assert store.beat(session, job, 1, 0.4, "untangle")
    assert (state(maker, job).progress, state(maker, job).step) == (0.4, "untangle")
    with maker.begin() as session:
        assert store.cancel_job(session, job).state == "running", "its worker ends it"
    with maker.begin() as session:
        assert not store.beat(session, job, 1, 0.5, "unite")


def test_one_that_waits_is_cancelled_at_once_and_never_taken(maker, job):
    with maker.begin() as session:
        assert store.cancel_job(session, job).state == "cancelled"
    assert claimed(maker, job) is None
    with maker.begin() as session:
        assert store.cancel_job(session, job).state == "cancelled", "once more changes nothing"


def test_an_ended_job_stays_ended(maker, job):
    claimed(maker, job)
    with maker.begin() as session:
        store.end_job(session, store.mine_to_end(session, job, 1), "failed", error="not this one")
    assert claimed(maker, job) is None
    with maker.begin() as session:
        assert store.mine_to_end(session, job, 1) is None
        assert store.cancel_job(session, job).state == "failed"
    assert state(maker, job).error == "not this one"


def test_a_silent_worker_loses_its_job_and_may_not_end_it(maker, job):
    claimed(maker, job)
    assert job not in freed(maker), "it spoke a moment ago"
    assert job in freed_after(maker, job, store.STALLED.total_seconds() + 1)
    assert job not in freed(maker), "once"
    second = claimed(maker, job)
    assert second.attempt == 2
    with maker.begin() as session:
        assert not store.beat(session, job, 1, 0.9, "late"), "the first hears that it is another's"
        assert store.mine_to_end(session, job, 1) is None
        assert store.mine_to_end(session, job, 2) is not None
    assert state(maker, job).step == ""


def test_a_clock_that_is_put_back_does_not_hold_a_dead_workers_job(maker, job):
    claimed(maker, job)
    assert job in freed_after(maker, job, -3600), "or it would wait an hour"
    assert claimed(maker, job).attempt == 2
    with maker.begin() as session:
        assert store.beat(session, job, 2, 0.5, "on")
    assert job not in freed(maker), "a living worker has beaten again"


def test_one_that_nobody_took_is_told_of_again(maker, job):
    with maker.begin() as session:
        store.load_job(session, job, lock=True).created_at = datetime.now(UTC) - store.STALLED * 2
    assert job in freed(maker)


def test_a_job_that_is_not_there_is_said_so(maker):
    with maker.begin() as session, pytest.raises(store.NoSuchJob, match="not here any more"):
        store.load_job(session, "0" * 16)
    assert claimed(maker, "0" * 16) is None


def test_findings_of_a_mesh_are_those_kept_last(maker):
    sha = "ab" * 32
    with maker.begin() as session:
        assert store.findings_of(session, sha) is None
        store.keep_findings(session, sha, {"sound": False})
        store.keep_findings(session, sha, {"sound": True})
    with maker.begin() as session:
        assert store.findings_of(session, sha) == {"sound": True}
