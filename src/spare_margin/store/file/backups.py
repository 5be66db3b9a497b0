"""Copies of the database, made while it is in use, kept for a while, and put back.

A copy is made with SQLite's online backup, so that it holds what the write-ahead log holds too; it is
written under another name, checked, and only then given its own. Copies are called after their moment.
Those made by themselves go when later ones stand for them; one that a person asked for stays until a person
deletes it.
"""

import errno
import os
import sqlite3
from collections.abc import Callable, Iterable
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from secrets import token_hex

from spare_margin.store.file.database import DatabaseError, connect, keep_to_oneself, migrations
from spare_margin.store.file.structure import is_ours

KEPT = (("%Y-%m-%d", 7), ("%G-%V", 4), ("%Y-%m", 12))
"""Of the last seven days with a copy the newest each, of the last four weeks, of the last twelve months."""
FIRST_SENSIBLE = datetime(2026, 1, 1, tzinfo=UTC)
"""No copy is older: a clock that says so has lost its battery."""
NAME = "%Y-%m-%dT%H-%M-%SZ"
ASKED_FOR = "-asked-for"
"""Ends the name of a copy that a person asked for."""


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
    """Copy a database into its folder, under this moment's name. Raises DatabaseError.

    A name that is taken is left to the copy that has it, as where a clock was set back.
    """
    made, ends = moment.astimezone(UTC).replace(microsecond=0), ASKED_FOR if asked_for else ""
    while (path := folder_of(database) / f"{made.strftime(NAME)}{ends}.sqlite3").exists():
        made += timedelta(seconds=1)
    copy(database, path)
    return Backup(path, made, path.stat().st_size, asked_for)


