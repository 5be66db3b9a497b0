"""What an upgrade does to the wiring: a repair, thicker wire, a new return, an own feed, a relay.

Each move takes a wiring and gives another. A conductor that it adds has the size AUTO until one is chosen.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.circuit.runs import Run, Step, traced
from spare_margin.core.edit.drawing import behind_clamp, tidied
from spare_margin.core.edit.ids import NewIds
from spare_margin.core.model.conductors import COPPER_ALPHA_PER_K, hottest_air_c
from spare_margin.core.model.pieces import (
    AUTO,
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Repair,
    Side,
    Size,
    TestPoint,
)
from spare_margin.core.model.stock import Relay

COIL_RISE_K = 40.0
"""How much warmer than the air a coil gets that stays on."""


@dataclass(frozen=True, slots=True)
class Mend:
    """A piece cleaned, remade or replaced: as good as new."""

    piece: str
    how: Repair


@dataclass(frozen=True, slots=True)
class Thicken:
    """Conductors that may be replaced by thicker ones; `trunk` where other runs share some of them."""

    wires: tuple[str, ...]
    trunk: bool = False


@dataclass(frozen=True, slots=True)
class NewReturn:
    """An own return from the load to the source: in place of what is there, or beside it."""

    beside: bool


@dataclass(frozen=True, slots=True)
class OwnFeed:
    """The run's own part of the feed, supplied from the source through a wire and a fuse of its own."""

    style: str
    rating_a: float


@dataclass(frozen=True, slots=True)
class RelayNearLoad:
    """A relay at the load: a new fused feed from the source; the old wire drives its coil only."""

    relay: Relay
    style: str
    rating_a: float


Move = Mend | Thicken | NewReturn | OwnFeed | RelayNearLoad


@dataclass(frozen=True, slots=True)
class Moved:
    """A wiring after some moves: the conductors still to be sized, and the ids a relay was given."""

    craft: Craft
    free: tuple[str, ...]
    new: tuple[str, ...] = ()
    coil: str = ""
    contact: str = ""
    new_fuse: str = ""


def moved(
    craft: Craft,
    runs: Mapping[str, Run],
    load_id: str,
    moves: Iterable[Move],
    also: Iterable[str] = (),
) -> Moved:
    """A wiring with these moves made for one of its runs; `also` are ids that are taken elsewhere.

    Args:
        craft: the wiring.
        load_id: the id of the load.
    """
    taken = set(also)
    made = Moved(craft, ())
    drawn = craft
    for move in moves:
        if made.craft is not drawn and not isinstance(move, Mend | Thicken):
            drawn, runs = made.craft, traced(made.craft, {}).runs
        run = runs[load_id]
        ids = NewIds(made.craft, taken)
        match move:
            case Mend():
                made = replace(made, craft=mended(made.craft, move))
            case Thicken():
                made = replace(made, free=(*made.free, *move.wires))
            case NewReturn():
                made = _with_return(made, runs, run, move, ids)
            case OwnFeed():
                made = _with_feed(made, runs, run, move, ids)
            case RelayNearLoad():
                made = _with_relay(made, run, move, ids)
        taken |= ids.taken
    return made


def how_mended(piece: Conductor | FixedPiece) -> Repair:
    """What is tried first with a bad piece: a joint or body path is cleaned, anything else replaced.

    >>> how_mended(FixedPiece(id="r", start="a", end="b", side="return", kind="joint"))
    'cleaned'
    >>> how_mended(FixedPiece(id="s", start="a", end="b", side="feed", kind="switch"))
    'replaced'
    """
    joined = isinstance(piece, FixedPiece) and piece.kind in ("joint", "body_return")
    return "cleaned" if joined else "replaced"


def mended(craft: Craft, move: Mend) -> Craft:
    """A wiring with one piece as good as new.

    Args:
        craft: the wiring.
        move: which piece is mended.
    """

    def better(piece: Conductor | FixedPiece) -> Conductor | FixedPiece:
        if piece.id != move.piece:
            return piece
        # What was given as its resistance was that of the bad piece.
        ohm = piece.resistance_ohm if getattr(piece, "style", None) is None else None
        return replace(piece, repair=move.how, resistance_ohm=ohm, open=False)

    return replace(craft, pieces=tuple(map(better, craft.pieces)))


def own_steps(runs: Mapping[str, Run], run: Run, side: tuple[Step, ...]) -> list[Step]:
    """The steps of a side of a run that no other of these runs passes, but those in series with it."""
    others = {
        s.piece.id for key, each in runs.items() if key not in run.string for s in each.steps()
    }
    return [s for s in side if s.load is None and s.piece.id not in others]


