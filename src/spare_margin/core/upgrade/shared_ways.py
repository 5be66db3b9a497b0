"""New ways that several loads share: one return, one relay, along the feed that they have in common.

Where their feeds part is where they can come together again: what is shared is as long as the trunk to
there, and each load's own part as long as its own feed from there on.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import takewhile

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.edit.drawing import behind_clamp, tidied
from spare_margin.core.edit.ids import NewIds
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, TestPoint

from .moves import Moved, SharedRelay, SharedReturn
from .new_ways import coil_of, fused_feed, load_moved, metres_of, new_joint, new_wire, own_steps


def trunk(group: Sequence[Run]) -> tuple[Step, ...]:
    """The steps from the source on that the feeds of all these runs have in common.

    Args:
        group: the runs, at least one.
    """
    ways = [run.way("feed") for run in group]
    return tuple(
        steps[0]
        for steps in takewhile(
            lambda steps: len({s.piece.id for s in steps}) == 1 and steps[0].load is None,
            zip(*ways, strict=False),
        )
    )


def parting(group: Sequence[Run]) -> str:
    """The id of the point where the feeds of these runs part.

    Args:
        group: the runs, at least one.
    """
    common = trunk(group)
    return common[-1].exit if common else group[0].source.live


def with_shared_return(
    made: Moved, runs: Mapping[str, Run], move: SharedReturn, ids: NewIds
) -> Moved:
    """A wiring in which several loads come back through one new wire, from a bar of their own.

    Args:
        made: the wiring so far.
        runs: its runs, by load id.
        move: which loads, and whether their old returns stay.
        ids: the ids that are free.
    """
    craft, group = made.craft, [runs[key] for key in move.loads]
    run, common = group[0], trunk(group)
    end = behind_clamp(craft, run.source.back)
    bar, a, b = (ids.next("p") for _ in range(3))
    wire = new_wire(run, ids.next("w"), a, b, "return", metres_of(common), "Shared return")
    pieces: list[Conductor | FixedPiece] = [
        new_joint(ids.next("j"), bar, a, "return", "ring on stud", "Ring, shared return, bar end"),
        wire,
        new_joint(
            ids.next("j"), b, end, "return", "ring on stud", "Ring, shared return, battery end"
        ),
    ]
    kept = craft if move.beside else _without_own_returns(craft, runs, move.loads, end)
    loads, points = kept.loads, [TestPoint(id=bar, name="Return bar")]
    for each in group:
        begin = each.return_terminal
        if not move.beside and replace(kept, loads=loads).touching[begin] > 1:
            # Others stay where it was: it leaves the point that it shared with them.
            old, begin = begin, ids.next("p")
            loads = tuple(load_moved(x, each.load.id, old, begin) for x in loads)
        points.append(TestPoint(id=begin))
        pieces += _tail(each, begin, bar, metres_of(each.way("feed")[len(common) :]), ids)
    ends = {p for piece in pieces for p in (piece.start, piece.end)}
    known = {p.id for p in (*kept.points, *points)}
    points = [p for p in points if p.id not in {q.id for q in kept.points}]
    points += [TestPoint(id=p) for p in sorted(ends - known)]
    grown = replace(
        kept, pieces=(*kept.pieces, *pieces), loads=loads, points=(*kept.points, *points)
    )
    return replace(
        made, craft=tidied(grown, ()),
        free=(*made.free, *(p.id for p in pieces if isinstance(p, Conductor))),
        new=(*made.new, *(p.id for p in pieces)),
    )  # fmt: skip


def _tail(
    run: Run, begin: str, bar: str, metres: float, ids: NewIds
) -> list[Conductor | FixedPiece]:
    """A load's own part of a shared return: a wire as long as its own feed; a ring where that has none."""
    name = run.load.name
    if not metres:
        return [
            new_joint(
                ids.next("j"), begin, bar, "return", "ring on stud", f"Ring, {name}, on the bar"
            )
        ]
    c, d = ids.next("p"), ids.next("p")
    return [
        new_joint(ids.next("j"), begin, c, "return", "ring on stud", f"Ring, {name}, load end"),
        new_wire(run, ids.next("w"), c, d, "return", metres, f"New return, {name}"),
        new_joint(ids.next("j"), d, bar, "return", "ring on stud", f"Ring, {name}, bar end"),
    ]


def _without_own_returns(
    craft: Craft, runs: Mapping[str, Run], loads: Sequence[str], end: str
) -> Craft:
    """Without what only these loads pass on their way back; a clamp stays on its post."""
    posts = {runs[key].source.back for key in loads}
    clamps = {p.id for p in craft.pieces if {p.start, p.end} in ({end, post} for post in posts)}
    others = {key: run for key, run in runs.items() if key not in loads}
    gone = {
        s.piece.id for key in loads for s in own_steps(others, runs[key], runs[key].back)
    } - clamps
    return replace(craft, pieces=tuple(p for p in craft.pieces if p.id not in gone))


def with_shared_relay(
    made: Moved, runs: Mapping[str, Run], move: SharedRelay, ids: NewIds
) -> Moved:
    """A wiring in which one relay feeds several loads from where their feeds part.

    Args:
        made: the wiring so far.
        runs: its runs, by load id.
        move: which loads, the relay and its fuse.
        ids: the ids that are free.
    """
    craft, group = made.craft, [runs[key] for key in move.loads]
    run, common, old = group[0], trunk(group), parting(group)
    supply, out, fed, coil_in = (ids.next("p") for _ in range(4))
    pieces, points, wire, fuse = fused_feed(
        craft, run, move.style, move.rating_a, supply, metres_of(common), ids
    )
    contact = FixedPiece(
        id=ids.next("k"), start=supply, end=out, side="feed", kind="relay_contact",
        style="contact", name="Relay contact 30 to 87",
    )  # fmt: skip
    joints = [
        new_joint(ids.next("j"), out, fed, "feed", "pin", "Pin 87, relay socket"),
        new_joint(ids.next("j"), old, coil_in, "feed", "pin", "Pin 86, relay socket"),
    ]
    first = {
        each.way("feed")[len(common)].piece.id
        for each in group
        if len(each.way("feed")) > len(common)
    }

    def off(piece: Conductor | FixedPiece) -> Conductor | FixedPiece:
        if piece.id not in first:
            return piece
        start, end = (fed if p == old else p for p in (piece.start, piece.end))
        return replace(piece, start=start, end=end)

    loads: tuple[Load, ...] = craft.loads
    for each in group:
        if each.feed_terminal == old:
            loads = tuple(load_moved(x, each.load.id, old, fed) for x in loads)
    coil = coil_of(craft, run, move.relay, coil_in, ids, [each.load.name for each in group])
    named = [
        TestPoint(id=supply, name="Relay 30"), TestPoint(id=out, name="Relay 87"),
        TestPoint(id=coil_in, name="Relay 86"), TestPoint(id=fed),
    ]  # fmt: skip
    grown = replace(
        craft, pieces=(*map(off, craft.pieces), *pieces, contact, *joints), loads=(*loads, coil),
        points=(*craft.points, *points, *named),
        scenarios=tuple(
            replace(s, on=s.on | {coil.id}) if s.on & set(move.loads) else s
            for s in craft.scenarios
        ),
    )  # fmt: skip
    return replace(
        made, craft=tidied(grown, ()), free=(*made.free, wire.id), coil=coil.id,
        contact=contact.id, new_fuse=fuse.id,
        new=(*made.new, *(p.id for p in (*pieces, contact, *joints))),
    )  # fmt: skip
