"""The craft as a whole: who loads which shared piece, copper by size, what would help most runs."""

from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.budget.allowances import step_drop_v
from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.conductors import copper_kg
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.pieces import (
    SIDES,
    AnyPiece,
    Conductor,
    Craft,
    FixedPiece,
    Side,
    Size,
    undrawn,
)
from spare_margin.core.model.tables import Tables

LEAST_HELP_V = 0.0005
"""A piece made better that gains each run less than this shows nothing on a meter: it is not offered."""


@dataclass(frozen=True, slots=True)
class TrunkStretch:
    """Pieces in a row that carry the same loads: their names, A at the start, V lost over them."""

    side: Side
    depth: int
    loads: tuple[str, ...]
    pieces: tuple[AnyPiece, ...]
    current_a: float
    drop_v: float


def stretches(runs: Mapping[str, Run], solution: Solution) -> list[TrunkStretch]:
    """The trunk and its branches on both sides, from the posts towards the loads.

    Pieces beside a main way count with it: the load's path is the way of least resistance.

    Args:
        runs: the runs, by load id.
        solution: volts by point and the state of every element, as solved.
    """
    users: dict[str, list[str]] = {}
    for key, run in runs.items():
        for step in run.steps():
            users.setdefault(step.piece.id, []).append(key)
    found: dict[tuple[str, ...], TrunkStretch] = {}
    for run in runs.values():
        for side in SIDES:
            steps = [s for s in run.way(side) if s.load is None][:: 1 if side == "feed" else -1]
            depth, before = -1, None
            for step in steps:
                loads = tuple(users[step.piece.id])
                if loads != before:
                    depth, before = depth + 1, loads
                    first = (side, step.piece.id)
                    if first not in found:
                        found[first] = TrunkStretch(side, depth, loads, (), 0.0, 0.0)
                    held = first
                stretch = found[held]
                if any(p.id == step.piece.id for p in stretch.pieces):
                    continue
                drop = step_drop_v(step, solution)
                # Loads in series pass one current.
                alone = {runs[k].string[0]: k for k in loads}.values()
                carried = sum(abs(solution.elements[k].current_a) for k in alone)
                found[held] = TrunkStretch(
                    side, depth, loads, (*stretch.pieces, step.piece), carried,
                    stretch.drop_v + drop,
                )  # fmt: skip
    return list(found.values())


def row_order(runs: Mapping[str, Run], parts: list[TrunkStretch]) -> list[str]:
    """Load ids so that loads which share feed pieces stand together, most shared first.

    Args:
        runs: the runs, by load id.
        parts: the stretches of trunk and branches.
    """
    paths: dict[str, list[int]] = {key: [] for key in runs}
    for number, part in enumerate(parts):
        if part.side == "feed":
            for key in part.loads:
                paths[key].append(number)
    return sorted(runs, key=lambda key: paths[key])


@dataclass(frozen=True, slots=True)
class CopperUse:
    """How much of one size a craft holds: m, and kg of copper (None: area not known)."""

    size: Size
    length_m: float
    mass_kg: float | None


def copper_by_size(craft: Craft, tables: Tables) -> list[CopperUse]:
    """Lengths and copper mass by size, most copper first.

    Args:
        craft: the wiring.
        tables: the reference tables.
    """
    lengths: dict[Size, float] = {}
    for piece in craft.pieces:
        if isinstance(piece, Conductor) and piece.size is not None:
            lengths[piece.size] = lengths.get(piece.size, 0.0) + piece.length_m
    uses = [
        CopperUse(size, metres, copper_kg(size, metres, tables.conductors))
        for size, metres in lengths.items()
    ]
    return sorted(uses, key=lambda use: -(use.mass_kg or 0.0))


@dataclass(frozen=True, slots=True)
class Help:
    """One piece made better: how many volts each run gains, and which runs gain them.

    `size` is the next one up; None for a piece made as good as new. First order: the piece's current
    is taken to stay.
    """

    piece: AnyPiece
    size: Size | None
    current_a: float
    ohm: float
    better_ohm: float
    runs: tuple[str, ...]
    short_runs: int

    @property
    def gain_v(self) -> float:
        """Volts that each run through the piece gains."""
        return self.current_a * (self.ohm - self.better_ohm)


def helps(budgets: RunBudgets, solution: Solution, tables: Tables) -> list[Help]:
    """Pieces by how many short runs they would help, then by volts times runs; best first.

    Args:
        budgets: the budget of every run.
        solution: volts by point and the state of every element, as solved.
        tables: the reference tables.
    """
    users: dict[str, list[str]] = {}
    pieces: dict[str, AnyPiece] = {}
    for key, run in budgets.runs.items():
        if not solution.elements[key].current_a:
            continue
        for step in run.steps():
            pieces[step.piece.id] = step.piece
            users.setdefault(step.piece.id, []).append(key)
    short_runs = {key for key in budgets if budgets.spend(key).spare_v < 0}
    out = []
    for piece_id, piece in pieces.items():
        state = solution.elements[piece_id]
        better = _better_ohm(piece, state.resistance_ohm, tables)
        if better is None or state.resistance_ohm is None:
            continue
        size, ohm = better
        runs = tuple(users[piece_id])
        short = len(short_runs.intersection(runs))
        helped = Help(piece, size, abs(state.current_a), state.resistance_ohm, ohm, runs, short)
        if helped.gain_v > LEAST_HELP_V:
            out.append(helped)
    return sorted(out, key=lambda h: (-h.short_runs, -h.gain_v * len(h.runs)))


def _better_ohm(
    piece: AnyPiece, ohm: float | None, tables: Tables
) -> tuple[Size | None, float] | None:
    """The size that makes a piece better (None: as good as new), and its ohms then."""
    if ohm is None:
        return None
    if isinstance(piece, FixedPiece):
        if piece.kind == "resistor":
            return None
        row = tables.fixed.row_like(piece)
        good = row.good_low_ohm if row else expected(piece, tables.fixed).good_ohm
        return (None, good) if good < ohm else None
    if piece.size is None or piece.resistance_ohm is not None or undrawn(piece):
        return None
    bigger = next_size(piece.size, tables, 1)
    rows = tables.conductors.rows
    if bigger is None:
        return None
    return bigger, ohm * rows[bigger].ohm_per_m / rows[piece.size].ohm_per_m


def next_size(size: Size, tables: Tables, by: int) -> Size | None:
    """The size so many places up (or down, negative) in its own system and finish.

    Args:
        by: how many places; negative is down.

    >>> from spare_margin.data.tables import shipped_tables
    >>> [next_size(Size(*size), shipped_tables(), 1).value for size in (("mm2", "2.5"), ("awg", "14"))]
    ['4', '12']
    """
    rows = tables.conductors.rows
    own = [s for s in rows if (s.system, s.finish) == (size.system, size.finish)]
    own.sort(key=lambda s: rows[s].area_mm2)
    if size not in own:
        return None
    at = own.index(size) + by
    return own[at] if 0 <= at < len(own) else None
