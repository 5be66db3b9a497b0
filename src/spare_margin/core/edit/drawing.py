"""Drawing up a craft: runs added, redrawn, copied and taken out; pieces put in, moved, taken out.

A run is drawn from a line: test points, pieces and one load in the order the current passes.
Marks on a line are the core's own values with what is not yet known left empty: a new piece has no
id, and nobody fills in its ends. Two test points next to each other stand for the way that is there.
"""

import contextlib
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from spare_margin.core.circuit.runs import AnyPiece, Run, Tracer
from spare_margin.core.errors import JobError
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Side,
    TestPoint,
    kind_of,
)

Element = Conductor | FixedPiece | Load
Mark = TestPoint | Element
PREFIXES = {
    "conductor": "w", "joint": "j", "fuse": "f", "breaker": "b", "switch": "s",
    "relay_contact": "k", "body_return": "g", "resistor": "r",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Line:
    """A run, or a way without a load, as marks; `beside` are ways beside it, point to point."""

    main: tuple[Mark, ...]
    beside: tuple[tuple[Mark, ...], ...] = ()

    def marks(self) -> Iterator[Mark]:
        """Every mark, those of the ways beside last."""
        yield from self.main
        for way in self.beside:
            yield from way

    @property
    def load(self) -> Load | None:
        """The load on the line, if there is one."""
        return next((m for m in self.main if isinstance(m, Load)), None)


def ids_of(craft: Craft) -> set[str]:
    """Every id of a craft's points, pieces, loads and scenarios."""
    return {x.id for x in (*craft.points, *craft.pieces, *craft.loads, *craft.scenarios)}


class NewIds:
    """Short ids that a craft does not have yet: w1, j2, p3 ...

    `also` are ids that are taken elsewhere, as by another stage of the same job.
    """

    def __init__(self, craft: Craft, also: Iterable[str] = ()) -> None:
        self.taken = ids_of(craft) | set(also)

    def next(self, prefix: str) -> str:
        """The first free id with this prefix."""
        number = 1
        while f"{prefix}{number}" in self.taken:
            number += 1
        self.taken.add(f"{prefix}{number}")
        return f"{prefix}{number}"

    def named(self, name: str) -> str:
        """An id after a person's name for the thing, as far as its letters allow."""
        plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40]
        if not plain or plain in self.taken:
            return self.next(f"{plain}-" if plain else "x")
        self.taken.add(plain)
        return plain


# A run as a line


def line_of(craft: Craft, run: Run, ends: Mapping[str, int] | None = None) -> Line:
    """The line of a run as it is drawn: what `redrawn` with it would leave as it is.

    Test points are marked where they have a name, are hard to reach, or join more than two ends;
    `ends` are the craft's `touched_ends`, where they were counted already.
    """
    points = {p.id: p for p in craft.points}
    if ends is None:
        ends = touched_ends(craft)
    posts = (run.source.live, run.source.back)

    def marked(point: str) -> list[Mark]:
        told = points[point].name or points[point].access != "open" or ends.get(point, 0) > 2
        return [points[point]] if told or point in posts else []

    main: list[Mark] = marked(run.source.live)
    for step in run.feed:
        if not step.beside:
            main += [step.piece, *marked(step.exit)]
    main.append(run.load)
    main += marked(run.return_terminal)
    for step in run.back:
        if not step.beside:
            main += [step.piece, *marked(step.exit)]
    ways = [way for side in (run.feed, run.back) for way in _beside_ways(side, points)]
    return Line(tuple(main), tuple(ways))


def touched_ends(craft: Craft) -> dict[str, int]:
    """How many ends of pieces, loads and sources meet at each test point."""
    out: dict[str, int] = {}
    for e in (*craft.pieces, *craft.loads):
        for point in (e.start, e.end):
            out[point] = out.get(point, 0) + 1
    for s in craft.sources:
        for point in (s.live, s.back):
            out[point] = out.get(point, 0) + 1
    return out


def _beside_ways(steps: Sequence[Any], points: dict[str, TestPoint]) -> Iterator[tuple[Mark, ...]]:
    """Pieces beside the main way, strung together while one follows the other."""
    way: list[Mark] = []
    at = ""
    for step in (s for s in steps if s.beside):
        if way and step.entry == at:
            way += [step.piece, points[step.exit]]
        else:
            if way:
                yield tuple(way)
            way = [points[step.entry], step.piece, points[step.exit]]
        at = step.exit
    if way:
        yield tuple(way)


# Drawing a line


