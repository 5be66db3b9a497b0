"""What a workshop learned, in words."""

from collections.abc import Mapping

from spare_margin.core.model.naming import KIND_NAMES
from spare_margin.wording.language.figures import percent
from spare_margin.wording.language.units import figure


def fault_words(kind: str) -> str:
    """A kind of what may be at fault."""
    return {"load": "The load", "source": "The source"}.get(kind) or KIND_NAMES.get(kind, kind)


def piece_row_words(row: Mapping[str, str] | None) -> str:
    """A row of the table of pieces: what is good, and what age excuses."""
    if row is None:
        return ""
    low, high, aged = (
        figure(row[key]) for key in ("good_low_milliohm", "good_high_milliohm", "aged_milliohm")
    )
    return f"{low} to {high} m\u03a9, aged {aged} m\u03a9"


def spread_row_words(row: Mapping[str, str] | None) -> str:
    """A row of the table of spreads."""
    return "" if row is None else f"\u00b1 {percent(float(row['spread']))}"
