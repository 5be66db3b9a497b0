"""What is one resistance in one moment and another in the next: grows warm, comes and goes."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from itertools import pairwise

from spare_margin.core.circuit.runs import Run
from spare_margin.core.measure.findings import Changes, Finding, GrowsWarm, ShrinksWarm

from .drift import Interval
from .held import Judged
from .moment import ReadStretch

LEAST_SHARE = 0.25
"""Two resistances differ where their bounds do not meet, by this share of the smaller at least: a warm wire
alone has a few per cent more."""
UNKNOWN_TIMES = 1.5
"""Where no meter read the current, it may have been so many times what it was in the other moment."""


@dataclass(frozen=True, slots=True)
class SpanThen:
    """A span in one moment: its volts then, its ohms where the current is known."""

    judged: Judged
    stretch: ReadStretch
    volts: Interval
    ohms: Interval | None
    reading: str


def trends(run: Run, moments: Sequence[Judged]) -> list[Finding]:
    """Spans read across themselves in several moments that differ beyond all doubt, in order.

    Args:
        run: the run.
    """
    out: list[Finding] = []
    if len(moments) < 2:
        return out
    for taken in _again(run, moments).values():
        for before, after in pairwise(taken):
            told = _trend(before, after)
            if told is not None:
                out.append(told)
    return out


def _again(run: Run, moments: Iterable[Judged]) -> Mapping[tuple[str, str], list[SpanThen]]:
    held: dict[tuple[str, str], list[SpanThen]] = {}
    for judged in moments:
        if judged.moment.contradiction or judged.moment.dead:
            continue
        for o in judged.moment.volts:
            between = run.between(o.red, o.black)
            if between is None:
                continue
            pair = (o.red, o.black) if between.forward else (o.black, o.red)
            steps = tuple(s for s in run.way(between.side) if s.piece.id in between.pieces)
            stretch = ReadStretch(between.side, *pair, steps, False, False)
            volts = judged.bounds.least_v(*pair), judged.bounds.most_v(*pair)
            each = SpanThen(judged, stretch, volts, judged.ohms(*pair, [stretch]), o.reading)
            if all(t.judged is not judged for t in held.get(pair, ())):
                held.setdefault(pair, []).append(each)
    return {pair: taken for pair, taken in held.items() if len(taken) > 1}


def _trend(before: SpanThen, after: SpanThen) -> Finding | None:
    if before.ohms is not None and after.ohms is not None:
        rises = _apart(before.ohms, after.ohms, 1 + LEAST_SHARE)
    else:
        rises = _apart(before.volts, after.volts, UNKNOWN_TIMES)
    if rises is None:
        return None
    first, last = before.judged.moment.conditions, after.judged.moment.conditions
    cold, warm = first.warm_min, last.warm_min
    made = Changes(
        readings=(before.reading, after.reading),
        piece=before.stretch.pieces[0] if len(before.stretch.steps) == 1 else None,
        before_v=sum(before.volts) / 2, after_v=sum(after.volts) / 2,
        before_ohm=_middle(before.ohms), after_ohm=_middle(after.ohms),
    )  # fmt: skip
    if cold is None or warm is None or cold == warm:
        return made
    kind = GrowsWarm if rises == (warm > cold) else ShrinksWarm
    return kind(**asdict(made), cold_min=min(cold, warm), warm_min=max(cold, warm))


def _middle(ohms: Interval | None) -> float | None:
    return None if ohms is None else sum(ohms) / 2


def _apart(one: Interval, other: Interval, times: float) -> bool | None:
    """Whether the other lies clearly above the one (True) or below it (False); None: neither."""
    if other[0] > one[1] and other[0] > times * max(one[0], 0.0):
        return True
    if one[0] > other[1] and one[0] > times * max(other[0], 0.0):
        return False
    return None


def comes_and_goes(moments: Sequence[Judged], told: Sequence[Finding]) -> tuple[str, str] | None:
    """The ends of a piece that was over in one moment and well in another, warm-up apart.

    Args:
        moments: the moments of the run, in the order of reading.
        told: the trends that were found.
    """
    if not any(isinstance(f, Changes) for f in told):
        return None
    bad: dict[str, ReadStretch] = {}
    for judged in moments:
        for piece, (low, _, stretch) in _pieces(judged).items():
            if low > judged.allowances.get(piece, 0.0):
                bad[piece] = stretch
    for judged in moments:
        for piece, (_, high, _) in _pieces(judged).items():
            if piece in bad and high <= judged.allowances.get(piece, 0.0):
                return bad[piece].entry, bad[piece].exit
    return None


def _pieces(judged: Judged) -> Mapping[str, tuple[float, float, ReadStretch]]:
    if judged.moment.contradiction or judged.moment.flows is not True:
        return {}
    return {key: (low.volts, high.volts, s) for key, (low, high, s) in judged.pieces.items()}
