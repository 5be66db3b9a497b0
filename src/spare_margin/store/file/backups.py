"""Copies of the database, made while it is in use, kept for a while, and put back.

A copy is made with SQLite's online backup, so that it holds what the write-ahead log holds too; it is
written under another name, checked, and only then given its own. Copies are called after their moment.
Those made by themselves go when later ones stand for them; one that a person asked for stays until a person
deletes it.
"""

import errno
import os
import shutil
import sqlite3
from collections.abc import Callable, Iterable
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from spare_margin.store.file.database import DatabaseError, keep_to_oneself, migrations

KEPT = (("%Y-%m-%d", 7), ("%G-%V", 4), ("%Y-%m", 12))
"""Of the last seven days with a copy the newest each, of the last four weeks, of the last twelve months."""
NAME = "%Y-%m-%dT%H-%M-%SZ"
ASKED_FOR = "-asked-for"
"""Ends the name of a copy that a person asked for."""
PAGES_AT_ONCE = 2000
"""So many pages are copied before others may write in between."""


@dataclass(frozen=True, slots=True)
class Backup:
    """One copy, when it was made (UTC), and whether a person asked for it."""

    path: Path
    made_at: datetime
    size: int
    asked_for: bool = False


def folder_of(database: Path) -> Path:
    """Where the copies of a database are kept: beside it."""
    return database.with_name(f"{database.stem}-backups")


def backups(database: Path) -> list[Backup]:
    """Every copy there is, the newest first."""
    found = []
    for path in folder_of(database).glob("*.sqlite3"):
        with suppress(ValueError, OSError):
            made = datetime.strptime(path.stem.removesuffix(ASKED_FOR), NAME).replace(tzinfo=UTC)
            asked_for = path.stem.endswith(ASKED_FOR)
            found.append(Backup(path, made, path.stat().st_size, asked_for))
    return sorted(found, key=lambda b: b.made_at, reverse=True)


def back_up(database: Path, moment: datetime, *, asked_for: bool = False) -> Backup:
    """Copy a database into its folder, under this moment's name. Raises DatabaseError."""
    made = moment.astimezone(UTC).replace(microsecond=0)
    path = folder_of(database) / f"{made.strftime(NAME)}{ASKED_FOR if asked_for else ''}.sqlite3"
    copy(database, path)
    return Backup(path, made, path.stat().st_size, asked_for)


