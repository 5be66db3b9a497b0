"""What several runs may share: one return, one relay or one thicker trunk in the place of one for each.

Two runs that would each get a new return, or a relay, from the same trunk may have one together, and a
trunk that is made thicker serves all that it feeds. Whether that is worth it is for the price of the whole
craft to say.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from spare_margin.core.model.pieces import Conductor, Scenario
from spare_margin.core.model.stock import Relay
from spare_margin.core.protection.fuses import KINDS, fuse_for, least_ampacity_a

from .bench import Bench
from .moves import Mend, Move, NewReturn, RelayNearLoad, SharedRelay, SharedReturn, Thicken
from .new_ways import metres_of
from .offers import Offer, sized
from .shared_ways import trunk

MOST_TRIED = 6
"""Each may be a repair of the whole craft: those that share the longest trunk are looked at."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What one run's best repair does, on the bench of the craft as found."""

    bench: Bench
    moves: tuple[Move, ...]


@dataclass(frozen=True, slots=True)
class Sharing:
    """An offer that puts the runs of several loads right together."""

    loads: tuple[str, ...]
    offer: Offer


def sharings(wanted: Sequence[Wanted]) -> list[Sharing]:
    """What may put several runs right together, what shares the most wire first.

    Args:
        wanted: the best repair of each run by itself.
    """
    found: list[tuple[float, Sharing]] = []
    for group in _groups([each for each in wanted if _plain(each)]):
        loads = tuple(each.bench.load_id for each in group)
        saved = metres_of(trunk([each.bench.run for each in group])) * (len(group) - 1)
        for name, moves in (("shared", _together(group)), ("trunk", _thicker(group))):
            if moves and saved > 0:
                found.append((-saved, Sharing(loads, Offer("-".join((name, *loads)), moves))))
    found.sort(key=lambda each: (each[0], each[1].loads))
    return [sharing for _, sharing in found[:MOST_TRIED]]


def _plain(each: Wanted) -> bool:
    """Whether a repair mends or thickens what was there as found, or adds a return or a relay."""
    named = {m.piece for m in each.moves if isinstance(m, Mend)}
    named |= {key for m in each.moves if isinstance(m, Thicken) for key in m.wires}
    there = {p.id for p in each.bench.craft.pieces}
    known = all(isinstance(m, Mend | Thicken | NewReturn | RelayNearLoad) for m in each.moves)
    return known and named <= there


def _anew(group: Sequence[Wanted]) -> list[Move]:
    """The returns and relays that a group would get one by one."""
    return [m for each in group for m in each.moves if isinstance(m, NewReturn | RelayNearLoad)]


def _thicker(group: Sequence[Wanted]) -> tuple[Move, ...]:
    """The wires of a group made thicker, what they share too; nothing where none would get a new way."""
    if not _anew(group):
        return ()
    mends = dict.fromkeys(m for each in group for m in each.moves if isinstance(m, Mend))
    wires = dict.fromkeys(
        s.piece.id for each in group for s in each.bench.run.steps() if sized(s.piece)
    )
    return (*mends, Thicken(tuple(wires), trunk=True)) if wires else ()


def _groups(wanted: Sequence[Wanted]) -> Iterator[tuple[Wanted, ...]]:
    """Runs that leave the source through the same wire: all of them, and each pair."""
    by_wire: dict[str, list[Wanted]] = {}
    for each in wanted:
        first = next(
            (s.piece.id for s in each.bench.run.way("feed") if isinstance(s.piece, Conductor)), None
        )
        if first is not None:
            by_wire.setdefault(first, []).append(each)
    for same in by_wire.values():
        if len(same) > 2:
            yield tuple(same)
        yield from combinations(same, 2)


def _together(group: Sequence[Wanted]) -> tuple[Move, ...]:
    """One return, one relay or both for all of a group; nothing where they do not want the same."""
    anew = [[m for m in each.moves if isinstance(m, NewReturn | RelayNearLoad)] for each in group]
    kinds = [{type(m) for m in moves} for moves in anew]
    if not kinds[0] or any(each != kinds[0] for each in kinds):
        return ()
    benches = [each.bench for each in group]
    loads = tuple(b.load_id for b in benches)
    moves: list[Move] = list(
        dict.fromkeys(m for each in group for m in each.moves if isinstance(m, Mend | Thicken))
    )
    if RelayNearLoad in kinds[0]:
        relay = _one_relay(benches, loads)
        if relay is None:
            return ()
        moves.append(relay)
    returns = [m for each in anew for m in each if isinstance(m, NewReturn)]
    if returns:
        moves.append(SharedReturn(loads, all(m.beside for m in returns)))
    return tuple(moves)


def _one_relay(benches: Sequence[Bench], loads: tuple[str, ...]) -> SharedRelay | None:
    """The relay and its fuse that bear all of these loads; None where none does, or no switch is theirs."""
    runs = [b.run for b in benches]
    common = {s.piece.id for s in trunk(runs)}
    apart = [[s for s in run.feed if s.piece.id not in common] for run in runs]
    if any(b.switch not in common for b in benches) or any(
        s.beside for each in apart for s in each
    ):
        return None
    lasting = sum(b.draws[0] for b in benches)
    running = sum(b.draws[1] for b in benches)
    start = max(
        ((running - b.draws[1] + b.draws[2][0], b.draws[2][1]) for b in benches),
    )
    bears = [_borne(b, common) for b in benches]
    if any(each is None for each in bears):
        return None
    tables = benches[0].tables
    fuse = fuse_for(lasting, running, start, min(e for e in bears if e is not None), tables)
    relay = _fitting(benches, running)
    if fuse is None or relay is None:
        return None
    return SharedRelay(loads, relay, *fuse)


def _borne(bench: Bench, common: set[str]) -> float | None:
    """What the thinnest wire between the parting and a run's own fuse bears (A); None if not known."""
    scenarios: Sequence[Scenario] = bench.craft.scenarios
    least = float("inf")
    for step in (*bench.run.feed, *bench.run.back):
        piece = step.piece
        if piece.id in common or step.load is not None:
            continue
        if getattr(piece, "kind", "") in KINDS:
            return least  # what follows is held by the load's own fuse
        if isinstance(piece, Conductor):
            bears = least_ampacity_a(piece, scenarios, bench.tables)
            if bears is None:
                return None
            least = min(least, bears)
    return least


def _fitting(benches: Sequence[Bench], running_a: float) -> Relay | None:
    """The cheapest relay for the voltage whose contact bears all these loads at once."""
    relays: Mapping[str, Relay] = benches[0].tables.stock.relays
    fit = [
        r
        for r in relays.values()
        if r.coil_v == benches[0].craft.nominal_v
        and min(r.bears_a(b.run.load) for b in benches) >= running_a
    ]
    return min(fit, key=lambda r: (r.changeover, r.price), default=None)
