"""What could stand at the caret of a run line: test points, kinds of pieces, loads."""

import re
from collections.abc import Iterable

from spare_margin.core.model.pieces import Craft
from spare_margin.data.table_rows import Cells
from spare_margin.exchange.run_line.text import item_text
from spare_margin.web.drawing.models import Completion
from spare_margin.wording.craft.pieces import point_name

MOST = 8
WORDS: tuple[tuple[str, str], ...] = (
    ("fuse 15", "fuse, rating in A"),
    ("breaker 15", "breaker, rating in A"),
    ("panel switch", "switch"),
    ("isolator", "battery isolator"),
    ("pin", "pin or blade in a connector"),
    ("ring on stud", "ring terminal on a stud"),
    ("splice", "crimped splice"),
    ("post clamp", "heavy lug or post clamp"),
    ("relay", "relay contact"),
    ("body", "chassis or hull path"),
    ("resistor 2.2 \u03a9", "fitted on purpose"),
    ("2.5 mm\u00b2 4 m", "wire: size and length"),
    ('load "" 2 A', "constant current"),
    ('motor "" 5 A x4', "starts at four times"),
    ('converter "" 45 W', "constant power"),
    ('heater "" 60 W at 12 V', "a resistor"),
    ('lamp "" 10 W at 12 V', "a filament"),
)


def completions(
    text: str, caret: int, craft: Craft, loads: Iterable[Cells]
) -> tuple[list[Completion], int, int]:
    """What fits what stands before the caret, and the stretch (start, end) it would replace."""
    before = text[:caret]
    bracket = re.search(r"\[([^\[\]|]*)$", before)
    if bracket:
        end = caret + len(re.match(r"[^\[\]|>]*\]?", text[caret:])[0])  # type: ignore[index]
        return _points(craft, bracket[1]), bracket.start(), end
    if before.count('"') % 2:
        return [], caret, caret
    start = max(before.rfind(mark) for mark in (">", "\u2192", ";", "\n", "]")) + 1
    while start < caret and text[start].isspace():
        start += 1
    said = text[start:caret]
    if said and (re.search(r"\d", said) or said.endswith(" ")):
        return [], caret, caret
    plain = said.casefold()
    found = [Completion(text=t, says=s) for t, s in WORDS if t.startswith(plain)]
    found += [
        Completion(text=row["line"], says=row["name"])
        for row in loads
        if plain and plain in row["name"].casefold()
    ]
    if not plain:
        return _points(craft, "")[:MOST], start, caret
    return [*found, *_points(craft, said)][:MOST], start, caret


def _points(craft: Craft, said: str) -> list[Completion]:
    """Named test points whose name holds what was said; those that begin with it first."""
    plain = said.strip().casefold()
    fitting = [p for p in craft.points if p.name and plain in p.name.casefold()]
    fitting.sort(key=lambda p: not p.name.casefold().startswith(plain))
    return [
        Completion(text=item_text(p), says=f"test point {point_name(craft, p.id)}")
        for p in fitting[:MOST]
    ]
