"""What a run allows each of its pieces, so that its ceilings hold.

Fixed pieces get their aged but acceptable resistance times the loaded current, never more than the
single-piece ceiling; what is left goes to the copper in proportion to L * sqrt(I), which minimises
the sum of length x area (Lagrange: A_i = rho L_i I_i / v_i).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple, get_args

from spare_margin.core.circuit.runs import AnyPiece, Run, Step
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import SIDES, Conductor, Craft, FixedKind, Side
from spare_margin.core.model.tables import Tables

UNKNOWN_LENGTH_M = 3.0
"""A stretch that nobody has drawn shares in what the fixed pieces leave as so much wire would."""


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


def step_current_a(step: Step, solution: Solution) -> float:
    """Current (A) through a step in the run's direction."""
    current = solution.elements[step.piece.id].current_a
    return current if step.forward else -current


def step_drop_v(step: Step, solution: Solution) -> float:
    """Volts lost over a step in the run's direction; an open contact keeps back all there is."""
    drop = solution.elements[step.piece.id].drop_v or 0.0
    return drop if step.forward else -drop


class Want(NamedTuple):
    """What a piece wants of the volts: V of its own, or a weight in the copper's, and by which rule."""

    volts: float
    weight: float
    rule: str


class Wants(dict[str, Want]):
    """What each piece wants, by its id; the same whichever run it is shared out in."""

    def __init__(self, craft: Craft, solution: Solution, limits: Limits, tables: Tables) -> None:
        super().__init__()
        self.pieces = {piece.id: piece for piece in craft.pieces}
        self.solution, self.tables = solution, tables
        self.ceilings = {
            kind: limits.single_ceiling_v(kind, craft.nominal_v) for kind in get_args(FixedKind)
        }

    def __missing__(self, key: str) -> Want:
        want = self[key] = self._want(self.pieces[key])
        return want

    def _want(self, piece: AnyPiece) -> Want:
        state = self.solution.elements[piece.id]
        current = abs(state.current_a)
        if isinstance(piece, Conductor):
            if piece.pinned_v is not None:
                return Want(piece.pinned_v, 0.0, "pinned")
            if piece.length_m > 0:
                return Want(0.0, piece.length_m * math.sqrt(current), "copper")
            return Want(abs(state.drop_v or 0.0), 0.0, "own")
        if piece.kind == "unknown" and piece.pinned_v is None:
            return Want(0.0, UNKNOWN_LENGTH_M * math.sqrt(current), "copper")
        aged = expected(piece, self.tables.fixed).aged_ohm * current
        if piece.kind == "resistor":
            return Want(aged, 0.0, "purpose")
        wanted, rule = (aged, "aged") if piece.pinned_v is None else (piece.pinned_v, "pinned")
        ceiling = self.ceilings[piece.kind]
        if ceiling is not None and ceiling < wanted:
            wanted, rule = ceiling, "ceiling"
        return Want(wanted, 0.0, rule)


class Sharing:
    """How one run alone would share its volts out, so that no ceiling is exceeded.

    `kept` is the share of what was pinned, and of what the other fixed pieces want, that a side can
    pay; `rate` is V per unit of weight in the copper; `eaten` names, by side, the sides whose fixed
    pieces left its copper nothing.
    """

    def __init__(self, run: Run, ceilings: Ceilings, wants: Wants) -> None:
        self.run, self.wants = run, wants
        self.sides = run.main
        pins, fixed, weights = self._totals()
        self.kept: dict[Side, tuple[float, float]] = {}
        self.rate: dict[Side, float] = {}
        self.eaten: dict[Side, tuple[Side, ...]] = {}
        for side, ceiling in zip(SIDES, (ceilings.feed_v, ceilings.return_v), strict=True):
            held = math.inf if ceiling is None else ceiling
            self.kept[side], left = _squeezed(pins[side], fixed[side], held)
            self.rate[side] = left / weights[side] if weights[side] else 0.0
            if weights[side] and left <= 0:
                self.eaten[side] = (side,)
        if ceilings.round_trip_v is not None:
            pinned = sum(pins[side] * self.kept[side][0] for side in SIDES)
            others = sum(fixed[side] * self.kept[side][1] for side in SIDES)
            more, left = _squeezed(pinned, others, ceilings.round_trip_v)
            for side, (pin, other) in self.kept.items():
                self.kept[side] = pin * more[0], other * more[1]
            if left <= 0:
                self.eaten |= {side: SIDES for side in SIDES if weights[side]}
            self.rate = _common_rate(self.rate, weights, left)

    def _totals(self) -> tuple[dict[Side, float], dict[Side, float], dict[Side, float]]:
        """By side: V pinned, V that the other fixed pieces want, weight of the copper."""
        pins, fixed, weights = (dict.fromkeys(SIDES, 0.0) for _ in range(3))
        for key, side in self.sides.items():
            volts, weight, rule = self.wants[key]
            if rule == "pinned":
                pins[side] += volts
            elif rule != "purpose":
                fixed[side] += volts
                weights[side] += weight
        return pins, fixed, weights

    def allowance(self, key: str) -> Allowance:
        """What this run would allow one of its pieces."""
        side = self.sides.get(key)
        if side is None:
            return Allowance(self._beside(key), "copper", self.run.load.id)
        volts, weight, rule = self.wants[key]
        if rule == "copper":
            volts = self.rate[side] * weight
        elif rule != "purpose":
            kept = self.kept[side][0 if rule == "pinned" else 1]
            volts, rule = volts * kept, rule if kept == 1 else "squeezed"
        return Allowance(volts, rule, self.run.load.id)

    def _beside(self, key: str) -> float:
        """Ways beside share their group's volts in the proportion in which they drop them."""
        steps = list(self.run.steps())
        own = next(s for s in steps if s.piece.id == key)
        main = [s for s in steps if s.group == own.group and not s.beside]
        solution = self.wants.solution
        allowed = sum(self.allowance(s.piece.id).volts for s in main)
        spent = sum(abs(step_drop_v(s, solution)) for s in main)
        part = abs(step_drop_v(own, solution)) / spent if spent else 0.0
        return allowed * min(part, 1.0)

    def eaters(self, side: Side) -> tuple[str, ...]:
        """The fixed pieces that leave a side's copper nothing, the hungriest first."""
        ate = self.eaten.get(side, ())
        held = {key: self.allowance(key) for key, at in self.sides.items() if at in ate}
        fed = [k for k, a in held.items() if a.volts and a.rule not in ("purpose", "copper")]
        return tuple(sorted(fed, key=lambda key: -held[key].volts))


def _squeezed(pins: float, fixed: float, ceiling: float) -> tuple[tuple[float, float], float]:
    """The shares of pins and of other fixed wants that a ceiling can pay, and what it then has left.

    Where they exceed it they shrink to fit; what a person pinned shrinks last.
    """
    paid, ceiling = (ceiling / pins, 0.0) if pins > ceiling else (1.0, ceiling - pins)
    others, left = (ceiling / fixed, 0.0) if fixed > ceiling else (1.0, ceiling - fixed)
    return (paid, others), left


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
