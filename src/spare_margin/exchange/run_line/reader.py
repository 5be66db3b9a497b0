"""A run as one line of text, from the post to the load and back; see docs/run-line.md.

[House +] > fuse 15 > 2.5 mm2 4.8 m [Plug] > load "Bilge pump" 4.6 A > 2.5 mm2 4.8 m > [House -]
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from spare_margin.core.edit.lines import Element, Line, Mark
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    Craft,
    FixedPiece,
    TestPoint,
)
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.run_line.vocabulary import (
    ACCESS_WORDS,
    LOAD_WORDS,
    UNKNOWN,
)

from .elements import ACCEPTED, Elements
from .tokens import LineError, Wrong, split, stretches, tokens

MOST_CHARACTERS = 20_000


@dataclass(frozen=True, slots=True)
class Place:
    """Where one mark stands in the text, and which it is."""

    start: int
    end: int
    mark: Mark


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
    ways: list[tuple[Mark, ...]] = []
    for number, (start, end) in enumerate(reader.clauses()):
        ways.append(tuple(reader.clause(start, end, beside=number > 0)))
    main = ways[0] if ways else ()
    if not any(not isinstance(m, TestPoint) for m in main) and not reader.errors:
        reader.errors.append(LineError(0, len(text), "there is no piece yet", ACCEPTED))
    line = None if reader.errors else Line(main, tuple(ways[1:]))
    return ReadLine(line, tuple(reader.places), tuple(reader.errors))


class _Reader:
    """Reads one text; collects marks with their places, and errors."""

    def __init__(self, text: str, craft: Craft, tables: Tables) -> None:
        self.text = text
        self.points = {p.id: p for p in craft.points}
        self.points_by_name = {p.name.casefold(): p for p in craft.points if p.name}
        self.places: list[Place] = []
        self.errors: list[LineError] = []
        self.elements = Elements(text, craft.nominal_v, tables)

    def clauses(self) -> Iterator[tuple[int, int]]:
        """The stretches between semicolons: the main way, then ways beside."""
        yield from split(self.text, 0, len(self.text), ";")

    def clause(self, start: int, end: int, beside: bool) -> list[Mark]:
        """The marks of one clause."""
        begins = start
        if beside:
            word = re.compile(r"\s*beside\b\s*", re.I).match(self.text, start, end)
            if word is None:
                self._wrong(start, end, "is not understood", "; beside [A] > body > [B]")
                return []
            begins = word.end()
        marks: list[Mark] = []
        for a, b in split(self.text, begins, end, ">\u2192\n\t\r"):
            for left, right in stretches(self.text, a, b):
                try:
                    mark = self._mark(left, right)
                except Wrong as wrong:
                    self.errors.append(wrong.error)
                    continue
                marks.append(mark)
                self.places.append(Place(left, right, mark))
        if beside and not self.errors:
            ends = (marks[0], marks[-1]) if marks else (None, None)
            if not all(isinstance(m, TestPoint) for m in ends) or len(marks) < 3:
                self._wrong(
                    start, end, "a way beside runs from a test point to another",
                    "; beside [A] > body > [B]",
                )  # fmt: skip
        return marks

    def _wrong(self, start: int, end: int, problem: str, accepted: str = "") -> None:
        self.errors.append(LineError(start, end, problem, accepted))

    # One mark

    def _mark(self, start: int, end: int) -> Mark:
        if self.text[start] == "[":
            return self._point(start, end)
        word = self.text[start:end]
        if word == UNKNOWN:
            return FixedPiece(id="", start="", end="", side="feed", kind="unknown")
        seg = tokens(self.text, start, end)
        first = seg.words[0][0].lower() if seg.words else ""
        if first in LOAD_WORDS:
            return self.elements.load(seg)
        known = self.points_by_name.get(word.casefold())
        if known is not None:
            return known
        return self.elements.piece(seg)

    def _point(self, start: int, end: int) -> TestPoint:
        inner = self.text[start + 1 : end].removesuffix("]")
        if self.text[end - 1] != "]":
            raise Wrong(start, end, "the bracket is not closed", "[Bus]")
        parts = re.match(r"((?:\\.|[^|\\])*)(?:\|(.*))?", inner, re.S)
        assert parts is not None
        name, access_word = re.sub(r"\\(.)", r"\1", parts[1]).strip(), parts[2] or ""
        word = access_word.strip().lower()
        if access_word and word not in ACCESS_WORDS:
            raise Wrong(start, end, f"\u201c{word}\u201d is no access", "open, back-probe or trim")
        if not name:
            raise Wrong(start, end, "the test point has no name", "[Bus]")
        if len(name) > 120:
            raise Wrong(start, end, "the name is too long", "up to 120 characters")
        known = self.points_by_name.get(name.casefold()) or self.points.get(name)
        if known is not None:
            return replace(known, access=ACCESS_WORDS[word]) if word else known
        return TestPoint(id="", name=name, access=ACCESS_WORDS.get(word, "open"))


def element_of(text: str, craft: Craft, tables: Tables) -> Element:
    """One piece or load from its text alone. JobError (path `text`) where it is not one."""
    read = read_line(text, craft, tables)
    if read.errors:
        raise JobError("text", read.errors[0].problem, read.errors[0].accepted)
    marks = [m for m in read.line.marks() if not isinstance(m, TestPoint)] if read.line else []
    if len(marks) != 1:
        raise JobError("text", "is not one piece", ACCEPTED)
    return marks[0]
