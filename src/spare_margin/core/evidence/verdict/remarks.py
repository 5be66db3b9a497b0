"""What is worth a remark in a judgement, besides its verdict."""

from collections.abc import Iterator
from typing import Literal

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.evidence.estimate.search import SURE
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import kind_of, undrawn

from .judgement import JudgedSpan, Judgement
from .load_current import LoadCurrent

MORE_LOST_V = 0.06
"""A run that loses this much more than drawn is worth a remark though it keeps its ceilings."""
WARM_W, BURN_W = 0.5, 2.0
"""Watts in one small joint that deserve a look, and that are a burn or fire hazard."""
NO_JOINT = ("conductor", "resistor", "unknown")
"""What is long, made to be hot, or not known: its watts say nothing of a hot spot."""
AS_IT_SHOULD = 0.6, 1.6
"""Between these times of what it should, a load draws what it should."""


OPENED = 0.25
"""From this probability on, a fuse or breaker that may be open is told, with what comes before a reset."""


def remarks(found: Judgement, budget: RunBudget, current: LoadCurrent) -> Iterator[Finding]:
    """The findings of a judgement; `budget` is the run's in the judgement's worst scenario."""
    ended = found.done in ("cornered", "load")
    if found.loaded is False and current.conditions is not None and not ended:
        yield Finding("not_loaded", facts={"load": found.run.load.id})
    elif found.loaded is None and found.search.observed.values:
        yield Finding("not_proven")
    if found.verdict == "over":
        yield Finding("over")
    for span in found.spans:
        yield from _of_span(span, found)
    if found.verdict == "within":
        yield from _more_lost(found, budget)
    yield from _of_load(found, current)
    yield from _of_suspects(found)
    yield from _of_protection(found)


def _of_span(span: JudgedSpan, found: Judgement) -> Iterator[Finding]:
    piece = span.span.pieces[0] if len(span.span.pieces) == 1 else None
    if span.verdict == "high" and piece is not None:
        facts: dict[str, float | str] = {
            "volts": span.loaded_v or 0.0, "allowed": span.allowed_v or 0.0
        }  # fmt: skip
        yield Finding("a_little_high", span.span.readings, piece, facts)
    if span.verdict == "too_close" and span.allowed_v and span.allowed_v < 1.5 * span.doubt_v:
        facts = {"allowed": span.allowed_v, "doubt": span.doubt_v}
        yield Finding("coarse", span.span.readings, piece, facts)
    if piece is not None and span.ohm and span.verdict in ("over", "high"):
        drawn = next(s.piece for s in found.run.steps() if s.piece.id == piece)
        watts = span.volts**2 / span.ohm
        if watts >= WARM_W and kind_of(drawn) not in NO_JOINT:
            code: Literal["burns", "heats"] = "burns" if watts >= BURN_W else "heats"
            yield Finding(code, span.span.readings, piece, {"watts": watts})


def _more_lost(found: Judgement, budget: RunBudget) -> Iterator[Finding]:
    drawn = {s.side: s.drop_v for s in budget.sides}
    for side in found.sides.values():
        more = side.loaded_v - drawn[side.side]
        unknown = any(undrawn(s.piece) for s in found.run.side(side.side))
        if not unknown and more > max(MORE_LOST_V, 2 * side.loaded_doubt_v):
            yield Finding("more_lost_than_drawn", facts={"side": side.side, "volts": more})


def _of_load(found: Judgement, current: LoadCurrent) -> Iterator[Finding]:
    load = found.run.load
    clamped = [o for o in found.search.observed.values if o.through == load.id]
    if found.amps is not None and clamped and load.behaviour is not None and current.drawn_a:
        read = abs(clamped[-1].value)
        least, most = AS_IT_SHOULD
        if not least <= read / current.drawn_a <= most and read > 3 * clamped[-1].sigma:
            code: Literal["low_current", "high_current"] = (
                "low_current" if read < current.drawn_a else "high_current"
            )
            facts: dict[str, float | str] = {"amperes": read, "drawn": current.drawn_a}
            yield Finding(code, (clamped[-1].reading,), facts=facts)
    for scenario, volts in found.measured.load_v.items():
        if load.least_v is not None and (volts is None or volts < load.least_v):
            yield Finding("drops_out", facts={"scenario": scenario, "volts": volts or 0.0})


def _of_suspects(found: Judgement) -> Iterator[Finding]:
    if found.verdict != "over":
        return
    if found.search.by_element.get(None, 0.0) >= SURE:
        yield Finding("over_as_drawn")
    ranked = [(e, p) for e, p in found.search.by_element.items() if e is not None]
    if len(ranked) > 1 and not found.search.together:
        (one, p), (other, q) = ranked[:2]
        if p + q >= SURE and q > 0.1:
            yield Finding("one_of_two", piece=one, facts={"other": other or ""})


def _of_protection(found: Judgement) -> Iterator[Finding]:
    """A fuse or breaker that opened did so for a reason: it is told before anybody resets it."""
    if found.loaded is not False:
        return
    kinds = {s.piece.id: kind_of(s.piece) for s in found.run.steps()}
    for suspect in found.search.suspects:
        kind = kinds.get(suspect.element or "")
        if kind in ("fuse", "breaker") and suspect.kind == "open" and suspect.probability >= OPENED:
            yield Finding("protection_open", piece=suspect.element, facts={"kind": kind})
