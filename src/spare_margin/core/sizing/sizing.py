"""Sizes that keep every ceiling, for the least: chosen, tried with real loads, chosen again until it holds.

The lines of a task are made so that every choice that keeps the ceilings keeps them. The cheapest choice
that keeps the lines is therefore no dearer than the cheapest that keeps the ceilings; once it is tried
and found to keep them, it is proven least. One that does not is barred, and the next is chosen.
"""

import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import islice, product
from math import prod

import numpy as np

from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import Size

from .fronts import stretches_of
from .held_states import lines_near, lines_of
from .lines import HeldLimit, LimitLine, LimitLines, NotATree
from .programme import Effort, Picked, Programme
from .sizes_tried import SizesTried, tried
from .task import Task, Unit, units_of

MOST_ROUNDS = 60
"""A stop for rounds that tighten the lines too slowly to matter."""
NEAR_ROUNDS = 12
"""Tries to bring a choice that is missed by a little within its lines."""
BACK_OFF = 1.5
"""What a choice missed is taken off this many times, so that the next keeps clear of it."""
FIRST_SHARE, NEAR_SHARE = 0.4, 0.5
"""Shares of the time left for one choice, where more than one will have to be tried."""
MOST_TRIALS = 3000
"""Where currents part by the sizes, so many cheaper choices are tried one by one to prove the least."""
LEAST_S = 0.5
"""However little time is left, one look takes this long."""


@dataclass(frozen=True, slots=True)
class Impossible:
    """What no sizes can keep: the load, which ceiling, by how much (V, or A for a wire's ampacity).

    `joints_v` is what the pieces that are not sized lose by themselves, where a ceiling is missed.
    """

    held: HeldLimit | None
    by: float
    wire: str = ""
    joints_v: float | None = None


@dataclass(frozen=True)
class Sizing:
    """The sizes, what they cost, and how sure it is that nothing cheaper would do.

    Attributes:
        proven: nothing cheaper keeps every ceiling.
        bound: no choice that keeps them costs less than this.
        rounds: choices made and tried with real loads until one held.
        second: the next best choice, where it was asked for and there is one.
    """

    sizes: Mapping[str, Size]
    cost: float
    bound: float
    proven: bool
    rounds: int
    trial: SizesTried
    second: "tuple[Mapping[str, Size], float] | None" = None

    @property
    def gap(self) -> float:
        """How much of the cost a cheaper choice could save at most, as a share."""
        return 0.0 if self.proven or self.cost <= 0 else (self.cost - self.bound) / self.cost


class Unsizable(Exception):
    """No sizes keep every ceiling: `why`, the worst first."""

    def __init__(self, why: Sequence[Impossible]) -> None:
        self.why = tuple(why)
        super().__init__("no sizes keep every ceiling")


def size_conductors(task: Task, effort: Effort | None = None, second: bool = False) -> Sizing:
    """The cheapest sizes that keep every ceiling of every load in every scenario.

    Args:
        task: what is to be sized.
        effort: how long to look, and who is told meanwhile.
        second: whether the next best choice is wanted too.

    Raises:
        Unsizable: no sizes keep every ceiling.
        JobError: a conductor may take no size at all; a craft that cannot be solved.
    """
    effort = effort or Effort()
    units = units_of(task)
    if not units:
        return _as_it_is(task)
    try:
        lines = lines_of(task, units)
    except NotATree:
        return _searched(task, units, effort)
    _refuse_impossible(task, lines)
    return _Rounds(task, lines, effort).run(second)


def _as_it_is(task: Task) -> Sizing:
    trial = tried(task, {})
    if trial.missed:
        raise Unsizable([Impossible(m.held, m.by, m.wire) for m in trial.missed])
    return Sizing({}, 0.0, 0.0, True, 1, trial)


def _refuse_impossible(task: Task, lines: LimitLines) -> None:
    """More copper takes fewer volts in every line: what the thickest miss, nothing keeps."""
    for unit in lines.units:
        if not unit.sizes:
            wire = unit.wires[0]
            raise JobError(
                f"elements.{wire.id}.size",
                f"no size on offer bears what {called(wire)} carries",
                "a thicker size, or insulation that bears more heat",
            )
    why = [
        Impossible(line.held, line.least() - line.left, joints_v=_fixed(task, line))
        for line in lines.lines
        if line.least() > line.left + ROUNDING
    ]
    if why:
        raise Unsizable(sorted(why, key=lambda each: -each.by))


