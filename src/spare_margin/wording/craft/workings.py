"""How the figures of a piece and a run came about, line by line."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from spare_margin.core.budget.allowances import Allowance
from spare_margin.core.budget.headroom import Headroom, HeadroomEnd
from spare_margin.core.budget.run_budget import PieceBudget, RunBudget
from spare_margin.core.circuit.solution import ElementState
from spare_margin.core.model.conductors import COPPER_ALPHA_PER_K
from spare_margin.core.model.fixed_pieces import Expected, expected
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, undrawn
from spare_margin.core.model.tables import Tables
from spare_margin.wording.craft.pieces import back_word, piece_name, side_word, size_name
from spare_margin.wording.language.figures import amperes, ohms, share_of, volts, watts
from spare_margin.wording.language.units import figure, metres

NO_ROOM = Headroom()


@dataclass(frozen=True, slots=True)
class WorkingLine:
    """One line of a working: what, how it was worked out, what came of it, and who says so.

    `about` names the number on screen that it is the working of.
    """

    about: str
    label: str
    formula: str
    result: str
    source: str = ""


def basis_words(found: Expected, piece: FixedPiece) -> str:
    """Which row or rule a fixed piece's figures come from."""
    aged = f", \u00d7 {figure('1.5')} aged with holder"
    rating = figure(f"{piece.rating_a or 0:g}")
    match found.basis:
        case "marking":
            return "its marking and 10 % tolerance"
        case "fuse_row":
            return f"{piece.style or 'blade'} {rating} A element, typical, cold{aged}"
        case "fuse_rule":
            return f"about {figure('0.08')} V at its rating{aged}"
        case "breaker_rule":
            return f"about {figure('0.15')} V at its rating{aged}"
        case "given":
            return f"the resistance given{aged}"
    return "" if found.row is None else f"{found.row.name}: {found.row.source}"


def allowance_why(
    allowance: Allowance, piece: Conductor | FixedPiece, limits: Limits, craft: Craft
) -> str:
    """How an allowance came about, in a line."""
    name = limits.limit_set.name
    match allowance.rule:
        case "aged":
            return "its resistance when aged but still good, at full-load current"
        case "ceiling":
            ceiling = limits.single_ceiling_v(piece.kind, craft.nominal_v) or 0.0
            return f"the limit for a single component, {volts(ceiling)} ({name})"
        case "copper":
            return (
                "its share of what joints and fuses leave for wire, shared out for the least copper that "
                "keeps every limit in every scenario"
            )
        case "squeezed":
            return "joints and fuses alone are over the limit: each is cut back in proportion"
        case "purpose":
            return "fitted to take voltage: not a fault, and not counted against the limit"
        case "pinned":
            return "set by hand; the rest of the side shares what is left"
    return "length unknown: taken as it is drawn"


@dataclass(frozen=True, slots=True)
class PieceFigures:
    """What the working of one piece rests on; `drawn` says what loads draw through it, as a `drawn_sum`."""

    budget: PieceBudget
    state: ElementState
    drawn: str
    ruled_by: str


def piece_working(
    view: PieceFigures, craft: Craft, limits: Limits, tables: Tables
) -> list[WorkingLine]:
    """How this piece's current, resistance, drop, allowance and spare came about."""
    budget, state = view.budget, view.state
    piece, amps = budget.step.piece, abs(budget.current_a)
    lines = [WorkingLine("current", "Current", _current_formula(view), amperes(amps))]
    if state.resistance_ohm is not None:
        lines.append(_resistance_line(piece, state, tables))
        formula = f"{ohms(state.resistance_ohm)} \u00d7 {amperes(amps)}"
        lines.append(WorkingLine("predicted", "Predicted", formula, volts(budget.drop_v)))
    why = allowance_why(budget.allowance, piece, limits, craft)
    lines.append(_allowance_line(view, why, limits, tables))
    spare = volts(budget.spare_v) + share_of(budget.spare_v, budget.allowance.volts)
    formula = f"{volts(budget.allowance.volts)} \u2212 {volts(budget.drop_v)}"
    lines.append(WorkingLine("spare", "Spare", formula, spare))
    if state.power_w >= 0.01:
        formula = f"{amperes(amps)} \u00d7 {volts(budget.drop_v)}"
        lines.append(WorkingLine("heat", "Heat", formula, watts(state.power_w)))
    return lines


