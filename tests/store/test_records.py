"""Finding jobs by words, by what they are about, by when and how they stand."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.service.job.caches import Caches
from spare_margin.service.job.session import JobSession
from spare_margin.service.job.snapshot import job_snapshot
from spare_margin.service.records.listing import work_out
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.service.workshop.workshop import workshop
from spare_margin.store import jobs, records
from spare_margin.store.file.database import connect, transaction
from spare_margin.store.records import Asked, Record, folded, search

MARRAM, LINNET, DUNLIN = "demo-1-sloop-marram", "demo-2-tourer-linnet", "demo-3-show-truck-dunlin"
ORRIN, SISKIN = "demo-4-barge-orrin", "demo-5-trailer-siskin"
WHIMBREL = "demo-6-ketch-whimbrel"


@pytest.fixture
def here(tmp_path: Path) -> Iterator[sqlite3.Connection]:
    """The demo jobs, each worked out."""
    fill_with_demo(tmp_path / "here.sqlite3")
    connection = connect(tmp_path / "here.sqlite3")
    look(connection)
    yield connection
    connection.close()


def look(connection: sqlite3.Connection) -> None:
    """Look at the list until everything is worked out."""
    shop, caches = workshop(connection), Caches()

    def opened(job_id: str) -> JobSession:
        found = job_snapshot(connection, job_id, {})
        assert found is not None
        return JobSession(found, shop.tables, shop.meter, caches)

    for job in records.to_be_worked_out(connection, 1000):
        work_out(connection, job, opened)


def test_what_is_worked_out_already_is_left(here: sqlite3.Connection) -> None:
    """Two who ask at once queue a job twice; the second time nothing is opened."""

    def opened(job_id: str) -> JobSession:
        raise AssertionError(job_id)

    work_out(here, MARRAM, opened)


def ids(connection: sqlite3.Connection, **asked: object) -> list[str]:
    rows, total = search(connection, Asked(**asked))  # type: ignore[arg-type]
    assert total == len(rows)
    return [row.id for row in rows]


@pytest.mark.parametrize(
    ("asked", "expected"),
    [
        ({}, [MARRAM, LINNET, DUNLIN, ORRIN, SISKIN, WHIMBREL]),
        ({"words": "marram"}, [MARRAM]),
        ({"words": "  SALTMARSH  lift "}, [DUNLIN]),
        ({"words": "ring bus"}, [MARRAM]),  # the fault that was found
        ({"words": "cold box"}, [MARRAM, ORRIN, WHIMBREL]),  # a load
        ({"words": "marram lift"}, []),
        ({"words": "%"}, []),
        ({"craft_name": "Tourer Linnet"}, [LINNET]),
        ({"customer": "Ingrid Solberg"}, [MARRAM]),
        ({"fault": "joint"}, [MARRAM, DUNLIN]),
        ({"fault": "any", "words": "boat OR"}, []),
        ({"kind": "relay_contact"}, [DUNLIN, ORRIN, SISKIN]),
        ({"kind": "body_return", "fault": "joint"}, [DUNLIN]),
        ({"state": "signed"}, [DUNLIN]),
        ({"state": "planned"}, [SISKIN, WHIMBREL]),
        ({"state": "drawn"}, [ORRIN]),
        ({"since": "2999-01-01"}, []),
        ({"until": "2000-01-01"}, []),
        ({"since": "2000-01-01", "until": "2999-01-01", "state": "read"}, [MARRAM, LINNET]),
        ({"away": True}, []),
    ],
)  # fmt: skip
def test_jobs_are_found(
    here: sqlite3.Connection, asked: dict[str, object], expected: list[str]
) -> None:
    assert ids(here, **asked) == expected


def test_a_day_counts_whole(here: sqlite3.Connection) -> None:
    here.execute("UPDATE job SET made_at = '2026-05-06T23:59:59.5Z' WHERE id = ?", (MARRAM,))
    assert ids(here, since="2026-05-06", until="2026-05-06") == [MARRAM]
    assert ids(here, until="2026-05-05") == []


def test_words_of_a_job_change_with_it(here: sqlite3.Connection) -> None:
    with transaction(here):
        jobs.keep_details(here, MARRAM, {"customer": "ΣΟΦΙΑ Straße", "craft_name": "Ægir"})
    assert ids(here, words="σοφια STRASSE") == [MARRAM]
    assert ids(here, words="solberg") == []
    assert ids(here, words="ÆGIR", craft_name="Ægir") == [MARRAM]


def test_what_is_put_away_is_found_where_it_is_asked_for(here: sqlite3.Connection) -> None:
    jobs.put_away(here, MARRAM, True)
    assert MARRAM not in ids(here)
    assert ids(here, away=True) == [MARRAM]
    assert MARRAM in ids(here, away=None)
    assert records.put_away_count(here) == 1


def test_ten_thousand_jobs_are_paged_and_found(here: sqlite3.Connection) -> None:
    """A page is a page however many there are, and asks for no job to be solved."""
    row = dict(here.execute("SELECT * FROM job WHERE id = ?", (DUNLIN,)).fetchone())
    with transaction(here):
        for i in range(10_000):
            made = {**row, "id": f"many-{i}", "made_at": f"2020-01-01T{i % 24:02d}:00:00Z",
                    "words": folded(f"Craft number {i}", "some complaint or other")}  # fmt: skip
            here.execute(
                f"INSERT INTO job ({', '.join(made)}) VALUES ({', '.join('?' * len(made))})",
                tuple(made.values()),
            )
            found = Record("left", "within", ("joint",), "joint", "Rear lug", "rear lug", "")
            records.keep(here, f"many-{i}", {}, found)
    rows, total = search(here, Asked())
    assert (len(rows), total) == (records.PAGE, 10_006)
    seen = {r.id for r in rows}
    later, _ = search(here, Asked(), start=records.PAGE)
    assert not seen & {r.id for r in later}
    assert [r.id for r in search(here, Asked(words="number 7777"))[0]] == ["many-7777"]
    assert search(here, Asked(fault="joint"))[1] == 10_002
    plan = here.execute(
        "EXPLAIN QUERY PLAN SELECT id FROM job WHERE put_away = 0 ORDER BY made_at DESC LIMIT 50"
    ).fetchall()
    assert any("job_by_age" in step["detail"] for step in plan)


@given(st.text(max_size=40), st.text(max_size=40))
def test_folding_finds_what_is_written_otherwise(left: str, right: str) -> None:
    whole = folded(left, right)
    assert folded(whole) == whole
    for word in folded(left).split():
        assert word in whole
