"""What a run sheet says of a wiring as it is predicted: verdict, folds, notices, troubles."""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence

from spare_margin.core.budget.run_budget import RunBudget, SideBudget
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import NoSolution
from spare_margin.core.least import ROUNDING
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    Side,
    to_be_sized,
    undrawn,
)
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word, stall_words
from spare_margin.wording.language.figures import count, volts

NOT_PREDICTED = (
    "Not calculated: part of this run, or its load, is not known yet. Readings will judge it."
)


def not_predicted_words(run: Run) -> str:
    """Of a run whose figures would rest on what nobody has said; what is to be sized is counted."""
    unknown = [s.piece for s in run.steps() if undrawn(s.piece)]
    if run.load.behaviour is None or not unknown or not all(to_be_sized(p) for p in unknown):
        return NOT_PREDICTED
    wires = sum(isinstance(p, Conductor) for p in unknown)
    parts = [(wires, "wire"), (len(unknown) - wires, "fuse")]
    told = " and ".join(f"{count(n)} {what}{'s' if n > 1 else ''}" for n, what in parts if n)
    return f"To be sized: {told}."


OFF_HERE = "Off in this scenario: a drop exists only while current flows."
NO_LIMIT = "This limit set has no limit for such a load: it is neither within nor over."
RUNAWAY = (
    "These wires are far too thin: they would never stop heating up. Figures shown are for wires at air "
    "temperature."
)


def while_starting(budget: RunBudget) -> tuple[Verdict, str]:
    """A load that keeps running while an engine is started: what it gets against the least it works at."""
    gets = f"gets {volts(budget.load_v)} while the engine starts"
    least = budget.run.load.least_v
    if least is None:
        return "not_measured", (
            f"Calculated: it {gets}. No limit holds meanwhile; say the lowest voltage it works at."
        )
    if budget.load_v < least:
        return "over", "Calculated: it gets too little voltage while the engine starts."
    return "within", f"Calculated: it {gets} and needs {volts(least)}."


def predicted_words(budget: RunBudget, spare_v: float, under: str) -> str:
    """What is predicted of a run that is on; `under` is the ceiling under which it has least spare."""
    if spare_v < 0:
        return f"Calculated: {side_word(under)} {volts(-spare_v)} over its limit."
    over = [
        piece_name(p.step.piece)
        for side in budget.sides
        for p in side.pieces
        if p.spare_v < -ROUNDING and not p.step.beside
    ]
    if not over:
        return "Calculated: within every limit."
    named = [name if n == 1 else f"{n} \u00d7 {name}" for name, n in Counter(over).items()]
    return f"Calculated: within limits. Above their own allowance: {', '.join(named)}."


def as_measured_words(scenario: str) -> str:
    """Whose figures these are: of the craft as measured, in a scenario."""
    return f"likeliest by the readings, in {scenario}"


def trunk_words(side: Side, count: int) -> tuple[str, str, str]:
    """Pieces in a row that other runs share, folded: name, full name, and of how many."""
    return "Shared", f"Shared wiring, {side_word(side)} side", f"{count} components"


def stretch_words(names: Sequence[str], full_names: Sequence[str]) -> tuple[str, str, str]:
    """A run's own pieces in a row, folded: name, full name, from which to which."""
    ends = f"{full_names[0]} to {full_names[-1]}"
    return f"{len(names)} pieces", ends, f"{names[0]} \u00b7 {names[-1]}"


def eaten_words(side: SideBudget, craft: Craft) -> str:
    """Which pieces leave the copper of a side nothing; empty where something is left."""
    if not side.eaten_by:
        return ""
    named = {p.id: p for p in craft.pieces}
    eaten = ", ".join(piece_name(named[key]) for key in side.eaten_by)
    return f"{eaten} use up the whole {side_word(side.side)} limit. Nothing is left for the wire."


def misplaced_words(piece: AnyPiece, true: Side) -> str:
    """A piece that is drawn on the other side than it stands on."""
    return f"{piece_name(piece)} is drawn on the wrong side; it belongs to the {side_word(true)}."


def will_stand_words(piece: AnyPiece, true: Side) -> str:
    """The same, of a job that is not brought in yet."""
    return f"{piece_name(piece)} will stand on the {side_word(true)} side."


def loose_words(craft: Craft, points: Collection[str]) -> list[str]:
    """Test points that lead nowhere."""
    return [f"{point_name(craft, key)} is not connected to anything yet." for key in points]


def in_series_words(load: str) -> str:
    """A load that another load joins to its supply."""
    return (
        f"{load} gets its supply through another load; its current is worked out as a resistor's."
    )


NOT_JUDGED = (
    "There are too many readings to judge every run in time. Runs not judged show no verdict."
)
UNWORKABLE: Mapping[str, str] = {
    "too_long": "It has too many readings or pieces to be worked out in time. Nothing of it is lost.",
    "failed": "It could not be worked out. Nothing of it is lost: export it, and tell whoever looks "
    "after the program.",
}
"""Why a job shows no verdict in the list."""


def stalled_words(stalled: NoSolution) -> str:
    """A load that no voltage can feed."""
    return f"{stall_words(stalled)} It is shown as off."
