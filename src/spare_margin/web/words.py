"""Numbers and pieces in the trade's words, for specs, workings and verdicts."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.allowances import Allowance
from spare_margin.core.budget import PieceBudget, RunBudget
from spare_margin.core.conductors import COPPER_ALPHA_PER_K
from spare_margin.core.errors import NoSolution
from spare_margin.core.fixed_pieces import expected
from spare_margin.core.headroom import Headroom
from spare_margin.core.limits import Limits
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
from spare_margin.core.solution import ElementState
from spare_margin.core.tables import Tables
from spare_margin.exchange.units import figure, in_use, metres

from .models import Line

VERDICTS: dict[Verdict, str] = {
    "within": "within",
    "over": "over",
    "too_close": "too close to call",
    "not_loaded": "not loaded",
    "not_measured": "not measured",
}


def volts(value: float) -> str:
    """Volts to the millivolt below 2 V, to the hundredth above; millivolts where they are set."""
    if in_use().volts == "mV" and abs(value) < 1:
        return signed(f"{value * 1000:.0f}") + " mV"
    return signed(figure(f"{value:.3f}" if abs(value) < 2 else f"{value:.2f}")) + " V"


def signed(shown: str) -> str:
    """A figure with a minus sign as it is set in print."""
    return shown.replace("-", "\u2212")


def ohms(value: float) -> str:
    """Ohms with three digits, as milliohms below 1."""
    if value >= 1:
        return figure(f"{value:.3g}") + " \u03a9"
    return figure(f"{value * 1000:.3g}") + " m\u03a9"


def amperes(value: float) -> str:
    """Amperes with three digits."""
    return signed(figure(f"{value:.3g}")) + " A"


def size_name(size: Size) -> str:
    """A size as people say it: `16 mm\u00b2`, `10 AWG`."""
    if size.system == "awg":
        return f"{size.value}\u00a0AWG"
    return f"{figure(size.value)}\u00a0mm\u00b2" + (
        "\u00a0road" if size.system == "mm2-road" else ""
    )


def spec(piece: Conductor | FixedPiece) -> str:
    """The piece's figures in one short line."""
    if isinstance(piece, Conductor):
        parts = [size_name(piece.size) if piece.size else None]
        if piece.size is None and piece.ohm_per_m is not None:
            parts = [f"{piece.ohm_per_m * 1000:.3g} m\u03a9/m"]
        parts.append(metres(piece.length_m) if piece.length_m else None)
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
        case "pinned":
            return "pinned by hand; the rest of the side is shared out around it"
    return "length unknown: taken as it is drawn"


def line(about: str, label: str, formula: str, result: str, source: str = "") -> Line:
    """One line of a working; `about` says which number on screen it is the working of."""
    return Line(about=about, label=label, formula=formula, result=result, source=source)


def share(part: float, whole: float | None) -> str:
    """A part as per cent of the whole: ` · 34 %`; nothing where there is no whole."""
    return signed(f" \u00b7 {part / whole * 100:.0f} %") if whole else ""


@dataclass(frozen=True, slots=True)
class PieceView:
    """What the working of one piece rests on; `drawn` is what each load draws through it (A)."""

    budget: PieceBudget
    state: ElementState
    drawn: Mapping[str, float]
    ruled_by: str


def piece_working(view: PieceView, craft: Craft, limits: Limits, tables: Tables) -> list[Line]:
    """How this piece's current, resistance, drop, allowance and spare came about."""
    budget, state = view.budget, view.state
    piece, amps = budget.step.piece, abs(budget.current_a)
    lines = [line("current", "Current", _current_formula(view), amperes(amps))]
    if state.resistance_ohm is not None:
        lines.append(_resistance_line(piece, state, tables))
        formula = f"{ohms(state.resistance_ohm)} \u00d7 {amperes(amps)}"
        lines.append(line("predicted", "Predicted", formula, volts(budget.drop_v)))
    why = allowance_why(budget.allowance, piece, limits, craft)
    lines.append(_allowance_line(view, why, limits, tables))
    spare = volts(budget.spare_v) + share(budget.spare_v, budget.allowance.volts)
    formula = f"{volts(budget.allowance.volts)} \u2212 {volts(budget.drop_v)}"
    lines.append(line("spare", "Spare", formula, spare))
    if state.power_w >= 0.01:
        formula = f"{amperes(amps)} \u00d7 {volts(budget.drop_v)}"
        lines.append(line("heat", "Heat", formula, figure(f"{state.power_w:.2f}") + " W"))
    return lines


def _current_formula(view: PieceView) -> str:
    if view.budget.step.group is not None:
        return "its part of what the ways side by side carry, by their resistance"
    return drawn_sum(view.drawn) or "nothing on this way is on"


MOST_NAMED = 6


def drawn_sum(drawn: Mapping[str, float]) -> str:
    """What loads draw together (A by name), the largest named; empty where nothing is on."""
    on = {name: amps for name, amps in drawn.items() if amps}
    named = list(on)
    if len(on) > MOST_NAMED:
        named = sorted(on, key=lambda name: -on[name])[: MOST_NAMED - 1]
    parts = [f"{amperes(on[name])} {name}" for name in named]
    if len(named) < len(on):
        rest = sum(amps for name, amps in on.items() if name not in named)
        parts.append(f"{amperes(rest)} of {len(on) - len(named)} more")
    return " + ".join(parts)


