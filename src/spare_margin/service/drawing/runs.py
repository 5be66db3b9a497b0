"""Runs: drawn and redrawn from their lines, pieces put in and moved, whole runs copied and taken out."""

from dataclasses import replace
from typing import Literal

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.edit.charging import ChargerKind, with_charger
from spare_margin.core.edit.columns import moved, put_in, taken_out
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.ids import NewIds
from spare_margin.core.edit.lines import line_of
from spare_margin.core.edit.splitting import Place, split
from spare_margin.core.edit.whole_runs import run_copied, run_taken_out
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Access, Craft, Load, TestPoint
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.quantities import understand
from spare_margin.exchange.run_line.reader import element_of, read_line, runs_of
from spare_margin.exchange.run_line.text import matched
from spare_margin.service.job.desk import Acted, Desk, Edited, Wanted
from spare_margin.service.job.revising import taken_ids
from spare_margin.wording.language.units import number
from spare_margin.wording.measured.walks import place_names

from .words import one_line

CHARGING_V = 14.2
"""What a generator or charger holds without load, at 12 V nominal: the usual setting for lead-acid."""
CHARGES = (0.8, 2.5)
"""What a charger holds is between so many times the nominal voltage: below it nothing is charged, above it
stands a source of another system."""


def draw_line(desk: Desk, wanted: Wanted, text: str, run: str | None) -> Edited:
    """Draw a run from its line, or redraw one; pieces whose text stayed the same stay the same.

    Lines with a load each are runs of their own. What was made are the loads. JobError (text) says what of
    the line is wrong.
    """
    tables, also = desk.session.tables, taken_ids(desk.snapshot)

    def put(craft: Craft, line_text: str) -> tuple[Craft, str | None]:
        read = read_line(line_text, craft, tables)
        if read.errors or read.line is None:
            first = read.errors[0]
            where = line_text[first.start : first.end]
            raise JobError("text", f"\u201c{where[:60]}\u201d: {first.problem}", first.accepted)
        old = None if run is None else line_of(craft, traced(craft, run, tables))
        line = read.line if old is None else matched(read.line, old)
        return drawn(craft, line, old, also)

    def act(craft: Craft) -> Acted:
        parts = ((0, text),) if run is not None else runs_of(text, craft, tables)
        loads = []
        for nth, (_, part) in enumerate(parts, 1):
            try:
                craft, load = put(craft, part)
            except JobError as wrong:
                if len(parts) == 1:
                    raise
                raise JobError("text", f"line {nth}: {wrong.problem}", wrong.accepted) from None
            loads += [] if load is None else [load]
        return Acted(craft, tuple(loads))

    return desk.change(wanted, act)


def put_in_piece(desk: Desk, wanted: Wanted, run: str, behind: str | None, text: str) -> Edited:
    """Put a piece, as typed, into a run behind another (None: first). What was made is the piece."""
    tables, also = desk.session.tables, taken_ids(desk.snapshot)

    def act(craft: Craft) -> Acted:
        element = element_of(text, craft, tables)
        if isinstance(element, Load):
            raise JobError("text", "is a load", "a piece; a load has a run of its own")
        made, new = put_in(craft, traced(craft, run, tables), behind, element, also)
        return Acted(made, (new,))

    return desk.change(wanted, act)


def move_piece(
    desk: Desk,
    wanted: Wanted,
    run: str,
    piece: str | None,
    how: Literal["earlier", "later", "remove"],
) -> Edited:
    """Move a piece of a run along, or take it out."""
    tables = desk.session.tables

    def act(craft: Craft) -> Acted:
        on = traced(craft, run, tables)
        if piece is None:
            raise JobError("piece", "is missing", "a piece of the run")
        if how == "remove":
            return Acted(taken_out(craft, piece), (piece,))
        return Acted(moved(craft, on, piece, how == "later"), (piece,))

    return desk.change(wanted, act)


def copy_run(desk: Desk, wanted: Wanted, run: str) -> Edited:
    """A second run like this one. What was made is its load."""
    also = taken_ids(desk.snapshot)

    def act(craft: Craft) -> Acted:
        known(craft, run)
        made, load = run_copied(craft, run, also)
        return Acted(made, (load,))

    return desk.change(wanted, act)


def take_run_out(desk: Desk, wanted: Wanted, run: str) -> tuple[Edited, Load]:
    """Take a run out, with the pieces that served it alone; the load it had."""

    def act(craft: Craft) -> Acted:
        known(craft, run)
        return Acted(run_taken_out(craft, run))

    made = desk.change(wanted, act)
    loads = (x for head in desk.snapshot.heads.values() for x in head.craft.loads)
    return made, next(x for x in loads if x.id == run)


def add_charger(desk: Desk, wanted: Wanted, kind: ChargerKind, name: str, volts: str) -> Edited:
    """A second source that charges the battery; its charging path is the run that is made.

    `volts`, as typed, are what it holds; the usual where nothing is. JobError names the field.
    """
    plain = one_line(name)[:100]
    if not plain:
        raise JobError("name", "is empty", "what it is called, as: Generator")
    also = taken_ids(desk.snapshot)

    def act(craft: Craft) -> Acted:
        usual = CHARGING_V * craft.nominal_v / 12.0
        held = understand(volts, "volts", "volts").value if volts.strip() else usual
        least, most = (times * craft.nominal_v for times in CHARGES)
        if held is None or not least <= held <= most:
            raise JobError("volts", "charges no battery of this craft", f"about {number(usual)}")
        grown, run = with_charger(craft, kind, plain, held, also)
        return Acted(grown, (run,))

    return desk.change(wanted, act)


def split_stretch(
    desk: Desk, wanted: Wanted, run: str, piece: str, place: Place, name: str, access: Access
) -> Edited:
    """Split a stretch where a lead can touch it; readings keep their points. Made are its test points."""
    tables, also = desk.session.tables, taken_ids(desk.snapshot)

    def act(craft: Craft) -> Acted:
        names = place_names(craft, place, one_line(name))
        return Acted(*split(craft, traced(craft, run, tables), piece, place, names, access, also))

    return desk.change(wanted, act)


def add_point(desk: Desk, wanted: Wanted, name: str) -> Edited:
    """A test point anywhere, joined to nothing that is drawn: a ground nearby, a proven point."""
    plain, also = one_line(name), taken_ids(desk.snapshot)
    if not plain:
        raise JobError("name", "is empty", "what the point is called, as: engine block")

    def act(craft: Craft) -> Acted:
        if plain.casefold() in {p.name.casefold() for p in craft.points}:
            raise JobError("name", f"{plain} is there already", "another name, or that point")
        new = TestPoint(id=NewIds(craft, also).next("p"), name=plain)
        return Acted(replace(craft, points=(*craft.points, new)), (new.id,))

    return desk.change(wanted, act)


def known(craft: Craft, run: str) -> Load:
    """The load of a run. JobError where the craft has no such run."""
    try:
        return craft.load(run)
    except KeyError:
        raise JobError("run", f"there is no run {run}", "a run of the craft") from None


def traced(craft: Craft, run: str, tables: Tables) -> Run:
    """A run of a craft. JobError where it has no such run, or the run is not closed."""
    return Tracer(craft, closed_ohms(craft, tables)).trace(known(craft, run))
