"""From limits and drops to what is spare, of a run, its sides and its pieces."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import starmap

from spare_margin.core.budget.allowances import (
    Allowance,
    Allowances,
    CopperOhms,
    FixedShares,
    step_current_a,
    step_drop_v,
)
from spare_margin.core.budget.loops import Loops
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import SIDES, Craft, Side
from spare_margin.core.model.tables import Tables


@dataclass(frozen=True, slots=True)
class PieceBudget:
    """One piece of a run: what it may drop, what it is predicted to drop, what is spare (V)."""

    step: Step
    current_a: float
    drop_v: float
    allowance: Allowance

    @property
    def spare_v(self) -> float:
        """Allowance less drop."""
        return self.allowance.volts - self.drop_v


@dataclass(frozen=True, slots=True)
class SideBudget:
    """One side of a run. `drop_v` counts what the ceiling counts: not a resistor fitted on purpose.

    `eaten_by` names the fixed pieces that leave nothing for copper, when they do.
    """

    side: Side
    ceiling_v: float | None
    drop_v: float
    purpose_v: float
    pieces: tuple[PieceBudget, ...]
    eaten_by: tuple[str, ...] = ()

    @property
    def spare_v(self) -> float | None:
        """Ceiling less drop; None where the limit set has no ceiling for this side."""
        return None if self.ceiling_v is None else self.ceiling_v - self.drop_v


@dataclass(frozen=True, slots=True)
class Spend:
    """What a run loses on either side (V, without resistors fitted on purpose), and its ceilings."""

    ceilings: Ceilings
    feed_v: float
    return_v: float

    def spares(self) -> dict[str, float]:
        """Spare (V) under each ceiling there is: feed, return, round trip."""
        held = self.ceilings
        named = (
            ("feed", held.feed_v, self.feed_v),
            ("return", held.return_v, self.return_v),
            ("round_trip", held.round_trip_v, self.feed_v + self.return_v),
        )
        return {name: ceiling - lost for name, ceiling, lost in named if ceiling is not None}

    @property
    def spare_v(self) -> float:
        """The least spare under any ceiling: the number the product is named after."""
        return min(self.spares().values(), default=math.inf)

    @property
    def share(self) -> float | None:
        """The larger share of its ceiling that a side spends; None where neither has one."""
        held = (self.ceilings.feed_v, self.feed_v), (self.ceilings.return_v, self.return_v)
        return max((lost / ceiling for ceiling, lost in held if ceiling), default=None)


@dataclass(frozen=True, slots=True)
class RunBudget:
    """A whole run in one scenario."""

    run: Run
    ceilings: Ceilings
    feed: SideBudget
    back: SideBudget
    load_v: float
    source_v: float
    current_a: float

    @property
    def sides(self) -> tuple[SideBudget, SideBudget]:
        """Feed, then return."""
        return self.feed, self.back

    @property
    def spend(self) -> Spend:
        """What the ceilings count."""
        return Spend(self.ceilings, self.feed.drop_v, self.back.drop_v)

    def spares(self) -> dict[str, float]:
        """Spare (V) under each ceiling there is."""
        return self.spend.spares()

    @property
    def spare_v(self) -> float:
        """The least spare under any ceiling."""
        return self.spend.spare_v


def _budget(
    craft: Craft,
    run: Run,
    solution: Solution,
    limits: Limits,
    allowances: Mapping[str, Allowance] | None,
    eaten: Mapping[Side, tuple[str, ...]],
) -> RunBudget:
    ceilings = limits.ceilings(run.load, craft.nominal_v)
    sides = [
        _side(run, side, ceilings, solution, allowances, eaten.get(side, ())) for side in SIDES
    ]
    return RunBudget(
        run,
        ceilings,
        sides[0],
        sides[1],
        solution.volts(run.feed_terminal, run.return_terminal) or 0.0,
        solution.volts(run.source.live, run.source.back) or 0.0,
        abs(solution.elements[run.load.id].current_a),
    )


def totals(craft: Craft, run: Run, solution: Solution, limits: Limits) -> RunBudget:
    """A run's budget with its volts not shared out: no side names its pieces.

    Args:
        craft: the wiring.
        solution: volts by point and the state of every element, as solved.
        limits: the limits that its runs are held to.
    """
    return _budget(craft, run, solution, limits, None, {})


def spend(craft: Craft, run: Run, solution: Solution, limits: Limits) -> Spend:
    """What a run loses on either side, and its ceilings.

    Args:
        craft: the wiring.
        solution: volts by point and the state of every element, as solved.
        limits: the limits that its runs are held to.
    """
    return Spend(limits.ceilings(run.load, craft.nominal_v), *run.lost_v(solution.elements))


def _side(
    run: Run,
    side: Side,
    ceilings: Ceilings,
    solution: Solution,
    allowances: Mapping[str, Allowance] | None,
    eaten: tuple[str, ...],
) -> SideBudget:
    drops = [(step, step_drop_v(step, solution)) for step in run.side(side)]
    pieces: tuple[PieceBudget, ...] = ()
    if allowances is not None:
        own = {
            **allowances,
            **{s.piece.id: Allowance(v, "purpose", run.load.id) for s, v in drops if s.load},
        }
        pieces = tuple(
            PieceBudget(step, step_current_a(step, solution), drop_v, own[step.piece.id])
            for step, drop_v in drops
        )
    purpose = sum(v for step, v in drops if step.on_purpose and not step.beside)
    drop = sum(v for step, v in drops if not step.beside) - purpose
    ceiling = ceilings.feed_v if side == "feed" else ceilings.return_v
    return SideBudget(side, ceiling, drop, purpose, pieces, eaten)


class RunBudgets(Mapping[str, RunBudget]):
    """Budgets of runs (by load id) at the currents of one solved scenario, each made when asked for.

    `copper` are the ohms that all scenarios of the craft allow its conductors; without them, those that
    this scenario alone would allow. `loops` are the runs as arrays, where they were laid out already.

    Args:
        solution: volts by point and the state of every element, as solved.
        limits: the limits that its runs are held to.
        tables: the reference tables.
    """

    def __init__(
        self,
        craft: Craft,
        runs: Mapping[str, Run],
        solution: Solution,
        limits: Limits,
        tables: Tables,
        copper: CopperOhms | None = None,
        loops: Loops | None = None,
    ) -> None:
        self.craft, self.runs, self.solution = craft, runs, solution
        self.limits, self.tables = limits, tables
        self._copper, self._loops = copper, loops
        self._made: dict[str, RunBudget] = {}

    def __iter__(self) -> Iterator[str]:
        return iter(self.runs)

    def __len__(self) -> int:
        return len(self.runs)

    def __getitem__(self, key: str) -> RunBudget:
        if key not in self._made:
            run, allowed = self.runs[key], self._allowances
            eaten = {side: allowed.eaters(run, side) for side in SIDES}
            self._made[key] = _budget(
                self.craft, run, self.solution, self.limits, allowed.of(run), eaten
            )
        return self._made[key]

    def __contains__(self, key: object) -> bool:
        return key in self.runs

    def spend(self, key: str) -> Spend:
        """What a run loses, without sharing its volts out to its pieces.

        Args:
            key: the id of the load.
        """
        return self._spends[key]

    @cached_property
    def _spends(self) -> dict[str, Spend]:
        drops = self.solution.elements.piece_drops_v
        feed, back = (self.loops.lost_v(side, drops).tolist() for side in SIDES)
        each = zip(self.loops.held, feed, back, strict=True)
        return dict(zip(self.loops.run_ids, starmap(Spend, each), strict=True))

    @cached_property
    def loops(self) -> Loops:
        """The runs as arrays."""
        return self._loops or Loops(self.craft, self.runs, self.limits, self.tables)

    @cached_property
    def fixed(self) -> FixedShares:
        """The fixed pieces at the currents of this scenario."""
        return FixedShares.at(self.loops, self.solution)

    @cached_property
    def _allowances(self) -> Allowances:
        return Allowances(self.fixed, self.solution, self._copper or CopperOhms([self.fixed]))

    def over(self, piece: str) -> bool:
        """Whether some loaded run that passes a piece loses more than a ceiling that counts it allows."""
        return piece in self._passed

    @cached_property
    def _passed(self) -> frozenset[str]:
        """The pieces that stand under a ceiling that is passed."""
        out: set[str] = set()
        for key, run in self.runs.items():
            missed = {name for name, spare in self._spends[key].spares().items() if spare < 0}
            if not missed or self.solution.elements.current_a(key) == 0:
                continue
            for step in run.steps():
                side = run.main.get(step.piece.id) or step.piece.side
                if {side, "round_trip"} & missed:
                    out.add(step.piece.id)
        return frozenset(out)