def _resistance_line(piece: Conductor | FixedPiece, state: ElementState, tables: Tables) -> Line:
    assert state.resistance_ohm is not None
    result = ohms(state.resistance_ohm)
    if piece.resistance_ohm is not None:
        return line("resistance", "Resistance", "as given for this piece", result)
    if isinstance(piece, Conductor):
        row = tables.conductors.rows.get(piece.size) if piece.size else None
        per_m = piece.ohm_per_m if piece.ohm_per_m is not None else (row.ohm_per_m if row else 0.0)
        rise = f"({figure(f'{state.temperature_c:.0f}')} \u2212 20)"
        warm = f"(1 + {figure(str(COPPER_ALPHA_PER_K))} \u00d7 {rise})"
        per_metre = figure(f"{per_m * 1000:.4g}")
        length = figure(f"{piece.length_m:g}")
        formula = f"{per_metre} m\u03a9/m \u00d7 {length} m \u00d7 {warm}, in \u00b0C"
        said = f"{size_name(piece.size)}: {row.source}" if row and piece.size else ""
        return line("resistance", "Resistance", formula, result, said)
    basis = expected(piece, tables.fixed).basis
    return line("resistance", "Resistance", "starting value", result, basis)


def _allowance_line(view: PieceView, why: str, limits: Limits, tables: Tables) -> Line:
    budget = view.budget
    piece = budget.step.piece
    formula = why
    if budget.allowance.rule == "aged" and isinstance(piece, FixedPiece):
        aged = expected(piece, tables.fixed).aged_ohm
        formula = f"aged limit {ohms(aged)} \u00d7 {amperes(abs(budget.current_a))}"
    school = f"{limits.limit_set.name}: {limits.limit_set.why}"
    tightest = f"set by {view.ruled_by}, the tightest run through it" if view.ruled_by else ""
    said = "; ".join(filter(None, (tightest, school)))
    return line("allowance", "Allowance", formula, volts(budget.allowance.volts), said)


def run_working(budget: RunBudget, room: Headroom, limits: Limits) -> list[Line]:
    """How the run's own figures came about."""
    school = f"{limits.limit_set.name}: {limits.limit_set.why}"
    feed = budget.feed.drop_v + budget.feed.purpose_v
    back = budget.back.drop_v + budget.back.purpose_v
    lines = [
        line(
            "load_v", "At the load",
            f"{volts(budget.source_v)} \u2212 {volts(feed)} feed \u2212 {volts(back)} {back_word()}",
            volts(budget.load_v),
        )
    ]  # fmt: skip
    for side in budget.sides:
        if side.ceiling_v is not None and side.spare_v is not None:
            lines.append(
                line(
                    side.side, f"Spare, {side_word(side.side)}",
                    f"{volts(side.ceiling_v)} ceiling \u2212 {volts(side.drop_v)} predicted",
                    volts(side.spare_v) + share(side.spare_v, side.ceiling_v), school,
                )
            )  # fmt: skip
    both, ceiling = budget.spares().get("round trip"), budget.ceilings.round_trip_v
    if both is not None and ceiling is not None:
        spent = budget.feed.drop_v + budget.back.drop_v
        lines.append(
            line(
                "round trip", "Spare, round trip",
                f"{volts(ceiling)} ceiling \u2212 {volts(spent)} predicted",
                volts(both) + share(both, ceiling), school,
            )
        )  # fmt: skip
    if room.amperes is not None:
        lines.append(
            line(
                "amperes", "More amperes",
                f"drawn by {budget.run.load.name} until {sided(room.amperes_until)}, "
                "the whole craft solved again",
                amperes(room.amperes),
            )
        )  # fmt: skip
    if room.metres is not None:
        lines.append(
            line(
                "metres", "More metres",
                f"of its own pair of wires, each way, until {sided(room.metres_until)}",
                metres(room.metres, ".3g"),
            )
        )  # fmt: skip
    return lines


def stall_says(stalled: NoSolution) -> str:
    """What is said of a load that no voltage can feed, and what its loop may have at most."""
    says = (
        f"{stalled.name} would stall or drop out: its loop is too resistive to carry its power at any "
        "voltage."
    )
    if stalled.loop_ohm is None or stalled.most_ohm is None:
        return says
    return (
        f"{says} Its loop has {ohms(stalled.loop_ohm)}, source included; {ohms(stalled.most_ohm)} "
        "would just allow it."
    )


def works(load: Load, got: float) -> str:
    """Whether a load works on the volts it gets; empty where nobody said what it needs."""
    if load.least_v is None:
        return ""
    if got < load.least_v:
        return f"{load.name} drops out: it needs {volts(load.least_v)} and gets {volts(got)}."
    return f"{load.name} works: it needs {volts(load.least_v)} and gets {volts(got)}."


def back_word() -> str:
    """What the return side is called here."""
    return in_use().back_word


def side_word(side: str) -> str:
    """A side by the word that is set for it."""
    return back_word() if side == "return" else side


def sided(text: str) -> str:
    """A sentence of the core's with the return side by its own word."""
    return text if back_word() == "return" else re.sub(r"\breturn\b", back_word(), text)


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
