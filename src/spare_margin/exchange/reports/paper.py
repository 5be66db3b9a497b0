"""What every paper of ours is set in: sizes, margins, styles, lines and tables."""

import io
from collections.abc import Sequence
from datetime import date
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    Flowable,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from .sheet import Paper
from .spend_chart import COPPER, INK, SOFT
from .typefaces import BOLD, PLAIN, marked, typefaces

SIZES = {"a4": A4, "letter": LETTER}
MARGIN = 16 * mm
PADDING = 6.0
"""What a frame keeps free within its margins (points)."""
LINE = HexColor("#d5cebf")


def style(name: str, size: float, **more: Any) -> ParagraphStyle:
    """A style of our typeface."""
    of: dict[str, Any] = {
        "fontName": PLAIN,
        "fontSize": size,
        "leading": size * 1.28,
        "textColor": INK,
    } | more
    return ParagraphStyle(name, **of)


BODY = style("body", 8.5)
SMALL = style("small", 7.5, textColor=SOFT)
RIGHT = style("right", 8.5, alignment=TA_RIGHT)
RIGHT_SMALL = style("right small", 7.5, alignment=TA_RIGHT, textColor=SOFT)
HEAD = style("head", 10.5, fontName=BOLD, spaceBefore=7, spaceAfter=2)
BIG = style("big", 15, fontName=BOLD)


def width_of(paper: Paper, *, wide: bool = False) -> float:
    """What a line may take (points); `wide` where the paper lies on its side."""
    size = SIZES[paper]
    return (size[1] if wide else size[0]) - 2 * MARGIN


def built(
    flowables: list[Flowable], paper: Paper, title: str, author: str, foot: str, made: date,
    *, wide: bool = False,
) -> bytes:  # fmt: skip
    """A document as the bytes of a PDF, its typefaces embedded, name and day at the foot of each page."""
    typefaces()
    out = io.BytesIO()
    upright = SIZES[paper]
    page = (upright[1], upright[0]) if wide else upright
    document = SimpleDocTemplate(
        out, pagesize=page, leftMargin=MARGIN - PADDING, rightMargin=MARGIN - PADDING, topMargin=14 * mm,
        bottomMargin=15 * mm, title=title, author=author, subject=foot,
    )  # fmt: skip

    def drawn(canvas: Canvas, _: object) -> None:
        canvas.setFont(PLAIN, 7)
        canvas.setFillColor(SOFT)
        named = p(f"{foot[:60]} \u00b7 {made.isoformat()}", SMALL)
        named.wrapOn(canvas, page[0] - 3 * MARGIN, 9 * mm)
        named.drawOn(canvas, MARGIN, 8 * mm)
        canvas.drawRightString(page[0] - MARGIN, 9 * mm, str(canvas.getPageNumber()))

    document.build(flowables, onFirstPage=drawn, onLaterPages=drawn)
    return out.getvalue()


def top(
    workshop: str, title: str, facts: Sequence[tuple[str, str]], width: float
) -> list[Flowable]:
    """The head of a paper: the workshop, what paper it is, and facts that there are."""
    head = Table(
        [[p(workshop or title, BIG), p(title if workshop else "", RIGHT)]],
        colWidths=[width * 0.7, width * 0.3],
        style=[("VALIGN", (0, 0), (-1, -1), "BOTTOM"), ("LEFTPADDING", (0, 0), (0, 0), 0),
               ("RIGHTPADDING", (-1, 0), (-1, 0), 0),
               ("LINEBELOW", (0, 0), (-1, 0), 1, COPPER)],
    )  # fmt: skip
    rows = [[p(name, SMALL), p(text, BODY)] for name, text in facts if text]
    told = Table(
        rows or [["", ""]], colWidths=[24 * mm, width - 24 * mm],
        style=[("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
               ("TOPPADDING", (0, 0), (-1, -1), 1), ("BOTTOMPADDING", (0, 0), (-1, -1), 1)],
    )  # fmt: skip
    return [head, Spacer(1, 4), told]


def p(text: str, of: ParagraphStyle) -> Paragraph:
    """A paragraph of plain text."""
    return Paragraph(marked(text), of)


def lines(texts: Sequence[str], of: ParagraphStyle = BODY) -> list[Flowable]:
    """A paragraph for each text that there is."""
    return [p(text, of) for text in texts if text]


def table(rows: list[list[Flowable]], widths: list[float], *, head: bool = True) -> Table:
    """A table with a rule under each row; its head stands on every page."""
    made = Table(rows, colWidths=widths, repeatRows=1 if head else 0)
    made.setStyle(
        TableStyle([
            ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ("RIGHTPADDING", (0, 0), (-1, -1), 2), ("TOPPADDING", (0, 0), (-1, -1), 1.2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 1.6),
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, LINE),
        ])
    )  # fmt: skip
    return made
