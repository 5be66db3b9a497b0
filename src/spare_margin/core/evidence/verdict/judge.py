"""Judges one run by what was observed: whether current flowed, each side and span, what is left to ask.

Everything is a figure of the craft as measured, and every verdict a probability over the faults that are
still possible. A pass also needs current that is proven.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import product

import numpy as np

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.estimate.search import SURE, Search, search
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.evidence.outlook.as_measured import Measured, as_measured
from spare_margin.core.evidence.outlook.outlook import Outlook, figures_in, in_scenario
from spare_margin.core.evidence.outlook.probes import Probe, probes
from spare_margin.core.evidence.outlook.trends import Span, read_between, spans_of, through, trends
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.least import first_least
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import SIDES, Craft, Scenario, Side
from spare_margin.core.model.tables import Tables

from .judgement import DOUBT, PASSED, Done, JudgedSide, JudgedSpan, Judgement, Verdict
from .limits_kept import SHARP, Limit, decided, doubt, passed
from .load_current import LoadCurrent, load_current
from .remarks import remarks

CERTAIN = 0.98
"""Where a run is not over, one element must hold this much to end its walk: good pieces spread, too."""
ENDED: tuple[Done, ...] = ("good", "cornered", "load", "as_drawn")
"""Ends after which nothing is left to read."""


def judge_run(
    craft: Craft,
    run: Run,
    observed: Observed,
    limits: Limits,
    tables: Tables,
    allowed: Callable[[Scenario], RunBudget],
    next_in: Scenario | None = None,
) -> Judgement:
    """Judge one run by all that was observed of the craft.

    Args:
        craft: the wiring they were taken on.
        run: the run to judge.
        observed: readings as observations; those that touch nothing of the run still count.
        limits: the job's limits.
        tables: the reference tables.
        allowed: the budget of the run in a scenario, for what its pieces may lose.
        next_in: the scenario in which will be read next; that of the last reading by default.

    Raises:
        JobError: where the craft cannot be solved.
    """
    found = search(craft, [run], observed, tables)
    loaded_in = [c for c in found.observed.conditions if c.trial is None and c.loads_run(run.load)]
    spans = spans_of(run, found.observed)
    current = load_current(found, run, loaded_in, spans)
    measured = as_measured(found, run, current.times)
    worst = _worst(run, craft, measured, limits, current)
    judge = _Judge(found, run, limits, allowed, worst, loaded_in, current, spans)
    made = judge.judgement(measured)
    asked = _asked(found, run, current, next_in)
    done = _done(made, asked)
    made = replace(made, probes=() if done in ENDED else tuple(asked), done=done)
    said = [*observed.findings, *found.findings, *trends(found, spans, run)]
    return replace(made, findings=(*said, *remarks(made, judge.budget, current)))


def _worst(
    run: Run, craft: Craft, measured: Measured, limits: Limits, current: LoadCurrent
) -> Scenario:
    """The scenario in which the run has least spare by the craft as measured."""
    on = [s for s in craft.scenarios if run.load.id in s.on]
    if on:
        ceilings = limits.ceilings(run.load, craft.nominal_v)
        return first_least(on, lambda s: measured.spare(s.id, ceilings))
    if current.conditions is not None:
        return current.conditions.scenario
    return replace(craft.scenarios[0], on=frozenset({run.load.id}))


class _Judge:
    """What the outlook says: of sides and the run in the worst scenario, of spans where they were read."""

    def __init__(
        self,
        found: Search,
        run: Run,
        limits: Limits,
        allowed: Callable[[Scenario], RunBudget],
        worst: Scenario,
        loaded_in: Sequence[Conditions],
        current: LoadCurrent,
        spans: Sequence[Span],
    ) -> None:
        self.found, self.run, self.worst = found, run, worst
        self.budget = budget = allowed(worst)
        read_in = None if current.conditions is None else current.conditions.scenario.id
        own = (s for s in found.craft.scenarios if s.id == read_in and run.load.id in s.on)
        self.read_in = next(own, worst)
        self.read_budget = budget if self.read_in.id == worst.id else allowed(self.read_in)
        self.ceilings = limits.ceilings(run.load, found.craft.nominal_v)
        self.by_side = {"feed": self.ceilings.feed_v, "return": self.ceilings.return_v}
        self.purpose: dict[Side, float] = {s.side: s.purpose_v for s in budget.sides}
        self.loaded_in, self.current, self.spans = loaded_in, current, spans
        self.seen = figures_in(found, self._wanted())

    def judgement(self, measured: Measured) -> Judgement:
        run, worst, spans = self.run, self.worst, self.spans
        rows: list[Row] = [("volts", *run.ends(side)) for side in SIDES]
        rows += [("volts", span.red, span.black) for span in spans]
        outlook = in_scenario(self.found, worst, rows, run.load.id, self.current.times)
        here = outlook
        if self.read_in.id != worst.id:
            here = in_scenario(self.found, self.read_in, rows, run.load.id, self.current.times)
        sides = {side: self._side(side, i, outlook, measured) for i, side in enumerate(SIDES)}
        judged = tuple(
            self._span(span, outlook, outlook if self._is_side(span) else here, len(SIDES) + i)
            for i, span in enumerate(spans)
        )
        return Judgement(
            run=run, verdict=self._verdict(outlook, [*sides.values()], judged),
            loaded=self.current.flows, amps=self.current.amps, sides=sides, spans=judged,
            worst=worst, measured=measured, search=self.found, probes=(), done="", findings=(),
            conditions=self.current.conditions, spare=self._spare([*sides.values()]),
        )  # fmt: skip

    def _wanted(self) -> Iterator[tuple[Conditions, Row]]:
        """What is asked of the moments themselves: volts of sides that were read, amperes of spans."""
        for conditions, side in product(self.loaded_in, SIDES):
            if read_between(self.found.observed, conditions.key, *self.run.ends(side)):
                yield conditions, ("volts", *self.run.ends(side))
        for span in self.spans:
            if self._counts(span):
                yield span.conditions, through(span)

    def _counts(self, span: Span) -> bool:
        """Whether a span is one of a side, read while the run's load was on."""
        return (
            span.side is not None
            and self.current.flows is True
            and span.conditions in self.loaded_in
        )

    # Sides

    def _side(self, side: Side, row: int, outlook: Outlook, measured: Measured) -> JudgedSide:
        mean, sigma = outlook.figure(row)
        purpose, ceiling = self.purpose[side], self.by_side[side]
        read = self._read(side)
        verdict: Verdict = "not_judged"
        if self.current.flows and ceiling is not None:
            over = passed(outlook, [((row,), ceiling + purpose)])
            verdict = decided(over, DOUBT * sigma, ceiling)
            if read is None and verdict != "over":
                verdict = "not_judged"
        elif self.current.flows and read is not None:
            verdict = "within"
        loaded_v = self._as_measured(side, measured)
        limit = math.inf if ceiling is None else ceiling
        if loaded_v is None or verdict == ("within" if loaded_v > limit else "over"):
            loaded_v = mean - purpose
        volts, half = read or (None, None)
        return JudgedSide(
            side, volts, half, loaded_v, DOUBT * math.hypot(sigma, mean - purpose - loaded_v),
            ceiling, purpose, verdict, read is not None,
        )  # fmt: skip

    def _as_measured(self, side: Side, measured: Measured) -> float | None:
        """What a side loses (V) in the worst scenario, in the craft as measured."""
        if measured.load_v.get(self.worst.id) is None:
            return None
        spend = measured.spend(self.worst.id, self.ceilings)
        return spend.feed_v if side == "feed" else spend.return_v

    def _read(self, side: Side) -> tuple[float, float] | None:
        """V lost on a side in its worst moment, with the doubt, where readings join its ends."""
        row: Row = ("volts", *self.run.ends(side))
        found = [self.seen.get((conditions.key, row)) for conditions in self.loaded_in]
        return max(((mean, DOUBT * sigma) for mean, sigma in filter(None, found)), default=None)

    # Spans

    def _is_side(self, span: Span) -> bool:
        return span.side is not None and {span.red, span.black} == set(self.run.ends(span.side))

    def _span(self, span: Span, worst: Outlook, here: Outlook, row: int) -> JudgedSpan:
        """A span against its allowance where it was read, and against its side's ceiling at the worst."""
        made = JudgedSpan(
            span, span.conditions.moment, span.volts, DOUBT * span.sigma, None, None, None, None,
            None, self._allowed(span), "not_judged",
        )  # fmt: skip
        if span.side is None or not self._counts(span):
            return made
        loaded_v, sigma = here.figure(row)
        ohm, low, high = self._ohm(span)
        return replace(
            made, ohm=ohm, ohm_low=low, ohm_high=high, loaded_v=loaded_v,
            loaded_doubt_v=DOUBT * sigma,
            verdict=self._span_verdict(span, span.side, worst, here, row, made.allowed_v),
        )  # fmt: skip

    def _ohm(self, span: Span) -> tuple[float, float, float] | tuple[None, None, None]:
        """V / I of a span with its bounds, where the current through it is known well enough."""
        amps, sigma = self.seen[span.conditions.key, through(span)]
        if abs(amps) <= max(3 * sigma, 1e-6):
            return None, None, None
        ohm = abs(span.volts / amps)
        share = DOUBT * float(np.hypot(span.sigma / max(abs(span.volts), 1e-9), sigma / amps))
        return ohm, max(ohm * (1 - share), 0.0), ohm * (1 + share)

    def _allowed(self, span: Span) -> float | None:
        if span.side is None:
            return None
        if self._is_side(span):
            return self.by_side[span.side]
        own = {p.step.piece.id: p for s in self.read_budget.sides for p in s.pieces}
        return sum(own[key].allowance.volts for key in span.pieces)

    def _span_verdict(
        self,
        span: Span,
        side: Side,
        worst: Outlook,
        here: Outlook,
        row: int,
        allowed: float | None,
    ) -> Verdict:
        """Over where the span alone passes a ceiling; else held against its own allowance."""
        both = self.by_side[side], self.ceilings.round_trip_v
        ceiling = min((c for c in both if c is not None), default=None)
        purpose = sum(
            p.drop_v for s in self.budget.sides for p in s.pieces
            if p.step.on_purpose and p.step.piece.id in span.pieces
        )  # fmt: skip
        if ceiling is not None and passed(worst, [((row,), ceiling + purpose)]) > 1 - PASSED:
            return "over"
        if allowed is None:
            return "not_judged"
        over = passed(here, [((row,), allowed + (0.0 if allowed >= purpose else purpose))])
        if over > 1 - PASSED:
            return "high"
        return "within" if over < PASSED else "too_close"

    # The run

    def _limits(self) -> list[Limit]:
        """The ceilings there are, each with the rows it holds and what is dropped there on purpose."""
        both = sum(self.purpose.values())
        held: list[tuple[tuple[int, ...], float | None, float]] = [
            ((i,), self.by_side[side], self.purpose[side]) for i, side in enumerate(SIDES)
        ]
        held.append((tuple(range(len(SIDES))), self.ceilings.round_trip_v, both))
        return [(rows, ceiling + more) for rows, ceiling, more in held if ceiling is not None]

    def _verdict(
        self, outlook: Outlook, sides: Sequence[JudgedSide], spans: Sequence[JudgedSpan]
    ) -> Verdict:
        limits = self._limits()
        if not self.current.flows or not limits:
            return "not_judged"
        over = passed(outlook, limits)
        verdicts = [s.verdict for s in sides] + [s.verdict for s in spans]
        if over > 1 - PASSED or "over" in verdicts:
            return "over"
        told = self._told_apart_v()
        sharp = all(
            SHARP * max(DOUBT * doubt(outlook, rows), told) <= limit for rows, limit in limits
        )
        # Each limit may be passed with that much, as each side is judged by itself.
        if over < PASSED * len(limits) and sharp:
            return "within"
        return "too_close" if all(s.read for s in sides) else "not_judged"

    def _told_apart_v(self) -> float:
        """The least loss (V) at the loaded current that what was read could tell at all.

        A load that stands in with little current loses little whatever is wrong: it condemns, and does not
        clear. What the drawing promises is no reading.
        """
        conditions = self.current.conditions
        if conditions is None or conditions.stand_in is None:
            return 0.0
        read = [o for o in self.found.observed.values if o.conditions.stand_in is not None]
        amps = max(
            (o.conditions.stand_in.amperes for o in read if o.conditions.stand_in), default=0
        )
        own = DOUBT * max((o.sigma for o in read), default=0.0) * math.sqrt(2)
        loaded = self.budget.current_a
        return math.inf if not amps else own * max(loaded / amps, 1.0)

    def _spare(self, sides: Sequence[JudgedSide]) -> tuple[float, str] | None:
        found = [(s.ceiling_v - s.loaded_v, str(s.side)) for s in sides if s.ceiling_v is not None]
        if self.ceilings.round_trip_v is not None:
            lost = sum(s.loaded_v for s in sides)
            found.append((self.ceilings.round_trip_v - lost, "round_trip"))
        return min(found, default=None)


