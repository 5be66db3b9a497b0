"""The debrief: what each act told, what would have told more for less, what a conclusion rested on."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.model.jobs import Quantity

from .acts import MEASURING, Act, Claim
from .exercise import Exercise, Hidden
from .expert import next_act, way
from .left import Judge, Left, Standing
from .played import Danger, Played, Told
from .playing import act
from .repairing import repair_cost

Rested = Literal["carried", "lucky", "guessed"]
"""The readings leave no other way; right, but they do not carry it; neither right nor carried."""
Outcome = Literal[
    "mended", "not_proven", "not_mended", "well", "well_unproven", "missed", "needless"
]
"""Put right and proven; put right and not proven; something is wrong still; nothing was wrong and that is
proven, or not; all was said to be well and was not; nothing was wrong and something was done."""
Habit = Literal[
    "no_current", "pieces_first", "ohms_believed", "not_read_across", "not_proven", "clamp_not_zeroed",
    "danger",
]  # fmt: skip
MORE_FOR_LESS = 1.5
"""Another act is told of only where it takes away so many times as much a minute."""


@dataclass(frozen=True, slots=True)
class Better:
    """What would have told more for less: the act, its minutes, and what it would have left possible."""

    act: Act
    minutes: float
    left: Left


@dataclass(frozen=True, slots=True)
class Step:
    """One act of a learner, with what was possible before it and after it."""

    act: Act
    told: Told
    before: Left
    after: Left
    better: Better | None = None


@dataclass(frozen=True, slots=True)
class Rest:
    """What a claim rested on: whether the readings carry it, whether it is true, and its kind right."""

    claim: Claim
    rested: Rested
    true: bool
    kind_right: bool
    readings: tuple[str, ...]


@dataclass(frozen=True)
class Debrief:
    """All of it.

    Attributes:
        rests: what each claim rested on, in their order.
        well: what the last word, that all is well, rested on; None where nobody said so.
        needless: what of the minutes and of the price went into sound parts.
        shortest: how somebody who knows no more than he reads would have gone.
    """

    exercise: Exercise
    steps: tuple[Step, ...]
    rests: tuple[Rest, ...]
    well: Rested | None
    outcome: Outcome
    minutes: float
    price: float
    needless: tuple[float, float]
    dangers: tuple[Danger, ...]
    habits: tuple[Habit, ...]
    shortest: Played

    @property
    def right(self) -> bool:
        """Whether it ended as it should, and by what was read: a lucky guess is none."""
        carried = all(r.rested == "carried" for r in self.rests)
        return self.outcome in ("mended", "well") and carried


def debrief(at: Played, judge: Judge) -> Debrief:
    """What is to be said of an exercise that has ended.

    Args:
        at: as it was played.
        judge: what says what readings mean.
    """
    exercise = at.exercise
    before = Played(exercise=exercise)
    stands = Standing(before, judge)
    steps: list[Step] = []
    rests: list[Rest] = []
    well: Rested | None = None
    habits: dict[Habit, None] = {}
    for done, told in zip(at.acts, at.told, strict=True):
        after = act(before, done)
        if done.kind in MEASURING:
            stood = stands
            stands = Standing(after, judge)
            better = _better(before, stood, stands.left, told, judge)
            steps.append(Step(done, told, stood.left, stands.left, better))
        else:
            if done.kind == "conclude":
                said = list(_rests(stands, done))
                rests += said
                well = None if done.claims else _well(stands)
                habits.update(dict.fromkeys(_concluded_habits(stands, said, well)))
            steps.append(Step(done, told, stands.left, stands.left))
            if done.kind in ("conclude", "wait"):
                stands = Standing(after, judge)
        habits.update(dict.fromkeys(_habits(before, done, told)))
        before = after
    outcome = _outcome(before, stands, rests)
    if outcome in ("not_proven", "well_unproven"):
        habits["not_proven"] = None
    sound = [repair_cost(exercise, r.claim) for r in rests if not r.true]
    dangers = tuple(dict.fromkeys(t.danger for t in at.told if t.danger is not None))
    return Debrief(
        exercise, tuple(steps), tuple(rests), well, outcome, at.minutes, at.price,
        (sum(m for m, _ in sound), sum(p for _, p in sound)), dangers, tuple(habits),
        way(exercise, judge),
    )  # fmt: skip


# What would have told more


def _better(
    before: Played, stood: Standing, after: Left, told: Told, judge: Judge
) -> Better | None:
    """What an expert would have done instead, where that leaves less for the minutes it takes.

    It is played, not guessed: what it would have left possible is what its reading would have shown.
    """
    asked, minutes = next_act(stood), 0.0
    while asked is not None and asked.kind not in MEASURING:
        # What has to be done first, as zeroing the clamp, is paid for too.
        before = act(before, asked)
        minutes += before.told[-1].minutes
        asked = next_act(Standing(before, judge))
    if asked is None:
        return None
    other = act(before, asked)
    left = Standing(other, judge).left
    minutes += other.told[-1].minutes
    gain = _gain(stood.left, after) / max(told.minutes, 0.1)
    could = _gain(stood.left, left) / max(minutes, 0.1)
    return Better(asked, minutes, left) if could > max(MORE_FOR_LESS * gain, 0.0) else None


def _gain(before: Left, after: Left) -> float:
    found = len(set(after.found) - set(before.found))
    return max(before.weight - after.weight, 0.0) + found


# What a conclusion rested on


def _rests(stands: Standing, done: Act) -> Iterator[Rest]:
    for claim in done.claims:
        hidden = _hidden(stands.at, claim)
        carried = stands.carries(claim)
        rested: Rested = "carried" if carried else "lucky" if hidden is not None else "guessed"
        kind = hidden is not None and claim.kind == kind_of(stands.exercise, hidden)
        yield Rest(claim, rested, hidden is not None, kind, _readings_across(stands, claim.element))


def _hidden(at: Played, claim: Claim) -> Hidden | None:
    """What of what is wrong still a claim names; None where it names something sound."""
    return next(
        (
            h
            for h in at.exercise.hidden
            if h.element == claim.element and h.element not in at.state.mended
        ),
        None,
    )


def kind_of(exercise: Exercise, hidden: Hidden) -> str:
    """What kind of thing is wrong: as a claim says it.

    Args:
        exercise: the exercise.
        hidden: one thing that is wrong in it.
    """
    if hidden.element == exercise.loop.source.id:
        return "weak"
    if hidden.element not in exercise.ohms:
        return "load"
    if hidden.when != "always":
        return "loose"
    return "open" if hidden.ohm == float("inf") else "resistance"


def _readings_across(stands: Standing, element: str) -> tuple[str, ...]:
    """The readings that were taken across an element itself."""
    craft = stands.exercise.craft
    ends = {e.id: {e.start, e.end} for e in (*craft.pieces, *craft.loads)} | {
        s.id: {s.live, s.back} for s in craft.sources
    }
    return tuple(
        r.id
        for r in stands.at.current
        if {r.red, r.black} == ends.get(element) or r.moved == element
    )


def _well(stands: Standing) -> Rested:
    if stands.carries_well:
        return "carried"
    return "lucky" if stands.at.truly_well else "guessed"


def _outcome(at: Played, stands: Standing, rests: Sequence[Rest]) -> Outcome:
    proven = stands.carries_well
    wrong = bool(at.exercise.hidden)
    if not wrong:
        if rests:
            return "needless"
        return "well" if proven else "well_unproven"
    if not rests:
        return "missed"
    if not at.truly_well:
        return "not_mended"
    return "mended" if proven else "not_proven"


# What costs, again and again


def _habits(before: Played, done: Act, told: Told) -> Iterator[Habit]:
    if told.danger is not None:
        yield "danger"
    if done.kind == "amperes" and not before.zeroed:
        yield "clamp_not_zeroed"
    if done.kind == "volts" and not before.repairs and _is_first_across_a_piece(before, done):
        yield "pieces_first"


def _is_first_across_a_piece(before: Played, done: Act) -> bool:
    """Whether a piece was read across before either side was, and before anything else."""
    run = before.exercise.loop
    if any(r.quantity == "volts" for r in before.readings):
        return False
    between = run.between(done.red, done.black) if done.red and done.black else None
    return between is not None and {done.red, done.black} != set(run.ends(between.side))


def _concluded_habits(
    stands: Standing, rests: Sequence[Rest], well: Rested | None
) -> Iterator[Habit]:
    at, made = stands.at, stands.own.conclusion
    carried = [r.rested == "carried" for r in rests] or [well == "carried"]
    if made.loaded is None and made.headline != "open" and not all(carried):
        yield "no_current"
    for rest in rests:
        if rest.rested == "carried" or rest.claim.element not in stands.exercise.ohms:
            continue
        across = [r for r in at.current if r.id in rest.readings]
        quantities: set[Quantity] = {r.quantity for r in across}
        if quantities == {"ohms"}:
            yield "ohms_believed"
        elif not across:
            yield "not_read_across"
    if well is not None and well != "carried" and any(r.quantity == "ohms" for r in at.current):
        yield "ohms_believed"
