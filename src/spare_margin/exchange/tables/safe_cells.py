"""Cells of a CSV that a spreadsheet does not take for a formula, and back."""

import re

FORMULA = re.compile(r"'*[=+\-@\t\r\n]")
"""What a spreadsheet takes for the start of one; marks before it are what was put there, or typed."""


def safe(cell: str) -> str:
    """A cell with a mark before it where it would be taken for a formula; a number stays a number.

    >>> safe("=1+1"), safe("-0.5"), safe("+ post"), safe("'=1")
    ("'=1+1", '-0.5', "'+ post", "''=1")
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
