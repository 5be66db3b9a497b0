"""A table of runs as people have it in a spreadsheet: its columns by their heads, its cells understood."""

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.edit.new_runs import MOST_PIN_A
from spare_margin.core.edit.run_rows import CELLS, Cable, Cell, RunRow
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft, FixedPiece, Load, Size
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.quantities import understand, understand_size
from spare_margin.exchange.run_line.elements import is_short_time
from spare_margin.exchange.run_line.reader import element_of
from spare_margin.exchange.run_line.text import item_text
from spare_margin.wording.craft.pieces import size_typed
from spare_margin.wording.language.units import figure, in_use, metres

from .safe_cells import plain, safe

MOST_ROWS = 300
HEADS: tuple[tuple[Cell, str], ...] = (
    ("critical", r"critical|must not fail|essential|vital"),
    (
        "draws",
        r"(?:rated |max |load )?(?:a|amps?|amperes?|amperage|current|w|watts?|wattage|power)(?: draw)?"
        r"|draws?|consumption",
    ),
    (
        "length",
        r"(?:cable |wire |run )?(?:length|distance)(?: one way)?|one way|metres|meters|m|ft|feet|cable run",
    ),
    ("size", r"size|wire|wire size|cable size|mm2|mm\u00b2|awg|gauge|section|cross section"),
    ("fuse", r"fuse|fuses|breaker|fuse rating|protection|fuse a|fuse or breaker"),
    ("cable", r"cable|cable type|lay|wires|cores"),
    ("joints", r"joints?|joints each end|terminals?"),
    ("panel", r"panel|from|bus|busbar|fed from|feed|fed by|board|supply"),
    ("load", r"load|name|what|item|device|appliance|consumer|circuit|equipment|description"),
)
"""Heads by column, the plainest last: each is a whole head, its unit aside."""
WATTS = re.compile(r"(?:rated |max |load )?(?:w|watts?|wattage|power)(?: draw)?")
UNIT_BEHIND = re.compile(r"(.+) (m|metres?|meters?|ft|feet|a|amps?|w|watts?|mm2|mm\u00b2|awg)")
"""A head with its unit behind it, without brackets: `Distance m`."""
HEAD_UNITS = {
    "w": "W", "watt": "W", "watts": "W", "a": "A", "amp": "A", "amps": "A", "awg": "AWG",
    "ft": "ft", "feet": "ft", "metre": "m", "metres": "m", "meter": "m", "meters": "m",
}  # fmt: skip
BARE_DRAWS = re.compile(r"^([\d.,]+)((?:\s+(?:[x\u00d7]|least|short|charging|control).*)?)$", re.I)
"""A figure alone, or with what may stand behind a load: amperes."""
FREE = ("", "auto", "to be sized", "?")
NONE = ("none", "no", "-", "\u2212", "\u2013", "no fuse")
YES = ("x", "yes", "y", "1", "true", "critical", "must not fail", "\u2713", "\u2714")
NO = ("", "no", "n", "0", "false", "-", "\u2212")
CABLES: dict[str, Cable] = {
    "twin": "twin", "two-core": "twin", "2-core": "twin", "two core": "twin", "2 core": "twin",
    "single": "single", "singles": "single", "two singles": "single", "single core": "single",
    "body": "body", "chassis": "body", "hull": "body", "ground": "body", "earth": "body",
}  # fmt: skip
CRITICAL, PLAIN_NO = "yes", ""


@dataclass(frozen=True, slots=True)
class TableText:
    """A table as it was pasted: each row's cells as typed, by column; heads that are no column of ours."""

    rows: tuple[Mapping[Cell, str], ...]
    columns: tuple[Cell, ...]
    unknown: tuple[str, ...]


def table_text(text: str, most: int = MOST_ROWS) -> TableText:
    """The cells of a pasted table or a CSV, columns found by their heads in any order.

    Without a head line the first column is the load, the second what it draws, the third its length.
    JobError (path `text`) where there is nothing, or too much.
    """
    bare = text.removeprefix("\ufeff").strip("\n")
    if not bare.strip():
        raise JobError("text", "there is nothing to read", "rows of loads, with a head line")
    parting = max(("\t", ";", ","), key=bare.split("\n", 1)[0].count)
    try:
        grid = [
            [plain(c).strip() for c in row]
            for row in csv.reader(io.StringIO(bare), delimiter=parting)
            if any(c.strip() for c in row)
        ]
    except csv.Error as wrong:
        raise JobError("text", str(wrong), "cells parted by tabs, semicolons or commas") from None
    heads = [_column(cell) for cell in grid[0]]
    if any(head is not None for head in heads) and not _is_row(grid[0]):
        body, units = grid[1:], [_parted(cell)[1] for cell in grid[0]]
        unknown = tuple(c for c, head in zip(grid[0], heads, strict=True) if c and head is None)
    else:
        body, units, unknown = grid, [""] * 3, ()
        heads = ["load", "draws", "length"]
    if not body:
        raise JobError("text", "has a head line alone", "a row of a load under it")
    if len(body) > most:
        raise JobError("text", f"has {len(body)} rows", f"up to {most} at once")
    rows = tuple(_row(cells, heads, units) for cells in body)
    found = dict.fromkeys(head for head in heads if head is not None)
    return TableText(rows, tuple(c for c in CELLS if c in found), unknown)