def drawn(
    craft: Craft, line: Line, replacing: Line | None = None, also: Iterable[str] = ()
) -> tuple[Craft, str | None]:
    """The craft with this line drawn, and the id of its load.

    With `replacing`, marks that carry ids of that line stay those things; what it has and this
    line has not is taken out. JobError (path `line`) for a line that cannot be drawn, or that would
    leave another run without its loop.
    """
    ids = NewIds(craft, also)
    old = list(replacing.marks()) if replacing else []
    kept = {m.id for m in line.marks() if m.id}
    gone = {m.id for m in old if not isinstance(m, TestPoint)} - kept
    pieces = {p.id: p for p in craft.pieces if p.id not in gone}
    loads = {x.id: x for x in craft.loads if x.id not in gone}
    maker = _Maker(craft, ids, pieces, loads)
    if line.load is None and replacing is not None and replacing.load is not None:
        raise JobError("line", "has no load", 'a load, as load "Fan" 2 A')
    main = _with_ends(craft, line)
    load_id = maker.draw(main)
    for way in line.beside:
        maker.draw(way)
    made = maker.craft()
    _check_runs(made, loads.keys() | ({load_id} if load_id else set()))
    return made, load_id


def _with_ends(craft: Craft, line: Line) -> tuple[Mark, ...]:
    """The line from post to post where its ends are not said."""
    main = line.main
    if not any(not isinstance(m, TestPoint) for m in main):
        raise JobError("line", "has no piece", "a piece, as 2.5 mm\u00b2 4 m")
    source = craft.sources[0]
    points = {p.id: p for p in craft.points}
    if not isinstance(main[0], TestPoint):
        main = (points[_behind_clamp(craft, source.live)], *main)
    if not isinstance(main[-1], TestPoint):
        if line.load is None:
            raise JobError(
                "line", "a way without a load must say where it ends", "a test point, as [Bus]"
            )
        main = (*main, points[_behind_clamp(craft, source.back)])
    return main


def _behind_clamp(craft: Craft, post: str) -> str:
    """The far end of a post's clamp, where that is all that is on the post; else the post."""
    on_post = [p for p in craft.pieces if post in (p.start, p.end)]
    if len(on_post) == 1 and getattr(on_post[0], "style", None) == "post clamp":
        return on_post[0].end if on_post[0].start == post else on_post[0].start
    return post


def _slots(marks: Sequence[Mark]) -> tuple[list[TestPoint | None], list[Element | None]]:
    """Marks as points and the elements between them; None where a point or element is not said."""
    slots: list[TestPoint | None] = []
    elements: list[Element | None] = []
    for mark in marks:
        if isinstance(mark, TestPoint):
            if len(slots) > len(elements):
                elements.append(None)  # two points in a row: the way that is there
            slots.append(mark)
        else:
            if len(slots) == len(elements):
                slots.append(None)
            elements.append(mark)
    return slots, elements


