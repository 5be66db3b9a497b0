"""Judges one run by what was observed: the bounds' conclusion, with each side and span as figures."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from spare_margin.core.bounds.conclude import Concluded, conclude
from spare_margin.core.bounds.conclusion import AgainstLimit, Range
from spare_margin.core.bounds.held import Judged, RunLimits
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import Observation, Observed
from spare_margin.core.least import ROUNDING, first_least
from spare_margin.core.model.pieces import SIDES, Craft, Scenario, Side
from spare_margin.core.model.tables import Tables

from .judgement import (
    NEAR_V,
    SHOWN_SHARE,
    Done,
    JudgedSide,
    JudgedSpan,
    Judgement,
    PartVerdict,
    Span,
)
from .odds import RunOdds
from .remarks import Bars, drawn_as_read, load_is_off, remarks


def judge_run(
    craft: Craft,
    run: Run,
    users: Mapping[str, Sequence[str]],
    observed: Observed,
    limits: RunLimits,
    tables: Tables,
    next_in: Scenario | None = None,
    out_of_reach: frozenset[frozenset[str]] = frozenset(),
) -> Judgement:
    """Judge one run by all that was observed of the craft.

    Args:
        craft: the wiring they were taken on.
        run: the run to judge.
        users: ids of the loads whose run passes each piece.
        observed: readings as observations; those that touch nothing of the run still count.
        limits: what the run and its pieces may lose, and what the loads draw, by scenario.
        tables: the reference tables.
        next_in: the scenario in which will be read next; that of the last reading by default.
        out_of_reach: pairs of points that cannot be read.

    Raises:
        JobError: where the craft cannot be solved.
    """
    concluded = conclude(craft, run, users, observed, limits, out_of_reach)
    judged = concluded.judged
    worst = judged.worst if judged is not None else _worst(craft, run, limits)
    sides = {side: _side(side, concluded, limits, worst) for side in SIDES}
    spans = tuple(s for each in concluded.moments for s in _spans(each))
    odds = RunOdds(
        craft, run, observed, tables, concluded,
        lambda scenario: limits.drawn(scenario).get(run.load.id, 0.0), next_in,
    )  # fmt: skip
    made = Judgement(
        craft, run, observed, concluded, sides, spans, worst, limits.allowed(worst), "", (),
        _spare(concluded), odds,
    )  # fmt: skip
    findings = (*observed.findings, *concluded.findings, *remarks(made, made.budget))
    made = replace(made, findings=findings)
    return replace(made, done=_done(made))


def _worst(craft: Craft, run: Run, limits: RunLimits) -> Scenario:
    """Where nothing was read: the scenario in which the run has least spare as drawn."""
    on = [s for s in limits.scenarios if run.load.id in s.on]
    if on:
        return first_least(on, lambda s: limits.allowed(s).spare_v)
    return replace(craft.scenarios[0], on=frozenset({run.load.id}))


# Sides


def _side(side: Side, concluded: Concluded, limits: RunLimits, worst: Scenario) -> JudgedSide:
    sides = concluded.conclusion.sides
    budget = limits.allowed(worst)
    purpose = (budget.feed if side == "feed" else budget.back).purpose_v
    if sides is None:
        return JudgedSide(
            side, *(None,) * 8, limits.of(side), purpose, "not_judged", False, ()
        )  # fmt: skip
    held = sides[side]
    volts, half = _shown(held)
    loaded = _figure(held.loaded) if volts is not None else None
    return JudgedSide(
        side, volts, half, held.ran.low, held.ran.high, loaded,
        held.loaded.half if loaded is not None else None, held.loaded.low, held.loaded.high,
        held.limit_v, purpose, held.verdict, held.direct, held.by,
    )  # fmt: skip


def _figure(known: Range) -> float | None:
    """The middle of a range, where that says more than its ends do."""
    volts, half = known.volts, known.half
    if volts is None or half is None:
        return None
    return volts if half <= max(SHOWN_SHARE * abs(volts), NEAR_V) else None


def _shown(held: AgainstLimit) -> tuple[float, float] | tuple[None, None]:
    """What a side lost, with its doubt, where it was read or is known well enough to be a figure."""
    volts, half = held.ran.volts, held.ran.half
    if volts is None or half is None:
        return None, None
    known = held.direct or half <= SHOWN_SHARE * abs(volts)
    return (volts, half) if known else (None, None)


def _spare(concluded: Concluded) -> tuple[float, str] | None:
    """The least spare at the most that can be lost, where every limit is bounded.

    Where a run is over: by how much it is at the least.
    """
    made = concluded.conclusion
    if made.sides is None or made.together is None or concluded.judged is None:
        return None
    found = []
    passed = made.headline in ("over", "over_as_ran")
    for part in (*made.sides.values(), made.together):
        over = part.verdict in ("over", "over_as_ran")
        if part.limit_v is None or passed != over:
            continue
        lost = part.loaded.low if over else part.loaded.high
        if lost is None:
            return None
        name = "round_trip" if part.part == "together" else part.part
        found.append((part.limit_v - lost, str(name)))
    return min(found, default=None)


# Spans


def _spans(judged: Judged) -> list[JudgedSpan]:
    """Every pair of points of the run that was read in a moment, each once, in the order of reading."""
    points, taken = judged.moment.run.points, dict[frozenset[str], list[Observation]]()
    for o in judged.moment.volts:
        if not o.beside and o.red in points and o.black in points:
            taken.setdefault(frozenset((o.red, o.black)), []).append(o)
    return [_span(read, judged) for read in taken.values()]


def _span(read: Sequence[Observation], judged: Judged) -> JudgedSpan:
    """What was read over one pair of points, as the current passes where they are of one side."""
    moment, red, black = judged.moment, read[0].red, read[0].black
    between = moment.run.between(red, black)
    if between is not None and not between.forward:
        red, black = black, red
    span = Span(
        red, black, between.side if between else None, between.pieces if between else (),
        moment.conditions, tuple(dict.fromkeys(o.reading for o in read)),
    )  # fmt: skip
    each = [(o.value if o.red == red else -o.value, o.limit) for o in read]
    low, high = min(v - limit for v, limit in each), max(v + limit for v, limit in each)
    made = JudgedSpan(span, moment.conditions.moment, (low + high) / 2, (high - low) / 2)
    apart = moment.contradiction or between is None or moment.conditions.trial is not None
    return made if apart else _judged(made, judged)


def _judged(made: JudgedSpan, judged: Judged) -> JudgedSpan:
    """A span against its allowance, where current is proven, and against its side's limit."""
    span, moment = made.span, judged.moment
    assert span.side is not None, "only spans of one side are judged"
    whole = {span.red, span.black} == set(moment.run.ends(span.side))
    limit = judged.limits.of(span.side)
    allowed = limit if whole else sum(judged.allowances.get(p, 0.0) for p in span.pieces)
    if moment.dead:
        return replace(made, allowed_v=allowed)
    inside = moment.inside(span.side, span.red, span.black)
    low, high = judged.span(inside)
    if moment.flows:
        ohms = judged.ohms(span.red, span.black, inside)
        return replace(
            made, ohm=None if ohms is None else sum(ohms) / 2,
            ohm_low=ohms[0] if ohms else None, ohm_high=ohms[1] if ohms else None,
            loaded_v=(low.volts + high.volts) / 2, loaded_doubt_v=(high.volts - low.volts) / 2,
            allowed_v=allowed, verdict=_span_verdict(low.volts, high.volts, allowed, limit),
        )  # fmt: skip
    over = limit is not None and judged.bounds.least_v(span.red, span.black) > limit
    verdict: PartVerdict = "over_as_ran" if moment.ran and over else made.verdict
    return replace(made, allowed_v=allowed, verdict=verdict)


def _span_verdict(
    low: float, high: float, allowed: float | None, limit: float | None
) -> PartVerdict:
    if limit is not None and low > limit:
        return "over"
    if allowed is None:
        return "not_judged"
    if low > allowed:
        return "high"
    return "within" if high <= allowed + ROUNDING else "too_close"


# How it ends


def _done(made: Judgement) -> Done:
    headline, found = made.conclusion.headline, made.conclusion.found
    if headline == "within":
        barred = any(isinstance(f, Bars) for f in made.findings)
        if not barred:
            return "load" if load_is_off(made) else "good"
        return "cornered"
    more = made.conclusion.more is not None and bool(made.conclusion.to_read)
    if headline in ("over", "over_as_ran") and found and not more:
        return "as_drawn" if drawn_as_read(made, made.budget) else "cornered"
    if headline == "open" and found:
        return "cornered"
    if headline == "no_current" and not made.conclusion.to_read:
        return "load"
    if made.conclusion.to_read or not made.observed.each:
        return ""
    return "out_of_reach"
