"""What a craft under practice shows: the engine asked in the conditions of each act, meters with doubt."""

import math
import random
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.bay.world import OPEN_OHM, World
from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.evidence.observation.moments import STAND_IN, TRIAL_PIECE, Conditions
from spare_margin.core.model.jobs import LoadState, StandInLoad, Trial
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER, Meter
from spare_margin.core.model.pieces import (
    OFF_OHM,
    ContactState,
    Craft,
    Load,
    LoadLaw,
    Scenario,
    SourceState,
)

from .exercise import PULLS_IN, Exercise

Looks = Literal["full", "weak", "faint", "still", "off", "unplugged"]
"""What is seen of a load: as it should be, weak, hardly at all, nothing; or not commanded on."""
FULL, WEAK, FAINT = 0.95, 0.75, 0.3
"""From this share of what it gets as drawn a load is seen to be so."""
RUNS = 0.5
"""From this share of the nominal voltage a load is seen to run."""
LOAD_LAWS: tuple[LoadLaw | None, ...] = (
    None, "constant_current", "constant_resistance", "constant_power", "filament",
)  # fmt: skip
STALL: tuple[LoadLaw | None, ...] = ("constant_power",)
LAMP_W = 4.0
"""A test lamp, at the nominal voltage."""
LIT, DIM = 0.75, 0.15
STALLED_TIMES = 4.0
"""A motor that stalls draws so many times its current."""
LEADS_OHM, OHM_STEP, MOST_OHM = 0.2, 0.1, 6e6
OHMMETER_V, OHMMETER_OHM = 0.4, 400.0
"""An ohmmeter sends a milliampere at most: far too little to heat a last strand."""
AIR_V = 0.02, 0.12
"""A lead on nothing wanders by so much (V)."""
OFFSET_A = 0.4, 1.6
"""How far a clamp that was not zeroed is off."""
PIECE_OF_A_JOIN_OHM = 0.01


@dataclass(frozen=True)
class State:
    """What is commanded: loads and contacts that stand otherwise than drawn, and what was joined."""

    loads: Mapping[str, LoadState] = field(default_factory=dict)
    contacts: Mapping[str, ContactState] = field(default_factory=dict)
    engine: bool = False
    power: bool = True
    warm: bool = False
    stand_in: StandInLoad | None = None
    joined: Trial | None = None
    mended: frozenset[str] = frozenset()

    def scenario(self, craft: Craft) -> Scenario:
        """What is on: the craft's second scenario is the one with its engine running."""
        held = craft.scenarios[1 if self.engine else 0]
        off = {k for k, state in self.loads.items() if state in ("off", "unplugged")}
        on = (held.on | {k for k, s in self.loads.items() if s == "running"}) - off
        if self.stand_in is not None:
            on |= {STAND_IN}
        return replace(held, on=on, contacts={**held.contacts, **self.contacts})


