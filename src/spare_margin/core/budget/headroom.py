"""How many more amperes, and metres, a run would bear: its ceilings, its fuses and its wires."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

from spare_margin.core.budget.allowances import step_current_a, step_drop_v
from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import SIDES, Conductor, FixedPiece, undrawn
from spare_margin.core.model.tables import Tables


class Bound(NamedTuple):
    """What ends a headroom: a ceiling in volts of a side or a `piece`, or what a `fuse` or `wire` bears."""

    kind: Literal["feed", "return", "round_trip", "piece", "fuse", "wire"]
    piece: str = ""


@dataclass(frozen=True, slots=True)
class Headroom:
    """How much more until the first bound, and which that is; negative where it is passed.

    None stands for no bound within reason, and for a bound that no amount can keep.
    """

    amperes: float | None = None
    amperes_until: Bound | None = None
    metres: float | None = None
    metres_until: Bound | None = None


CONTINUOUS_SHARE = 1 / 1.25
"""Of its rating, what a fuse or breaker bears for as long as a load may run."""
MOST_EXTRA_A = 2000.0
MOST_EXTRA_M = 500.0
SECANT_STEPS = 40
FLAT = 1e-7
ZERO = 5e-5
"""A spare this small (V, A) is none."""


def headroom(solved: SolvedCraft, budget: RunBudget, limits: Limits, tables: Tables) -> Headroom:
    """How many more amperes at the load, and metres to it, the run would bear.

    Each trial solves the whole network again. Amperes end at a ceiling in volts, at what a fuse
    bears for long, or at a wire's ampacity in the air around it; for a load that runs a short time, at the
    fuse's rating, and wires are left out: how warm they get in that time is not worked out. The metres
    lengthen the run's last feed conductor and first return conductor alike: the load moves away with
    its own pair of wires.
    """
    # A wire that stands open carries nothing: where another way feeds the load, it is not lengthened.
    own = [wire for wire in own_pair(budget.run) if wire.id in solved.layout.places]
    ceilings = _ceilings(solved, budget, limits)
    borne = _borne(solved, budget, tables)
    pieces = {p.step.piece.id: p for side in budget.sides for p in side.pieces}

    def spares(lost: Callable[[Step], float], passed: Callable[[Step], float]) -> Amounts:
        sums, currents = _sums(budget.run, lost), _currents(budget.run, passed)
        return {bound: ceiling - sums[bound] for bound, ceiling in ceilings.items()} | {
            bound: most - currents[bound] for bound, most in borne.items()
        }

    def left(trial: Callable[[], SolvedCraft]) -> Amounts:
        try:
            solution = trial().solution
        except (JobError, NoSolution):
            return {}
        return spares(
            lambda step: step_drop_v(step, solution), lambda step: step_current_a(step, solution)
        )

    def more(amperes: float) -> Amounts:
        return left(lambda: solved.drawing_more({budget.run.load.id: amperes}))

    def longer(metres: float) -> Amounts:
        return left(lambda: solved.stretched({w.id: 1 + metres / w.length_m for w in own}))

    def per_ampere(step: Step) -> float:
        piece = pieces[step.piece.id]
        return piece.drop_v / piece.current_a if piece.current_a else 0.0

    def per_metre(step: Step) -> float:
        wire = next((w for w in own if w.id == step.piece.id), None)
        return pieces[wire.id].drop_v / wire.length_m if wire else 0.0

    now = spares(
        lambda step: pieces[step.piece.id].drop_v, lambda step: pieces[step.piece.id].current_a
    )
    amperes, amperes_until = _first_met(
        now, _sums(budget.run, per_ampere) | _currents(budget.run, lambda _: 1.0), more,
        -budget.current_a, MOST_EXTRA_A,
    )  # fmt: skip
    if not own:
        return Headroom(amperes, amperes_until)
    shortest = -min(wire.length_m for wire in own)
    volts = {bound: spare for bound, spare in now.items() if bound in ceilings}
    length, metres_until = _first_met(
        volts, _sums(budget.run, per_metre), longer, shortest, MOST_EXTRA_M
    )
    return Headroom(amperes, amperes_until, length, metres_until)


def own_pair(run: Run) -> list[Conductor]:
    """The wires that lead to the load: the last conductor out and the first one back."""
    pair = []
    for steps in (reversed(run.feed), iter(run.back)):
        wire = next(
            (s.piece for s in steps if isinstance(s.piece, Conductor) and not s.beside), None
        )
        if wire is not None and wire.resistance_ohm is None and not undrawn(wire):
            pair.append(wire)
    return pair


Amounts = Mapping[Bound, float]


def _ceilings(solved: SolvedCraft, budget: RunBudget, limits: Limits) -> dict[Bound, float]:
    """Every ceiling (V) a run is held to, those of its single pieces among them."""
    given: dict[Bound, float | None] = {
        Bound("feed"): budget.ceilings.feed_v,
        Bound("return"): budget.ceilings.return_v,
        Bound("round_trip"): budget.ceilings.round_trip_v,
    }
    for step in budget.run.steps():
        if isinstance(step.piece, FixedPiece) and not step.on_purpose:
            given[Bound("piece", step.piece.id)] = limits.single_ceiling_v(
                step.piece.kind, solved.craft.nominal_v
            )
    return {bound: ceiling for bound, ceiling in given.items() if ceiling is not None}


def _borne(solved: SolvedCraft, budget: RunBudget, tables: Tables) -> dict[Bound, float]:
    """The most current (A) that the run's fuses, breakers and wires bear while the load runs."""
    short = budget.run.load.duty == "short_time"
    out: dict[Bound, float] = {}
    for step in budget.run.steps():
        piece = step.piece
        if isinstance(piece, Conductor):
            ampacity = corrected_ampacity_a(piece, solved.scenario, tables.conductors)
            if ampacity is not None and not short:
                out[Bound("wire", piece.id)] = ampacity
        elif piece.rating_a is not None and piece.kind in ("fuse", "breaker"):
            out[Bound("fuse", piece.id)] = piece.rating_a * (1.0 if short else CONTINUOUS_SHARE)
    return out