def _fixed(task: Task, line: LimitLine) -> float | None:
    """What the pieces that are not sized lose (V) under a line's ceiling."""
    ceilings = task.ceilings.get(line.held.load)
    if ceilings is None or line.held.under == "least":
        return None
    ceiling: float = getattr(ceilings, f"{line.held.under}_v")
    return ceiling - line.left


class _Rounds:
    """Choose, try, bar what does not hold, choose again.

    The first choice that holds is the least. Where loads draw by their volts it may take many rounds to
    come to it; what is chosen with the currents of the last choice holds sooner, and what is then still
    open between the two is the gap.
    """

    def __init__(self, task: Task, lines: LimitLines, effort: Effort) -> None:
        self.task, self.lines, self.effort = task, lines, effort
        self.began = time.monotonic()
        self.programme = self._programme(lines.lines)
        self.rounds = 0
        self.stopped = False
        self.least: Sizing | None = None

    def _programme(self, lines: Sequence[LimitLine]) -> Programme:
        costs = [unit.costs for unit in self.lines.units]
        left = np.array([line.left for line in lines], dtype=float)
        return Programme(stretches_of(costs, lines), left)

    def run(self, second: bool) -> Sizing:
        """The sizing. Unsizable where nothing that is on offer holds."""
        found = self._least()
        if found is None:
            found = self._thick()
        if second and not self.stopped:
            found = replace(found, second=self._next(found))
        return found

    def _least(self) -> Sizing | None:
        bound = 0.0
        while self.rounds < MOST_ROUNDS:
            best = self.programme.best(self._left(1.0 if self.lines.exact else FIRST_SHARE))
            if best is None:
                # Every choice that could hold was barred: what held is the least.
                return self.least and replace(self.least, bound=self.least.cost, proven=True)
            bound = max(bound, best.bound)
            if self.least is not None and bound >= self.least.cost - ROUNDING:
                return self._bounded(bound)
            self.rounds += 1
            sizes = self.sizes(self.programme, best.picked)
            trial = tried(self.task, sizes)
            if not trial.missed:
                self._keep(sizes, trial)
                return self._bounded(bound)
            self.programme.without(best.picked)
            if self.rounds == 1 and not self.lines.exact:
                self._near(sizes)
            if self.stopped or self._spent() > self.effort.seconds:
                break
        return self.least and self._bounded(bound)

    def _bounded(self, bound: float) -> Sizing:
        assert self.least is not None
        bound = min(bound, self.least.cost)
        proven = bound >= self.least.cost - ROUNDING * max(1.0, self.least.cost)
        return replace(self.least, bound=bound, proven=proven, rounds=self.rounds)

    def _keep(self, sizes: Mapping[str, Size], trial: SizesTried) -> None:
        cost = self.task.cost_of(sizes)
        if self.least is None or cost < self.least.cost:
            self.least = Sizing(sizes, cost, 0.0, False, self.rounds, trial)

    def _near(self, sizes: Mapping[str, Size]) -> None:
        """Choices with the currents of the choice before, what they missed taken off what is allowed."""
        missed: dict[tuple[str, str], float] = {}
        for _ in range(NEAR_ROUNDS):
            try:
                lines = lines_near(self.task, self.lines.units, sizes)
            except NoSolution:
                return
            kept = [
                replace(line, left=line.left - missed.get((line.held.load, line.held.under), 0.0))
                for line in lines
            ]
            if any(line.least() > line.left for line in kept):
                return
            programme = self._programme(kept)
            best = programme.best(replace(self._left(NEAR_SHARE), told=None))
            if best is None or self._spent() > self.effort.seconds:
                return
            self.rounds += 1
            sizes = self.sizes(programme, best.picked)
            trial = tried(self.task, sizes)
            if not trial.missed:
                self._keep(sizes, trial)
                return
            if self.effort.told is not None and not self._told(None, 0.0):
                return
            for each in trial.missed:
                key = (each.held.load, each.held.under)
                missed[key] = missed.get(key, 0.0) + BACK_OFF * each.by

    def _spent(self) -> float:
        return time.monotonic() - self.began

    def _left(self, share: float = 1.0) -> Effort:
        left = share * (self.effort.seconds - self._spent())
        told = None if self.effort.told is None else self._told
        return Effort(max(left, LEAST_S), told)

    def _told(self, best: float | None, bound: float) -> bool:
        """What a choice costs is told where it is sure to hold, or was tried and held."""
        assert self.effort.told is not None
        if not self.lines.exact:
            best = None if self.least is None else self.least.cost
        self.stopped = self.stopped or not self.effort.told(best, bound)
        return not self.stopped

    def _next(self, found: Sizing) -> tuple[Mapping[str, Size], float] | None:
        """The next best choice that holds."""
        programme = self._programme(lines_near(self.task, self.lines.units, found.sizes))
        picked = self._picked(programme, found.sizes)
        for _ in range(NEAR_ROUNDS):
            if picked is not None:
                programme.without(picked)
            other = programme.best(self._left())
            if other is None:
                return None
            sizes = self.sizes(programme, other.picked)
            if sizes != found.sizes and not tried(self.task, sizes).missed:
                return sizes, self.task.cost_of(sizes)
            picked = other.picked
        return None

    def _picked(self, programme: Programme, sizes: Mapping[str, Size]) -> Picked | None:
        """The choice that these sizes are; None where one of them is on no front."""
        out = []
        for stretch in programme.stretches:
            units = [self.lines.units[n] for n in stretch.units]
            wanted = [u.sizes.index(sizes[u.wires[0].id]) for u in units]
            at = np.flatnonzero((stretch.picks == np.array(wanted)).all(axis=1))
            if not len(at):
                return None
            out.append(int(at[0]))
        return tuple(out)

    def _thick(self) -> Sizing:
        """Where no round held: the thickest of everything, if that does, thinned one by one."""
        units = self.lines.units
        sizes = {w.id: _thickest(self.task, unit) for unit in units for w in unit.wires}
        trial = tried(self.task, sizes)
        if trial.missed:
            raise Unsizable([Impossible(m.held, m.by, m.wire) for m in trial.missed])
        ends = self.began + self.effort.seconds
        sizes, trial = _thinned(self.task, units, sizes, trial, ends)
        return Sizing(sizes, self.task.cost_of(sizes), 0.0, False, self.rounds, trial)

    def sizes(self, programme: Programme, picked: Picked) -> dict[str, Size]:
        """The size of every free conductor under a choice."""
        out: dict[str, Size] = {}
        for stretch, trade in zip(programme.stretches, picked, strict=True):
            for unit, place in zip(stretch.units, stretch.picks[trade], strict=True):
                own = self.lines.units[unit]
                out.update({w.id: own.sizes[int(place)] for w in own.wires})
        return {w.id: out[w.id] for w in self.task.wires()}


