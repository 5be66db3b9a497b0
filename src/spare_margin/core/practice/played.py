"""An exercise as far as it was played: each act changes the craft, costs minutes, and may give readings.

Playing is a function of the exercise and the acts: the same acts give the same figures, on any device.
"""

import math
import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import (
    Hold,
    Moment,
    Outcome,
    Reading,
    ReadingState,
    StandInLoad,
    Trial,
)
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER
from spare_margin.core.model.pieces import CONTACTS, Conductor, FixedPiece

from . import acts as cost
from .acts import Act, Claim
from .bench import (
    DIM,
    FULL,
    LEADS_OHM,
    LIT,
    MOST_OHM,
    OFFSET_A,
    OHM_STEP,
    Bench,
    Looks,
    Shown,
    State,
    shown_amperes,
    shown_volts,
    wire_length,
)
from .exercise import Exercise

MOST_ACTS = 100
WARM_MIN = 8.0
"""After so many minutes on what grows warm has grown warm."""
MOST_HELD_MIN = 2.0
"""A short-time load that is held on for longer burns."""
FIRST_S, EACH_S = 5.0, 45.0
"""So long after switching on is the first act, and so long after it each other."""
NO_BETTER = 0.02
Danger = Literal["cautions", "ohms_live", "switched_off_loaded", "fuse_bridged", "held_on"]
"""The cautions were passed over; ohms on a live craft; the source taken off under load; a fuse or breaker
bridged; a short-time load held on."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What an act showed.

    `shown` are the figures of the meter (V, A or ohm): one, or least and most; empty where it showed none,
    and then `state` says why, or how a lamp burned. `outcome` is what came of joining something.
    """

    minutes: float
    price: float = 0.0
    shown: tuple[float, ...] = ()
    accuracy: float = 0.0
    state: str = "value"
    outcome: Outcome | None = None
    danger: Danger | None = None


@dataclass(frozen=True, kw_only=True)
class Played:
    """What came of the acts so far.

    Attributes:
        told: what each showed.
        repairs: how often something was put right: readings are of the wiring since then.
        red, black: what the leads lie on.
        opened: the points whose trim is off.
    """

    exercise: Exercise
    acts: tuple[Act, ...] = ()
    told: tuple[Told, ...] = ()
    state: State = field(default_factory=State)
    readings: tuple[Reading, ...] = ()
    moments: tuple[Moment, ...] = ()
    trials: tuple[Trial, ...] = ()
    repairs: int = 0
    red: str = ""
    black: str = ""
    opened: frozenset[str] = frozenset()
    zeroed: bool = False
    noted: bool = False
    on_min: float = 0.0
    since: int = 0
    fresh: bool = True
    ended: bool = False

    @property
    def minutes(self) -> float:
        """All minutes so far."""
        return sum(t.minutes for t in self.told)

    @property
    def price(self) -> float:
        """All parts so far."""
        return sum(t.price for t in self.told)

    @property
    def at_s(self) -> float:
        """Seconds since something was switched last."""
        return FIRST_S + EACH_S * self.since

    @property
    def looks(self) -> Mapping[str, Looks]:
        """What is seen of each load now."""
        return Bench(self.exercise, self.state).looks(self.at_s)

    @property
    def pulled_in(self) -> set[str]:
        """The coils whose relay has pulled in now."""
        return Bench(self.exercise, self.state).pulled_in(self.at_s)

    @property
    def current(self) -> tuple[Reading, ...]:
        """The readings that tell of the wiring as it is now."""
        return tuple(r for r in self.readings if r.revision == f"r{self.repairs}")

    @property
    def truly_well(self) -> bool:
        """Whether nothing is wrong any more."""
        return {h.element for h in self.exercise.hidden} <= self.state.mended


def played(exercise: Exercise, acts: Sequence[Act]) -> Played:
    """An exercise after these acts. JobError as `act`."""
    at = Played(exercise=exercise)
    for each in acts:
        at = act(at, each)
    return at


def act(at: Played, done: Act) -> Played:
    """One act more.

    Args:
        at: the exercise as far as it was played.
        done: what is done.

    Raises:
        JobError: an act on something that is not there, or after the exercise has ended.
    """
    if at.ended:
        raise JobError("kind", "this exercise has ended", "another one")
    if len(at.acts) >= MOST_ACTS:
        raise JobError("kind", f"there were {MOST_ACTS} acts already", "a conclusion")
    _checked(at, done)
    made = _ACTS[done.kind](at, done)
    told = made.told[-1]
    if done.kind in cost.MEASURING and not at.noted and told.danger is None:
        told = replace(told, danger="cautions")
    return replace(
        made, acts=(*at.acts, done), told=(*at.told, told), noted=made.noted or told.danger == "cautions",
        since=made.since + 1,
    )  # fmt: skip