def _parted(head: str) -> tuple[str, str]:
    """A head without its unit, and the unit that it says: in brackets, behind it, or as the head itself."""
    bracketed = re.search(r"[(\[]\s*([A-Za-z\u00b2]+2?)\s*[)\]]", head)
    bare = re.sub(r"[(\[].*?[)\]]|[,:].*$", " ", head.lower())
    bare = " ".join(bare.replace("_", " ").split())
    if bracketed:
        return bare, bracketed[1]
    behind = UNIT_BEHIND.fullmatch(bare)
    if behind:
        return behind[1], HEAD_UNITS.get(behind[2], behind[2])
    return bare, "W" if WATTS.fullmatch(bare) else HEAD_UNITS.get(bare, "")


def _column(head: str) -> Cell | None:
    bare, unit = _parted(head)
    if bare == "load" and unit.lower() in ("a", "w"):
        return "draws"
    return next((cell for cell, words in HEADS if re.fullmatch(words, bare)), None)


def _is_row(cells: Sequence[str]) -> bool:
    """Whether a first line is a row already: a figure stands in it."""
    return any(re.fullmatch(r"[-\d.,]+\s*[A-Za-z]*", c) for c in cells[1:])


def _row(
    cells: Sequence[str], heads: Sequence[Cell | None], units: Sequence[str]
) -> Mapping[Cell, str]:
    out: dict[Cell, str] = {}
    for text, head, unit in zip(cells, heads, units, strict=False):
        if head is None or not text:
            continue
        bare = re.fullmatch(r"[\d.,/]+", text) is not None
        said = f"{text} {unit}" if unit and bare else text
        # Amperes and watts may each have a column; what is said first stands.
        out.setdefault(head, said)
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class RowUnderstood:
    """A row's cells as they were understood; None and False where a cell says nothing.

    Args:
        load: the load, without id and ends.
        length_m: one way (m).
        cable: how its wires lie.
        size: the size; None where it is to be chosen.
        fuse: the fuse or breaker; None for none.
        joints: how many joints each wire has at each end.
        panel: what the panel is called; empty for the source.
    """

    load: Load
    length_m: float
    cable: Cable
    size: Size | None
    fuse: FixedPiece | None
    joints: int
    panel: str


