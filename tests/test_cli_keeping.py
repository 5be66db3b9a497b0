"""The commands that keep the jobs safe, and how serving begins and ends."""

import json
import os
import re
import signal
import sqlite3
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import AbstractContextManager, closing, contextmanager
from pathlib import Path, PureWindowsPath
from types import SimpleNamespace

import pytest
from click.testing import CliRunner, Result

from spare_margin.cli import keeping, main
from spare_margin.cli.common import stop_signals
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.backups import backups, what_is_wrong
from spare_margin.store.file.in_use import held
from spare_margin.store.file.migrating import migrate

Program = subprocess.Popen[str]


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(main, [str(w) for w in words])


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    return path


def put_away(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("DELETE FROM job")
        connection.commit()


def jobs(path: Path) -> int:
    with closing(sqlite3.connect(path)) as connection:
        return int(connection.execute("SELECT count(*) FROM job").fetchone()[0])


def test_a_copy_out_and_back(database: Path, tmp_path: Path) -> None:
    out = tmp_path / "elsewhere" / "copy.sqlite3"
    assert run("backup", "--out", out, "--database", database).stdout.strip() == str(out)
    made = Path(run("backup", "--database", database).stdout.strip())
    assert [b.path for b in backups(database)] == [made]
    assert str(made) in run("restore", "--database", database).stdout
    put_away(database)
    for source in (out, made):
        answer = run("restore", source, "--database", database)
        assert answer.exit_code == 0, answer.stderr
        assert "What was there is kept in" in answer.stdout
        assert jobs(database) == 6
        assert run("check", "--database", database).stdout.strip() == f"{database} is whole."
        put_away(database)
    assert "parts of a job are missing" in run("check", "--database", database).stderr
    assert run("check", out).exit_code == 0


def test_what_cannot_be_done_is_said_in_one_line(database: Path, tmp_path: Path) -> None:
    bad = tmp_path / "bad.sqlite3"
    bad.write_text("eggs, butter")
    with held(database, "http://127.0.0.1:1/"):
        busy = run("restore", bad, "--database", database)
    assert "open at http://127.0.0.1:1/. Stop it first." in busy.stderr
    for words in (
        ("restore", bad), ("restore", tmp_path / "none"), ("check", bad), ("check", tmp_path / "none"),
        ("backup", "--out", tmp_path / "bad.sqlite3" / "x"),
    ):  # fmt: skip
        answer = run(*words, "--database", database)
        assert answer.exit_code == 2
        assert len(answer.stderr.strip().splitlines()) == 1
    assert run("backup", "--database", tmp_path / "none").exit_code == 2
    assert not (tmp_path / "none").exists(), "no empty one is made"
    assert jobs(database) == 6


def test_a_check_finds_what_no_other_workshop_could_take(database: Path) -> None:
    """A note of a run that is not there: it was once kept, and the job's own file was then refused."""
    with closing(sqlite3.connect(database)) as connection:
        connection.execute(
            "INSERT INTO walk_note VALUES ('demo-1-sloop-marram', 'note-0001', 'as_found', 'no such run',"
            " 'feed', 'skipped', 'cannot reach', '', '2026-05-20T08:00:00Z')"
        )
        connection.commit()
    said = run("check", "--database", database)
    assert said.exit_code == 2
    assert "the job Sloop Marram: galley tap" in said.stderr
    assert "could not leave: walk_notes[0].run" in said.stderr
    assert len(said.stderr.strip().splitlines()) == 1, "the others are whole"
    assert "could not leave" in run("doctor", "--database", database).stderr
    made = Path(run("backup", "--database", database).stdout.strip())
    assert "could not leave" in run("check", made).stderr, "a copy is looked at as well"
    old = database.with_name("old.sqlite3")
    migrate(old, up_to=6)
    assert run("check", old).exit_code == 0, (
        "one of an earlier version too, and it is left as it is"
    )
    with closing(sqlite3.connect(old)) as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == 6


def test_the_doctor_says_what_it_found(
    database: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said = run("doctor", "--database", database)
    assert said.exit_code == 0, said.stderr
    for line in (
        "Spare Margin:",
        "Integrity:    whole",
        "6 jobs",
        "none yet",
        "Served:       no",
        "UTC",
    ):
        assert line in said.stdout
    run("backup", "--database", database)
    with held(database, "http://127.0.0.1:1/"):
        said = run("doctor", "--database", database)
    assert "1, the newest of 20" in said.stdout
    assert "yes, at http://127.0.0.1:1/" in said.stdout
    assert "there is no database yet" in run("doctor", "--database", tmp_path / "new").stdout
    old = tmp_path / "old.sqlite3"
    migrate(old, up_to=1)
    assert "0 jobs, 0 readings" in run("doctor", "--database", old).stdout
    database.write_bytes(database.read_bytes()[:20000])
    monkeypatch.setattr(keeping, "LITTLE_ROOM", 10**18)
    said = run("doctor", "--database", database)
    assert said.exit_code == 2
    assert "little room" in said.stderr
    assert "malformed" in said.stderr


def serving(database: Path, *more: str) -> AbstractContextManager[tuple[Program, list[str]]]:
    """The application served over this database, and what it says until it is there."""
    return started("serve", "--database", str(database), *more)


@contextmanager
def started(*command: str) -> Iterator[tuple[Program, list[str]]]:
    """The application served by this command of its own, and what it says until it is there."""
    served = subprocess.Popen(
        [sys.executable, "-m", "spare_margin", *command, "--no-browser", "--port", "0"],
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
    )  # fmt: skip
    assert served.stdout is not None
    said = []
    for line in served.stdout:
        said.append(line)
        if line.startswith("Spare Margin is at"):
            break
    try:
        yield served, said
    finally:
        served.kill()
        served.wait()


def address(said: list[str]) -> str:
    return re.findall(r"http://\S+", said[-1])[0]


def test_the_demo_says_first_where_it_is_and_then_where_its_meter_is() -> None:
    with started("demo") as (served, said):
        assert len(said) == 1, "whoever opens the first address that is said opens the application"
        assert served.stdout is not None
        assert served.stdout.readline().startswith("The stand-in meter's leads are laid at http://")


def test_an_upgrade_is_said_and_a_second_program_is_told_where_the_first_is(tmp_path: Path) -> None:
    database = tmp_path / "jobs.sqlite3"
    migrate(database, up_to=3)
    with serving(database) as (_, said):
        assert "as it was, it is kept in" in said[0]
        kept = Path(said[0].rsplit("kept in ", 1)[1].strip())
        assert what_is_wrong(kept) == ""
        with serving(database) as (second, told):
            assert second.wait() == 1
            assert f"open at {address(said)}" in told[0]
        with urllib.request.urlopen(f"{address(said)}api/v1/jobs") as answer:
            assert json.load(answer)["total"] == 0


@pytest.mark.skipif(os.name != "posix", reason="signals are POSIX's")
@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM])
def test_it_stops_when_it_is_told_to_and_leaves_a_copy(database: Path, how: int) -> None:
    with serving(database) as (served, _):
        served.send_signal(how)
        assert served.wait() == 0
    assert len(backups(database)) == 1
    assert not database.with_name(f"{database.name}-wal").exists(), "nothing left behind"
    assert not database.with_name(f"{database.name}.address").exists()


