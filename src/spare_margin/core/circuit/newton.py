"""Newton's method on the loads' laws: the one state of a laid-out craft that keeps every law."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.columns import Floats
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.conductors import warm_ohm
from spare_margin.core.model.pieces import Load
from spare_margin.core.patience import still_allowed

from .layout import Layout
from .linear.system import System
from .loads import LoadLaws

PROBE_A = 0.01
"""The current with which a loop is felt for its resistance: too little to move other loads."""
FEELER_OHM = 1e12
"""What stands in for a load while its loop is felt: it draws nothing to speak of."""
MOST_FELT = 0.1
"""The share of the idle volts that feeling may take away; through megohms it takes less current."""
NEWTON_STEPS = 80
"""A stop: a load whose loop is not solved by then is one that cannot be fed."""
HEATING_ROUNDS = 60
"""A stop: ohms and temperatures that have not settled by then run away."""
SETTLED = 1e-13
"""Ohms that a round of warming moves by no more than this share of themselves stand still."""
STRAIGHT = 1e-14
"""A load's law that its tangent meets to this share of its current is a straight line."""


@dataclass(frozen=True, slots=True)
class SolvedState:
    """The unknowns of a solved layout, and what they were solved with.

    Attributes:
        x: node voltages (V), then the currents (A) that are unknowns of their own.
        ohms: resistance of each piece, as warm as it is.
        temperatures: of each piece, degrees C.
        system: the linear equations of these resistances, with what was factored.
        laws: what the loads draw by their volts.
        extra: current (A) drawn beside them at each load.
    """

    x: Floats
    ohms: Floats
    temperatures: Floats
    system: System
    laws: LoadLaws
    extra: Floats

    def piece_currents(self) -> Floats:
        """Currents (A) of the pieces, from start to end."""
        return self.system.piece_currents(self.x)


def settle(
    layout: Layout,
    laws: LoadLaws,
    cold: Floats,
    extra: Floats,
    near: SolvedState | None = None,
) -> SolvedState:
    """Solve, warm the conductors by what they carry, and again until nothing moves.

    Args:
        cold: ohms of the pieces at 20 C.
        extra: current (A) drawn beside each load.
        near: a state of the same layout to start from; it changes how soon, not what is found.
        laws: how the loads draw by their volts.

    Raises:
        JobError: sources that contradict each other, or wires that heat one another without end.
        NoSolution: a load that no voltage can feed.
    """
    scenario = layout.scenario
    heating = scenario.temperature_model == "self_heating"
    currents = np.zeros(len(cold)) if near is None else near.piece_currents()
    ohms, found = cold, near
    for _ in range(HEATING_ROUNDS):
        temperatures = layout.warmth.temperatures_c(scenario, currents)
        before, ohms = ohms, np.where(layout.warms, warm_ohm(cold, temperatures), cold)
        if (
            found is not None
            and found is not near
            and bool((np.abs(ohms - before) <= SETTLED * before).all())
        ):
            return replace(found, ohms=ohms, temperatures=temperatures)
        found = newton(layout, laws, ohms, extra, temperatures, found)
        currents = found.piece_currents()
        if not heating:
            return found
    raise JobError(
        f"scenarios.{scenario.id}",
        "the conductors heat one another without end",
        "currents within the conductors' ampacity",
    )


def newton(
    layout: Layout,
    laws: LoadLaws,
    ohms: Floats,
    extra: Floats,
    temperatures: Floats,
    near: SolvedState | None = None,
) -> SolvedState:
    """The state that satisfies every law with these resistances; errors as of `settle`.

    Args:
        layout: the craft laid out.
        laws: how the loads draw by their volts.
        ohms: of each piece, as warm as it is, (pieces,).
        extra: current (A) drawn beside each load, (loads,).
        temperatures: of each piece (C), (pieces,).
        near: a state to start from; None: from rest.
    """
    if near is not None and np.array_equal(near.system.ohms, ohms):
        system = near.system
    else:
        system = System(layout, ohms, near.system if near else None)
    search = _Search(layout, laws, extra, system)
    x = near.x if near is not None and len(near.x) == system.size else None
    return SolvedState(search.run(x), ohms, temperatures, system, laws, extra)


