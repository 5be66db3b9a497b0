"""A run line written: items as text, a whole line as text, and items known again in a new text."""

import re
from dataclasses import fields, replace
from difflib import SequenceMatcher
from typing import Any

from spare_margin.core.edit.lines import Line, LineItem
from spare_margin.core.model.pieces import Conductor, FixedPiece, Load, LoadLaw, TestPoint
from spare_margin.exchange.run_line.vocabulary import DUTY_WORDS, KIND_WORDS, PLAIN_STYLES, UNKNOWN
from spare_margin.wording.language.units import celsius, figure, in_use, metres


def _n(value: float) -> str:
    return figure(f"{value:.12g}")


def _spaced(text: str) -> str:
    return text.replace("\u00a0", " ")


def _quoted(name: str) -> str:
    return '"' + name.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _ohm_text(ohm: float) -> str:
    return f"{_n(ohm * 1000)} m\u03a9" if ohm < 1 else f"{_n(ohm)} \u03a9"


def item_text(item: LineItem) -> str:
    """One item as text."""
    if isinstance(item, TestPoint):
        word = {"open": "", "backprobe": " | back-probe", "trim": " | trim"}[item.access]
        name = re.sub(r"([\[\]|\\])", r"\\\1", item.name) if item.name else item.id
        return f"[{name}{word}]"
    if isinstance(item, Load):
        return _load_text(item)
    if isinstance(item, FixedPiece) and item.kind == "unknown" and item == _plain_unknown(item):
        return UNKNOWN
    parts = _wire_parts(item) if isinstance(item, Conductor) else _fixed_parts(item)
    if item.resistance_ohm is not None:
        parts.append(_ohm_text(item.resistance_ohm))
    if item.open:
        parts.append("open")
    if item.name:
        parts.append(_quoted(item.name))
    return " ".join(parts)


def _plain_unknown(item: FixedPiece) -> FixedPiece:
    """A stretch of which nothing at all is said."""
    return replace(item, name="", resistance_ohm=None, style=None, rating_a=None, open=False)


def _wire_parts(wire: Conductor) -> list[str]:
    parts = []
    if wire.size is not None:
        if wire.size.system == "awg":
            parts.append(f"{wire.size.value} AWG")
        else:
            road = " road" if wire.size.system == "mm2-road" else ""
            parts.append(f"{figure(wire.size.value)} mm\u00b2{road}")
        if wire.size.finish != "plain":
            parts.append(wire.size.finish)
    elif wire.ohm_per_m is not None:
        parts.append(f"{_n(wire.ohm_per_m * 1000)} m\u03a9/m")
    else:
        parts.append("wire")
    if wire.length_m:
        # In feet to four digits: an item whose text is the same is taken for the one that was there.
        feet = in_use().length == "ft"
        parts.append(_spaced(metres(wire.length_m)) if feet else f"{_n(wire.length_m)} m")
    if wire.insulation_c is not None:
        parts.append(_spaced(celsius(wire.insulation_c)))
    if wire.engine_space:
        parts.append("engine")
    return parts


def _fixed_parts(piece: FixedPiece) -> list[str]:
    word = next(w for w, kind in KIND_WORDS.items() if kind == piece.kind)
    parts = [word, piece.style]
    if (piece.kind, piece.style) in PLAIN_STYLES:
        parts = [piece.style]
    if piece.rating_a is not None:
        parts.append(f"{_n(piece.rating_a)} A")
    return [p for p in parts if p]


def _load_text(load: Load) -> str:
    words: dict[LoadLaw, str] = {
        "constant_current": "load", "constant_power": "converter", "filament": "lamp",
        "constant_resistance": "heater",
    }  # fmt: skip
    parts = [words[load.behaviour or "constant_current"], _quoted(load.name)]
    if load.behaviour is None:
        parts.append(UNKNOWN)
    elif load.load_ohm is not None:
        parts.append(_ohm_text(load.load_ohm))
    elif load.behaviour == "constant_current":
        parts.append(f"{_n(load.current_a or 0.0)} A")
    else:
        parts.append(f"{_n(load.power_w or 0.0)} W")
        if load.rated_v is not None:
            parts.append(f"at {_n(load.rated_v)} V")
    if load.start_multiple is not None:
        parts.append(f"x{_n(load.start_multiple)}")
    if load.least_v is not None:
        parts.append(f"least {_n(load.least_v)} V")
    parts += [word for word, duty in DUTY_WORDS.items() if duty == load.duty]
    if load.critical:
        parts.append("critical")
    return " ".join(parts)


def _way_text(items: tuple[LineItem, ...]) -> str:
    out = ""
    for i, item in enumerate(items):
        is_point = isinstance(item, TestPoint)
        joint = (
            "" if not i else " " if is_point and not isinstance(items[i - 1], TestPoint) else " > "
        )
        out += joint + item_text(item)
    return out


def line_text(line: Line) -> str:
    """A line as text: `read_line` of it gives the same line."""
    return " ; beside ".join(_way_text(way) for way in (line.main, *line.beside))


# Which item is which


_SAID = {
    Conductor: ("name", "length_m", "size", "ohm_per_m", "insulation_c", "resistance_ohm",
                "engine_space", "open"),
    FixedPiece: ("name", "kind", "style", "rating_a", "resistance_ohm", "open"),
    Load: tuple(f.name for f in fields(Load) if f.name not in ("id", "start", "end")),
    TestPoint: ("name", "access"),
}  # fmt: skip
"""What of each kind of item a text says; the rest stays as it was."""


def matched(new: Line, old: Line) -> Line:
    """The new line with each item that stands in the old one known again, so that ids survive.

    Items whose text is the same are matched in their order; between those, items of one sort are
    taken for one another in turn, as changed.
    """
    main = _matched_way(new.main, old.main)
    spare = [m for way in old.beside for m in way]
    beside = tuple(_matched_way(way, tuple(spare)) for way in new.beside)
    return Line(main, beside)


def _matched_way(new: tuple[LineItem, ...], old: tuple[LineItem, ...]) -> tuple[LineItem, ...]:
    out: list[LineItem] = list(new)
    known = {m.id for m in new if isinstance(m, TestPoint) and m.id}
    texts = [item_text(m) for m in old], [item_text(m) for m in new]
    for tag, a, b, c, d in SequenceMatcher(None, *texts, autojunk=False).get_opcodes():
        if tag == "equal":
            out[c:d] = old[a:b]
            continue
        waiting = [m for m in old[a:b] if m.id not in known]
        for i in range(c, d):
            item = new[i]
            if item.id:
                continue
            fit = next((m for m in waiting if _alike(m, item)), None)
            if fit is not None:
                waiting = waiting[waiting.index(fit) + 1 :]
                out[i] = _as_said(fit, item)
    return tuple(out)


def _alike(one: LineItem, other: LineItem) -> bool:
    if isinstance(one, FixedPiece) and isinstance(other, FixedPiece):
        return one.kind == other.kind
    return type(one) is type(other)


def _as_said(old: Any, new: Any) -> Any:
    return replace(old, **{name: getattr(new, name) for name in _SAID[type(old)]})