def _checked(at: Played, done: Act) -> None:
    craft = at.exercise.craft
    points, pieces = {p.id for p in craft.points}, {p.id for p in craft.pieces}
    loads = {x.id for x in craft.loads}
    every = pieces | loads | {s.id for s in craft.sources}
    named = [
        ("red", done.red, points),
        ("black", done.black, points),
        ("moved", done.moved, pieces),
    ]
    named += [("claims", c.element, every) for c in done.claims]
    for field_name, value, known in named:
        if value and value not in known:
            raise JobError(field_name, f"there is no {value}", "something of this craft")
    if done.kind in ("volts", "lamp", "ohms", "join", "stand_in"):
        if done.kind != "volts" and not (done.red and done.black):
            raise JobError("red", "needs two points", "one for each end")
        if done.red and done.red == done.black:
            raise JobError("black", "is where the other one is", "another point")
    if done.kind == "amperes" and done.element not in pieces | loads:
        raise JobError("element", "a clamp needs something to go round", "a wire or a load")
    for claim in done.claims:
        piece = next((p for p in craft.pieces if p.id == claim.element), None)
        if claim.remedy == "remade" and (piece is None or piece.kind not in cost.REMADE):
            raise JobError("claims", f"{claim.element} cannot be remade", "replaced")
    _checked_command(at, done)


def _checked_command(at: Played, done: Act) -> None:
    craft = at.exercise.craft
    contacts = {p.id for p in craft.pieces if p.kind in CONTACTS}
    loads = {x.id for x in craft.loads}
    of = {
        "command": (loads, ("running", "off", "unplugged")), "contact": (contacts, ("open", "closed")),
        "engine": (None, ("on", "off")), "power": (None, ("on", "off")),
    }  # fmt: skip
    if done.kind not in of:
        return
    known, states = of[done.kind]
    if known is not None and done.element not in known:
        raise JobError("element", f"{done.element} cannot be told that", ", ".join(sorted(known)))
    if done.state not in states:
        raise JobError("state", f"not {done.state or 'nothing'}", ", ".join(states))
    if done.kind == "engine" and len(craft.scenarios) < 2:
        raise JobError("kind", "this craft has no engine to start", "another act")


# Leads and meters


def _to_lay(at: Played, *points: str) -> float:
    """Minutes to get the leads there; one that lies there already costs nothing."""
    held = {at.red, at.black}
    return sum(reach_min(at, p) for p in points if p and p not in held)


def reading_min(at: Played, red: str, black: str) -> float:
    """What a reading between two points would cost now (min).

    Args:
        at: the exercise as far as it was played.
        red: the id of the point that the red lead is on.
        black: the id of the point that the black lead is on.
    """
    return cost.READ_MIN + _to_lay(at, red, black)


def reach_min(at: Played, point: str) -> float:
    """What it costs now to get a lead onto a point (min).

    Args:
        at: the exercise as far as it was played.
    """
    access = at.exercise.craft.point(point).access
    return cost.REACH_MIN["open" if point in at.opened else access]


def _laid(at: Played, red: str, black: str) -> Played:
    trims = {p for p in (red, black) if p and at.exercise.craft.point(p).access == "trim"}
    return replace(at, red=red, black=black, opened=at.opened | trims)


def luck_of(at: Played) -> random.Random:
    """Where the chance of the next act comes from.

    Args:
        at: the exercise as far as it was played.
    """
    return random.Random(f"{at.exercise.seed} {len(at.acts)}")


def _volts(at: Played, done: Act) -> Played:
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    if done.moved or done.start:
        return _held(at, done, minutes)
    bench, rng = Bench(at.exercise, at.state), luck_of(at)
    on_both = bool(done.red and done.black)
    true = bench.volts(bench.solved(at.at_s), done.red, done.black) if on_both else None
    shown = shown_volts(true, done.range_v, rng)
    told = _shown(shown, minutes)
    return _read(at, told, _reading(at, done, shown)) if on_both else _only(at, told)


