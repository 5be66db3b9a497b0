"""The search over several runs of a craft at once: what is likely, and what to read next."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.estimate.search import SURE, Search, search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import observe
from spare_margin.core.evidence.outlook.probes import Probe, probes
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """The weights of the faults, the pairs to read next, and whether one element holds the evidence."""

    search: Search
    probes: tuple[Probe, ...]
    done: bool


def diagnosed(
    craft: Craft,
    runs: Mapping[str, Run],
    scenario: Scenario,
    readings: Iterable[Reading],
    tables: Tables,
) -> Diagnosis:
    """Weigh every fault of the runs that are on in a scenario. JobError where none of them is.

    Args:
        craft: the wiring.
        readings: what was read of the craft.
        tables: the reference tables.
    """
    on: Sequence[Run] = [run for key, run in runs.items() if key in scenario.on]
    if not on:
        raise JobError(f"scenarios.{scenario.id}.on", "no load is on", "a scenario with loads on")
    observed = observe(craft, readings)
    found = search(craft, on, observed, tables)
    conditions = (
        observed.values[-1].conditions if observed.values else Conditions("", scenario, None)
    )
    order = list(
        dict.fromkeys(
            p
            for run in on
            for p in (
                run.source.live, *(s.exit for s in run.feed), run.return_terminal,
                *(s.exit for s in run.back),
            )
        )
    )  # fmt: skip
    points = {p.id: p.access for p in craft.points if p.id in order}
    posts = (on[0].source.live, on[0].source.back)
    element, p = next(iter(found.by_element.items()))
    done = bool(observed.values) and p >= SURE and (element is None or not found.together)
    asked = probes(found, conditions, points, posts, order)
    read = {frozenset((o.red, o.black)) for o in found.observed.values}
    left = [p for p in asked if frozenset((p.red, p.black)) not in read]
    return Diagnosis(found, () if done else tuple(left), done)
