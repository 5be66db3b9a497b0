"""A plan judged before it is built: its wiring, with what was measured of the pieces it keeps.

A piece that the plan leaves alone keeps its measured resistance, and the fault that was found in it. A
piece that it changes is as drawn. So a plan that swaps a good part is seen to leave the fault where it is.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import chain
from typing import Any

from spare_margin.core.budget.run_budget import Spend
from spare_margin.core.circuit.runs import Held, Run, open_parts
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.response.circuits import Adjusted
from spare_margin.core.least import first_least
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.starting import free_in

from .judgement import Judgement

DOUBTED = 0.05
"""A fault that the plan would leave in place is told from this probability on."""


@dataclass(frozen=True)
class Planned:
    """What a plan would do for a run.

    Attributes:
        verdict: within, over, or too_close where the fault may lie in a piece that is kept; not_measured
            where something is kept of which nothing is known.
        worst: the scenario in which least is spare, with what is spent there.
        left_in: probability that the fault is in a piece that the plan keeps on the load's way, by
            element, from DOUBTED on.
    """

    measured: Measured
    ceilings: Ceilings
    verdict: Verdict
    worst: Scenario
    spend: Spend
    left_in: Mapping[str, float]
    unread: frozenset[Held] = frozenset()

    @property
    def spares(self) -> dict[str, float]:
        """The spare (V) there under each ceiling of which it is known."""
        return {k: v for k, v in self.spend.spares().items() if k not in self.unread}


def planned(found: Judgement, plan: Craft, run: Run, ceilings: Ceilings) -> Planned | None:
    """A plan's run with what the readings taken as found say of what it keeps.

    Args:
        found: what the readings say of the run as found.
        plan: the planned wiring, and `run` the same load's run in it.
        ceilings: what the run may lose.

    Returns None where the load is on in no scenario of the plan. NoSolution is never raised: a load
    that would stall is taken off.
    """
    kept = kept_elements(found.measured.craft, plan)
    measured = Measured(plan, found.measured.tables, run, of_kept(found.measured.point, kept))
    on = [s for s in plan.scenarios if run.load.id in s.on - free_in(plan, s)]
    if not on:
        return None
    spends = {s.id: measured.spend(s.id, ceilings) for s in on}
    unread = open_parts(run, {run.load.id: found.unread})

    def known(spend: Spend) -> float:
        """The least spare of what is known; of all where nothing is: some scenario is the worst."""
        spares = spend.spares()
        return min((v for k, v in spares.items() if k not in unread), default=spend.spare_v)

    worst = first_least(on, lambda s: known(spends[s.id]))
    on_way = {s.piece.id for s in run.steps()}
    left_in = {
        element: p
        for element, p in found.suspicion.items()
        if element in kept and p >= DOUBTED and element in on_way
    }
    made = Planned(measured, ceilings, "within", worst, spends[worst.id], left_in, unread)
    verdict: Verdict = "within"
    if min(made.spares.values(), default=0.0) < 0 or (
        not unread and None in measured.load_v.values()
    ):
        verdict = "over"
    elif unread:
        verdict = "not_measured"
    elif left_in and found.verdict not in ("within", "not_judged"):
        verdict = "too_close"
    return replace(made, verdict=verdict)


def kept_elements(before: Craft, after: Craft) -> frozenset[str]:
    """The ids of what is the same in both wirings, wherever it is joined now.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
    """
    old = {e.id: e for e in _elements(before)}
    return frozenset(
        e.id for e in _elements(after) if (was := old.get(e.id)) is e or _bare(was) == _bare(e)
    )


def _elements(craft: Craft) -> Iterator[Any]:
    return chain(craft.pieces, craft.loads, craft.sources)


def _bare(element: Any) -> Any:
    """An element without the points that it joins."""
    return replace(element, start="", end="") if hasattr(element, "start") else element


def of_kept(point: Adjusted, kept: frozenset[str]) -> Adjusted:
    """How a craft departs from its drawing, as far as it is kept.

    Args:
        point: how the craft departs from its drawing.
    """

    def only(values: Mapping[str, float]) -> dict[str, float]:
        return {key: value for key, value in values.items() if key in kept}

    return Adjusted(
        only(point.ohm_times), only(point.more_ohm), only(point.load_times), only(point.emf_v),
        only(point.inner_times),
    )  # fmt: skip
