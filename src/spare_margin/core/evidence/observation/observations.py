"""Readings as observations: what each shows of the craft of its moment, and how far it can be off.

A meter's specification has two parts: a gain error that all its readings share, and counts that each
has anew. Where only the total is known, as much of it is taken for gain as every reading of that meter
allows. A half-width a of a uniform error has the standard deviation a / sqrt(3) (JCGM 100, GUM, 4.3.7).
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from spare_margin.core.measure.findings import (
    Changed,
    Finding,
    Impossible,
    NotReachable,
    OverRange,
    RepeatsDiffer,
    Reversed,
    Ripples,
    SurfaceHot,
    SurfaceWarm,
    Swapped,
    Wandering,
)
from spare_margin.core.model.jobs import Moment, Reading, ReadingState, Trial
from spare_margin.core.model.pieces import Craft

from .moments import Conditions, conditions_of
from .together import by_free_points, stirred

TOP_SHARE = 1.35
"""No battery or charger holds more than this share of the nominal voltage on its posts."""
MILLIVOLTS_FROM = 15.0
"""A number this large on a drop was likely read in millivolts."""
GAIN_SHARE = 0.8
"""Share of the least relative accuracy of a meter's readings that is taken for its gain error."""
MOST_GAIN = {"volts": 0.02, "amperes": 0.04}
"""A meter's gain is off by this share at most, whatever its single readings are good to."""
FLOOR = {"volts": 3e-4, "amperes": 3e-3}
"""A reading is never better than this (one sigma, V or A)."""
LEAST_LIMIT = {"volts": 5e-4, "amperes": 5e-3}
"""Nor is it ever nearer than this, whatever it says of itself (V or A)."""
BESIDE_SHARE = 0.01
"""A source reading that came along is good to this share at worst."""
STRAY_V = 0.1
"""A load that is dead may show so much the wrong way round, by what others lose in its return."""
OPEN_OHMS = 1e5
"""An ohmmeter that shows this much sees no way."""
DIFFERS = 2.0
"""Repeats of one span in one moment differ where half their spread is this many times their own doubt."""
RIPPLE_SHARE = 0.5 / 12.0
"""An AC part above this share of the nominal voltage hints at a failed rectifier."""
WATCH_K, ACT_K = 10.0, 25.0
"""Surface temperature above the cable beside it (K) to watch, and to act on."""
NO_NUMBER: Mapping[ReadingState, type[OverRange | Wandering | NotReachable]] = {
    "over_range": OverRange,
    "wandering": Wandering,
    "not_reachable": NotReachable,
}


@dataclass(frozen=True, slots=True)
class Observation:
    """One reading as the model takes it.

    Attributes:
        quantity: volts from red to black, or amperes through the element `through` between them.
        value, sigma: V or A, with the standard deviation of its own error.
        meter: whose gain error it shares.
        conditions: the craft of its moment.
        sag: names the instant of a reading that had a source reading of its own; both share it.
        beside: whether it is that source reading, which came along with another.
        limit: the most it may be off by its meter's specification, gain and counts (V or A).
        taken_at: when (UTC, ISO 8601).
    """

    reading: str
    quantity: Literal["volts", "amperes"]
    red: str
    black: str
    through: str
    value: float
    sigma: float
    meter: str
    conditions: Conditions
    sag: str | None = None
    beside: bool = False
    limit: float = 0.0
    taken_at: str = ""


Shows = Literal["open", "joined", "lit", "dim", "dark", "wandering"]


@dataclass(frozen=True, slots=True)
class Screen:
    """What was seen of two points that is no figure of volts or amperes.

    An ohmmeter with the power off (`ohm` is what it showed without its leads, None where it saw no way), a
    test lamp, or a display of volts that wandered: a lead stood on what is connected to nothing.
    """

    reading: str
    red: str
    black: str
    conditions: Conditions
    shows: Shows
    ohm: float | None = None