def _held(at: Played, done: Act, minutes: float) -> Played:
    """Least and most, kept over a start, or while a piece is moved: a moment of its own."""
    load = at.exercise.run
    starting = frozenset({load}) if done.start else frozenset()
    held = replace(at.state, loads={**at.state.loads, load: "running"}) if done.start else at.state
    bench, rng = Bench(at.exercise, held), luck_of(at)
    ends = [bench.solved(at.at_s), bench.solved(at.at_s, done.moved, starting)]
    values = sorted(
        (bench.volts(s, done.red, done.black) for s in ends),
        key=lambda v: math.inf if v is None else v,
    )
    shown = [shown_volts(v, done.range_v, rng) for v in values]
    told = Told(
        minutes=minutes + (cost.START_MIN if done.start else cost.MOVED_MIN),
        shown=tuple(s.value for s in shown if s.value is not None and not s.wanders),
        accuracy=max(s.accuracy for s in shown),
        state="wandering" if any(s.wanders for s in shown) else "value",
    )
    at = _in_moment(replace(at, fresh=True), starting)
    key = f"a{len(at.acts):03d}"
    kept: tuple[Hold, Hold] = ("least", "most")
    made = [
        replace(_reading(at, done, s), id=f"{key}-{hold}", hold=hold, moved=done.moved)
        for hold, s in zip(kept, shown, strict=True)
        if s.value is not None and not s.wanders
    ]
    # What is read next is of a moment in which nothing is held.
    return replace(_read(at, told, *(made if len(made) == 2 else [])), fresh=True)


def _amperes(at: Played, done: Act) -> Played:
    bench = Bench(at.exercise, at.state)
    shown = clamped(at, bench.amperes(bench.solved(at.at_s), done.element))
    held = at.exercise.craft
    one = next(e for e in (*held.loads, *held.pieces) if e.id == done.element)
    reading = replace(
        _reading(at, done, shown), quantity="amperes", red=one.start, black=one.end,
        meter=CLAMP_METER.name,
    )  # fmt: skip
    return _read(at, _shown(shown, cost.CLAMP_MIN), reading)


def clamped(at: Played, true: float) -> Shown:
    """What the clamp shows next.

    Args:
        at: the exercise as far as it was played.
        true: what flows (A).
    """
    if not at.zeroed:
        true += random.Random(at.exercise.seed).uniform(*OFFSET_A)
    return shown_amperes(true, luck_of(at))


def _lamp(at: Played, done: Act) -> Played:
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    share = Bench(at.exercise, at.state).lamp(at.at_s, done.red, done.black)
    state: Literal["lit", "dim", "dark"] = (
        "lit" if share >= LIT else "dim" if share >= DIM else "dark"
    )
    blank = Shown(None, 0.0, 0.0)
    reading = replace(_reading(at, done, blank), quantity="lamp", value=None, state=state, meter="")
    return _read(at, Told(minutes=minutes, state=state), reading)


def _ohms(at: Played, done: Act) -> Played:
    minutes = reading_min(at, done.red, done.black)
    at = _laid(at, done.red, done.black)
    if at.state.power:
        return _only(at, Told(minutes=minutes, state="wandering", danger="ohms_live"))
    true = Bench(at.exercise, at.state).ohms(done.red, done.black)
    blank = Shown(None, 0.0, 0.0)
    if true > MOST_OHM:
        reading = replace(
            _reading(at, done, blank), quantity="ohms", value=None, state="over_range"
        )
        return _read(at, Told(minutes=minutes, state="over_range"), reading)
    value = round((true + LEADS_OHM) / OHM_STEP) * OHM_STEP
    accuracy = 0.01 * value + 2 * OHM_STEP
    reading = replace(
        _reading(at, done, Shown(value, accuracy, OHM_STEP)), quantity="ohms", leads_ohm=LEADS_OHM
    )
    return _read(at, Told(minutes=minutes, shown=(value,), accuracy=accuracy), reading)


def _zero(at: Played, _: Act) -> Played:
    return _only(replace(at, zeroed=True), Told(minutes=cost.ZERO_MIN))


def _noted(at: Played, _: Act) -> Played:
    return _only(replace(at, noted=True), Told(minutes=0.0))


def _shown(shown: Shown, minutes: float) -> Told:
    if shown.wanders:
        return Told(minutes=minutes, state="wandering")
    if shown.value is None:
        return Told(minutes=minutes, state="over_range")
    return Told(minutes=minutes, shown=(shown.value,), accuracy=shown.accuracy)


