"""From limits to allowances, and from allowances and drops to what is spare.

Allowances of one run: fixed pieces get their aged but acceptable resistance times the loaded
current, never more than the single-piece ceiling; what is left goes to the copper in proportion
to L * sqrt(I), which minimises the sum of length x area (Lagrange: A_i = rho L_i I_i / v_i).
"""

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from .errors import JobError, NoSolution
from .fixed_pieces import expected
from .limits import Ceilings, Limits
from .network import Network
from .pieces import Conductor, Craft, FixedPiece, Side, called
from .runs import AnyPiece, Run, Step
from .solution import Solution
from .tables import Tables

SIDES: tuple[Side, Side] = ("feed", "return")


@dataclass(frozen=True, slots=True)
class Allowance:
    """What a piece may drop (V), how that came about, and whose run set it.

    `rule` is aged (its aged resistance), ceiling (the single-piece ceiling), copper (its share of
    what the fixed pieces left), squeezed (fixed pieces alone exceed the side), purpose (a
    resistor), own (a conductor of unknown length), pinned (a person fixed it).
    """

    volts: float
    rule: str
    load_id: str


@dataclass(frozen=True, slots=True)
class PieceBudget:
    """One piece of a run: what it may drop, what it is predicted to drop, what is spare (V)."""

    step: Step
    current_a: float
    drop_v: float
    allowance: Allowance

    @property
    def spare_v(self) -> float:
        """Allowance less drop."""
        return self.allowance.volts - self.drop_v


@dataclass(frozen=True, slots=True)
class SideBudget:
    """One side of a run. `drop_v` counts what the ceiling counts: not a resistor fitted on purpose.

    `eaten_by` names the fixed pieces that leave nothing for copper, when they do.
    """

    side: Side
    ceiling_v: float | None
    drop_v: float
    purpose_v: float
    pieces: tuple[PieceBudget, ...]
    eaten_by: tuple[str, ...] = ()

    @property
    def spare_v(self) -> float | None:
        """Ceiling less drop; None where the limit set has no ceiling for this side."""
        return None if self.ceiling_v is None else self.ceiling_v - self.drop_v


@dataclass(frozen=True, slots=True)
class Spend:
    """What a run loses on either side (V, without resistors fitted on purpose), and its ceilings."""

    ceilings: Ceilings
    feed_v: float
    return_v: float

    def spares(self) -> dict[str, float]:
        """Spare (V) under each ceiling there is: feed, return, round trip."""
        held = self.ceilings
        named = (
            ("feed", held.feed_v, self.feed_v),
            ("return", held.return_v, self.return_v),
            ("round trip", held.round_trip_v, self.feed_v + self.return_v),
        )
        return {name: ceiling - lost for name, ceiling, lost in named if ceiling is not None}

    @property
    def spare_v(self) -> float:
        """The least spare under any ceiling: the number the product is named after."""
        return min(self.spares().values(), default=math.inf)

    @property
    def share(self) -> float | None:
        """The larger share of its ceiling that a side spends; None where neither has one."""
        held = (self.ceilings.feed_v, self.feed_v), (self.ceilings.return_v, self.return_v)
        return max((lost / ceiling for ceiling, lost in held if ceiling), default=None)


@dataclass(frozen=True, slots=True)
class RunBudget:
    """A whole run in one scenario."""

    run: Run
    ceilings: Ceilings
    feed: SideBudget
    back: SideBudget
    load_v: float
    source_v: float
    current_a: float

    @property
    def sides(self) -> tuple[SideBudget, SideBudget]:
        """Feed, then return."""
        return self.feed, self.back

    @property
    def spend(self) -> Spend:
        """What the ceilings count."""
        return Spend(self.ceilings, self.feed.drop_v, self.back.drop_v)

    def spares(self) -> dict[str, float]:
        """Spare (V) under each ceiling there is."""
        return self.spend.spares()

    @property
    def spare_v(self) -> float:
        """The least spare under any ceiling."""
        return self.spend.spare_v


Draft = tuple[dict[str, Allowance], dict[Side, tuple[str, ...]]]
"""What one run alone would allow its pieces; and, by side, what ate the copper's share."""