@dataclass(frozen=True, slots=True)
class BenchCurrent:
    """What a load drew (A, at most `limit` off) on the bench, unplugged from the craft, and at what volts.

    `volts` is None where nobody said.
    """

    reading: str
    load: str
    amperes: float
    limit: float
    volts: float | None


@dataclass(frozen=True, slots=True)
class Observed:
    """All that was observed, the meters' gain errors (one sigma, relative), and what was set aside.

    `each` are the readings one by one as they were shown, those of points off the drawing too; `values`
    are repeats as one, and readings by way of such a point put together.
    """

    values: tuple[Observation, ...]
    trials: tuple[tuple[Trial, Conditions], ...]
    gains: Mapping[str, float]
    findings: tuple[Finding, ...]
    set_aside: frozenset[str]
    stirred: frozenset[str] = frozenset()
    """Pieces that were moved while a reading changed: whatever it is, it is there."""
    each: tuple[Observation, ...] = ()
    screens: tuple[Screen, ...] = ()
    bench: tuple[BenchCurrent, ...] = ()

    @property
    def conditions(self) -> list[Conditions]:
        """The conditions of all of it, each once, in the order they came."""
        every = [o.conditions for o in self.values] + [s.conditions for s in self.screens]
        every += [c for _, c in self.trials]
        return list({c.key: c for c in every}.values())


def live_readings(readings: Iterable[Reading]) -> list[Reading]:
    """The readings that stand: not superseded, not withdrawn, in the order they were taken."""
    all_of_them = list(readings)
    superseded = {r.supersedes for r in all_of_them if r.supersedes}
    return [r for r in all_of_them if r.id not in superseded and r.state != "withdrawn"]


def observe(
    craft: Craft,
    readings: Iterable[Reading],
    moments: Iterable[Moment] = (),
    trials: Iterable[Trial] = (),
    stale: frozenset[str] = frozenset(),
    forward: frozenset[tuple[str, str]] = frozenset(),
) -> Observed:
    """Readings as observations.

    Args:
        craft: the wiring they were taken on; readings whose points it lacks are left out.
        readings: all of them, superseded ones too.
        moments, trials: those that readings name.
        stale: ids of readings taken before what they crossed was changed.
        forward: pairs of points over which a drop is positive; the other way round the leads were
            swapped.
    """
    by_moment = {m.id: m for m in moments}
    by_trial = {t.id: t for t in trials}
    points = {p.id for p in craft.points}
    scenarios = {s.id for s in craft.scenarios}
    live = [
        r
        for r in live_readings(readings)
        if r.red in points and r.black in points and r.scenario in scenarios
    ]
    findings: list[Finding] = []
    live, guilty, moves = stirred(live)
    findings += moves
    reader = _Reader(craft, live, by_moment, by_trial, stale, forward)
    reader.aside |= {f.readings[0] for f in moves}
    each = [o for r in live for o in reader.read(r)]
    told = list(reader.findings)
    screens, bench = tuple(reader.screens), tuple(reader.bench)
    together = by_free_points(craft, live)
    values = each if together == live else [o for r in together for o in reader.read(r)]
    findings += told
    aside = reader.aside
    gains = reader.gains
    tried = _tried(craft, by_moment, by_trial)
    loads = {(x.start, x.end) for x in craft.loads}
    people = {r.id: r.who for r in live}
    once, differing = _once_each(values, forward - loads, people)
    return Observed(
        once, tried, gains, (*findings, *differing), frozenset(aside), guilty,
        tuple(each), screens, bench,
    )  # fmt: skip


