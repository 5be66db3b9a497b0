"""The hand-over sheet as PDF: what was wrong, what was done, before and after, who signed."""

import io
from itertools import zip_longest
from typing import Any

from reportlab.graphics.shapes import Drawing, PolyLine
from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import (
    Flowable,
    Image,
    KeepTogether,
    Paragraph,
    Spacer,
    Table,
    TableStyle,
)

from spare_margin.core.model.jobs import SignOff
from spare_margin.wording.language.figures import UNKNOWN, Figure
from spare_margin.wording.measured.verdicts import VERDICT_WORDS
from spare_margin.wording.records.photographs import STAGES
from spare_margin.wording.repair.hand_over import (
    ASIDE,
    CALCULATED,
    CHART,
    HEADS,
    NOT_READ,
    NOTHING_DONE,
    NOTHING_LEFT,
    NOTHING_READ,
    PIECE_HEADS,
    READING_HEADS,
    ROLES,
    STATEMENT,
    TITLE,
    WORKED_OUT,
)

from .paper import (
    BODY,
    HEAD,
    RIGHT,
    RIGHT_SMALL,
    SMALL,
    built,
    lines,
    p,
    table,
    top,
    width_of,
)
from .paper import style as paper_style
from .sheet import HandOver, OnSheet
from .spend_chart import INK, SLATE, SOFT, spend_chart
from .typefaces import BOLD, marked, typefaces

OVER, OCHRE = HexColor("#a11650"), HexColor("#7a5600")
INKS = {"passed": SLATE, "failed": OVER, "open": OCHRE}
SIGNS = {True: "\u2713", False: "\u25b2", None: "\u25cb"}
ALIKE = {True: "=", False: "\u2260", None: "\u00b7"}
PICTURE_HEIGHT = 66 * mm
SIGN_WIDTH, SIGN_HEIGHT = 52 * mm, 19 * mm


def hand_over_pdf(sheet: HandOver) -> bytes:
    """The sheet as the bytes of a PDF, its typefaces embedded."""
    typefaces()
    name = sheet.proof.name
    flowables = _Sheet(sheet, width_of(sheet.paper)).flowables()
    return built(flowables, sheet.paper, f"{TITLE}: {name}", sheet.workshop, name, sheet.made)