# What is left to ask


def _asked(found: Search, run: Run, current: LoadCurrent, next_in: Scenario | None) -> list[Probe]:
    """What to read next, the most telling first, without what was read in the same moment."""
    conditions = current.conditions
    if conditions is None:
        on = (s for s in found.craft.scenarios if run.load.id in s.on)
        scenario = next_in or next(on, None)
        if scenario is None or run.load.id not in scenario.on:
            return []
        conditions = Conditions("next", scenario, None)
    order = [run.source.live, *(s.exit for s in run.feed if not s.beside)]
    order += [run.return_terminal, *(s.exit for s in run.back if not s.beside)]
    order = list(dict.fromkeys([*order, run.source.back]))
    points = {p.id: p.access for p in found.craft.points if p.id in order}
    read = {
        frozenset((o.red, o.black))
        for o in found.observed.values
        if o.conditions.key == conditions.key and o.quantity == "volts"
    }
    asked = probes(found, conditions, points, (run.source.live, run.source.back), order)
    return [p for p in asked if frozenset((p.red, p.black)) not in read]


def _done(made: Judgement, asked: Sequence[Probe]) -> Done:
    if made.verdict == "within":
        return "good"
    found = made.search
    ranked = list(found.by_element.items())
    element, p = ranked[0]
    second = ranked[1][1] if len(ranked) > 1 else 0.0
    if element is not None and p >= SURE and (not found.together or second >= SURE):
        if element == made.run.load.id:
            return "load"
        # A run too close to its ceiling is asked on about that, as long as anything can tell.
        settled = made.verdict == "over" or (not asked and p >= CERTAIN)
        if settled or _is_open(found, element) or made.loaded is not True:
            return "cornered"
    if element is None and p >= SURE and made.verdict == "over":
        return "as_drawn"
    if asked or not found.observed.values:
        return ""
    return "no_current" if made.loaded is False else "out_of_reach"


def _is_open(found: Search, element: str) -> bool:
    kinds = [(s.probability, s.kind) for s in found.suspects if s.element == element]
    return max(kinds)[1] == "open"
