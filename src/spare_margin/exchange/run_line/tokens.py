"""The words of a run line: stretches between its marks, and what each stretch is made of."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from spare_margin.core.errors import JobError
from spare_margin.exchange.quantities import Kind, understand


@dataclass(frozen=True, slots=True)
class LineError:
    """What is wrong with a stretch of the text, and what would be accepted there."""

    start: int
    end: int
    problem: str
    accepted: str = ""


class Wrong(Exception):
    """A stretch of the text that cannot be read, and why."""

    def __init__(self, start: int, end: int, problem: str, accepted: str = "") -> None:
        self.error = LineError(start, end, problem, accepted)


def bare_marks(text: str, start: int, end: int, marks: str) -> Iterator[tuple[int, str]]:
    """Where any of these marks stands by itself: in no quotes, no brackets, after no backslash.

    Brackets that are among the marks are told where they open and close; a quote within them is a quote of
    the name there: `[5" hose]`.

    >>> list(bare_marks('a > "b > c" > [d > e]', 0, 21, ">]"))
    [(2, '>'), (12, '>'), (20, ']')]
    """
    quoted = inside = skip = False
    for i in range(start, end):
        c = text[i]
        if skip:
            skip = False
        elif c == "\\":
            skip = True
        elif c == '"' and not inside:
            quoted = not quoted
        elif not quoted and (c in "[]" or not inside):
            inside = c == "["
            if c in marks:
                yield i, c


def split(text: str, start: int, end: int, marks: str) -> Iterator[tuple[int, int]]:
    """Stretches between any of these marks, outside quotes and brackets."""
    at = start
    for i, _ in bare_marks(text, start, end, marks):
        yield at, i
        at = i + 1
    yield at, end


def stretches(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """A segment cut at its brackets, blanks trimmed, empty stretches left out."""
    at = start
    for i, c in bare_marks(text, start, end, "[]"):
        cut = i + (c == "]")
        yield from trimmed(text, at, cut)
        at = cut
    yield from trimmed(text, at, end)


def trimmed(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """The stretch without blanks at its ends; nothing where there is nothing else."""
    while start < end and text[start].isspace():
        start += 1
    while end > start and text[end - 1].isspace():
        end -= 1
    if start < end:
        yield start, end


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
class Segment:
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

    def says_figures(self) -> bool:
        """Whether any quantity, or a bare number, stands in it."""
        return bool(self.bare or any(self.quantities.values()))

    def take(self, kind: Kind) -> float | None:
        """The first quantity of this kind, which is then used up."""
        held = self.quantities.get(kind)
        return held.pop(0)[0] if held else None


def number(token: str, kind: Kind, start: int, end: int) -> float:
    """The token's value in SI; what cannot be a value is wrong at its place."""
    try:
        return understand(token, kind, "line").value or 0.0
    except JobError as wrong:
        raise Wrong(start, end, wrong.problem, wrong.accepted) from None


def tokens(text: str, start: int, end: int) -> Segment:
    """The tokens of a stretch, sorted by what they are. Raises Wrong for what is no token."""
    seg = Segment(start, end)
    before = ""
    for match in _TOKEN.finditer(text, start, end):
        a, b = match.span()
        kind, token = match.lastgroup, match[0]
        if match["text"] is not None:
            if seg.text is not None:
                raise Wrong(a, b, "a second name", "one name in quotes")
            if len(token) < 2 or token[-1] != '"':
                raise Wrong(a, b, "the quotes are not closed", '"a name"')
            seg.text = re.sub(r"\\(.)", r"\1", token[1:-1]).strip()
            if len(seg.text) > 120:
                raise Wrong(a, b, "the name is too long", "up to 120 characters")
        elif match["times"] is not None:
            seg.times.append((number(token[1:], "times", a, b), a, b))
        elif match["size"] is not None:
            seg.sizes.append((token, a, b))
        elif match["perm"] is not None:
            ohms = token.partition("/")[0]
            seg.ohm_per_m.append((number(ohms, "ohms", a, b), a, b))
        elif match["number"] is not None:
            _quantity(seg, token, match["unit"], before, a, b)
        else:
            assert kind is not None
            seg.words.append((token, a, b))
        before = token.lower()
    return seg


def _quantity(seg: Segment, token: str, unit: str | None, before: str, a: int, b: int) -> None:
    plain = (unit or "").replace("\u00b0", "").strip().lower()
    kind = _UNIT_KINDS.get(plain) or _UNIT_KINDS[plain[1:]] if unit else "times"
    value = number(token, kind, a, b)
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
