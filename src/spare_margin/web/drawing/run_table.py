"""The table of runs: as it is, a pasted one as it is understood, rows kept, the same table as CSV."""

from typing import Annotated, Literal

from flask import Response
from pydantic import Field

from spare_margin.core.edit.run_rows import CELLS, Cell
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.limits import Ceilings
from spare_margin.exchange.tables.run_cells import MOST_ROWS, TITLES, Cells, table_csv, table_text
from spare_margin.service.drawing.limits import hold, put_back
from spare_margin.service.drawing.run_table import (
    RowTyped,
    keep_rows,
    new_panels,
    panels_of,
    table_of,
)
from spare_margin.service.job.desk import Wanted
from spare_margin.service.job.session import JobSession
from spare_margin.web.common.area import area
from spare_margin.web.common.context import JobPath, open_desk, open_job, stage_or_latest
from spare_margin.web.common.downloads import attached
from spare_margin.web.common.models import Model
from spare_margin.web.drawing.models import Drawing
from spare_margin.wording.craft.changes import held_words, own_limit_words, rows_words

run_table_api = area("run_table", __name__, "/api/v1/jobs/<string:job>/run-table", "drawing up")

CellText = Annotated[str, Field(max_length=200)]
LimitVolts = Annotated[float, Field(gt=0, le=1000)]


class RunTableQuery(Model):
    """Which stage; the latest where none is said."""

    stage: Stage | None = None


class RunRowOut(Model):
    """A run's row: its cells as a person would type them; `fixed` are those the row cannot change.

    `limit` says what it may lose where it is held to a limit of its own.
    """

    run: str
    cells: dict[Cell, str]
    fixed: list[Cell]
    limit: str


class ColumnOut(Model):
    """A column of the table, and what it is called."""

    cell: Cell
    title: str


class RunTableOut(Model):
    """The runs of a craft as a table; `panels` are where a run can begin, beside the source."""

    job: str
    title: str
    stage: Stage
    revision: str
    columns: list[ColumnOut]
    rows: list[RunRowOut]
    panels: list[str]
    usual_cable: Literal["twin", "single", "body"]


class RunRowIn(Model):
    """A row: the cells that are otherwise; everything it says where it has no run yet."""

    run: str | None = None
    cells: dict[Cell, CellText]


class RowsIn(Drawing):
    """Rows to keep, all or none; how far each panel that nothing feeds yet is from the source."""

    rows: Annotated[list[RunRowIn], Field(max_length=MOST_ROWS)]
    panels: dict[CellText, CellText] = Field(default_factory=dict)


class RowsKept(Model):
    """What was kept, in a sentence; the stages that have it now, and the runs that are new."""

    stage: Stage
    stages: list[Stage]
    made: list[str]
    said: str


class OwnLimit(Model):
    """What the feed, the return and both of a run may lose (V); None where the set rules."""

    feed_v: LimitVolts | None = None
    return_v: LimitVolts | None = None
    round_trip_v: LimitVolts | None = None

    @classmethod
    def of(cls, held: Ceilings) -> "OwnLimit":
        """A run's own ceilings as they are sent."""
        return cls(feed_v=held.feed_v, return_v=held.return_v, round_trip_v=held.round_trip_v)

    def ceilings(self) -> Ceilings:
        """The ceilings that were sent."""
        return Ceilings(self.feed_v, self.return_v, self.round_trip_v)


class LimitsIn(Model):
    """Runs, and what each may lose in all as typed; or, for the way back, what ruled before."""

    loads: Annotated[list[CellText], Field(max_length=MOST_ROWS)] = Field(default_factory=list)
    limit: CellText = ""
    own: Annotated[dict[CellText, OwnLimit | None], Field(max_length=MOST_ROWS)] | None = None


class LimitsHeld(Model):
    """What ruled before, by run, and in a sentence what rules now."""

    before: dict[str, OwnLimit | None]
    said: str


class TableIn(Model):
    """A table as it was pasted, and the stage whose panels it may name."""

    text: Annotated[str, Field(max_length=200_000)]
    stage: Stage | None = None


class CellRead(Model):
    """A cell as it was typed, and what is wrong with it, if anything."""

    text: str
    wrong: str


class RowRead(Model):
    """A row as it was understood."""

    cells: dict[Cell, CellRead]
    good: bool


