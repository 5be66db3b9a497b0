"""Copies of the database: made while it is written, kept for a while, put back; what is damaged is not."""

import os
import sqlite3
import threading
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.service.workshop.backing_up import BackupKeeper
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.backups import (
    Backup,
    back_up,
    backups,
    copy,
    due,
    put_away_old,
    restore,
    to_keep,
    what_is_wrong,
)
from spare_margin.store.file.database import DatabaseError, connect, migrations, transaction
from spare_margin.store.file.in_use import InUse, held
from spare_margin.store.file.migrating import migrate

NOON = datetime(2026, 5, 20, 12, tzinfo=UTC)
NEWEST = migrations()[-1][0]


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    return path


def words(path: Path) -> list[str]:
    with closing(sqlite3.connect(path)) as connection:
        return [row[0] for row in connection.execute("SELECT value FROM setting ORDER BY key")]


def put(path: Path, key: str, value: str) -> None:
    with closing(connect(path)) as connection, transaction(connection):
        connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (key, value))


def titles(path: Path) -> set[str]:
    with closing(sqlite3.connect(path)) as connection:
        return {row[0] for row in connection.execute("SELECT title FROM job")}


def test_a_copy_holds_what_the_log_holds(database: Path) -> None:
    with closing(connect(database)) as busy:
        busy.execute("PRAGMA wal_autocheckpoint = 0")
        with transaction(busy):
            busy.execute("INSERT INTO setting VALUES ('word', 'in the log alone')")
        made = back_up(database, NOON)
    assert made.path.name == "2026-05-20T12-00-00Z.sqlite3"
    assert words(made.path) == ["in the log alone"]
    assert titles(made.path) == titles(database)
    assert [b.path for b in backups(database)] == [made.path]
    assert not list(made.path.parent.glob("*.part"))


def test_a_copy_made_while_others_write_is_whole(database: Path) -> None:
    """Every transaction writes two rows alike: a copy from in between would hold two that differ."""
    stopped = threading.Event()
    written = threading.Event()

    def write() -> None:
        with closing(connect(database)) as connection:
            count = 0
            while not stopped.is_set():
                with transaction(connection):
                    for key in ("one", "two"):
                        said = (key, str(count))
                        connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", said)
                count += 1
                written.set()

    writer = threading.Thread(target=write)
    writer.start()
    written.wait()
    try:
        for second in range(5):
            made = back_up(database, NOON + timedelta(seconds=second))
            one, two = words(made.path)
            assert one == two
            assert what_is_wrong(made.path) == ""
    finally:
        stopped.set()
        writer.join()


def test_put_back_and_what_was_there_is_kept(database: Path) -> None:
    put(database, "word", "before")
    made = back_up(database, NOON)
    put(database, "word", "after")
    kept = restore(database, made.path, NOON)
    assert words(database) == ["before"]
    assert kept is not None
    assert words(kept) == ["after"]
    assert what_is_wrong(database) == ""


def test_an_old_log_beside_it_is_not_taken_for_the_new_ones(database: Path) -> None:
    """What a program that was killed left behind: a log beside the file."""
    made = back_up(database, NOON)
    with closing(connect(database)) as busy:
        busy.execute("PRAGMA wal_autocheckpoint = 0")
        with transaction(busy):
            busy.execute("INSERT INTO setting VALUES ('word', 'in the log')")
        left = database.with_name("left")
        log = database.with_name(f"{database.name}-wal").read_bytes()
        left.write_bytes(database.read_bytes())
    os.replace(left, database)
    database.with_name(f"{database.name}-wal").write_bytes(log)
    kept = restore(database, made.path, NOON)
    assert kept is not None
    assert words(kept) == ["in the log"]
    assert words(database) == []


