"""The runs of a craft as a table: read, and every change of its rows made at once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.edit.drawing import behind_clamp, drawn
from spare_margin.core.edit.new_runs import NewRun, line_of_row, panel_points, trunk_lines
from spare_margin.core.edit.run_rows import (
    CELLS,
    NEW_ONLY,
    Cell,
    RowChange,
    RunRow,
    back_of,
    rows_of,
    with_row,
)
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft, Load, TestPoint
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.tables.run_cells import Cells, RowUnderstood, cells_of
from spare_margin.service.job.desk import Acted, Desk, Edited, Wanted
from spare_margin.service.job.revising import taken_ids
from spare_margin.wording.craft.pieces import point_name


@dataclass(frozen=True, slots=True)
class RowTyped:
    """A row as it was typed: the cells that are otherwise; all it says for one without a run."""

    run: str | None
    cells: Mapping[Cell, str]


@dataclass(frozen=True, slots=True)
class RowShown:
    """A run's row: its cells as typed, and those that the row cannot change."""

    run: str
    cells: Mapping[Cell, str]
    fixed: frozenset[Cell]


def runs_of_craft(craft: Craft, tables: Tables) -> Mapping[str, Run]:
    """The runs of a craft, by load id."""
    return traced(craft, closed_ohms(craft, tables)).runs


def table_of(craft: Craft, tables: Tables) -> list[RowShown]:
    """The rows of a craft's runs, in the order in which they were drawn."""
    rows = rows_of(craft, runs_of_craft(craft, tables))
    return [
        RowShown(key, cells_of(row, _panel_name(craft, row)), row.fixed)
        for key, row in rows.items()
    ]


def _panel_name(craft: Craft, row: RunRow) -> str:
    """What a row's panel is called; nothing where it is the source's post or its clamp."""
    posts = {p for s in craft.sources for p in (s.live, behind_clamp(craft, s.live))}
    return "" if row.panel in posts else point_name(craft, row.panel)


def panels_of(craft: Craft, tables: Tables) -> list[str]:
    """The names of the points at which a run can begin: those at which some do, and loose feeds."""
    rows = rows_of(craft, runs_of_craft(craft, tables)).values()
    names = dict.fromkeys(_panel_name(craft, row) for row in rows)
    posts = {behind_clamp(craft, p) for s in craft.sources for p in (s.live, s.back)}
    loose = [
        p for p in craft.points
        if p.name and craft.touching[p.id] == 1 and p.id not in posts
        and any(q.side == "feed" and p.id in (q.start, q.end) for q in craft.pieces)
    ]  # fmt: skip
    return [name for name in names | dict.fromkeys(p.name for p in loose) if name]


def new_panels(craft: Craft, rows: Sequence[Mapping[Cell, str]]) -> list[str]:
    """The panels that rows name and that nothing feeds yet."""
    named = dict.fromkeys(cells.get("panel", "").strip() for cells in rows)
    return [name for name in named if name and _panel(craft, name) is None]


def keep_rows(
    desk: Desk, wanted: Wanted, rows: Sequence[RowTyped], panels: Mapping[str, str]
) -> Edited:
    """Change and draw runs by their rows, all or nothing; made are the loads of those that are new.

    Args:
        desk: the job.
        wanted: on which stage and revision.
        rows: the rows that are otherwise, and the new ones.
        panels: how far each panel that nothing feeds yet is from the source, as typed.

    JobError: its path names the row by its place, and the cell, as `rows[3].length`.
    """
    tables, also = desk.session.tables, taken_ids(desk.snapshot)

    def act(craft: Craft) -> Acted:
        reading = Cells(craft, tables)
        runs = runs_of_craft(craft, tables)
        now = rows_of(craft, runs)
        for i, row in enumerate(rows):
            if row.run is not None:
                try:
                    craft = _changed(craft, runs, now, row, reading)
                except JobError as wrong:
                    raise JobError(
                        f"rows[{i}].{wrong.path}", wrong.problem, wrong.accepted
                    ) from None
        made = []
        for i, row in enumerate(rows):
            if row.run is None:
                try:
                    understood, errors = reading.row(row.cells)
                    if understood is None:
                        raise errors[0]
                    craft, load = _drawn(craft, understood, panels, tables, also)
                except JobError as wrong:
                    raise JobError(
                        f"rows[{i}].{wrong.path}", wrong.problem, wrong.accepted
                    ) from None
                made.append(load)
        return Acted(craft, tuple(made))

    return desk.change(wanted, act)


