"""Where a run is open by an ohmmeter with the power off, or by a test lamp with the load off.

They screen: they may say that something is open, and clear nothing, for a load, a lamp or another way joins
points too, and a last strand lights a lamp.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import Screen
from spare_margin.core.model.pieces import CONTACTS, kind_of

from .opens import Open


def screened(run: Run, screens: Iterable[Screen]) -> list[Open]:
    """Where a run is open by them, in the order of reading."""
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
    spans = [o for s in blind if (o := _open(run, s.red, s.black, (s,))) is not None]
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
                return _open(run, start, end, (before, after))
    return None


def _open(run: Run, one: str, other: str, screens: Sequence[Screen]) -> Open | None:
    """An open between two points of a side, where nothing but a fault can keep it open.

    With the power off a contact may stand either way: one that nobody said was closed is none.
    """
    between = run.between(one, other)
    if between is None:
        return None
    steps = [s for s in run.way(between.side) if s.piece.id in between.pieces]
    contacts = screens[-1].conditions.scenario.contacts
    for step in steps:
        if kind_of(step.piece) in CONTACTS and contacts.get(step.piece.id) != "closed":
            return None
    readings = tuple(s.reading for s in screens)
    return Open(between.side, steps[0].entry, steps[-1].exit, between.pieces, readings)
