"""A whole craft put right: what was found mended, its sizes chosen anew, or both, over all its runs."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import NOTHING_READ, Read, Run, not_known, traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.response.circuits import Adjusted
from spare_margin.core.least import first_least
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables

from .bench import least_spares
from .moves import Mend, how_mended, mended


@dataclass(frozen=True, slots=True)
class CraftStanding:
    """How all runs of a wiring do: how many are over, and the one with least spare (V).

    `dropped` are the loads that get too little to work at all in some scenario, by id: over as well. Those
    whose runs are `unknown` count nowhere else.
    """

    runs: int
    over: int
    load: str
    spare_v: float
    dropped: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()


def craft_standing(
    craft: Craft, tables: Tables, limits: Limits, point: Adjusted, read: Read = NOTHING_READ
) -> CraftStanding:
    """How a craft stands at a point. JobError where no run that is known is on in any scenario.

    Args:
        tables: the reference tables.
        limits: the limits that its runs are held to.
        point: the craft as measured.
        read: what was measured, by load.
    """
    every = traced(craft, closed_ohms(craft, tables)).runs
    if not every:
        raise JobError("craft", "has no run", "a craft with a load")
    measured = Measured(craft, tables, next(iter(every.values())), point)
    unknown = not_known(every, read)
    runs = {key: run for key, run in every.items() if key not in unknown}
    spares = least_spares(craft, every, measured, limits, read)
    if not spares:
        raise JobError("craft", "has no run that is on", "a scenario with a load on")
    worst = first_least(spares, lambda key: spares[key])
    dropped = _dropped(craft, runs, measured)
    over = {key for key, v in spares.items() if v < 0} | set(dropped)
    return CraftStanding(
        len(spares.keys() | over),
        len(over),
        worst,
        spares[worst],
        dropped,
        tuple(key for key in unknown if key not in spares),
    )


def _dropped(craft: Craft, runs: Mapping[str, Run], measured: Measured) -> tuple[str, ...]:
    """Loads that stall, get nothing, or less than they work at, though the source has that much."""
    out: dict[str, None] = {}
    for scenario in craft.scenarios:
        solved, stalled = measured.solved(scenario.id)
        solution = solved.solution
        for key, run in runs.items():
            if key not in scenario.on:
                continue
            least, got = run.load.least_v, solution.volts(run.feed_terminal, run.return_terminal)
            source_v = solution.volts(run.source.live, run.source.back) or 0.0
            short = least is not None and source_v > least and (got or 0.0) < least
            if key in stalled or key in solution.starved or short:
                out[key] = None
    return tuple(out)


def with_mends(craft: Craft, pieces: Iterable[str]) -> Craft:
    """The craft with these pieces as good as new: joints cleaned, everything else replaced."""
    for key in pieces:
        piece = next(p for p in craft.pieces if p.id == key)
        craft = mended(craft, Mend(key, how_mended(piece)))
    return craft
