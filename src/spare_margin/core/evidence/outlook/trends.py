"""Spans that were read, and what changes in them from one moment to another."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from spare_margin.core.circuit.joined import joined
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.estimate.search import Search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import Side

from .outlook import figures_in

CLEARLY = 3.0
"""Two resistances differ where they are this many standard deviations apart."""
LEAST_SHARE = 0.25
"""And by this share of the smaller at least: a warm wire alone has a few per cent more."""


@dataclass(frozen=True, slots=True)
class Span:
    """A span of a run that was read in one moment; `side` is None where the load lies in it.

    `volts` is counted in the current's direction on a side; `sigma` its standard deviation with the meter's
    gain.
    """

    red: str
    black: str
    side: Side | None
    pieces: tuple[str, ...]
    conditions: Conditions
    volts: float
    sigma: float
    readings: tuple[str, ...]


def spans_of(run: Run, observed: Observed) -> list[Span]:
    """Every span of the run that was read, once for each moment, in the order of reading."""
    points = {p for s in run.steps() for p in (s.entry, s.exit)}
    points |= {run.source.live, run.source.back}
    out: list[Span] = []
    for o in observed.values:
        on_run = {o.red, o.black} <= points
        if o.quantity != "volts" or not on_run or o.conditions.trial or o.beside:
            continue
        between = run.between(o.red, o.black)
        turned = between is not None and not between.forward
        red, black = (o.black, o.red) if turned else (o.red, o.black)
        value = -o.value if turned else o.value
        gain = observed.gains.get(o.meter, 0.0) * abs(value)
        out.append(
            Span(
                red, black, between.side if between else None, between.pieces if between else (),
                o.conditions, value, float(np.hypot(o.sigma, gain)), (o.reading,),
            )
        )  # fmt: skip
    return out


def read_between(observed: Observed, key: str, start: str, end: str) -> bool:
    """Whether volts read under these conditions join two points."""
    read = (
        (o.red, o.black)
        for o in observed.values
        if o.quantity == "volts" and o.conditions.key == key
    )
    return joined(read, start, end)


Amps = Mapping[tuple[str, Row], tuple[float, float]]
"""Currents with their deviations (A), by the key of their conditions and their row."""


def trends(found: Search, spans: Iterable[Span], run: Run) -> list[Finding]:
    """What is one resistance in one moment and another in the next: same span, different ohms."""
    by_span: dict[tuple[str, str], list[Span]] = {}
    for span in spans:
        if span.side is not None and run.load.id in span.conditions.running:
            by_span.setdefault((span.red, span.black), []).append(span)
    again = [taken for taken in by_span.values() if len(taken) > 1]
    amps = figures_in(found, ((s.conditions, through(s)) for taken in again for s in taken))
    out = []
    for taken in again:
        for before, after in pairwise(taken):
            told = _trend(before, after, amps)
            if told is not None:
                out.append(told)
    return out


def through(span: Span) -> Row:
    """The current that passes a span, as a row to watch."""
    return ("amperes", span.pieces[0], span.red)


def _trend(before: Span, after: Span, amps: Amps) -> Finding | None:
    first, second = (
        _ohms(span, *amps[span.conditions.key, through(span)]) for span in (before, after)
    )
    if first is None or second is None:
        return None
    (a, da), (b, db) = first, second
    if abs(b - a) < CLEARLY * np.hypot(da, db) or abs(b - a) < LEAST_SHARE * min(a, b):
        return None
    cold, warm = before.conditions.warm_min, after.conditions.warm_min
    facts: dict[str, float | str] = {
        "before": before.volts, "after": after.volts, "before_ohm": a, "after_ohm": b,
    }  # fmt: skip
    piece = before.pieces[0] if len(before.pieces) == 1 else None
    readings = (*before.readings, *after.readings)
    if cold is None or warm is None or cold == warm:
        return Finding("changes", readings, piece, facts)
    grows = (b > a) == (warm > cold)
    facts |= {"cold_min": min(cold, warm), "warm_min": max(cold, warm)}
    return Finding("grows_warm" if grows else "shrinks_warm", readings, piece, facts)


def _ohms(span: Span, amps: float, sigma: float) -> tuple[float, float] | None:
    if abs(amps) < 3 * sigma or abs(amps) < 1e-6:
        return None
    ohm = abs(span.volts / amps)
    doubt = np.hypot(span.sigma / abs(amps), ohm * sigma / abs(amps))
    return ohm, float(doubt)
