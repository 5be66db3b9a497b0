"""Before and after: every measurement of a proof, every piece, what was won, and what is warm."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.evidence.observation.observations import Observation, live_readings
from spare_margin.core.evidence.verdict.account import account
from spare_margin.core.evidence.verdict.judgement import JudgedSpan, Judgement, PartVerdict
from spare_margin.core.model.pieces import SIDES, Side
from spare_margin.core.walk.walk import Measurement

from .passes import ProofPass

Known = Literal["read", "worked_out", "predicted"]
"""How a figure is known: read there, worked out from other readings, or from the tables alone."""
TELLS_NOTHING = 0.5
"""A figure worked out whose doubt is more than this share of it is not known."""


@dataclass(frozen=True, slots=True)
class KnownFigure:
    """What is known of one place (V, or A for a current), with its verdict where it has one.

    `reading` is the id of the reading, where it was read there.
    """

    value: float
    doubt: float
    verdict: PartVerdict = "not_judged"
    reading: str = ""

    @property
    def known(self) -> Known:
        """Whether it was read, or worked out from other readings."""
        return "read" if self.reading else "worked_out"


@dataclass(frozen=True, slots=True)
class Row:
    """One measurement of the proof, before and after; `expected` by the planned wiring."""

    measurement: Measurement
    before: KnownFigure | None
    after: KnownFigure | None
    expected: float | None
    allowed: float | None


@dataclass(frozen=True, slots=True)
class PieceChange:
    """One piece of the run as left, in the worst scenario: ohms and volts before and after, as measured.

    None before where it was not there; `worked_on` where it is new or otherwise; `known` how its volts
    after are known: none of a piece is read unless a reading crosses it.
    """

    piece: str
    side: Side
    before_v: float | None
    after_v: float
    before_ohm: float | None
    after_ohm: float
    worked_on: bool
    known: Known


@dataclass(frozen=True, slots=True)
class Won:
    """What the repair gave, by what was read before and after."""

    scenario: str
    load_v: tuple[float | None, float | None]
    lost_v: tuple[float, float]
    heat_w: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Surface:
    """A surface above the cable beside it (K), by the points its reading names."""

    red: str
    black: str
    before_k: float | None
    after_k: float | None


def row(each: Measurement, found: ProofPass | None, left: ProofPass, expected: float | None) -> Row:
    """A measurement of the proof, before and after.

    Args:
        each: the measurement.
        found: what was read as found; None where nothing was.
        left: what was read as left.
        expected: what it should show (V or A); None where nobody can say.
    """
    after = _figure(each, left.judgement)
    before = None if found is None else _figure(each, found.judgement)
    allowed = None
    if each.side is not None and each.kind == "side":
        allowed = left.judgement.sides[each.side].ceiling_v
    elif each.kind == "span":
        allowed = next((s.allowed_v for s in _spans(each, left.judgement)), None)
    return Row(each, before, after, expected, allowed)


def _spans(each: Measurement, found: Judgement) -> list[JudgedSpan]:
    """What was read over a span, the moment judged last."""
    own = [s for s in found.spans if {s.span.red, s.span.black} == {each.red, each.black}]
    key = found.conditions.key if found.conditions else ""
    return sorted(own, key=lambda s: s.span.conditions.key == key, reverse=True)


def _figure(each: Measurement, found: Judgement) -> KnownFigure | None:
    if each.kind == "current":
        return _current(found)
    spans = _spans(each, found)
    if spans:
        verdict = spans[0].verdict
        if each.side is not None and each.kind == "side":
            verdict = found.sides[each.side].verdict
        return KnownFigure(spans[0].volts, spans[0].doubt_v, verdict, spans[0].span.readings[-1])
    if each.kind == "side" and each.side is not None:
        side = found.sides[each.side]
        if side.volts is not None and side.doubt_v is not None:
            return _told(KnownFigure(side.volts, side.doubt_v, side.verdict))
    return _off_the_way(each, found)


def _current(found: Judgement) -> KnownFigure | None:
    """What the load draws, as metered in the moment that counts."""
    metered = metered_current(found)
    if metered is None:
        return None if found.amps is None else KnownFigure(*found.amps)
    return KnownFigure(abs(metered.value), metered.limit, reading=metered.reading)


def metered_current(found: Judgement) -> Observation | None:
    """The last reading of the load's own current in the moment that counts: at it, or in series with it.

    Args:
        found: what the readings say of the run.
    """
    judged = found.concluded.judged
    clamped = judged.moment.clamped if judged is not None else ()
    return next((o for o in found.observed.each if o.reading in clamped[-1:]), None)


def _told(figure: KnownFigure) -> KnownFigure | None:
    """A figure worked out; None where its doubt leaves next to nothing of it."""
    return None if figure.doubt > TELLS_NOTHING * abs(figure.value) else figure


def _off_the_way(each: Measurement, found: Judgement) -> KnownFigure | None:
    """What was read beside the run's own way while it was on, as over the coil of a relay."""
    own = [
        o
        for o in found.observed.each
        if o.quantity == "volts"
        and {o.red, o.black} == {each.red, each.black}
        and found.run.load.id in o.conditions.running
    ]
    if not own:
        return None
    value = own[-1].value if own[-1].red == each.red else -own[-1].value
    return KnownFigure(value, own[-1].limit, reading=own[-1].reading)


