"""Labels for the ends of wires as PDF: a sheet of strips to cut out, two of each wire."""

from collections.abc import Sequence
from datetime import date

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Spacer, Table

from .paper import BODY, SMALL, built, p, style, width_of
from .sheet import Paper
from .spend_chart import INK
from .typefaces import BOLD

COLUMNS = 4
"""Even: the two of a wire stand beside each other."""
HEIGHT = 14 * mm
NUMBER = style("number", 12, fontName=BOLD)
SAYS = "Cut along the lines; one for each end of the wire, under clear sleeve or wrapped round it."


def labels_pdf(
    labels: Sequence[tuple[str, str]], paper: Paper, workshop: str, title: str, made: date
) -> bytes:
    """A sheet of labels as the bytes of a PDF.

    Args:
        labels: by wire its number and what it is called.
        paper: A4 or Letter.
        workshop: the workshop's name.
        title: what the job is called.
        made: the day it is printed.
    """
    each = width_of(paper) / COLUMNS
    cells: list[Flowable | str] = [
        _label(number, text, each) for number, text in labels for _ in range(2)
    ]
    cells += [""] * (-len(cells) % COLUMNS)
    rows: list[list[Flowable | str]] = [
        cells[i : i + COLUMNS] for i in range(0, len(cells), COLUMNS)
    ]
    sheet = Table(
        rows or [[p("No wire is new.", BODY), *[""] * (COLUMNS - 1)]],
        colWidths=[each] * COLUMNS, rowHeights=[HEIGHT] * max(len(rows), 1),
        style=[
            ("INNERGRID", (0, 0), (-1, -1), 0.3, INK), ("BOX", (0, 0), (-1, -1), 0.3, INK),
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("TOPPADDING", (0, 0), (-1, -1), 0),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 0),
        ],
    )  # fmt: skip
    return built(
        [p(SAYS, SMALL), Spacer(1, 4), sheet], paper, f"Labels: {title}", workshop, title, made
    )


def _label(number: str, text: str, width: float) -> Flowable:
    return Table(
        [[p(number, NUMBER), p(text, BODY)]],
        colWidths=[12 * mm, width - 16 * mm],
        style=[("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
               ("RIGHTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 0),
               ("BOTTOMPADDING", (0, 0), (-1, -1), 0)],
    )  # fmt: skip