class Bench:
    """The truth of an exercise in one state. Nothing of it is kept: the same state gives the same."""

    def __init__(self, exercise: Exercise, state: State) -> None:
        self.exercise, self.state = exercise, state
        self._solved: dict[tuple[str, frozenset[str], float], SolvedCraft] = {}

    @property
    def _craft(self) -> Craft:
        held = self.state
        conditions = Conditions(
            "", held.scenario(self.exercise.craft), None, trial=held.joined, stand_in=held.stand_in
        )
        return conditions.craft(self.exercise.craft)

    def solved(
        self, at_s: float, moved: str = "", starting: frozenset[str] = frozenset()
    ) -> SolvedCraft:
        """The craft as it truly stands so long after switching on.

        Args:
            at_s: seconds since switching on.
            moved: the piece that is being moved.
            starting: the ids of loads that start.
        """
        key = moved, starting, at_s
        if key not in self._solved:
            self._solved[key] = self._with_relays(at_s, moved, starting)
        return self._solved[key]

    def _with_relays(self, at_s: float, moved: str, starting: frozenset[str]) -> SolvedCraft:
        """Solved with every relay pulled in that its coil holds; one that lets go changes the volts."""
        dropped: set[str] = set()
        while True:
            solved = self._at(at_s, moved, starting, frozenset(dropped))
            nominal = self.exercise.craft.nominal_v
            lets_go = {
                contact
                for contact, coil in self.exercise.relays.items()
                if contact not in dropped and _share(solved, coil, nominal) < PULLS_IN
            }
            if not lets_go:
                return solved
            dropped |= lets_go

    def _at(
        self, at_s: float, moved: str, starting: frozenset[str], dropped: frozenset[str]
    ) -> SolvedCraft:
        world = self._world(self._craft, moved)
        scenario = replace(self.state.scenario(self.exercise.craft), starting=starting)
        scenario = replace(
            scenario, contacts={**scenario.contacts, **dict.fromkeys(dropped, "open")}
        )
        return self._standing(world, scenario, at_s)

    def _world(self, craft: Craft, moved: str = "") -> World:
        held = self.state
        return self.exercise.world(craft, held.mended, held.warm, moved)

    def _standing(self, world: World, scenario: Scenario, at_s: float) -> SolvedCraft:
        ohms = {**_ohms_of(world), TRIAL_PIECE: PIECE_OF_A_JOIN_OHM}
        if not self.state.power:
            off = {s.id: SourceState(internal_ohm=OFF_OHM * 1e3) for s in world.craft.sources}
            craft = _as_resistors(world.craft, 1.0, LOAD_LAWS)
            world = replace(world, craft=craft, surge_v=0.0)
            scenario = replace(scenario, sources=off)
        solved = world.standing(scenario, at_s, ohms)
        if solved is None:
            # A motor that gets too little stands still and draws what its winding lets through.
            craft = _as_resistors(world.craft, STALLED_TIMES, STALL)
            stalled = replace(world, craft=craft)
            solved = stalled.standing(scenario, at_s, ohms)
        assert solved is not None, "with resistors only every craft has a solution"
        return solved

    # What is seen

    def looks(self, at_s: float) -> dict[str, Looks]:
        """What is seen of each load.

        Args:
            at_s: seconds since something was switched last.
        """
        craft = self.exercise.craft
        solved, on = self.solved(at_s), self.state.scenario(craft).on
        return {x.id: self._looks(x, x.id in on, solved) for x in craft.loads}

    def pulled_in(self, at_s: float) -> set[str]:
        """The coils whose relay has pulled in: one hears it click.

        Args:
            at_s: seconds since something was switched last.
        """
        solved, nominal = self.solved(at_s), self.exercise.craft.nominal_v
        return {
            coil
            for coil in self.exercise.relays.values()
            if _share(solved, coil, nominal) >= PULLS_IN
        }

    def _looks(self, load: Load, on: bool, solved: SolvedCraft) -> Looks:
        if self.state.loads.get(load.id) == "unplugged":
            return "unplugged"
        if not on:
            return "off"
        share = _share(solved, load.id, self.exercise.should_v[load.id])
        times = self._world(self.exercise.craft).load_times.get(load.id, 1.0)
        if times < RUNS and share >= WEAK:
            # One that draws half of what it should gives as little, whatever volts it gets.
            return "weak"
        if share >= FULL:
            return "full"
        return "weak" if share >= WEAK else "faint" if share >= FAINT else "still"

    def commanded(
        self, at_s: float, starting: frozenset[str] = frozenset()
    ) -> dict[str, LoadState]:
        """How the loads stood, for the readings' moment: one that stands still was only attempted.

        Args:
            at_s: seconds since something was switched last.
            starting: the ids of loads that start.
        """
        craft = self.exercise.craft
        solved, scenario = self.solved(at_s), self.state.scenario(craft)
        out: dict[str, LoadState] = {}
        for x in craft.loads:
            if x.id not in scenario.on:
                out[x.id] = self.state.loads.get(x.id, "off")
            elif x.id in starting:
                out[x.id] = "starting"
            else:
                runs = _share(solved, x.id, craft.nominal_v) >= RUNS
                out[x.id] = "running" if runs else "attempted"
        return out

    # What is read

    def volts(self, solved: SolvedCraft, red: str, black: str) -> float | None:
        """What there truly is; None where a lead is on nothing.

        Args:
            solved: the craft as it stands.
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
        """
        return solved.solution.volts(red, black)

    def amperes(self, solved: SolvedCraft, element: str) -> float:
        """What truly flows through a piece or a load.

        Args:
            solved: the craft as it stands.
            element: the id of a piece or a load.
        """
        return abs(solved.solution.elements.current_a(element))

    def lamp(self, at_s: float, red: str, black: str) -> float:
        """What a test lamp gets between two points, of the nominal voltage, its own current flowing.

        Args:
            at_s: seconds since something was switched last.
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
        """
        nominal = self.exercise.craft.nominal_v
        lamp = Load(
            id="test-lamp", start=red, end=black, behaviour="filament", power_w=LAMP_W,
            rated_v=nominal,
        )  # fmt: skip
        craft = self._craft
        world = self._world(replace(craft, loads=(*craft.loads, lamp)))
        scenario = self.state.scenario(self.exercise.craft)
        lit = self._standing(world, replace(scenario, on=scenario.on | {lamp.id}), at_s)
        return _share(lit, lamp.id, nominal)

    def ohms(self, red: str, black: str) -> float:
        """What an ohmmeter finds between two points with the power off (ohm), the leads' own not counted.

        Loads are as their windings and filaments are cold.

        Args:
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
        """
        craft = _as_resistors(self._craft, STALLED_TIMES, LOAD_LAWS)
        world = self._world(craft)
        meter = replace(
            world.run.source, id="ohmmeter", live=red, back=black, open_circuit_v=OHMMETER_V,
            internal_ohm=OHMMETER_OHM,
        )  # fmt: skip
        scenario = self.state.scenario(self.exercise.craft)
        gone = {s.id: SourceState(internal_ohm=OPEN_OHM) for s in craft.sources}
        found = replace(world, craft=replace(world.craft, sources=(*world.craft.sources, meter)))
        solved = found.standing(
            replace(scenario, sources={**scenario.sources, **gone}), math.inf,
            {**_ohms_of(world), TRIAL_PIECE: PIECE_OF_A_JOIN_OHM},
        )  # fmt: skip
        assert solved is not None, "with resistors only every craft has a solution"
        volts = solved.solution.volts(red, black)
        if volts is None:
            return math.inf
        amps = (OHMMETER_V - abs(volts)) / OHMMETER_OHM
        return abs(volts) / amps if amps > OHMMETER_V / MOST_OHM else math.inf