def sum_line(about: str, each_v: Sequence[float]) -> WorkingLine:
    """What pieces that stand folded may lose, or are predicted to lose, together (V)."""
    name = {"allowance": "Allowance", "predicted": "Predicted"}[about]
    return WorkingLine(about, name, " + ".join(map(volts, each_v)), volts(sum(each_v)))


def _current_formula(view: PieceFigures) -> str:
    if view.budget.step.group is not None:
        return "its share of the parallel paths' current, by resistance"
    return view.drawn or "nothing on this way is on"


MOST_NAMED = 6


def drawn_sum(drawn: Iterable[tuple[str, float]]) -> str:
    """What loads draw together (name, A), the largest named; empty where nothing is on.

    Two loads of one name are two.

    >>> drawn_sum([("Fan", 0.8), ("Fan", 0.8), ("Dial", 0.0)])
    '0.80 A Fan + 0.80 A Fan'
    """
    on = [(name, amps) for name, amps in drawn if amps]
    named = on
    if len(on) > MOST_NAMED:
        on.sort(key=lambda each: -each[1])
        named = on[: MOST_NAMED - 1]
    parts = [f"{amperes(amps)} {name}" for name, amps in named]
    if len(named) < len(on):
        rest = sum(amps for _, amps in on[len(named) :])
        parts.append(f"{amperes(rest)} of {len(on) - len(named)} more")
    return " + ".join(parts)


def _resistance_line(
    piece: Conductor | FixedPiece, state: ElementState, tables: Tables
) -> WorkingLine:
    assert state.resistance_ohm is not None
    result = ohms(state.resistance_ohm)
    if piece.resistance_ohm is not None:
        return WorkingLine("resistance", "Resistance", "as given for this piece", result)
    if undrawn(piece):
        formula = "not identified: a starting value, could be about five times more or less"
        return WorkingLine("resistance", "Resistance", formula, result)
    if isinstance(piece, Conductor):
        row = tables.conductors.rows.get(piece.size) if piece.size else None
        per_m = piece.ohm_per_m if piece.ohm_per_m is not None else (row.ohm_per_m if row else 0.0)
        rise = f"({figure(f'{state.temperature_c:.0f}')} \u2212 20)"
        warm = f"(1 + {figure(str(COPPER_ALPHA_PER_K))} \u00d7 {rise})"
        per_metre = figure(f"{per_m * 1000:.4g}")
        length = figure(f"{piece.length_m:g}")
        formula = f"{per_metre} m\u03a9/m \u00d7 {length} m \u00d7 {warm}, in \u00b0C"
        said = f"{size_name(piece.size)}: {row.source}" if row and piece.size else ""
        return WorkingLine("resistance", "Resistance", formula, result, said)
    basis = basis_words(expected(piece, tables.fixed), piece)
    return WorkingLine("resistance", "Resistance", "starting value", result, basis)


def _allowance_line(view: PieceFigures, why: str, limits: Limits, tables: Tables) -> WorkingLine:
    budget = view.budget
    piece = budget.step.piece
    formula = why
    if budget.allowance.rule == "aged" and isinstance(piece, FixedPiece):
        aged = expected(piece, tables.fixed).aged_ohm
        formula = f"aged limit {ohms(aged)} \u00d7 {amperes(abs(budget.current_a))}"
    limit_set = f"{limits.limit_set.name}: {limits.limit_set.why}"
    tightest = f"set by {view.ruled_by}, the tightest run through it" if view.ruled_by else ""
    said = "; ".join(filter(None, (tightest, limit_set)))
    return WorkingLine("allowance", "Allowance", formula, volts(budget.allowance.volts), said)


