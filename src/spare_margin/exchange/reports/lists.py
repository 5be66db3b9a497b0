"""Lists as CSV (RFC 4180), safe against formulas in spreadsheets."""

import csv
import io
from collections.abc import Iterable, Sequence

from spare_margin.wording.figures import Figure
from spare_margin.wording.proof_lines import ProofSheet

FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n")
"""A cell that begins with one of these is taken for a formula by spreadsheets."""


def written(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A list with its head; lines end as RFC 4180 has it."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([safe(cell) for cell in row] for row in rows)
    return text.getvalue()


def safe(cell: str) -> str:
    """A cell that a spreadsheet does not take for a formula; a number stays a number.

    >>> safe("=1+1"), safe("-0.5"), safe("+ post")
    ("'=1+1", '-0.5', "'+ post")
    """
    if cell[:1] in FORMULA and not _is_number(cell):
        return f"'{cell}"
    return cell


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return cell[:1] != "+" and cell.strip() == cell


def before_after_csv(sheet: ProofSheet) -> str:
    """Every measurement of a proof before and after, in SI."""

    def si(figure: Figure | None) -> str:
        return "" if figure is None else f"{figure.si:.6g}"

    return written(
        ("what", "red", "black", "unit", "before", "verdict before", "expected", "after",
         "verdict after", "allowed"),
        (
            (r.what, r.red, r.black, "A" if r.kind == "current" else "V", si(r.before),
             r.before_verdict, si(r.expected), si(r.after), r.after_verdict, si(r.allowed))
            for r in sheet.readings
        ),
    )  # fmt: skip
