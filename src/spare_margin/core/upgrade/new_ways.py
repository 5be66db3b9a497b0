"""New ways for one run: a return, a feed, a relay at its load.

A conductor that is added has the size AUTO until one is chosen.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.edit.drawing import behind_clamp, tidied
from spare_margin.core.edit.ids import NewIds
from spare_margin.core.model.conductors import COPPER_ALPHA_PER_K, hottest_air_c
from spare_margin.core.model.pieces import (
    AUTO,
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Side,
    Size,
    TestPoint,
)
from spare_margin.core.model.stock import Relay

from .moves import Moved, NewReturn, OwnFeed, RelayNearLoad

COIL_RISE_K = 40.0
"""How much warmer than the air a coil gets that stays on."""


def own_steps(runs: Mapping[str, Run], run: Run, side: tuple[Step, ...]) -> list[Step]:
    """The steps of a side of a run that no other of these runs passes, but those in series with it."""
    others = {
        s.piece.id for key, each in runs.items() if key not in run.string for s in each.steps()
    }
    return [s for s in side if s.load is None and s.piece.id not in others]


def metres_of(steps: Iterable[Step]) -> float:
    """How long the wires of some steps are altogether (m).

    Args:
        steps: steps of a run; those beside the main way do not count.
    """
    wires = [s.piece for s in steps if isinstance(s.piece, Conductor) and not s.beside]
    return round(sum(w.length_m for w in wires), 2)


def feed_metres(run: Run) -> float:
    """The length of wire on the way out: what a new wire from the source to the load takes (m).

    Args:
        run: the run.
    """
    return metres_of(run.feed) or 1.0


def like(run: Run) -> Conductor | None:
    """A conductor of the run that new ones are made like: its system, finish and insulation."""
    wires = [s.piece for s in run.steps() if isinstance(s.piece, Conductor)]
    return next((w for w in wires if w.size is not None), None)


def new_wire(
    run: Run, key: str, start: str, end: str, side: Side, metres: float, name: str
) -> Conductor:
    """A wire that is to be sized, of the sort that the run has.

    Args:
        run: the run that it is like.
        key: its id.
        start: the id of the point that it begins at.
        end: the id of the point that it ends at.
        side: feed or return.
        metres: its length (m).
        name: what it is called.
    """
    model = like(run)
    size = model.size if model is not None and model.size is not None else Size("mm2", AUTO)
    return Conductor(
        id=key, start=start, end=end, side=side, name=name, length_m=metres,
        size=replace(size, value=AUTO),
        insulation_c=model.insulation_c if model is not None else None,
        engine_space=bool(model and model.engine_space),
        bundle=model.bundle if model is not None else 1,
    )  # fmt: skip


def new_joint(key: str, start: str, end: str, side: Side, style: str, name: str) -> FixedPiece:
    """A joint from one point to another.

    Args:
        key: its id.
        start: the id of the point that it begins at.
        end: the id of the point that it ends at.
        side: feed or return.
        style: what kind of terminal it is.
        name: what it is called.
    """
    return FixedPiece(
        id=key,
        start=start,
        end=end,
        side=side,
        kind="joint",
        style=style,
        name=name,
    )


def with_return(
    made: Moved, runs: Mapping[str, Run], run: Run, move: NewReturn, ids: NewIds
) -> Moved:
    """A wiring in which a load has a return of its own, to the source.

    Args:
        made: the wiring so far.
        runs: its runs, by load id.
        run: the run that gets it.
        move: whether the old return stays beside it.
        ids: the ids that are free.
    """
    craft = made.craft
    begin, end = run.return_terminal, behind_clamp(craft, run.source.back)
    a, b = ids.next("p"), ids.next("p")
    wire = new_wire(run, ids.next("w"), a, b, "return", feed_metres(run), "New return")
    pieces: list[Conductor | FixedPiece] = [
        new_joint(ids.next("j"), begin, a, "return", "ring on stud", "Ring, new return, load end"),
        wire,
        new_joint(ids.next("j"), b, end, "return", "ring on stud", "Ring, new return, battery end"),
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
    loads = tuple(load_moved(x, run.load.id, begin, point) for x in craft.loads)
    grown = replace(
        craft, pieces=(*craft.pieces, first, *pieces[1:]), loads=loads,
        points=(*craft.points, *(TestPoint(id=p) for p in sorted(ends))),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id),
        new=(*made.new, first.id, *(p.id for p in pieces[1:])),
    )  # fmt: skip


def load_moved(load: Load, wanted: str, old: str, new: str) -> Load:
    """A load with its end moved from one point to another, where it is the one wanted.

    Args:
        load: the load.
        wanted: the id of the load that moves.
        old: the id of the point that it leaves.
        new: the id of the point that it goes to.
    """
    if load.id != wanted:
        return load
    start, end = (new if p == old else p for p in (load.start, load.end))
    return replace(load, start=start, end=end)


def fused_feed(
    craft: Craft, run: Run, style: str, rating: float, end: str, metres: float, ids: NewIds
) -> tuple[list[Conductor | FixedPiece], list[TestPoint], Conductor, FixedPiece]:
    """A fuse at the source and a wire from there to a point.

    Args:
        craft: the wiring as it is.
        run: the run whose source it is, and that the wire is like.
        style: the fuse's style.
        rating: the fuse's rating (A).
        end: the id of the point that the feed ends at.
        metres: the length of the wire (m).
        ids: the ids that are free.
    """
    a, b = ids.next("p"), ids.next("p")
    fuse = FixedPiece(
        id=ids.next("f"), start=behind_clamp(craft, run.source.live), end=a, side="feed",
        kind="fuse", style=style, rating_a=rating, name="New fuse",
    )  # fmt: skip
    wire = new_wire(run, ids.next("w"), a, b, "feed", metres, "New feed")
    ring = new_joint(ids.next("j"), b, end, "feed", "pin", "Terminal, new feed")
    return [fuse, wire, ring], [TestPoint(id=a), TestPoint(id=b)], wire, fuse


def with_feed(made: Moved, runs: Mapping[str, Run], run: Run, move: OwnFeed, ids: NewIds) -> Moved:
    """A wiring in which a run's own part of the feed is supplied from the source by itself.

    Args:
        made: the wiring so far.
        runs: its runs, by load id.
        run: the run that gets it.
        move: the fuse at its beginning.
        ids: the ids that are free.
    """
    craft = made.craft
    own = [s for s in own_steps(runs, run, run.feed) if not s.beside]
    first = own[0] if own else None
    tap = ids.next("p")
    shared = [s for s in run.feed if not s.beside and (first is None or s not in own)]
    metres = sum(s.piece.length_m for s in shared if isinstance(s.piece, Conductor))
    pieces, points, wire, fuse = fused_feed(
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
        loads = tuple(load_moved(x, run.load.id, old, tap) for x in loads)
    grown = replace(
        craft, pieces=(*map(off, craft.pieces), *pieces), loads=loads,
        points=(*craft.points, TestPoint(id=tap), *points),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id), new_fuse=fuse.id,
        new=(*made.new, *(p.id for p in pieces)),
    )  # fmt: skip


def coil_of(
    craft: Craft, run: Run, relay: Relay, start: str, ids: NewIds, names: Sequence[str]
) -> Load:
    """The coil of a relay as a load, from a point of the old feed to the return of a run.

    Args:
        craft: the wiring as it is.
        run: the run near whose load it sits, where the wires that lead there lie.
        relay: which relay.
        start: the id of the point that its hole 86 is on.
        ids: the ids that are free.
        names: the names of the loads that it switches.
    """
    near = [s.piece for s in run.steps() if isinstance(s.piece, Conductor)]
    hottest_c = (
        hottest_air_c(near, craft.scenarios) if near else max(s.ambient_c for s in craft.scenarios)
    )
    return Load(
        id=ids.named(f"coil-{run.load.id}"), start=start, end=run.return_terminal,
        name=f"Relay coil, {' and '.join(names)}", behaviour="constant_resistance",
        load_ohm=relay.coil_ohm, least_v=round(hot_pull_in_v(relay, hottest_c), 2),
    )  # fmt: skip


def with_relay(made: Moved, run: Run, move: RelayNearLoad, ids: NewIds) -> Moved:
    """A wiring in which a relay at the load feeds it, and the old feed drives the coil.

    Args:
        made: the wiring so far.
        run: the run that gets it.
        move: the relay and its fuse.
        ids: the ids that are free.
    """
    craft, relay = made.craft, move.relay
    supply, out, coil_in = ids.next("p"), ids.next("p"), ids.next("p")
    fed = ids.next("p")
    pieces, points, wire, fuse = fused_feed(
        craft, run, move.style, move.rating_a, supply, feed_metres(run), ids
    )
    contact = FixedPiece(
        id=ids.next("k"), start=supply, end=out, side="feed", kind="relay_contact",
        style="contact", name="Relay contact 30 to 87",
    )  # fmt: skip
    to_load = new_joint(ids.next("j"), out, fed, "feed", "pin", "Pin 87, relay socket")
    to_coil = new_joint(
        ids.next("j"), run.feed_terminal, coil_in, "feed", "pin", "Pin 86, relay socket"
    )
    coil = coil_of(craft, run, relay, coil_in, ids, [run.load.name])
    loads = tuple(load_moved(x, run.load.id, run.feed_terminal, fed) for x in craft.loads)
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
