"""The walk of a run: one measurement after the other, until it is known what is wrong or nothing is.

The current and both whole sides, each across itself, judge a run; only what those leave open is read on, by
what the conclusion asks for. Of several points that would do, the odds pick the one that tells most per
minute. After a true zero current it goes on for the open, by absolute readings.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.bounds.conclusion import Reread
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.outlook.probes import Probe
from spare_margin.core.evidence.verdict.judgement import Done, Judgement
from spare_margin.core.model.jobs import Stage, WalkNote
from spare_margin.core.model.pieces import Side, undrawn

CardKind = Literal["source", "current", "load", "side", "span"]
Ending = Done
ENDS: tuple[Done, ...] = ("good", "cornered", "load", "as_drawn")
"""How a walk ends because something is known; the others end it for want of anything to read."""


NEARLY = 0.8
"""A span that tells this share of what the best one tells per minute does as well."""


@dataclass(frozen=True, slots=True)
class Measurement:
    """One measurement: where the leads go, red first. `id` is the same on every device."""

    id: str
    kind: CardKind
    red: str
    black: str
    side: Side | None = None


@dataclass(frozen=True, slots=True)
class Walk:
    """A walk as far as it has come: measurements done or skipped, the next one, or why it ended.

    `split` is a stretch nobody has drawn that holds the trouble, by its id: before anything else can be
    read, somebody must say where a lead can touch it in between.
    """

    done: tuple[Measurement, ...]
    skipped: tuple[Measurement, ...]
    next: Measurement | None
    ending: Ending
    split: str = ""


def walk(found: Judgement, notes: Sequence[WalkNote], proving: Sequence[Measurement] = ()) -> Walk:
    """Where a walk stands by what the readings say, and what was skipped on it (in order).

    `proving` are the measurements that prove a repair: while nothing is found wrong, a walk goes on until
    all of them are read or skipped.

    Args:
        notes: what was noted on the walk, in order.
    """
    skipped = skips(notes)
    fixed = opening(found.run)
    read, amps = _read(found)
    every = [*fixed, *(m for m in proving if m not in fixed)]
    done = [m for m in every if _is_done(m, read, amps)]
    passed = [m for m in every if m.id in skipped and m not in done]
    ended: Ending = found.done if found.done in ENDS else ""
    search = (
        []
        if ended
        else [
            _measurement(found, each)
            for each in best_first(found.run, found.conclusion.to_read, found.probes)
        ]
    )
    unread = [m for m in proving if m not in done] if ended in ("", "good") else []
    # What proves a repair is read anyway; what is wrong with one is searched for first.
    wrong = found.conclusion.headline in ("contradiction", "over", "over_as_ran", "open")
    for each in [*search, *unread] if wrong else [*unread, *search]:
        if each.id not in skipped:
            return Walk(tuple(done), tuple(passed), each, "")
    stretch = "" if ended in ("good", "load") else _stretch(found)
    if stretch and split_step(stretch) not in skipped:
        return Walk(tuple(done), tuple(passed), None, "", stretch)
    if not ended:
        ended = "no_current" if found.loaded is False else "out_of_reach"
    return Walk(tuple(done), tuple(passed), None, ended)


After = Literal["repair", "proof", "sheet", "bench", "at_rest", "take_up", "elsewhere"]


def after(found: Judgement, stands: Walk, stage: Stage) -> After:
    """The one thing to do next once a walk has ended.

    Plan the repair of what was found, prove it, try the load by itself, find where the current stops,
    take up what was skipped, or measure where no card asked.

    Args:
        stands: where the walk stands.
        stage: as found, planned, or as left.
    """
    made = found.conclusion
    match stands.ending:
        case "good":
            return "proof" if stage == "as_left" else "sheet"
        case "load":
            return "bench"
        case "no_current":
            return "at_rest"
        case "out_of_reach" if stands.skipped and made.between is None:
            return "take_up"
        case "out_of_reach" if made.between is None:
            return "elsewhere"
    # What is found, or lies between two points that were reached, can be put right.
    return "repair" if stage == "as_found" else "sheet"


def split_step(stretch: str) -> str:
    """The step under which it is noted that a stretch cannot be touched in between."""
    return f"split {stretch}"


def _stretch(found: Judgement) -> str:
    """The stretch nobody has drawn that holds the trouble; empty where none does."""
    made = found.conclusion
    between = found.run.between(*made.between) if made.between else None
    where = set(found.found) | set(between.pieces if between else ())
    undrawn_ones = [
        s.piece.id for s in found.run.steps()
        if s.piece.id in where and undrawn(s.piece) and s.piece.kind == "unknown"
    ]  # fmt: skip
    return undrawn_ones[0] if undrawn_ones else ""


def best_first(run: Run, to_read: Sequence[Reread], odds: Sequence[Probe]) -> list[Reread]:
    """What the conclusion asks for; of several spans that would do, the one that tells most per minute.

    Of those that tell nearly as much, the one across the fewest pieces: leads on both ends of a thing are
    set right more easily than leads across the craft.

    Args:
        run: the run that is walked.
        to_read: what the conclusion asks for.
        odds: what each pair of points is expected to tell, where they were asked.
    """
    asked = list(to_read)
    spans = [each for each in asked if each.kind == "span"]
    if len(spans) < 2 or spans[0] is not asked[0]:
        return asked
    worth = {frozenset((p.red, p.black)): p.bits / p.minutes for p in odds}
    told = [worth.get(frozenset((each.red, each.black)), 0.0) for each in spans]
    ranked = sorted(zip(told, spans, strict=True), key=lambda one: -one[0])
    near = [each for bits, each in ranked if bits >= NEARLY * max(told)]
    rest = [each for _, each in ranked[len(near) :]]
    near.sort(key=lambda each: _across(run, each))
    return [*near, *rest, *(each for each in asked if each.kind != "span")]


def _across(run: Run, each: Reread) -> int:
    """How many pieces a span goes over; more than the run has where it is not along one side."""
    between = run.between(each.red, each.black)
    return len(between.pieces) if between else len(tuple(run.steps())) + 1


def _measurement(found: Judgement, asked: Reread) -> Measurement:
    """What is asked for as a measurement, with what the odds expect of it where they were asked."""
    if asked.kind == "span":
        return span(found.run, asked.red, asked.black)
    name = asked.side if asked.kind == "side" and asked.side else asked.kind
    return next(m for m in opening(found.run) if m.id == name)


def opening(run: Run) -> list[Measurement]:
    """The measurements that judge a whole run, and check its sum."""
    return [
        Measurement("source", "source", run.source.live, run.source.back),
        Measurement("current", "current", run.feed_terminal, run.return_terminal),
        Measurement("load", "load", run.feed_terminal, run.return_terminal),
        *_sections(run, "return"),
        *_sections(run, "feed"),
    ]


def _sections(run: Run, side: Side) -> list[Measurement]:
    """A whole side; where something in it is fitted to take volts, that and what lies between."""
    parts = run.sections(side)
    if len(parts) == 1:
        return [Measurement(side, "side", *run.ends(side), side=side)]
    return [span(run, s.start, s.end) for s in parts]


def _read(found: Judgement) -> tuple[frozenset[frozenset[str]], bool]:
    """Pairs of points that were read with the run commanded on, and whether a current was."""
    own = [o for o in found.observed.each if found.run.load.id in o.conditions.running]
    pairs = frozenset(frozenset((o.red, o.black)) for o in own if o.quantity == "volts")
    # A display that wandered is an answer; ohms and a test lamp say nothing of the drop there.
    silent = frozenset(
        frozenset((s.red, s.black)) for s in found.observed.screens if s.shows == "wandering"
    )
    return pairs | silent, any(o.quantity == "amperes" for o in own)


def _is_done(each: Measurement, read: frozenset[frozenset[str]], current_read: bool) -> bool:
    if each.kind == "current":
        return current_read
    return frozenset((each.red, each.black)) in read


def left_to_read(found: Judgement, proving: Sequence[Measurement]) -> list[Measurement]:
    """What of some measurements is not read yet with the run on.

    Args:
        found: what the readings say of the run.
        proving: the measurements that prove the run.
    """
    read, amps = _read(found)
    return [m for m in proving if not _is_done(m, read, amps)]


def skips(notes: Sequence[WalkNote]) -> Mapping[str, str]:
    """Measurements that stand as skipped, with the reason: the last word on each counts.

    Args:
        notes: what was noted on the walk, in order.
    """
    out: dict[str, str] = {}
    for note in notes:
        if note.state == "skipped":
            out[note.step] = note.reason
        elif note.state == "back":
            out.pop(note.step, None)
    return out


def seen(notes: Sequence[WalkNote]) -> list[WalkNote]:
    """What was seen or heard and was not taken back: the step of what takes one back names that one.

    Args:
        notes: what was noted on the walk, in order.
    """
    back = {note.step for note in notes if note.state == "back"}
    return [n for n in notes if n.state == "seen" and f"seen {n.id}" not in back]


def span(run: Run, red: str, black: str) -> Measurement:
    """A measurement between any two points.

    Args:
        run: the run.
        red: the id of the point that the red lead is on.
        black: the id of the point that the black lead is on.
    """
    between = run.between(red, black)
    side = between.side if between else None
    return Measurement(f"span {red} {black}", "span", red, black, side)


METER_RANGES_V = (0.6, 6.0, 60.0, 600.0)
"""The ranges of a usual 6000-count meter (V)."""


def range_for(volts: float) -> float:
    """The lowest range of a usual meter that holds this reading (V).

    Args:
        volts: the reading (V).

    >>> range_for(0.2), range_for(12.6)
    (0.6, 60.0)
    """
    return next((r for r in METER_RANGES_V if abs(volts) <= 0.95 * r), METER_RANGES_V[-1])


HOLD_SECONDS: Mapping[str, float] = {"short_time": 5.0}
"""How long a load may be held on for a reading, by its duty; others as long as they run."""
EXPECTED_WITHIN = 0.03
"""A source or load reads within this share of what is expected, where all is well."""


@dataclass(frozen=True, slots=True)
class Expectation:
    """What a good reading looks like (V, or A for a current): from `low` to `high`, about `likely`.

    `likely` is None where the drawing does not say; `allowed` is the most it may be, if anything says.
    """

    likely: float | None
    low: float
    high: float
    allowed: float | None


def expectation(
    each: Measurement,
    expected: float | None,
    allowed: float | None,
    amps: float | None,
    source_v: float | None = None,
) -> Expectation | None:
    """What to expect of a measurement; None where nothing says.

    Args:
        expected: what the craft as drawn shows there (V); None where a point hangs loose, or where what
            lies between is not drawn.
        allowed: what may be lost there (V), if anything says; across the load, what its whole loop may.
        amps: what the load should draw (A); None where nobody knows.
        source_v: what the source was read at.
        each: the measurement.
    """
    if each.kind == "current":
        return None if amps is None else Expectation(amps, amps, amps, None)
    if each.kind == "load" and source_v is not None and allowed is not None:
        return Expectation(expected, source_v - allowed, source_v, None)
    drop = each.kind in ("side", "span") and allowed is not None
    if drop and allowed is not None and (expected is None or abs(expected) <= 2 * allowed):
        return Expectation(expected, 0.0, allowed, allowed)
    if expected is None:
        return None
    off = EXPECTED_WITHIN * abs(expected)
    return Expectation(expected, expected - off, expected + off, None)
