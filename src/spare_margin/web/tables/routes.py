"""The tables, shipped and the workshop's own, and the settings."""

from typing import Literal

from flask import Response, request
from pydantic import BaseModel

from spare_margin.core.errors import JobError
from spare_margin.data.table_rows import TABLES, TableKind
from spare_margin.data.tables import rows_of, shipped_rows
from spare_margin.exchange.tables.table_csv import CsvErrors, read_rows, write_rows
from spare_margin.service.errors import NotThere
from spare_margin.service.records.learning import LearnedOffer, learning
from spare_margin.service.workshop.own_rows import OwnRow, RowsChange, keep
from spare_margin.service.workshop.workshop import checked_settings
from spare_margin.store import workshop as store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import connection, forget_workshop, the_workshop
from spare_margin.web.common.downloads import attached
from spare_margin.web.problems import problem, wrong_field
from spare_margin.web.tables.models import (
    Culprit,
    KeepRows,
    KeptRows,
    LearnedOut,
    LearnedTable,
    Settings,
    SettingsChange,
    SettingsOut,
    ShelfColumn,
    ShelfRow,
    TableOfRows,
    TablesOut,
    TypicalRun,
    TypicalRuns,
)
from spare_margin.wording.language.figures import percent
from spare_margin.wording.records.learned import fault_words, piece_row_words, spread_row_words

MOST_BYTES = 2_000_000

tables_api = area("tables", __name__, "/api/v1", "tables and settings")


class TablePath(BaseModel):
    """The table that an address names."""

    table: str


class CsvQuery(BaseModel):
    """Which rows to write: the workshop's own only, or all."""

    own: bool = False


@tables_api.get("/tables", responses={200: TablesOut})
def tables() -> dict[str, object]:
    """Every table with its rows, the workshop's own first."""
    return TablesOut(tables=[_table_out(table) for table in TABLES.values()]).model_dump()


def _table_out(table: TableKind) -> TableOfRows:
    own, shipped = the_workshop().own_rows.get(table.id, {}), shipped_rows(table.id)
    rows = [
        ShelfRow(key=key, cells=dict(cells), own=key in own, instead=key in own and key in shipped)
        for key, cells in {**own, **{k: c for k, c in shipped.items() if k not in own}}.items()
    ]
    return TableOfRows(
        id=table.id,
        name=table.name,
        says=table.says,
        columns=[
            ShelfColumn(
                key=c.key, head=c.head, number=c.number, wanted=c.wanted, choices=list(c.choices)
            )
            for c in table.columns
        ],
        key=list(table.key),
        rows=rows,
    )


def _table(path: TablePath) -> TableKind:
    if path.table not in TABLES:
        raise NotThere("There is no such table.")
    return TABLES[path.table]


@tables_api.get("/tables/<string:table>/csv")
def table_csv(path: TablePath, query: CsvQuery) -> Response:
    """A table as CSV."""
    table = _table(path)
    own = the_workshop().own_rows
    rows = own.get(table.id, {}) if query.own else rows_of(table.id, own)
    name = f"{table.id}{'-own' if query.own else ''}.csv"
    return attached(write_rows(rows.values(), table), name, "text/csv; charset=utf-8")


@tables_api.post("/tables/<string:table>/csv", responses={200: KeptRows})
def bring_csv(path: TablePath) -> Response | dict[str, object]:
    """Keep the rows of the CSV in the body as the workshop's own, all of them or none."""
    request.max_content_length = MOST_BYTES
    table = _table(path)
    try:
        rows = read_rows(request.get_data().decode("utf-8"), table)
    except UnicodeDecodeError:
        raise JobError("line 1", "is not UTF-8 text", "CSV in UTF-8") from None
    except CsvErrors as refused:
        fields = [wrong_field(e) for e in refused.errors]
        return problem(422, "This table cannot be taken", str(refused), fields)
    return _keep(table, RowsChange(tuple(OwnRow(row) for row in rows))).model_dump()


@tables_api.post("/tables/<string:table>/rows", responses={200: KeptRows})
def keep_rows(path: TablePath, body: KeepRows) -> dict[str, object]:
    """Keep and take off own rows, together or not at all."""
    return _keep(_table(path), body.root).model_dump()


def _keep(table: TableKind, change: RowsChange) -> KeptRows:
    made = keep(connection(), the_workshop(), table, change)
    forget_workshop()
    return KeptRows(table=_table_out(table), kept=made.keys, undo=made.undo)


@tables_api.get("/typical-runs", responses={200: TypicalRuns})
def typical_runs() -> dict[str, object]:
    """Runs to start from."""
    rows = rows_of("typical_runs", the_workshop().own_rows).values()
    return TypicalRuns(
        runs=[TypicalRun(name=r["name"], line=r["line"], source=r["source"]) for r in rows]
    ).model_dump()


@tables_api.get("/learned", responses={200: LearnedTable})
def read_learned() -> dict[str, object]:
    """What the accepted readings of all jobs say of good pieces, beside what the tables say."""
    found = learning(connection(), the_workshop())
    return LearnedTable(
        pieces=[_learned(each, "piece") for each in found.pieces],
        spreads=[_learned(each, "spread") for each in found.spreads],
        culprits=[
            Culprit(name=fault_words(kind), place=place, jobs=count)
            for kind, place, count in found.culprits
        ],
    ).model_dump()


def _learned(offer: LearnedOffer, what: Literal["piece", "spread"]) -> LearnedOut:
    each = offer.learned
    said = piece_row_words if what == "piece" else spread_row_words
    return LearnedOut(
        kind=each.kind, name=fault_words(each.kind), style=each.style, place=each.place,
        count=each.count, jobs=each.jobs, low=each.low_ohm, median=each.median_ohm,
        high=each.high_ohm, spread=percent(each.spread), held=said(offer.held),
        offered=said(offer.row), row=None if offer.row is None else dict(offer.row),
        taken=offer.taken,
    )  # fmt: skip


@tables_api.get("/settings", responses={200: SettingsOut})
def read_settings() -> dict[str, object]:
    """The workshop's settings."""
    return _settings_out().model_dump()


def _settings_out() -> SettingsOut:
    meters = [row["name"] for row in rows_of("meters", the_workshop().own_rows).values()]
    known = {k: v for k, v in the_workshop().settings.items() if k in Settings.model_fields}
    return SettingsOut(**known, meters=meters)  # type: ignore[arg-type]


@tables_api.post("/settings", responses={200: SettingsOut})
def keep_settings(body: SettingsChange) -> dict[str, object]:
    """Keep some of the workshop's settings."""
    said = checked_settings(body.model_dump(exclude_none=True), the_workshop().tables)
    store.keep_settings(connection(), said)
    forget_workshop()
    return _settings_out().model_dump()