class _Maker:
    """Pieces, loads and points while a line is drawn into them."""

    def __init__(
        self,
        craft: Craft,
        ids: NewIds,
        pieces: dict[str, AnyPiece],
        loads: dict[str, Load],
    ) -> None:
        self.before, self.ids, self.pieces, self.loads = craft, ids, pieces, loads
        self.points = {p.id: p for p in craft.points}
        self.was: dict[str, tuple[str, str]] = {
            e.id: (e.start, e.end) for e in (*craft.pieces, *craft.loads)
        }
        self.by_name = {p.name.casefold(): p.id for p in craft.points if p.name}
        self.used: set[str] = set()
        self.new_loads: list[str] = []

    def draw(self, marks: Sequence[Mark]) -> str | None:
        """Draw one way, ends and all; the id of its load."""
        slots, elements = _slots(marks)
        places: list[str | None] = [self._told(slot) for slot in slots]
        self.used |= {p for p in places if p}
        for i, place in enumerate(places):
            if place is None:
                places[i] = self._between(elements[i - 1], elements[i])
        load_id = None
        side: Side = "feed" if any(isinstance(e, Load) for e in elements) else self._side(places)
        for element, (start, end) in zip(elements, pairwise(map(str, places)), strict=True):
            if element is None:
                continue
            if start == end:
                raise JobError("line", f"{self._name(element)} would join a point to itself")
            if isinstance(element, Load):
                load_id, side = self._put_load(element, start, end), "return"
            else:
                self._put_piece(element, start, end, side)
        return load_id

    @staticmethod
    def _name(element: Element) -> str:
        return element.name if isinstance(element, Load) else called(element)

    def _told(self, point: TestPoint | None) -> str | None:
        """The id of a point that is marked, made if it is new, with its name and access as marked."""
        if point is None:
            return None
        held = point.id or self.by_name.get(point.name.casefold(), "")
        if not held:
            held = self.ids.named(point.name)
            self.by_name[point.name.casefold()] = held
        before = self.points.get(held)
        name = point.name or (before.name if before else "")
        self.points[held] = TestPoint(id=held, name=name, access=point.access)
        return held

    def _between(self, before: Element | None, after: Element | None) -> str:
        """The point between two elements: one they had already, else a new one."""
        candidates = []
        if before is not None and before.id in self.was:
            candidates.append(self.was[before.id][1])
            candidates.append(self.was[before.id][0])
        if after is not None and after.id in self.was:
            candidates[:0] = [e for e in self.was[after.id] if e in candidates]
            candidates += self.was[after.id]
        for point in candidates:
            if point not in self.used:
                self.used.add(point)
                return point
        made = self.ids.next("p")
        self.points[made] = TestPoint(id=made)
        self.used.add(made)
        return made

    def _side(self, places: Sequence[str | None]) -> Side:
        """The side of a way without a load: the one on which its ends lie."""
        craft = replace(self.before, pieces=tuple(self.pieces.values()))
        part = Tracer(craft, {}).part
        backs = {part[s.back] for s in craft.sources}
        return "return" if any(part.get(str(p)) in backs for p in places) else "feed"

    def _put_load(self, load: Load, start: str, end: str) -> str:
        made = replace(load, id=load.id or self.ids.named(load.name), start=start, end=end)
        if made.id not in self.loads:
            self.new_loads.append(made.id)
        self.loads[made.id] = made
        return made.id

    def _put_piece(self, piece: AnyPiece, start: str, end: str, side: Side) -> None:
        held = piece.id or self.ids.next(PREFIXES[kind_of(piece)])
        was = self.was.get(held)
        if was == (end, start):
            start, end = end, start  # drawn the other way round before, and so it stays
        self.pieces[held] = replace(piece, id=held, start=start, end=end, side=side)

    def craft(self) -> Craft:
        """The craft as drawn, in the order it was drawn; points nothing touches are gone."""
        order = [p.id for p in self.before.pieces]
        pieces = [self.pieces[i] for i in order if i in self.pieces]
        pieces += [p for key, p in self.pieces.items() if key not in set(order)]
        made = replace(self.before, pieces=tuple(pieces), loads=tuple(self.loads.values()))
        gone = {x.id for x in self.before.loads} - self.loads.keys()
        return _tidied(replace(made, points=tuple(self.points.values())), gone, self.new_loads)


def _tidied(craft: Craft, gone: Iterable[str], new: Iterable[str] = ()) -> Craft:
    """Without points that nothing touches; a new load is on in every scenario, a gone one in none."""
    touched = touched_ends(craft)
    return replace(
        craft,
        points=tuple(p for p in craft.points if touched.get(p.id) or p.id == craft.reference),
        scenarios=tuple(
            replace(
                s,
                on=(s.on - set(gone)) | set(new),
                starting=s.starting - set(gone),
            )
            for s in craft.scenarios
        ),
    )


def _check_runs(craft: Craft, wanted: Iterable[str]) -> None:
    """Every wanted run must close."""
    tracer = Tracer(craft, {})
    for load in craft.loads:
        if load.id in wanted:
            try:
                tracer.trace(load)
            except JobError as broken:
                raise JobError("line", broken.problem, broken.accepted) from None


# One piece at a time


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
    """A new piece behind another (or the load) of a run; behind nothing, at its live post."""
    ids = NewIds(craft, also)
    new = ids.next("p")
    steps = [(s.piece.id, s.entry, s.exit) for s in run.feed if not s.beside]
    steps.append((run.load.id, run.feed_terminal, run.return_terminal))
    steps += [(s.piece.id, s.entry, s.exit) for s in run.back if not s.beside]
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
    held = ids.next(PREFIXES[kind_of(piece)])
    made = replace(piece, id=held, start=start, end=end, side=side)
    place = next((i for i, p in enumerate(opened.pieces) if p.id == after), -1) + 1
    pieces = (*opened.pieces[:place], made, *opened.pieces[place:])
    return replace(opened, pieces=pieces, points=(*craft.points, TestPoint(id=new))), held