class _Reader:
    """Takes readings of one craft one by one, with what is told of those that say something odd."""

    def __init__(
        self,
        craft: Craft,
        live: Sequence[Reading],
        moments: Mapping[str, Moment],
        trials: Mapping[str, Trial],
        stale: frozenset[str],
        forward: frozenset[tuple[str, str]],
    ) -> None:
        self.craft, self.moments, self.trials = craft, moments, trials
        self.stale, self.forward = stale, forward
        self.loads = {(x.start, x.end) for x in craft.loads}
        self.gains = _gains(live)
        self.most = _most_volts(craft, live)
        self.backwards = _reversed_source(craft, live)
        self.findings: list[Finding] = []
        self.screens: list[Screen] = []
        self.bench: list[BenchCurrent] = []
        self.aside: set[str] = set()
        self._known: dict[tuple[object, ...], Conditions] = {}

    def read(self, r: Reading) -> Iterator[Observation]:
        """What a reading shows, with the source reading that came along."""
        craft = self.craft
        if r.quantity in ("kelvin", "ripple"):
            self.findings += _surface(r, craft) if r.quantity == "kelvin" else _ripple(r, craft)
            return
        refusal = _refused(r, craft, self.most, self.stale, self.backwards)
        if refusal is not None:
            self._set_aside(r, refusal)
            return
        conditions = self._conditions(r)
        if r.quantity == "lamp":
            self._lamp(r, conditions)
        elif r.quantity == "ohms" and r.state in ("value", "over_range"):
            self._ohms(r, conditions)
        elif r.value is None:
            if r.state == "wandering":
                self.findings.append(NO_NUMBER[r.state](readings=(r.id,)))
                self.screens.append(Screen(r.id, r.red, r.black, conditions, "wandering"))
            else:
                self._set_aside(r, NO_NUMBER[r.state](readings=(r.id,)))
        else:
            yield from self._number(r, conditions)

    def _lamp(self, r: Reading, conditions: Conditions) -> None:
        if r.state in ("lit", "dim", "dark"):
            self.screens.append(Screen(r.id, r.red, r.black, conditions, r.state))

    def _ohms(self, r: Reading, conditions: Conditions) -> None:
        joined = r.value is not None and r.value < OPEN_OHMS
        ohm = max(r.value - r.leads_ohm, 0.0) if joined and r.value is not None else None
        shows: Shows = "joined" if joined else "open"
        self.screens.append(Screen(r.id, r.red, r.black, conditions, shows, ohm))

    def _conditions(self, r: Reading) -> Conditions:
        """The conditions of a reading; those of one moment are one value."""
        key = r.moment, r.trial, r.scenario, r.warm_min, r.hold, r.moved
        if key not in self._known:
            self._known[key] = conditions_of(r, self.craft, self.moments, self.trials)
        return self._known[key]

    def _number(self, r: Reading, conditions: Conditions) -> Iterator[Observation]:
        assert r.value is not None
        least = STRAY_V if (r.red, r.black) in self.loads else r.accuracy
        if (r.red, r.black) in self.forward and r.value < -least:
            self.findings.append(Swapped(readings=(r.id,), volts=r.value))
            r = replace(r, value=-r.value)
        through = _between(self.craft, r.red, r.black) if r.quantity == "amperes" else ""
        if through is None:
            self.aside.add(r.id)
            return
        if conditions.states.get(through) == "unplugged" and conditions.stand_in is None:
            amps = abs(r.value or 0.0)
            self.bench.append(BenchCurrent(r.id, through, amps, r.accuracy, r.source_v))
            return
        yield _observation(r, conditions, self.gains, through)
        if r.source_v is not None and r.quantity == "volts":
            yield _source_beside(r, conditions, self.gains, self.craft)

    def _set_aside(self, r: Reading, why: Finding) -> None:
        self.findings.append(why)
        self.aside.add(r.id)