class _Sheet:
    """Sets one sheet; `width` is what a line may take (points)."""

    def __init__(self, sheet: HandOver, width: float) -> None:
        self.sheet, self.proof, self.width = sheet, sheet.proof, width

    def flowables(self) -> list[Flowable]:
        """The sheet from top to bottom."""
        return [
            *self._top(), *self._outcome(), *self._readings(), *self._done(), *self._needs(),
            *self._wiring(), *self._photographs(), *self._cautions(), self._signatures(),
        ]  # fmt: skip

    def _top(self) -> list[Flowable]:
        sheet = self.sheet
        facts = [
            (HEADS["job"], sheet.title), (HEADS["craft"], sheet.craft), (HEADS["customer"], sheet.customer),
            (HEADS["complaint"], sheet.complaint), (HEADS["limits"], sheet.limits),
        ]  # fmt: skip
        return top(sheet.workshop, TITLE, facts, self.width)

    def _outcome(self) -> list[Flowable]:
        proof = self.proof
        style = paper_style(
            "outcome", 12.5, fontName=BOLD, textColor=INKS[proof.outcome], spaceBefore=6
        )
        sign = {"passed": SIGNS[True], "failed": SIGNS[False], "open": SIGNS[None]}[proof.outcome]
        out: list[Flowable] = [p(f"{sign} {proof.name}: {proof.outcome_says}", style)]
        if proof.won:
            out.append(p(proof.won, BODY))
        if not proof.started:
            out.append(p(NOTHING_READ, BODY))
        elif proof.pieces:
            out += [Spacer(1, 5), spend_chart(proof, self.width), p(CHART, SMALL)]
        return out

    def _readings(self) -> list[Flowable]:
        rows: list[list[Flowable]] = [
            [p(READING_HEADS[0], SMALL), *(p(name, RIGHT_SMALL) for name in READING_HEADS[1:])]
        ]
        for r in self.proof.readings:
            rows.append([
                Paragraph(
                    f"{marked(r.what, 160)}<br/><font size=7 color='#5b5f5e'>{marked(r.red, 90)}"
                    f" \u2192 {marked(r.black, 90)}{_taken(r.taken)}</font>",
                    BODY,
                ),
                _figure(r.before, VERDICT_WORDS.get(r.before_verdict, "")), _figure(r.expected),
                _figure(r.after, VERDICT_WORDS.get(r.after_verdict, "")), _figure(r.allowed),
            ])  # fmt: skip
        number = 23 * mm
        out = [
            p(HEADS["readings"], HEAD),
            table(rows, [self.width - 4 * number, *[number] * 4]),
        ]
        if any("worked_out" in (r.before_known, r.after_known) for r in self.proof.readings):
            out.append(p(NOT_READ, SMALL))
        return out

    def _done(self) -> list[Flowable]:
        proof = self.proof
        left = [f"{x.what}: {x.why}" for x in proof.left_out]
        left += [proof.left_undone] if proof.left_undone else []
        out: list[Flowable] = [p(HEADS["done"], HEAD), *lines(proof.done or (NOTHING_DONE,))]
        if self.sheet.parts:
            out += [p(HEADS["parts"], HEAD), *lines(self.sheet.parts)]
        out += [p(HEADS["left"], HEAD), *lines(left or (NOTHING_LEFT,))]
        if len(proof.tries) > 1:
            out.append(p(HEADS["history"], HEAD))
            out += lines([
                f"{t.made_at[:10]}: {'; '.join(t.changed)}. {VERDICT_WORDS.get(t.verdict, '')}. {t.says}"
                for t in proof.tries
            ])  # fmt: skip
        return out

    def _needs(self) -> list[Flowable]:
        rows: list[list[Flowable]] = [
            [p(SIGNS[c.holds], BODY), p(f"{c.head}. {c.says} {c.cure}", BODY)]
            for c in self.proof.conditions
        ]
        out: list[Flowable] = [
            p(HEADS["needs"], HEAD), table(rows, [7 * mm, self.width - 7 * mm], head=False),
        ]  # fmt: skip
        if self.proof.likenesses:
            rows = [
                [p(ALIKE[x.alike], BODY), p(f"{x.head}. {x.says} {x.effect}", BODY)]
                for x in self.proof.likenesses
            ]
            alike = table(rows, [7 * mm, self.width - 7 * mm], head=False)
            out.append(KeepTogether([p(HEADS["alike"], HEAD), alike]))
        if self.proof.surfaces:
            out.append(p(HEADS["surfaces"], HEAD))
            out += lines([
                f"{s.where}: {s.before or UNKNOWN} \u2192 {s.after or UNKNOWN}"
                for s in self.proof.surfaces
            ])  # fmt: skip
        return out

    def _wiring(self) -> list[Flowable]:
        if not self.proof.pieces:
            return []
        rows: list[list[Flowable]] = [
            [p(PIECE_HEADS[0], SMALL), p(PIECE_HEADS[1], SMALL),
             *(p(name, RIGHT_SMALL) for name in PIECE_HEADS[2:])]
        ]  # fmt: skip
        for each in self.proof.pieces:
            name = f"<b>{marked(each.name, 120)}</b>" if each.worked_on else marked(each.name, 120)
            rows.append([
                Paragraph(name, BODY), p(self.sheet.pieces.get(each.id, ""), SMALL),
                _figure(each.before_v),
                _figure(
                    each.after_v if self.proof.started else None,
                    CALCULATED if each.known == "predicted" else "",
                ),
            ])  # fmt: skip
        number, spec = 20 * mm, 52 * mm
        return [
            p(HEADS["wiring"], HEAD),
            table(rows, [self.width - spec - 2 * number, spec, number, number]),
            p(WORKED_OUT, SMALL),
        ]

    def _photographs(self) -> list[Flowable]:
        """Before on the left, after on the right, of one thing after the other."""
        out: list[Flowable] = []
        half = self.width / 2
        for each in self.sheet.photographs:
            rows: list[list[Any]] = [[p(STAGES["as_found"], SMALL), p(STAGES["as_left"], SMALL)]]
            rows += [
                [_photograph(x, half), _photograph(y, half)]
                for x, y in zip_longest(each.before, each.after)
            ]
            style = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]
            pair = Table(rows, colWidths=[half, half], style=style, splitByRow=1)
            head = p(HEADS["photographs"], HEAD) if not out else Spacer(1, 4)
            out += [KeepTogether([head, p(each.shows, BODY), pair])]
        return out

    def _cautions(self) -> list[Flowable]:
        return [
            p(HEADS["cautions"], HEAD),
            *lines([f"{each.when}. {each.says}" for each in self.sheet.cautions], SMALL),
            Spacer(1, 3),
            p(STATEMENT, SMALL),
        ]

    def _signatures(self) -> Flowable:
        """Both in two columns: signed ones as drawn, and room for a pen where nobody signed yet."""
        half = self.width / 2
        columns = []
        for role, title in ROLES.items():
            own = [s for s in self.proof.signed if s.role == role][-2:]
            cell: list[Flowable] = [p(title, SMALL)]
            for signed in own:
                cell += _signed(signed)
            if not own:
                cell += [Spacer(1, SIGN_HEIGHT), _rule(half * 0.8), p("name, date", SMALL)]
            columns.append(cell)
        both = Table([columns], colWidths=[half, half])
        both.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"),
                                   ("LEFTPADDING", (0, 0), (-1, -1), 0)]))  # fmt: skip
        return KeepTogether([p(HEADS["signed"], HEAD), both])


