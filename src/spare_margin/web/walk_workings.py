"""How what a card expects, and what it allows, came about."""

from spare_margin.core.budget import RunBudget
from spare_margin.core.limits import Limits
from spare_margin.core.pieces import called
from spare_margin.core.solution import Solution
from spare_margin.core.walk import Step

from . import words
from .craft_workings import NO_ROOM
from .models import Line, SourceOut


def card_lines(
    step: Step,
    within: set[str],
    budget: RunBudget,
    solution: Solution,
    limits: Limits,
    source: SourceOut,
) -> list[Line]:
    """The working of one card; `within` are the pieces between its points, where one side holds both."""
    run = words.run_working(budget, NO_ROOM, limits)
    if step.kind == "source":
        return [_source_line(source)]
    if step.kind == "current":
        formula = f"{words.load_spec(budget.run.load)}, at {words.volts(budget.load_v)}"
        return [words.line("expect", "Expect", formula, words.amperes(budget.current_a))]
    if step.kind == "load":
        return run
    if not within:
        return []
    pieces = [p for side in budget.sides for p in side.pieces if p.step.piece.id in within]
    lines = []
    for piece in pieces:
        ohm = solution.elements[piece.step.piece.id].resistance_ohm
        if ohm is not None:
            formula = f"{words.ohms(ohm)} \u00d7 {words.amperes(abs(piece.current_a))}"
            name = called(piece.step.piece)
            lines.append(words.line("expect", name, formula, words.volts(piece.drop_v)))
    if step.kind == "side":
        return lines + [line for line in run if line.about == step.side]
    allowed = [piece.allowance.volts for piece in pieces]
    formula = " + ".join(words.volts(v) for v in allowed) if len(allowed) > 1 else "its allowance"
    lines.append(words.line("allowed", "Allowed", formula, words.volts(sum(allowed))))
    return lines


def _source_line(source: SourceOut) -> Line:
    volts = words.volts(source.open_circuit_v)
    if not source.internal_ohm:
        return words.line("expect", "Expect", "the volts of this source", words.volts(source.volts))
    amps = (source.open_circuit_v - source.volts) / source.internal_ohm
    formula = f"{volts} without load \u2212 {words.ohms(source.internal_ohm)} \u00d7 {words.amperes(amps)}"
    return words.line("expect", "Expect", formula, words.volts(source.volts))