def _thickest(task: Task, unit: Unit) -> Size:
    rows = task.tables.conductors.rows
    return max(unit.sizes, key=lambda size: rows[size].area_mm2)


def _thinned(
    task: Task, units: Sequence[Unit], sizes: dict[str, Size], trial: SizesTried, ends: float
) -> tuple[dict[str, Size], SizesTried]:
    """Sizes made cheaper one unit at a time while everything holds, until the clock says `ends` (s)."""
    moved = True
    while moved:
        moved = False
        for unit in units:
            here = unit.sizes.index(sizes[unit.wires[0].id])
            for size in unit.sizes[:here]:
                if time.monotonic() > ends:
                    return sizes, trial
                other = {**sizes, **{w.id: size for w in unit.wires}}
                found = tried(task, other)
                if not found.missed:
                    sizes, trial, moved = other, found, True
                    break
    return sizes, trial


def _searched(task: Task, units: Sequence[Unit], effort: Effort) -> Sizing:
    """Sizes where currents part by them: thinned from the thickest; proven where all else was tried."""
    sizes = {w.id: _thickest(task, unit) for unit in units for w in unit.wires}
    trial = tried(task, sizes)
    if trial.missed:
        raise Unsizable([Impossible(m.held, m.by, m.wire) for m in trial.missed])
    ends = time.monotonic() + effort.seconds
    sizes, trial = _thinned(task, units, sizes, trial, ends)
    cost = task.cost_of(sizes)
    go_on = effort.told is None or effort.told(cost, 0.0)
    if not go_on or prod(len(u.sizes) for u in units) > MOST_TRIALS:
        return Sizing(sizes, cost, 0.0, False, 1, trial)
    rounds = 1
    for other, price in islice(_cheapest_first(units), MOST_TRIALS):
        if price >= cost - ROUNDING:
            break
        if time.monotonic() > ends:
            return Sizing(sizes, cost, price, False, rounds, trial)
        rounds += 1
        found = tried(task, other)
        if not found.missed:
            return Sizing(other, price, price, True, rounds, found)
    return Sizing(sizes, cost, cost, True, rounds, trial)


def _cheapest_first(units: Sequence[Unit]) -> Iterator[tuple[dict[str, Size], float]]:
    choices = product(*(range(len(u.sizes)) for u in units))
    priced = sorted((sum(u.costs[i] for u, i in zip(units, c, strict=True)), c) for c in choices)
    for price, choice in priced:
        yield {w.id: u.sizes[i] for u, i in zip(units, choice, strict=True) for w in u.wires}, price