def run_working(budget: RunBudget, room: Headroom, limits: Limits) -> list[WorkingLine]:
    """How the figures of a run came about that nobody has read."""
    limit_set = limit_words(limits)
    lines = [load_working(budget)]
    for side in budget.sides:
        if side.ceiling_v is not None and side.spare_v is not None:
            lines.append(
                WorkingLine(
                    side.side, f"Spare, {side_word(side.side)}",
                    f"{volts(side.ceiling_v)} ceiling \u2212 {volts(side.drop_v)} predicted",
                    volts(side.spare_v) + share_of(side.spare_v, side.ceiling_v), limit_set,
                )
            )  # fmt: skip
    both, ceiling = budget.spares().get("round_trip"), budget.ceilings.round_trip_v
    if both is not None and ceiling is not None:
        spent = budget.feed.drop_v + budget.back.drop_v
        lines.append(
            WorkingLine(
                "round_trip", "Spare, round trip",
                f"{volts(ceiling)} limit \u2212 {volts(spent)} predicted",
                volts(both) + share_of(both, ceiling), limit_set,
            )
        )  # fmt: skip
    return [*lines, *room_working(budget, room)]


def limit_words(limits: Limits) -> str:
    """Whose limits these are, and why."""
    return f"{limits.limit_set.name}: {limits.limit_set.why}"


def load_working(budget: RunBudget, label: str = "At the load", source: str = "") -> WorkingLine:
    """How the volts at a load come about: `label` says which, `source` by what."""
    feed = budget.feed.drop_v + budget.feed.purpose_v
    back = budget.back.drop_v + budget.back.purpose_v
    return WorkingLine(
        "load_v", label,
        f"{volts(budget.source_v)} \u2212 {volts(feed)} feed \u2212 {volts(back)} {back_word()}",
        volts(budget.load_v), source,
    )  # fmt: skip


def room_working(budget: RunBudget, room: Headroom) -> list[WorkingLine]:
    """How many more amperes and metres there would be, and until what."""
    lines = []
    if room.amperes is not None:
        lines.append(
            WorkingLine(
                "amperes", "More amperes",
                f"drawn by {budget.run.load.name} until {until_words(room.amperes_until, budget)}, "
                "the whole craft solved again",
                amperes(room.amperes), _bound_source(room.amperes_until, budget),
            )
        )  # fmt: skip
    if room.metres is not None:
        lines.append(
            WorkingLine(
                "metres", "More metres",
                f"of its own pair of wires, each way, until {until_words(room.metres_until, budget)}",
                metres(room.metres, ".3g"),
            )
        )  # fmt: skip
    return lines


def until_words(until: HeadroomEnd | None, budget: RunBudget) -> str:
    """Which bound a headroom reaches first."""
    if until is None:
        return ""
    name = next((piece_name(s.piece) for s in budget.run.steps() if s.piece.id == until.piece), "")
    match until.kind:
        case "piece":
            return name
        case "fuse" if budget.run.load.duty == "short_time":
            return f"the rating of {name}"
        case "fuse":
            return f"what {name} carries for long"
        case "wire":
            return f"what {name} carries in this air"
        case _:
            return f"the {side_word(until.kind)} limit"


def _bound_source(until: HeadroomEnd | None, budget: RunBudget) -> str:
    """Where the current that ends a headroom comes from."""
    if until is None or until.kind not in ("fuse", "wire"):
        return ""
    if until.kind == "wire":
        return "ampacity table, corrected to the air around the wire"
    if budget.run.load.duty == "short_time":
        return "a load of short time may draw what the fuse is rated for"
    return f"a fuse is rated {figure('1.25')} times what it carries for long"