def _reading(at: Played, done: Act, shown: Shown) -> Reading:
    state: ReadingState = "value"
    if shown.value is None or shown.wanders:
        state = "wandering" if shown.wanders else "over_range"
    joined = at.state.joined
    return Reading(
        id=f"a{len(at.acts):03d}", revision=f"r{at.repairs}", red=done.red, black=done.black,
        value=None if state != "value" else shown.value, state=state,
        typed="" if shown.value is None else str(shown.value), accuracy=shown.accuracy,
        trial=joined.id if joined else None, meter=WORKSHOP_METER.name,
    )  # fmt: skip


def _read(at: Played, told: Told, *readings: Reading) -> Played:
    """Readings, each in the moment that holds now."""
    at = _in_moment(at)
    moment = at.moments[-1]
    made = tuple(replace(r, moment=moment.id, scenario=moment.scenario) for r in readings)
    return replace(at, readings=(*at.readings, *made), told=(*at.told, told))


def _in_moment(at: Played, starting: frozenset[str] = frozenset()) -> Played:
    """The moment that readings are of: a new one where something was changed since the last."""
    if not at.fresh:
        return at
    bench, craft = Bench(at.exercise, at.state), at.exercise.craft
    scenario = at.state.scenario(craft)
    loads = bench.commanded(at.at_s, starting)
    contacts = dict(at.state.contacts)
    moment = Moment(
        id=f"m{len(at.moments):03d}", scenario=scenario.id, loads=loads, contacts=contacts,
        warm_min=round(min(at.on_min, 60.0), 1), stand_in=at.state.stand_in,
        note=f"{len(at.moments)}",
    )  # fmt: skip
    return replace(at, moments=(*at.moments, moment), fresh=False)


def _only(at: Played, told: Told) -> Played:
    return replace(at, told=(*at.told, told))


# What is switched, and joined


def _switched(at: Played, state: State, told: Told) -> Played:
    """Another state: what is read from now on is of another moment."""
    return replace(_only(at, told), state=state, fresh=True, since=0)


def _command(at: Played, done: Act) -> Played:
    assert done.state in ("running", "off", "unplugged")
    held = at.state
    state = replace(held, loads={**held.loads, done.element: done.state})
    stand_in = held.stand_in
    load = at.exercise.craft.load(done.element)
    if stand_in is not None and {stand_in.start, stand_in.end} & {load.start, load.end}:
        state = replace(state, stand_in=None)
    unplugs = "unplugged" in (done.state, held.loads.get(done.element))
    minutes = cost.UNPLUG_MIN if unplugs else cost.COMMAND_MIN
    cold = done.element == at.exercise.run and done.state != "running"
    at = replace(at, on_min=0.0 if cold else at.on_min)
    return _switched(at, replace(state, warm=held.warm and not cold), Told(minutes=minutes))


def _contact(at: Played, done: Act) -> Played:
    assert done.state in ("open", "closed")
    held = at.state
    state = replace(held, contacts={**held.contacts, done.element: done.state})
    return _switched(at, state, Told(minutes=cost.CONTACT_MIN))


def _engine(at: Played, done: Act) -> Played:
    state = replace(at.state, engine=done.state == "on")
    return _switched(at, state, Told(minutes=cost.ENGINE_MIN))


def _power(at: Played, done: Act) -> Played:
    loaded = any(look in ("full", "weak", "faint") for look in at.looks.values())
    off = done.state == "off"
    danger: Danger | None = "switched_off_loaded" if off and at.state.power and loaded else None
    told = Told(minutes=cost.POWER_MIN, danger=danger)
    return _switched(at, replace(at.state, power=not off), told)


def _wait(at: Played, done: Act) -> Played:
    load = at.exercise.craft.load(at.exercise.run)
    on = load.id in at.state.scenario(at.exercise.craft).on
    held = on and load.duty == "short_time" and done.minutes > MOST_HELD_MIN
    on_min = at.on_min + done.minutes if on else 0.0
    warm = on_min >= WARM_MIN
    at = replace(at, on_min=on_min, fresh=at.fresh or warm != at.state.warm)
    told = Told(minutes=done.minutes, danger="held_on" if held else None)
    return replace(_only(at, told), state=replace(at.state, warm=warm))


