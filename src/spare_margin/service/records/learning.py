"""What this workshop's accepted readings say of good pieces, and what may be taken into the tables."""

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.evidence.verdict.accepted import Learned, learned
from spare_margin.data.tables import rows_of
from spare_margin.service.workshop.workshop import Workshop
from spare_margin.store import records

LEAST_SPREAD, MOST_SPREAD = 0.03, 1.5
AGED_TIMES = 2.0
"""Where a style has no row yet: age may double what nearly all good ones have."""
Cells = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class LearnedOffer:
    """Something learned beside what the tables have: a row that may be taken, None where there is none.

    `held` is the row of the tables that it would stand in for; `taken` whether it stands there already.
    """

    learned: Learned
    row: Cells | None
    held: Cells | None
    taken: bool


@dataclass(frozen=True, slots=True)
class Learning:
    """Pieces and spreads that may be taken, and what was found at fault how often (kind, craft, jobs)."""

    pieces: list[LearnedOffer]
    spreads: list[LearnedOffer]
    culprits: list[tuple[str, str, int]]


def learning(connection: sqlite3.Connection, shop: Workshop) -> Learning:
    """Everything that the accepted readings of all jobs say."""
    found = learned(records.samples(connection))
    fixed = rows_of("fixed_pieces", shop.own_rows)
    spreads = rows_of("spreads", shop.own_rows)
    pieces = [_piece(each, fixed) for each in found if each.style]
    kinds = [_spread(each, spreads) for each in found if not each.style and not each.place]
    return Learning(pieces, kinds, records.culprits(connection))


def _source(each: Learned) -> str:
    return f"learned here: {each.count} accepted readings of {each.jobs} jobs"


def _piece(each: Learned, fixed: Mapping[str, Cells]) -> LearnedOffer:
    """A style's starting values; what was learned at one place only is shown, not offered."""
    held = next(
        (r for r in fixed.values() if (r["kind"], r["style"]) == (each.kind, each.style)), None
    )
    if held is None or each.place or not each.enough:
        return LearnedOffer(each, None, held, False)
    high = each.high_ohm * 1000
    aged = max(float(held["aged_milliohm"]), AGED_TIMES * high)
    row = {
        **held, "good_low_milliohm": f"{each.low_ohm * 1000:.3g}",
        "good_high_milliohm": f"{high:.3g}", "aged_milliohm": f"{aged:.3g}",
        "source": _source(each),
    }  # fmt: skip
    return LearnedOffer(each, row, held, _same(row, held))


def _spread(each: Learned, spreads: Mapping[str, Cells]) -> LearnedOffer:
    held = next((r for r in spreads.values() if r["kind"] == each.kind), None)
    if held is None or not each.enough:
        return LearnedOffer(each, None, held, False)
    spread = min(max(each.spread, LEAST_SPREAD), MOST_SPREAD)
    row = {**held, "spread": f"{spread:.2g}", "source": _source(each)}
    return LearnedOffer(each, row, held, _same(row, held))


def _same(row: Cells, held: Cells) -> bool:
    return all(row[key] == held[key] for key in row)