def taken_out(craft: Craft, piece_id: str) -> Craft:
    """Without this piece; its two test points become one, unless another way joins them."""
    piece = next((p for p in craft.pieces if p.id == piece_id), None)
    if piece is None:
        raise JobError("piece", f"there is no {piece_id}", "a piece of the craft")
    rest = replace(craft, pieces=tuple(p for p in craft.pieces if p.id != piece_id))
    part = Tracer(rest, {}).part
    if part[piece.start] == part[piece.end]:
        return _tidied(rest, ())
    posts = {craft.reference} | {post for s in craft.sources for post in (s.live, s.back)}
    stays, goes = piece.start, piece.end
    if goes in posts or (craft.point(goes).name and not craft.point(stays).name):
        stays, goes = goes, stays
    if goes in posts:
        raise JobError(
            "piece", f"{called(piece)} lies between two posts: taking it out would join them"
        )
    return _tidied(_ends_renamed(rest, goes, stays), ())


def moved(craft: Craft, run: Run, piece_id: str, later: bool) -> Craft:
    """The piece one place later (or earlier) in the run; it changes places with its neighbour."""
    order = [s.piece.id for s in run.feed if not s.beside]
    order.append(run.load.id)
    order += [s.piece.id for s in run.back if not s.beside]
    if piece_id not in order:
        raise JobError("piece", f"{piece_id} is not on the main way", "a piece of the run")
    at = order.index(piece_id)
    to = at + 1 if later else at - 1
    if not 0 <= to < len(order):
        raise JobError("piece", "it is at the end of the run already")
    first, second = (at, to) if later else (to, at)
    spans = {s.piece.id: (s.entry, s.exit) for s in run.steps()}
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


# Whole runs


def _own_pieces(craft: Craft, load_id: str) -> tuple[Run, set[str]]:
    """A run, and its pieces that no other run passes."""
    tracer = Tracer(craft, {})
    run = tracer.trace(craft.load(load_id))
    others: set[str] = set()
    for load in craft.loads:
        if load.id != load_id:
            try:
                others |= {s.piece.id for s in tracer.trace(load).steps()}
            except JobError:
                continue
    return run, {s.piece.id for s in run.steps()} - others


def run_taken_out(craft: Craft, load_id: str) -> Craft:
    """Without this load and the pieces that served it alone."""
    try:
        _, own = _own_pieces(craft, load_id)
    except JobError:
        own = set()
    return _tidied(
        replace(
            craft,
            pieces=tuple(p for p in craft.pieces if p.id not in own),
            loads=tuple(x for x in craft.loads if x.id != load_id),
        ),
        {load_id},
    )


def run_copied(craft: Craft, load_id: str, also: Iterable[str] = ()) -> tuple[Craft, str]:
    """A second run like this one, from and to the points where it meets the others."""
    run, own = _own_pieces(craft, load_id)
    ids = NewIds(craft, also)
    inside = {p for s in run.steps() if s.piece.id in own for p in (s.entry, s.exit)}
    inside |= {run.load.start, run.load.end}
    outside = {p for q in craft.pieces if q.id not in own for p in (q.start, q.end)}
    outside |= {post for s in craft.sources for post in (s.live, s.back)}
    twin = {p: ids.next("p") for p in sorted(inside - outside)}
    name = _next_name(run.load.name, [x.name for x in craft.loads])
    points = [replace(craft.point(p), id=new, name="") for p, new in twin.items()]
    pieces = [
        replace(
            p,
            id=ids.next(PREFIXES[kind_of(p)]),
            start=twin.get(p.start, p.start),
            end=twin.get(p.end, p.end),
            repair=None,
        )
        for p in craft.pieces
        if p.id in own
    ]
    load = replace(
        run.load,
        id=ids.named(name),
        name=name,
        start=twin.get(run.load.start, run.load.start),
        end=twin.get(run.load.end, run.load.end),
    )
    made = replace(
        craft,
        points=(*craft.points, *points),
        pieces=(*craft.pieces, *pieces),
        loads=(*craft.loads, load),
        scenarios=tuple(
            replace(s, on=s.on | {load.id}) if load_id in s.on else s for s in craft.scenarios
        ),
    )
    return made, load.id


def _next_name(name: str, taken: list[str]) -> str:
    stem = re.sub(r" \d+$", "", name)
    number = 2
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"


def loose_ends(craft: Craft) -> list[TestPoint]:
    """Test points, posts apart, that lead nowhere: a way still to be drawn on."""
    touched = touched_ends(craft)
    posts = {post for s in craft.sources for post in (s.live, s.back)}
    return [p for p in craft.points if p.id not in posts and touched.get(p.id, 0) < 2]