def _join(at: Played, done: Act) -> Played:
    """A spare wire from one point to another, while the load is watched."""
    craft, run = at.exercise.craft, at.exercise.loop
    minutes = cost.JOIN_MIN + _to_lay(at, done.red, done.black)
    before = _gets(at)
    # A trial is of a moment, read or not.
    at = replace(at, fresh=True, state=replace(at.state, joined=None))
    at = _in_moment(at)
    kind: Literal["bridge", "feed", "return"] = (
        "feed" if done.red == run.source.live else "return" if done.red == run.source.back else "bridge"
    )  # fmt: skip
    trial = Trial(
        id=f"t{len(at.trials):03d}", moment=at.moments[-1].id, kind=kind, start=done.red,
        end=done.black, revision=f"r{at.repairs}",
    )  # fmt: skip
    at = replace(at, state=replace(at.state, joined=trial))
    after = _gets(at)
    better = after > before + NO_BETTER
    outcome: Outcome = "none" if not better else "right" if after >= FULL else "partly"
    trial = replace(trial, outcome=outcome)
    at = replace(at, state=replace(at.state, joined=trial), trials=(*at.trials, trial))
    between = run.between(done.red, done.black)
    kinds = {p.id: p.kind for p in craft.pieces}
    over = between is not None and any(kinds[p] in ("fuse", "breaker") for p in between.pieces)
    told = Told(minutes=minutes, outcome=outcome, danger="fuse_bridged" if over else None)
    return replace(_only(at, told), since=at.since)


def _gets(at: Played) -> float:
    """What the load gets now, of what it should."""
    load = at.exercise.craft.load(at.exercise.run)
    solved = Bench(at.exercise, at.state).solved(at.at_s)
    volts = solved.solution.volts(load.start, load.end)
    return abs(volts or 0.0) / at.exercise.should_v[load.id]


def _unjoin(at: Played, _: Act) -> Played:
    if at.state.joined is None:
        raise JobError("kind", "no spare wire is in place", "another act")
    return _switched(at, replace(at.state, joined=None), Told(minutes=cost.UNJOIN_MIN))


def _stand_in(at: Played, done: Act) -> Played:
    """A lamp as large as the load, hung in its place: the load must be unplugged."""
    load = at.exercise.craft.load(at.exercise.run)
    if at.state.loads.get(load.id) != "unplugged":
        raise JobError("kind", "the load is still plugged in", "a load that is unplugged")
    amps = rated_current_a(load, at.exercise.craft.nominal_v)
    held = StandInLoad(start=done.red, end=done.black, amperes=round(amps, 2))
    at = _laid(at, at.red, at.black)
    return _switched(at, replace(at.state, stand_in=held), Told(minutes=cost.STAND_IN_MIN))


# The end


def _conclude(at: Played, done: Act) -> Played:
    """What is said to be wrong is put right at once; what is sound then costs as much."""
    minutes = price = 0.0
    for claim in done.claims:
        took, paid = repair_cost(at.exercise, claim)
        minutes, price = minutes + took, price + paid
    if not done.claims:
        return _only(at, Told(minutes=0.0))
    held = at.state
    mended = held.mended | {c.element for c in done.claims}
    at = replace(at, repairs=at.repairs + 1, on_min=0.0, red="", black="")
    state = replace(
        held, mended=mended, joined=None, stand_in=None, warm=False, loads={}, contacts={}
    )
    return _switched(at, replace(state, power=True), Told(minutes=minutes, price=price))


def repair_cost(exercise: Exercise, claim: Claim) -> tuple[float, float]:
    """Minutes and price of doing what is said of one element.

    Args:
        exercise: the exercise.
        claim: what is said.
    """
    piece = next((p for p in exercise.craft.pieces if p.id == claim.element), None)
    if piece is None:
        load = any(x.id == claim.element for x in exercise.craft.loads)
        return (cost.LOAD_MIN, cost.LOAD_PRICE) if load else (cost.SOURCE_MIN, cost.SOURCE_PRICE)
    if claim.remedy == "remade" and piece.kind in cost.REMADE:
        return cost.REMADE_MIN, 0.0
    if isinstance(piece, Conductor):
        metres = max(wire_length(exercise.craft, piece.id), 1.0)
        return 5.0 + cost.WIRE_MIN_M * metres, 2.0 + cost.WIRE_PRICE_M * metres
    assert isinstance(piece, FixedPiece)
    return cost.REPLACED[piece.kind]


def _hand_over(at: Played, _: Act) -> Played:
    return replace(_only(at, Told(minutes=0.0)), ended=True)


_ACTS = {
    "noted": _noted, "volts": _volts, "amperes": _amperes, "lamp": _lamp, "ohms": _ohms,
    "zero": _zero, "command": _command, "contact": _contact, "engine": _engine, "power": _power,
    "wait": _wait, "join": _join, "unjoin": _unjoin, "stand_in": _stand_in,
    "conclude": _conclude, "hand_over": _hand_over,
}  # fmt: skip
