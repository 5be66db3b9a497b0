"""Resistance of the pieces that do not come by the metre: what is good, what age may add."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from spare_margin.core.model.pieces import FixedKind, FixedPiece

FUSE_DROP_AT_RATING_V = 0.08
"""Where no row gives a fuse's resistance: it drops about 0.08 V at its rating."""
BREAKER_DROP_AT_RATING_V = 0.15
"""A thermal breaker drops about 0.15 V at its rating."""
PROTECTION_AGED_FACTOR = 1.5
"""An aged fuse or breaker, its holder included, against the new element."""
USUAL_STYLE: Mapping[str, str] = {"joint": "pin", "switch": "panel switch"}
"""The style of a kind where nobody said one: the commonest, and not the best."""
UNKNOWN_OHM = 0.020
"""Where nothing is known of a piece it starts from here, e^1.5 times more or less."""
RESISTOR_TOLERANCE = 0.10
"""A resistor fitted on purpose may stand this share off its marking."""


Basis = Literal["marking", "row", "fuse_row", "fuse_rule", "breaker_rule", "given"]


@dataclass(frozen=True, slots=True)
class Expected:
    """What to expect of a piece, in ohm: new and good, and the most that age excuses.

    `basis` says which rule the figures come from: a resistor's marking, a row of the tables (then
    `row` is it, for fuses None), the rule of thumb for a fuse or a breaker, the resistance given.
    """

    good_ohm: float
    aged_ohm: float
    basis: Basis
    row: "FixedRow | None" = None


@dataclass(frozen=True, slots=True)
class FixedRow:
    """A style of joint, switch, contact or body path: its good range and its aged limit, ohm."""

    kind: FixedKind
    style: str
    name: str
    good_low_ohm: float
    good_high_ohm: float
    aged_ohm: float
    source: str

    @property
    def good_ohm(self) -> float:
        """The middle of the good range, as the geometric mean: the range is one of ratios."""
        return math.sqrt(self.good_low_ohm * self.good_high_ohm)


@dataclass(frozen=True, slots=True, eq=False)
class FixedTable:
    """The table of fixed pieces, and of fuse elements as (style, rating A) -> cold ohm.

    One table is only ever the same as itself, so that what was looked up in it can be remembered.
    """

    rows: tuple[FixedRow, ...]
    fuses: Mapping[tuple[str, float], float]

    def styles(self, kind: FixedKind) -> list[str]:
        """The style names this kind may have."""
        if kind == "fuse":
            return list(dict.fromkeys(style for style, _ in self.fuses))
        return [row.style for row in self.rows if row.kind == kind]

    def row_like(self, piece: FixedPiece) -> FixedRow | None:
        """The row of the piece's style; without a style, the one nearest to its resistance."""
        return self.row(piece.kind, piece.style, piece.resistance_ohm)

    def row(self, kind: FixedKind, style: str | None, own_ohm: float | None) -> FixedRow | None:
        """The row of this style; without a style, the one nearest to a resistance (ohm).

        Args:
            kind: what kind of piece.
            own_ohm: a resistance of its own (ohm); None where nobody gave one.
        """
        rows = [row for row in self.rows if row.kind == kind]
        if style is not None:
            return next((row for row in rows if row.style == style), None)
        if not rows or not own_ohm:
            usual = next((row for row in rows if row.style == USUAL_STYLE.get(kind)), None)
            return usual or (rows[0] if rows else None)
        at = math.log(own_ohm)
        return min(rows, key=lambda row: abs(math.log(row.good_ohm) - at))


def expected(piece: FixedPiece, table: FixedTable) -> Expected:
    """What to expect of this piece; `resistance_ohm` rules over what is good, not over the aged.

    A resistor's aged limit is its marking plus tolerance. Raises KeyError where nothing gives the
    piece a resistance: no such style, a resistor without its marking.

    Args:
        table: the rows of the fixed pieces.

    >>> marked = FixedPiece(id="r", start="a", end="b", side="feed", kind="resistor", resistance_ohm=0.47)
    >>> expected(marked, FixedTable((), {})).aged_ohm  # ten per cent more
    0.517
    """
    return _expected(piece.kind, piece.style, piece.rating_a, piece.resistance_ohm, table)


@lru_cache(maxsize=4096)
def _expected(
    kind: FixedKind,
    style: str | None,
    rating_a: float | None,
    own: float | None,
    table: FixedTable,
) -> Expected:
    if kind == "unknown":
        return Expected(UNKNOWN_OHM if own is None else own, math.inf, "given")
    if kind == "resistor":
        if own is None:
            raise KeyError("a resistor needs resistance_ohm")
        return Expected(own, own * (1 + RESISTOR_TOLERANCE), "marking")
    if kind in ("fuse", "breaker"):
        good, basis = _protection_ohm(kind, style, rating_a, own, table)
        aged = max(PROTECTION_AGED_FACTOR * good, own or 0.0)
        return Expected(good if own is None else own, aged, basis)
    row = table.row(kind, style, own)
    if row is None:
        raise KeyError(f"no {kind} of style {style}")
    good = row.good_ohm if own is None else own
    return Expected(good, max(row.aged_ohm, own or 0.0), "row", row)


def _protection_ohm(
    kind: FixedKind,
    style: str | None,
    rating_a: float | None,
    own: float | None,
    table: FixedTable,
) -> tuple[float, Basis]:
    if rating_a is None:
        return (UNKNOWN_OHM if own is None else own), "given"
    if kind == "breaker":
        return BREAKER_DROP_AT_RATING_V / rating_a, "breaker_rule"
    cold = table.fuses.get((style or "blade", rating_a))
    if cold is not None:
        return cold, "fuse_row"
    return FUSE_DROP_AT_RATING_V / rating_a, "fuse_rule"
