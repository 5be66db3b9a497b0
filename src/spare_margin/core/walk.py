"""The walk of a run: one measurement after the other, until it is known what is wrong or nothing is.

Source at the posts, current proven, the whole loop at the load; then, only if that fails, the whole
return, the whole feed, and pieces of the side that failed, in the order that tells most per minute.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from .account import RunAccount
from .budget import RunBudget
from .cornering import Cornered, Probe
from .jobs import WalkNote
from .meters import Meter
from .pieces import Access, Side

StepKind = Literal["source", "current", "load", "side", "span"]
Ending = Literal["", "within", "cornered", "wiring_good", "not_loaded", "out_of_steps"]


@dataclass(frozen=True, slots=True)
class Step:
    """One measurement: where the leads go, red first. `id` is the same on every device."""

    id: str
    kind: StepKind
    red: str
    black: str
    side: Side | None = None
    bits: float | None = None
    minutes: float | None = None


@dataclass(frozen=True, slots=True)
class Walk:
    """A walk as far as it has come: steps done or skipped, the next one, or why it ended."""

    done: tuple[Step, ...]
    skipped: tuple[Step, ...]
    next: Step | None
    ending: Ending


def walk(
    budget: RunBudget,
    seen: RunAccount,
    cornered: Cornered,
    read: frozenset[frozenset[str]],
    current_read: bool,
    notes: Sequence[WalkNote],
    meter: Meter | None = None,
) -> Walk:
    """Where a walk stands.

    Args:
        budget: the run's budget, loaded.
        seen: what its readings say.
        cornered: the search among its faults with the same readings.
        read: pairs of points across which something stands that was read.
        current_read: whether a current was read.
        notes: what was skipped on this walk, in order.
        meter: the meter, where source and load were read with one and the same.
    """
    skipped = _skipped(notes)
    fixed = _opening(budget)
    done = [s for s in fixed if _is_done(s, read, current_read)]
    passed = [s for s in fixed if s.id in skipped and s not in done]
    for step in fixed[:3]:
        if step not in done and step.id not in skipped:
            return Walk(tuple(done), tuple(passed), step, "")
    if seen.verdict == "not_loaded":
        return Walk(tuple(done), tuple(passed), None, "not_loaded")
    if loop_is_good(budget, seen, meter):
        return Walk(tuple(done), tuple(passed), None, "within")
    for step in fixed[3:]:
        if step not in done and step.id not in skipped:
            return Walk(tuple(done), tuple(passed), step, "")
    return _cornering(budget, seen, cornered, read, skipped, (done, passed))


def _opening(budget: RunBudget) -> list[Step]:
    run = budget.run
    return [
        Step("source", "source", run.source.live, run.source.back),
        Step("current", "current", run.feed_terminal, run.return_terminal),
        Step("load", "load", run.feed_terminal, run.return_terminal),
        Step("return", "side", *run.ends("return"), side="return"),
        Step("feed", "side", *run.ends("feed"), side="feed"),
    ]


def _is_done(step: Step, read: frozenset[frozenset[str]], current_read: bool) -> bool:
    if step.kind == "current":
        return current_read
    return frozenset((step.red, step.black)) in read


def _skipped(notes: Sequence[WalkNote]) -> dict[str, str]:
    """Steps that stand as skipped, with the reason: the last word on a step counts."""
    out: dict[str, str] = {}
    for note in notes:
        if note.state == "skipped":
            out[note.step] = note.reason
        elif note.state == "back":
            out.pop(note.step, None)
    return out


LIKELY_SHARE = 0.95
"""Good pieces lose at least this share of what is predicted."""


def loop_is_good(budget: RunBudget, seen: RunAccount, meter: Meter | None = None) -> bool:
    """Whether what the whole loop lost keeps every ceiling: then nothing else needs a test.

    Lost = source - load, as read. A round-trip ceiling is kept by the loss itself. A side's is kept if,
    even with everything that was lost beyond what is predicted sitting on that side, it would be.
    """
    if seen.source is None or seen.load is None:
        return False
    if len(seen.sides) == len(budget.sides) and all(
        j.verdict == "within" for j in seen.sides.values()
    ):
        return True
    lost = seen.source.volts - seen.load.volts - sum(s.purpose_v for s in budget.sides)
    doubt = seen.source.accuracy + seen.load.accuracy
    if meter is not None:
        doubt = meter.difference(seen.source.volts, seen.load.volts)
    scale = budget.current_a / seen.clamp_a if seen.clamp_a else 1.0
    most = (lost + doubt) * scale
    both = budget.ceilings.round_trip_v
    predicted = sum(s.drop_v for s in budget.sides)
    beyond = max(most - LIKELY_SHARE * predicted, 0.0)
    spares = [s.spare_v for s in budget.sides if s.spare_v is not None]
    if both is None and not spares:
        return False
    return (both is None or most <= both) and all(beyond <= spare for spare in spares)


def _cornering(
    budget: RunBudget,
    seen: RunAccount,
    cornered: Cornered,
    read: frozenset[frozenset[str]],
    skipped: Mapping[str, str],
    so_far: tuple[list[Step], list[Step]],
) -> Walk:
    done, passed = map(tuple, so_far)
    failed = [
        s.side
        for s in budget.sides
        if s.side in seen.sides and seen.sides[s.side].verdict != "within"
    ]
    if seen.guilty is not None and cornered.done:
        return Walk(done, passed, None, "cornered")
    if not failed and len(seen.sides) == len(budget.sides):
        return Walk(done, passed, None, "wiring_good")
    if cornered.done:
        return Walk(done, passed, None, "cornered")
    wanted = set(failed) or {s.side for s in budget.sides}
    points = {p: side for side in wanted for p in _points(budget, side)}
    for probe in cornered.next_probes:
        step = _span(probe, points)
        if frozenset((step.red, step.black)) not in read and step.id not in skipped:
            return Walk(done, passed, step, "")
    for side in sorted(wanted):
        for piece in budget.run.side(side):
            step = Step(f"span {piece.entry} {piece.exit}", "span", piece.entry, piece.exit, side)
            if frozenset((step.red, step.black)) not in read and step.id not in skipped:
                return Walk(done, passed, step, "")
    return Walk(done, passed, None, "out_of_steps")


def _points(budget: RunBudget, side: Side) -> list[str]:
    steps = budget.run.side(side)
    return [*budget.run.ends(side), *(p for s in steps for p in (s.entry, s.exit))]


def _span(probe: Probe, points: Mapping[str, Side]) -> Step:
    side = points.get(probe.red) if points.get(probe.red) == points.get(probe.black) else None
    return Step(
        f"span {probe.red} {probe.black}", "span", probe.red, probe.black, side,
        probe.bits, probe.minutes,
    )  # fmt: skip


METER_RANGES_V = (0.6, 6.0, 60.0, 600.0)


def range_for(volts: float) -> float:
    """The lowest range of a usual meter that holds this reading (V)."""
    return next((r for r in METER_RANGES_V if abs(volts) <= 0.95 * r), METER_RANGES_V[-1])


HOLD_SECONDS: Mapping[str, float] = {"short_time": 5.0}
"""How long a load may be held on for a reading, by its duty; others as long as they run."""


def manner(access: Access) -> str:
    """How a point is reached without hurting it."""
    return {
        "open": "In the open: touch the metal of the terminal itself, not the screw or nut over it.",
        "backprobe": "Back-probe: go in at the wire side, parallel to the wire, without nicking the seal; "
        "never push a thick tip into the front of a terminal.",
        "trim": "Behind trim: take it off first. Do not pierce insulation to save the work.",
    }[access]
