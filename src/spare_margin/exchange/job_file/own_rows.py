"""Rows of a workshop's own that a job rests on, as they travel in its job file."""

from collections.abc import Iterable, Mapping
from typing import Any, get_args

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece
from spare_margin.data.table_rows import TABLES, Cells, checked
from spare_margin.data.tables import OwnRows, own_sets
from spare_margin.exchange.job_file.models import Travelling

TRAVELLING: tuple[Travelling, ...] = get_args(Travelling)
"""The tables whose rows a job's figures rest on."""


def read_rows(given: Mapping[Travelling, list[dict[str, Any]]]) -> OwnRows:
    """The rows of a file by table and key. JobError names the row and the cell that is wrong."""
    out: dict[str, dict[str, Cells]] = {}
    for table_id, rows in given.items():
        table, held = TABLES[table_id], out.setdefault(table_id, {})
        for i, cells in enumerate(rows):
            at = f"tables.{table_id}[{i}]"
            try:
                row = checked(table, {key: _text(key, cell) for key, cell in cells.items()})
            except JobError as wrong:
                raise JobError(f"{at}.{wrong.path}", wrong.problem, wrong.accepted) from None
            key = table.key_of(row)
            if key in held:
                raise JobError(at, f"{key} stands twice", "one row each")
            held[key] = row
    _check_sets(out)
    return out


def _text(key: str, cell: object) -> str:
    if isinstance(cell, str):
        return cell
    if isinstance(cell, bool) or not isinstance(cell, int | float):
        raise JobError(key, "is neither text nor a number", "text or a number")
    try:
        return f"{float(cell):.12g}"
    except OverflowError:
        raise JobError(key, "the number is too large", "a number") from None


def _check_sets(rows: Mapping[str, Mapping[str, Cells]]) -> None:
    try:
        sets = own_sets(rows.get("limit_sets", {}).values())
    except JobError as wrong:
        raise JobError(f"tables.limit_sets.{wrong.path}", wrong.problem, wrong.accepted) from None
    for row in rows.get("single_limits", {}).values():
        if row["set"] not in sets:
            problem = f"{row['set']} is no set of this file"
            raise JobError("tables.single_limits.set", problem, ", ".join(sets) or "none")


def merged(held: OwnRows, more: OwnRows) -> OwnRows:
    """These rows with more among them, which stand in for those of the same key."""
    return {table: {**held.get(table, {}), **more.get(table, {})} for table in {**held, **more}}


def rows_used(held: OwnRows, crafts: Iterable[Craft], limit_set: str) -> OwnRows:
    """The rows of one's own that these wirings and this limit set rest on."""
    pieces = [piece for craft in crafts for piece in craft.pieces]
    sizes = {(p.size.system, p.size.value) for p in pieces if isinstance(p, Conductor) and p.size}
    fixed = [p for p in pieces if isinstance(p, FixedPiece)]
    ratings = {(p.style, p.rating_a) for p in fixed if p.rating_a is not None}
    kinds = {(p.kind, p.style) for p in fixed}

    def used(table: str, row: Cells) -> bool:
        match table:
            case "conductors" | "ampacity":
                return (row["system"], row["size"]) in sizes
            case "fuses":
                rating = float(row["rating_a"])
                return (row["style"], rating) in ratings or (None, rating) in ratings
            case "fixed_pieces":
                # A piece that names no style stands by the row nearest to it, of any style.
                return bool({(row["kind"], row["style"]), (row["kind"], None)} & kinds)
        return row["set"] == limit_set

    found = {
        table: {key: row for key, row in held.get(table, {}).items() if used(table, row)}
        for table in TRAVELLING
    }
    return {table: rows for table, rows in found.items() if rows}


def rows_document(rows: OwnRows) -> dict[str, list[dict[str, Any]]]:
    """Rows as a job file has them: numbers as numbers, empty cells left out."""
    return {
        table: [_row_document(table, row) for row in held.values()] for table, held in rows.items()
    }


def _row_document(table: str, row: Cells) -> dict[str, Any]:
    numbers = {column.key for column in TABLES[table].columns if column.number}
    return {key: float(cell) if key in numbers else cell for key, cell in row.items() if cell}