def _once_each(
    values: Iterable[Observation], drops: frozenset[tuple[str, str]], people: Mapping[str, str]
) -> tuple[tuple[Observation, ...], list[Finding]]:
    """Repeats of a span in one moment as one observation, and what is told of those that differ.

    The meter's counts average out. Repeats that differ by more are a contact that comes and goes: of a drop
    the largest counts; of anything else the mean, doubted by the spread. `people` read each, by its id.
    """
    held: dict[tuple[str, frozenset[str], str, str], list[Observation]] = {}
    for i, o in enumerate(values):
        alone = str(i) if o.sag is not None else ""
        held.setdefault(
            (o.quantity, frozenset((o.red, o.black)), o.conditions.key, alone), []
        ).append(o)
    once: list[Observation] = []
    findings: list[Finding] = []
    for repeats in held.values():
        last = repeats[-1]
        if len(repeats) == 1:
            once.append(last)
            continue
        taken = [o.value if o.red == last.red else -o.value for o in repeats]
        mean, half = sum(taken) / len(taken), (max(taken) - min(taken)) / 2
        own = max(o.sigma for o in repeats)
        if half <= DIFFERS * own:
            once.append(replace(last, value=mean, sigma=own / math.sqrt(len(taken))))
            continue
        a_drop = (last.red, last.black) in drops or (last.black, last.red) in drops
        largest = max(taken, key=abs)
        once.append(
            replace(last, value=largest, sigma=own)
            if a_drop
            else replace(last, value=mean, sigma=math.hypot(own, half))
        )
        ids = tuple(o.reading for o in repeats)
        furthest = sorted((taken.index(min(taken)), taken.index(max(taken))))
        first, then = (people.get(ids[i], "") for i in furthest)
        findings.append(
            RepeatsDiffer(
                readings=ids, quantity=last.quantity, first=taken[furthest[0]], last=taken[furthest[1]],
                who=(first, then) if first != then else ("", ""),
            )
        )  # fmt: skip
    return tuple(once), findings


def _surface(r: Reading, craft: Craft) -> list[Finding]:
    """What a surface says that is warmer than the cable beside it."""
    if r.value is None or r.value < WATCH_K:
        return []
    ends = {r.red, r.black}
    piece = next((p.id for p in craft.pieces if {p.start, p.end} == ends), None)
    kind = SurfaceHot if r.value >= ACT_K else SurfaceWarm
    return [kind(readings=(r.id,), piece=piece, kelvin=r.value)]


def _ripple(r: Reading, craft: Craft) -> list[Finding]:
    """What an AC part while charging hints at."""
    most = RIPPLE_SHARE * craft.nominal_v
    if r.value is None or abs(r.value) <= most:
        return []
    return [Ripples(readings=(r.id,), volts=abs(r.value), most_v=most)]


def _tried(
    craft: Craft, moments: Mapping[str, Moment], trials: Mapping[str, Trial]
) -> tuple[tuple[Trial, Conditions], ...]:
    """Trials of which an outcome was said, with their conditions."""
    points = {p.id for p in craft.points}
    out = []
    for trial in trials.values():
        moment = moments.get(trial.moment)
        if moment is None or trial.outcome is None or not {trial.start, trial.end} <= points:
            continue
        stand_in = Reading(
            id=trial.id, revision="", quantity="volts", red=trial.start, black=trial.end, value=None,
            state="wandering", typed="", accuracy=0.0, scenario=moment.scenario, taken_at="",
            moment=moment.id, trial=trial.id,
        )  # fmt: skip
        out.append((trial, conditions_of(stand_in, craft, moments, trials)))
    return tuple(out)


def _gains(live: Sequence[Reading]) -> dict[str, float]:
    """Relative gain error (one sigma) of every meter, by the readings taken with it."""
    least: dict[str, float] = {}
    for r in live:
        if r.value and r.quantity in MOST_GAIN:
            key = _meter_of(r)
            share = GAIN_SHARE * r.accuracy / abs(r.value)
            least[key] = min(least.get(key, MOST_GAIN[r.quantity]), share)
    return {key: share / math.sqrt(3) for key, share in least.items()}


def _meter_of(r: Reading) -> str:
    return f"{r.quantity} {r.meter}"


