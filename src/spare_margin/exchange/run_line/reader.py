"""A run as one line of text, from the post to the load and back; see docs/run-line.md.

[House +] > fuse 15 > 2.5 mm2 4.8 m [Plug] > load "Bilge pump" 4.6 A > 2.5 mm2 4.8 m > [House -]
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from typing import get_args

from spare_margin.core.circuit.runs import AnyPiece
from spare_margin.core.edit.drawing import Element, Line, Mark
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedKind,
    FixedPiece,
    Load,
    LoadLaw,
    Size,
    TestPoint,
)
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.quantities import Kind, understand, understand_size
from spare_margin.exchange.run_line.vocabulary import (
    ACCESS_WORDS,
    DUTY_WORDS,
    KIND_WORDS,
    LOAD_WORDS,
    UNKNOWN,
    WIRE_WORDS,
)
from spare_margin.wording.units import in_use

MOST_CHARACTERS = 20_000
ACCEPTED = (
    "a wire as 2.5 mm\u00b2 4.8 m, fuse 15, switch, isolator, ring, pin, splice, clamp, relay, body, "
    'resistor 2 \u03a9, load "Fan" 2 A, or a test point as [Bus]'
)


@dataclass(frozen=True, slots=True)
class LineError:
    """What is wrong with a stretch of the text, and what would be accepted there."""

    start: int
    end: int
    problem: str
    accepted: str = ""


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


_TOKEN = re.compile(
    r"""
    (?P<text>"(?:[^"\\]|\\.)*"?)
  | (?P<times>[x\u00d7]\s*\d+(?:[.,]\d+)?\b)
  | (?P<size>\d+(?:[.,]\d+)?\s*(?:mm2|mm\u00b2|mm\^2|sqmm|qmm)(?:\s+road\b)?
      |AWG\s*\d+(?:/0)?|\d+(?:/0)?\s*(?:AWG|ga(?:uge)?)\b|\d/0\b)
  | (?P<perm>\d+(?:[.,]\d+)?\s*m(?:\u03a9|ohm)\s*/\s*m\b)
  | (?P<number>[-+\u2212]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?
      \s*(?P<unit>\u00b0\s*[CF]|[mk]?(?:\u03a9|\u2126|ohms?|A|W|V)(?![A-Za-z])
        |(?:mm|cm|m|ft|in)(?![A-Za-z])|['"\u2032\u2033](?=\s|$|\]|>)|C(?![A-Za-z])|F(?![A-Za-z]))?)
  | (?P<word>[^\s"]+)
    """,
    re.X | re.I,
)
_UNIT_KINDS: dict[str, Kind] = {
    "a": "amperes", "w": "watts", "v": "volts", "\u03c9": "ohms", "\u2126": "ohms", "ohm": "ohms",
    "ohms": "ohms", "m": "metres", "cm": "metres", "mm": "metres", "ft": "metres", "in": "metres",
    "'": "metres", '"': "metres", "\u2032": "metres", "\u2033": "metres", "c": "celsius",
    "f": "celsius",
}  # fmt: skip


@dataclass(slots=True)
class _Segment:
    """The tokens of one segment, sorted by what they are; positions are those of the whole text."""

    start: int
    end: int
    text: str | None = None
    words: list[tuple[str, int, int]] = field(default_factory=list)
    sizes: list[tuple[str, int, int]] = field(default_factory=list)
    quantities: dict[Kind, list[tuple[float, int, int]]] = field(default_factory=dict)
    bare: list[tuple[float, int, int]] = field(default_factory=list)
    times: list[tuple[float, int, int]] = field(default_factory=list)
    ohm_per_m: list[tuple[float, int, int]] = field(default_factory=list)
    at_volts: list[tuple[float, int, int]] = field(default_factory=list)
    least_volts: list[tuple[float, int, int]] = field(default_factory=list)

    def take(self, kind: Kind) -> float | None:
        """The first quantity of this kind, which is then used up."""
        held = self.quantities.get(kind)
        return held.pop(0)[0] if held else None


class _Wrong(Exception):
    def __init__(self, start: int, end: int, problem: str, accepted: str = "") -> None:
        self.error = LineError(start, end, problem, accepted)


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


def _number(token: str, kind: Kind, start: int, end: int) -> float:
    """The token's value in SI; what cannot be a value is wrong at its place."""
    try:
        return understand(token, kind, "line").value or 0.0
    except JobError as wrong:
        raise _Wrong(start, end, wrong.problem, wrong.accepted) from None


class _Reader:
    """Reads one text; collects marks with their places, and errors."""

    def __init__(self, text: str, craft: Craft, tables: Tables) -> None:
        self.text, self.craft, self.tables = text, craft, tables
        self.points = {p.id: p for p in craft.points}
        self.points_by_name = {p.name.casefold(): p for p in craft.points if p.name}
        self.places: list[Place] = []
        self.errors: list[LineError] = []
        self.has_load = False

    def clauses(self) -> Iterator[tuple[int, int]]:
        """The stretches between semicolons: the main way, then ways beside."""
        yield from self._split(0, len(self.text), ";")

    def _split(self, start: int, end: int, marks: str) -> Iterator[tuple[int, int]]:
        """Stretches of the text between any of these marks, outside quotes and brackets."""
        at, quoted, bracket, skip = start, False, False, False
        for i in range(start, end):
            c = self.text[i]
            if skip:
                skip = False
            elif c == "\\":
                skip = True
            elif c == '"' and not bracket:
                quoted = not quoted
            elif c == "[" and not quoted:
                bracket = True
            elif c == "]" and not quoted:
                bracket = False
            elif c in marks and not quoted and not bracket:
                yield at, i
                at = i + 1
        yield at, end

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
        for a, b in self._split(begins, end, ">\u2192\n\t\r"):
            for left, right in self._stretches(a, b):
                try:
                    mark = self._mark(left, right)
                except _Wrong as wrong:
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

    def _stretches(self, start: int, end: int) -> Iterator[tuple[int, int]]:
        """A segment cut at its brackets, blanks trimmed, empty stretches left out."""
        at = start
        quoted = skip = False
        for i in range(start, end):
            c = self.text[i]
            if skip:
                skip = False
            elif c == "\\":
                skip = True
            elif c == '"':
                quoted = not quoted
            elif c == "[" and not quoted:
                yield from self._trimmed(at, i)
                at = i
            elif c == "]" and not quoted:
                yield from self._trimmed(at, i + 1)
                at = i + 1
        yield from self._trimmed(at, end)

    def _trimmed(self, start: int, end: int) -> Iterator[tuple[int, int]]:
        while start < end and self.text[start].isspace():
            start += 1
        while end > start and self.text[end - 1].isspace():
            end -= 1
        if start < end:
            yield start, end

    # One mark

    def _mark(self, start: int, end: int) -> Mark:
        if self.text[start] == "[":
            return self._point(start, end)
        word = self.text[start:end]
        if word == UNKNOWN:
            return FixedPiece(id="", start="", end="", side="feed", kind="unknown")
        seg = self._tokens(start, end)
        first = seg.words[0][0].lower() if seg.words else ""
        if first in LOAD_WORDS:
            return self._load(seg)
        known = self.points_by_name.get(word.casefold())
        if known is not None:
            return known
        return self._piece(seg)

    def _point(self, start: int, end: int) -> TestPoint:
        inner = self.text[start + 1 : end].removesuffix("]")
        if self.text[end - 1] != "]":
            raise _Wrong(start, end, "the bracket is not closed", "[Bus]")
        parts = re.match(r"((?:\\.|[^|\\])*)(?:\|(.*))?", inner, re.S)
        assert parts is not None
        name, access_word = re.sub(r"\\(.)", r"\1", parts[1]).strip(), parts[2] or ""
        word = access_word.strip().lower()
        if access_word and word not in ACCESS_WORDS:
            raise _Wrong(start, end, f"\u201c{word}\u201d is no access", "open, back-probe or trim")
        if not name:
            raise _Wrong(start, end, "the test point has no name", "[Bus]")
        if len(name) > 120:
            raise _Wrong(start, end, "the name is too long", "up to 120 characters")
        known = self.points_by_name.get(name.casefold()) or self.points.get(name)
        if known is not None:
            return replace(known, access=ACCESS_WORDS[word]) if word else known
        return TestPoint(id="", name=name, access=ACCESS_WORDS.get(word, "open"))

    def _tokens(self, start: int, end: int) -> _Segment:
        seg = _Segment(start, end)
        before = ""
        for match in _TOKEN.finditer(self.text, start, end):
            a, b = match.span()
            kind, token = match.lastgroup, match[0]
            if match["text"] is not None:
                if seg.text is not None:
                    raise _Wrong(a, b, "a second name", "one name in quotes")
                if len(token) < 2 or token[-1] != '"':
                    raise _Wrong(a, b, "the quotes are not closed", '"a name"')
                seg.text = re.sub(r"\\(.)", r"\1", token[1:-1]).strip()
                if len(seg.text) > 120:
                    raise _Wrong(a, b, "the name is too long", "up to 120 characters")
            elif match["times"] is not None:
                seg.times.append((_number(token[1:], "times", a, b), a, b))
            elif match["size"] is not None:
                seg.sizes.append((token, a, b))
            elif match["perm"] is not None:
                ohms = token.partition("/")[0]
                seg.ohm_per_m.append((_number(ohms, "ohms", a, b), a, b))
            elif match["number"] is not None:
                self._quantity(seg, token, match["unit"], before, a, b)
            else:
                assert kind is not None
                seg.words.append((token, a, b))
            before = token.lower()
        return seg

    @staticmethod
    def _quantity(seg: _Segment, token: str, unit: str | None, before: str, a: int, b: int) -> None:
        plain = (unit or "").replace("\u00b0", "").strip().lower()
        kind = _UNIT_KINDS.get(plain) or _UNIT_KINDS[plain[1:]] if unit else "times"
        value = _number(token, kind, a, b)
        if not unit:
            seg.bare.append((value, a, b))
        elif kind == "volts" and before == "least":
            seg.least_volts.append((value, a, b))
            seg.words.pop()
        elif kind == "volts":
            if before == "at":
                seg.words.pop()
            seg.at_volts.append((value, a, b))
        else:
            seg.quantities.setdefault(kind, []).append((value, a, b))

    # Pieces

    def _piece(self, seg: _Segment) -> AnyPiece:
        is_wire = (
            bool(seg.sizes or seg.ohm_per_m)
            or "metres" in seg.quantities
            or any(w.lower() in WIRE_WORDS for w, _, _ in seg.words)
        )
        piece = self._wire(seg) if is_wire else self._fixed(seg)
        self._rest(seg)
        return piece

    def _wire(self, seg: _Segment) -> Conductor:
        if not seg.sizes and not seg.ohm_per_m and seg.bare:
            number, a, b = seg.bare.pop(0)
            seg.sizes.append((f"{number:g}", a, b))
        length = seg.take("metres")
        if length is None and seg.bare:
            length = understand(f"{seg.bare.pop(0)[0]:.12g}", "metres", "line").value
        size = None
        engine, finish = self._wire_words(seg)
        if seg.sizes:
            size = self._size(*seg.sizes.pop(0), finish)
        per_m = seg.ohm_per_m.pop(0)[0] if seg.ohm_per_m else None
        ohm = seg.take("ohms")
        if size is None and per_m is None and ohm is None:
            raise _Wrong(seg.start, seg.end, "the wire has no size", "2.5 mm\u00b2 4.8 m")
        if length is None and ohm is None:
            raise _Wrong(seg.start, seg.end, "the wire has no length", "2.5 mm\u00b2 4.8 m")
        if length is not None and not 0 < length <= 1000:
            raise _Wrong(seg.start, seg.end, f"{length:g} m is no length", "above 0 up to 1000 m")
        insulation = seg.take("celsius")
        if insulation is not None and not 40 <= insulation <= 300:
            raise _Wrong(
                seg.start, seg.end, f"{insulation:g} \u00b0C is no insulation", "40 to 300 \u00b0C"
            )
        return Conductor(
            id="", start="", end="", side="feed", name=seg.text or "", length_m=length or 0.0,
            size=size, ohm_per_m=None if size else per_m, insulation_c=insulation,
            resistance_ohm=ohm, engine_space=engine,
        )  # fmt: skip

    def _wire_words(self, seg: _Segment) -> tuple[bool, str]:
        """Whether it runs in the engine space, and the finish."""
        engine, finish = False, "plain"
        finishes = {size.finish for size in self.tables.conductors.rows}
        for word in list(seg.words):
            plain = word[0].lower()
            if plain not in (*WIRE_WORDS, "engine", *finishes):
                continue
            seg.words.remove(word)
            engine = engine or plain == "engine"
            finish = plain if plain in finishes else finish
        return engine, finish

    def _size(self, token: str, a: int, b: int, finish: str) -> Size:
        road = token.lower().endswith("road")
        try:
            size = understand_size(
                token[:-4] if road else token, "size", "mm2-road" if road else in_use().size, finish
            )
        except JobError as wrong:
            raise _Wrong(a, b, wrong.problem, wrong.accepted) from None
        rows = self.tables.conductors.rows
        for tried in (size, replace(size, finish=finish), replace(size, finish="plain")):
            if tried in rows:
                return tried
        sizes = ", ".join(self.tables.conductors.sizes(size.system))
        raise _Wrong(a, b, f"there is no size {token.strip()}", sizes)

    def _fixed(self, seg: _Segment) -> FixedPiece:
        is_open = False
        for word in list(seg.words):
            if word[0].lower() == "open" and len(seg.words) > 1:
                seg.words.remove(word)
                is_open = True
        kind, style = self._kind(seg)
        rating = seg.take("amperes")
        if kind in ("fuse", "breaker") and rating is None and seg.bare:
            rating = seg.bare.pop(0)[0]
        ohm = seg.take("ohms")
        if rating is not None and not 0 < rating <= 5000:
            raise _Wrong(seg.start, seg.end, f"{rating:g} A is no rating", "above 0 up to 5000 A")
        if ohm is not None and not 0 <= ohm <= 1e6:
            raise _Wrong(seg.start, seg.end, f"{ohm:g} \u03a9 is no resistance", "0 \u03a9 or more")
        if kind in ("fuse", "breaker") and rating is None and ohm is None:
            raise _Wrong(seg.start, seg.end, f"the {kind} has no rating", f"{kind} 15")
        if kind == "resistor" and ohm is None:
            raise _Wrong(
                seg.start, seg.end, "the resistor has no resistance", "resistor 2.2 \u03a9"
            )
        return FixedPiece(
            id="", start="", end="", side="feed", name=seg.text or "", kind=kind, style=style,
            rating_a=rating, resistance_ohm=ohm, open=is_open,
        )  # fmt: skip

    def _kind(self, seg: _Segment) -> tuple[FixedKind, str | None]:
        """The kind and style that a segment's words name; a style alone, or its start, names both."""
        said = " ".join(w.lower() for w, _, _ in seg.words)
        here = (seg.words[0][1], seg.words[-1][2]) if seg.words else (seg.start, seg.end)
        seg.words.clear()
        for words in sorted(KIND_WORDS, key=len, reverse=True):
            if said == words:
                return KIND_WORDS[words], None
            if said.startswith(f"{words} "):
                kind, rest = KIND_WORDS[words], said[len(words) + 1 :]
                styles = self.tables.fixed.styles(kind)
                for style in styles:
                    if style == rest or style.startswith(rest):
                        return kind, style
                raise _Wrong(
                    *here, f"there is no {words} of style {rest}",
                    ", ".join(styles) or f"{words} without a style",
                )  # fmt: skip
        every: list[tuple[FixedKind, str]] = [
            (kind, s) for kind in get_args(FixedKind) for s in self.tables.fixed.styles(kind)
        ]
        for fits in (str.__eq__, str.startswith, str.endswith):
            for kind, style in every:
                if said and fits(style, said):
                    return kind, style
        shown = self.text[seg.start : seg.end]
        shown = shown if len(shown) <= 40 else shown[:37] + "..."
        raise _Wrong(seg.start, seg.end, f"\u201c{shown}\u201d is not understood", ACCEPTED)

    def _rest(self, seg: _Segment) -> None:
        """Nothing of a segment may be left over: what was typed is never quietly dropped."""
        over = [*seg.words, *seg.sizes, *seg.bare, *seg.times, *seg.ohm_per_m]
        over += [*seg.at_volts, *seg.least_volts]
        over += [q for held in seg.quantities.values() for q in held]
        if over:
            _, a, b = min(over, key=lambda token: token[1])
            raise _Wrong(
                a, b, f"\u201c{self.text[a:b]}\u201d does not belong here",
                'a name goes in quotes, as "Pump feed"',
            )  # fmt: skip

    # Loads

    def _load(self, seg: _Segment) -> Load:
        if self.has_load:
            raise _Wrong(seg.start, seg.end, "a second load", "one load a run; type another run")
        law = LOAD_WORDS[seg.words.pop(0)[0].lower()]
        critical, duty = False, None
        for word in list(seg.words):
            plain = word[0].lower()
            if plain == "critical":
                seg.words.remove(word)
                critical = True
            elif plain in DUTY_WORDS:
                seg.words.remove(word)
                duty = DUTY_WORDS[plain]
        name = seg.text
        if name is None and seg.words:
            name = " ".join(w for w, _, _ in seg.words if w != UNKNOWN)
            seg.words = [w for w in seg.words if w[0] == UNKNOWN]
        if not name:
            raise _Wrong(seg.start, seg.end, "the load has no name", 'load "Fan" 2 A')
        unknown = next((w for w in seg.words if w[0] == UNKNOWN), None)
        if unknown is not None:
            seg.words.remove(unknown)
            load = Load(id="", start="", end="", name=name)
        else:
            load = self._law(seg, law, name)
        times = seg.times.pop(0)[0] if seg.times else None
        if times is not None and not 1 <= times <= 20:
            raise _Wrong(
                seg.start, seg.end, f"\u00d7{times:g} is no start multiple", "\u00d71 to \u00d720"
            )
        load = replace(
            load, start_multiple=times, critical=critical, duty=duty or "ordinary",
            least_v=seg.least_volts.pop(0)[0] if seg.least_volts else None,
        )  # fmt: skip
        self._rest(seg)
        self.has_load = True
        return load

    def _law(self, seg: _Segment, law: LoadLaw | None, name: str) -> Load:
        amps, watts, ohm = seg.take("amperes"), seg.take("watts"), seg.take("ohms")
        rated = seg.at_volts.pop(0)[0] if seg.at_volts else None
        make: Callable[..., Load] = lambda behaviour, **more: Load(  # noqa: E731
            id="", start="", end="", name=name, behaviour=behaviour, **more
        )
        for value, unit, most in ((amps, "A", 5000), (watts, "W", 1e5), (ohm, "\u03a9", 1e6)):
            if value is not None and not 0 < value <= most:
                raise _Wrong(
                    seg.start,
                    seg.end,
                    f"{value:g} {unit} is no load",
                    f"above 0 up to {most:g} {unit}",
                )
        if amps is not None and watts is None and ohm is None and law in (None, "constant_current"):
            return make("constant_current", current_a=amps)
        if (
            ohm is not None
            and watts is None
            and amps is None
            and law in (None, "constant_resistance")
        ):
            return make("constant_resistance", load_ohm=ohm)
        if watts is not None and amps is None and ohm is None:
            if law in ("filament", "constant_resistance"):
                return make(law, power_w=watts, rated_v=rated or self.craft.nominal_v)
            if law in (None, "constant_power"):
                return make("constant_power", power_w=watts, rated_v=rated)
        raise _Wrong(
            seg.start, seg.end, "what it draws is not clear",
            "load 2 A, motor 6 A x4, lamp 21 W at 12 V, heater 60 W at 12 V or converter 40 W",
        )  # fmt: skip


def element_of(text: str, craft: Craft, tables: Tables) -> Element:
    """One piece or load from its text alone. JobError (path `text`) where it is not one."""
    read = read_line(text, craft, tables)
    if read.errors:
        raise JobError("text", read.errors[0].problem, read.errors[0].accepted)
    marks = [m for m in read.line.marks() if not isinstance(m, TestPoint)] if read.line else []
    if len(marks) != 1:
        raise JobError("text", "is not one piece", ACCEPTED)
    return marks[0]
