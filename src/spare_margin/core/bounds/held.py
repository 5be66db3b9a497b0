"""A run's sides in one moment, held against their limits at the loaded current."""

import math
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.runs import Step
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import SIDES, Scenario, Side, undrawn

from .conclusion import AgainstLimit, Range, SideVerdict, Together
from .constraints import Extreme
from .drift import Interval
from .moment import ReadStretch, RunMoment
from .scale import Drawn, Others, Scale

Allowed = Callable[[Scenario], RunBudget]
PARTS: tuple[Side | Together, ...] = ("feed", "return", "together")
AS_RAN: Mapping[SideVerdict, SideVerdict] = {
    "over": "over_as_ran", "within": "within_as_ran", "too_close": "too_close",
    "not_judged": "not_judged",
}  # fmt: skip
"""What is said where it ran, and no meter says with how many amperes."""


@dataclass(frozen=True)
class RunLimits:
    """What a run may lose (V), what its pieces may and its loads draw by scenario, and where that holds."""

    ceilings: Ceilings
    allowed: Allowed
    drawn: Drawn
    scenarios: Sequence[Scenario]

    def of(self, part: Side | Together) -> float | None:
        """The limit of a side, or of both together: no more than what the sides may lose by themselves.

        Args:
            part: feed, return, or both together.
        """
        held = self.ceilings
        both = [] if held.round_trip_v is None else [held.round_trip_v]
        if held.feed_v is not None and held.return_v is not None:
            both.append(held.feed_v + held.return_v)
        return {
            "feed": held.feed_v, "return": held.return_v, "together": min(both, default=None)
        }[part]  # fmt: skip


