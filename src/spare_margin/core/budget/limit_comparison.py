"""One run under one limit set after the other: what is spare, what is over, how much more it would bear."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.least import first_least
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import FixedPiece
from spare_margin.core.model.tables import Tables

from .headroom import Headroom, headroom
from .run_budget import RunBudget, RunBudgets


@dataclass(frozen=True, slots=True)
class UnderLimits:
    """A run under some limits: its budget, the pieces above their own ceiling, its headroom.

    `spare` is the least spare (V) and the ceiling it is under, None without a ceiling or current; without a
    ceiling there is no verdict, nor where part of the run, or its load, is not known.
    """

    budget: RunBudget
    spare: tuple[float, str] | None
    over: tuple[str, ...]
    room: Headroom | None
    verdict: Literal["within", "over", "not_loaded", "not_measured"]


def under_limits(
    solved: SolvedCraft, runs: Mapping[str, Run], run: str, limits: Limits, tables: Tables
) -> UnderLimits:
    """One run of a solved craft under these limits.

    Args:
        runs: the runs, by load id.
        tables: the reference tables.
    """
    craft = solved.craft
    alone = {run: runs[run]}  # what others allow a shared piece does not count here
    limits = limits.during(craft, solved.scenario)
    budget = RunBudgets(craft, alone, solved.solution, limits, tables)[run]
    if not budget.current_a:
        return UnderLimits(budget, None, (), None, "not_loaded")
    if budget.run.guessed:
        return UnderLimits(budget, None, (), None, "not_measured")
    spares = budget.spares()
    under = first_least(spares, lambda name: spares[name]) if spares else ""
    over = tuple(
        p.step.piece.id
        for side in budget.sides
        for p in side.pieces
        if run not in limits.free and p.drop_v > _ceiling_v(p.step, limits, craft.nominal_v)
    )
    room = headroom(solved, budget, limits, tables)
    if not spares:
        return UnderLimits(budget, None, over, room, "over" if over else "not_measured")
    short = bool(over) or spares[under] < 0
    spare = spares[under], under
    return UnderLimits(budget, spare, over, room, "over" if short else "within")


def _ceiling_v(step: Step, limits: Limits, nominal_v: float) -> float:
    """The ceiling (V) for this one piece; none for wire, nor for what drops volts on purpose."""
    if not isinstance(step.piece, FixedPiece) or step.on_purpose:
        return math.inf
    ceiling = limits.single_ceiling_v(step.piece.kind, nominal_v)
    return math.inf if ceiling is None else ceiling
