"""Rows of somebody's own tables that a job file brings, beside those that stand here."""

from collections.abc import Mapping
from dataclasses import replace

from spare_margin.core.errors import JobError
from spare_margin.data.table_rows import TABLES, Cells, checked
from spare_margin.data.tables import OwnRows, shipped_rows
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob

SETS = ("limit_sets", "single_limits")


def settled(read: ReadJob, held: OwnRows) -> ReadJob:
    """The job with only those rows that are not here yet, a limit set of a taken name renamed.

    Raises JobFileErrors for a row that stands otherwise here: it would change the other jobs.
    """
    rows = {
        table: _new_of(table, own, held) for table, own in read.rows.items() if table not in SETS
    }
    job = read.job
    for name in dict.fromkeys(row["set"] for row in read.rows.get("limit_sets", {}).values()):
        theirs = {table: _of_set(read.rows, table, name) for table in SETS}
        if theirs == {table: _of_set(held, table, name) for table in SETS}:
            continue
        called = _free(name, held)
        for table, own in theirs.items():
            for row in own.values():
                kept = {**row, "set": called}
                rows.setdefault(table, {})[TABLES[table].key_of(kept)] = kept
        if job.limit_set == name:
            job = replace(job, limit_set=called)
    return replace(read, job=job, rows={table: new for table, new in rows.items() if new})


def _new_of(table: str, brought: Mapping[str, Cells], held: OwnRows) -> dict[str, Cells]:
    new: dict[str, Cells] = {}
    errors: list[JobError] = []
    for i, (key, row) in enumerate(brought.items()):
        here = held.get(table, {}).get(key) or shipped_rows(table).get(key)
        if here is None:
            new[key] = row
        elif not _same(table, here, row):
            problem = f"{_spoken(key)} stands otherwise in the tables here"
            accepted = "the same figures; change either row first"
            errors.append(JobError(f"tables.{table}[{i}]", problem, accepted))
    if errors:
        raise JobFileErrors(errors)
    return new


def brought_says(rows: OwnRows) -> list[str]:
    """What a job brings for the tables here, in words."""
    return [
        f"Brings for the tables here, {TABLES[table].name.lower()}: "
        + ", ".join(_spoken(key) for key in held)
        + "."
        for table, held in rows.items()
        if table != "single_limits"
    ]


def _of_set(rows: OwnRows, table: str, name: str) -> dict[str, Cells]:
    return {key: row for key, row in rows.get(table, {}).items() if row["set"] == name}


def _free(name: str, held: OwnRows) -> str:
    taken = {row["set"] for row in held.get("limit_sets", {}).values()}
    number, called = 1, name
    while called in taken:
        number += 1
        called = f"{name}-{number}"
    return called


def _same(table: str, here: Cells, there: Cells) -> bool:
    """Whether two rows say the same; who says so may differ."""
    mine, theirs = checked(TABLES[table], here), checked(TABLES[table], there)
    return all(mine[key] == theirs[key] for key in mine if key not in ("source", "name"))


def _spoken(key: str) -> str:
    return " ".join(part for part in key.split("|") if part not in ("", "any"))