class Judged:
    """One moment with what it says of each side, of both together, and of each piece.

    Args:
        limits: what the run may lose, and what the loads draw, by scenario.
    """

    def __init__(self, moment: RunMoment, limits: RunLimits) -> None:
        self.moment, self.limits = moment, limits
        self.bounds = moment.bounds
        own = moment.run.load.id
        on = [s for s in limits.scenarios if own in s.on]
        self.scenarios = on or [moment.conditions.scenario]
        self._loaded: dict[tuple[Side | Together, str], tuple[Extreme, Extreme]] = {}

    @cached_property
    def scales(self) -> Mapping[str, Mapping[tuple[str, ...], Interval]]:
        """By scenario, how many times each stretch drops there what it dropped in the moment.

        Where the same loads are on and draw the same, as while a battery is charged, it is the same.
        """
        stretches = [s for side in SIDES for s in self.moment.sides[side]]
        made: dict[Hashable, Mapping[tuple[str, ...], Interval]] = {}
        out = {}
        for scenario in self.scenarios:
            alike = scenario.on, tuple(self.limits.drawn(scenario).items())
            if alike not in made:
                scale = self._scale(scenario)
                made[alike] = {s.pieces: scale.of(s) for s in stretches}
            out[scenario.id] = made[alike]
        return out

    @cached_property
    def _alike(self) -> Mapping[str, str]:
        """By scenario, the first in which the currents are the same: there the same is lost.

        A battery that is charged, say, changes neither.
        """
        first: dict[tuple[Interval, ...], str] = {}
        return {
            key: first.setdefault(tuple(each.values()), key) for key, each in self.scales.items()
        }

    def _scale(self, scenario: Scenario) -> Scale:
        return Scale(self.moment, scenario, self.limits.drawn(scenario), self._others)

    @cached_property
    def _others(self) -> Others:
        return Others(self.moment, self.limits.drawn(self.moment.conditions.scenario))

    # What is lost

    @cached_property
    def _stretches(self) -> Mapping[Side | Together, list[ReadStretch]]:
        """What counts against the limit of each part: what is fitted to drop volts does not."""
        feed, back = ([s for s in self.moment.sides[side] if not s.purpose] for side in SIDES)
        return {"feed": feed, "return": back, "together": feed + back}

    def _most(self, part: Side | Together, times: Mapping[tuple[str, ...], float]) -> Extreme:
        """The most that a part can lose, each stretch so many times what it did."""
        return self._extreme(part, times, 1.0)

    def _least(self, part: Side | Together, times: Mapping[tuple[str, ...], float]) -> Extreme:
        found = self._extreme(part, times, -1.0)
        return Extreme(-found.volts, lambda: found.by)

    def _extreme(
        self, part: Side | Together, times: Mapping[tuple[str, ...], float], sign: float
    ) -> Extreme:
        return self.bounds.most_of(
            [
                (s.entry, s.exit, times[s.pieces])
                if sign > 0
                else (s.exit, s.entry, times[s.pieces])
                for s in self._stretches[part]
            ]
        )

    def ran(self, part: Side | Together) -> tuple[Extreme, Extreme]:
        """The least and the most that a part lost when it was read."""
        once = {s.pieces: 1.0 for s in self._stretches[part]}
        return self._least(part, once), self._most(part, once)

    def loaded(self, part: Side | Together, scenario: Scenario) -> tuple[Extreme, Extreme]:
        """The least and the most that a part loses at the loaded current of a scenario."""
        key = part, self._alike[scenario.id]
        if key not in self._loaded:
            scales = self.scales[scenario.id]
            self._loaded[key] = (
                self._least(part, {k: least for k, (least, _) in scales.items()}),
                self._most(part, {k: most for k, (_, most) in scales.items()}),
            )
        low, high = self._loaded[key]
        top = self._tops[scenario.id]
        return low.at_most(top), high.at_most(top)

    @cached_property
    def _tops(self) -> Mapping[str, float]:
        """By scenario, the most the run's source can give (V)."""
        source = self.moment.run.source
        return {s.id: s.source(source).open_circuit_v for s in self.scenarios}

    # Against the limits

    @cached_property
    def parts(self) -> Mapping[Side | Together, AgainstLimit]:
        """Both sides, and both together."""
        return {part: self._held(part) for part in PARTS}

    def _held(self, part: Side | Together) -> AgainstLimit:
        low, high = self.ran(part)
        limit = self.limits.of(part)
        each = [(self.loaded(part, s), s) for s in self.scenarios]
        (least, _), _ = max(each, key=lambda e: e[0][0].volts)
        (_, most), worst = max(each, key=lambda e: e[0][1].volts)
        verdict = self._verdict(limit, (low, high), (least, most))
        by = low.by if verdict in ("over", "over_as_ran") else most.by
        return AgainstLimit(
            part, range_of(low, high), range_of(least, most), limit, verdict, self._direct(part), by,
            worst.id,
        )  # fmt: skip

    def _verdict(
        self, limit: float | None, ran: tuple[Extreme, Extreme], loaded: tuple[Extreme, Extreme]
    ) -> SideVerdict:
        moment = self.moment
        if moment.dead:
            return "not_judged"
        if moment.flows:
            return _against(limit, *loaded)
        if not moment.ran:
            return "not_judged"
        # At its full draw it loses no less, whatever it draws now.
        least = max(ran[0], loaded[0], key=lambda extreme: extreme.volts)
        return AS_RAN[_against(limit, least, ran[1])]

    def _direct(self, part: Side | Together) -> bool:
        """Whether every stretch of it was read across itself, or lies within such a reading."""
        if part == "together":
            return self._direct("feed") and self._direct("return")
        return all(
            self.spanned(part, s.start, s.end)
            for s in self.moment.run.sections(part)
            if not s.on_purpose
        )

    def spanned(self, side: Side, start: str, end: str) -> bool:
        """Whether two points of a side were read across, or are joined by readings within the side.

        Args:
            start: the id of the first point, as the current passes.
            end: the id of the last one.
        """
        high = self.bounds.most(start, end)
        inside = set(self.moment.line[side])
        return bool(high.readings) and all({b.start, b.end} <= inside for b in high.by)

    # Its pieces

    @cached_property
    def worst(self) -> Scenario:
        """The scenario in which least is spare at the most the run can lose."""

        def spare(scenario: Scenario) -> float:
            out = [math.inf]
            for part in PARTS:
                limit = self.limits.of(part)
                low, high = self.loaded(part, scenario)
                lost = high.volts if math.isfinite(high.volts) else low.volts
                out.append(math.inf if limit is None else limit - lost)
            return min(out)

        if len(self.scenarios) == 1:
            return self.scenarios[0]
        return min(self.scenarios, key=spare)

    @cached_property
    def allowances(self) -> Mapping[str, float]:
        """What each piece may lose at the loaded current of the worst scenario (V), by id.

        Undrawn pieces share what the drawn ones of their side leave of its limit.
        """
        out: dict[str, float] = {}
        for side in self.limits.allowed(self.worst).sides:
            own = {p.step.piece.id: p.allowance.volts for p in side.pieces}
            guessed = [
                p.step.piece.id for p in side.pieces if undrawn(p.step.piece) and not p.step.beside
            ]
            if guessed and side.ceiling_v is not None:
                drawn = sum(
                    v.allowance.volts for v in side.pieces
                    if v.step.piece.id not in guessed and not v.step.beside
                )  # fmt: skip
                left = max(side.ceiling_v - drawn, 0.0) / len(guessed)
                own.update({key: max(own[key], left) for key in guessed})
            out.update(own)
        return out

    def span(self, stretches: Sequence[ReadStretch]) -> tuple[Extreme, Extreme]:
        """The least and the most that neighbouring stretches lose at the loaded current of the worst."""
        scales = self.scales[self.worst.id]
        rates = [scales[s.pieces] for s in stretches]
        low = self._span_extreme(stretches, [r[0] for r in rates], -1.0)
        high = self._span_extreme(stretches, [r[1] for r in rates], 1.0)
        return Extreme(-low.volts, lambda: low.by), high

    def _span_extreme(
        self, stretches: Sequence[ReadStretch], times: Sequence[float], sign: float
    ) -> Extreme:
        return self.bounds.most_of(
            [
                (s.entry, s.exit, t) if sign > 0 else (s.exit, s.entry, t)
                for s, t in zip(stretches, times, strict=True)
            ]
        )

    @cached_property
    def pieces(self) -> Mapping[str, tuple[Extreme, Extreme, ReadStretch]]:
        """What each piece of the main way loses at the loaded current, its least and its most, by id.

        A piece within a stretch may lose all of it, or nothing.
        """
        out: dict[str, tuple[Extreme, Extreme, ReadStretch]] = {}
        for side in SIDES:
            for stretch in self.moment.sides[side]:
                if stretch.steps[0].load is not None:
                    continue
                low, high = self.span([stretch])
                alone = len(stretch.steps) == 1
                for piece in stretch.pieces:
                    most = high if stretch.falls or alone else Extreme(math.inf)
                    out[piece] = (low if alone else Extreme(0.0), most, stretch)
        return out

    def ohms(self, entry: str, exit_: str, stretches: Sequence[ReadStretch]) -> Interval | None:
        """Least and most ohms between two points; None where the current there is not known, or differs.

        Args:
            entry: the id of the point where the current enters.
            exit_: the id of the point where it leaves.
            stretches: what lies between them.
        """
        each = {self._amps(s) for stretch in stretches for s in stretch.steps}
        (amps,) = each if len(each) == 1 else (None,)
        if amps is None or amps[0] <= 0:
            return None
        low = max(self.bounds.least_v(entry, exit_), 0.0)
        return low / amps[1], self.bounds.most_v(entry, exit_) / amps[0]

    def _amps(self, step: Step) -> Interval | None:
        """What a step carried in the moment (A), its least and its most; None where nobody can say."""
        moment = self.moment
        read = moment.through(step)
        if read is not None or moment.amperes is None:
            return read
        if step.piece.id in moment.bridged:
            return None
        if moment.private(step):
            return moment.amperes
        if step.group is not None:
            return None
        others = set(moment.users.get(step.piece.id, ())).difference(moment.run.string)
        if any(moment.craft.load(k).behaviour is None for k in others & moment.conditions.running):
            return None
        beside = self._others.together(others)
        return moment.amperes[0] + beside[0], moment.amperes[1] + beside[1]

    def parting(self, side: Side) -> list[str]:
        """Points of a side, not read yet, at which what passes changes: there a side parts in two."""
        scale = self._scale(self.worst)
        read = set(self.moment.line[side])
        main = self.moment.run.way(side)
        each = [scale.of(ReadStretch(side, s.entry, s.exit, (s,), True, False)) for s in main]
        return [
            step.entry
            for (before, after), step in zip(pairwise(each), main[1:], strict=True)
            if before != after and step.entry not in read
        ]

    def carried(self, step: Step) -> float | None:
        """What a step carried in the moment (A): as metered, else with what others draw by the drawing."""
        moment = self.moment
        read = moment.through(step)
        if read is not None:
            return sum(read) / 2
        now = self._others.drawn
        own = sum(moment.amperes) / 2 if moment.amperes else now.get(moment.run.load.id, 0.0)
        if step.group is not None and not moment.private(step):
            return None
        others = set(moment.users.get(step.piece.id, ())).difference(moment.run.string)
        return own + sum(now.get(key, 0.0) for key in others)

    @cached_property
    def cleared(self) -> frozenset[str]:
        """Pieces that no circuit with these readings can convict, with current that is proven."""
        if not self.moment.flows:
            return frozenset()
        return frozenset(
            piece
            for piece, (_, high, _) in self.pieces.items()
            if high.volts <= self.allowances.get(piece, 0.0) + ROUNDING
        )

    def unless_a(self) -> float | None:
        """The current (A) from which on the load itself would be to blame for what is over as it ran."""
        should = self.limits.drawn(self.moment.conditions.scenario).get(self.moment.run.load.id)
        if not should or self.moment.run.load.behaviour is None:
            return None
        over = [
            part.ran.low / part.limit_v
            for part in self.parts.values()
            if part.verdict == "over_as_ran" and part.limit_v and part.ran.low is not None
        ]
        return should * max(over) if over else None


def _against(limit: float | None, least: Extreme, most: Extreme) -> SideVerdict:
    """A least and a most against a limit; without a limit what is bounded is within."""
    if limit is not None and least.volts > limit:
        return "over"
    if not math.isfinite(most.volts):
        return "not_judged"
    return "within" if limit is None or most.volts <= limit + ROUNDING else "too_close"


def range_of(low: Extreme, high: Extreme) -> Range:
    """A least and a most as a range (V), open where nothing bounds it.

    Args:
        low: the least (V).
        high: the most (V).
    """
    # What rounding leaves of a nought is one, and it has no sign.
    return Range(
        *(round(e.volts, 8) + 0.0 if math.isfinite(e.volts) else None for e in (low, high))
    )
