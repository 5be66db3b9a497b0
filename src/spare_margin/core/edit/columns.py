"""One piece at a time: put in, moved along, taken out."""

import contextlib
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.errors import JobError
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import (
    AnyPiece,
    Craft,
    Load,
    Side,
    TestPoint,
)

from .drawing import tidied
from .ids import PREFIXES, NewIds


def _ends_renamed(craft: Craft, old: str, new: str, only: set[str] | None = None) -> Craft:
    """The craft with everything (or only these elements) that touched `old` touching `new`."""

    def moved(e: Any) -> Any:
        if only is not None and e.id not in only:
            return e
        start, end = (new if p == old else p for p in (e.start, e.end))
        return e if (start, end) == (e.start, e.end) else replace(e, start=start, end=end)

    return replace(
        craft, pieces=tuple(map(moved, craft.pieces)), loads=tuple(map(moved, craft.loads))
    )


def put_in(
    craft: Craft, run: Run, after: str | None, piece: AnyPiece, also: Iterable[str] = ()
) -> tuple[Craft, str]:
    """A new piece behind another (or the load) of a run; behind nothing, at its live post.

    Args:
        craft: that the run is of.
        run: as it was traced in this craft.
        after: the id of the piece or load that comes before it as the current passes; None for the post.
        piece: what is put in; its id and ends are given to it here.
        also: ids that are taken elsewhere, in other revisions.

    Returns: the craft with it, and the piece's id.

    Raises:
        JobError: path `after`, where that is not on the run's main way.
    """
    ids = NewIds(craft, also)
    new = ids.next("p")
    steps = [(s.piece.id, s.entry, s.exit) for s in run.way("feed")]
    steps.append((run.load.id, run.feed_terminal, run.return_terminal))
    steps += [(s.piece.id, s.entry, s.exit) for s in run.way("return")]
    at = next((i for i, s in enumerate(steps) if s[0] == after), -1)
    if at < 0 and after is not None:
        raise JobError("piece", f"there is no {after} on this run", "a piece of the run")
    load_at = next(i for i, s in enumerate(steps) if s[0] == run.load.id)
    side: Side = "return" if at >= load_at else "feed"
    if at + 1 < len(steps):
        follower, point = steps[at + 1][0], steps[at + 1][1]
        start, end = point, new
    else:
        follower, point = steps[at][0], steps[at][2]
        start, end = new, point
    opened = _ends_renamed(craft, point, new, {follower})
    held = ids.next(PREFIXES[piece.kind])
    made = replace(piece, id=held, start=start, end=end, side=side)
    place = next((i for i, p in enumerate(opened.pieces) if p.id == after), -1) + 1
    pieces = (*opened.pieces[:place], made, *opened.pieces[place:])
    return replace(opened, pieces=pieces, points=(*craft.points, TestPoint(id=new))), held


def taken_out(craft: Craft, piece_id: str) -> Craft:
    """Without this piece; its two test points become one, unless another way joins them.

    Args:
        piece_id: the id of the piece.

    Raises:
        JobError: path `piece`, where the craft has none of this id.
    """
    piece = next((p for p in craft.pieces if p.id == piece_id), None)
    if piece is None:
        raise JobError("piece", f"there is no {piece_id}", "a piece of the craft")
    rest = replace(craft, pieces=tuple(p for p in craft.pieces if p.id != piece_id))
    part = Tracer(rest, {}).part
    if part[piece.start] == part[piece.end]:
        return tidied(rest, ())
    posts = {craft.reference} | {post for s in craft.sources for post in (s.live, s.back)}
    stays, goes = piece.start, piece.end
    if goes in posts or (craft.point(goes).name and not craft.point(stays).name):
        stays, goes = goes, stays
    if goes in posts:
        raise JobError("piece", f"{called(piece)} connects two posts; deleting it would join them")
    return tidied(_ends_renamed(rest, goes, stays), ())


def moved(craft: Craft, run: Run, piece_id: str, later: bool) -> Craft:
    """The piece one place later (or earlier) in the run; it changes places with its neighbour.

    Past the load it goes over to the other side. Raises JobError (path `piece`) where it is not on the
    run's main way, or stands at its end.

    Args:
        craft: the wiring.
        piece_id: the id of the piece.
    """
    order = [s.piece.id for s in run.way("feed")]
    order.append(run.load.id)
    order += [s.piece.id for s in run.way("return")]
    if piece_id not in order:
        raise JobError("piece", f"{piece_id} is not on the main way", "a piece of the run")
    at = order.index(piece_id)
    to = at + 1 if later else at - 1
    if not 0 <= to < len(order):
        raise JobError("piece", "it is at the end of the run already")
    first, second = (at, to) if later else (to, at)
    spans = {s.piece.id: (s.entry, s.exit) for s in (*run.feed, *run.back)}
    spans[run.load.id] = (run.feed_terminal, run.return_terminal)
    # The neighbours change ends; each keeps the direction it was drawn in.
    takes = {order[first]: spans[order[second]], order[second]: spans[order[first]]}
    side: Side = "return" if run.load.id in takes and later else "feed"

    def placed(e: Any) -> Any:
        if e.id not in takes:
            return e
        start, end = takes[e.id]
        if (e.start, e.end) != spans[e.id]:
            start, end = end, start
        changed = {"side": side} if run.load.id in takes and not isinstance(e, Load) else {}
        return replace(e, start=start, end=end, **changed)

    made = replace(
        craft, pieces=tuple(map(placed, craft.pieces)), loads=tuple(map(placed, craft.loads))
    )
    lost = _closed(craft) - _closed(made)
    if lost:
        names = ", ".join(sorted(craft.load(key).name for key in lost))
        raise JobError("piece", f"moved there, {names} would have no closed loop any more")
    return made


def _closed(craft: Craft) -> set[str]:
    """The loads whose loop closes."""
    tracer = Tracer(craft, {})
    found = set()
    for load in craft.loads:
        with contextlib.suppress(JobError):
            tracer.trace(load)
            found.add(load.id)
    return found