def piece_changes(
    found: ProofPass | None, left: Judgement, worked: frozenset[str]
) -> Iterator[PieceChange]:
    """Every piece on the run's way, as measured, where least is spare as left.

    Args:
        found: what was read as found; None where nothing was.
        worked: the ids of the pieces that were worked on.
    """
    crossed = {piece for span in left.spans if span.span.side for piece in span.span.pieces}
    after = left.measured.solved(left.worst.id)[0].solution.elements
    before = None
    if found is not None and any(s.id == left.worst.id for s in found.judgement.craft.scenarios):
        before = found.judgement.measured.solved(left.worst.id)[0].solution.elements
    for side in SIDES:
        for step in left.run.way(side):
            now = after[step.piece.id]
            then = before[step.piece.id] if before is not None and step.piece.id in before else None
            yield PieceChange(
                step.piece.id, side,
                None if then is None else abs(then.drop_v or 0.0), abs(now.drop_v or 0.0),
                None if then is None else then.resistance_ohm, now.resistance_ohm or 0.0,
                step.piece.id in worked, "worked_out" if step.piece.id in crossed else "predicted",
            )  # fmt: skip


def won(found: ProofPass | None, left: Judgement) -> Won | None:
    """What was won, by what was read before and after; None where either lacks a side or a current.

    Args:
        found: what was read as found; None where nothing was.
        left: what the readings as left say of the run.
    """
    if found is None:
        return None
    both = [_lost(found.judgement), _lost(left)]
    before, after = both
    if before is None or after is None:
        return None
    return Won(
        left.worst.id, (before.load_v, after.load_v), (before.lost_v, after.lost_v),
        (before.heat_w, after.heat_w),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Lost:
    """What a run lost when it was read: volts at the load, volts in the wiring, watts there."""

    load_v: float | None
    lost_v: float
    heat_w: float


def _lost(found: Judgement) -> _Lost | None:
    sides = [found.sides[side].volts for side in SIDES]
    if found.amps is None or sides[0] is None or sides[1] is None:
        return None
    lost = sides[0] + sides[1]
    load = account(found).load
    return _Lost(None if load is None else load.volts, lost, lost * found.amps[0])


def surfaces(found: ProofPass | None, left: ProofPass) -> Iterator[Surface]:
    """Every surface whose temperature was read, before or after.

    Args:
        found: what was read as found; None where nothing was.
        left: what was read as left.
    """

    def warm(each: ProofPass | None) -> dict[tuple[str, str], float]:
        read = () if each is None else live_readings(each.readings)
        return {
            (min(r.red, r.black), max(r.red, r.black)): r.value
            for r in read
            if r.quantity == "kelvin" and r.value is not None
        }

    before, after = warm(found), warm(left)
    for pair in dict.fromkeys([*before, *after]):
        yield Surface(*pair, before.get(pair), after.get(pair))