def copy(database: Path, to: Path) -> None:
    """Copy a database whole, whatever is written to it meanwhile. Raises DatabaseError."""
    # Two may copy to one name at once: each writes a file of its own.
    part = to.with_name(f"{to.name}.{os.getpid()}-{token_hex(4)}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        keep_to_oneself(part)
        with closing(_reading(database)) as source, closing(sqlite3.connect(part)) as target:
            # All in one step: who writes meanwhile neither waits nor makes it begin again.
            source.backup(target)
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
    """A connection that makes no database where there is none, and beside one that may not be written no
    files that could not be written either."""
    mode = "mode=rw"
    if not os.access(database, os.W_OK):
        log = database.with_name(f"{database.name}-wal")
        mode = "mode=ro" if log.exists() else "mode=ro&immutable=1"
    return sqlite3.connect(f"{database.absolute().as_uri()}?{mode}", uri=True, timeout=10)


def what_is_wrong(path: Path) -> str:
    """Why a file is no whole database of ours, in a few words; nothing where it is one."""
    try:
        with closing(_reading(path)) as connection:
            # All of it of one moment: another program may be bringing the database up to date.
            connection.execute("BEGIN")
            has = connection.execute("PRAGMA user_version").fetchone()[0]
            newest = migrations()[-1][0]
            if has > newest:
                return f"it was written by a newer Spare Margin (schema {has}; this one knows {newest})"
            if has == 0 or not is_ours(connection):
                return "it is no Spare Margin database"
            said = connection.execute("PRAGMA integrity_check(1)").fetchone()[0]
            if said != "ok":
                return str(said)
            if connection.execute("PRAGMA foreign_key_check").fetchone() is not None:
                return "parts of a job are missing"
            return ""
    except sqlite3.Error as trouble:
        return str(trouble)


def to_keep(found: Iterable[Backup], now: datetime | None = None) -> set[Path]:
    """Which copies stay: the newest of each of the last days, weeks and months that have one, and all
    that a person asked for.

    Copies dated after `now`, or before there was this program, are of a clock that was wrong: they stand
    for none of the others, and none of the others for them.

    >>> from datetime import timedelta
    >>> last = datetime(2027, 11, 26, tzinfo=UTC)
    >>> made = [Backup(Path(str(i)), last - timedelta(days=i), 0) for i in range(400)]
    >>> len(to_keep(made)), max(int(p.name) for p in to_keep(made))
    (20, 330)
    """
    newest_first = sorted(found, key=lambda b: b.made_at, reverse=True)
    kept = {backup.path for backup in newest_first if backup.asked_for}

    def clock(backup: Backup) -> str:
        ahead = now is not None and backup.made_at > now
        return "ahead" if ahead else "behind" if backup.made_at < FIRST_SENSIBLE else "right"

    for which in ("ahead", "right", "behind"):
        group = [backup for backup in newest_first if clock(backup) == which]
        for form, most in KEPT:
            first_of: dict[str, Path] = {}
            for backup in group:
                first_of.setdefault(backup.made_at.strftime(form), backup.path)
            kept |= set(list(first_of.values())[:most])
    return kept


def put_away_old(database: Path, now: datetime, just_made: Path | None = None) -> list[Path]:
    """Delete the copies that need not stay; what was deleted. One that was just made always stays."""
    found = backups(database)
    stay = to_keep(found, now) | {just_made}
    gone = [b.path for b in found if b.path not in stay]
    for path in gone:
        path.unlink(missing_ok=True)
    return gone


def restore(database: Path, source: Path, moment: datetime) -> Path | None:
    """Put a copy in the database's place; what was there is kept beside it, and told.

    The copy is checked before anything is touched. SQLite itself writes it over what is there, in one
    transaction: whoever has the database open, another command say, reads the copy's contents from then
    on. What SQLite cannot read any more is moved aside. Nobody may be serving the database: see `in_use`.
    Raises DatabaseError.
    """
    if not source.is_file():
        raise DatabaseError(f"There is no file {source}.")
    trouble = what_is_wrong(source)
    if trouble:
        raise DatabaseError(f"{source} cannot be put back: {trouble}.")
    if not database.exists():
        copy(source, database)
        return None
    stamp = moment.astimezone(UTC).strftime(NAME)
    kept = database.with_name(f"{database.stem}-replaced-{stamp}-{token_hex(2)}.sqlite3")
    try:
        copy(database, kept)
        _write_over(database, source)
    except (DatabaseError, sqlite3.Error) as trouble:
        code = getattr(trouble, "sqlite_errorcode", None) or getattr(trouble, "code", None)
        readable = code is not None and code & 0xFF not in PAST_READING
        if readable:
            raise DatabaseError(f"The copy could not be put in place: {trouble}.", code) from None
        _put_in_place(database, source, kept)
    return kept


PAST_READING = (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_ERROR)


def _write_over(database: Path, source: Path) -> None:
    """Give a database the contents of another, whoever else has it open."""
    with closing(_reading(source)) as held, closing(connect(database)) as target:
        held.backup(target)


def _put_in_place(database: Path, source: Path, kept: Path) -> None:
    """Replace files that nobody can read as a database, the log with them; they are kept as they are."""
    new = database.with_name(f"{database.name}.{token_hex(4)}.restored")
    copy(source, new)
    try:
        for end in ("-wal", "-shm", ""):
            old = database.with_name(database.name + end)
            if old.exists():
                os.replace(old, kept.with_name(kept.name + end))
        os.replace(new, database)
    except OSError as wrong:
        raise DatabaseError(f"The copy could not be put in place: {wrong.strerror}.") from None


def due(since_change_s: float | None, since_copy_s: float | None) -> bool:
    """Whether a copy is due: something changed that is in none, and either nobody has changed anything for
    ten minutes (work is done for now) or the last copy is a day old.

    Seconds of a clock that nobody sets; None where nothing changed, or where there is no copy.

    >>> due(300.0, 7200.0), due(660.0, 7200.0), due(None, 7200.0), due(1.0, None)
    (False, True, False, True)
    """
    if since_change_s is None:
        return False
    return since_change_s >= 600 or since_copy_s is None or since_copy_s >= 86_400


Clock = Callable[[], datetime]
