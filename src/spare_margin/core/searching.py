"""The search for a culprit, set up for one run of a craft or for everything that is on."""

from collections.abc import Mapping
from dataclasses import dataclass

from .cornering import Corner, prior_of
from .errors import JobError
from .faults import fault_table
from .network import Network
from .outlook import solved_scenario
from .pieces import Access, Craft, Scenario
from .resistances import closed_ohms
from .runs import Run, Tracer
from .tables import Tables


@dataclass(frozen=True, slots=True)
class Ground:
    """Where a search goes on: its state, and the points that can be read with what they cost."""

    corner: Corner
    points: Mapping[str, Access]


def search_run(craft: Craft, network: Network, run: Run, tables: Tables) -> Ground:
    """The search along one run. `network` is the craft in its scenario, already solved."""
    ids = {s.piece.id for s in run.steps()} | {run.load.id, run.source.id}
    touched = {p for s in run.steps() for p in (s.entry, s.exit)}
    return _ground(craft, network, ids, touched, run, tables)


def search_craft(craft: Craft, scenario: Scenario, tables: Tables) -> Ground:
    """The search over every run whose load is on. JobError where none is, or none closes."""
    state = solved_scenario(craft, scenario, tables)
    tracer = Tracer(craft, closed_ohms(craft, tables))
    runs = [tracer.trace(x) for x in craft.loads if x.id in state.scenario.on]
    if not runs:
        raise JobError(f"scenarios.{scenario.id}.on", "no load is on", "a scenario with loads on")
    ids = {s.piece.id for run in runs for s in run.steps()}
    ids |= {run.load.id for run in runs} | {run.source.id for run in runs}
    touched = {p for run in runs for s in run.steps() for p in (s.entry, s.exit)}
    return _ground(craft, state.network, ids, touched, runs[0], tables)


def _ground(
    craft: Craft, network: Network, ids: set[str], touched: set[str], run: Run, tables: Tables
) -> Ground:
    table = fault_table(network, ids)
    posts = (run.source.live, run.source.back)
    corner = Corner(table, prior_of(table, craft, tables.odds), posts)
    points = {p.id: p.access for p in craft.points if p.id in touched or p.id in posts}
    return Ground(corner, points)