class RunBudgets(Mapping[str, RunBudget]):
    """Budgets of runs (by load id) at the currents of one solved scenario, each made when asked for.

    A piece that several loaded runs share gets the least of the allowances they would give it.
    """

    def __init__(
        self,
        craft: Craft,
        runs: Mapping[str, Run],
        solution: Solution,
        limits: Limits,
        tables: Tables,
    ) -> None:
        self.craft, self.runs, self.solution = craft, runs, solution
        self.limits, self.tables = limits, tables
        self._made: dict[str, RunBudget] = {}

    def __iter__(self) -> Iterator[str]:
        return iter(self.runs)

    def __len__(self) -> int:
        return len(self.runs)

    def __getitem__(self, key: str) -> RunBudget:
        if key not in self._made:
            allowances, eaten = self._drafts[key]
            least = {piece: self._tightest.get(piece, mine) for piece, mine in allowances.items()}
            self._made[key] = _budget(
                self.craft, self.runs[key], self.solution, self.limits, least, eaten
            )
        return self._made[key]

    def spend(self, key: str) -> Spend:
        """What a run loses, without sharing its volts out to its pieces."""
        return self._spends[key]

    @cached_property
    def _spends(self) -> dict[str, Spend]:
        return {
            key: spend(self.craft, run, self.solution, self.limits)
            for key, run in self.runs.items()
        }

    @cached_property
    def _drafts(self) -> dict[str, Draft]:
        wants = _Wants(self.craft, self.solution, self.limits, self.tables)
        return {key: _draft(self.craft, run, wants) for key, run in self.runs.items()}

    @cached_property
    def _tightest(self) -> dict[str, Allowance]:
        tightest: dict[str, Allowance] = {}
        for key, (allowances, _) in self._drafts.items():
            if self.solution.elements[key].current_a == 0:
                continue
            for piece_id, allowance in allowances.items():
                held = tightest.get(piece_id)
                if held is None or allowance.volts < held.volts:
                    tightest[piece_id] = allowance
        return tightest


def _budget(
    craft: Craft,
    run: Run,
    solution: Solution,
    limits: Limits,
    allowances: Mapping[str, Allowance],
    eaten: Mapping[Side, tuple[str, ...]],
) -> RunBudget:
    ceilings = limits.ceilings(run.load, craft.nominal_v)
    sides = [
        _side(run, side, ceilings, solution, allowances, eaten.get(side, ())) for side in SIDES
    ]
    return RunBudget(
        run,
        ceilings,
        sides[0],
        sides[1],
        solution.volts(run.feed_terminal, run.return_terminal) or 0.0,
        solution.volts(run.source.live, run.source.back) or 0.0,
        abs(solution.elements[run.load.id].current_a),
    )


def spend(craft: Craft, run: Run, solution: Solution, limits: Limits) -> Spend:
    """What a run loses on either side, and its ceilings."""
    feed, back = (
        sum(step_drop_v(s, solution) for s in run.side(side) if not s.beside and not on_purpose(s))
        for side in SIDES
    )
    return Spend(limits.ceilings(run.load, craft.nominal_v), feed, back)


def step_current_a(step: Step, solution: Solution) -> float:
    """Current (A) through a step in the run's direction."""
    current = solution.elements[step.piece.id].current_a
    return current if step.forward else -current


def step_drop_v(step: Step, solution: Solution) -> float:
    """Volts lost over a step in the run's direction; an open contact keeps back all there is."""
    drop = solution.elements[step.piece.id].drop_v or 0.0
    return drop if step.forward else -drop


def _side(
    run: Run,
    side: Side,
    ceilings: Ceilings,
    solution: Solution,
    allowances: Mapping[str, Allowance],
    eaten: tuple[str, ...],
) -> SideBudget:
    pieces = tuple(
        PieceBudget(
            step,
            step_current_a(step, solution),
            step_drop_v(step, solution),
            allowances[step.piece.id],
        )
        for step in run.side(side)
    )
    purpose = sum(p.drop_v for p in pieces if on_purpose(p.step) and not p.step.beside)
    drop = sum(p.drop_v for p in pieces if not p.step.beside) - purpose
    ceiling = ceilings.feed_v if side == "feed" else ceilings.return_v
    return SideBudget(side, ceiling, drop, purpose, pieces, eaten)


def on_purpose(step: Step) -> bool:
    """Whether this step was fitted to drop volts, and so is no loss."""
    return isinstance(step.piece, FixedPiece) and step.piece.kind == "resistor"


@dataclass(slots=True)
class _Share:
    """One step while the volts are shared out: a fixed want, or a weight in the copper."""

    step: Step
    side: Side
    volts: float = 0.0
    weight: float = 0.0
    rule: str = "aged"