class TableRead(Model):
    """A pasted table as it was understood; `panels` are those that nothing feeds yet."""

    rows: list[RowRead]
    columns: list[Cell]
    unknown: list[str]
    panels: list[str]


def _table(session: JobSession, stage: Stage) -> RunTableOut:
    head = session.head(stage)
    tables = session.tables
    return RunTableOut(
        job=session.job.id,
        title=session.job.title,
        stage=stage,
        revision=head.id,
        columns=[ColumnOut(cell=cell, title=TITLES[cell]) for cell in CELLS],
        rows=[
            RunRowOut(
                run=row.run,
                cells=dict(row.cells),
                fixed=sorted(row.fixed),
                limit=own_limit_words(session.job.own_limits.get(row.run)),
            )
            for row in table_of(head.craft, tables)
        ],
        panels=panels_of(head.craft, tables),
        usual_cable=Cells(head.craft, tables).usual,
    )


@run_table_api.get("", responses={200: RunTableOut})
def run_table(path: JobPath, query: RunTableQuery) -> dict[str, object]:
    """The runs of a craft as a table."""
    session = open_job(path.job)
    return _table(session, stage_or_latest(session, query.stage)).model_dump()


@run_table_api.post("", responses={200: RowsKept})
def keep(path: JobPath, body: RowsIn) -> dict[str, object]:
    """Change and draw runs by their rows, all or nothing."""
    desk = open_desk(path.job)
    rows = [RowTyped(row.run, row.cells) for row in body.rows]
    # A run that is drawn anew is there on every stage, as one that is drawn from a line.
    adds = any(row.run is None for row in rows)
    wanted = Wanted(body.stage, body.revision, body.correct or adds)
    made = keep_rows(desk, wanted, rows, body.panels)
    return RowsKept(
        stage=made.stage,
        stages=list(made.stages),
        made=list(made.made),
        said=rows_words(len(made.made), len(rows) - len(made.made)),
    ).model_dump()


@run_table_api.post("/limits", responses={200: LimitsHeld})
def hold_to(path: JobPath, body: LimitsIn) -> dict[str, object]:
    """Hold some runs to a limit of their own, or to what ruled before; what ruled until now."""
    desk = open_desk(path.job)
    if body.own is not None:
        before = put_back(
            desk, {key: None if c is None else c.ceilings() for key, c in body.own.items()}
        )
    else:
        before = hold(desk, body.loads, body.limit)
    now = open_job(path.job).job.own_limits
    return LimitsHeld(
        before={key: None if c is None else OwnLimit.of(c) for key, c in before.items()},
        said=held_words([now.get(key) for key in before]),
    ).model_dump()


@run_table_api.post("/read", responses={200: TableRead})
def read_table(path: JobPath, body: TableIn) -> dict[str, object]:
    """What a pasted table says, each cell as it was understood; nothing is kept."""
    session = open_job(path.job)
    craft = session.head(stage_or_latest(session, body.stage)).craft
    table = table_text(body.text)
    reading = Cells(craft, session.tables)
    rows = []
    for cells in table.rows:
        _, errors = reading.row(cells)
        wrong = {e.path: _sentence(e) for e in errors}
        shown = dict.fromkeys([*cells, *(c for c in CELLS if c in wrong)])
        rows.append(
            RowRead(
                cells={c: CellRead(text=cells.get(c, ""), wrong=wrong.get(c, "")) for c in shown},
                good=not errors,
            )
        )
    return TableRead(
        rows=rows,
        columns=list(table.columns),
        unknown=list(table.unknown),
        panels=new_panels(craft, table.rows),
    ).model_dump()


def _sentence(wrong: JobError) -> str:
    said = f"{wrong.problem[:1].upper()}{wrong.problem[1:]}."
    return f"{said} Allowed: {wrong.accepted}." if wrong.accepted else said


@run_table_api.get("/csv")
def csv_out(path: JobPath, query: RunTableQuery) -> Response:
    """The table of runs as CSV; pasted again it gives the same rows."""
    session = open_job(path.job)
    head = session.head(stage_or_latest(session, query.stage))
    rows = [row.cells for row in table_of(head.craft, session.tables)]
    return attached(table_csv(rows), "runs.csv", "text/csv; charset=utf-8")
