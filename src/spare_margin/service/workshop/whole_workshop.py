"""Everything of a workshop as a folder of open files, out and in: it can leave with its data.

jobs/<id>.json       every job, put away ones too; one with photographs is a zip
tables/<table>.csv   own rows
templates/<id>.json  crafts to begin jobs from
settings.json        units, words, colours
"""

import json
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Literal

from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.data.table_rows import TABLES
from spare_margin.exchange.job_file.container import Container
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.exchange.job_file.writing import file_text, write_job
from spare_margin.exchange.tables.table_csv import read_rows, write_rows
from spare_margin.service.workshop.bringing_in import (
    How,
    Relation,
    bring_in,
    ending,
    kept,
    known,
    write_file,
)
from spare_margin.service.workshop.own_rows import OwnRow, RowsChange, keep
from spare_margin.service.workshop.templates import bring_template
from spare_margin.service.workshop.workshop import checked_settings, workshop
from spare_margin.store import jobs as job_store
from spare_margin.store import templates as template_store
from spare_margin.store import workshop as store

Taken = Literal["new", "copy", "merged", "skipped", "wrong"]


@dataclass(frozen=True, slots=True)
class Brought:
    """What became of one file: its job's id and title, how it stood to the one here, or what was wrong."""

    file: str
    taken: Taken
    job: str = ""
    title: str = ""
    relation: Relation | None = None
    trouble: str = ""


def job_text(connection: sqlite3.Connection, job_id: str) -> str | None:
    """A job as the text of its file, byte for byte the same for the same job; None where it is not here."""
    found = kept(connection, job_id, workshop(connection).own_rows)
    return None if found is None else file_text(write_job(found))


def write_all(connection: sqlite3.Connection, folder: Path) -> Iterator[Path]:
    """Write everything into a folder; every file as it is written. OSError where that cannot be done."""
    (folder / "jobs").mkdir(parents=True, exist_ok=True)
    shop = workshop(connection)
    for job_id in job_store.all_ids(connection):
        found = kept(connection, job_id, shop.own_rows)
        if found is not None:
            path = folder / "jobs" / f"{job_id}{ending(found)}"
            with path.open("wb") as out:
                write_file(connection, found, out)
            yield path
    for table, rows in shop.own_rows.items():
        (folder / "tables").mkdir(exist_ok=True)
        path = folder / "tables" / f"{table}.csv"
        path.write_text(write_rows(rows.values(), TABLES[table]), encoding="utf-8", newline="")
        yield path
    for each in template_store.templates(connection):
        (folder / "templates").mkdir(exist_ok=True)
        path = folder / "templates" / f"{each.id}.json"
        path.write_text(each.document, encoding="utf-8")
        yield path
    path = folder / "settings.json"
    path.write_text(file_text(dict(sorted(shop.settings.items()))), encoding="utf-8")
    yield path


def bring_file(
    connection: sqlite3.Connection, name: str, file: IO[bytes], how: How | Literal["skip"]
) -> Brought:
    """Bring in one job file: whole, or not at all, and then it says why."""
    try:
        own = workshop(connection).own_rows
        job_file = Container(file)
        read = read_job(job_file.text, own)
        held = known(connection, read, own)
        if held is not None and how == "skip":
            return Brought(name, "skipped", held.job, held.title, held.relation)
        made = bring_in(connection, job_file, own, "merge" if how == "merge" else "copy")
        taken: Taken = "new" if held is None else "merged" if how == "merge" else "copy"
        return Brought(name, taken, made, read.job.title, held.relation if held else None)
    except SpareMarginError as wrong:
        return Brought(name, "wrong", trouble=str(wrong))


def bring_all(
    connection: sqlite3.Connection, folder: Path, how: How | Literal["skip"]
) -> Iterator[Brought]:
    """Bring in what `write_all` wrote: settings and tables first, for jobs may stand on them."""
    path = folder / "settings.json"
    if path.is_file():
        yield _bring_settings(connection, path)
    for path in sorted((folder / "tables").glob("*.csv")):
        yield _bring_table(connection, path)
    for path in sorted((folder / "templates").glob("*.json")):
        yield _bring_template(connection, path)
    jobs = folder / "jobs"
    for path in sorted([*jobs.glob("*.json"), *jobs.glob("*.zip")]):
        with path.open("rb") as file:
            yield bring_file(connection, str(path), file, how)


def _bring_settings(connection: sqlite3.Connection, path: Path) -> Brought:
    try:
        said = json.loads(path.read_text("utf-8"))
        if not isinstance(said, dict):
            raise JobError("", "is no list of settings", "what export wrote")
        store.keep_settings(connection, checked_settings(said, workshop(connection).tables))
    except (SpareMarginError, ValueError) as wrong:
        return Brought(str(path), "wrong", trouble=str(wrong))
    return Brought(str(path), "new")


def _bring_template(connection: sqlite3.Connection, path: Path) -> Brought:
    try:
        own = workshop(connection).own_rows
        made = bring_template(connection, path.read_text("utf-8"), own)
    except (SpareMarginError, ValueError) as wrong:
        return Brought(str(path), "wrong", trouble=str(wrong))
    return Brought(str(path), "new", title=made.name)


def _bring_table(connection: sqlite3.Connection, path: Path) -> Brought:
    try:
        if path.stem not in TABLES:
            raise JobError("", f"there is no table {path.stem}", ", ".join(TABLES))
        rows = read_rows(path.read_text("utf-8"), TABLES[path.stem])
        change = RowsChange(tuple(OwnRow(row) for row in rows))
        keep(connection, workshop(connection), TABLES[path.stem], change)
    except (SpareMarginError, ValueError) as wrong:
        return Brought(str(path), "wrong", trouble=str(wrong))
    return Brought(str(path), "new")