class _Wants:
    """What each piece wants of the volts; the same whichever run it is shared out in."""

    def __init__(self, craft: Craft, solution: Solution, limits: Limits, tables: Tables) -> None:
        self.craft, self.solution, self.limits, self.tables = craft, solution, limits, tables
        self._known: dict[str, tuple[float, float, str]] = {}

    def share(self, step: Step, side: Side) -> _Share:
        """A step's share before anything is shared out."""
        known = self._known.get(step.piece.id)
        if known is None:
            known = self._known[step.piece.id] = self._want(step.piece)
        return _Share(step, side, *known)

    def _want(self, piece: AnyPiece) -> tuple[float, float, str]:
        """Volts (V), weight in the copper, and the rule."""
        state = self.solution.elements[piece.id]
        current = abs(state.current_a)
        if isinstance(piece, Conductor):
            if piece.pinned_v is not None:
                return piece.pinned_v, 0.0, "pinned"
            if piece.length_m > 0:
                return 0.0, piece.length_m * math.sqrt(current), "copper"
            return abs(state.drop_v or 0.0), 0.0, "own"
        want = expected(piece, self.tables.fixed).aged_ohm * current
        if piece.kind == "resistor":
            return want, 0.0, "purpose"
        rule = "aged"
        if piece.pinned_v is not None:
            want, rule = piece.pinned_v, "pinned"
        ceiling = self.limits.single_ceiling_v(piece.kind, self.craft.nominal_v)
        if ceiling is not None and ceiling < want:
            want, rule = ceiling, "ceiling"
        return want, 0.0, rule


def _draft(craft: Craft, run: Run, wants: _Wants) -> Draft:
    ceilings = wants.limits.ceilings(run.load, craft.nominal_v)
    shares = [
        wants.share(step, side) for side in SIDES for step in run.side(side) if not step.beside
    ]
    eaten = _share_out(shares, ceilings)
    allowances = {s.step.piece.id: Allowance(s.volts, s.rule, run.load.id) for s in shares}
    allowances.update(_beside(run, wants.solution, allowances))
    return allowances, eaten


def _share_out(shares: list[_Share], ceilings: Ceilings) -> dict[Side, tuple[str, ...]]:
    """Give each share its volts so that no ceiling is exceeded; name what left copper nothing."""
    eaten: dict[Side, tuple[str, ...]] = {}
    rate: dict[Side, float] = {}
    counted = [s for s in shares if s.rule != "purpose"]
    for side, ceiling in zip(SIDES, (ceilings.feed_v, ceilings.return_v), strict=True):
        mine = [s for s in counted if s.side == side]
        left = _squeeze(mine, math.inf if ceiling is None else ceiling)
        weight = sum(s.weight for s in mine)
        rate[side] = left / weight if weight else 0.0
        if weight and left <= 0:
            eaten[side] = _by_appetite(mine)
    if ceilings.round_trip_v is not None:
        left = _squeeze(counted, ceilings.round_trip_v)
        weights = {side: sum(s.weight for s in counted if s.side == side) for side in SIDES}
        if left <= 0:
            eaten |= {side: _by_appetite(counted) for side in SIDES if weights[side]}
        rate = _common_rate(rate, weights, left)
    for share in counted:
        if share.rule == "copper":
            share.volts = rate[share.side] * share.weight
    return eaten


def _by_appetite(shares: list[_Share]) -> tuple[str, ...]:
    return tuple(s.step.piece.id for s in sorted(shares, key=lambda s: -s.volts) if s.volts)


def _squeeze(shares: list[_Share], ceiling: float) -> float:
    """What the fixed wants leave of a ceiling; where they exceed it, they shrink to fit.

    What a person pinned shrinks last, when even the pins alone exceed the ceiling.
    """
    for group in (
        [s for s in shares if s.rule == "pinned"],
        [s for s in shares if s.rule != "pinned" and s.volts],
    ):
        wanted = sum(s.volts for s in group)
        if wanted > ceiling:
            for share in group:
                share.volts *= ceiling / wanted
                share.rule = "squeezed"
            wanted = ceiling
        ceiling -= wanted
    return max(ceiling, 0.0)


def _common_rate(
    rate: Mapping[Side, float], weights: Mapping[Side, float], left: float
) -> dict[Side, float]:
    """Lower the sides' rates (V per unit of weight) to one common level that `left` can pay."""
    if sum(rate[s] * weights[s] for s in SIDES if weights[s]) <= left:
        return dict(rate)
    total = sum(weights.values())
    level = left / total
    for side, other in (SIDES, SIDES[::-1]):
        if rate[side] < level and weights[other]:
            level = (left - rate[side] * weights[side]) / weights[other]
    return {side: min(rate[side], level) for side in SIDES}


