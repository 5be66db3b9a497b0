"""The commands that keep the jobs safe: backup, restore, check, doctor."""

import os
import platform
import shutil
import sqlite3
from datetime import UTC, datetime
from pathlib import Path

import click

from spare_margin import __version__
from spare_margin.cli.common import DATABASE, stop
from spare_margin.service.workshop.checking import troubles
from spare_margin.store.file.backups import back_up, backups, copy, restore, what_is_wrong
from spare_margin.store.file.contents import contents
from spare_margin.store.file.database import DatabaseError, default_path, migrations
from spare_margin.store.file.in_use import InUse, held

BAD = 2
LITTLE_ROOM = 500_000_000
"""Free bytes below which a copy may not fit for long."""


@click.command("backup")
@click.option("--out", type=click.Path(path_type=Path), help="A file; beside the jobs by default.")
@DATABASE
def backup_command(out: Path | None, database: Path | None) -> None:
    """Copy the jobs, also while they are in use."""
    path = database or default_path()
    try:
        if out is not None:
            copy(path, out)
        click.echo(str(out or back_up(path, datetime.now(UTC), asked_for=True).path))
    except DatabaseError as trouble:
        stop(BAD, str(trouble))


@click.command("restore")
@click.argument("copy", required=False, type=click.Path(path_type=Path))
@DATABASE
def restore_command(copy: Path | None, database: Path | None) -> None:
    """Restore the backup COPY; the present jobs are kept beside it.

    Without COPY, the copies there are.
    """
    path = database or default_path()
    if copy is None:
        for each in backups(path):
            click.echo(f"{each.path}\t{each.size / 1e6:.1f} MB")
        return
    try:
        with held(path):
            kept = restore(path, copy, datetime.now(UTC))
    except InUse as trouble:
        stop(BAD, f"{trouble} Stop it first.")
    except DatabaseError as trouble:
        stop(BAD, str(trouble))
    click.echo(f"{copy} is in place." + (f" What was there is kept in {kept}" if kept else ""))


@click.command("check")
@click.argument("file", required=False, type=click.Path(path_type=Path))
@DATABASE
def check_command(file: Path | None, database: Path | None) -> None:
    """Say whether the jobs, or FILE, a copy of them, are whole, and could leave as job files."""
    path = file or database or default_path()
    found = _troubles(path) if path.is_file() else ["there is no such file"]
    if found:
        stop(BAD, "\n".join(f"{path}: {trouble}" for trouble in found))
    click.echo(f"{path} is whole.")


def _troubles(path: Path) -> list[str]:
    try:
        return troubles(path)
    except DatabaseError as trouble:
        return [str(trouble)]


@click.command("doctor")
@DATABASE
def doctor_command(database: Path | None) -> None:
    """Say what is found here: versions, jobs, copies, room on the disk, addresses, the clock."""
    # What a phone would reach is known to the side that serves.
    from spare_margin.serving.addresses import names_and_addresses  # noqa: PLC0415

    path = database or default_path()
    lines = [
        ("Spare Margin", f"{__version__}, schema {migrations()[-1][0]}"),
        ("Python", f"{platform.python_version()}, SQLite {sqlite3.sqlite_version}"),
        ("System", platform.platform()),
        ("Database", str(path)),
    ]
    wrong: list[str] = []
    if path.is_file():
        found = _troubles(path)
        wrong += found
        lines.append(("Integrity", "; ".join(found) or "whole"))
        lines += [] if what_is_wrong(path) else [("Holds", _holds(path))]
        closed = [p.name for p in _files(path) if not os.access(p, os.W_OK)]
        if closed:
            wrong.append(f"these may only be read: {', '.join(closed)}")
    else:
        lines.append(("Integrity", "there is no database yet; `serve` makes one"))
    moment = datetime.now(UTC)
    copies = backups(path)
    past = [b.made_at for b in copies if b.made_at <= moment]
    newest = f", the newest of {past[0]:%Y-%m-%d %H:%M} UTC" if past else ""
    lines.append(("Copies", f"{len(copies)}{newest}" if copies else "none yet"))
    if len(past) < len(copies):
        wrong.append("some copies are dated in the future: the clock was wrong, or is")
    free = shutil.disk_usage(_there(path)).free
    lines.append(("Free space", f"{free / 1e9:.1f} GB"))
    if free < LITTLE_ROOM:
        wrong.append("there is little room on the disk")
    try:
        with held(path):
            lines.append(("Served", "no"))
    except InUse as use:
        lines.append(("Served", f"yes, at {use.address}" if use.address else "yes"))
    except DatabaseError as trouble:
        wrong.append(str(trouble))
    lines.append(("Addresses", ", ".join(names_and_addresses()) or "none beyond this machine"))
    lines.append(("Clock", f"{moment:%Y-%m-%d %H:%M:%S} UTC, here {moment.astimezone():%H:%M %Z}"))
    if moment.year < 2026:
        wrong.append("the clock is wrong: readings would be dated by it")
    for name, says in lines:
        click.echo(f"{name + ':':14}{says}")
    if wrong:
        stop(BAD, "Look at: " + "; ".join(wrong) + ".")


def _files(database: Path) -> list[Path]:
    """What is written to when a job is kept: the database, what lies beside it, and the folder."""
    beside = (database.with_name(database.name + end) for end in ("", "-wal", "-shm"))
    return [*(p for p in beside if p.exists()), database.absolute().parent]


def _there(path: Path) -> Path:
    """The nearest folder above that there is."""
    return next(p for p in path.absolute().parents if p.is_dir())


def _holds(path: Path) -> str:
    schema, jobs, readings = contents(path)
    return f"{jobs} jobs, {readings} readings, {path.stat().st_size / 1e6:.1f} MB, schema {schema}"
