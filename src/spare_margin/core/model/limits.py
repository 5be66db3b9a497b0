"""Limit sets: how many volts each side of a loop, the round trip and a single piece may lose.

Practitioners disagree, with reasons. A set is one school: rules by duty and by whether the load
must not fail, and ceilings for single pieces by kind, all stated for 12 V nominal.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.model.pieces import Craft, Duty, Load, Scenario
from spare_margin.core.model.values import Volts

from .starting import free_in

LIMITS_STATED_AT_V = 12.0
"""Limit sets are written for this nominal voltage and scale with it."""


@dataclass(frozen=True, slots=True)
class Ceilings:
    """The most (V) that a feed, a return and both together may lose; None where a set is silent."""

    feed_v: Volts | None = None
    return_v: Volts | None = None
    round_trip_v: Volts | None = None

    def scaled(self, factor: float) -> "Ceilings":
        """The same ceilings at another nominal voltage.

        Args:
            factor: the nominal voltage over that which they are for.
        """
        return Ceilings(
            *(_times(v, factor) for v in (self.feed_v, self.return_v, self.round_trip_v))
        )


@dataclass(frozen=True, slots=True)
class LimitRule:
    """Ceilings at 12 V for loads of one duty and criticality; None stands for every one."""

    duty: Duty | None
    critical: bool | None
    ceilings: Ceilings
    note: str = ""

    def fits(self, load: Load) -> bool:
        """Whether this rule speaks of such a load."""
        return self.duty in (None, load.duty) and self.critical in (None, load.critical)


@dataclass(frozen=True, slots=True)
class LimitSet:
    """One school's limits at 12 V nominal.

    The most particular rule that fits a load counts; a set without one leaves it unlimited.
    `single_v` maps a kind of piece to its ceiling in V; the key `any` stands for every fixed kind
    it does not name. `why` says in a line who keeps these limits, and what for.
    """

    id: str
    name: str
    why: str
    rules: tuple[LimitRule, ...]
    single_v: Mapping[str, float]
    own: bool = False
    """Whether a workshop made it; shipped sets are copied, not changed."""

    def rule(self, load: Load) -> LimitRule | None:
        """The rule that counts for a load: a rule for its duty before one for its criticality."""
        fitting = [r for r in self.rules if r.fits(load)]
        if not fitting:
            return None
        return max(fitting, key=lambda r: (r.duty is not None, r.critical is not None))

    def ceilings(self, load: Load, nominal_v: float) -> Ceilings:
        """The ceilings (V) of a load's loop on a craft of this nominal voltage.

        Args:
            nominal_v: the craft's nominal voltage (V).
        """
        rule = self.rule(load)
        return rule.ceilings.scaled(nominal_v / LIMITS_STATED_AT_V) if rule else Ceilings()

    def single_ceiling_v(self, kind: str, nominal_v: float) -> float | None:
        """The ceiling (V) of one piece of this kind; None where the set has none.

        Args:
            nominal_v: the craft's nominal voltage (V).
        """
        at_12 = self.single_v.get(kind, self.single_v.get("any"))
        return _times(at_12, nominal_v / LIMITS_STATED_AT_V)


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits a job uses: a set, and ceilings of its own that rule for some loads."""

    limit_set: LimitSet
    own: Mapping[str, Ceilings]
    free: frozenset[str] = frozenset()
    """Ids of the loads that are held to no ceiling."""

    def during(self, craft: Craft, scenario: Scenario) -> "Limits":
        """The limits as they hold in a state: in an engine's start its starter alone is held to any.

        Args:
            craft: the wiring.
            scenario: the state of the craft that is asked about.
        """
        free = free_in(craft, scenario)
        return self if free == self.free else replace(self, free=free)

    def ceilings(self, load: Load, nominal_v: float) -> Ceilings:
        """The ceilings (V) of a load's loop, the job's own before the set's.

        Args:
            nominal_v: the craft's nominal voltage (V).
        """
        if load.id in self.free:
            return Ceilings()
        from_set = self.limit_set.ceilings(load, nominal_v)
        own = self.own.get(load.id)
        if own is None:
            return from_set
        given = {
            key: value
            for key in ("feed_v", "return_v", "round_trip_v")
            if (value := getattr(own, key)) is not None
        }
        return replace(from_set, **given)

    def single_ceiling_v(self, kind: str, nominal_v: float) -> float | None:
        """The ceiling (V) of one piece of this kind; None where there is none.

        Args:
            nominal_v: the craft's nominal voltage (V).
        """
        return self.limit_set.single_ceiling_v(kind, nominal_v)


def _times(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor
