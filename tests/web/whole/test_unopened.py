"""A database that nobody wrote to is not opened again for what it said already."""

import sqlite3
import time
from contextlib import closing
from pathlib import Path
from types import SimpleNamespace

import pytest
from flask.testing import FlaskClient

from spare_margin.store.file import state
from spare_margin.store.file.database import connect
from spare_margin.web.common import context

JOB = "/api/v1/jobs/demo-1-sloop-marram"


@pytest.fixture
def opened(demo: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> list[Path]:
    """Every opening of the database; long after it was last written to."""
    seen: list[Path] = []

    def noted(path: Path) -> sqlite3.Connection:
        seen.append(path)
        return connect(path)

    monkeypatch.setattr(context, "connect", noted)
    monkeypatch.setattr(state, "time", SimpleNamespace(time_ns=lambda: time.time_ns() + 10**10))
    return seen


def test_a_second_look_opens_nothing(demo: FlaskClient, opened: list[Path]) -> None:
    first = demo.get(f"{JOB}/sheet").json
    assert len(opened) == 1
    assert demo.get(f"{JOB}/sheet").json == first
    assert demo.get("/api/v1/settings").status_code == 200
    assert len(opened) == 1


def test_what_another_program_wrote_is_seen(demo: FlaskClient, opened: list[Path]) -> None:
    demo.get(f"{JOB}/sheet")
    with closing(connect(demo.application.config["DATABASE"])) as other:
        other.execute("UPDATE job SET title = 'Renamed' WHERE id = 'demo-1-sloop-marram'")
        other.execute("INSERT INTO setting VALUES ('length', 'ft')")
    shown = demo.get(f"{JOB}/sheet").json
    assert shown["title"] == "Renamed"
    assert any(c["form"]["length"].endswith("ft") for c in shown["run"]["columns"])


def test_what_was_just_kept_is_shown_at_once(demo: FlaskClient, opened: list[Path]) -> None:
    for title in ("First", "Second", "Third"):
        assert demo.post(f"{JOB}/details", json={"title": title}).status_code == 200
        assert demo.get(f"{JOB}/sheet").json["title"] == title


def test_what_was_read_while_a_commit_waited_for_the_disk_is_read_again(
    demo: FlaskClient, opened: list[Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The log was written before it was read, and does not change when the commit can be seen."""
    monkeypatch.setattr(context, "file_state", lambda _: ("the log", "as it stands"))
    before = demo.get(f"{JOB}/sheet").json["title"]
    assert demo.post(f"{JOB}/details", json={"title": "Kept"}).status_code == 200
    assert before != "Kept"
    assert demo.get(f"{JOB}/sheet").json["title"] == "Kept"
    changed = demo.get(f"{JOB}/sheet").json
    wire = next(c["id"] for c in changed["run"]["columns"] if c["kind"] == "conductor")
    body = {"stage": changed["stage"], "revision": changed["revision"], "element": wire}
    shown = demo.post(f"{JOB}/changes", json={**body, "edit": {"length": "7 m"}, "correct": True})
    assert (
        next(c for c in shown.json["run"]["columns"] if c["id"] == wire)["form"]["length"] == "7 m"
    )


def test_a_database_that_was_taken_away_is_missed(demo: FlaskClient, opened: list[Path]) -> None:
    demo.get(f"{JOB}/sheet")
    Path(demo.application.config["DATABASE"]).unlink()
    answer = demo.get(f"{JOB}/sheet")
    assert answer.status_code == 503
    assert answer.json["title"] == "The jobs are not there"
