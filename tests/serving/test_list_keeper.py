"""The list of jobs is worked out while nobody asks for anything."""

import sqlite3
from contextlib import closing
from pathlib import Path
from threading import Event

import pytest

from spare_margin.core.patience import TooLong, still_allowed
from spare_margin.service.job.session import JobSession
from spare_margin.service.records import listing
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.list_keeper import EVERY_S, FAILED_S, QUIET_S, REST_S, ListKeeper
from spare_margin.store import records
from spare_margin.store.file.database import connect
from spare_margin.web.app import create_app
from spare_margin.wording.craft.sheets import UNWORKABLE


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    return path


def waiting(database: Path) -> int:
    with closing(connect(database)) as connection:
        return records.waiting_count(connection)


def test_it_works_off_what_waits(database: Path) -> None:
    keeper = ListKeeper(create_app(database))
    assert waiting(database) == 6
    while keeper.look() == REST_S:
        pass
    assert waiting(database) == 0
    assert keeper.look() == EVERY_S


def test_people_come_first(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    moment = [0.0]
    monkeypatch.setattr("spare_margin.serving.list_keeper.time.monotonic", lambda: moment[0])
    app = create_app(database)
    keeper = ListKeeper(app)
    moment[0] = 100.0
    assert keeper.is_quiet()
    app.test_client().get("/api/v1/settings")
    assert not keeper.is_quiet()
    moment[0] += QUIET_S
    assert keeper.is_quiet()
    app.test_client().get("/api/v1/jobs/demo-1-sloop-marram/pulse")
    assert keeper.is_quiet(), "for a page that is only open nobody waits"


def test_it_bears_a_database_that_fails(database: Path) -> None:
    keeper = ListKeeper(create_app(database))
    database.rename(database.with_name("elsewhere"))
    assert keeper.look() == FAILED_S
    database.with_name("elsewhere").rename(database)
    with closing(sqlite3.connect(database)) as connection:
        assert connection.execute("SELECT count(*) FROM job").fetchone()[0] == 6
    with closing(connect(database)) as other:
        other.execute(
            "CREATE TRIGGER full BEFORE UPDATE ON job BEGIN SELECT RAISE(ABORT, 'full'); END"
        )
    assert waiting(database) == 6
    assert keeper.look() == FAILED_S
    assert waiting(database) == 6


def test_a_job_that_fails_is_one_line_that_says_so(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Until the program is started again, or the job changes."""
    plain = listing.summary_of

    def broken(session: JobSession) -> listing.JobSummary:
        if session.job.id.startswith("demo-1"):
            raise ZeroDivisionError
        if session.job.id.startswith("demo-2"):
            raise TooLong("it takes too long")
        return plain(session)

    app = create_app(database)
    keeper = ListKeeper(app)
    monkeypatch.setattr(listing, "summary_of", broken)
    while keeper.look() == REST_S:
        pass
    shown = app.test_client().get("/api/v1/jobs").get_json()
    assert shown["waiting"] == 0
    said = {job["id"]: job["trouble"] for job in shown["jobs"]}
    assert said.pop("demo-1-sloop-marram") == UNWORKABLE["failed"]
    assert said.pop("demo-2-tourer-linnet") == UNWORKABLE["too_long"]
    assert not any(said.values())
    assert all(job["verdict"] == "not_measured" for job in shown["jobs"] if job["trouble"])
    monkeypatch.undo()
    keeper.start()
    while waiting(database) or any(
        job["trouble"] for job in app.test_client().get("/api/v1/jobs").get_json()["jobs"]
    ):
        pass
    keeper.stop()


def test_who_asks_for_the_list_waits_for_no_job(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, over = Event(), Event()

    def endless(session: JobSession) -> listing.JobSummary:
        begun.set()
        while not over.wait(0.01):
            still_allowed()
        raise AssertionError

    monkeypatch.setattr(listing, "summary_of", endless)
    app = create_app(database)
    shown = app.test_client().get("/api/v1/jobs").get_json()
    assert shown["waiting"] == 6
    assert [job["waiting"] for job in shown["jobs"]] == [True] * 6
    assert begun.wait(60)
    worker = app.extensions["listed"]
    worker.stop()
    worker._thread.shutdown(wait=True)
    assert waiting(database) == 6, "nothing is said of what was left half done"
