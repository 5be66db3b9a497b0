"""The wire list: every wire of a craft with its ends, its cut and what feeds it, as one wires from it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Side,
    to_be_sized,
)
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.fuses import protecting
from spare_margin.core.upgrade.parts import cut_m

from .terminals import Terminal, terminal_for

State = Literal["new", "changed", "stays"]
INCH_STEP_M = 6 * 0.0254
"""Where feet are used, wire is cut to the next six inches."""


@dataclass(frozen=True, slots=True)
class End:
    """One end of a wire: where it goes, and the terminal on it; None where the drawing has no joint there.

    Args:
        point: the id of a named test point; empty where a piece or a load stands there.
        element: the id of the piece or load.
        load_end: feed or return, where it is a load.
    """

    terminal: Terminal | None
    point: str = ""
    element: str = ""
    load_end: Side | None = None


@dataclass(frozen=True, slots=True)
class WireLine:
    """One wire.

    Args:
        number: its number on the list, from 1.
        wire: the conductor.
        start, end: its ends, in the order in which the current passes.
        cut_m: the length to cut (m), its allowance in it; 0 where nobody knows how long it lies.
        fed_by: the id of the fuse that protects it; empty where none does.
        loads: ids of the loads whose run passes it.
        state: whether it is new beside what lies there, of another size, or stays.
        panel: the id of the point at which the first of its runs begins.
    """

    number: int
    wire: Conductor
    start: End
    end: End
    cut_m: float
    fed_by: str
    loads: tuple[str, ...]
    state: State
    panel: str


def wire_list(
    craft: Craft,
    runs: Mapping[str, Run],
    tables: Tables,
    lies: Craft | None = None,
    panels: Mapping[str, str] | None = None,
    in_feet: bool = False,
) -> tuple[WireLine, ...]:
    """The wires that runs pass: shared ones first, then panel by panel, each run's feed before its return.

    Args:
        craft: the wiring.
        runs: its runs, by load id.
        tables: the reference tables.
        lies: what lies there already; None where nothing does.
        panels: the id of the point at which each run begins, by load id.
        in_feet: whether lengths are rounded up to six inches instead of a decimetre.
    """
    fuses = protecting(runs.values())
    users: dict[str, list[str]] = {}
    placed: dict[str, tuple[Conductor, Run, Side, int]] = {}
    for key, run in runs.items():
        for side in ("feed", "return"):
            for i, step in enumerate(run.side(side)):
                if isinstance(step.piece, Conductor):
                    users.setdefault(step.piece.id, []).append(key)
                    placed.setdefault(step.piece.id, (step.piece, run, side, i))
    old = {p.id: p for p in lies.pieces} if lies is not None else {}
    at = dict(panels or {})
    panel_order = list(dict.fromkeys(at.get(key, "") for key in runs))
    run_order = list(runs)

    def place(wire: str) -> tuple[int, int, int, int]:
        _, run, side, i = placed[wire]
        shared = len(users[wire]) > 1
        key = run.load.id
        panel = panel_order.index(at.get(key, ""))
        if shared:
            return (0, 0, side == "return", i)
        return (1 + panel, run_order.index(key), side == "return", i)

    out = []
    for number, key in enumerate(sorted(placed, key=place), 1):
        wire, run, side, i = placed[key]
        entry = run.side(side)[i].entry
        first, second = (entry, wire.end if entry == wire.start else wire.start)
        area = _area(wire, tables)
        out.append(
            WireLine(
                number, wire, _end(craft, run, first, wire, area),
                _end(craft, run, second, wire, area), _cut(wire.length_m, in_feet),
                _fed_by(side, users[key], fuses.get(key)), tuple(dict.fromkeys(users[key])),
                _state(wire, old.get(key)), at.get(run.load.id, ""),
            )
        )  # fmt: skip
    return tuple(out)


def _fed_by(side: Side, users: list[str], fuse: FixedPiece | None) -> str:
    """The fuse before a wire; a shared return hangs behind several."""
    return "" if fuse is None or (side == "return" and len(users) > 1) else fuse.id


def _cut(metres: float, in_feet: bool) -> float:
    if metres <= 0:
        return 0.0
    if not in_feet:
        return cut_m(metres)
    return math.ceil(cut_m(metres) / INCH_STEP_M - 1e-9) * INCH_STEP_M


def _area(wire: Conductor, tables: Tables) -> float:
    row = tables.conductors.rows.get(wire.size) if wire.size is not None else None
    return 0.0 if row is None else row.area_mm2


def _state(wire: Conductor, was: object) -> State:
    if not isinstance(was, Conductor) or to_be_sized(was):
        return "new"
    same = (was.size, was.length_m) == (wire.size, wire.length_m)
    return "stays" if same else "changed"


def _end(craft: Craft, run: Run, point: str, wire: Conductor, area: float) -> End:
    """Where a wire's end goes: over the joints on it to the first named point, piece or load."""
    joints = {p.id: p for p in craft.pieces if isinstance(p, FixedPiece) and p.kind == "joint"}
    at, came = point, wire.id
    terminal: Terminal | None = None
    for _ in range(len(craft.pieces)):
        beside = [p for p in craft.pieces if at in (p.start, p.end) and p.id != came]
        if terminal is None:
            joint = next((p for p in beside if p.id in joints), None)
            if isinstance(joint, FixedPiece):
                terminal = terminal_for(joint.style or "pin", area)
        if craft.point(at).name:
            return End(terminal, point=at)
        for side, end in (("feed", run.feed_terminal), ("return", run.return_terminal)):
            if at == end:
                return End(terminal, element=run.load.id, load_end=side)  # type: ignore[arg-type]
        if len(beside) != 1:
            return End(terminal, element=beside[0].id if beside else "")
        only = beside[0]
        if only.id not in joints:
            return End(terminal, element=only.id)
        came, at = only.id, only.end if only.start == at else only.start
    return End(terminal)