def _observation(
    r: Reading, conditions: Conditions, gains: Mapping[str, float], through: str
) -> Observation:
    assert r.value is not None
    held = conditions.stand_in
    if r.leads_ohm and held is not None and {held.start, held.end} == {r.red, r.black}:
        # What the leads of a stand-in load take is missing in what was read across it.
        r = replace(r, value=math.copysign(abs(r.value) + r.leads_ohm * held.amperes, r.value))
    assert r.value is not None
    gain = gains.get(_meter_of(r), 0.0) * math.sqrt(3) * abs(r.value)
    own = max(r.accuracy - gain, 0.2 * r.accuracy) / math.sqrt(3)
    quantity: Literal["volts", "amperes"] = "amperes" if r.quantity == "amperes" else "volts"
    return Observation(
        r.id, quantity, r.red, r.black, through, r.value, max(own, FLOOR[quantity]), _meter_of(r),
        conditions, r.id if quantity == "volts" and r.source_v is not None else None,
        limit=max(r.accuracy, LEAST_LIMIT[quantity]), taken_at=r.taken_at,
    )  # fmt: skip


def _refused(
    r: Reading, craft: Craft, most: float, stale: frozenset[str], backwards: str | None
) -> Finding | None:
    """Why a reading cannot be believed at all, if it cannot."""
    if r.id in stale:
        return Changed(readings=(r.id,))
    if backwards is not None and r.quantity == "volts":
        return Reversed(readings=(backwards,))
    if r.quantity == "volts" and r.value is not None and abs(r.value) > most + r.accuracy:
        milli = abs(r.value) >= MILLIVOLTS_FROM and abs(r.value) / 1000 < most
        return Impossible(readings=(r.id,), volts=abs(r.value), most_v=most, millivolts=milli)
    return None


def _source_beside(
    r: Reading, conditions: Conditions, gains: Mapping[str, float], craft: Craft
) -> Observation:
    """The source reading that came along with a reading, of the same instant.

    It is by the same kind of meter, where nobody says more; a second meter that speaks has its own doubt
    and its own gain.
    """
    assert r.source_v is not None
    share = r.accuracy / max(abs(r.value or 0.0), 1e-9)
    accuracy = min(max(share * r.source_v, r.accuracy), BESIDE_SHARE * r.source_v)
    own = r.by_meter.source if r.by_meter else None
    if own is not None:
        accuracy = own.accuracy or accuracy
        r = replace(r, meter=f"{own.name}, {own.spec or r.meter}")
    given = (s for s in craft.sources if not conditions.scenario.source(s).off)
    source = next(given, craft.sources[0])
    beside = replace(r, red=source.live, black=source.back, value=r.source_v, accuracy=accuracy)
    made = _observation(beside, conditions, gains, "")
    return replace(made, beside=True)


def _between(craft: Craft, red: str, black: str) -> str | None:
    """The load, else the piece, that lies between two points."""
    for element in (*craft.loads, *craft.pieces):
        if {element.start, element.end} == {red, black}:
            return element.id
    return None


def _most_volts(craft: Craft, live: Sequence[Reading]) -> float:
    """The most (V) that can be read anywhere: what the source was read at, else what it may hold."""
    top = TOP_SHARE * craft.nominal_v
    on_posts = [abs(r.value) for r in _on_posts(craft, live) if r.value and abs(r.value) <= top]
    return max(on_posts) + 0.06 * craft.nominal_v if on_posts else top


def _reversed_source(craft: Craft, live: Sequence[Reading]) -> str | None:
    """The reading that shows the source itself reversed, if one does."""
    for r in _on_posts(craft, live):
        if r.value is not None and r.value < -0.5 * craft.nominal_v:
            return r.id
    return None


def _on_posts(craft: Craft, live: Sequence[Reading]) -> list[Reading]:
    """Readings post to post of any source, live post first."""
    out = []
    for r in live:
        for s in craft.sources:
            if r.quantity == "volts" and {r.red, r.black} == {s.live, s.back}:
                turned = r.value is not None and r.red != s.live
                out.append(replace(r, value=-r.value) if turned and r.value is not None else r)
    return out
