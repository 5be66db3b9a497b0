"""One moment of a run as a system of bounds: what was read, where volts only fall, what the source did.

Nothing is assumed of a piece that was not read but that it is passive. Readings of different moments are
never put together, nor is a piece assumed to be in two of them the same.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import STRAY_V, Observation
from spare_margin.core.model.pieces import SIDES, Craft, Side

from .constraints import Bound, Bounds
from .drift import CROSSES_SHARE, Drift, Interval

FLOWS_SHARE = 0.05
"""Below this share of what a load draws, nothing flows."""
STAND_IN_SHARE = 0.03
"""How far (share) what a stand-in load draws may be off."""
DEAD_SHARE, LIVE_SHARE = 0.05, 0.75
"""Shares of the nominal voltage up to which a point stands at a pole, and from which at the other."""
ASLEEP_SHARE = 0.02
"""A load that gets less than this share of the nominal voltage does not run, and draws nothing."""


@dataclass(frozen=True)
class ReadStretch:
    """What lies between two neighbouring points of a side that were read: pieces in a row.

    `falls` where volts can only fall from `entry` to `exit`; `purpose` where it is fitted to drop volts.
    """

    side: Side
    entry: str
    exit: str
    steps: tuple[Step, ...]
    falls: bool
    purpose: bool

    @cached_property
    def pieces(self) -> tuple[str, ...]:
        """The ids of its pieces."""
        return tuple(s.piece.id for s in self.steps)


class RunMoment:
    """A run in one moment: its bounds, its current, whether it ran.

    Args:
        users: ids of the loads whose run passes each piece, by the piece's id.
        readings: what was read in this moment, as it was shown, in the order of reading.
        settled: whether the source is taken to have stood still, whatever was read of it.
        craft: the wiring.
        conditions: what was commanded in it.
    """

    def __init__(
        self,
        craft: Craft,
        run: Run,
        users: Mapping[str, Sequence[str]],
        conditions: Conditions,
        readings: Sequence[Observation],
        settled: bool = False,
    ) -> None:
        self.craft, self.run, self.users, self.conditions = craft, run, users, conditions
        self.readings, self._assumed_settled = readings, settled
        self.volts = [o for o in readings if o.quantity == "volts"]

    @property
    def key(self) -> str:
        """What tells the moment from others."""
        return self.conditions.key

    @cached_property
    def bridged(self) -> frozenset[str]:
        """Ids of the pieces beside which a trial's wire lies: they carry less than what passes."""
        trial = self.conditions.trial
        between = None if trial is None else self.run.between(trial.start, trial.end)
        return frozenset() if between is None else frozenset(between.pieces)

    # Which way volts fall

    @cached_property
    def _one_source(self) -> bool:
        given = [
            s for s in self.craft.sources if not self.conditions.scenario.source(s).off
        ]  # fmt: skip
        return len(given) == 1 and not self.conditions.charging

    def private(self, step: Step) -> bool:
        """Whether nothing but the run's own current passes a step."""
        return step.load is not None or step.piece.id in self._private

    @cached_property
    def _private(self) -> frozenset[str]:
        own = set(self.run.string)
        return frozenset(
            s.piece.id for s in self.run.steps() if own.issuperset(self.users.get(s.piece.id, ()))
        )

    def _falls(self, step: Step) -> bool:
        if step.group is not None or self.conditions.scenario.is_open(step.piece):
            return False
        if step.piece.id in self.bridged:
            return False  # what is tapped within may be fed from the wire's far end
        if self._one_source:
            return True
        # Behind a shared point nothing can push but what the load itself holds.
        return self.private(step) and (self.run.load.duty != "charging" or self.flows is True)

    # The stretches

    @cached_property
    def _read_points(self) -> frozenset[str]:
        return frozenset(p for o in self.volts for p in (o.red, o.black))

    @cached_property
    def sides(self) -> Mapping[Side, tuple[ReadStretch, ...]]:
        """Each side as stretches between points that were read."""
        return {side: tuple(self._stretches(side)) for side in SIDES}

    def _stretches(self, side: Side) -> Iterable[ReadStretch]:
        main = self.run.way(side)
        held: list[Step] = []
        for i, step in enumerate(main):
            held.append(step)
            last = i + 1 == len(main)
            cut = last or step.exit in self._read_points
            cut = cut or step.on_purpose or main[i + 1].on_purpose
            if cut:
                yield ReadStretch(
                    side, held[0].entry, step.exit, tuple(held), all(self._falls(s) for s in held),
                    step.on_purpose,
                )  # fmt: skip
                held = []

    @cached_property
    def line(self) -> Mapping[Side, tuple[str, ...]]:
        """The points of each side that the stretches join, in the current's order."""
        return {
            side: (self.run.ends(side)[0], *(s.exit for s in self.sides[side])) for side in SIDES
        }

    def inside(self, side: Side, start: str, end: str) -> tuple[ReadStretch, ...]:
        """The stretches between two points of a side that were read.

        Args:
            start: the id of the first point, as the current passes.
            end: the id of the last one.
        """
        places = self._places[side]
        return self.sides[side][places[start] : places[end]]

    @cached_property
    def _places(self) -> Mapping[Side, Mapping[str, int]]:
        return {side: {p: i for i, p in enumerate(line)} for side, line in self.line.items()}

    def read_across(self, start: str, end: str) -> bool:
        """Whether a reading was taken across just these points.

        Args:
            start: the id of the first point, as the current passes.
            end: the id of the last one.
        """
        return frozenset((start, end)) in self._pairs

    @cached_property
    def _pairs(self) -> frozenset[frozenset[str]]:
        return frozenset(frozenset((o.red, o.black)) for o in self.volts)

    # The bounds

    @cached_property
    def bounds(self) -> Bounds:
        """All that is known of the volts of this moment."""
        return Bounds([*self._given(), *self._read()], [p for s in SIDES for p in self.line[s]])

    def _given(self) -> Iterable[Bound]:
        for side in SIDES:
            for stretch in self.sides[side]:
                if stretch.falls:
                    yield Bound(stretch.exit, stretch.entry, 0.0, "falls")
        source, run = self.run.source, self.run
        yield Bound(source.back, source.live, 0.0, "source")
        if self._one_source:
            yield Bound(run.return_terminal, run.feed_terminal, STRAY_V, "load")

    def _read(self) -> Iterable[Bound]:
        """Readings of one pair as one: what they have in common; all of it where they differ."""
        held: dict[tuple[str, str], list[tuple[str, float, float]]] = {}
        for o, low, high in self.drift.intervals():
            if (o.black, o.red) in held:
                held[o.black, o.red].append((o.reading, -high, -low))
            else:
                held.setdefault((o.red, o.black), []).append((o.reading, low, high))
        for (red, black), taken in held.items():
            names, lows, highs = zip(*taken, strict=True)
            ids = tuple(dict.fromkeys(names))
            agree = max(lows) <= min(highs)
            low, high = (max(lows), min(highs)) if agree else (min(lows), max(highs))
            yield Bound(red, black, high, "reading", ids)
            yield Bound(black, red, -low, "reading", ids)

    @cached_property
    def drift(self) -> Drift:
        """How far the source may have moved between the readings."""
        return Drift(
            self.run, self.craft.nominal_v, self.readings, frozenset(self._clamped),
            self._assumed_settled,
        )  # fmt: skip

    @property
    def steady_since(self) -> int | None:
        """Which reading the source stood still from; None: it is not known to."""
        return self.drift.steady_since

    @property
    def settled(self) -> bool:
        """Whether two readings of the source agree."""
        return self.steady_since is not None

    def early(self, red: str, black: str, quantity: str = "volts") -> bool:
        """Whether all that was read over these points was read before the source stood still.

        Args:
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
            quantity: volts or amperes.
        """
        since = self.steady_since
        own = [
            i for i, o in enumerate(self.readings)
            if {o.red, o.black} == {red, black} and o.quantity == quantity
        ]  # fmt: skip
        return since is not None and bool(own) and max(own) < since

    # The current

    @cached_property
    def amperes(self) -> Interval | None:
        """The least and the most the load draws (A); None where no meter says."""
        held = self.conditions.stand_in
        if held is not None and self.run.load.id not in self.conditions.running:
            return held.amperes * (1 - STAND_IN_SHARE), held.amperes * (1 + STAND_IN_SHARE)
        return _hull([*self._clamped.values()])

    @cached_property
    def _clamped(self) -> Mapping[int, Observation]:
        """Readings of the load's own current, by their place among all."""
        own = self._private.union(self.run.string)
        return {
            place: o
            for place, o in enumerate(self.readings)
            if o.quantity == "amperes" and o.through in own
        }

    def through(self, step: Step) -> Interval | None:
        """The current of a shared piece (A) where a meter read it there.

        Args:
            step: the piece, as a step of the run.
        """
        return _hull(self._through.get(step.piece.id, ()))

    @cached_property
    def _through(self) -> Mapping[str, list[Observation]]:
        """Readings of a current, by the piece they were taken at."""
        out: dict[str, list[Observation]] = {}
        for o in self.readings:
            if o.quantity == "amperes":
                out.setdefault(o.through, []).append(o)
        return out

    @cached_property
    def rated_a(self) -> float | None:
        """What the load should draw (A) at the nominal voltage; None where nobody knows."""
        load = self.run.load
        return None if load.behaviour is None else rated_current_a(load, self.craft.nominal_v)

    @cached_property
    def flows(self) -> bool | None:
        """Whether a meter proves that the load draws; None where none says."""
        if self.amperes is None:
            return None
        low, high = self.amperes
        least = FLOWS_SHARE * self.rated_a if self.rated_a else 0.0
        if low > least:
            return True
        return False if low <= 0 or high <= least else None

    @cached_property
    def clamped(self) -> tuple[str, ...]:
        """Ids of the readings of the load's current."""
        return tuple(o.reading for o in self._clamped.values())

    @property
    def commanded(self) -> bool:
        """Whether the load, or one that stands in for it, is commanded on."""
        loads = [self.craft.load(key) for key in self.run.string]
        return all(self.conditions.loads_run(load) for load in loads)

    @cached_property
    def dead(self) -> bool:
        """Whether the load, commanded on, draws nothing: by a meter, or because no volts reach it."""
        if self.flows is not None or self.bounds.contradiction:
            return self.flows is False
        most = self.bounds.most_v(self.run.feed_terminal, self.run.return_terminal)
        return most <= ASLEEP_SHARE * self.craft.nominal_v

    @cached_property
    def ran(self) -> bool:
        """Whether the load was seen to run: it is said to, and only its own current drops volts there."""
        state = self.conditions.states.get(self.run.load.id)
        if state not in ("running", "starting") or self.flows is not None:
            return self.flows is True
        return not self.bounds.contradiction and any(
            self.bounds.least_v(s.entry, s.exit) > 0
            for side in SIDES
            for s in self.sides[side]
            if all(self.private(step) for step in s.steps)
        )

    # What cannot be true together

    @cached_property
    def contradiction(self) -> tuple[str, ...]:
        """Ids of readings that no circuit as drawn can give together; empty where some can."""
        named = {r for b in self.bounds.contradiction for r in b.readings}
        named = named or set(self._current_without_volts())
        return tuple(dict.fromkeys(o.reading for o in self.readings if o.reading in named))

    def _current_without_volts(self) -> tuple[str, ...]:
        """A clamp that shows current where the load gets no volts, or there is no source."""
        if self.flows is not True or not self.clamped:
            return ()
        run, nominal = self.run, self.craft.nominal_v
        for red, black, share in (
            (run.feed_terminal, run.return_terminal, ASLEEP_SHARE),
            (run.source.live, run.source.back, CROSSES_SHARE),
        ):
            most = self.bounds.most(red, black)
            if most.volts <= share * nominal:
                return tuple(dict.fromkeys([*sorted(most.readings), *self.clamped]))
        return ()

    # What stands at which pole

    def live(self, point: str) -> bool:
        """Whether a point surely stands at the source's live post, or near it."""
        low = self.bounds.least_v(point, self.run.source.back)
        return low >= LIVE_SHARE * self.craft.nominal_v

    def at_return(self, point: str) -> bool:
        """Whether a point surely stands at the source's return post, or near it."""
        back, nominal = self.run.source.back, self.craft.nominal_v
        high = self.bounds.most_v(point, back)
        return high <= DEAD_SHARE * nominal and self.bounds.least_v(point, back) >= (
            -DEAD_SHARE * nominal
        )


def _hull(read: Sequence[Observation]) -> Interval | None:
    if not read:
        return None
    low = min(max(abs(o.value) - o.limit, 0.0) for o in read)
    return low, max(abs(o.value) + o.limit for o in read)