def _beside(
    run: Run, solution: Solution, allowances: Mapping[str, Allowance]
) -> dict[str, Allowance]:
    """Ways beside share their group's volts in the proportion in which they drop them."""
    out: dict[str, Allowance] = {}
    for side in SIDES:
        steps = run.side(side)
        if not any(s.beside for s in steps):
            continue
        for group in {s.group for s in steps if s.beside}:
            main = [s for s in steps if s.group == group and not s.beside]
            allowed = sum(allowances[s.piece.id].volts for s in main)
            spent = sum(abs(step_drop_v(s, solution)) for s in main)
            for step in steps:
                if step.group == group and step.beside:
                    part = abs(step_drop_v(step, solution)) / spent if spent else 0.0
                    out[step.piece.id] = Allowance(allowed * min(part, 1.0), "copper", run.load.id)
    return out


@dataclass(frozen=True, slots=True)
class Headroom:
    """How much more until the first ceiling, and which that is; negative where it is passed.

    None stands for no bound within reason.
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


def headroom(network: Network, budget: RunBudget, limits: Limits) -> Headroom:
    """How many more amperes at the load, and metres to it, the run's ceilings would bear.

    Each trial solves the whole network again. The metres lengthen the run's last feed conductor and
    first return conductor alike: the load moves away with its own pair of wires.
    """
    own = own_pair(budget.run)
    ceilings = _named_ceilings(network.craft, budget, limits)
    pieces = {p.step.piece.id: p for side in budget.sides for p in side.pieces}

    def spares(lost: Callable[[Step], float]) -> dict[str, float]:
        sums = _named_sums(budget.run, lost)
        return {name: ceiling - sums[name] for name, ceiling in ceilings.items()}

    def solved(stretched: dict[str, float] | None = None, extra: float = 0.0) -> dict[str, float]:
        try:
            solution = network.solve({budget.run.load.id: extra}, stretched)
        except (JobError, NoSolution):
            return {}
        return spares(lambda step: step_drop_v(step, solution))

    def longer(extra: float) -> dict[str, float]:
        return solved({wire.id: 1 + extra / wire.length_m for wire in own})

    def per_ampere(step: Step) -> float:
        piece = pieces[step.piece.id]
        return piece.drop_v / piece.current_a if piece.current_a else 0.0

    def per_metre(step: Step) -> float:
        wire = next((w for w in own if w.id == step.piece.id), None)
        return pieces[wire.id].drop_v / wire.length_m if wire else 0.0

    now = spares(lambda step: pieces[step.piece.id].drop_v)
    amperes, amperes_until = _first_met(
        now, _named_sums(budget.run, per_ampere), lambda a: solved(extra=a),
        -budget.current_a, MOST_EXTRA_A,
    )  # fmt: skip
    names = {key: called(piece.step.piece) for key, piece in pieces.items()}
    amperes_until = names.get(amperes_until, amperes_until)
    if not own:
        return Headroom(amperes, amperes_until, None, "")
    shortest = -min(wire.length_m for wire in own)
    length, metres_until = _first_met(
        now, _named_sums(budget.run, per_metre), longer, shortest, MOST_EXTRA_M
    )
    return Headroom(amperes, amperes_until, length, names.get(metres_until, metres_until))


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
        "feed ceiling": budget.ceilings.feed_v,
        "return ceiling": budget.ceilings.return_v,
        "round trip ceiling": budget.ceilings.round_trip_v,
    }
    for step in budget.run.steps():
        if isinstance(step.piece, FixedPiece) and not on_purpose(step):
            given[step.piece.id] = limits.single_ceiling_v(step.piece.kind, craft.nominal_v)
    return {name: ceiling for name, ceiling in given.items() if ceiling is not None}


def _named_sums(run: Run, value: Callable[[Step], float]) -> dict[str, float]:
    """A value of every step, summed as the ceilings of the same names sum volts."""
    out = {step.piece.id: abs(value(step)) for step in run.steps()}
    for side in SIDES:
        counted = (s for s in run.side(side) if not s.beside and not on_purpose(s))
        out[f"{side} ceiling"] = sum(value(s) for s in counted)
    out["round trip ceiling"] = out["feed ceiling"] + out["return ceiling"]
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
