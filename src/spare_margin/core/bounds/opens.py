"""An open: source volts on one side of a piece that is commanded closed, none beyond it.

It lies between the last point that stands at the one pole and the first that stands at the other, or, with
the load off, hangs loose. A contact that is commanded open, or that may keep the load off without anybody
saying which, is none; nor is a stretch that nobody drew, for it may hold such a contact.

An ohmmeter and a test lamp screen: they may say that something is open, and clear nothing, for a load, a
lamp or another way joins points too, and a last strand lights a lamp.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Screen
from spare_margin.core.model.pieces import CONTACTS, SIDES, LoadLaw, PieceKind, Side

from .moment import RunMoment

MAY_SWITCH: tuple[PieceKind, ...] = (*CONTACTS, "unknown")
"""What may keep a load off by itself; nobody knows what is in a stretch that nobody drew."""
PASSIVE: tuple[LoadLaw, ...] = ("filament", "constant_resistance")
"""Loads that join their ends whenever they are plugged in."""


@dataclass(frozen=True, slots=True)
class Open:
    """Where a run is open: between two points of a side, and the pieces that lie there."""

    side: Side
    start: str
    end: str
    pieces: tuple[str, ...]
    readings: tuple[str, ...]


def opened(moment: RunMoment, screens: Iterable[Screen] = ()) -> Open | None:
    """Where the run is open in a moment; None where nothing shows that it is.

    With the load on, current that is proven none, or no volts across the load, is asked for too: else a
    piece of many ohms would be taken for an open one.

    Args:
        screens: those of any moment; with the load off, a point over which a display wandered hangs loose.
    """
    if moment.contradiction or (moment.commanded and not moment.dead):
        return None
    return _by_poles(moment) or (None if moment.commanded else _by_loose(moment, screens))


def _by_poles(moment: RunMoment) -> Open | None:
    sides: Mapping[Side, tuple[str, ...]] = moment.line
    for side in SIDES:
        points = sides[side]
        live = [moment.live(p) for p in points]
        gone = [moment.at_return(p) for p in points]
        for i in range(len(points) - 1, -1, -1):
            if not live[i]:
                continue
            beyond = [j for j in range(i + 1, len(points)) if gone[j]]
            # Without the load's way to the return post, what stands at neither hangs loose.
            if beyond and not any(live[j] for j in range(beyond[0], len(points))):
                found = _between(moment, side, points[i], points[beyond[0]])
                if found is not None:
                    return found
            break
    return None


def _by_loose(moment: RunMoment, screens: Iterable[Screen]) -> Open | None:
    """A point that hangs loose, beyond the last that stands at its side's pole."""
    posts = moment.run.source.live, moment.run.source.back
    loose = {
        tip: each.reading
        for each in screens
        if each.shows == "wandering" and each.conditions.key == moment.key
        for post, tip in ((each.red, each.black), (each.black, each.red))
        if post in posts
    }
    if not moment.live(posts[0]):
        return None
    line = moment.run.line
    ways: tuple[tuple[Side, tuple[str, ...], Callable[[str], bool]], ...] = (
        ("feed", line["feed"], moment.live), ("return", line["return"][::-1], moment.at_return),
    )  # fmt: skip
    for side, points, joined in ways:
        last = max((i for i, p in enumerate(points) if joined(p)), default=0)
        beyond = next((p for p in points[last + 1 :] if p in loose), None)
        if beyond is None:
            continue
        ends = (points[last], beyond) if side == "feed" else (beyond, points[last])
        found = _between(moment, side, *ends)
        if found is not None:
            return replace(found, readings=(*found.readings, loose[beyond]))
    return None


def _between(moment: RunMoment, side: Side, start: str, end: str) -> Open | None:
    between = moment.run.between(start, end)
    assert between is not None, "both are points of one side"
    steps = [s for s in moment.run.way(side) if s.piece.id in between.pieces]
    if any(_by_command(moment, s) for s in steps):
        return None
    back = moment.run.source.back
    held = [moment.bounds.most(back, start), moment.bounds.most(end, back)]
    readings = tuple(sorted({r for each in held for r in each.readings}))
    return Open(side, start, end, between.pieces, readings)


def _by_command(moment: RunMoment, step: Step) -> bool:
    """Whether a contact may stand open because it was commanded to."""
    scenario = moment.conditions.scenario
    if scenario.is_open(step.piece) or _takes_no_current(step, moment.conditions):
        return True
    if moment.commanded or step.piece.id in scenario.contacts:
        return False
    return step.piece.kind in MAY_SWITCH


def _takes_no_current(step: Step, conditions: Conditions) -> bool:
    """Whether a step is another load that is off, or one that may keep current back by itself."""
    load = step.load
    return load is not None and (load.id not in conditions.running or load.behaviour not in PASSIVE)


# Without volts: an ohmmeter with the power off, a test lamp with the load off


def screened(run: Run, screens: Iterable[Screen]) -> list[Open]:
    """Where a run is open by them, in the order of reading.

    Args:
        screens: what an ohmmeter or a lamp showed.
    """
    told = list(screens)
    lamps: dict[str, list[Screen]] = {}
    for each in told:
        if each.shows in ("lit", "dark") and not each.conditions.loads_run(run.load):
            lamps.setdefault(each.conditions.key, []).append(each)
    found = [
        *_by_ohms(run, (s for s in told if s.shows == "open")),
        *(o for taken in lamps.values() if (o := _by_lamp(run, taken)) is not None),
    ]
    order = {s.reading: i for i, s in enumerate(told)}
    return sorted(found, key=lambda o: max(order[r] for r in o.readings))


def _by_ohms(run: Run, blind: Iterable[Screen]) -> Iterator[Open]:
    """Spans of a side across which an ohmmeter sees no way, without those that hold a smaller one."""
    spans = [o for s in blind if (o := _unless_switched(run, s.red, s.black, (s,))) is not None]
    for each in spans:
        if not any(set(other.pieces) < set(each.pieces) for other in spans):
            yield each


def _by_lamp(run: Run, taken: Sequence[Screen]) -> Open | None:
    """Where a lamp that is moved along goes dark, its other lead on a post of the source.

    From the return post it is lit as far as the live post reaches, through the load too; from the live post
    as far as the return post does.
    """
    around = [*run.line["feed"], *run.line["return"]]
    back_from = run.line["return"][::-1]
    for post, points in ((run.source.back, around), (run.source.live, back_from)):
        tips = {p: s for s in taken if post in (s.red, s.black) for p in (s.red, s.black)}
        held = [(p, tips[p]) for p in points if p in tips and p != post]
        for (start, before), (end, after) in pairwise(held):
            ahead = held[held.index((end, after)) :]
            if before.shows == "lit" and all(s.shows == "dark" for _, s in ahead):
                return _unless_switched(run, start, end, (before, after))
    return None


def _unless_switched(run: Run, one: str, other: str, screens: Sequence[Screen]) -> Open | None:
    """An open between two points of a side, where nothing but a fault can keep it open.

    With the power off a contact may stand either way: one that nobody said was closed is none.
    """
    between = run.between(one, other)
    if between is None:
        return None
    steps = [s for s in run.way(between.side) if s.piece.id in between.pieces]
    contacts = screens[-1].conditions.scenario.contacts
    for step in steps:
        if step.piece.kind in MAY_SWITCH and contacts.get(step.piece.id) != "closed":
            return None
        if _takes_no_current(step, screens[-1].conditions):
            return None
    readings = tuple(s.reading for s in screens)
    return Open(between.side, steps[0].entry, steps[-1].exit, between.pieces, readings)