def copy(database: Path, to: Path) -> None:
    """Copy a database whole, whatever is written to it meanwhile. Raises DatabaseError."""
    part = to.with_name(f"{to.name}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        part.unlink(missing_ok=True)
        keep_to_oneself(part)
        with closing(_reading(database)) as source, closing(sqlite3.connect(part)) as target:
            source.backup(target, pages=PAGES_AT_ONCE, sleep=0)
            target.execute("PRAGMA journal_mode = DELETE")
        trouble = what_is_wrong(part)
        if trouble:
            raise DatabaseError(f"The copy {to.name} is not whole: {trouble}.")
        os.replace(part, to)
    except sqlite3.Error as trouble:
        code = getattr(trouble, "sqlite_errorcode", None)
        raise DatabaseError(f"No copy of the database could be made: {trouble}.", code) from None
    except OSError as trouble:
        full = trouble.errno == errno.ENOSPC
        code = sqlite3.SQLITE_FULL if full else sqlite3.SQLITE_IOERR
        raise DatabaseError(f"No copy of the database could be made: {trouble}.", code) from None
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


def _reading(database: Path) -> sqlite3.Connection:
    """A connection that does not make a database where there is none."""
    return sqlite3.connect(f"{database.absolute().as_uri()}?mode=rw", uri=True, timeout=10)


def what_is_wrong(path: Path) -> str:
    """Why a file is no whole database of ours, in a few words; nothing where it is one."""
    try:
        with closing(_reading(path)) as connection:
            has = connection.execute("PRAGMA user_version").fetchone()[0]
            newest = migrations()[-1][0]
            if has > newest:
                return f"it was written by a newer Spare Margin (schema {has}; this one knows {newest})"
            said = connection.execute("PRAGMA integrity_check(1)").fetchone()[0]
            if said != "ok":
                return str(said)
            if connection.execute("PRAGMA foreign_key_check").fetchone() is not None:
                return "parts of a job are missing"
            names = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
            return "" if "job" in names else "it is no Spare Margin database"
    except sqlite3.Error as trouble:
        return str(trouble)


def to_keep(found: Iterable[Backup]) -> set[Path]:
    """Which copies stay: the newest of each of the last days, weeks and months that have one, and all
    that a person asked for.

    >>> from datetime import timedelta
    >>> last = datetime(2026, 11, 26, tzinfo=UTC)
    >>> made = [Backup(Path(str(i)), last - timedelta(days=i), 0) for i in range(400)]
    >>> len(to_keep(made)), max(int(p.name) for p in to_keep(made))
    (20, 330)
    """
    newest_first = sorted(found, key=lambda b: b.made_at, reverse=True)
    kept = {backup.path for backup in newest_first if backup.asked_for}
    for form, most in KEPT:
        first_of: dict[str, Path] = {}
        for backup in newest_first:
            first_of.setdefault(backup.made_at.strftime(form), backup.path)
        kept |= set(list(first_of.values())[:most])
    return kept


def put_away_old(database: Path) -> list[Path]:
    """Delete the copies that need not stay; what was deleted."""
    found = backups(database)
    stay = to_keep(found)
    gone = [b.path for b in found if b.path not in stay]
    for path in gone:
        path.unlink(missing_ok=True)
    return gone


def restore(database: Path, source: Path, moment: datetime) -> Path | None:
    """Put a copy in the database's place; what was there is kept beside it, and told.

    The copy is checked before anything is touched. Nobody may be using the database: see `in_use`. Raises
    DatabaseError.
    """
    if not source.is_file():
        raise DatabaseError(f"There is no file {source}.")
    trouble = what_is_wrong(source)
    if trouble:
        raise DatabaseError(f"{source} cannot be put back: {trouble}.")
    new = database.with_name(f"{database.name}.restored")
    copy(source, new)
    kept = None
    try:
        if database.exists():
            stamp = moment.astimezone(UTC).strftime(NAME)
            kept = database.with_name(f"{database.stem}-replaced-{stamp}.sqlite3")
            _set_aside(database, kept)
        os.replace(new, database)
    except OSError as wrong:
        raise DatabaseError(f"The copy could not be put in place: {wrong.strerror}.") from None
    return kept


def _set_aside(database: Path, kept: Path) -> None:
    """Keep what is replaced, whole if it can be read, else its files as they are, the log with it."""
    beside = [database.with_name(database.name + end) for end in ("-wal", "-shm")]
    try:
        copy(database, kept)
    except DatabaseError:
        shutil.copyfile(database, kept)
        for path in beside:
            if path.exists():
                shutil.copyfile(path, kept.with_name(kept.name + path.name[len(database.name) :]))
    # A log of the old database beside the new one would be taken for the new one's.
    for path in beside:
        path.unlink(missing_ok=True)


def due(now: datetime, last: datetime | None, changed: datetime | None) -> bool:
    """Whether a copy is due: something changed since the last one, and either nobody has for ten minutes
    (work is done for now) or that was a day ago.

    >>> at = lambda hour, minute=0: datetime(2026, 11, 26, hour, minute, tzinfo=UTC)
    >>> due(at(10, 5), at(8), at(10)), due(at(10, 11), at(8), at(10)), due(at(11), at(10, 30), at(10))
    (False, True, False)
    """
    if changed is None or (last is not None and changed <= last):
        return False
    quiet = (now - changed).total_seconds() >= 600
    return quiet or last is None or (now - last).total_seconds() >= 86_400


Clock = Callable[[], datetime]
