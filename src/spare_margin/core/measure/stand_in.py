"""The stand-in load: a known load in the place of the unplugged one, its volts against the source.

The leads' own drop is found first, with the same set-up hung on the battery, and taken off. Then both
leads in the connector show the whole loop; one lead moved to a proven way shows the other side alone.
"""

from dataclasses import dataclass

from spare_margin.core.budget.run_budget import RunBudget


@dataclass(frozen=True, slots=True)
class StandInFigures:
    """What was read, V and A: on the battery (`source_v`, and `on_battery_v` at the load's leads), in
    the connector (`in_connector_v`), with the return lead moved (`return_moved_v`) and with the feed
    lead moved (`feed_moved_v`). `accuracy_v` is the half-width of one reading."""

    source_v: float
    on_battery_v: float
    amps: float
    accuracy_v: float
    in_connector_v: float | None = None
    return_moved_v: float | None = None
    feed_moved_v: float | None = None


@dataclass(frozen=True, slots=True)
class StandIn:
    """What a stand-in load shows.

    `leads_v` is what its own leads take; `least_ohm` the smallest excess it can reveal, `wanted_ohm`
    what the run's budget would have to be proven to, None where it has none; `wanted_a` the
    current (A) that would do. Losses at the run's loaded current (V).
    """

    leads_v: float
    least_ohm: float
    wanted_ohm: float | None
    proves: bool
    loop_v: float | None
    feed_v: float | None
    return_v: float | None
    wanted_a: float | None


def stand_in(figures: StandInFigures, budget: RunBudget) -> StandIn:
    """Judge a stand-in load against a run. `amps` must be above zero.

    The smallest excess that can be seen is two readings' doubt over its current; the run needs the
    least ceiling over its loaded current to be told from nothing.
    """
    leads = figures.source_v - figures.on_battery_v
    least = 2 * figures.accuracy_v / figures.amps
    wanted = _wanted_ohm(budget)
    proves = wanted is None or least <= wanted / 3
    scale = budget.current_a / figures.amps if budget.current_a else 1.0

    def lost(volts: float | None) -> float | None:
        return None if volts is None else (figures.on_battery_v - volts) * scale

    loop = lost(figures.in_connector_v)
    # With the return lead on a proven way only the feed is left in the loop, and the other way round.
    feed, back = lost(figures.return_moved_v), lost(figures.feed_moved_v)
    if loop is not None and feed is not None and back is None:
        back = loop - feed
    if loop is not None and back is not None and feed is None:
        feed = loop - back
    needs = None if wanted is None else 2 * figures.accuracy_v / (wanted / 3)
    return StandIn(leads, least, wanted, proves, loop, feed, back, needs)


def _wanted_ohm(budget: RunBudget) -> float | None:
    ceilings = budget.ceilings
    least = min(
        (c for c in (ceilings.feed_v, ceilings.return_v, ceilings.round_trip_v) if c is not None),
        default=None,
    )
    if least is None or not budget.current_a:
        return None
    return least / budget.current_a