@pytest.mark.parametrize(
    "harm", ["middle", "short", "text", "empty", "newer", "other", "theirs", "parts"]
)
def test_what_is_damaged_is_not_put_back(database: Path, tmp_path: Path, harm: str) -> None:
    bad = tmp_path / "bad.sqlite3"
    copy(database, bad)
    raw = bytearray(bad.read_bytes())
    if harm == "middle":
        raw[5 * 4096 : 40 * 4096] = os.urandom(35 * 4096)
        bad.write_bytes(raw)
    elif harm == "short":
        bad.write_bytes(raw[: len(raw) // 2])
    elif harm == "text":
        bad.write_text("Shopping: eggs, butter, heat-shrink.\n" * 50)
    elif harm == "empty":
        bad.write_bytes(b"")
    else:
        done = {
            "newer": f"PRAGMA user_version = {NEWEST + 1}",
            "other": "DROP TABLE job",
            "theirs": "DROP TABLE reading",
            "parts": "DELETE FROM revision",
        }[harm]
        with closing(sqlite3.connect(bad, isolation_level=None)) as connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute(done)
    before = database.read_bytes()
    with pytest.raises(DatabaseError, match="cannot be put back"):
        restore(database, bad, NOON)
    assert database.read_bytes() == before
    with pytest.raises(DatabaseError, match="There is no file"):
        restore(database, tmp_path / "none", NOON)


def test_what_is_damaged_is_kept_as_it_is_when_it_is_replaced(database: Path) -> None:
    made = back_up(database, NOON)
    database.write_bytes(b"not any more")
    kept = restore(database, made.path, NOON)
    assert kept is not None
    assert kept.read_bytes() == b"not any more"
    assert titles(database) == titles(made.path)


def test_a_copy_of_what_is_damaged_is_not_called_one(database: Path) -> None:
    raw = bytearray(database.read_bytes())
    raw[5 * 4096 : 40 * 4096] = os.urandom(35 * 4096)
    database.write_bytes(raw)
    with pytest.raises(DatabaseError):
        back_up(database, NOON)
    assert backups(database) == []


@given(st.lists(st.integers(0, 24 * 800), max_size=80), st.integers(0, 24 * 30))
def test_what_stays(hours: list[int], later: int) -> None:
    made = [Backup(Path(str(h)), NOON + timedelta(hours=h), 1) for h in sorted(set(hours))]
    kept = to_keep(made)
    assert len(kept) <= 7 + 4 + 12
    if made:
        assert made[-1].path in kept, "the newest always stays"
    days = {b.made_at.date() for b in made}
    for day in sorted(days)[-7:]:
        newest = max((b for b in made if b.made_at.date() == day), key=lambda b: b.made_at)
        assert newest.path in kept
    stay = [b for b in made if b.path in kept]
    assert to_keep(stay) == kept, "putting away twice takes no more"
    more = [*stay, Backup(Path("new"), NOON + timedelta(hours=24 * 801 + later), 1)]
    assert Path("new") in to_keep(more)


def test_old_ones_are_put_away(database: Path) -> None:
    for day in range(20):
        back_up(database, NOON + timedelta(days=day))
    put_away_old(database, NOON + timedelta(days=19))
    left = [b.made_at.date().isoformat() for b in backups(database)]
    assert left[:7] == [f"2026-06-{day:02d}" for day in range(8, 1, -1)]
    assert left[7:] == ["2026-05-31", "2026-05-24"], "the ends of weeks and of the month"


def test_what_a_person_asked_for_stays(database: Path) -> None:
    wanted = [back_up(database, NOON + timedelta(hours=h), asked_for=True) for h in (0, 1)]
    for hour in range(2, 50):
        back_up(database, NOON + timedelta(hours=hour))
        put_away_old(database, NOON + timedelta(hours=hour))
    left = backups(database)
    assert [b for b in left if b.asked_for] == wanted[::-1]
    assert len(left) == 2 + 3, "and the newest of each of the other days"
    assert what_is_wrong(wanted[0].path) == ""


def test_a_copy_is_made_when_work_is_done_and_once_a_day(database: Path) -> None:
    moment = [datetime.now(UTC) + timedelta(minutes=1)]
    keeper = BackupKeeper(database, lambda: moment[0], lambda: moment[0].timestamp())  # noqa: PLW0108
    with closing(connect(database)) as own:
        keeper.begin(own)
        moment[0] += timedelta(minutes=20)
        assert keeper.look(), "what was there before the start, and had no copy"
        assert not keeper.look()
        put(database, "word", "new")
        moment[0] += timedelta(minutes=1)
        assert not keeper.look(), "somebody is at work"
        moment[0] += timedelta(minutes=9, seconds=59)
        assert not keeper.look()
        moment[0] += timedelta(seconds=1)
        assert keeper.look()
        assert words(backups(database)[0].path) == ["new"]
        for minute in range(24 * 60 + 2):
            moment[0] += timedelta(minutes=1)
            if minute % 8 == 0:
                put(database, "word", str(minute))
            if keeper.look():
                break
        assert minute >= 24 * 60 - 1, "while work goes on, a day later"
        put(database, "word", "last")
        moment[0] += timedelta(seconds=5)
        assert keeper.look(leaving=True)
        assert words(backups(database)[0].path) == ["last"]
        assert not keeper.look(leaving=True)


def test_who_cannot_copy_goes_on(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    keeper = BackupKeeper(database, lambda: datetime.now(UTC) + timedelta(hours=1))

    def full(*_: object) -> None:
        raise DatabaseError("No copy of the database could be made: the disk is full.")

    monkeypatch.setattr("spare_margin.service.workshop.backing_up.back_up", full)
    with closing(connect(database)) as own:
        keeper.begin(own)
        assert not keeper.look()
        monkeypatch.undo()
        assert keeper.look(), "and is made up for"


@pytest.mark.parametrize(
    ("last", "changed", "wanted"),
    [
        (None, None, False), (60, None, False), (60, 30, True), (60, 5, False),
        (None, 5, True), (1441, 5, True), (1439, 5, False), (60, 10, True),
    ],
)  # fmt: skip
def test_when_a_copy_is_due(last: int | None, changed: int | None, wanted: bool) -> None:
    minutes = lambda m: None if m is None else 60.0 * m  # noqa: E731
    assert due(minutes(changed), minutes(last)) is wanted


@pytest.mark.parametrize("days", [-20_000, -400, -1, 1, 400, 4000])
def test_copies_go_on_whatever_the_clock_says(database: Path, days: int) -> None:
    """A clock that was put right, one with a dead battery: copies are made, and kept."""
    there = [back_up(database, datetime.now(UTC) - timedelta(days=d)).path for d in range(1, 9)]
    ahead = back_up(database, datetime.now(UTC) + timedelta(days=300)).path
    off, ticks = timedelta(days=days), [0.0]
    for turn in range(2):
        keeper = BackupKeeper(database, lambda: datetime.now(UTC) + off, lambda: ticks[0])
        with closing(connect(database)) as own:
            keeper.begin(own)
            for minute in range(4):
                put(database, "word", f"{turn} {minute}")
                ticks[0] += 60
                soon = keeper.look()
                ticks[0] += 601
                assert soon or keeper.look()
                newest = max(backups(database), key=lambda b: b.path.stat().st_mtime_ns)
                assert words(newest.path) == [f"{turn} {minute}"]
                assert ahead.exists()
                # Of seven days with a copy the one ahead is one, and where the clock is ahead the new one;
                # which of the others stand for a week or a month besides is the calendar's.
                assert sum(path.exists() for path in there) >= 6 - (days > 0)


def test_a_copy_is_put_back_under_who_has_the_database_open(database: Path) -> None:
    put(database, "word", "before")
    made = back_up(database, NOON)
    put(database, "word", "after")
    with closing(connect(database)) as other:
        assert other.execute("SELECT value FROM setting").fetchone()[0] == "after"
        restore(database, made.path, NOON)
        assert other.execute("SELECT value FROM setting").fetchone()[0] == "before"
        with transaction(other):
            other.execute("INSERT INTO setting VALUES ('x', 'written after')")
    assert words(database) == ["before", "written after"]
    assert what_is_wrong(database) == ""


def test_what_may_not_be_written_is_looked_at_and_nothing_is_left_beside(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with closing(connect(database)):
        pass
    assert not list(database.parent.glob("*-wal"))
    monkeypatch.setattr("spare_margin.store.file.backups.os.access", lambda *_: False)
    assert what_is_wrong(database) == ""
    assert sorted(p.name for p in database.parent.iterdir() if p.suffix != ".upgrade") == [
        database.name
    ]


def test_before_an_upgrade_a_copy_is_made(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    assert migrate(path, up_to=4) is None, "a new one holds nothing"
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("INSERT INTO setting VALUES ('word', 'old')")
        connection.commit()
    before = migrate(path)
    assert before == tmp_path / f"jobs-before-schema-{NEWEST}.sqlite3"
    with closing(sqlite3.connect(before)) as connection:
        assert connection.execute("PRAGMA user_version").fetchone()[0] == 4
    assert words(before) == ["old"]
    assert migrate(path) is None


def test_one_program_at_a_time(database: Path) -> None:
    with held(database, "http://127.0.0.1:1/"):
        with pytest.raises(InUse, match=r"open at http://127\.0\.0\.1:1/") as told, held(database):
            pass
        assert told.value.address == "http://127.0.0.1:1/"
    with held(database):
        pass