def _sums(run: Run, value: Callable[[Step], float]) -> dict[Bound, float]:
    """A value of every step, summed as the ceilings of the same bounds sum volts."""
    out = {Bound("piece", step.piece.id): abs(value(step)) for step in run.steps()}
    for side in SIDES:
        counted = (s for s in run.side(side) if not s.beside and not s.on_purpose)
        out[Bound(side)] = sum(value(s) for s in counted)
    out[Bound("round_trip")] = out[Bound("feed")] + out[Bound("return")]
    return out


def _currents(run: Run, value: Callable[[Step], float]) -> dict[Bound, float]:
    """The current of every step, under the bounds of what fuses and wires bear."""
    return {
        Bound(kind, step.piece.id): abs(value(step))
        for step in run.steps()
        for kind in ("fuse", "wire")
    }


def _first_met(
    now: Amounts,
    falls: Amounts,
    spares: Callable[[float], Amounts],
    low: float,
    high: float,
) -> tuple[float | None, Bound | None]:
    """The least amount above `low` and below `high` at which a bound is just met, and which.

    Where bounds are passed already, the amount (negative) that just keeps them all. Every spare
    of `now` falls nearly in a straight line, by `falls` per unit: that says which is met first, and
    secants land on it. An empty answer of `spares` says that the load stalls there.
    """
    crossings: list[tuple[float, Bound]] = []
    for name, spare in now.items():
        if falls[name] > FLAT:
            crossings.append((spare / falls[name], name))
        elif spare < 0:
            return None, name
    if not crossings:
        return None, None
    at, name = min(crossings)
    before = (0.0, now[name])
    for _ in range(SECANT_STEPS):
        if not low < at < high:
            return None, name if at <= low else None
        here = spares(at).get(name)
        if here is None:
            at = (at + before[0]) / 2
        elif abs(here) < ZERO:
            return at, name
        else:
            slope = (here - before[1]) / (at - before[0])
            before, at = (at, here), at - here / slope
    return at, name