def feed_metres(run: Run) -> float:
    """The length of wire on the way out: what a new wire from the source to the load takes.

    Args:
        run: the run.
    """
    wires = [s.piece for s in run.feed if isinstance(s.piece, Conductor) and not s.beside]
    return round(sum(w.length_m for w in wires), 2) or 1.0


def like(run: Run) -> Conductor | None:
    """A conductor of the run that new ones are made like: its system, finish and insulation."""
    wires = [s.piece for s in run.steps() if isinstance(s.piece, Conductor)]
    return next((w for w in wires if w.size is not None), None)


def _wire(
    run: Run, key: str, start: str, end: str, side: Side, metres: float, name: str
) -> Conductor:
    model = like(run)
    size = model.size if model is not None and model.size is not None else Size("mm2", AUTO)
    return Conductor(
        id=key, start=start, end=end, side=side, name=name, length_m=metres,
        size=replace(size, value=AUTO),
        insulation_c=model.insulation_c if model is not None else None,
        engine_space=bool(model and model.engine_space),
        bundle=model.bundle if model is not None else 1,
    )  # fmt: skip


def _joint(key: str, start: str, end: str, side: Side, style: str, name: str) -> FixedPiece:
    return FixedPiece(
        id=key,
        start=start,
        end=end,
        side=side,
        kind="joint",
        style=style,
        name=name,
    )


def _with_return(
    made: Moved, runs: Mapping[str, Run], run: Run, move: NewReturn, ids: NewIds
) -> Moved:
    craft = made.craft
    begin, end = run.return_terminal, behind_clamp(craft, run.source.back)
    a, b = ids.next("p"), ids.next("p")
    wire = _wire(run, ids.next("w"), a, b, "return", feed_metres(run), "New return")
    pieces: list[Conductor | FixedPiece] = [
        _joint(ids.next("j"), begin, a, "return", "ring on stud", "Ring, new return, load end"),
        wire,
        _joint(ids.next("j"), b, end, "return", "ring on stud", "Ring, new return, battery end"),
    ]
    # The battery's own clamp stays on its post, though only this run should pass it.
    clamp = {p.id for p in craft.pieces if {p.start, p.end} == {end, run.source.back}}
    own = {s.piece.id for s in own_steps(runs, run, run.back)} - clamp
    gone = set() if move.beside else own
    if not move.beside and not gone:
        # Nothing of the old return is the run's own: the load leaves it where it meets the others.
        return _leaving(made, run, pieces, begin, ids, wire)
    kept = tuple(p for p in craft.pieces if p.id not in gone)
    grown = replace(
        craft, pieces=(*kept, *pieces), points=(*craft.points, TestPoint(id=a), TestPoint(id=b))
    )
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id),
        new=(*made.new, *(p.id for p in pieces)),
    )  # fmt: skip


def _leaving(
    made: Moved, run: Run, pieces: list[Conductor | FixedPiece], begin: str, ids: NewIds,
    wire: Conductor,
) -> Moved:  # fmt: skip
    """The load moved off a point that it shares, onto a new return."""
    craft, point = made.craft, ids.next("p")
    first = replace(pieces[0], start=point)
    ends = {wire.start, wire.end, point}
    loads = tuple(_load_moved(x, run.load.id, begin, point) for x in craft.loads)
    grown = replace(
        craft, pieces=(*craft.pieces, first, *pieces[1:]), loads=loads,
        points=(*craft.points, *(TestPoint(id=p) for p in sorted(ends))),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id),
        new=(*made.new, first.id, *(p.id for p in pieces[1:])),
    )  # fmt: skip


def _load_moved(load: Load, wanted: str, old: str, new: str) -> Load:
    if load.id != wanted:
        return load
    start, end = (new if p == old else p for p in (load.start, load.end))
    return replace(load, start=start, end=end)


def _fused_feed(
    craft: Craft, run: Run, style: str, rating: float, end: str, metres: float, ids: NewIds
) -> tuple[list[Conductor | FixedPiece], list[TestPoint], Conductor, FixedPiece]:
    """A fuse at the source and a wire from there to a point."""
    a, b = ids.next("p"), ids.next("p")
    fuse = FixedPiece(
        id=ids.next("f"), start=behind_clamp(craft, run.source.live), end=a, side="feed",
        kind="fuse", style=style, rating_a=rating, name="New fuse",
    )  # fmt: skip
    wire = _wire(run, ids.next("w"), a, b, "feed", metres, "New feed")
    ring = _joint(ids.next("j"), b, end, "feed", "pin", "Terminal, new feed")
    return [fuse, wire, ring], [TestPoint(id=a), TestPoint(id=b)], wire, fuse


