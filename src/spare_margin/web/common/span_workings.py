"""How what was measured of a span came about, line by line."""

from spare_margin.core.evidence.judgement import JudgedSpan, Judgement
from spare_margin.core.model.pieces import Conductor, Craft
from spare_margin.wording.figures import amperes, digits, ohms, volts
from spare_margin.wording.pieces import size_name
from spare_margin.wording.workings import WorkingLine

COPPER_OHM_MM2_PER_M = 0.017241 * 1.02
"""Resistivity of stranded copper, lay included, at 20 C."""
MARKED_SHARE = 0.75
"""A wire that seems to have less than this share of the area it is marked with deserves a look."""


def span_lines(judged: JudgedSpan, found: Judgement, craft: Craft) -> list[WorkingLine]:
    """V / I of a span with its doubt, the area a wire seems to have, and the drop at the loaded current."""
    if judged.ohm is None or judged.ohm_low is None or judged.ohm_high is None:
        return []
    half = (judged.ohm_high - judged.ohm_low) / 2
    amps = abs(judged.volts / judged.ohm) if judged.ohm else 0.0
    lines = [
        WorkingLine(
            "measured", "Measured", f"{volts(judged.volts)} \u00f7 {amperes(amps)}",
            f"{ohms(judged.ohm)} \u00b1 {ohms(half)}",
        )
    ]  # fmt: skip
    piece = next((p for p in craft.pieces if (p.id,) == judged.span.pieces), None)
    if isinstance(piece, Conductor) and piece.length_m and judged.ohm > 0:
        area = COPPER_OHM_MM2_PER_M * piece.length_m / judged.ohm
        marked = f" marked {size_name(piece.size)}" if piece.size else ""
        lines.append(
            WorkingLine(
                "measured", "Seems", f"copper of this length{marked}", f"{digits(area, 2)} mm\u00b2",
                "far below the marking: broken strands, a wrong length, or copper-clad aluminium",
            )
        )  # fmt: skip
    if judged.loaded_v is not None and judged.loaded_doubt_v is not None:
        lines.append(
            WorkingLine(
                "loaded", "At the loaded current",
                f"in {found.worst.name}, the craft as measured solved again",
                f"{volts(judged.loaded_v)} \u00b1 {volts(judged.loaded_doubt_v)}",
            )
        )  # fmt: skip
    return lines
