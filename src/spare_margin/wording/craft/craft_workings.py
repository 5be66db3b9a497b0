"""How the figures of the craft view came about."""

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.budget.scenarios import Start
from spare_margin.core.budget.trunk import CopperUse, Help, TrunkStretch
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.conductors import COPPER_KG_PER_M_MM2
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Conductor, Craft, undrawn
from spare_margin.core.model.tables import Tables
from spare_margin.wording.craft.pieces import load_spec, piece_name, size_name
from spare_margin.wording.craft.workings import NO_ROOM, WorkingLine, drawn_sum, run_working
from spare_margin.wording.language.figures import amperes, digits, kilogram_figure, ohms, volts
from spare_margin.wording.language.units import figure, metres


def run_lines(budget: RunBudget, limits: Limits) -> list[WorkingLine]:
    """The spare, volts and current of a run in its worst scenario."""
    load = budget.run.load
    current = WorkingLine(
        "current", "Current", f"{load_spec(load)}, at {volts(budget.load_v)}",
        amperes(budget.current_a),
    )  # fmt: skip
    return [*run_working(budget, NO_ROOM, limits), current]


def stretch_lines(part: TrunkStretch, craft: Craft, solution: Solution) -> list[WorkingLine]:
    """The current of a stretch by its loads, and what each of its pieces loses."""
    drawn = [(craft.load(key).name, abs(solution.elements.current_a(key))) for key in part.loads]
    formula = drawn_sum(drawn) or "nothing on it is on"
    lines = [WorkingLine("current", "Current", formula, amperes(part.current_a))]
    for piece in part.pieces:
        state = solution.elements[piece.id]
        if state.resistance_ohm is not None and not undrawn(piece):
            formula = f"{ohms(state.resistance_ohm)} \u00d7 {amperes(abs(state.current_a))}"
            lines.append(
                WorkingLine("drop", piece_name(piece), formula, volts(abs(state.drop_v or 0.0)))
            )
    return lines


def better_words(helped: Help) -> str:
    """What makes a piece better: the next size, or as good as new."""
    if helped.size is None or not isinstance(helped.piece, Conductor) or helped.piece.size is None:
        return "as good as new"
    return f"{size_name(helped.piece.size)} \u2192 {size_name(helped.size)}"


def help_lines(helped: Help) -> list[WorkingLine]:
    """What a better piece would give each run through it."""
    formula = (
        f"{amperes(helped.current_a)} \u00d7 ({ohms(helped.ohm)} \u2212 {ohms(helped.better_ohm)})"
    )
    said = "the current taken to stay; the run sheet's own what-ifs solve it whole"
    return [
        WorkingLine("gain", f"Gain, {better_words(helped)}", formula, volts(helped.gain_v), said)
    ]


def copper_lines(use: CopperUse, tables: Tables) -> list[WorkingLine]:
    """The mass of one size."""
    row = tables.conductors.rows.get(use.size)
    if row is None or use.mass_kg is None:
        return []
    area = f"{figure(f'{row.area_mm2:g}')} mm\u00b2"
    density = f"{figure(f'{COPPER_KG_PER_M_MM2 * 1000:g}')} g/(m\u00b7mm\u00b2)"
    formula = f"{area} \u00d7 {metres(use.length_m)} \u00d7 {density}"
    return [WorkingLine("mass", "Copper", formula, str(kilogram_figure(use.mass_kg)), row.source)]


def start_words(start: Start) -> str:
    """What a start does to a load, in a sentence."""
    own = start.motor.id == start.load.id
    says = (
        f"While {start.motor.name} starts, {'it' if own else start.load.name} gets "
        f"{volts(start.starting_v)} instead of {volts(start.running_v)}"
    )
    if not start.drops_out:
        return f"{says}."
    least = f", it needs {volts(start.load.least_v)}" if start.load.least_v else ""
    return f"{says}: it {'may not start' if own else 'drops out'}{least}."


def start_lines(start: Start) -> list[WorkingLine]:
    """What another load loses while a motor starts."""
    draws = f"\u00d7{digits(start.motor.start_multiple or 1.0, 3)} of what it draws running, for the moment"
    formula = (
        f"{volts(start.running_v)} \u2212 {volts(start.running_v - start.starting_v)} "
        "more lost on the way"
    )
    said = "the whole craft solved with the start's current, wires as warm as before"
    return [
        WorkingLine("start", start.motor.name, draws, ""),
        WorkingLine("volts", start.load.name, formula, volts(start.starting_v), said),
    ]
