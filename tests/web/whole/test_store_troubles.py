"""What is the matter with the disk is said in words; nothing is acknowledged that is not kept."""

import os
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from spare_margin.store.file.database import connect
from spare_margin.web.common import context

MARRAM = "/api/v1/jobs/demo-1-sloop-marram"
Opened = Callable[[Path], sqlite3.Connection]


def opened_by(monkeypatch: pytest.MonkeyPatch, opened: Opened) -> None:
    monkeypatch.setattr(context, "connect", opened)


def database(demo: FlaskClient) -> Path:
    path: Path = demo.application.config["DATABASE"]
    return path


def test_a_full_disk(demo: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    before = demo.get(f"{MARRAM}/file").data

    def full(path: Path) -> sqlite3.Connection:
        connection = connect(path)
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count = {pages}")
        return connection

    opened_by(monkeypatch, full)
    answers = [demo.post("/api/v1/jobs", data=before) for _ in range(12)]
    refused = [a for a in answers if a.status_code >= 500]
    assert refused, [a.text[:100] for a in answers]
    assert {a.status_code for a in refused} == {507}
    assert refused[0].json is not None
    assert refused[0].json["title"] == "The disk is full"
    assert "nothing was changed" in refused[0].json["detail"]
    kept = sum(a.status_code < 400 for a in answers)
    monkeypatch.undo()
    assert demo.get("/api/v1/jobs").json["total"] == 6 + kept  # type: ignore[index]
    assert demo.get(f"{MARRAM}/file").data == before


def test_what_can_only_be_read_is_read(demo: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def reading(path: Path) -> sqlite3.Connection:
        connection = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True, isolation_level=None)
        connection.row_factory = sqlite3.Row
        return connection

    with closing(connect(database(demo))):
        opened_by(monkeypatch, reading)
        assert demo.get(f"{MARRAM}/sheet").status_code == 200
        assert demo.get("/api/v1/jobs").status_code == 200
        answer = demo.post(f"{MARRAM}/put-away", json={})
    assert answer.status_code == 503
    assert answer.json is not None
    assert answer.json["title"] == "The jobs can only be read"


def test_what_was_taken_away_is_not_made_anew(demo: FlaskClient) -> None:
    path = database(demo)
    path.rename(path.with_name("elsewhere"))
    for answer in (demo.get("/api/v1/jobs"), demo.post(f"{MARRAM}/put-away", json={})):
        assert answer.status_code == 503
        assert answer.json is not None
        assert answer.json["title"] == "The jobs are not there"
        assert str(path.parent) not in answer.text, "no path of the machine"
    assert not path.exists()
    path.with_name("elsewhere").rename(path)
    assert demo.get("/api/v1/jobs").status_code == 200, "it is there again"


def test_what_is_damaged_is_said(demo: FlaskClient) -> None:
    path = database(demo)
    for beside in path.parent.glob(f"{path.name}-*"):
        beside.unlink()
    path.write_bytes(b"no database at all, by now" * 500)
    answer = demo.get("/api/v1/jobs")
    assert answer.status_code == 503
    assert answer.json is not None
    assert answer.json["title"] == "The jobs are damaged"


def test_somebody_who_holds_it_for_long(demo: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def impatient(path: Path) -> sqlite3.Connection:
        connection = connect(path)
        connection.execute("PRAGMA busy_timeout = 10")
        return connection

    opened_by(monkeypatch, impatient)
    with closing(connect(database(demo))) as other:
        other.execute("BEGIN IMMEDIATE")
        answer = demo.post(f"{MARRAM}/put-away", json={})
        other.execute("ROLLBACK")
    assert answer.status_code == 503
    assert answer.headers["Retry-After"] == "5"
    assert demo.post(f"{MARRAM}/put-away", json={}).status_code == 200


def test_copies_are_made_from_the_page(demo: FlaskClient) -> None:
    assert demo.get("/api/v1/copies").json == {"count": 0, "newest": None}
    made = demo.post("/api/v1/copies", json={}).json
    assert made is not None
    assert made["count"] == 1
    folder = database(demo).with_name(f"{database(demo).stem}-backups")
    assert str(folder) not in str(made)
    for copy in folder.iterdir():
        copy.unlink()
    folder.rmdir()
    folder.write_text("in the way")
    answer = demo.post("/api/v1/copies", json={})
    assert answer.status_code == 503
    assert str(folder) not in answer.text


@pytest.mark.parametrize(
    ("closed", "said"),
    [("", "Their file may not"), ("-wal", "ends in -wal"), ("..", "The folder they are in")],
)
def test_what_may_not_be_written_is_named(
    demo: FlaskClient, monkeypatch: pytest.MonkeyPatch, closed: str, said: str
) -> None:
    path = database(demo)
    wanted = path.parent if closed == ".." else path.with_name(path.name + closed)

    def readonly(path: Path) -> sqlite3.Connection:
        connection = connect(path)
        connection.execute("PRAGMA query_only = ON")
        return connection

    opened_by(monkeypatch, readonly)
    plain = os.access
    monkeypatch.setattr(os, "access", lambda p, mode: p != wanted and plain(p, mode))
    with closing(connect(path)):
        answer = demo.post(f"{MARRAM}/put-away", json={})
    assert answer.status_code == 503
    assert said in answer.json["detail"]  # type: ignore[index]
