"""Limit sets: how many volts each side of a loop, the round trip and a single piece may lose."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from .pieces import Duty, Load

LIMITS_STATED_AT_V = 12.0
"""Limit sets are written for this nominal voltage and scale with it."""


@dataclass(frozen=True, slots=True)
class Ceilings:
    """The most (V) that a feed, a return and both together may lose; None where a set is silent."""

    feed_v: float | None = None
    return_v: float | None = None
    round_trip_v: float | None = None

    def scaled(self, factor: float) -> "Ceilings":
        """The same ceilings at another nominal voltage."""
        return Ceilings(
            *(_times(v, factor) for v in (self.feed_v, self.return_v, self.round_trip_v))
        )


@dataclass(frozen=True, slots=True)
class LimitSet:
    """One school's limits at 12 V nominal: ceilings by duty, ceilings for single pieces by kind.

    `single_v` maps a kind of piece to its ceiling in V; the key `any` stands for every fixed kind
    it does not name. `why` says in a line who keeps these limits, and what for.
    """

    id: str
    name: str
    why: str
    by_duty: Mapping[Duty, Ceilings]
    single_v: Mapping[str, float]

    def ceilings(self, load: Load, nominal_v: float) -> Ceilings:
        """The ceilings (V) of a load's loop on a craft of this nominal voltage."""
        return self.by_duty[load.duty].scaled(nominal_v / LIMITS_STATED_AT_V)

    def single_ceiling_v(self, kind: str, nominal_v: float) -> float | None:
        """The ceiling (V) of one piece of this kind; None where the set has none."""
        at_12 = self.single_v.get(kind, self.single_v.get("any"))
        return _times(at_12, nominal_v / LIMITS_STATED_AT_V)


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits a job uses: a set, and ceilings of its own that rule for some loads."""

    limit_set: LimitSet
    own: Mapping[str, Ceilings]

    def ceilings(self, load: Load, nominal_v: float) -> Ceilings:
        """The ceilings (V) of a load's loop, the job's own before the set's."""
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
        """The ceiling (V) of one piece of this kind; None where there is none."""
        return self.limit_set.single_ceiling_v(kind, nominal_v)


def _times(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor
