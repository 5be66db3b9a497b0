"""The workshop's own rows in the tables: what may be kept, and what must stay."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from annotated_types import MaxLen

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Load
from spare_margin.data.table_rows import Cells, TableKind, checked
from spare_margin.data.tables import own_sets, shipped_rows
from spare_margin.exchange.run_line.reader import element_of, read_runs
from spare_margin.service.workshop.workshop import EMPTY_CRAFT, Workshop
from spare_margin.store import workshop as store

CellText = Annotated[str, MaxLen(2000)]


@dataclass(frozen=True, slots=True)
class OwnRow:
    """A row as typed, and the key of the own row that it was before."""

    cells: Mapping[str, CellText]
    was: str | None = None


@dataclass(frozen=True, slots=True)
class RowsChange:
    """Own rows to keep, and keys of own rows to take off, together or not at all."""

    rows: Annotated[tuple[OwnRow, ...], MaxLen(5000)] = ()
    gone: Annotated[tuple[str, ...], MaxLen(5000)] = ()


@dataclass(frozen=True, slots=True)
class Kept:
    """The keys of what was kept, and what undoes it: rows as they were, keys that are new."""

    keys: tuple[str, ...]
    undo: RowsChange


def keep(
    connection: sqlite3.Connection, shop: Workshop, table: TableKind, change: RowsChange
) -> Kept:
    """Keep rows and take others off, together or not at all.

    JobError names the cell that is wrong, or who stands on a row that is to go.
    """
    held = shop.own_rows.get(table.id, {})
    rows: dict[str, dict[str, str]] = {}
    going = list(change.gone)
    for i, typed in enumerate(change.rows):
        cells = checked(table, dict(typed.cells))
        _check_meaning(table, cells, shop)
        key = table.key_of(cells)
        if key in rows:
            raise JobError(table.key[0], f"row {i + 1} stands twice", "one each")
        if typed.was is not None and typed.was != key:
            if key in held:
                raise JobError(table.key[0], "there is such a row of your own already", "a new one")
            going.append(typed.was)
        rows[key] = cells
    for key in going:
        if key not in held:
            raise JobError("gone", "there is no such row of your own", "an own row")
        if key not in rows:
            _refuse_in_use(connection, table, held[key])
    if table.id in ("limit_sets", "single_limits"):
        after: dict[str, Cells] = {k: c for k, c in held.items() if k not in going} | rows
        _check_sets(connection, shop, table, after)
    store.keep_rows(connection, table.id, rows, tuple(going))
    before = tuple(OwnRow(held[key]) for key in dict.fromkeys((*going, *rows)) if key in held)
    return Kept(tuple(rows), RowsChange(before, tuple(key for key in rows if key not in held)))


def _check_meaning(table: TableKind, cells: Cells, shop: Workshop) -> None:
    """A line must be one that can be drawn; a fuse or ampacity row needs nothing more."""
    if table.id == "loads":
        try:
            element = element_of(cells["line"], EMPTY_CRAFT, shop.tables)
        except JobError as wrong:
            raise JobError("line", wrong.problem, wrong.accepted) from None
        if not isinstance(element, Load):
            raise JobError("line", "is no load", 'a load, as load "Fan" 2 A')
    if table.id == "typical_runs":
        read = read_runs(cells["line"], EMPTY_CRAFT, shop.tables)
        if read.errors:
            raise JobError("line", read.errors[0].problem, read.errors[0].accepted)


def _refuse_in_use(connection: sqlite3.Connection, table: TableKind, cells: Cells) -> None:
    """A row that a job stands on stays, unless a shipped one of the same key is under it."""
    if table.key_of(cells) in shipped_rows(table.id):
        return
    users: list[str] = []
    if table.id == "conductors":
        users = store.jobs_with_size(connection, cells["system"], cells["size"], cells["finish"])
    elif table.id == "fixed_pieces":
        users = store.jobs_with_style(connection, cells["kind"], cells["style"])
    if users:
        raise JobError("gone", f"it is used by {', '.join(users[:3])}", "a row that no job uses")


def _check_sets(
    connection: sqlite3.Connection, shop: Workshop, table: TableKind, own: Mapping[str, Cells]
) -> None:
    """Shipped sets are copied, not changed; a set of one's own must speak of every load."""
    if table.id == "single_limits":
        shipped = {row["set"] for row in shipped_rows("limit_sets").values()}
        for row in own.values():
            if row["set"] in shipped:
                raise JobError("set", f"{row['set']} is a shipped set", "a set of your own")
        return
    by_set = own_sets(own.values())
    before = {row["set"] for row in shop.own_rows.get("limit_sets", {}).values()}
    for name in before - by_set.keys():
        users = store.jobs_with_limits(connection, name)
        if users:
            raise JobError(
                "gone", f"{name} is used by {', '.join(users[:3])}", "a set that no job uses"
            )
