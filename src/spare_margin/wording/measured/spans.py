"""How what was measured of a span came about, line by line."""

from collections.abc import Sequence

from spare_margin.core.evidence.verdict.judgement import JudgedSide, JudgedSpan, Judgement
from spare_margin.core.model.conductors import (
    ConductorTable,
    air_around_c,
    seeming_area_mm2,
)
from spare_margin.core.model.jobs import MeterFigure, Quantity, Reading
from spare_margin.core.model.pieces import Conductor, Craft
from spare_margin.wording.craft.pieces import size_name
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.language.figures import amperes, digits, ohms, volts
from spare_margin.wording.language.units import metres

MINUS = "\u2212"
MARKED_SHARE = 0.75
"""A wire that surely has less than this share of the area it is marked with deserves a look."""


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
    if isinstance(piece, Conductor):
        lines += _area_line(piece, judged, found.odds.tables.conductors)
    if judged.loaded_v is not None and judged.loaded_doubt_v is not None:
        lines.append(
            WorkingLine(
                "loaded", "At full-load current",
                f"in {found.worst.name}, by the current there over the current then",
                f"{volts(judged.loaded_v)} \u00b1 {volts(judged.loaded_doubt_v)}",
            )
        )  # fmt: skip
    return lines


def side_lines(side: JudgedSide, found: Judgement) -> list[WorkingLine]:
    """What bounds a side: the readings of the path, added up with their signs, and what they may be off."""
    by_id = {o.reading: o for o in found.observed.each}
    parts, total = [], 0.0
    for bound in side.by:
        o = next((by_id[r] for r in bound.readings[-1:] if r in by_id), None)
        if o is None or o.quantity != "volts":
            continue
        value = o.value if bound.start == o.red else -o.value
        total += value
        parts.append((value, volts(abs(value))))
    if not parts:
        return []
    said = " ".join(f"{'+' if value >= 0 else MINUS} {text}" for value, text in parts)
    low, high = side.low_v, side.high_v
    if low is None or high is None:
        return []
    lines = [
        WorkingLine("measured", "Read", said.removeprefix("+ "), f"{volts(low)} to {volts(high)}")
    ]
    if side.loaded_low_v is not None and side.loaded_high_v is not None:
        lines.append(
            WorkingLine(
                "loaded", "At the full-load current",
                f"in {found.worst.name}, by the current there over the current then",
                f"{volts(side.loaded_low_v)} to {volts(side.loaded_high_v)}",
            )
        )  # fmt: skip
    return lines


def taken_words(by_meter: MeterFigure, quantity: Quantity) -> str:
    """How long a figure stood on a meter, and how still.

    >>> made = MeterFigure(name="Blue", samples=9, seconds=0.96, spread=0.0004, range_to=6.0)
    >>> taken_words(made, "volts").replace("\u00a0", " ")
    '9 figures in 0.96 s, 0.4 mV from the least to the most, range 6 V'
    """
    unit = "A" if quantity == "amperes" else "V"
    spread = f"{digits(by_meter.spread * 1000, 2)}\u00a0m{unit}"
    said = f"{by_meter.samples} figures in {digits(by_meter.seconds, 2)}\u00a0s"
    said += f", {spread} from the least to the most"
    end = by_meter.range_to
    return said if end is None else f"{said}, range {digits(end, 4)}\u00a0{unit}"


def reading_lines(reading: Reading) -> list[WorkingLine]:
    """Where a reading comes from, where that is more than a display: a meter's log, a note."""
    window, by_meter = reading.window, reading.by_meter
    lines = []
    if by_meter is not None:
        taken = taken_words(by_meter, reading.quantity)
        lines.append(
            WorkingLine("measured", "Taken from the meter", taken, reading.typed, by_meter.name)
        )
        if (beside := by_meter.source) is not None:
            doubt = f"within {volts(beside.accuracy)}" if beside.accuracy else ""
            lines.append(
                WorkingLine("measured", "The source, meanwhile", doubt, beside.typed, beside.name)
            )
    if window is not None:
        stretch = f"{digits(window.start_s, 4)} to {digits(window.end_s, 4)} s"
        lines.append(
            WorkingLine(
                "measured",
                "From a log",
                f"{window.figure} of {stretch}",
                reading.typed,
                reading.note,
            )
        )
    elif reading.note:
        lines.append(WorkingLine("measured", "Note", reading.note, reading.typed))
    return lines


def corrected_lines(was: Sequence[Reading]) -> list[WorkingLine]:
    """What stood in the place of a reading, and was typed wrong."""
    return [
        WorkingLine("measured", "Typed wrong", "corrected since; kept in the record", r.typed)
        for r in was
        if r.typed
    ]


def _area_line(wire: Conductor, judged: JudgedSpan, table: ConductorTable) -> list[WorkingLine]:
    """The copper area that a wire seems to have, against its marking, and what a thin one may mean."""
    scenario = judged.span.conditions.scenario
    area, most = (
        None if not ohm else seeming_area_mm2(wire, ohm, air_around_c(wire, scenario), table)
        for ohm in (judged.ohm, judged.ohm_low)
    )
    if area is None:
        return []
    row = table.rows.get(wire.size) if wire.size is not None else None
    thin = row is not None and most is not None and most < MARKED_SHARE * row.area_mm2
    marked = f", marked {size_name(wire.size)}" if wire.size else ""
    source = (
        "well below its marking: broken strands, a longer wire than drawn, or copper-clad aluminium"
    )
    what = f"copper {metres(wire.length_m, '.3g')} long{marked}"
    return [
        WorkingLine(
            "measured", "Seems", what, f"{digits(area, 2)} mm\u00b2", source if thin else ""
        )
    ]
