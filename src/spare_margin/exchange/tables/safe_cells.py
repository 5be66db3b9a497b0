"""Cells of a CSV that a spreadsheet does not take for a formula, and back."""

import re

UNSEEN = r"[\s\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]*"
"""Blanks, and marks that show nothing, as of the direction of writing: a spreadsheet may skip them."""
FORMULA = re.compile(rf"'*(?:{UNSEEN}[=+\-@\uff1d\uff0b\uff0d\uff20]|[\t\r\n])")
"""What a spreadsheet takes for the start of one, in wide letters too; marks before it are what was put
there, or typed."""


def safe(cell: str) -> str:
    """A cell with a mark before it where it would be taken for a formula; a number stays a number.

    >>> safe("=1+1"), safe("-0.5"), safe("+ post"), safe("'=1"), safe(" =1")
    ("'=1+1", '-0.5', "'+ post", "''=1", "' =1")
    """
    return f"'{cell}" if FORMULA.match(cell) and not _is_number(cell) else cell


def plain(cell: str) -> str:
    """The cell that was made safe.

    >>> [plain(safe(cell)) for cell in ("=1+1", "-0.5", "'=1", "'tis")]
    ['=1+1', '-0.5', "'=1", "'tis"]
    """
    return cell[1:] if cell.startswith("'") and FORMULA.match(cell) else cell


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return cell[:1] != "+" and cell.strip() == cell
