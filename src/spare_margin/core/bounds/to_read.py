"""What to read next so that a run can be judged, or its fault found; the first within reach counts."""

from collections.abc import Iterator

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.pieces import SIDES, Side

from .conclusion import Conclusion, Reread
from .held import Judged
from .moment import RunMoment
from .opens import Open

SOURCE_TIMES = 3
"""A source that was read so often in one moment and does not stand still is not asked for again."""


def to_read(
    run: Run, judged: Judged | None, made: Conclusion, found: Open | None
) -> tuple[Reread, ...]:
    """Pairs of points to read next, the most telling first, each once.

    Args:
        run: the run.
        judged: the moment that counts; None where none does.
        made: the conclusion so far.
        found: where the run is open; None where nothing says so.
    """
    return tuple(dict.fromkeys(_to_read(run, judged, made, found)))


def _to_read(
    run: Run, judged: Judged | None, made: Conclusion, found: Open | None
) -> Iterator[Reread]:
    if judged is None:
        if made.headline != "open":
            yield _current(run)
            yield from (each for side in reversed(SIDES) for each in _sections(run, side))
        return
    moment = judged.moment
    match made.headline:
        case "contradiction":
            yield from _again(run, moment)
            yield from _unread_sides(run, judged)
        case "open":
            yield from _inside(run, moment, found)
        case "no_current":
            yield from _where_it_stops(run, moment)
        case "within":
            return
        case headline:
            if moment.amperes is None:
                yield _current(run)
            over = headline in ("over", "over_as_ran")
            yield from _closing_in(run, judged, made) if over else _undecided(run, judged, made)


def _undecided(run: Run, judged: Judged, made: Conclusion) -> Iterator[Reread]:
    posts = {run.source.live, run.source.back}
    times = sum(1 for o in judged.moment.volts if {o.red, o.black} == posts)
    if made.unsettled and judged.moment.settled:
        yield from _early(run, judged.moment)
    elif made.unsettled and times < SOURCE_TIMES:
        yield Reread("source", run.source.live, run.source.back)
    yield from _unread_sides(run, judged)
    for side in reversed(SIDES):
        if judged.parts[side].verdict == "too_close":
            start, _ = run.ends(side)
            yield from (Reread("span", start, p, side) for p in judged.parting(side) if p != start)


def _early(run: Run, moment: RunMoment) -> Iterator[Reread]:
    """What was read before the source stood still: the current, and whole sides."""
    if moment.early(run.feed_terminal, run.return_terminal, "amperes"):
        yield _current(run)
    for side in reversed(SIDES):
        yield from (each for each in _sections(run, side) if moment.early(each.red, each.black))


def _current(run: Run) -> Reread:
    return Reread("current", run.feed_terminal, run.return_terminal)


def _side(run: Run, side: Side) -> Reread:
    return Reread("side", *run.ends(side), side)


def _sections(run: Run, side: Side) -> list[Reread]:
    """A whole side; where something in it is fitted to take volts, each part that is to lose none."""
    parts = [s for s in run.sections(side) if not s.on_purpose]
    if len(parts) == len(run.sections(side)) == 1:
        return [_side(run, side)]
    return [Reread("span", s.start, s.end, side) for s in parts]


def _unread_sides(run: Run, judged: Judged) -> Iterator[Reread]:
    """Whole sides that were not read across themselves."""
    for side in reversed(SIDES):
        for each in _sections(run, side):
            read = judged.moment.read_across(each.red, each.black)
            if not judged.moment.contradiction:
                read = read or judged.spanned(side, each.red, each.black)
            if not read:
                yield each


def _again(run: Run, moment: RunMoment) -> Iterator[Reread]:
    """Those of contradicting readings that were taken once only."""
    by_id = {o.reading: o for o in moment.readings}
    for reading in moment.contradiction:
        o = by_id[reading]
        pair = {o.red, o.black}
        times = sum(1 for r in moment.readings if {r.red, r.black} == pair)
        if o.quantity == "amperes":
            yield _current(run)
        elif times == 1:
            yield _as_read(run, o.red, o.black)


def _as_read(run: Run, red: str, black: str) -> Reread:
    if {red, black} == {run.source.live, run.source.back}:
        return Reread("source", run.source.live, run.source.back)
    if {red, black} == {run.feed_terminal, run.return_terminal}:
        return Reread("load", run.feed_terminal, run.return_terminal)
    between = run.between(red, black)
    if between is not None and {red, black} == set(run.ends(between.side)):
        return _side(run, between.side)
    return Reread("span", red, black, between.side if between else None)


def _where_it_stops(run: Run, moment: RunMoment) -> Iterator[Reread]:
    """Absolute readings that tell on which side of the load nothing comes through."""
    if moment.live(run.feed_terminal) and moment.at_return(run.return_terminal):
        return  # its volts are there: the load itself, or what commands it
    read = {frozenset((o.red, o.black)) for o in moment.volts}
    asked = [
        Reread("source", run.source.live, run.source.back),
        Reread("load", run.feed_terminal, run.return_terminal),
        Reread("span", run.feed_terminal, run.source.back),
        Reread("span", run.return_terminal, run.source.back, "return"),
    ]
    for each in asked:
        if each.red != each.black and frozenset((each.red, each.black)) not in read:
            yield each


def _inside(run: Run, moment: RunMoment, found: Open | None) -> Iterator[Reread]:
    """Points between the two that an open lies between, against the return post, the middle first."""
    if found is None:
        return
    back = run.source.back
    steps = [s for s in run.way(found.side) if s.piece.id in found.pieces]
    points = [s.exit for s in steps[:-1]]
    read = {p for o in moment.volts for p in (o.red, o.black) if back in (o.red, o.black)}
    for point in _middle_first(points):
        if point not in read:
            yield Reread("span", point, back, None if found.side == "feed" else "return")


def _closing_in(run: Run, judged: Judged, made: Conclusion) -> Iterator[Reread]:
    """Within the span that must hold the excess: up to a point in its middle, then across a piece."""
    span = made.more if made.found else made.between
    if span is None:
        return
    start, end = span
    within = run.between(start, end)
    if within is None:
        yield from _unread_sides(run, judged)
        return
    steps = [s for s in run.way(within.side) if s.piece.id in within.pieces]
    if any(s.on_purpose for s in steps):
        yield from _unread_sides(run, judged)
        return
    for point in _middle_first([s.exit for s in steps[:-1]]):
        if not judged.moment.read_across(start, point):
            yield Reread("span", start, point, within.side)
    for step in steps:
        if not judged.moment.read_across(step.entry, step.exit):
            yield Reread("span", step.entry, step.exit, within.side)


def _middle_first(points: list[str]) -> list[str]:
    middle = (len(points) - 1) / 2
    return sorted(points, key=lambda p: abs(points.index(p) - middle))