def test_the_page_is_opened_unless_told_not_to(database: Path, tmp_path: Path) -> None:
    """`BROWSER` names what opens pages, as the standard library has it."""
    opened = tmp_path / "opened"
    script = tmp_path / "browser.py"
    script.write_text(f"import sys, pathlib; pathlib.Path({str(opened)!r}).write_text(sys.argv[1])")
    program = [sys.executable, "-m", "spare_margin", "serve"]
    served = subprocess.Popen(
        [*program, "--port", "0", "--database", str(database)],
        stdout=subprocess.PIPE, text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1", "BROWSER": f"{sys.executable} {script} %s"},
    )  # fmt: skip
    try:
        assert served.stdout is not None
        said = served.stdout.readline()
        served.send_signal(signal.SIGTERM)
        assert served.wait() == 0, "it stops once the browser was told"
    finally:
        served.kill()
    assert opened.read_text() == address([said])


def test_what_a_system_has_not_is_not_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    """Windows, as far as it differs: other signals; a path with a drive; modes that mean nothing."""
    windows = SimpleNamespace(SIGINT=2, SIGBREAK=21)
    monkeypatch.setattr("spare_margin.cli.common.signal", windows)
    assert stop_signals() == [2, 21]
    drive = PureWindowsPath(r"C:\Users\Ida B\jobs.sqlite3")
    assert f"{drive.as_uri()}?mode=rw" == "file:///C:/Users/Ida%20B/jobs.sqlite3?mode=rw"
