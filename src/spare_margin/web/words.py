"""Numbers and pieces in the trade's words, for specs, workings and verdicts."""

from spare_margin.core.budget import Allowance, PieceBudget, RunBudget
from spare_margin.core.conductors import COPPER_ALPHA_PER_K
from spare_margin.core.fixed_pieces import expected
from spare_margin.core.limits import Limits
from spare_margin.core.network import ElementState
from spare_margin.core.pieces import (
    KIND_NAMES,
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Size,
    called,
    kind_of,
)
from spare_margin.core.readings import Verdict
from spare_margin.core.tables import Tables

from .models import Line

VERDICTS: dict[Verdict, str] = {
    "within": "within",
    "over": "over",
    "too_close": "too close to call",
    "not_loaded": "not loaded",
    "not_measured": "not measured",
}


def volts(value: float) -> str:
    """Volts to the millivolt below 2 V, to the hundredth above."""
    return f"{value:.3f} V" if abs(value) < 2 else f"{value:.2f} V"


def ohms(value: float) -> str:
    """Ohms with three digits, as milliohms below 1."""
    return f"{value:.3g} \u03a9" if value >= 1 else f"{value * 1000:.3g} m\u03a9"


def amperes(value: float) -> str:
    """Amperes with three digits."""
    return f"{value:.3g} A"


def size_name(size: Size) -> str:
    """A size as people say it: `16 mm\u00b2`, `10 AWG`."""
    if size.system == "awg":
        return f"{size.value}\u00a0AWG"
    return f"{size.value}\u00a0mm\u00b2" + ("\u00a0road" if size.system == "mm2-road" else "")


def spec(piece: Conductor | FixedPiece) -> str:
    """The piece's figures in one short line."""
    if isinstance(piece, Conductor):
        parts = [size_name(piece.size) if piece.size else None]
        if piece.size is None and piece.ohm_per_m is not None:
            parts = [f"{piece.ohm_per_m * 1000:.3g} m\u03a9/m"]
        parts.append(f"{piece.length_m:g}\u00a0m" if piece.length_m else None)
        if piece.resistance_ohm is not None:
            parts.append(ohms(piece.resistance_ohm))
        return " \u00b7 ".join(p for p in parts if p)
    if piece.kind in ("fuse", "breaker"):
        rating = f"{piece.rating_a:g}\u00a0A" if piece.rating_a else ""
        style = piece.style if piece.style or piece.kind == "breaker" else "blade"
        return " ".join(p for p in (style, rating) if p) or ohms(piece.resistance_ohm or 0)
    if piece.open:
        return "open"
    if piece.style:
        return piece.style
    return (
        ohms(piece.resistance_ohm)
        if piece.resistance_ohm is not None
        else KIND_NAMES[piece.kind].lower()
    )


def load_spec(load: Load) -> str:
    """What the load draws, and how."""
    rated = f" at {load.rated_v:g} V" if load.rated_v else ""
    power = f"{load.power_w:g} W{rated}" if load.power_w else ""
    if load.load_ohm is not None:
        first = ohms(load.load_ohm)
    elif load.behaviour == "constant_current":
        first = amperes(load.current_a or 0)
    elif load.behaviour == "constant_power":
        first = f"{power}, holds its power"
    elif load.behaviour == "filament":
        first = f"{power}, filament"
    else:
        first = f"{power}, resistor"
    return first + (f" \u00b7 starts \u00d7{load.start_multiple:g}" if load.start_multiple else "")


def allowance_why(
    allowance: Allowance, piece: Conductor | FixedPiece, limits: Limits, craft: Craft
) -> str:
    """How an allowance came about, in a line."""
    name = limits.limit_set.name
    match allowance.rule:
        case "aged":
            return "its resistance when aged but still good, at the loaded current"
        case "ceiling":
            ceiling = limits.single_ceiling_v(kind_of(piece), craft.nominal_v) or 0.0
            return f"the ceiling for a single piece, {volts(ceiling)} ({name})"
        case "copper":
            return (
                "its share of what joints and fuses leave to copper, by length \u00d7 \u221acurrent"
            )
        case "squeezed":
            return "joints and fuses alone exceed the ceiling: each is cut back in proportion"
        case "purpose":
            return "fitted on purpose to drop volts: never a fault, outside the ceiling"
    return "length unknown: taken as it is drawn"


