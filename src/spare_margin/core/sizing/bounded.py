"""One state of a craft to be sized: what its loads draw at least and at most, and so its pieces.

Where a load draws by its volts, its current is between two bounds that hold for every choice that keeps the
ceilings; a line is made with the lower one, so that no choice that really keeps its ceiling is lost.
"""

from collections.abc import Iterator, Mapping, Sequence
from copy import copy
from dataclasses import replace
from functools import cached_property

import numpy as np

from spare_margin.core.circuit.loads import LoadLaws
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.columns import Floats
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.conductors import Warmth, careful_ampacity_a, warm_ohm
from spare_margin.core.model.pieces import SIDES, Load, Size

from .lines import HeldLimit, LimitLine, NotATree, Under
from .task import Task, Unit

INTERVAL_ROUNDS = 12
"""Each round narrows the bounds, the first ones most."""
HOT = 1.6
"""No conductor is warmer than makes its ohms so many times what they are in the air around it."""
WELL_BELOW = 0.9
"""Least volts this share below the source are held; nearer to it the source itself may be too low."""
FIXED = 1e-9
"""A current whose bounds are this near to one another (share of it) does not depend on the sizes."""


class BoundedState:
    """One state of the craft: what its loads draw at least and at most, and so each of its pieces.

    Args:
        task: what is to be sized, and what it is held to.
        solved: the craft solved in this state.
        runs: the runs, by load id.
        units: the conductors that change size together.
    """

    def __init__(
        self,
        task: Task,
        solved: SolvedCraft,
        runs: Mapping[str, Run],
        units: Sequence[Unit],
    ) -> None:
        self.task, self.solved = task, solved
        self.motor: str | None = None
        layout = solved.layout
        if layout.stood_in.any():
            raise NotATree
        self.scenario = layout.scenario
        self.places = layout.places
        self.cold = dict(zip(self.places, solved.cold.tolist(), strict=True))
        self.active = [
            load
            for load in layout.loads
            if load.id in runs and all(s.piece.id in self.places for s in runs[load.id].steps())
        ]
        self.runs = {load.id: runs[load.id] for load in self.active}
        index = {load.id: i for i, load in enumerate(layout.loads)}
        self.own = np.array([index[load.id] for load in self.active], dtype=np.intp)
        self.free = {w.id: (n, w) for n, u in enumerate(units) for w in u.wires}
        users: dict[str, list[int]] = {}
        self.grouped: set[str] = set()
        for i, load in enumerate(self.active):
            for step in self.runs[load.id].steps():
                users.setdefault(step.piece.id, []).append(i)
                if step.group is not None or step.beside:
                    self.grouped.add(step.piece.id)
        self.row = {key: row for row, key in enumerate(users)}
        self.passes = np.zeros((len(users), len(self.active)))
        for row, each in enumerate(users.values()):
            self.passes[row, each] = 1.0
        self.emf, self.inner = float(layout.emf[0]), float(layout.internal[0])
        self.units = units

    def while_starting(self, motor: str) -> "BoundedState":
        """The same state while a motor starts: the wiring, and what bounds its ohms, is the same."""
        out = copy(self)
        out.motor = motor
        return out

    # What the loads draw

    def bound_currents(self) -> None:
        """Bounds of each active load's current over every choice that keeps the ceilings."""
        steady = self._laws(self.solved.state.laws)
        if self.motor is None:
            self.heating = self.low, self.high = self._between(steady)
        self.bounding = steady
        if self.motor is not None:
            self.bounding = replace(steady, scale=steady.scale * self._start_times())
            self.low, self.high = self._between(self.bounding)
        gap = np.abs(self.high - self.low) <= FIXED * np.maximum(np.abs(self.high), 1e-6)
        self.exact = bool(gap.all())
        self._carry()

    def take_currents(self) -> None:
        """The currents as they are with the sizes that the state was solved with."""
        solved = self.solved
        self.heating = self.low, self.high = self._drawn(solved)
        if self.motor is not None:
            scenario = self.scenario
            state = solved.while_starting(frozenset(scenario.starting | {self.motor}))
            self.low, self.high = self._drawn(state)
        self.exact = False
        # The currents are what they are: nothing is to be bounded.
        self.bounding = replace(self._laws(solved.state.laws), power=np.zeros(len(self.active)))
        self._carry()

    def _carry(self) -> None:
        """The least current (A) of each piece that carries, and the least that warms it."""
        self.carried: Floats = self.passes @ self.low
        self.warming: Floats = self.passes @ self.heating[0]

    def _drawn(self, solved: SolvedCraft) -> tuple[Floats, Floats]:
        amps = [abs(solved.solution.elements[load.id].current_a) for load in self.active]
        both = np.array(amps, dtype=float)
        return both, both

    def _start_times(self) -> Floats:
        """What each active load draws in times of its running law while the motor starts."""
        layout, scenario = self.solved.layout, self.scenario
        running = layout.laws(scenario.starting).scale
        starting = layout.laws(frozenset(scenario.starting | {self.motor or ""})).scale
        times: Floats = (starting / running)[self.own]
        return times

    def _laws(self, laws: LoadLaws) -> LoadLaws:
        return LoadLaws(laws.scale[self.own], laws.power[self.own], laws.knee_v[self.own])

    def _between(self, laws: LoadLaws) -> tuple[Floats, Floats]:
        n = len(self.active)
        volts = np.vstack([self._floor(laws), np.full(n, self.emf)])
        allowed = np.array([self._allowed(load) for load in self.active])
        if self.motor is not None:
            allowed[:] = np.inf
        thick, thin = self._loop_ohms
        purpose_ohm = np.array([self._purpose_ohm(load.id) for load in self.active])
        low = high = np.zeros(n)
        for _ in range(INTERVAL_ROUNDS):
            both = np.vstack([laws.current(volts[0]), laws.current(volts[1])])
            low, high = both.min(axis=0), both.max(axis=0)
            if np.abs(high - low).max(initial=0.0) == 0.0:
                break
            most = self.emf - self.inner * low.sum() - thick @ low
            sag = self.emf - self.inner * high.sum()
            least = np.maximum(sag - thin @ high, sag - allowed - purpose_ohm * high)
            volts = np.vstack([np.maximum(volts[0], least), np.minimum(volts[1], most)])
            volts[1] = np.maximum(volts[0], volts[1])
        return low, high

    def _floor(self, laws: LoadLaws) -> Floats:
        """Volts below which no load may come: its knee, or the least it works at where that is held."""
        out = laws.knee_v.copy()
        for i, load in enumerate(self.active):
            held = self.task.least and load.id in self.task.ceilings
            if held and load.least_v is not None and load.least_v < WELL_BELOW * self.emf:
                out[i] = max(out[i], load.least_v)
        return np.minimum(out, self.emf)

    def _allowed(self, load: Load) -> float:
        c = self.task.ceilings_in(self.scenario, load)
        apart = c.feed_v + c.return_v if c.feed_v is not None and c.return_v is not None else np.inf
        return min(apart, np.inf if c.round_trip_v is None else c.round_trip_v)

    def _purpose_ohm(self, load: str) -> float:
        return float(sum(self.cold[s.piece.id] for s in self.runs[load].steps() if s.on_purpose))

    @cached_property
    def _loop_ohms(self) -> tuple[Floats, Floats]:
        """Ohms that a load's volts feel of each load's current, thickest and thinnest: (loads, loads)."""
        passes = self.passes
        least, most = self._ohm_bounds()
        thick: Floats = passes.T @ (least[:, None] * passes)
        thin: Floats = passes.T @ (most[:, None] * passes)
        return thick, thin

    def _ohm_bounds(self) -> tuple[Floats, Floats]:
        """The least and the most ohms of each piece that carries, over every choice of sizes."""
        layout = self.solved.layout
        at = [self.places[key] for key in self.row]
        cold, warms = self.solved.cold[at], layout.warms[at]
        air_c = layout.warmth.temperatures_c(self.scenario, np.zeros(len(self.places)))[at]
        least = np.where(warms, warm_ohm(cold, air_c), cold)
        most = np.where(warms, HOT * least, cold)
        for key, row in self.row.items():
            if key in self.grouped:
                # Ways side by side lose less than one of them alone would.
                least[row], most[row] = 0.0, HOT * cold[row]
            elif key in self.free:
                least[row], most[row] = self._free_ohm_bounds(key)
        return least, most

    def _free_ohm_bounds(self, key: str) -> tuple[float, float]:
        unit, wire = self.free[key]
        task = self.task
        ohms = [
            task.cold_ohm(wire, size) + task.more_ohm(wire, size) for size in self.units[unit].sizes
        ]
        air_c = self.scenario.ambient_c
        if wire.engine_space and self.scenario.engine_c is not None:
            air_c = self.scenario.engine_c
        return float(warm_ohm(min(ohms), air_c)), HOT * float(warm_ohm(max(ohms), air_c))

    # What the pieces carry and lose

    def _carried(self, key: str, heating: bool = False) -> float:
        """The least current (A) of a piece; with `heating`, the least that warms it."""
        row = self.row.get(key)
        if row is None:
            return 0.0
        return float((self.warming if heating else self.carried)[row])

    def bears(self, unit: Unit, size: Size) -> bool:
        """Whether a size bears the least that the unit's conductors carry for long."""
        for wire in unit.wires:
            sized = replace(wire, size=size)
            most = careful_ampacity_a(sized, self.scenario, self.task.tables.conductors)
            if most is not None and self._carried(wire.id, heating=True) > most * (1 + ROUNDING):
                return False
        return True

    def _drops(self, unit: Unit) -> dict[str, Floats]:
        """What each of a unit's conductors loses (V) at least, by the unit's sizes."""
        out = {}
        task = self.task
        for wire in unit.wires:
            if wire.id not in self.row:
                continue
            sized = [replace(wire, size=size) for size in unit.sizes]
            cold = np.array([task.cold_ohm(wire, size) for size in unit.sizes])
            more = np.array([task.more_ohm(wire, size) for size in unit.sizes])
            warmth = Warmth.of(sized, task.tables.conductors)
            heat = np.full(len(cold), self._carried(wire.id, heating=True))
            warm = warm_ohm(cold, warmth.temperatures_c(self.scenario, heat))
            ruled = [wire.resistance_ohm is not None and s == wire.size for s in unit.sizes]
            out[wire.id] = (np.where(ruled, cold, warm) + more) * self._carried(wire.id)
        return out

    def _fixed_drops(self) -> dict[str, float]:
        """What each piece that is not sized loses (V) at least."""
        layout = self.solved.layout
        heat = np.array([self._carried(key, heating=True) for key in self.places])
        warm = layout.warmth.temperatures_c(self.scenario, heat)
        ohms = np.where(layout.warms, warm_ohm(self.solved.cold, warm), self.solved.cold)
        out = {
            key: float(ohm) * self._carried(key)
            for key, ohm in zip(self.places, ohms, strict=True)
            if key not in self.free
        }
        if self.grouped:
            # How currents part over ways side by side does not change with sizes elsewhere.
            elements, share = self.solved.solution.elements, self._least_share()
            for key in self.grouped & out.keys():
                out[key] = share * abs(elements[key].drop_v or 0.0)
        return out

    def _least_share(self) -> float:
        """The least that any load draws, as a share of what it draws as solved."""
        drawn, _ = self._drawn(self.solved)
        used = drawn > 0
        return float(np.minimum(self.low[used] / drawn[used], 1.0).min(initial=1.0))

    def _more_at(self, i: int, volts: float) -> float:
        """What a load that holds its power draws more (A) than its least where a ceiling is just reached.

        There its volts are `volts` or fewer. What it draws on less volts is more, and what a wiring loses
        rises with it: a wiring that keeps the ceiling would keep it at that current too, since the loss at
        which both agree comes before it.
        """
        power, knee = float(self.bounding.power[i]), float(self.bounding.knee_v[i])
        if power >= 0 or volts <= knee:
            return 0.0
        at = float(self.bounding.scale[i]) * float(volts**power)
        return max(at - float(self.low[i]), 0.0)

    def _grown(self, key: str, more: float) -> float:
        """How many times as much a piece loses with so much more current (A)."""
        carried = self._carried(key)
        return 1 + more / carried if carried > 0 else 1.0

    def lines(self, units: Sequence[Unit]) -> Iterator[LimitLine]:
        """The lines of this state.

        Args:
            units: the conductors that change size together.
        """
        drops = [self._drops(unit) for unit in units]
        unit_of = {w.id: n for n, u in enumerate(units) for w in u.wires}
        fixed = self._fixed_drops()
        volts_left = self.emf - self.inner * float(self.low.sum())
        for i, load in enumerate(self.active):
            run = self.runs[load.id]
            ceilings = self.task.ceilings_in(self.scenario, load)
            sides = {side: [key for key, _ in run.counted[side]] for side in SIDES}
            both = [*sides["feed"], *sides["return"]]
            asked: list[tuple[Under, float | None, list[str]]] = []
            if self.motor is None:
                asked += [
                    ("feed", ceilings.feed_v, sides["feed"]),
                    ("return", ceilings.return_v, sides["return"]),
                    ("round_trip", ceilings.round_trip_v, both),
                ]
            wanted = load.least_v
            if (
                self.task.least
                and wanted is not None
                and load.id in self.task.ceilings
                and volts_left > wanted  # else its source alone is too low: no wire cures that
            ):
                whole = [s.piece.id for s in run.steps()]
                asked.append(("least", volts_left - wanted, whole))
            for under, ceiling, keys in asked:
                if ceiling is None:
                    continue
                more = self._more_at(i, volts_left - ceiling)
                left = ceiling - sum(
                    fixed[key] * self._grown(key, more) for key in keys if key in fixed
                )
                volts: dict[int, Floats] = {}
                for key in keys:
                    if key in unit_of:
                        n, lost = unit_of[key], drops[unit_of[key]][key] * self._grown(key, more)
                        volts[n] = volts[n] + lost if n in volts else lost
                held = HeldLimit(load.id, under, self.scenario.id, self.motor)
                yield LimitLine(held, left, volts)