def _changed(
    craft: Craft, runs: Mapping[str, Run], now: Mapping[str, RunRow], row: RowTyped, reading: Cells
) -> Craft:
    held = now.get(row.run or "")
    if held is None:
        raise JobError("load", "is no run any more", "the table as it is now")
    before = cells_of(held, _panel_name(craft, held))
    cells = {c: t.strip() for c, t in row.cells.items() if c in CELLS and t.strip() != before[c]}
    stuck = next((c for c in cells if c in held.fixed), None)
    if stuck is not None:
        wanted = "draw the run again" if stuck in NEW_ONLY else "open the run to change it"
        raise JobError(stuck, "can't be changed here: the run has several of it, or none", wanted)
    load: Load | None = None
    if cells.keys() & {"load", "draws", "critical"}:
        load = held.load
        if "draws" in cells:
            drawn_now = reading.draws(cells["draws"], load.name)
            load = replace(
                drawn_now, name=load.name, critical=load.critical,
                duty=load.duty if load.duty != "ordinary" else drawn_now.duty,
                least_v=drawn_now.least_v if drawn_now.least_v is not None else load.least_v,
            )  # fmt: skip
        if "load" in cells:
            load = replace(load, name=reading.name(cells["load"]))
        if "critical" in cells:
            load = replace(load, critical=reading.critical(cells["critical"]))
    twin, size = reading.size(cells["size"]) if "size" in cells else (False, None)
    cable = reading.cable(cells["cable"]) if "cable" in cells else None
    if cable == "body":
        raise JobError(
            "cable", "can't become body here", "twin or single; draw the run again for body"
        )
    fuse = reading.fuse(cells["fuse"]) if "fuse" in cells else None
    if "fuse" in cells and fuse is None:
        raise JobError("fuse", "can't be taken out here", "a rating; open the run to take it out")
    change = RowChange(
        load=load, length_m=reading.length(cells["length"]) if "length" in cells else None,
        cable="twin" if twin and "cable" not in held.fixed else cable, size=size,
        free_size="size" in cells and size is None, fuse=fuse,
    )  # fmt: skip
    return with_row(craft, runs, held.load.id, change)


def _drawn(
    craft: Craft,
    row: RowUnderstood,
    panels: Mapping[str, str],
    tables: Tables,
    also: frozenset[str],
) -> tuple[Craft, str]:
    source = craft.sources[0]
    post, back_post = (craft.point(behind_clamp(craft, p)) for p in (source.live, source.back))
    panel: TestPoint | None = None
    back: TestPoint | None = None
    if row.panel:
        panel = _panel(craft, row.panel)
        if panel is None:
            far = panels.get(row.panel, "").strip()
            if not far:
                raise JobError(
                    "panel", f"nothing feeds {row.panel} yet", "say how far it is from the source"
                )
            length = Cells(craft, tables).length(far)
            by_body = row.cable == "body"
            for line in trunk_lines(row.panel, length, post, back_post, by_body):
                craft, _ = drawn(craft, line, None, also)
            panel = _panel(craft, row.panel)
        if panel is not None and row.cable != "body":
            at = back_of(craft, runs_of_craft(craft, tables), panel.id)
            back = craft.point(at) if at else None
    new = NewRun(
        load=row.load, length_m=row.length_m, cable=row.cable, size=row.size, fuse=row.fuse,
        joints=row.joints,
    )  # fmt: skip
    made, load = drawn(craft, line_of_row(new, panel, back, craft.nominal_v), None, also)
    assert load is not None
    return made, load


def _panel(craft: Craft, name: str) -> TestPoint | None:
    """The point that a panel's name means: of that name, or its plus side."""
    wanted = [each.casefold().replace("\u2212", "-") for each in (name, panel_points(name)[0])]
    by_name = {p.name.casefold().replace("\u2212", "-"): p for p in craft.points if p.name}
    return next((by_name[each] for each in wanted if each in by_name), None)