def _photograph(shown: OnSheet | None, width: float) -> list[Flowable]:
    """A photograph in the width of its column (points), upright ones no higher than that."""
    if shown is None:
        return []
    size = ImageReader(io.BytesIO(shown.picture)).getSize()
    scale = min((width - 3 * mm) / size[0], PICTURE_HEIGHT / size[1])
    picture = Image(io.BytesIO(shown.picture), size[0] * scale, size[1] * scale, hAlign="LEFT")
    return [picture, p(shown.note, SMALL)] if shown.note else [picture]


def _signed(signed: SignOff) -> list[Flowable]:
    drawing = Drawing(SIGN_WIDTH, SIGN_HEIGHT)
    for line in signed.strokes:
        points = [v for x, y in line for v in (x * SIGN_WIDTH, SIGN_HEIGHT - y * SIGN_WIDTH)]
        if len(points) >= 4:
            drawing.add(PolyLine(points, strokeColor=INK, strokeWidth=0.9, strokeLineCap=1))
    said = f"{signed.name}, {signed.made_at[:10]} ({ASIDE[signed.outcome]})"
    return [drawing, _rule(SIGN_WIDTH), p(said, BODY)]


def _rule(width: float) -> Flowable:
    return Table([[""]], colWidths=[width], rowHeights=[1], hAlign="LEFT",
                 style=[("LINEABOVE", (0, 0), (-1, 0), 0.5, SOFT)])  # fmt: skip


def _taken(said: str) -> str:
    """From which meters a line's figures came by themselves, on a line of its own."""
    return f"<br/>{marked(said, 300)}" if said else ""


def _figure(shown: Figure | None, verdict: str = "") -> Flowable:
    text = marked(str(shown)) if shown is not None else UNKNOWN
    if verdict and shown is not None:
        text += f"<br/><font size=6.5 color='#5b5f5e'>{marked(verdict)}</font>"
    return Paragraph(text, RIGHT)
