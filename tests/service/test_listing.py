"""The list of jobs: kept with each job, worked out only when it changed, and always true."""

import threading
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from spare_margin.core.patience import TooLong, at_most
from spare_margin.service.job.caches import Caches
from spare_margin.service.records import listing
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.database import connect
from spare_margin.store.records import Asked
from spare_margin.web.app import create_app
from tests.conftest import Document
from tests.web.test_api import MARRAM, take

SPELT = "demo-1-sloop-marram"


@pytest.fixture
def worked_out(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The ids of the jobs whose standing was worked out, in order."""
    asked: list[str] = []
    plain = listing.summary_of

    def told(session: object) -> object:
        asked.append(session.job.id)  # type: ignore[attr-defined]
        return plain(session)  # type: ignore[arg-type]

    monkeypatch.setattr(listing, "summary_of", told)
    return asked


def listed(client: FlaskClient) -> dict[str, Document]:
    while True:
        answer = client.get("/api/v1/jobs?away=any")
        assert answer.status_code == 200
        if answer.json["waiting"] == 0:
            return {job["id"]: job for job in answer.json["jobs"]}


def test_a_second_look_works_nothing_out(tmp_path: Path, worked_out: list[str]) -> None:
    database = tmp_path / "jobs.sqlite3"
    fill_with_demo(database)
    client = create_app(database).test_client()
    first = listed(client)
    assert sorted(worked_out) == sorted(first)
    worked_out.clear()
    assert listed(client) == first
    assert worked_out == []


def test_only_what_changed_is_worked_out_again(demo: FlaskClient, worked_out: list[str]) -> None:
    before = listed(demo)
    worked_out.clear()
    seen = demo.get(f"{MARRAM}/sheet").json["run"]
    ends = seen["load"]["feed"]["id"], seen["load"]["back"]["id"]
    assert take(demo, "11.9", ends, job=MARRAM).status_code == 200
    demo.post(f"{MARRAM}/details", json={"title": "Sloop Marram, again"})
    after = listed(demo)
    assert worked_out == [SPELT], "worked out at the next look"
    assert after[SPELT]["reading_count"] == before[SPELT]["reading_count"] + 1
    assert after[SPELT]["title"] == "Sloop Marram, again"
    for key in set(before) - {SPELT}:
        assert after[key] == before[key]


def test_what_the_tables_say_is_never_stale(demo: FlaskClient, worked_out: list[str]) -> None:
    """An own row or a setting that a standing rests on makes it be worked out again."""
    listed(demo)
    worked_out.clear()
    tables = demo.get("/api/v1/tables").json["tables"]
    cells = next(t for t in tables if t["id"] == "fixed_pieces")["rows"][0]["cells"]
    answer = demo.post("/api/v1/tables/fixed_pieces/rows", json={"rows": [{"cells": cells}]})
    assert answer.status_code == 200, answer.json
    listed(demo)
    assert set(worked_out) >= {SPELT}


def test_put_away_jobs_are_kept_too(demo: FlaskClient, worked_out: list[str]) -> None:
    listed(demo)
    worked_out.clear()
    demo.post(f"{MARRAM}/put-away", json={})
    away = demo.get("/api/v1/jobs?away=yes").json
    assert [job["id"] for job in away["jobs"]] == [SPELT]
    assert demo.get("/api/v1/jobs").json["put_away"] == 1
    assert worked_out == []
    demo.post(f"{MARRAM}/take-back", json={})
    assert worked_out == []


def test_a_list_survives_the_program(tmp_path: Path, worked_out: list[str]) -> None:
    database = tmp_path / "jobs.sqlite3"
    fill_with_demo(database)
    first = listed(create_app(database).test_client())
    worked_out.clear()
    again = listed(create_app(database).test_client())
    assert again == first
    assert worked_out == []
    connection = connect(database)
    try:
        kept = connection.execute("SELECT COUNT(*) FROM job").fetchone()[0]
    finally:
        connection.close()
    assert kept == len(first)


# Caches


def test_a_cache_makes_once_and_forgets_the_oldest() -> None:
    caches, made = Caches(), []

    def make(value: int) -> int:
        made.append(value)
        return value

    for value in range(60):
        assert caches.solved(value, lambda v=value: make(v)) == value  # type: ignore[misc]
    assert caches.solved(59, lambda: make(-1)) == 59
    assert made == list(range(60))
    caches.solved(0, lambda: make(0))
    assert made[-1] == 0, "the oldest was let go"


def test_what_fails_to_be_made_is_not_kept() -> None:
    caches = Caches()

    def fail() -> int:
        raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        caches.judged("k", fail)
    assert caches.judged("k", lambda: 7) == 7


def test_what_several_ask_for_at_once_is_made_once() -> None:
    caches, made, begun = Caches(), [], threading.Event()

    def make() -> int:
        made.append(1)
        begun.wait(60)
        return 7

    answers: list[int] = []
    asking = [
        threading.Thread(target=lambda: answers.append(caches.solved("k", make))) for _ in range(8)
    ]
    for each in asking:
        each.start()
    begun.set()
    for each in asking:
        each.join()
    assert answers == [7] * 8
    assert len(made) == 1


def test_who_waits_for_another_waits_no_longer_than_he_may() -> None:
    caches, begun, over = Caches(), threading.Event(), threading.Event()

    def make() -> int:
        begun.set()
        over.wait(60)
        return 7

    first = threading.Thread(target=lambda: caches.solved("k", make))
    first.start()
    assert begun.wait(60)
    with at_most(0.01), pytest.raises(TooLong):
        caches.solved("k", make)
    over.set()
    first.join()
    assert caches.solved("k", make) == 7


def test_a_list_that_waits_for_nothing_shows_everything(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A job that is worked out while the list is read: counted as waiting, or shown."""
    database = tmp_path / "jobs.sqlite3"
    fill_with_demo(database)
    connection = connect(database)
    plain = listing.records.search

    def slow(*asked: object) -> object:
        found = plain(*asked)  # type: ignore[arg-type]
        connection.execute("UPDATE job SET shown = '{}' WHERE shown IS NULL")
        return found

    monkeypatch.setattr(listing.records, "search", slow)
    try:
        page = listing.listed(connection, Asked(), 0)
        assert any(stands is None for _, stands in page.rows)
        assert page.waiting > 0
    finally:
        connection.close()
