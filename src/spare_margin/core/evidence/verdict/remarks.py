"""What is worth a remark in a judgement, besides its conclusion."""

from collections.abc import Iterator

from spare_margin.core.bounds.conclusion import Headline
from spare_margin.core.bounds.guilt import AS_DRAWN_TIMES
from spare_margin.core.bounds.held import Judged
from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.loads import current_at
from spare_margin.core.measure import findings as found_as
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import undrawn

from .judgement import JudgedSpan, Judgement
from .screening import screening

MORE_LOST_V = 0.06
"""A run that loses this much more than drawn is worth a remark though it keeps its ceilings."""
WARM_W, BURN_W = 0.5, 2.0
"""Watts in one small joint that deserve a look, and that are a burn or fire hazard."""
NO_JOINT = ("conductor", "resistor", "unknown")
"""What is long, made to be hot, or not known: its watts say nothing of a hot spot."""
AS_IT_SHOULD = 0.6, 1.6
"""Between these times of what it should, a load draws what it should."""
UNPROVEN: tuple[Headline, ...] = ("not_read", "too_close", "no_current")
"""Where nothing else is said of current, that none is proven is."""
Bars = (
    found_as.Burns
    | found_as.SurfaceHot
    | found_as.ComesAndGoes
    | found_as.Moves
    | found_as.RepeatsDiffer
)
"""What bars good: heat that is a hazard, and what comes and goes."""


def remarks(found: Judgement, budget: RunBudget) -> Iterator[Finding]:
    """The findings of a judgement; `budget` is the run's in the judgement's worst scenario.

    Args:
        found: what the readings say of the run.
    """
    made = found.conclusion
    if made.headline == "contradiction":
        yield found_as.Contradiction(readings=made.contradicting)
    if made.unsettled:
        yield found_as.SourceUnsettled()
    if made.comes_and_goes is not None:
        start, end = made.comes_and_goes
        between = found.run.between(start, end)
        piece = between.pieces[0] if between and len(between.pieces) == 1 else None
        yield found_as.ComesAndGoes(piece=piece, start=start, end=end)
    if made.headline == "no_current" and made.to_read:
        yield found_as.NotLoaded(load=found.run.load.id)
    elif made.loaded is None and found.observed.each and made.headline in UNPROVEN:
        yield found_as.NotProven()
    if made.headline in ("over", "over_as_ran"):
        yield found_as.Over()
        if drawn_as_read(found, budget):
            yield found_as.OverAsDrawn()
    for span in found.spans:
        yield from _of_span(span, found)
    if made.headline == "within":
        yield from _more_lost(found, budget)
    yield from _of_load(found)
    yield from screening(found.craft, found.run, found.observed)
    yield from _of_protection(found)


def _of_span(span: JudgedSpan, found: Judgement) -> Iterator[Finding]:
    piece = span.span.pieces[0] if len(span.span.pieces) == 1 else None
    hot = None
    if piece is not None and span.ohm_low:
        least = max(span.volts - span.doubt_v, 0.0)
        watts = span.volts**2 / span.ohm if span.ohm else 0.0
        warm = least**2 / (span.ohm_high or 1.0) >= WARM_W
        if span.verdict in ("over", "high") and warm and _is_joint(piece, found):
            hot = found_as.Burns if watts >= BURN_W else found_as.Heats
            yield hot(readings=span.span.readings, piece=piece, watts=watts)
    side = span.span.side
    kept = side is not None and found.sides[side].verdict in ("within", "within_as_ran")
    if span.verdict == "high" and piece is not None and hot is None and kept:
        yield found_as.ALittleHigh(
            readings=span.span.readings, piece=piece, volts=span.loaded_v or 0.0,
            allowed_v=span.allowed_v or 0.0,
        )  # fmt: skip
    if span.verdict == "too_close" and span.allowed_v and span.allowed_v < 1.5 * span.doubt_v:
        yield found_as.Coarse(
            readings=span.span.readings, piece=piece, allowed_v=span.allowed_v, doubt_v=span.doubt_v
        )


def _is_joint(piece: str, found: Judgement) -> bool:
    return all(s.piece.kind not in NO_JOINT for s in found.run.steps() if s.piece.id == piece)


