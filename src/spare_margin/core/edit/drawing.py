"""Drawing a line into a craft: a new run, or a run redrawn, with its test points and ids."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import count, pairwise

from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.errors import JobError
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    Load,
    Side,
    TestPoint,
)

from .ids import PREFIXES, NewIds
from .lines import Element, Line, LineItem
from .states import with_states_of


def drawn(
    craft: Craft, line: Line, replacing: Line | None = None, also: Iterable[str] = ()
) -> tuple[Craft, str | None]:
    """The craft with this line drawn, and the id of its load.

    With `replacing`, items that carry ids of that line stay those things; what it has and this
    line has not is taken out. JobError (path `line`) for a line that cannot be drawn, or that would
    leave another run without its loop.

    Args:
        also: ids that are taken elsewhere, and not given again.
    """
    ids = NewIds(craft, also)
    old = list(replacing.items()) if replacing else []
    kept = {m.id for m in line.items() if m.id}
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
    made = _cables_named(maker.craft(), craft, load_id)
    _check_fed(craft, main, made, load_id)
    _check_runs(made, loads.keys() | ({load_id} if load_id else set()))
    return made, load_id


def _with_ends(craft: Craft, line: Line) -> tuple[LineItem, ...]:
    """The line from post to post where its ends are not said."""
    main = line.main
    if not any(not isinstance(m, TestPoint) for m in main):
        raise JobError("line", "has no piece", "a piece, as 2.5 mm\u00b2 4 m")
    source = craft.sources[0]
    points = {p.id: p for p in craft.points}
    if not isinstance(main[0], TestPoint):
        main = (points[behind_clamp(craft, source.live)], *main)
    if not isinstance(main[-1], TestPoint):
        if line.load is None:
            raise JobError(
                "line", "a way without a load must say where it ends", "a test point, as [Bus]"
            )
        main = (*main, points[behind_clamp(craft, source.back)])
    return main


def behind_clamp(craft: Craft, post: str) -> str:
    """The far end of a post's clamp, where that is all that is on the post; else the post.

    Args:
        craft: the wiring.
    """
    on_post = [p for p in craft.pieces if post in (p.start, p.end)]
    if len(on_post) == 1 and getattr(on_post[0], "style", None) == "post clamp":
        return on_post[0].end if on_post[0].start == post else on_post[0].start
    return post


def _slots(items: Sequence[LineItem]) -> tuple[list[TestPoint | None], list[Element | None]]:
    """Items as points and the elements between them; None where a point or element is not said."""
    slots: list[TestPoint | None] = []
    elements: list[Element | None] = []
    for item in items:
        if isinstance(item, TestPoint):
            if len(slots) > len(elements):
                elements.append(None)  # two points in a row: the way that is there
            slots.append(item)
        else:
            if len(slots) == len(elements):
                slots.append(None)
            elements.append(item)
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

    def draw(self, items: Sequence[LineItem]) -> str | None:
        """Draw one way, ends and all; the id of its load, the first of several in series."""
        slots, elements = _slots(items)
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
                made = self._put_load(element, start, end)
                load_id, side = load_id or made, "return"
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
        held = piece.id or self.ids.next(PREFIXES[piece.kind])
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
        left = tidied(replace(made, points=tuple(self.points.values())), gone)
        return with_states_of(left, self.new_loads, self.ids)


def tidied(craft: Craft, gone: Iterable[str]) -> Craft:
    """Without points that nothing touches; a load that is gone is on in no state.

    Args:
        craft: the wiring.
    """
    return replace(
        craft,
        points=tuple(p for p in craft.points if craft.touching[p.id] or p.id == craft.reference),
        scenarios=tuple(
            replace(
                s,
                on=s.on - set(gone),
                starting=s.starting - set(gone),
            )
            for s in craft.scenarios
        ),
    )


def _cables_named(made: Craft, before: Craft, load_id: str | None) -> Craft:
    """New twin cables are called after their load, each as no other of the craft is."""
    held = {p.cable for p in before.pieces if isinstance(p, Conductor) and p.cable}
    old = {p.id for p in before.pieces}
    new = [p for p in made.pieces if isinstance(p, Conductor) and p.cable and p.id not in old]
    names: dict[str, str] = {}
    for wire in new:
        if wire.cable not in names:
            base = made.load(load_id).name if load_id else wire.cable
            taken = held | set(names.values())
            free = (n for n in count(1) if (base if n == 1 else f"{base} {n}") not in taken)
            number = next(free)
            names[wire.cable] = base if number == 1 else f"{base} {number}"
    called_so = {p.id: replace(p, cable=names[p.cable]) for p in new}
    return replace(made, pieces=tuple(called_so.get(p.id, p) for p in made.pieces))


def _check_fed(craft: Craft, main: Sequence[LineItem], made: Craft, load_id: str | None) -> None:
    """A run must not begin or end at a point that nothing leads to yet: it is named."""
    if load_id is None:
        return
    known = {p.name.casefold() for p in craft.points if p.name}
    for item, does, wanted in (
        (main[0], "feeds", "ring > fuse > cable 2 m > [{}]"),
        (main[-1], "leads back from", "[{}] > cable 2 m > ring > [the return post]"),
    ):
        if isinstance(item, TestPoint) and not item.id and item.name.casefold() not in known:
            point = next(p for p in made.points if p.name == item.name)
            if made.touching[point.id] < 2:
                raise JobError(
                    "line",
                    f"nothing {does} {item.name} yet",
                    f"draw that first, as {wanted.format(item.name)}",
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