class Cells:
    """Reads the cells of a row of a craft."""

    def __init__(self, craft: Craft, tables: Tables) -> None:
        self.craft, self.tables = craft, tables
        two_wire = craft.polarity == "none" or craft.kind in ("boat", "caravan")
        self.usual: Cable = "twin" if two_wire else "body"

    def row(self, cells: Mapping[Cell, str]) -> tuple[RowUnderstood | None, list[JobError]]:
        """A whole row; None with everything that is wrong, each by its cell."""
        errors: list[JobError] = []

        def read(cell: Cell, how: Any) -> Any:
            try:
                return how(cells.get(cell, "").strip())
            except JobError as wrong:
                errors.append(JobError(cell, wrong.problem, wrong.accepted))
                return None

        name = read("load", self.name)
        load = read("draws", lambda text: self.draws(text, name or "load"))
        critical = read("critical", self.critical)
        length = read("length", self.length)
        twin, size = read("size", self.size) or (False, None)
        cable = read("cable", lambda text: self.cable(text, load))
        fuse = read("fuse", self.fuse)
        joints = read("joints", self.joints)
        if errors:
            return None, errors
        made = RowUnderstood(
            load=replace(load, name=name, critical=critical), length_m=length,
            cable="twin" if twin else cable, size=size, fuse=fuse, joints=joints,
            panel=cells.get("panel", "").strip(),
        )  # fmt: skip
        return made, []

    def name(self, text: str) -> str:
        """What the load is called."""
        if not text:
            raise JobError("load", "is empty", "what the load is called")
        if len(text) > 120:
            raise JobError("load", "is too long", "up to 120 letters")
        return text

    def draws(self, text: str, name: str) -> Load:
        """What the load draws: amperes where nothing else is said, and what stands behind a load."""
        if not text:
            raise JobError("draws", "is empty", "amperes as 2.5, or watts as 45 W")
        word, _, rest = text.partition(" ")
        if word.lower() not in ("motor", "lamp", "heater", "converter", "load"):
            word, rest = "load", text
        rest = BARE_DRAWS.sub(r"\1 A\2", rest)
        try:
            load = element_of(f'{word} "load" {rest}', self.craft, self.tables)
        except JobError as wrong:
            raise JobError("draws", wrong.problem, "amperes as 2.5, or watts as 45 W") from None
        assert isinstance(load, Load)
        short = load.duty == "ordinary" and is_short_time(name)
        return replace(load, duty="short_time" if short else load.duty)

    def length(self, text: str) -> float:
        """One way (m)."""
        if not text:
            raise JobError("length", "is empty", "metres one way, as 4.8, 350 cm or 12 ft")
        metres_ = understand(text, "metres", "length").value or 0.0
        if not 0 < metres_ <= 1000:
            raise JobError("length", f"{text} is no length", "above 0 up to 1000 m")
        return metres_

    def size(self, text: str) -> tuple[bool, Size | None]:
        """The size, and whether it is said of a twin cable; None where it is to be chosen."""
        if text.lower() in FREE:
            return False, None
        two = re.fullmatch(r"2\s*[x\u00d7]\s*(.+)", text, re.I)
        text = two[1] if two else text
        size = understand_size(text, "size", in_use().size, "plain")
        rows = self.tables.conductors.rows
        bare = replace(size, finish="plain")
        if size not in rows and bare not in rows:
            known = ", ".join(self.tables.conductors.sizes(size.system))
            raise JobError("size", f"there is no size {text}", known)
        return two is not None, size if size in rows else bare

    def cable(self, text: str, load: Load | None = None) -> Cable:
        """How its wires lie; the usual of the craft where nothing is said, two wires for a heavy load."""
        if not text:
            heavy = (
                load is not None and load.behaviour is not None and self._amperes(load) > MOST_PIN_A
            )
            return "single" if heavy and self.usual == "twin" else self.usual
        found = CABLES.get(text.lower())
        if found is None:
            raise JobError(
                "cable", f"\u201c{text[:40]}\u201d is not understood", "twin, single or body"
            )
        return found

    def _amperes(self, load: Load) -> float:
        return rated_current_a(load, self.craft.nominal_v)

    def fuse(self, text: str) -> FixedPiece | None:
        """The fuse or breaker, one to be rated where nothing is said; None for none."""
        if text.lower() in NONE:
            return None
        if text.lower() in FREE:
            return FixedPiece(id="", start="", end="", side="feed", kind="fuse")
        bare = re.fullmatch(r"[\d.,]+\s*(?:a|amps?)?", text, re.I)
        try:
            piece = element_of(f"fuse {text}" if bare else text, self.craft, self.tables)
        except JobError as wrong:
            raise JobError(
                "fuse", wrong.problem, "a rating as 15, strip fuse 200, breaker 10"
            ) from None
        if not isinstance(piece, FixedPiece) or piece.kind not in ("fuse", "breaker"):
            raise JobError(
                "fuse",
                f"\u201c{text[:40]}\u201d is no fuse",
                "15, strip fuse 200, breaker 10, none",
            )
        return piece

    def joints(self, text: str) -> int:
        """How many joints each wire has at each end; one where nothing is said."""
        if not text:
            return 1
        if not re.fullmatch(r"[0-4]", text):
            raise JobError(
                "joints", f"\u201c{text[:20]}\u201d is not understood", "0 to 4 at each end"
            )
        return int(text)

    def critical(self, text: str) -> bool:
        """Whether it must not fail."""
        word = text.lower()
        if word in YES:
            return True
        if word in NO:
            return False
        raise JobError("critical", f"\u201c{text[:40]}\u201d is not understood", "yes, or nothing")


def cells_of(row: RunRow, panel: str) -> dict[Cell, str]:
    """A row's cells as a person would type them."""
    load = item_text(replace(row.load, name="x", critical=False, duty="ordinary"))
    word, _, draws = load.partition(' "x" ')
    draws = "" if row.load.behaviour is None else draws
    keep_word = word in ("lamp", "heater") and bool(draws)
    sizes = " / ".join(size_typed(size) for size in row.sizes)
    return {
        "load": row.load.name,
        "draws": f"{word} {draws}" if keep_word else re.sub(r"^([\d.,]+) A\b", r"\1", draws),
        "length": metres(row.length_m).replace("\u00a0", " ").removesuffix(" m")
        if row.length_m
        else "",
        "cable": row.cable,
        "size": sizes,
        "fuse": " / ".join(_fuse_text(f) for f in row.fuses),
        "joints": "" if row.joints is None else str(row.joints),
        "panel": panel,
        "critical": CRITICAL if row.load.critical else PLAIN_NO,
    }


def _fuse_text(fuse: FixedPiece) -> str:
    if fuse.rating_a is None:
        return "" if fuse.kind == "fuse" else "breaker"
    rating = figure(f"{fuse.rating_a:g}")
    if fuse.kind == "breaker":
        return f"breaker {rating}"
    return f"{fuse.style} {rating}" if fuse.style not in (None, "blade") else rating


TITLES: dict[Cell, str] = {
    "load": "load", "draws": "draws (A)", "length": "length one way", "cable": "cable", "size": "size",
    "fuse": "fuse", "joints": "joints each end", "panel": "panel", "critical": "must not fail",
}  # fmt: skip


def table_csv(rows: Sequence[Mapping[Cell, str]]) -> str:
    """A table of runs as CSV; `table_text` of it gives the same cells."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(TITLES[cell] for cell in CELLS)
    for row in rows:
        writer.writerow(safe(row.get(cell, "")) for cell in CELLS)
    return out.getvalue()
