"""A stand-in for a person who searches a faulty craft: reads where told, until the search ends."""

from collections.abc import Callable
from dataclasses import dataclass

from spare_margin.core.cornering import Corner, Cornered, Probe, Seen
from spare_margin.core.meters import WORKSHOP_METER, typed_step
from spare_margin.core.pieces import Access

from .simulated_meter import SimulatedMeter

MOST_READINGS = 40


@dataclass(frozen=True, slots=True)
class Search:
    """How a search went: what it ended with, and how many readings it took."""

    ended: Cornered
    readings: tuple[Seen, ...]
    bits: tuple[float, ...]


def search(
    corner: Corner,
    meter: SimulatedMeter,
    points: dict[str, Access],
    first: tuple[tuple[str, str], ...] = (),
    choose: Callable[[Cornered], Probe | None] | None = None,
) -> Search:
    """Read `first`, then wherever the search asks (or `choose` does), until it is done."""
    seen: list[Seen] = []
    bits: list[float] = []
    for red, black in first:
        seen.append(read(meter, red, black))
    state = corner.given(seen, points)
    while not state.done and len(seen) < MOST_READINGS:
        probe = choose(state) if choose else next(iter(state.next_probes), None)
        if probe is None or (choose is None and probe.bits < 1e-3):
            break
        bits.append(probe.bits)
        seen.append(read(meter, probe.red, probe.black))
        state = corner.given(seen, points)
    return Search(state, tuple(seen), tuple(bits))


def read(meter: SimulatedMeter, red: str, black: str) -> Seen:
    """One reading as a person would type it, with the meter's doubt."""
    shown = meter.volts(red, black) or "0"
    accuracy = WORKSHOP_METER.accuracy(float(shown), typed_step(shown))
    return Seen(red, black, float(shown), accuracy)
