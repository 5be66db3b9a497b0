"""A table as CSV, in and out: all or nothing, every trouble with its line."""

import csv
import io
from collections.abc import Iterable, Iterator
from typing import Any

from spare_margin.core.errors import JobError
from spare_margin.data.table_rows import Cells, TableKind, checked

from .safe_cells import plain, safe

MOST_ROWS = 5000
MOST_TROUBLES = 50


class CsvErrors(Exception):
    """Everything wrong with a CSV text; `path` of each is `line N, column`."""

    def __init__(self, errors: list[JobError]) -> None:
        self.errors = errors
        super().__init__(errors[0].sentence())


def read_rows(text: str, table: TableKind) -> list[dict[str, str]]:
    """The rows of a CSV text with a head line, in any order of columns. CsvErrors for anything wrong.

    Comma or semicolon (or a tab, as a spreadsheet copies it) parts the cells, as the head line has it.
    """
    plain = text.removeprefix("\ufeff")
    lines = plain.splitlines()
    if not any(line.strip() for line in lines):
        raise CsvErrors([JobError("line 1", "there is nothing", _head(table))])
    parting = max((",", ";", "\t"), key=lines[0].count)
    reader = csv.reader(io.StringIO(plain), delimiter=parting, strict=True)
    errors: list[JobError] = []
    out: list[dict[str, str]] = []
    try:
        head = [h.strip() for h in next(reader)]
        _check_head(head, table)
        for row in _rows(reader, head, table):
            (errors if isinstance(row, JobError) else out).append(row)  # type: ignore[arg-type]
            if len(out) > MOST_ROWS or len(errors) >= MOST_TROUBLES:
                break
    except csv.Error as trouble:
        errors.append(JobError(f"line {reader.line_num}", str(trouble), "CSV with quoted cells"))
    if len(out) > MOST_ROWS:
        errors.append(JobError("", "has too many rows", f"up to {MOST_ROWS}"))
    if not errors and not out:
        errors.append(JobError("line 2", "there is no row", "a row under the head line"))
    if errors:
        raise CsvErrors(errors)
    return out


def _rows(reader: Any, head: list[str], table: TableKind) -> Iterator[dict[str, str] | JobError]:
    """Each row, or what is wrong with it."""
    seen: dict[str, int] = {}
    for cells in reader:
        if not any(c.strip() for c in cells):
            continue
        try:
            row = _row(cells, head, table)
            key = table.key_of(row)
            if key in seen:
                raise JobError(table.key[0], f"is the same row as line {seen[key]}", "one each")
            seen[key] = reader.line_num
            yield row
        except JobError as wrong:
            where = f"line {reader.line_num}, {wrong.path}"
            yield JobError(where, wrong.problem, wrong.accepted)


def _head(table: TableKind) -> str:
    return ",".join(c.key for c in table.columns)


def _check_head(head: list[str], table: TableKind) -> None:
    known = [c.key for c in table.columns]
    for name in head:
        if name not in known:
            raise CsvErrors([JobError("line 1", f"there is no column {name[:40]}", _head(table))])
    missing = [c.key for c in table.columns if c.wanted and c.key not in head]
    if missing or len(set(head)) < len(head):
        what = f"the column {missing[0]} is missing" if missing else "a column stands twice"
        raise CsvErrors([JobError("line 1", what, _head(table))])


def _row(cells: list[str], head: list[str], table: TableKind) -> dict[str, str]:
    if len(cells) != len(head):
        raise JobError(head[0], f"has {len(cells)} cells", f"{len(head)}, as the head line")
    return checked(table, dict(zip(head, map(plain, cells), strict=True)))


def write_rows(rows: Iterable[Cells], table: TableKind) -> str:
    """The rows as CSV with a head line; reading it again gives the same rows."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(c.key for c in table.columns)
    for row in rows:
        writer.writerow(safe(row[c.key]) for c in table.columns)
    return out.getvalue()