def _with_feed(made: Moved, runs: Mapping[str, Run], run: Run, move: OwnFeed, ids: NewIds) -> Moved:
    craft = made.craft
    own = [s for s in own_steps(runs, run, run.feed) if not s.beside]
    first = own[0] if own else None
    tap = ids.next("p")
    shared = [s for s in run.feed if not s.beside and (first is None or s not in own)]
    metres = sum(s.piece.length_m for s in shared if isinstance(s.piece, Conductor))
    pieces, points, wire, fuse = _fused_feed(
        craft, run, move.style, move.rating_a, tap, round(metres, 2) or 1.0, ids
    )
    old = run.feed_terminal if first is None else first.entry

    def off(piece: Conductor | FixedPiece) -> Conductor | FixedPiece:
        if first is None or piece.id != first.piece.id:
            return piece
        start, end = (tap if p == old else p for p in (piece.start, piece.end))
        return replace(piece, start=start, end=end)

    loads = craft.loads
    if first is None:
        loads = tuple(_load_moved(x, run.load.id, old, tap) for x in loads)
    grown = replace(
        craft, pieces=(*map(off, craft.pieces), *pieces), loads=loads,
        points=(*craft.points, TestPoint(id=tap), *points),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id), new_fuse=fuse.id,
        new=(*made.new, *(p.id for p in pieces)),
    )  # fmt: skip


def _with_relay(made: Moved, run: Run, move: RelayNearLoad, ids: NewIds) -> Moved:
    craft, relay = made.craft, move.relay
    supply, out, coil_in = ids.next("p"), ids.next("p"), ids.next("p")
    fed = ids.next("p")
    pieces, points, wire, fuse = _fused_feed(
        craft, run, move.style, move.rating_a, supply, feed_metres(run), ids
    )
    contact = FixedPiece(
        id=ids.next("k"), start=supply, end=out, side="feed", kind="relay_contact",
        style="contact", name="Relay contact 30 to 87",
    )  # fmt: skip
    to_load = _joint(ids.next("j"), out, fed, "feed", "pin", "Pin 87, relay socket")
    to_coil = _joint(
        ids.next("j"), run.feed_terminal, coil_in, "feed", "pin", "Pin 86, relay socket"
    )
    # It sits near the load, where the wires that lead there lie.
    near = [s.piece for s in run.steps() if isinstance(s.piece, Conductor)]
    hottest_c = (
        hottest_air_c(near, craft.scenarios) if near else max(s.ambient_c for s in craft.scenarios)
    )
    coil = Load(
        id=ids.named(f"coil-{run.load.id}"), start=coil_in, end=run.return_terminal,
        name=f"Relay coil, {run.load.name}", behaviour="constant_resistance",
        load_ohm=relay.coil_ohm, least_v=round(hot_pull_in_v(relay, hottest_c), 2),
    )  # fmt: skip
    loads = tuple(_load_moved(x, run.load.id, run.feed_terminal, fed) for x in craft.loads)
    named = [
        TestPoint(id=supply, name=f"Relay 30, {run.load.name}"),
        TestPoint(id=out, name=f"Relay 87, {run.load.name}"),
        TestPoint(id=coil_in, name=f"Relay 86, {run.load.name}"),
        TestPoint(id=fed),
    ]
    grown = replace(
        craft, pieces=(*craft.pieces, *pieces, contact, to_load, to_coil), loads=(*loads, coil),
        points=(*craft.points, *points, *named),
        scenarios=tuple(
            replace(s, on=s.on | {coil.id}) if run.load.id in s.on else s for s in craft.scenarios
        ),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id), coil=coil.id,
        contact=contact.id, new_fuse=fuse.id,
        new=(*made.new, *(p.id for p in (*pieces, contact, to_load, to_coil))),
    )  # fmt: skip


def hot_pull_in_v(relay: Relay, air_c: float) -> float:
    """The volts (V) at which a relay pulls in with its coil hot: the current that pulls stays the same.

    Args:
        air_c: the air around the relay (C).

    >>> relay = Relay("r", 12, 90, 7.8, 1.2, 30, 15, 10, "none", False, 0)
    >>> round(hot_pull_in_v(relay, 25.0), 2)
    9.18
    """
    return relay.pull_in_v * (1 + COPPER_ALPHA_PER_K * (air_c + COIL_RISE_K - 20.0))