class _Search:
    """One run of Newton's method."""

    def __init__(self, layout: Layout, laws: LoadLaws, extra: Floats, system: System) -> None:
        self.layout, self.laws, self.extra, self.system = layout, laws, extra, system

    def run(self, x: Floats | None) -> Floats:
        """The unknowns that keep every law: from x, else the nominal voltage; then from loads at rest."""
        found = self._from(x) if x is not None else self._from_nominal()
        if found is None:
            found = self._from(self._resting())
        if found is None:
            raise self._no_solution()
        return found

    def _from(self, x: Floats) -> Floats | None:
        system = self.system
        residual = math.inf
        for _ in range(NEWTON_STEPS):
            still_allowed()
            volts = system.across_loads(x)
            slope, offset = self.laws.tangent(volts)
            target = system.solve(slope, offset + self.extra)
            if self._is_straight(system.across_loads(target), slope, offset):
                self._refuse_collapse(target)
                return target
            if residual == math.inf:
                residual = self._imbalance(x)
            step = target - x
            # Quadratic: after a step of 1e-8 what is left is below rounding.
            if np.abs(step).max(initial=0.0) < 1e-8 * max(1.0, np.abs(x).max(initial=0.0)):
                self._refuse_collapse(target)
                return target
            share = 1.0
            while True:
                trial = x + share * step
                error = self._imbalance(trial)
                # A step must gain, in proportion to its share: two states may else swap for ever.
                if error <= residual * (1 - 1e-3 * share) or error < 1e-9 or share < 1e-4:
                    break
                share /= 2
            x, residual = trial, error
        if residual < 1e-9:
            self._refuse_collapse(x)
            return x
        return None

    def _resting(self) -> Floats:
        """Where loads that their loop cannot feed lie in their knee, as straight lines through zero.

        One after another the load that would be driven below its knee is laid to rest.
        """
        laws, system = self.laws, self.system
        nominal = np.full(len(self.layout.loads), self.layout.craft.nominal_v)
        resting = np.zeros(len(nominal), dtype=bool)
        none = np.zeros(len(nominal))
        while True:
            volts = np.where(resting, 0.0, nominal)
            slope = np.where(resting, laws.slope(none), np.maximum(laws.slope(volts), 0.0))
            offset = np.where(resting, 0.0, laws.current(volts) - slope * volts)
            x = system.solve(slope, offset + self.extra)
            across = system.across_loads(x)
            driven = ~resting & (across < laws.knee_v) & (laws.power < 1)
            if not driven.any():
                return x
            resting |= driven & (across == across[driven].min())

    def _from_nominal(self) -> Floats | None:
        """Searched from what the laws say about the nominal voltage.

        A load that holds its power stands in as a resistor: its own slope there, which is negative,
        may be more than its loop can bear.
        """
        laws = self.laws
        volts = np.full(len(self.layout.loads), self.layout.craft.nominal_v)
        holds = laws.power < 0
        slope = np.where(holds, laws.scale * volts ** (laws.power - 1), laws.slope(volts))
        offset = np.where(holds, 0.0, laws.current(volts) - slope * volts)
        x = self.system.solve(slope, offset + self.extra)
        if self._is_straight(self.system.across_loads(x), slope, offset):
            self._refuse_collapse(x)
            return x
        return self._from(x)

    def _imbalance(self, x: Floats) -> float:
        drawn = self.laws.current(self.system.across_loads(x)) + self.extra
        return self.system.imbalance(x, drawn)

    def _is_straight(self, volts: Floats, slope: Floats, offset: Floats) -> bool:
        """Whether the loads draw at these volts what the straight lines through their laws say."""
        drawn = self.laws.current(volts)
        return bool((np.abs(slope * volts + offset - drawn) <= STRAIGHT * np.abs(drawn)).all())

    def _refuse_collapse(self, x: Floats) -> None:
        """A power-holding load that ended below its knee, on a live supply, has no solution."""
        system, laws, holds = self.system, self.laws, self._holds_power()
        if not holds.any():
            return
        if (holds & (np.abs(system.across_loads(x)) < laws.knee_v)).any():
            light = np.full(len(self.layout.loads), 1e-9)
            unloaded = system.across_loads(system.solve(light, 0 * self.extra))
            if (holds & (np.abs(unloaded) > laws.knee_v)).any():
                raise self._no_solution()

    def _holds_power(self) -> NDArray[np.bool_]:
        holds: NDArray[np.bool_] = (self.laws.power < 0) & self.layout.supplied
        return holds

    def _no_solution(self) -> NoSolution | JobError:
        """Name the load whose power asks most of what its loop could carry at best."""
        system = self.system
        none = np.zeros(len(self.layout.loads))
        unloaded = system.across_loads(system.solve(none, none))
        worst, asked = None, 0.0
        for i in np.flatnonzero(self._holds_power()):
            one_amp = none.copy()
            one_amp[i] = 1.0
            ohm = float((unloaded - system.across_loads(system.solve(none, one_amp)))[i])
            share = float(self.laws.scale[i] * 4 * ohm / max(unloaded[i] ** 2, 1e-12))
            if share > asked:
                worst, asked = self.layout.loads[i], share
        if worst is None:
            return JobError("elements", "the network has no steady state")
        return NoSolution(worst.id, worst.name, *self._bearable(worst))

    def _bearable(self, load: Load) -> tuple[float | None, float | None]:
        """The loop's resistance (ohm) as the load sees it, and the most that would just carry it.

        Thevenin's equivalent with the other loads on; P = V^2 / 4R is the most it can give.
        None where the other loads have no solution either.
        """
        layout = self.layout
        feeler = Load(
            id=load.id,
            start=load.start,
            end=load.end,
            name=load.name,
            behaviour="constant_resistance",
            load_ohm=FEELER_OHM,
        )
        loads = tuple(feeler if x.id == load.id else x for x in layout.craft.loads)
        craft = replace(layout.craft, loads=loads)
        probe = Layout(craft, layout.scenario, layout.tables, layout.ruled)
        at = [x.id for x in probe.loads].index(load.id)
        unit = np.zeros(len(probe.loads))
        unit[at] = 1.0

        def left(amperes: float) -> float:
            laws = probe.laws(frozenset())
            state = settle(probe, laws, probe.cold, amperes * unit)
            return float(state.system.across_loads(state.x)[at])

        try:
            idle, amperes = left(0.0), PROBE_A
            while (drop := idle - left(amperes)) > MOST_FELT * abs(idle):
                amperes /= 10
        except (JobError, NoSolution):
            return None, None
        power = (load.power_w or 0.0) * (
            (load.start_multiple or 1.0) if load.id in layout.scenario.starting else 1.0
        )
        return drop / amperes, idle**2 / (4 * power)
