"""The quote as PDF: what will be done, what it takes and costs, the wire list, what must be checked."""

from reportlab.lib.units import mm
from reportlab.platypus import Flowable, PageBreak

from spare_margin.wording.language.figures import UNKNOWN
from spare_margin.wording.repair.hand_over import STATEMENT
from spare_margin.wording.repair.lists import BUY_HEADS

from .paper import BODY, HEAD, RIGHT, RIGHT_SMALL, SMALL, built, lines, p, table, top, width_of
from .quote import Quote

TITLE = "Quote"
HEADS = {
    "job": "Job", "craft": "Craft", "customer": "Customer", "limits": "Limits used", "prices": "Prices of",
    "done": "What will be done", "buying": "What it takes", "wires": "Wires",
    "typical": "To be checked before work", "cautions": "Cautions",
}  # fmt: skip
WIRE_COLUMNS = ("No.", "From", "To", "Size", "Colour", "Cut", "Terminals", "Fed by")


def quote_pdf(sheet: Quote) -> bytes:
    """A quote as the bytes of a PDF."""
    width = width_of(sheet.paper)
    return built(
        _flowables(sheet, width), sheet.paper, f"{TITLE}: {sheet.title}", sheet.workshop, sheet.title,
        sheet.made,
    )  # fmt: skip


def _flowables(sheet: Quote, width: float) -> list[Flowable]:
    facts = [
        (HEADS["job"], sheet.title), (HEADS["craft"], sheet.craft), (HEADS["customer"], sheet.customer),
        (HEADS["limits"], sheet.limits), (HEADS["prices"], sheet.prices_of),
    ]  # fmt: skip
    out = top(sheet.workshop, TITLE, facts, width)
    out += [p(HEADS["done"], HEAD), *lines(sheet.done)]
    out += [p(HEADS["buying"], HEAD), _buying(sheet, width)]
    total = f"Parts together {sheet.together}; work {sheet.work}."
    if sheet.unpriced:
        total += f" {sheet.unpriced} of these have no price and are not in it."
    out += [p(total, BODY), *lines([sheet.cost, sheet.open])]
    out += [p(HEADS["typical"], HEAD), *lines(sheet.typical, SMALL)]
    out += [p(HEADS["cautions"], HEAD)]
    out += lines([f"{c.when}. {c.says}" for c in sheet.cautions], SMALL)
    out += [p(STATEMENT, SMALL), PageBreak(), p(HEADS["wires"], HEAD), _wires(sheet, width)]
    return out


def _buying(sheet: Quote, width: float) -> Flowable:
    rows: list[list[Flowable]] = [
        [p(BUY_HEADS[0], SMALL), *(p(name, RIGHT_SMALL) for name in BUY_HEADS[1:])]
    ]
    for row in sheet.buying:
        rows.append(
            [p(row.what, BODY), p(row.amount, RIGHT), p(row.each, RIGHT), p(row.price, RIGHT)]
        )
    number = 26 * mm
    return table(rows, [width - 40 * mm - 2 * number, 40 * mm, number, number])


def _wires(sheet: Quote, width: float) -> Flowable:
    rows: list[list[Flowable]] = [[p(name, SMALL) for name in WIRE_COLUMNS]]
    for row in sheet.wires:
        ends = (row.start_terminal, row.end_terminal)
        terminals = " / ".join(each or UNKNOWN for each in ends)
        cells = (
            str(row.number), row.start, row.end, row.size, row.colour, row.cut, terminals, row.fed_by,
        )  # fmt: skip
        rows.append([p(cell, SMALL) for cell in cells])
    shares = (0.05, 0.16, 0.16, 0.12, 0.09, 0.08, 0.2, 0.14)
    return table(rows, [width * share for share in shares])
