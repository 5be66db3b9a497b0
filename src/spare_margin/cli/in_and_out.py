"""The command line that takes jobs out and brings them in: export, import, schema."""

import sqlite3
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

import click

from spare_margin.cli.common import DATABASE, stop
from spare_margin.exchange.job_file.models import schema
from spare_margin.exchange.job_file.writing import file_text
from spare_margin.service.workshop.bringing_in import kept, write_file
from spare_margin.service.workshop.whole_workshop import (
    Brought,
    bring_all,
    bring_file,
    write_all,
)
from spare_margin.service.workshop.workshop import workshop
from spare_margin.store.file.database import DatabaseError, connect, default_path
from spare_margin.store.file.migrating import migrate
from spare_margin.store.jobs import titles

BAD = 2


def _ready(database: Path | None) -> Path:
    path = database or default_path()
    try:
        migrate(path)
    except DatabaseError as trouble:
        stop(BAD, str(trouble))
    return path


@click.command("export")
@click.argument("job", required=False)
@click.option("--all", "everything", is_flag=True, help="All jobs, own tables and settings.")
@click.option("--out", type=click.Path(path_type=Path), help="A file; with --all a folder.")
@DATABASE
def export_command(
    job: str | None, everything: bool, out: Path | None, database: Path | None
) -> None:
    """Write JOB as a job file; with --all everything of the workshop into a folder.

    A job with photographs is a zip. Without either, the jobs there are: id and title.
    """
    connection = connect(_ready(database))
    try:
        if everything:
            if out is None:
                stop(BAD, "--all wants a folder: --out FOLDER")
            written = list(write_all(connection, out))
            click.echo(f"{len(written)} files are in {out}", err=True)
            return
        known = titles(connection)
        if job is None:
            for key, title in known.items():
                click.echo(f"{key}\t{title}")
            return
        read = kept(connection, job, workshop(connection).own_rows)
        if read is None:
            stop(BAD, f"there is no job {job}; `export` without a job lists those there are")
        if out is None:
            write_file(connection, read, sys.stdout.buffer)
        else:
            with out.open("wb") as file:
                write_file(connection, read, file)
    except OSError as trouble:
        stop(BAD, f"{trouble.filename or out}: {trouble.strerror or trouble}")
    finally:
        connection.close()


@click.command("import")
@click.argument("paths", nargs=-1, required=True, type=click.Path(path_type=Path, exists=True))
@click.option(
    "--how",
    type=click.Choice(["skip", "copy", "merge"]),
    default="skip",
    show_default=True,
    help="What to do with a job that is here already: leave it, add the file as another job, or "
    "add to the one here what only the file has.",
)
@DATABASE
def import_command(
    paths: tuple[Path, ...], how: Literal["skip", "copy", "merge"], database: Path | None
) -> None:
    """Bring in job files, or folders that export --all wrote; each file whole or not at all."""
    connection = connect(_ready(database))
    wrong = False
    try:
        for path in paths:
            for each in _brought(connection, path, how):
                wrong = wrong or each.taken == "wrong"
                click.echo(_line(each), err=each.taken == "wrong")
    except OSError as trouble:
        stop(BAD, f"{trouble.filename}: {trouble.strerror or trouble}")
    finally:
        connection.close()
    if wrong:
        sys.exit(BAD)


def _brought(
    connection: sqlite3.Connection, path: Path, how: Literal["skip", "copy", "merge"]
) -> Iterator[Brought]:
    if path.is_dir():
        yield from bring_all(connection, path, how)
        return
    with path.open("rb") as file:
        yield bring_file(connection, str(path), file, how)


def _line(each: Brought) -> str:
    if each.taken == "wrong":
        return f"{each.file}: not taken: {each.trouble}"
    stands = f" (the file is {each.relation})" if each.relation else ""
    return "\t".join(filter(None, [each.file, each.taken + stands, each.job, each.title]))


@click.command("schema")
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def schema_command(out: Path | None) -> None:
    """Print the JSON Schema of the job file."""
    text = file_text(schema())
    if out is None:
        click.echo(text, nl=False)
        return
    try:
        out.write_text(text, encoding="utf-8")
    except OSError as trouble:
        stop(BAD, f"{out}: {trouble.strerror or trouble}")
