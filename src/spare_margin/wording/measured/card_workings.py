"""How what a card expects, and what it allows, came about."""

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Source
from spare_margin.core.walk.walk import Measurement
from spare_margin.wording.craft import pieces, workings
from spare_margin.wording.craft.workings import NO_ROOM, WorkingLine
from spare_margin.wording.language import figures


def card_lines(
    step: Measurement,
    within: set[str],
    budget: RunBudget,
    solution: Solution,
    limits: Limits,
    source: Source,
) -> list[WorkingLine]:
    """The working of one card.

    `within` are the pieces between its points, where one side holds both; `source` as it stands in the
    scenario.
    """
    run = workings.run_working(budget, NO_ROOM, limits)
    if step.kind == "source":
        return [_source_line(source, budget.source_v)]
    if step.kind == "current":
        formula = f"{pieces.load_spec(budget.run.load)}, at {figures.volts(budget.load_v)}"
        return [WorkingLine("expect", "Expect", formula, figures.amperes(budget.current_a))]
    if step.kind == "load":
        return run
    if not within:
        return []
    own = [p for side in budget.sides for p in side.pieces if p.step.piece.id in within]
    lines = []
    for piece in own:
        ohm = solution.elements[piece.step.piece.id].resistance_ohm
        if ohm is not None:
            formula = f"{figures.ohms(ohm)} \u00d7 {figures.amperes(abs(piece.current_a))}"
            name = pieces.piece_name(piece.step.piece)
            lines.append(WorkingLine("expect", name, formula, figures.volts(piece.drop_v)))
    if step.kind == "side":
        return lines + [line for line in run if line.about == step.side]
    allowed = [piece.allowance.volts for piece in own]
    formula = " + ".join(figures.volts(v) for v in allowed) if len(allowed) > 1 else "its allowance"
    lines.append(WorkingLine("allowed", "Allowed", formula, figures.volts(sum(allowed))))
    return lines


def _source_line(source: Source, loaded_v: float) -> WorkingLine:
    volts = figures.volts(source.open_circuit_v)
    if not source.internal_ohm:
        return WorkingLine("expect", "Expect", "the volts of this source", figures.volts(loaded_v))
    amps = (source.open_circuit_v - loaded_v) / source.internal_ohm
    inside = f"{figures.ohms(source.internal_ohm)} \u00d7 {figures.amperes(amps)}"
    formula = f"{volts} without load \u2212 {inside}"
    return WorkingLine("expect", "Expect", formula, figures.volts(loaded_v))