def piece_working(
    budget: PieceBudget,
    state: ElementState,
    craft: Craft,
    ruled_by: str,
    limits: Limits,
    tables: Tables,
) -> list[Line]:
    """How this piece's resistance, drop, allowance and spare came about."""
    piece, amps = budget.step.piece, abs(budget.current_a)
    lines = []
    if state.resistance_ohm is not None:
        lines.append(_resistance_line(piece, state, tables))
        lines.append(
            Line(
                label="Predicted",
                result=volts(budget.drop_v),
                source="",
                formula=f"{ohms(state.resistance_ohm)} \u00d7 {amperes(amps)}",
            )
        )
    why = allowance_why(budget.allowance, piece, limits, craft)
    lines.append(_allowance_line(budget, why, ruled_by, tables))
    lines.append(
        Line(
            label="Spare",
            result=volts(budget.spare_v),
            source="",
            formula=f"{volts(budget.allowance.volts)} \u2212 {volts(budget.drop_v)}",
        )
    )
    if state.power_w >= 0.01:
        lines.append(
            Line(
                label="Heat",
                formula=f"{amperes(amps)} \u00d7 {volts(budget.drop_v)}",
                result=f"{state.power_w:.2f} W",
                source="",
            )
        )
    return lines


def _resistance_line(piece: Conductor | FixedPiece, state: ElementState, tables: Tables) -> Line:
    assert state.resistance_ohm is not None
    result = ohms(state.resistance_ohm)
    if piece.resistance_ohm is not None:
        return Line(label="Resistance", formula="as given for this piece", result=result, source="")
    if isinstance(piece, Conductor):
        row = tables.conductors.rows.get(piece.size) if piece.size else None
        per_m = piece.ohm_per_m if piece.ohm_per_m is not None else (row.ohm_per_m if row else 0.0)
        warm = f"(1 + {COPPER_ALPHA_PER_K} \u00d7 ({state.temperature_c:.0f} \u2212 20))"
        formula = f"{per_m * 1000:.4g} m\u03a9/m \u00d7 {piece.length_m:g} m \u00d7 {warm}"
        return Line(
            label="Resistance", formula=formula, result=result, source=row.source if row else ""
        )
    basis = expected(piece, tables.fixed).basis
    return Line(label="Resistance", formula="starting value", result=result, source=basis)


def _allowance_line(budget: PieceBudget, why: str, ruled_by: str, tables: Tables) -> Line:
    piece = budget.step.piece
    formula = why
    if budget.allowance.rule == "aged" and isinstance(piece, FixedPiece):
        aged = expected(piece, tables.fixed).aged_ohm
        formula = f"aged limit {ohms(aged)} \u00d7 {amperes(abs(budget.current_a))}"
    return Line(
        label="Allowance",
        formula=formula,
        result=volts(budget.allowance.volts),
        source=f"set by {ruled_by}, the tightest run through it" if ruled_by else "",
    )


def run_working(budget: RunBudget, limits: Limits) -> list[Line]:
    """How the run's own figures came about."""
    lines = [
        Line(
            label="At the load",
            result=volts(budget.load_v),
            source="",
            formula=f"{volts(budget.source_v)} \u2212 {volts(budget.feed.drop_v + budget.feed.purpose_v)}"
            f" feed \u2212 {volts(budget.back.drop_v + budget.back.purpose_v)} return",
        )
    ]
    for side in budget.sides:
        if side.ceiling_v is not None and side.spare_v is not None:
            lines.append(
                Line(
                    label=f"Spare, {side.side}",
                    result=volts(side.spare_v),
                    formula=f"{volts(side.ceiling_v)} ceiling \u2212 {volts(side.drop_v)} predicted",
                    source=f"{limits.limit_set.name}: {limits.limit_set.why}",
                )
            )
    if budget.round_trip_spare_v is not None:
        lines.append(
            Line(
                label="Spare, round trip",
                result=volts(budget.round_trip_spare_v),
                source="",
                formula=f"{volts(budget.ceilings.round_trip_v or 0)} ceiling \u2212 "
                f"{volts(budget.feed.drop_v + budget.back.drop_v)} predicted",
            )
        )
    return lines


def differences(old: Craft, new: Craft) -> list[str]:
    """What stands otherwise in `new`, a line for each element."""
    before = {e.id: e for e in (*old.pieces, *old.loads)}
    out = []
    for piece in new.pieces:
        was = before.pop(piece.id, None)
        if was is None:
            out.append(f"{called(piece)}: new")
        elif was != piece:
            out.append(f"{called(piece)}: {how_changed(was, piece)}")
    for load in new.loads:
        was = before.pop(load.id, None)
        if was != load:
            out.append(f"{load.name}: {load_spec(load)}")
    return out + [
        f"{called(gone) if not isinstance(gone, Load) else gone.name}: taken out"
        for gone in before.values()
    ]


def how_changed(was: object, piece: Conductor | FixedPiece) -> str:
    """What a change did to a piece, in a few words."""
    if isinstance(was, Conductor | FixedPiece) and spec(was) != spec(piece):
        return f"{spec(was)} \u2192 {spec(piece)}" + (f", {piece.repair}" if piece.repair else "")
    return piece.repair or "changed"
