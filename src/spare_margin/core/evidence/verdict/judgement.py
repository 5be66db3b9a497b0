"""What is said of one run, as values: the conclusion of its bounds, its sides and spans, its findings.

Verdicts and figures come from bounds. The odds are asked for what those leave open, and only when something
asks: what is likely there, and what to read next.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from spare_margin.core.bounds.conclude import Concluded
from spare_margin.core.bounds.conclusion import AgainstLimit, Conclusion, Verdict
from spare_margin.core.bounds.constraints import Bound
from spare_margin.core.bounds.held import PARTS
from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.runs import HELD, Held, Run
from spare_margin.core.evidence.estimate.search import Search, Suspect
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.outlook.probes import Probe
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import Craft, Scenario, Side

from .odds import RunOdds

PartVerdict = Literal[
    "over", "over_as_ran", "within", "within_as_ran", "too_close", "high", "not_judged"
]
Done = Literal["", "good", "cornered", "load", "no_current", "out_of_reach", "as_drawn"]
DOUBT = 2.0
"""Half-widths of what the odds say are this many standard deviations."""
SHOWN_SHARE, NEAR_V = 0.5, 0.02
"""A figure whose doubt is more than this share of it, and more than this (V), is none."""


@dataclass(frozen=True, slots=True)
class JudgedSide:
    """One side: V in the moment that counts, and at the loaded current; None where not bounded.

    `read` where it was read across itself or piece by piece; `by` is what bounds it.
    """

    side: Side
    volts: float | None
    doubt_v: float | None
    low_v: float | None
    high_v: float | None
    loaded_v: float | None
    loaded_doubt_v: float | None
    loaded_low_v: float | None
    loaded_high_v: float | None
    ceiling_v: float | None
    purpose_v: float
    verdict: PartVerdict
    read: bool
    by: tuple[Bound, ...]

    @property
    def readings(self) -> tuple[str, ...]:
        """The ids of the readings it rests on."""
        return tuple(dict.fromkeys(r for bound in self.by for r in bound.readings))


@dataclass(frozen=True, slots=True)
class Span:
    """A span of a run that was read in one moment; `side` is None where the load lies in it.

    Its points stand in the current's order where one side holds both.
    """

    red: str
    black: str
    side: Side | None
    pieces: tuple[str, ...]
    conditions: Conditions
    readings: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class JudgedSpan:
    """A span that was read, in one moment; `ohm` is V / I with its bounds, None without current."""

    span: Span
    moment: str | None
    volts: float
    doubt_v: float
    ohm: float | None = None
    ohm_low: float | None = None
    ohm_high: float | None = None
    loaded_v: float | None = None
    loaded_doubt_v: float | None = None
    allowed_v: float | None = None
    verdict: PartVerdict = "not_judged"


@dataclass(frozen=True)
class Judgement:
    """Everything the readings say of one run.

    Attributes:
        worst: the scenario of the budget, the worst by what the run may lose at most.
        budget: the run's in that scenario, as drawn.
        spare: the least spare (V) under any ceiling by what is lost at most, and which; None where that
            is not bounded, or there is no ceiling.
        odds: what is likely of what the bounds leave open.
    """

    craft: Craft
    run: Run
    observed: Observed
    concluded: Concluded
    sides: Mapping[Side, JudgedSide]
    spans: tuple[JudgedSpan, ...]
    worst: Scenario
    budget: RunBudget
    done: Done
    findings: tuple[Finding, ...]
    spare: tuple[float, str] | None
    odds: RunOdds

    @property
    def conclusion(self) -> Conclusion:
        """The one conclusion."""
        return self.concluded.conclusion

    @property
    def verdict(self) -> Verdict:
        """What is said of the limits."""
        return self.conclusion.verdict

    @property
    def loaded(self) -> bool | None:
        """Whether current is proven; None where nothing says."""
        return self.conclusion.loaded

    @property
    def amps(self) -> tuple[float, float] | None:
        """What the load draws in the moment that counts, with its doubt (A); None where no meter says."""
        found = self.conclusion.amperes
        return None if found is None else (sum(found) / 2, (found[1] - found[0]) / 2)

    @property
    def conditions(self) -> Conditions | None:
        """The moment that counts."""
        return self.conclusion.conditions

    @property
    def rests_on(self) -> tuple[str, ...]:
        """The ids of the readings that the conclusion rests on, in the order they were taken."""
        made, judged = self.conclusion, self.concluded.judged
        if made.headline in ("not_read", "no_current", "too_close"):
            return ()
        parts = [*(made.sides or {}).values(), *([made.together] if made.together else [])]
        over = [p for p in parts if p.verdict in ("over", "over_as_ran")]
        held = {r for part in over or parts for r in part.readings}
        held |= {r for each in made.found for r in each.readings}
        if made.headline == "open":
            held = {r for each in made.found for r in each.readings}
        elif judged is not None:
            held |= set(judged.moment.clamped)
        named = held if not made.contradicting else set(made.contradicting)
        taken = [o.reading for o in self.observed.each] + [s.reading for s in self.observed.screens]
        return tuple(r for r in dict.fromkeys(taken) if r in named)

    @property
    def found(self) -> tuple[str, ...]:
        """The pieces that no circuit with these readings can acquit, by id."""
        return tuple(f.piece for f in self.conclusion.found)

    def by_scenario(self) -> Mapping[str, tuple[float | None, float | None]]:
        """By scenario the load is on in: volts it gets, and the least spare (V), where both sides are
        bounded; at the most that can be lost."""
        judged = self.concluded.judged
        if judged is None or judged.moment.contradiction or not judged.moment.flows:
            return {}
        out: dict[str, tuple[float | None, float | None]] = {}
        for scenario in judged.scenarios:
            lost = {part: judged.loaded(part, scenario)[1].volts for part in PARTS}
            known = math.isfinite(lost["together"]) and all(
                s.volts is not None for s in self.sides.values()
            )
            spares = [
                limit - lost[part]
                for part in PARTS
                if (limit := judged.limits.of(part)) is not None
            ]
            source_v = judged.limits.allowed(scenario).source_v
            out[scenario.id] = (
                (max(source_v - lost["together"], 0.0), min(spares, default=None))
                if known
                else (None, None)
            )
        return out

    @property
    def unread(self) -> frozenset[Held]:
        """What of the run nothing can be said of: not drawn in full, and not read."""
        made = self.conclusion
        return frozenset(
            held
            for held, sides in HELD.items()
            if any(map(self.run.undrawn_on, sides))
            and not _bounded(
                made.together if held == "round_trip" else (made.sides or {}).get(held)
            )
        )

    @property
    def search(self) -> Search:
        """The odds over every fault."""
        return self.odds.search

    @property
    def measured(self) -> Measured:
        """The craft as measured, every piece at its likeliest."""
        return self.odds.measured

    @property
    def probes(self) -> tuple[Probe, ...]:
        """Pairs of points by what the odds expect them to tell, the most telling first."""
        return self.odds.probes

    @cached_property
    def suspects(self) -> tuple[Suspect, ...]:
        """What was found, as certain; then what the odds say of what is still open, the likeliest first.

        Where the wiring is over or open, the load and the source are no suspects.
        """
        made = self.conclusion
        found = [
            Suspect(f.piece, f.kind, 1.0, None if f.ohm is None else sum(f.ohm) / 2)
            for f in made.found
        ]
        if made.headline in ("within", "within_as_ran", "contradiction"):
            return tuple(found)
        closed = made.cleared | set(self.found)
        if made.headline in ("over", "over_as_ran", "open"):
            closed |= {self.run.load.id, self.run.source.id}
        odds = self.odds.in_time
        still = () if odds is None else odds.suspects
        return (*found, *(s for s in still if s.element not in closed))

    @cached_property
    def suspicion(self) -> Mapping[str | None, float]:
        """How likely each element is at fault, whatever is wrong with it; None: nothing is."""
        sums: dict[str | None, float] = {}
        for each in self.suspects:
            sums[each.element] = min(sums.get(each.element, 0.0) + each.probability, 1.0)
        return dict(sorted(sums.items(), key=lambda pair: -pair[1]))

    @property
    def top(self) -> tuple[str | None, float]:
        """The likeliest element at fault (None: nothing is) and how likely that is."""
        return next(iter(self.suspicion.items()), (None, 1.0))


def _bounded(part: AgainstLimit | None) -> bool:
    """Whether readings bound a part by more than what the source has."""
    return part is not None and (part.direct or part.verdict not in ("not_judged", "too_close"))
