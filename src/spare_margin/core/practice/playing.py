"""An exercise played act by act: each is looked at, done, and told of."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import CONTACTS

from . import measuring, switching
from .acts import MEASURING, REMADE, Act, ActKind
from .exercise import Exercise
from .played import Played, Told, only
from .repairing import conclude

MOST_ACTS, MOST_ENDING = 100, 20
ENDING: frozenset[ActKind] = frozenset({"conclude", "hand_over"})
"""Whatever was done before, somebody can come to an end."""


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
    if len(at.acts) >= MOST_ACTS and done.kind not in ENDING:
        raise JobError(
            "kind", f"there were {MOST_ACTS} acts already", "a conclusion, or hand it over"
        )
    if len(at.acts) >= MOST_ACTS + MOST_ENDING and done.kind != "hand_over":
        raise JobError("kind", "there were too many conclusions", "hand it over")
    _checked(at, done)
    made = _ACTS[done.kind](at, done)
    told = made.told[-1]
    if done.kind in MEASURING and not at.noted and told.danger is None:
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
        if claim.remedy == "remade" and (piece is None or piece.kind not in REMADE):
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


def _noted(at: Played, _: Act) -> Played:
    return only(replace(at, noted=True), Told(minutes=0.0))


def _hand_over(at: Played, _: Act) -> Played:
    return replace(only(at, Told(minutes=0.0)), ended=True)


_ACTS: Mapping[ActKind, Callable[[Played, Act], Played]] = {
    "noted": _noted, "volts": measuring.volts, "amperes": measuring.amperes,
    "lamp": measuring.lamp, "ohms": measuring.ohms, "zero": measuring.zero,
    "command": switching.command, "contact": switching.contact, "engine": switching.engine,
    "power": switching.power, "wait": switching.wait, "join": switching.join,
    "unjoin": switching.unjoin, "stand_in": switching.stand_in, "conclude": conclude,
    "hand_over": _hand_over,
}  # fmt: skip
