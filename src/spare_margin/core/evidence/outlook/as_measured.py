"""The craft as measured: the drawing with the ohms that were read, solved in every scenario."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from spare_margin.core.bounds.held import Judged
from spare_margin.core.bounds.moment import ReadStretch
from spare_margin.core.budget.run_budget import Spend
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.estimate.faults import OPEN_OHM
from spare_margin.core.evidence.response.circuits import Adjusted, solved_as
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import SIDES, Craft
from spare_margin.core.model.tables import Tables

LEAST_TIMES = 0.02
"""No good piece has less than this share of the ohms that are drawn."""
TOLERATED_TIMES = 1.5
"""Up to so many times the ohms that are drawn, pieces in a row are taken to be off alike."""
KNOWN_SHARE = 0.5
"""Volts by difference whose doubt is more than this share of them say nothing of a resistance."""


@dataclass(frozen=True)
class Measured:
    """The craft as measured.

    `known` is what was already solved of it, with every load that is on, by scenario.
    """

    craft: Craft
    tables: Tables
    run: Run
    point: Adjusted
    known: Mapping[str, SolvedCraft] = field(default_factory=dict)

    def solved(self, scenario_id: str) -> tuple[SolvedCraft, frozenset[str]]:
        """The craft as measured in a scenario, and the loads that would stall there.

        Args:
            scenario_id: the id of the scenario.
        """
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
        """What all the wiring turns into heat (W) in a scenario.

        Args:
            scenario_id: the id of the scenario.
        """
        solved, _ = self.solved(scenario_id)
        currents = solved.state.piece_currents()
        return float(np.sum(currents**2 * solved.state.ohms))

    def spare(self, scenario_id: str, ceilings: Ceilings) -> float:
        """The least spare (V) of the run in a scenario, as measured.

        Args:
            scenario_id: the id of the scenario.
            ceilings: what the run may lose (V).
        """
        return self.spend(scenario_id, ceilings).spare_v

    def spend(self, scenario_id: str, ceilings: Ceilings) -> Spend:
        """What feed and return lose (V) in a scenario, as measured, against the ceilings.

        Args:
            scenario_id: the id of the scenario.
        """
        solved, _ = self.solved(scenario_id)
        return Spend(ceilings, *self.run.lost_v(solved.solution.elements))


def measured_point(
    judged: Judged,
    good_ohms: Mapping[str, float],
    load_times: float,
    opened: Iterable[str],
    likeliest: Callable[[Sequence[str]], str],
) -> Adjusted:
    """How the craft departs from its drawing by what was read: ohms of what was read, by V / I.

    Args:
        judged: the moment that counts.
        good_ohms: ohms of each piece as drawn, by id.
        load_times: what the load draws of what is drawn.
        opened: pieces that were found open.
        likeliest: of several pieces that share an excess, the one that most likely has it.

    What lies together in a stretch of fewer ohms than drawn shares them alike; an excess beyond what
    tolerance explains stands in one piece. Pieces that no reading bounds are as drawn.
    """
    times: dict[str, float] = {}
    more: dict[str, float] = dict.fromkeys(opened, OPEN_OHM)
    for side in SIDES:
        for stretch in judged.moment.sides[side]:
            volts = _volts(judged, stretch)
            amps = {s.piece.id: judged.carried(s) for s in stretch.steps}
            if volts is None or stretch.purpose or set(amps) & set(more) or not all(amps.values()):
                continue
            good = {key: good_ohms.get(key, 0.0) * (a or 0.0) for key, a in amps.items()}
            drawn = sum(good.values())
            if drawn > 0 and volts <= TOLERATED_TIMES * drawn:
                times.update(dict.fromkeys(amps, max(volts / drawn, LEAST_TIMES)))
            else:
                key = likeliest(list(amps))
                more[key] = (volts - drawn) / (amps[key] or 1.0)
    return Adjusted(times, more, {judged.moment.run.load.id: load_times}, {}, {})


def _volts(judged: Judged, stretch: ReadStretch) -> float | None:
    """What a stretch dropped, where that is known well enough to be a figure."""
    low = judged.bounds.least_v(stretch.entry, stretch.exit)
    high = judged.bounds.most_v(stretch.entry, stretch.exit)
    volts, half = (low + high) / 2, (high - low) / 2
    read = judged.moment.read_across(stretch.entry, stretch.exit)
    known = math.isfinite(high) and (read or half <= KNOWN_SHARE * volts)
    return max(volts, 0.0) if known else None
