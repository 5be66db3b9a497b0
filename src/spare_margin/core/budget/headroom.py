"""How many more amperes, and metres, a run would bear: its ceilings, its fuses and its wires."""

import math
from collections.abc import Callable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.columns import Floats, Ints
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Conductor, FixedPiece, undrawn
from spare_margin.core.model.tables import Tables


class HeadroomEnd(NamedTuple):
    """What ends a headroom: a ceiling in volts of a side or a `piece`, or what a `fuse` or `wire` bears."""

    kind: Literal["feed", "return", "round_trip", "piece", "fuse", "wire"]
    piece: str = ""


@dataclass(frozen=True, slots=True)
class Headroom:
    """How much more until the first bound, and which that is; negative where it is passed.

    None stands for no bound within reason, and for a bound that no amount can keep.
    """

    amperes: float | None = None
    amperes_until: HeadroomEnd | None = None
    metres: float | None = None
    metres_until: HeadroomEnd | None = None


CONTINUOUS_SHARE = 1 / 1.25
"""Of its rating, what a fuse or breaker bears for as long as a load may run."""
MOST_EXTRA_A = 2000.0
"""Beyond this no load is looked for (A): no craft of these volts has one."""
MOST_EXTRA_M = 500.0
"""Beyond this no wire is looked for (m): no craft has one."""
SECANT_STEPS = 40
"""A stop for what does not converge: a secant that does needs far fewer."""
FLAT = 1e-7
"""A bound that falls by less than this for each ampere or metre is not met by more of them."""
ZERO = 5e-5
"""A spare this small (V, A) is none."""


def headroom(solved: SolvedCraft, budget: RunBudget, limits: Limits, tables: Tables) -> Headroom:
    """How many more amperes at the load, and metres to it, the run would bear.

    Each trial solves the whole network again. Amperes end at a ceiling in volts, at what a fuse
    bears for long, or at a wire's ampacity in the air around it; for a load that runs a short time, at the
    fuse's rating, and wires are left out: how warm they get in that time is not worked out. The metres
    lengthen the run's last feed conductor and first return conductor alike: the load moves away with
    its own pair of wires.

    Args:
        solved: the craft, solved.
        budget: what the run may lose, and where.
        limits: the limits that its runs are held to.
        tables: the reference tables.
    """
    # A wire that stands open carries nothing: where another way feeds the load, it is not lengthened.
    own = [wire for wire in own_pair(budget.run) if wire.id in solved.layout.places]
    ceilings, borne = _ceilings(solved, budget, limits), _borne(solved, budget, tables)
    bounds = _Bounds(solved, budget.run, ceilings | borne)

    def more(amperes: float) -> SolvedCraft:
        return solved.drawing_more({budget.run.load.id: amperes})

    def longer(metres: float) -> SolvedCraft:
        return solved.stretched({w.id: 1 + metres / w.length_m for w in own})

    amperes, amperes_until = _first_met(
        bounds, solved, bounds.per_ampere(solved), more, -budget.current_a, MOST_EXTRA_A
    )
    if not own:
        return Headroom(amperes, amperes_until)
    shortest = -min(wire.length_m for wire in own)
    volts = bounds.without(borne)
    length, metres_until = _first_met(
        volts, solved, volts.per_metre(solved, own), longer, shortest, MOST_EXTRA_M
    )
    return Headroom(amperes, amperes_until, length, metres_until)


def own_pair(run: Run) -> list[Conductor]:
    """The wires that lead to the load: the last conductor out and the first one back.

    Args:
        run: the run.
    """
    pair = []
    for steps in (reversed(run.feed), iter(run.back)):
        wire = next(
            (s.piece for s in steps if isinstance(s.piece, Conductor) and not s.beside), None
        )
        if wire is not None and wire.resistance_ohm is None and not undrawn(wire):
            pair.append(wire)
    return pair


