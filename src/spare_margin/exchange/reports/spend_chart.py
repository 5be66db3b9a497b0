"""The spend chart on paper: volts spent piece by piece, before and after, under their ceilings."""

from collections.abc import Sequence
from typing import Literal

from reportlab.graphics.shapes import Drawing, Line, Polygon, PolyLine, String
from reportlab.lib.colors import Color, HexColor

from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.repair.proof_lines import PieceLine, ProofSheet

from .typefaces import PLAIN

INK, SOFT = HexColor("#1c2327"), HexColor("#5b5f5e")
COPPER, COPPER_FILL, SLATE = HexColor("#9d5122"), HexColor("#e3c3a9"), HexColor("#22597a")
PLATE, FOOT = 54.0, 14.0


def spend_chart(sheet: ProofSheet, width: float, height: float = 110.0) -> Drawing:
    """The chart as a vector drawing, `width` by `height` in points."""
    drawing = Drawing(width, height)
    sides = [
        (side, [p for p in sheet.pieces if p.side == side],
         next((b for b in sheet.bars if b.side == side_word(side)), None))
        for side in ("feed", "return")
    ]  # fmt: skip
    tallest = [1e-6]
    for _, pieces, bar in sides:
        tallest += [_sum(pieces, before=True), _sum(pieces, before=False)]
        if bar is not None and bar.ceiling_v is not None:
            tallest.append(bar.ceiling_v.si)
    high = (height - FOOT - 6) / max(tallest)
    step = (width - PLATE) / max(len(sheet.pieces), 1)
    x = 0.0
    for side, pieces, bar in sides:
        end = x + step * len(pieces)
        if pieces:
            after = _climb(pieces, x, step, high, before=False)
            drawing.add(
                Polygon([x, FOOT, *after, end, FOOT], fillColor=COPPER_FILL, strokeColor=None)
            )
            drawing.add(PolyLine(after, strokeColor=COPPER, strokeWidth=1.5))
            if any(p.before_v is not None for p in pieces):
                before = _climb(pieces, x, step, high, before=True)
                drawing.add(
                    PolyLine(before, strokeColor=INK, strokeWidth=1, strokeDashArray=(3, 2))
                )
            if bar is not None and bar.ceiling_v is not None:
                at = FOOT + bar.ceiling_v.si * high
                drawing.add(Line(x, at, end, at, strokeColor=SLATE, strokeWidth=1.5))
            drawing.add(Line(x, FOOT, end, FOOT, strokeColor=SOFT, strokeWidth=0.5))
            drawing.add(_word(x + 1, side_word(side), SOFT))
            if bar is not None:
                was = f"{bar.before_v.brief} \u2192 " if bar.before_v else ""
                drawing.add(_word(end - 1, f"{was}{bar.after_v.brief} V", INK, "end"))
        x = end
        if side == "feed":
            left, right, top = x + 4, x + PLATE - 4, height - 6
            corners = [left, FOOT, right, FOOT, right, top, left, top]
            drawing.add(Polygon(corners, fillColor=None, strokeColor=SOFT, strokeWidth=0.5))
            drawing.add(_word(x + PLATE / 2, "load", SOFT, "middle", height / 2))
            x += PLATE
    return drawing


def _sum(pieces: Sequence[PieceLine], *, before: bool) -> float:
    return sum(_volts(p, before=before) for p in pieces)


def _volts(piece: PieceLine, *, before: bool) -> float:
    figure = piece.before_v if before else piece.after_v
    return figure.si if figure is not None else 0.0


def _climb(
    pieces: Sequence[PieceLine], x: float, step: float, high: float, *, before: bool
) -> list[float]:
    """Points of the climbing line: x, y, x, y ..."""
    out, spent = [x, FOOT], 0.0
    for i, piece in enumerate(pieces):
        spent += _volts(piece, before=before)
        out += [x + (i + 1) * step, FOOT + spent * high]
    return out


def _word(
    x: float,
    text: str,
    ink: Color,
    anchor: Literal["start", "middle", "end"] = "start",
    y: float = 3.0,
) -> String:
    return String(x, y, text, fontName=PLAIN, fontSize=8, fillColor=ink, textAnchor=anchor)
