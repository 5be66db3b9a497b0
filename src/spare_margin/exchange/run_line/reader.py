"""A run as one line of text, from the post to the load and back; see docs/run-line.md.

[House +] > fuse 15 > 2.5 mm2 4.8 m [Plug] > load "Bilge pump" 4.6 A > 2.5 mm2 4.8 m > [House -]
"""

import re
from dataclasses import dataclass, replace

from lark import Token, Tree

from spare_margin.core.edit.drawing import behind_clamp, drawn
from spare_margin.core.edit.lines import Element, Line, LineItem
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    TestPoint,
)
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.run_line.vocabulary import (
    ACCESS_WORDS,
    BACK_WORDS,
    LOAD_WORDS,
    POST_WORDS,
    TWIN,
    UNKNOWN,
)

from .elements import ACCEPTED, Elements
from .segments import LineError, Segment, Wrong, grammar, place, segment

MOST_CHARACTERS = 20_000
BESIDE = "; beside [A] > body > [B]"


@dataclass(frozen=True, slots=True)
class Place:
    """Where one item stands in the text, and which it is."""

    start: int
    end: int
    item: LineItem


def runs_of(text: str, craft: Craft, tables: Tables) -> tuple[tuple[int, str], ...]:
    """The runs of a text, each with its place in it: lines with a load each are runs of their own.

    A line without a load goes on as one run with those beside it, as pasted columns do. Where a box takes
    one line only, a semicolon parts runs as a new line does.
    """
    if len(text) > MOST_CHARACTERS:
        return ((0, text),)

    def loaded(parts: list[tuple[int, str]]) -> bool:
        return all(
            any(isinstance(p.item, Load) for p in read_line(s, craft, tables).places)
            for _, s in parts
        )

    out: list[tuple[int, str]] = []
    for at, line in _parted(text, "\n"):
        # What has no load behind a semicolon is a way beside the run.
        parts = _parted(line, ";")
        apart = len(parts) > 1 and loaded(parts)
        out += [(at + i, part) for i, part in parts] if apart else [(at, line)]
    return tuple(out) if len(out) > 1 and loaded(out) else ((0, text),)


def _parted(text: str, mark: str) -> list[tuple[int, str]]:
    """What stands between marks, each with its place; what is blank is left out."""
    out, at = [], 0
    for part in text.split(mark):
        if part.strip():
            out.append((at, part))
        at += len(part) + 1
    return out


@dataclass(frozen=True, slots=True)
class ReadLine:
    """A text as far as it was understood. `line` is None while anything is wrong."""

    line: Line | None
    places: tuple[Place, ...]
    errors: tuple[LineError, ...]


def read_line(text: str, craft: Craft, tables: Tables) -> ReadLine:
    """Read a line. Every trouble is told with its place in the text; never raises for a bad text."""
    if len(text) > MOST_CHARACTERS:
        error = LineError(0, len(text), "is too long", f"up to {MOST_CHARACTERS} characters")
        return ReadLine(None, (), (error,))
    reader = _Reader(text, craft, tables)
    ways = reader.ways()
    main = ways[0]
    if not any(not isinstance(m, TestPoint) for m in main) and not reader.errors:
        reader.errors.append(LineError(0, len(text), "there is no piece yet", ACCEPTED))
    line = None if reader.errors else Line(_twinned(main), tuple(ways[1:]))
    return ReadLine(line, tuple(reader.places), tuple(reader.errors))


def read_runs(text: str, craft: Craft, tables: Tables) -> ReadLine:
    """A text of one run or several, each read as if those before it were drawn.

    Places are of the whole text; `line` is that of a single run, and None for several.
    """
    parts = runs_of(text, craft, tables)
    if len(parts) == 1:
        return read_line(text, craft, tables)
    places: list[Place] = []
    errors: list[LineError] = []
    for at, part in parts:
        read = read_line(part, craft, tables)
        places += [Place(p.start + at, p.end + at, p.item) for p in read.places]
        errors += [replace(e, start=e.start + at, end=e.end + at) for e in read.errors]
        if read.line is not None:
            try:
                craft, _ = drawn(craft, read.line)
            except JobError as wrong:
                errors.append(LineError(at, at + len(part), wrong.problem, wrong.accepted))
    return ReadLine(None, tuple(places), tuple(errors))


