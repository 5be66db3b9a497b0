"""What every moment is linearised about: its source as read, a load's own clamp, pieces read alone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from spare_margin.core.circuit.loads import UNKNOWN_A
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.observation.observations import Observation, Observed
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted, solved_as
from spare_margin.core.evidence.response.parameters import Parameters, emf_key
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables

from .faults import NO_CURRENT_A

Base = tuple[str, float]
"""A piece or source, and the ohms of the fault in it that stands while others are weighed."""
LINEARISED = 2.0
"""A piece that was read by itself moves what is linearised about by so many deviations at most."""
LEAST_CLAMPED_A = 0.05
"""A current this small says nothing of what a load draws that nobody has described."""


@dataclass(frozen=True)
class Linearisation:
    """Points by moment, and the unknowns' means against them."""

    points: Mapping[str, Adjusted]
    parameters: Parameters


def linearised(
    craft: Craft,
    runs: Sequence[Run],
    observed: Observed,
    unknowns: Parameters,
    tables: Tables,
) -> Linearisation:
    """Where to linearise each moment of what was observed. JobError where the craft cannot be solved.

    Args:
        runs: the runs.
        unknowns: the unknowns.
        tables: the reference tables.
    """
    ohm_times = _Alone(craft, runs, observed, unknowns, tables).times()
    points = {
        key: replace(point, ohm_times=ohm_times) for key, point in _as_read(craft, observed).items()
    }
    return Linearisation(points, _aimed(craft, observed, unknowns, points))


def _as_read(craft: Craft, observed: Observed) -> dict[str, Adjusted]:
    """The source as it was read in each moment, and the clamp of a load that nobody has described."""
    out: dict[str, Adjusted] = {}
    for conditions in observed.conditions:
        key = emf_key(conditions.key)
        if key in out:
            continue
        emf: dict[str, float] = {}
        times: dict[str, float] = {}
        for o in observed.values:
            if emf_key(o.conditions.key) != key:
                continue
            for source in craft.sources:
                if o.quantity == "volts" and {o.red, o.black} == {source.live, source.back}:
                    emf[source.id] = abs(o.value)
            for load in craft.loads:
                unknown = load.behaviour is None and o.through == load.id
                if unknown and abs(o.value) > LEAST_CLAMPED_A:
                    times[load.id] = abs(o.value) / UNKNOWN_A
        out[key] = Adjusted({}, {}, times, emf, {})
    return out


def _aimed(
    craft: Craft, observed: Observed, unknowns: Parameters, points: Mapping[str, Adjusted]
) -> Parameters:
    """The unknowns with their means against what is linearised about."""
    mean = unknowns.mean.copy()
    for point in points.values():
        for key, times in point.ohm_times.items():
            mean[unknowns.index["piece", key]] = -np.log(times)
    for conditions in observed.conditions:
        key = emf_key(conditions.key)
        for source in craft.sources:
            column = unknowns.index.get(("emf", f"{source.id} {key}"))
            at = points[key].emf_v.get(source.id)
            if column is not None and at is not None:
                mean[column] = conditions.scenario.source(source).open_circuit_v - at
    return replace(unknowns, mean=mean)


class _Alone:
    """Pieces that were read by themselves, against what they would drop as drawn."""

    def __init__(
        self,
        craft: Craft,
        runs: Sequence[Run],
        observed: Observed,
        unknowns: Parameters,
        tables: Tables,
    ) -> None:
        self.craft, self.runs, self.observed = craft, runs, observed
        self.unknowns, self.tables = unknowns, tables
        self.drawn = {p.id for p in craft.pieces if p.kind != "unknown"}

    def times(self) -> dict[str, float]:
        """Pieces that were read by themselves, in times of what is drawn: linearised about that.

        Resistances are log-normal: a joint at three times its drawing is one at the end of what age
        excuses, no fault. No further than LINEARISED standard deviations, and the least of all moments.
        """
        out: dict[str, float] = {}
        for o in self.observed.values:
            if o.quantity != "volts" or o.conditions.trial is not None:
                continue
            for run in self.runs:
                between = run.between(o.red, o.black)
                if between is None or len(between.pieces) != 1:
                    continue
                key = between.pieces[0]
                if key not in self.drawn:
                    continue
                sigma = float(self.unknowns.sigma[self.unknowns.index["piece", key]])
                drawn = self._drawn_drop(o, run, key)
                if drawn is None or abs(o.value) < 3 * o.sigma:
                    continue
                most = np.exp(LINEARISED * sigma)
                times = float(np.clip(abs(o.value) / drawn, 1 / most, most))
                out[key] = min(out.get(key, times), times)
        return out

    def _drawn_drop(self, o: Observation, run: Run, piece: str) -> float | None:
        """What a piece would drop as drawn (V) at the current that was read, or is drawn."""
        solved = solved_resting(
            o.conditions.craft(self.craft), o.conditions.scenario, self.tables, AS_DRAWN
        )
        state = solved.solution.elements[piece]
        nominal = abs(solved.solution.elements[run.load.id].current_a)
        if run.load.id not in o.conditions.running or not nominal or state.resistance_ohm is None:
            return None
        clamps = [
            c for c in self.observed.values
            if c.through == run.load.id and c.conditions.key == o.conditions.key
        ]  # fmt: skip
        share = abs(clamps[-1].value) / nominal if clamps else 1.0
        alone = abs(abs(state.current_a) - nominal) < 0.01 * nominal
        amps = abs(state.current_a) * (share if alone else 1.0)
        return amps * state.resistance_ohm if amps > NO_CURRENT_A else None


def solved_resting(
    craft: Craft, scenario: Scenario, tables: Tables, point: Adjusted
) -> SolvedCraft:
    """The craft solved at a point, loads that no volts can feed left off.

    Args:
        scenario: the state of the craft that is asked about.
        tables: the reference tables.
    """
    while True:
        try:
            return solved_as(craft, scenario, tables, point)
        except NoSolution as stalled:
            scenario = replace(scenario, on=scenario.on - {stalled.load_id})


def with_base(point: Adjusted, base: Base | None) -> Adjusted:
    """A point with the ohms of a fault that stands.

    Args:
        base: a fault that stands already; None where none does.
    """
    return point if base is None else replace(point, more_ohm={**point.more_ohm, base[0]: base[1]})
