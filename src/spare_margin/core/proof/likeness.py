"""Like for like: whether a run was read under the same conditions before and after its repair.

What is not alike is told, and what it does to the volts lost is worked out: the craft as it was left,
solved as it was read and again as it would have been under the conditions of before.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.observation.observations import live_readings
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.response.circuits import Adjusted, solved_as
from spare_margin.core.evidence.verdict.account import account
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.source_check import AGM_HIGHER_V, LITHIUM_V, SURFACE_CHARGE_V
from spare_margin.core.model.jobs import Quantity, Reading
from spare_margin.core.model.pieces import SIDES, Load, Scenario, Source, SourceState

Code = Literal["loads", "current", "source", "charger", "warm_up", "meter"]
CURRENT_SHARE = 0.05
"""Currents this close are the same."""
SOURCE_V = 0.2
"""Source volts this close are the same, at 12 V."""
WARM_SHARE, WARM_MIN = 0.5, 5.0
"""A load on for less than this share of the time, and so many minutes less, was colder."""
RISES_WITH_VOLTS: Mapping[str | None, tuple[float, float]] = {
    "constant_resistance": (1.0, 1.0),
    "filament": (0.55, 0.55),
    "constant_power": (-1.0, -1.0),
    # Drawn with one figure of current, or none: how it goes with the volts nobody said.
    "constant_current": (0.0, 1.0),
    None: (-1.0, 1.0),
}
"""Between which powers of its volts a load's current goes, by its behaviour."""


@dataclass(frozen=True, slots=True)
class Circumstances:
    """Under which conditions a run was read; None where nobody said or read it.

    Attributes:
        on: the loads that were on.
        amps, load_v: what the load drew and got, `source_v` on the posts, with it on.
        amps_doubt: half-width of the current's own doubt, without the gain that one clamp keeps.
        warm_min: minutes the load had been on, at the last reading.
        meters: names of the meters used, by what was read with them.
    """

    scenario: Scenario
    on: frozenset[str]
    amps: float | None
    amps_doubt: float
    load_v: float | None
    source_v: float | None
    warm_min: float | None
    charging: bool | None
    meters: Mapping[Quantity, frozenset[str]]


@dataclass(frozen=True, slots=True)
class Likeness:
    """One condition, before and after; `alike` is None where one of both is not known.

    `effect_v` is how much more (V) the run would have lost, feed and return together, under the
    condition of before; None where that cannot be worked out. Where it is not known before, nobody can
    say it any more: that is the fact `missing`, "before" or "after".
    """

    code: Code
    alike: bool | None
    effect_v: float | None = None
    facts: Mapping[str, float | str] = field(default_factory=dict)
    loads: tuple[str, ...] = ()


def circumstances(found: Judgement, readings: Iterable[Reading]) -> Circumstances | None:
    """The conditions of the moment that a judgement is of; None where nothing was read of the run.

    `readings` are those of the same pass.

    Args:
        found: what the readings say of the run.
    """
    conditions = found.conditions
    if conditions is None:
        return None
    here = [o for o in found.observed.each if o.conditions.key == conditions.key]
    ids = {o.reading for o in here}
    own = [r for r in live_readings(readings) if r.id in ids]
    sums = account(found)
    warm = [r.warm_min for r in own if r.warm_min is not None]
    if conditions.warm_min is not None:
        warm.append(conditions.warm_min)
    clamped = [o for o in here if o.quantity == "amperes" and o.through == found.run.load.id]
    amps = abs(clamped[-1].value) if clamped else None
    doubt = 2 * clamped[-1].sigma if clamped else 0.0
    if amps is None and found.amps is not None:
        amps, doubt = found.amps
    return Circumstances(
        conditions.scenario, conditions.running, amps, doubt,
        abs(sums.load.volts) if sums.load else None,
        abs(sums.source.volts) if sums.source else None,
        max(warm, default=None), conditions.charging,
        _meters(own),
    )  # fmt: skip


def _meters(readings: Iterable[Reading]) -> dict[Quantity, frozenset[str]]:
    """The meters of these readings by volts and amperes, as far as they are named."""
    out: dict[Quantity, frozenset[str]] = {}
    for r in readings:
        if r.meter and r.quantity in ("volts", "amperes"):
            out[r.quantity] = out.get(r.quantity, frozenset()) | {r.meter}
    return out


def likenesses(
    found: Judgement, left: Judgement, before: Circumstances, after: Circumstances
) -> tuple[Likeness, ...]:
    """Every condition compared, of a run judged as found and as left.

    Args:
        before: under which conditions it was read as found.
        after: the same, as left.
    """
    lost = _Lost(left.measured, after.scenario)
    source, nominal = left.run.source, left.craft.nominal_v
    common = frozenset(x.id for x in found.craft.loads)
    common &= frozenset(x.id for x in left.craft.loads)
    return (
        _loads(before, after, common, lost),
        _current(before, after, left.run.load, lost),
        _source(before, after, nominal, source, lost),
        _charger(before, after, nominal, source),
        _warm_up(before, after, lost),
        _meter(before, after),
    )


def _missing(before: object, after: object) -> dict[str, float | str]:
    """Which of both is not known; that of before where it is both, for it cannot be cured."""
    return {"missing": "before" if before is None else "after" if after is None else ""}