def _more_lost(found: Judgement, budget: RunBudget) -> Iterator[Finding]:
    drawn = {s.side: s.drop_v for s in budget.sides}
    for side in found.sides.values():
        if side.loaded_low_v is None:
            continue
        more = side.loaded_low_v - drawn[side.side]
        unknown = any(undrawn(s.piece) for s in found.run.side(side.side))
        if not unknown and more > MORE_LOST_V:
            yield found_as.MoreLostThanDrawn(side=side.side, volts=more)


# The load


def _of_load(found: Judgement) -> Iterator[Finding]:
    judged, load = found.concluded.judged, found.run.load
    off = _off(judged)
    if off is not None and judged is not None:
        kind, drawn, should = off
        yield kind(readings=judged.moment.clamped[-1:], amperes=drawn, drawn_a=should)
    if load.least_v is None or judged is None or judged.moment.contradiction:
        return
    for scenario in judged.scenarios:
        low, _ = judged.loaded("together", scenario)
        volts = scenario.source(found.run.source).open_circuit_v - low.volts
        if judged.moment.flows and volts < load.least_v:
            yield found_as.DropsOut(scenario=scenario.id, volts=max(volts, 0.0))


def load_is_off(found: Judgement) -> bool:
    """Whether the load draws otherwise than it should at the volts it gets.

    Args:
        found: what the readings say of the run.
    """
    return _off(found.concluded.judged) is not None


def _off(
    judged: Judged | None,
) -> tuple[type[found_as.LowCurrent | found_as.HighCurrent], float, float] | None:
    """A current that is not what the load should draw at the volts it gets, by more than all doubt."""
    if judged is None or judged.moment.amperes is None or not judged.moment.clamped:
        return None
    moment, load = judged.moment, judged.moment.run.load
    low, high = judged.moment.amperes
    if load.behaviour is None or moment.contradiction or not moment.flows:
        return None
    nominal = moment.craft.nominal_v
    start = (load.start_multiple or 1.0) if load.id in moment.conditions.scenario.starting else 1.0
    ends = [start * current_at(load, nominal, volts) for volts in _across(judged)]
    least, most = AS_IT_SHOULD
    drawn = (low + high) / 2
    if high < least * min(ends):
        return found_as.LowCurrent, drawn, min(ends)
    return (found_as.HighCurrent, drawn, max(ends)) if low > most * max(ends) else None


def _across(judged: Judged) -> tuple[float, float]:
    """The least and the most volts across the load; where none were read, up to what the source has."""
    run, moment = judged.moment.run, judged.moment
    source = moment.conditions.scenario.source(run.source).open_circuit_v
    low = max(judged.bounds.least_v(run.feed_terminal, run.return_terminal), 0.0)
    high = judged.bounds.most_v(run.feed_terminal, run.return_terminal)
    return low, min(high, source * 1.3)


# The pieces


def drawn_as_read(found: Judgement, budget: RunBudget) -> bool:
    """Whether all that was found is no worse than it is drawn, and the drawing itself passes a limit.

    Args:
        budget: what the run may lose, and where.
    """
    pieces = {p.step.piece.id: p for s in budget.sides for p in s.pieces}
    each = [f for f in found.conclusion.found if f.kind == "excess_resistance"]
    return (
        bool(each)
        and budget.spare_v < 0
        and all(
            f.drop.low is not None
            and not undrawn(pieces[f.piece].step.piece)
            and f.drop.low <= AS_DRAWN_TIMES * abs(pieces[f.piece].drop_v)
            for f in each
        )
    )


def _of_protection(found: Judgement) -> Iterator[Finding]:
    """A fuse or breaker that opened did so for a reason: it is told before anybody resets it."""
    made = found.conclusion
    if made.headline != "open":
        return
    between = found.run.between(*made.between) if made.between else None
    where = set(found.found) | set(between.pieces if between else ())
    for step in found.run.steps():
        kind = step.piece.kind
        if step.piece.id in where and kind in ("fuse", "breaker"):
            yield found_as.ProtectionOpen(piece=step.piece.id, kind=kind)