class _Bounds:
    """What may end a run's headroom, and how much (V, A) each bound holds at most.

    Amounts by bound are arrays (bounds,), in the order of `names`.
    """

    def __init__(self, solved: SolvedCraft, run: Run, held: Mapping[HeadroomEnd, float]) -> None:
        steps = list(run.steps())
        place = solved.layout.columns
        self.ids = [step.piece.id for step in steps]
        self.columns: Ints = np.array([place[key] for key in self.ids], dtype=np.intp)
        self.signs: Floats = np.array([1.0 if s.forward else -1.0 for s in steps])
        counted = np.array([not s.beside and not s.on_purpose for s in steps], dtype=float)
        feed = np.arange(len(steps)) < sum(1 for s in run.feed if s.load is None)
        self.sides = {"feed": counted * feed, "return": counted * ~feed, "round_trip": counted}
        self._hold(held)

    def _hold(self, held: Mapping[HeadroomEnd, float]) -> None:
        self.held, self.names = held, sorted(held)
        self.most: Floats = np.array([held[name] for name in self.names], dtype=float)
        step_of = {key: i for i, key in enumerate(self.ids)}
        none = np.zeros(len(self.ids))
        rows = [self.sides.get(name.kind, none) for name in self.names]
        self.sums: Floats = np.array(rows, dtype=float).reshape(-1, len(self.ids))
        self.single = [i for i, name in enumerate(self.names) if name.kind == "piece"]
        self.borne = [i for i, name in enumerate(self.names) if name.kind in ("fuse", "wire")]
        self.single_at = [step_of[self.names[i].piece] for i in self.single]
        self.borne_at = [step_of[self.names[i].piece] for i in self.borne]

    def without(self, others: Mapping[HeadroomEnd, float]) -> "_Bounds":
        """The same run without these bounds."""
        made = copy(self)
        made._hold({name: most for name, most in self.held.items() if name not in others})
        return made

    def left(self, solved: SolvedCraft) -> Floats:
        """What is left (V, A) under each bound; negative where it is passed."""
        drops = solved.piece_drops_v[self.columns] * self.signs
        return self.most - self._spent(drops, solved.piece_currents_a[self.columns])

    def per_ampere(self, solved: SolvedCraft) -> Floats:
        """How fast each bound is neared by more current at the load."""
        carried = solved.piece_currents_a[self.columns] * self.signs
        drops = solved.piece_drops_v[self.columns] * self.signs
        ohms = np.divide(drops, carried, out=np.zeros_like(drops), where=carried != 0)
        return self._spent(ohms, np.ones(len(ohms)))

    def per_metre(self, solved: SolvedCraft, wires: Sequence[Conductor]) -> Floats:
        """How fast each bound is neared as these wires get longer; their current stays much as it is."""
        lengths = {wire.id: wire.length_m for wire in wires}
        longer = np.array([1 / lengths[i] if i in lengths else 0.0 for i in self.ids])
        drops = solved.piece_drops_v[self.columns] * self.signs
        return self._spent(drops * longer, np.zeros(len(longer)))

    def _spent(self, drops: Floats, currents: Floats) -> Floats:
        """What counts under each bound, of the steps' drops (V) and currents (A)."""
        out: Floats = self.sums @ drops
        out[self.single] = np.abs(drops[self.single_at])
        out[self.borne] = np.abs(currents[self.borne_at])
        return out


def _ceilings(solved: SolvedCraft, budget: RunBudget, limits: Limits) -> dict[HeadroomEnd, float]:
    """Every ceiling (V) a run is held to, those of its single pieces among them."""
    given: dict[HeadroomEnd, float | None] = {
        HeadroomEnd("feed"): budget.ceilings.feed_v,
        HeadroomEnd("return"): budget.ceilings.return_v,
        HeadroomEnd("round_trip"): budget.ceilings.round_trip_v,
    }
    for step in budget.run.steps():
        if isinstance(step.piece, FixedPiece) and not step.on_purpose:
            given[HeadroomEnd("piece", step.piece.id)] = limits.single_ceiling_v(
                step.piece.kind, solved.craft.nominal_v
            )
    return {bound: ceiling for bound, ceiling in given.items() if ceiling is not None}


def _borne(solved: SolvedCraft, budget: RunBudget, tables: Tables) -> dict[HeadroomEnd, float]:
    """The most current (A) that the run's fuses, breakers and wires bear while the load runs."""
    short = budget.run.load.duty == "short_time"
    out: dict[HeadroomEnd, float] = {}
    for step in budget.run.steps():
        piece = step.piece
        if isinstance(piece, Conductor):
            ampacity = corrected_ampacity_a(piece, solved.scenario, tables.conductors)
            if ampacity is not None and not short:
                out[HeadroomEnd("wire", piece.id)] = ampacity
        elif piece.rating_a is not None and piece.kind in ("fuse", "breaker"):
            out[HeadroomEnd("fuse", piece.id)] = piece.rating_a * (
                1.0 if short else CONTINUOUS_SHARE
            )
    return out


def _first_met(
    bounds: _Bounds,
    solved: SolvedCraft,
    falls: Floats,
    trial: Callable[[float], SolvedCraft],
    low: float,
    high: float,
) -> tuple[float | None, HeadroomEnd | None]:
    """The least amount above `low` and below `high` at which a bound is just met, and which.

    Where bounds are passed already, the amount (negative) that just keeps them all. What is left of each
    falls nearly in a straight line, by `falls` per unit: that says which is met first, and secants of all
    of them land on it. A wire beside another way takes a share that is no straight line, so that the
    first may be another than it seemed. A trial that cannot be solved says that the load stalls there.
    """
    if not bounds.names:
        return None, None
    at, left = 0.0, bounds.left(solved)
    hopeless = np.flatnonzero((falls <= FLAT) & (left < 0))
    if len(hopeless):
        return None, bounds.names[hopeless[0]]
    first, reach = _nearest(left, falls)
    for _ in range(SECANT_STEPS):
        last, at = at, at + reach
        if not low < at < high:
            return None, bounds.names[first] if at <= low else None
        try:
            here = bounds.left(trial(at))
        except (JobError, NoSolution):
            at, reach = last, reach / 2
            continue
        if at == last or (abs(here[first]) < ZERO and here.min() > -ZERO):
            break
        falls, left = (left - here) / (at - last), here
        first, reach = _nearest(left, falls)
    return at, bounds.names[first]


def _nearest(left: Floats, falls: Floats) -> tuple[int, float]:
    """Which bound is met first where they fall so, and how much further on (or, negative, back).

    Infinitely far where none falls.
    """
    on = np.divide(left, falls, out=np.full(len(left), math.inf), where=falls > FLAT)
    first = int(on.argmin())
    return first, float(on[first])