class _Lost:
    """What a run loses (V), feed and return together, where something is otherwise than as it was read."""

    def __init__(self, measured: Measured, scenario: Scenario) -> None:
        self.measured, self.scenario = measured, scenario
        self.now = self._lost(scenario, measured.point)

    def _lost(self, scenario: Scenario, point: Adjusted) -> float | None:
        measured = self.measured
        try:
            solved = solved_as(measured.craft, scenario, measured.tables, point)
        except NoSolution:
            return None
        elements = solved.solution.elements
        return sum(
            sign * (elements[key].drop_v or 0.0)
            for side in SIDES
            for key, sign in measured.run.counted[side]
        )

    def more(self, scenario: Scenario | None = None, point: Adjusted | None = None) -> float | None:
        """How much more is lost then (V); None where a load would stall."""
        then = self._lost(scenario or self.scenario, point or self.measured.point)
        return None if then is None or self.now is None else then - self.now


def _loads(
    before: Circumstances, after: Circumstances, common: frozenset[str], lost: _Lost
) -> Likeness:
    """What was added, as the coil of a new relay, is no load that was forgotten."""
    differ = (before.on ^ after.on) & common
    if not differ:
        return Likeness("loads", True)
    then = replace(lost.scenario, on=(before.on & common) | (after.on - common))
    return Likeness("loads", False, lost.more(then), loads=tuple(sorted(differ)))


def _current(before: Circumstances, after: Circumstances, load: Load, lost: _Lost) -> Likeness:
    """The current within 5 %, but for what the volts that the repair gave back make it draw."""
    if before.amps is None or after.amps is None or before.amps <= 0:
        return Likeness("current", None, facts=_missing(before.amps, after.amps))
    times = after.amps / before.amps
    low, high = 1.0, 1.0
    if before.load_v and after.load_v:
        powers = RISES_WITH_VOLTS[load.behaviour]
        by_volts = [(after.load_v / before.load_v) ** power for power in powers]
        low, high = min(1.0, *by_volts), max(1.0, *by_volts)
    doubt = math.hypot(before.amps_doubt / before.amps, after.amps_doubt / before.amps)
    off = times / high - 1 if times > high else times / low - 1 if times < low else 0.0
    facts: dict[str, float | str] = {
        "before": before.amps, "after": after.amps,
        "by_volts": "yes" if abs(times - 1) > CURRENT_SHARE else "",
    }  # fmt: skip
    if abs(off) <= CURRENT_SHARE + doubt:
        return Likeness("current", True, facts=facts)
    point = lost.measured.point
    drawn = point.load_times.get(load.id, 1.0) / (1 + off)
    effect = lost.more(point=replace(point, load_times={**point.load_times, load.id: drawn}))
    return Likeness("current", False, effect, facts | {"by_volts": ""})


def _source(
    before: Circumstances, after: Circumstances, nominal: float, source: Source, lost: _Lost
) -> Likeness:
    if before.source_v is None or after.source_v is None:
        return Likeness("source", None, facts=_missing(before.source_v, after.source_v))
    facts: dict[str, float | str] = {"before": before.source_v, "after": after.source_v}
    more = before.source_v - after.source_v
    if abs(more) <= SOURCE_V * nominal / 12:
        return Likeness("source", True, facts=facts)
    held = lost.scenario.source(source)
    states = {
        **lost.scenario.sources,
        source.id: SourceState(held.open_circuit_v + more, held.internal_ohm),
    }
    return Likeness("source", False, lost.more(replace(lost.scenario, sources=states)), facts)


def _charger(
    before: Circumstances, after: Circumstances, nominal: float, source: Source
) -> Likeness:
    """A charger by what was said; else by volts that no rested battery holds with a load on."""
    then = _charges(before, nominal, source)
    now = _charges(after, nominal, source)
    if then is None or now is None:
        return Likeness("charger", None, facts=_missing(then, now))
    facts: dict[str, float | str] = {
        "before": "on" if then else "off", "after": "on" if now else "off",
        "seen": "" if after.charging is not None else "by_volts",
    }  # fmt: skip
    return Likeness("charger", then == now, facts=facts)


def _charges(each: Circumstances, nominal: float, source: Source) -> bool | None:
    if each.charging is not None:
        return each.charging
    if source.battery == "none" or each.source_v is None:
        return None
    top = {"lithium": LITHIUM_V[1], "agm": SURFACE_CHARGE_V + AGM_HIGHER_V}
    return each.source_v > top.get(source.battery, SURFACE_CHARGE_V) * nominal / 12


def _warm_up(before: Circumstances, after: Circumstances, lost: _Lost) -> Likeness:
    """What colder wires hide is worked out for wires at their service temperature: the most it can be.

    Nothing is worked out where no wire says what its insulation bears.
    """
    if before.warm_min is None or after.warm_min is None:
        return Likeness("warm_up", None, facts=_missing(before.warm_min, after.warm_min))
    facts: dict[str, float | str] = {"before": before.warm_min, "after": after.warm_min}
    colder = (
        after.warm_min < WARM_SHARE * before.warm_min
        and before.warm_min - after.warm_min > WARM_MIN
    )
    if not colder:
        return Likeness("warm_up", True, facts=facts)
    if not any(getattr(s.piece, "insulation_c", None) for s in lost.measured.run.steps()):
        return Likeness("warm_up", False, None, facts)
    warm = replace(lost.scenario, temperature_model="self_heating")
    return Likeness("warm_up", False, lost.more(warm), facts)


def _meter(before: Circumstances, after: Circumstances) -> Likeness:
    """The gain error of one meter is the same before and after; another's is not."""
    both = before.meters.keys() & after.meters.keys()
    if not both:
        return Likeness("meter", None, facts=_missing(before.meters or None, after.meters or None))
    return Likeness("meter", all(after.meters[q] <= before.meters[q] for q in both), 0.0)
