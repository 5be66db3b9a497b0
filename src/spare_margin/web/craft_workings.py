"""How the figures of the craft view came about."""

from spare_margin.core.budget import RunBudget
from spare_margin.core.headroom import Headroom
from spare_margin.core.limits import Limits
from spare_margin.core.outlook import Start
from spare_margin.core.pieces import Craft, called
from spare_margin.core.solution import Solution
from spare_margin.core.tables import Tables
from spare_margin.core.trunk import COPPER_KG_PER_M_MM2, CopperUse, Help, Stretch
from spare_margin.exchange.units import figure, metres

from . import words
from .models import Line

NO_ROOM = Headroom(None, "", None, "")


def run_lines(budget: RunBudget, limits: Limits) -> list[Line]:
    """The spare, volts and current of a run in its worst scenario."""
    load = budget.run.load
    current = words.line(
        "current", "Current", f"{words.load_spec(load)}, at {words.volts(budget.load_v)}",
        words.amperes(budget.current_a),
    )  # fmt: skip
    return [*words.run_working(budget, NO_ROOM, limits), current]


def stretch_lines(part: Stretch, craft: Craft, solution: Solution) -> list[Line]:
    """The current of a stretch by its loads, and what each of its pieces loses."""
    drawn = {craft.load(key).name: abs(solution.elements[key].current_a) for key in part.loads}
    formula = words.drawn_sum(drawn) or "nothing on it is on"
    lines = [words.line("current", "Current", formula, words.amperes(part.current_a))]
    for piece in part.pieces:
        state = solution.elements[piece.id]
        if state.resistance_ohm is not None:
            formula = (
                f"{words.ohms(state.resistance_ohm)} \u00d7 {words.amperes(abs(state.current_a))}"
            )
            lines.append(
                words.line("drop", called(piece), formula, words.volts(abs(state.drop_v or 0.0)))
            )
    return lines


def help_lines(helped: Help) -> list[Line]:
    """What a better piece would give each run through it."""
    formula = (
        f"{words.amperes(helped.current_a)} \u00d7 ({words.ohms(helped.ohm)} \u2212 "
        f"{words.ohms(helped.better_ohm)})"
    )
    said = "the current taken to stay; the run sheet's own what-ifs solve it whole"
    return [words.line("gain", f"Gain, {helped.by}", formula, words.volts(helped.gain_v), said)]


def copper_lines(use: CopperUse, tables: Tables) -> list[Line]:
    """The mass of one size."""
    row = tables.conductors.rows.get(use.size)
    if row is None or use.mass_kg is None:
        return []
    area = f"{figure(f'{row.area_mm2:g}')} mm\u00b2"
    density = f"{figure(f'{COPPER_KG_PER_M_MM2 * 1000:g}')} g/(m\u00b7mm\u00b2)"
    formula = f"{area} \u00d7 {metres(use.length_m)} \u00d7 {density}"
    return [words.line("mass", "Copper", formula, figure(f"{use.mass_kg:.2f}") + " kg", row.source)]


def start_lines(start: Start) -> list[Line]:
    """What another load loses while a motor starts."""
    draws = f"\u00d7{start.motor.start_multiple:g} of what it draws running, for the moment"
    formula = (
        f"{words.volts(start.running_v)} \u2212 {words.volts(start.running_v - start.starting_v)} "
        "more lost on the way"
    )
    said = "the whole craft solved with the start's current, wires as warm as before"
    return [
        words.line("start", start.motor.name, draws, ""),
        words.line("volts", start.load.name, formula, words.volts(start.starting_v), said),
    ]
