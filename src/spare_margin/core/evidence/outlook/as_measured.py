"""The craft as measured: the drawing with what the readings taught it, solved in every scenario."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from spare_margin.core.budget.run_budget import Spend
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.estimate.faults import OPEN_OHM
from spare_margin.core.evidence.estimate.search import Search, moved_by
from spare_margin.core.evidence.response.circuits import Adjusted, solved_as
from spare_margin.core.evidence.response.parameters import BASE, COPPER
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import SIDES, Craft
from spare_margin.core.model.tables import Tables

LEAST_TIMES = 0.02
"""No good piece has less than this share of the ohms that are drawn."""


@dataclass(frozen=True)
class Measured:
    """The craft as measured: the likeliest fault in it, every piece at its likeliest resistance.

    `known` is what was already solved of it, with every load that is on, by scenario.
    """

    craft: Craft
    tables: Tables
    run: Run
    point: Adjusted
    known: Mapping[str, SolvedCraft] = field(default_factory=dict)

    def solved(self, scenario_id: str) -> tuple[SolvedCraft, frozenset[str]]:
        """The craft as measured in a scenario, and the loads that would stall there."""
        return self._solved(scenario_id)

    def _solved(self, scenario_id: str) -> tuple[SolvedCraft, frozenset[str]]:
        held = self._kept.get(scenario_id)
        if held is not None:
            return held
        scenario = self.craft.scenario(scenario_id)
        stalled: set[str] = set()
        while True:
            try:
                solved = solved_as(self.craft, scenario, self.tables, self.point)
                self._kept[scenario_id] = solved, frozenset(stalled)
                return self._kept[scenario_id]
            except NoSolution as named:
                stalled.add(named.load_id)
                scenario = replace(scenario, on=scenario.on - {named.load_id})

    @cached_property
    def _kept(self) -> dict[str, tuple[SolvedCraft, frozenset[str]]]:
        return {key: (solved, frozenset()) for key, solved in self.known.items()}

    @cached_property
    def load_v(self) -> Mapping[str, float | None]:
        """Volts at the load in each scenario it is on; None where it drops out."""
        out: dict[str, float | None] = {}
        for scenario in self.craft.scenarios:
            if self.run.load.id in scenario.on:
                solved, stalled = self.solved(scenario.id)
                got = solved.solution.volts(self.run.feed_terminal, self.run.return_terminal)
                gone = self.run.load.id in stalled or self.run.load.id in solved.solution.starved
                out[scenario.id] = None if gone or got is None else got
        return out

    def heat_w(self, scenario_id: str) -> float:
        """What all the wiring turns into heat (W) in a scenario."""
        solved, _ = self.solved(scenario_id)
        currents = solved.state.piece_currents()
        return float(np.sum(currents**2 * solved.state.ohms))

    def spare(self, scenario_id: str, ceilings: Ceilings) -> float:
        """The least spare (V) of the run in a scenario, as measured."""
        return self.spend(scenario_id, ceilings).spare_v

    def spend(self, scenario_id: str, ceilings: Ceilings) -> Spend:
        """What feed and return lose (V) in a scenario, as measured, against the ceilings."""
        solved, _ = self.solved(scenario_id)
        elements = solved.solution.elements
        feed, back = (
            sum(sign * (elements[key].drop_v or 0.0) for key, sign in self.run.counted[side])
            for side in SIDES
        )
        return Spend(ceilings, feed, back)


def as_measured(found: Search, run: Run, own_times: float) -> Measured:
    """The craft of the likeliest case, every unknown at its likeliest value.

    `own_times` is what the run's load draws of what is drawn: the budget is for its loaded current.
    """
    w = found.weighed
    i = w.best()
    cases, parameters = w.cases, w.parameters
    pulled = w.precision[i] @ w.residuals[i]
    moved = parameters.mean + parameters.variance * (cases.slopes[i].T @ pulled)
    index = parameters.index
    copper = float(moved[index[COPPER]])
    times: dict[str, float] = {}
    wires = {p.id for p in found.craft.pieces if hasattr(p, "length_m")}
    aimed = next(iter(found.points.values())).ohm_times if found.points else {}
    for (kind, key), column in index.items():
        if kind == "piece":
            times[key] = aimed.get(key, 1.0) * (
                1 + float(moved[column]) + (copper if key in wires else 0.0)
            )
    fault = cases.classes[cases.number[i]]
    more: dict[str, float] = {}
    inner: dict[str, float] = {}
    loads = {
        key: max(1 + float(moved[column]), LEAST_TIMES)
        for (kind, key), column in index.items()
        if kind == "load"
    }
    loads[run.load.id] = own_times
    shift = float(cases.cells[i] ** 2 * (cases.by_size[i] @ pulled))
    sources = {s.id: s for s in found.craft.sources}
    for each in filter(None, (fault, fault.beside)):
        if each.element is None or each.kind == "load":
            continue
        size, by = float(cases.sizes[i]), shift
        if each is not fault:
            # It stands in the circuit about which is linearised: what moves its piece moves it too.
            piece = index.get(("piece", each.element))
            size = found.bases[each.element][1]
            by = float(moved[index[BASE]]) + (0.0 if piece is None else float(moved[piece]))
        ohm = OPEN_OHM if each.kind == "open" else size * float(moved_by(np.array(by)))
        if each.element in sources:
            drawn = max(sources[each.element].internal_ohm, 1e-9)
            inner[each.element] = 1 + ohm / drawn
        elif each.element in times:
            # What the readings take from the good part beyond what it has, they take from the fault.
            lacking = max(LEAST_TIMES - times[each.element], 0.0)
            good = found.good_ohms.get(each.element, 0.0) / aimed.get(each.element, 1.0)
            more[each.element] = max(ohm - lacking * good, 0.0)
        elif each.element == run.load.id:
            loads[run.load.id] = LEAST_TIMES * 1e-3
    ohm_times = {key: max(value, LEAST_TIMES) for key, value in times.items()}
    return Measured(found.craft, found.tables, run, Adjusted(ohm_times, more, loads, {}, inner))
