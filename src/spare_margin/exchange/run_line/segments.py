"""What one stretch of a run line says, sorted by what it is; the tokens are those of line.lark."""

import re
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files

from lark import Lark, Token, Tree

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


@cache
def grammar() -> Lark:
    """The grammar of a run line: every text is one, and a tree of ways, points and stretches.

    >>> tree = grammar().parse('[Bus] > fuse 15 ; beside [A] > body > [B]')
    >>> [str(way.data) for way in tree.find_data("way")], tree.children[0].children[0].type
    (['way', 'way'], 'POINT')
    """
    text = files(__package__).joinpath("line.lark").read_text(encoding="utf-8")
    return Lark(text, start="line", parser="lalr", lexer="basic")


Found = tuple[float, int, int]
"""A value in SI, and from where to where it stands in the text."""
Said = tuple[str, int, int]
"""A piece of text, and from where to where it stands."""

_KINDS: dict[str, Kind] = {
    "VOLTS": "volts", "AMPERES": "amperes", "WATTS": "watts", "OHMS": "ohms",
    "METRES": "metres", "METRES_AND": "metres", "CELSIUS": "celsius", "NUMBER": "times",
}  # fmt: skip


_TWO_BY = re.compile(r"^2\s*[x\u00d7]\s*", re.I)


@dataclass(slots=True)
class Segment:
    """The tokens of one stretch, sorted by what they are; positions are those of the whole text."""

    start: int
    end: int
    text: str | None = None
    words: list[Said] = field(default_factory=list)
    sizes: list[Said] = field(default_factory=list)
    twin: bool = False
    quantities: dict[Kind, list[Found]] = field(default_factory=dict)
    bare: list[Found] = field(default_factory=list)
    times: list[Found] = field(default_factory=list)
    ohm_per_m: list[Found] = field(default_factory=list)
    at_volts: list[Found] = field(default_factory=list)
    least_volts: list[Found] = field(default_factory=list)

    def says_figures(self) -> bool:
        """Whether any quantity, or a bare number, stands in it."""
        return bool(self.bare or any(self.quantities.values()))

    def draws(self) -> bool:
        """Whether it says what something draws: amperes or watts."""
        return bool(self.quantities.get("amperes") or self.quantities.get("watts"))

    def take(self, kind: Kind) -> float | None:
        """The first quantity of this kind, which is then used up."""
        held = self.quantities.get(kind)
        return held.pop(0)[0] if held else None


def place(token: Token) -> tuple[int, int]:
    """From where to where a token stands in the text."""
    assert token.start_pos is not None
    assert token.end_pos is not None
    return token.start_pos, token.end_pos


def segment(stretch: Tree[Token]) -> Segment:
    """The tokens of a stretch, sorted by what they are. Raises Wrong for what has no value."""
    tokens = [t for t in stretch.children if isinstance(t, Token)]
    seg = Segment(place(tokens[0])[0], place(tokens[-1])[1])
    for token in tokens:
        a, b = place(token)
        match token.type:
            case "NAME":
                seg.text = _name(token, seg.text)
            case "WORD":
                seg.words.append((str(token), a, b))
            case "MANY":
                together, of = _many(token, a, b)
                seg.quantities.setdefault(of, []).append(together)
            case "SIZE" | "TWIN":
                seg.twin = seg.twin or token.type == "TWIN"
                seg.sizes.append((_TWO_BY.sub("", token), a, b))
            case "TIMES":
                seg.times.append((_number(token[1:], "times", a, b), a, b))
            case "OHMS_PER_METRE":
                ohms = token.partition("/")[0]
                seg.ohm_per_m.append((_number(ohms, "ohms", a, b), a, b))
            case "AT_VOLTS":
                seg.at_volts.append((_number(token[len("at") :], "volts", a, b), a, b))
            case "LEAST_VOLTS":
                seg.least_volts.append((_number(token[len("least") :], "volts", a, b), a, b))
            case kind:
                value = _number(token, _KINDS[kind], a, b), a, b
                held = {"NUMBER": seg.bare, "VOLTS": seg.at_volts}.get(kind)
                (seg.quantities.setdefault(_KINDS[kind], []) if held is None else held).append(
                    value
                )
    return seg


def _many(token: Token, start: int, end: int) -> tuple[Found, Kind]:
    """What several alike draw together, as 3 x 10 W."""
    count, _, each = re.split(r"([x\u00d7])", token, maxsplit=1, flags=re.I)
    kind: Kind = "watts" if each.strip().lower().endswith("w") else "amperes"
    return (int(count) * _number(each, kind, start, end), start, end), kind


def _name(token: Token, before: str | None) -> str:
    if before is not None:
        raise Wrong(*place(token), "a second name", "one name in quotes")
    closed = re.fullmatch(r'"((?:\\.|[^"\\])*)"', token, re.S)
    if closed is None:
        raise Wrong(*place(token), "the quotes are not closed", '"a name"')
    name = re.sub(r"\\(.)", r"\1", closed[1], flags=re.S).strip()
    if len(name) > 120:
        raise Wrong(*place(token), "the name is too long", "up to 120 characters")
    return name


def _number(text: str, kind: Kind, start: int, end: int) -> float:
    """The value in SI; what cannot be a value is wrong at its place."""
    try:
        return understand(text.strip(), kind, "line").value or 0.0
    except JobError as wrong:
        raise Wrong(start, end, wrong.problem, wrong.accepted) from None
