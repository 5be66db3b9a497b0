"""How many more amperes, and metres, the ceilings of a run would bear."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from spare_margin.core.budget.allowances import step_drop_v
from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import SIDES, Conductor, Craft, FixedPiece


@dataclass(frozen=True, slots=True)
class Headroom:
    """How much more until the first ceiling, and which that is; negative where it is passed.

    `amperes_until`, `metres_until` are feed, return, round_trip, or the id of a piece at its own
    ceiling. None stands for no bound within reason.
    """

    amperes: float | None
    amperes_until: str
    metres: float | None
    metres_until: str


MOST_EXTRA_A = 2000.0
MOST_EXTRA_M = 500.0
SECANT_STEPS = 40
FLAT = 1e-7
ZERO_V = 5e-5
"""A spare this small (V) is none."""


def headroom(solved: SolvedCraft, budget: RunBudget, limits: Limits) -> Headroom:
    """How many more amperes at the load, and metres to it, the run's ceilings would bear.

    Each trial solves the whole network again. The metres lengthen the run's last feed conductor and
    first return conductor alike: the load moves away with its own pair of wires.
    """
    own = own_pair(budget.run)
    ceilings = _named_ceilings(solved.craft, budget, limits)
    pieces = {p.step.piece.id: p for side in budget.sides for p in side.pieces}

    def spares(lost: Callable[[Step], float]) -> dict[str, float]:
        sums = _named_sums(budget.run, lost)
        return {name: ceiling - sums[name] for name, ceiling in ceilings.items()}

    def left(trial: Callable[[], SolvedCraft]) -> dict[str, float]:
        try:
            solution = trial().solution
        except (JobError, NoSolution):
            return {}
        return spares(lambda step: step_drop_v(step, solution))

    def more(amperes: float) -> dict[str, float]:
        return left(lambda: solved.drawing_more({budget.run.load.id: amperes}))

    def longer(metres: float) -> dict[str, float]:
        return left(lambda: solved.stretched({w.id: 1 + metres / w.length_m for w in own}))

    def per_ampere(step: Step) -> float:
        piece = pieces[step.piece.id]
        return piece.drop_v / piece.current_a if piece.current_a else 0.0

    def per_metre(step: Step) -> float:
        wire = next((w for w in own if w.id == step.piece.id), None)
        return pieces[wire.id].drop_v / wire.length_m if wire else 0.0

    now = spares(lambda step: pieces[step.piece.id].drop_v)
    amperes, amperes_until = _first_met(
        now, _named_sums(budget.run, per_ampere), more,
        -budget.current_a, MOST_EXTRA_A,
    )  # fmt: skip
    if not own:
        return Headroom(amperes, amperes_until, None, "")
    shortest = -min(wire.length_m for wire in own)
    length, metres_until = _first_met(
        now, _named_sums(budget.run, per_metre), longer, shortest, MOST_EXTRA_M
    )
    return Headroom(amperes, amperes_until, length, metres_until)


def own_pair(run: Run) -> list[Conductor]:
    """The wires that lead to the load: the last conductor out and the first one back."""
    pair = []
    for steps in (reversed(run.feed), iter(run.back)):
        wire = next(
            (s.piece for s in steps if isinstance(s.piece, Conductor) and not s.beside), None
        )
        if wire is not None and wire.length_m > 0 and wire.resistance_ohm is None:
            pair.append(wire)
    return pair


def _named_ceilings(craft: Craft, budget: RunBudget, limits: Limits) -> dict[str, float]:
    """Every ceiling (V) a run is held to by its name, those of single pieces by their id."""
    given = {
        "feed": budget.ceilings.feed_v,
        "return": budget.ceilings.return_v,
        "round_trip": budget.ceilings.round_trip_v,
    }
    for step in budget.run.steps():
        if isinstance(step.piece, FixedPiece) and not step.on_purpose:
            given[step.piece.id] = limits.single_ceiling_v(step.piece.kind, craft.nominal_v)
    return {name: ceiling for name, ceiling in given.items() if ceiling is not None}


def _named_sums(run: Run, value: Callable[[Step], float]) -> dict[str, float]:
    """A value of every step, summed as the ceilings of the same names sum volts."""
    out = {step.piece.id: abs(value(step)) for step in run.steps()}
    for side in SIDES:
        counted = (s for s in run.side(side) if not s.beside and not s.on_purpose)
        out[side] = sum(value(s) for s in counted)
    out["round_trip"] = out["feed"] + out["return"]
    return out


def _first_met(
    now: Mapping[str, float],
    falls: Mapping[str, float],
    spares: Callable[[float], dict[str, float]],
    low: float,
    high: float,
) -> tuple[float | None, str]:
    """The least amount above `low` and below `high` at which a ceiling is just met, and which.

    Where ceilings are exceeded already, the amount (negative) that just keeps them all. Every spare
    of `now` falls nearly in a straight line, by `falls` per unit: that says which is met first, and
    secants land on it. An empty answer of `spares` says that the load stalls there.
    """
    crossings: list[tuple[float, str]] = []
    for name, spare in now.items():
        if falls[name] > FLAT:
            crossings.append((spare / falls[name], name))
        elif spare < 0:
            return None, name
    if not crossings:
        return None, ""
    at, name = min(crossings)
    before = (0.0, now[name])
    for _ in range(SECANT_STEPS):
        if not low < at < high:
            return None, name if at <= low else ""
        here = spares(at).get(name)
        if here is None:
            at = (at + before[0]) / 2
        elif abs(here) < ZERO_V:
            return at, name
        else:
            slope = (here - before[1]) / (at - before[0])
            before, at = (at, here), at - here / slope
    return at, name