class _Reader:
    """Reads one text; collects items with their places, and errors."""

    def __init__(self, text: str, craft: Craft, tables: Tables) -> None:
        self.text = text
        self.points = {p.id: p for p in craft.points}
        self.points_by_name = {_plain(p.name): p for p in craft.points if p.name}
        body = FixedPiece(id="", start="", end="", side="return", kind="body_return")
        source = craft.sources[0]
        self.live, self.post = (
            craft.point(behind_clamp(craft, p)) for p in (source.live, source.back)
        )
        self.back: LineItem = self.post if craft.polarity == "none" else body
        self.loads = 0
        self.places: list[Place] = []
        self.errors: list[LineError] = []
        self.elements = Elements(text, craft.nominal_v, tables)

    def ways(self) -> list[tuple[LineItem, ...]]:
        """The items of the main way, then those of every way beside it."""
        parts = grammar().parse(self.text).children
        trees = [p for p in parts if isinstance(p, Tree)]
        marks = [p for p in parts if isinstance(p, Token)]
        ends = [*(place(mark)[0] for mark in marks), len(self.text)]
        ways = [self._way(trees[0])]
        for mark, way, end in zip(marks, trees[1:], ends[1:], strict=True):
            start, begins = place(mark)
            if mark.type == "BESIDE":
                ways.append(self._beside(way, start + 1, end))
            else:
                self._wrong(begins, end, "is not understood", BESIDE)
        return ways

    def _beside(self, way: Tree[Token], start: int, end: int) -> tuple[LineItem, ...]:
        items = self._way(way)
        ends = (items[0], items[-1]) if items else (None, None)
        from_to = all(isinstance(m, TestPoint) for m in ends) and len(items) >= 3
        if not from_to and not self.errors:
            self._wrong(start, end, "a way beside runs from a test point to another", BESIDE)
        return items

    def _way(self, way: Tree[Token]) -> tuple[LineItem, ...]:
        """The items of one way; what cannot be read is told, and the rest goes on."""
        items: list[LineItem] = []
        for child in way.children:
            try:
                read = self._point(child) if isinstance(child, Token) else self._stretch(child)
            except Wrong as wrong:
                self.errors.append(wrong.error)
                continue
            items.append(read.item)
            self.places.append(read)
        return tuple(items)

    def _wrong(self, start: int, end: int, problem: str, accepted: str = "") -> None:
        self.errors.append(LineError(start, end, problem, accepted))

    # One item

    def _stretch(self, stretch: Tree[Token]) -> Place:
        seg = segment(stretch)
        return Place(seg.start, seg.end, self._piece_or_load(seg))

    def _piece_or_load(self, seg: Segment) -> LineItem:
        word = self.text[seg.start : seg.end]
        if word == UNKNOWN:
            return FixedPiece(id="", start="", end="", side="feed", kind="unknown")
        first = seg.words[0][0].lower() if seg.words else ""
        if first in LOAD_WORDS:
            self.loads += 1
            return self.elements.load(seg)
        known = self.points_by_name.get(_plain(word))
        if known is not None:
            return known
        if word.lower() in POST_WORDS:
            return self.post if self.loads else self.live
        if word.lower() in BACK_WORDS:
            return self.back
        if seg.draws() and not self.elements.names_a_piece(seg):
            if self.loads:
                raise Wrong(seg.start, seg.end, f"\u201c{word}\u201d is not understood", ACCEPTED)
            self.loads += 1
            return self.elements.load(seg)
        return self.elements.piece(seg)

    def _point(self, token: Token) -> Place:
        start, end = place(token)
        parts = re.fullmatch(r"\[((?:\\.|[^|\\])*)(?:\|(.*))?\]", token, re.S)
        if parts is None:
            end = start + len(token.rstrip())
            raise Wrong(start, end, "the bracket is not closed", "[Bus]")
        name = re.sub(r"\\(.)", r"\1", parts[1], flags=re.S).strip()
        word = (parts[2] or "").strip().lower()
        if parts[2] and word not in ACCESS_WORDS:
            raise Wrong(start, end, f"\u201c{word}\u201d is no access", "open, back-probe or trim")
        if not name:
            raise Wrong(start, end, "the test point has no name", "[Bus]")
        if len(name) > 120:
            raise Wrong(start, end, "the name is too long", "up to 120 characters")
        known = self.points_by_name.get(_plain(name)) or self.points.get(name)
        point = known or TestPoint(id="", name=re.sub(r" -$", " \u2212", name))
        return Place(start, end, replace(point, access=ACCESS_WORDS[word]) if word else point)


def _plain(name: str) -> str:
    """A name as it is looked for: a hyphen is a minus."""
    return name.casefold().replace("\u2212", "-")


def _twinned(items: tuple[LineItem, ...]) -> tuple[LineItem, ...]:
    """A line whose twin cables run there and back: the wire that comes back is put in where it is not said.

    Each pair is given a name of its own, which the drawing makes a cable's.
    """
    at = next((i for i, m in enumerate(items) if isinstance(m, Load)), None)
    if at is None:
        return items
    out = list(items)
    there = [i for i in range(at) if _is_twin(items[i])]
    back = [i for i in range(at + 1, len(items)) if _is_twin(items[i])]
    if not back:
        mirrored = [replace(items[i], side="return") for i in reversed(there)]  # type: ignore[arg-type]
        out[at + 1 : at + 1] = mirrored
        back = list(range(at + 1, at + 1 + len(mirrored)))
    for number, (i, j) in enumerate(zip(there, reversed(back), strict=False), 1):
        for k in (i, j):
            out[k] = replace(out[k], cable=f"{TWIN} {number}")  # type: ignore[arg-type]
    return tuple(out)


def _is_twin(item: LineItem) -> bool:
    return isinstance(item, Conductor) and item.cable == TWIN


def element_of(text: str, craft: Craft, tables: Tables) -> Element:
    """One piece or load from its text alone. JobError (path `text`) where it is not one."""
    read = read_line(text, craft, tables)
    if read.errors:
        raise JobError("text", read.errors[0].problem, read.errors[0].accepted)
    items = [m for m in read.line.items() if not isinstance(m, TestPoint)] if read.line else []
    if len(items) != 1:
        raise JobError("text", "is not one piece", ACCEPTED)
    return items[0]
