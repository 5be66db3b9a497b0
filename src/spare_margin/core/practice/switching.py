"""What is switched, unplugged, started, left on, joined by a spare wire, hung in the load's place."""

from dataclasses import replace
from typing import Literal

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.observation.moments import TRIAL_PIECE
from spare_margin.core.model.jobs import Outcome, StandInLoad, Trial

from . import acts as cost
from .acts import Act
from .bench import FULL, Bench
from .measuring import to_lay
from .played import COLD, WARM_MIN, Danger, Played, Told, in_moment, only, switched

MOST_HELD_MIN = 2.0
"""A short-time load that is held on for longer burns."""
NO_BETTER = 0.02
SHORT_TIMES = 3.0
"""A spare wire that carries so many times what all loads draw together shorts the source."""


def command(at: Played, done: Act) -> Played:
    """A load switched on or off, or unplugged.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    assert done.state in ("running", "off", "unplugged")
    held = at.state
    state = replace(held, loads={**held.loads, done.element: done.state})
    stand_in = held.stand_in
    load = at.exercise.craft.load(done.element)
    if stand_in is not None and {stand_in.start, stand_in.end} & {load.start, load.end}:
        state = replace(state, stand_in=None)
    unplugs = "unplugged" in (done.state, held.loads.get(done.element))
    minutes = cost.UNPLUG_MIN if unplugs else cost.COMMAND_MIN
    return switched(at, state, Told(minutes=minutes))


def contact(at: Played, done: Act) -> Played:
    """A switch or a breaker opened or closed.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    assert done.state in ("open", "closed")
    held = at.state
    state = replace(held, contacts={**held.contacts, done.element: done.state})
    return switched(at, state, Told(minutes=cost.CONTACT_MIN))


def engine(at: Played, done: Act) -> Played:
    """The engine started or stopped.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    state = replace(at.state, engine=done.state == "on")
    return switched(at, state, Told(minutes=cost.ENGINE_MIN))


def power(at: Played, done: Act) -> Played:
    """The source disconnected, or connected again.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    loaded = any(look in ("full", "weak", "faint") for look in at.looks.values())
    off = done.state == "off"
    danger: Danger | None = "switched_off_loaded" if off and at.state.power and loaded else None
    told = Told(minutes=cost.POWER_MIN, danger=danger)
    return switched(at, replace(at.state, power=not off), told)


def wait(at: Played, done: Act) -> Played:
    """Left on for a while: what grows bad warm does.

    Args:
        at: the exercise as far as it was played.
        done: the act.
    """
    load = at.exercise.craft.load(at.exercise.run)
    on = at.looks[load.id] not in COLD
    held = on and load.duty == "short_time" and done.minutes > MOST_HELD_MIN
    on_min = at.on_min + done.minutes if on else 0.0
    warm = on_min >= WARM_MIN
    at = replace(at, on_min=on_min, fresh=at.fresh or warm != at.state.warm)
    told = Told(minutes=done.minutes, danger="held_on" if held else None)
    return replace(only(at, told), state=replace(at.state, warm=warm))


def join(at: Played, done: Act) -> Played:
    """A spare wire from one point to another, while the load is watched.

    Args:
        at: the exercise as far as it was played.
        done: what is done.
    """
    run = at.exercise.loop
    minutes = cost.JOIN_MIN + to_lay(at, done.red, done.black)
    before = _gets(at)
    # A trial is of a moment, read or not.
    at = replace(at, fresh=True, state=replace(at.state, joined=None))
    at = in_moment(at)
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
    return only(at, Told(minutes=minutes, outcome=outcome, danger=_danger_of(at, trial)))


def _danger_of(at: Played, trial: Trial) -> Danger | None:
    """What a spare wire does that could hurt: it shorts the source, or goes round a fuse."""
    exercise = at.exercise
    carried = Bench(exercise, at.state).solved(at.at_s).solution.elements.current_a(TRIAL_PIECE)
    if abs(carried) > SHORT_TIMES * exercise.every_a:
        return "short"
    between = exercise.loop.between(trial.start, trial.end)
    kinds = {p.id: p.kind for p in exercise.craft.pieces}
    over = between is not None and any(kinds[p] in ("fuse", "breaker") for p in between.pieces)
    return "fuse_bridged" if over else None


def _gets(at: Played) -> float:
    """What the load gets now, of what it should."""
    load = at.exercise.craft.load(at.exercise.run)
    solved = Bench(at.exercise, at.state).solved(at.at_s)
    volts = solved.solution.volts(load.start, load.end)
    return abs(volts or 0.0) / at.exercise.should_v[load.id]


def unjoin(at: Played, _: Act) -> Played:
    """The spare wire taken off.

    Args:
        at: the exercise as far as it was played.
    """
    if at.state.joined is None:
        raise JobError("kind", "no spare wire is in place", "another act")
    return switched(at, replace(at.state, joined=None), Told(minutes=cost.UNJOIN_MIN))


def stand_in(at: Played, done: Act) -> Played:
    """A lamp as large as the load, hung in its place: the load must be unplugged.

    Args:
        at: the exercise as far as it was played.
        done: what is done.
    """
    load = at.exercise.craft.load(at.exercise.run)
    if at.state.loads.get(load.id) != "unplugged":
        raise JobError("kind", "the load is still plugged in", "a load that is unplugged")
    amps = rated_current_a(load, at.exercise.craft.nominal_v)
    held = StandInLoad(start=done.red, end=done.black, amperes=round(amps, 2))
    return switched(at, replace(at.state, stand_in=held), Told(minutes=cost.STAND_IN_MIN))