def _share(solved: SolvedCraft, load: str, of_v: float) -> float:
    """What a load gets, of so many volts; nothing where it is not on."""
    if load not in solved.scenario.on:
        return 0.0
    held = solved.craft.load(load)
    return abs(solved.solution.volts(held.start, held.end) or 0.0) / of_v


def _ohms_of(world: World) -> dict[str, float]:
    """What every piece has now; what is open leaks nothing."""
    opens = {f.piece: f.ohm for f in world.faults if math.isinf(f.ohm)}
    return {**world.true_ohms(""), **opens}


def _as_resistors(craft: Craft, times: float, laws: Collection[LoadLaw | None]) -> Craft:
    """A craft whose loads of some laws are resistors that draw so many times their current."""
    loads = (
        _as_resistor(x, craft.nominal_v, times) if x.behaviour in laws else x for x in craft.loads
    )
    return replace(craft, loads=tuple(loads))


def _as_resistor(load: Load, nominal: float, times: float) -> Load:
    ohm = nominal / max(rated_current_a(load, nominal), 0.01)
    return replace(
        load, behaviour="constant_resistance", load_ohm=ohm / times, current_a=None, power_w=None,
        rated_v=None,
    )  # fmt: skip


# What the display shows


@dataclass(frozen=True)
class Shown:
    """What a display shows, and the half-width within which the truth lies; None: over the range."""

    value: float | None
    accuracy: float
    step: float
    wanders: bool = False


def shown_volts(true: float | None, range_v: float | None, rng: random.Random) -> Shown:
    """What a voltmeter shows on a range.

    Args:
        true: what there is (V); None where a lead is on nothing.
        range_v: the range its switch stands on; None where it chooses itself.
        rng: where chance comes from.
    """
    if true is None:
        return Shown(rng.choice((-1, 1)) * rng.uniform(*AIR_V), 0.0, 0.001, wanders=True)
    if range_v is not None and abs(true) > range_v:
        return Shown(None, 0.0, range_v / 6000)
    return _read(WORKSHOP_METER, true, max(abs(true), 0.95 * range_v if range_v else 0.0), rng)


def shown_amperes(true: float, rng: random.Random) -> Shown:
    """What a clamp shows.

    Args:
        true: what there is (A).
        rng: where chance comes from.
    """
    return _read(CLAMP_METER, true, abs(true), rng)


def _read(meter: Meter, true: float, on: float, rng: random.Random) -> Shown:
    step = meter.resolution(on)
    limit = abs(true) * meter.percent / 100 + meter.counts * step
    value = round((true + rng.uniform(-0.8, 0.8) * max(limit - step / 2, 0.0)) / step) * step
    return Shown(value, abs(value) * meter.percent / 100 + meter.counts * step, step)
