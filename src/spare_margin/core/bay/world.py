"""A craft as it truly is: every piece off its table, faults in some, a source that sags, things undrawn.

The truth is solved by the same engine as real work. What the drawing says is what people know of it.
"""

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from spare_margin.core.circuit.network import SolvedCraft, solved_craft
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.jobs import Moment
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Source,
    SourceState,
    undrawn,
)
from spare_margin.core.model.tables import Tables

from .crafts import KINDS, Kind, sketched

OPEN_OHM = 1e8
"""What is open still leaks: a meter of 10 Mohm shows a little behind it."""
FAULT_V = 0.06, 3.0
"""A fault takes so many volts at the loaded current, by itself."""
UNKNOWN_OHM = 0.004, 0.03
"""What a good stretch that nobody has drawn has."""
WIRE_SPREAD, PIECE_SPREAD = 0.1, 0.35
"""One sigma of the logarithm of a good wire's ohms, and of any other good piece's."""
DRIFTS_SHARE, DRIFTS_S = 0.045, 60.0
"""A source fresh off a charger falls by so much of the nominal voltage at most, within about a minute."""
LOADS_SPREAD = 0.2
"""What a load draws is this share off its plate at most."""


@dataclass(frozen=True)
class Fault:
    """Ohms on top of a piece, infinite where it is open; only in some moments where `only` names them."""

    piece: str
    ohm: float
    only: str = ""


@dataclass
class World:
    """A craft with its truth. `moments` are those in which it can be read, by id."""

    craft: Craft
    tables: Tables
    run: Run
    ohms: Mapping[str, float]
    load_times: Mapping[str, float]
    faults: tuple[Fault, ...]
    moments: tuple[Moment, ...]
    surge_v: float
    extra_loads: tuple[Load, ...] = ()
    extra_sources: tuple[Source, ...] = ()
    _solved: dict[tuple[str, float], SolvedCraft | None] = field(default_factory=dict)

    @property
    def feeds_in(self) -> bool:
        """Whether something undrawn feeds the craft."""
        return bool(self.extra_sources)

    def true_ohms(self, moment: str) -> dict[str, float]:
        """Ohms of every piece in a moment."""
        out = dict(self.ohms)
        for fault in self.faults:
            if fault.only in ("", moment):
                out[fault.piece] += min(fault.ohm, OPEN_OHM)
        return out

    def is_open(self, piece: str, moment: str) -> bool:
        """Whether a piece is open in a moment."""
        return any(
            f.piece == piece and math.isinf(f.ohm) and f.only in ("", moment) for f in self.faults
        )

    def scenario(self, moment: str) -> Scenario:
        """What is on in a moment."""
        held = next(m for m in self.moments if m.id == moment)
        scenario = self.craft.scenario(held.scenario)
        off = {key for key, state in held.loads.items() if state in ("off", "unplugged")}
        return replace(
            scenario, on=scenario.on - off, contacts={**scenario.contacts, **held.contacts}
        )

    def solved(self, moment: str, at_s: float) -> SolvedCraft | None:
        """The craft as it truly stands so long after switching on; None where a load would stall.

        Args:
            moment: the id of the moment.
            at_s: seconds since switching on.
        """
        key = moment, round(at_s, 1)
        if key not in self._solved:
            self._solved[key] = self._solve(moment, at_s)
        return self._solved[key]

    def _solve(self, moment: str, at_s: float) -> SolvedCraft | None:
        return self.standing(self.scenario(moment), at_s, self.true_ohms(moment))

    def standing(
        self, scenario: Scenario, at_s: float, ohms: Mapping[str, float]
    ) -> SolvedCraft | None:
        """The craft as it truly stands in a scenario; None where a load would stall.

        Args:
            at_s: seconds since switching on.
            ohms: what every piece has then.
        """
        more = self.surge_v * math.exp(-at_s / DRIFTS_S)
        own = next(s for s in self.craft.sources if s.id == self.run.source.id)
        battery = scenario.source(own)
        fed = {
            **scenario.sources,
            own.id: SourceState(battery.open_circuit_v + more, battery.internal_ohm),
        }
        extra = frozenset(x.id for x in self.extra_loads)
        scenario = replace(scenario, sources=fed, on=scenario.on | extra)
        loads = tuple(_times(x, self.load_times.get(x.id, 1.0)) for x in self.craft.loads)
        craft = replace(
            self.craft, loads=(*loads, *self.extra_loads),
            sources=(*self.craft.sources, *self.extra_sources),
        )  # fmt: skip
        try:
            return solved_craft(craft, scenario, self.tables, ohms)
        except (NoSolution, JobError):
            return None

    # The truth at the loaded current

    def loaded(self, moment: str, scenario: Scenario, drawn: Mapping[str, float]) -> SolvedCraft:
        """What every piece drops with the ohms of a moment, the loads drawing so much (A) in a scenario.

        What is undrawn draws what it does.

        Args:
            drawn: what each load draws (A), by its id.
        """
        return self.loaded_with(self.true_ohms(moment), scenario, drawn)

    def loaded_with(
        self, ohms: Mapping[str, float], scenario: Scenario, drawn: Mapping[str, float]
    ) -> SolvedCraft:
        """As `loaded`, with these ohms.

        Args:
            ohms: what every piece has.
            drawn: what each load draws (A), by its id.
            scenario: what is on.
        """
        behind = set(self.run.string) - {self.run.load.id}
        loads = [_drawing(x, drawn.get(x.id, 0.0)) for x in self.craft.loads if x.id not in behind]
        # What lies in series takes the current of the run's own load: only its volts are left out.
        passed = tuple(
            FixedPiece(
                id=x.id, start=x.start, end=x.end, side="feed", kind="resistor", resistance_ohm=0.0
            )
            for x in self.craft.loads
            if x.id in behind
        )
        extra = frozenset(x.id for x in self.extra_loads)
        # Volts are high enough that nothing gives up: only the currents matter here.
        fed = {
            s.id: SourceState(1e4, 1e-3) for s in self.craft.sources if s.id == self.run.source.id
        }
        others = {s.id: SourceState(internal_ohm=1e12) for s in self.craft.sources}
        scenario = replace(
            scenario, on=scenario.on | extra, sources={**others, **fed}, temperature_model="ambient"
        )
        extras = tuple(_drawing(x, x.current_a or 0.0) for x in self.extra_loads)
        craft = replace(self.craft, loads=(*loads, *extras), pieces=(*self.craft.pieces, *passed))
        return solved_craft(craft, scenario, self.tables, ohms)


def _times(load: Load, times: float) -> Load:
    """A load that draws so many times what is drawn."""
    given = {
        key: value * times for key in ("current_a", "power_w") if (value := getattr(load, key))
    }
    return replace(load, **given)


def _drawing(load: Load, amperes: float) -> Load:
    return replace(
        load, behaviour="constant_current", current_a=amperes, power_w=None, rated_v=None,
        load_ohm=None,
    )  # fmt: skip


# Making one


@dataclass(frozen=True)
class WorldWanted:
    """What a world is made of: its kind, how many faults, what else is the matter."""

    kind: Kind
    faults: int
    open: bool = False
    warms: bool = False
    goes: bool = False
    lamp: bool = False
    panel: bool = False


def wanted(rng: random.Random) -> WorldWanted:
    """Something to be found, or nothing.

    Args:
        rng: where chance comes from: the same seed makes the same.
    """
    faults = rng.choices((0, 1, 2, 3), (3, 4, 2, 1))[0]
    return WorldWanted(
        rng.choice(KINDS), faults, open=faults > 0 and rng.random() < 0.2,
        warms=faults > 0 and rng.random() < 0.15, goes=faults > 0 and rng.random() < 0.1,
        lamp=rng.random() < 0.1, panel=rng.random() < 0.05,
    )  # fmt: skip


def world(rng: random.Random, made_of: WorldWanted, tables: Tables) -> World:
    """A world of a kind, with its truth.

    Args:
        rng: where chance comes from: the same seed makes the same.
        made_of: what it is to be made of.
        tables: the reference tables.
    """
    craft = sketched(made_of.kind, rng)
    drawn = closed_ohms(craft, tables)
    run = traced(craft, drawn).runs["x"]
    ohms = {p.id: _true(p, drawn[p.id], rng) for p in craft.pieces}
    moments = [Moment(id="m1", scenario="rested", loads={"x": "running"}, warm_min=1.0)]
    if made_of.warms or made_of.goes or rng.random() < 0.15:
        later = 12.0 if made_of.warms else 1.0
        moments.append(
            Moment(id="m2", scenario="rested", loads={"x": "running"}, warm_min=later, note="2")
        )
    pieces = [s.piece.id for s in run.steps()]
    amperes = sum(x.current_a or (x.power_w or 0.0) / 12.0 for x in craft.loads if x.id == "x")
    faults = []
    for i, piece in enumerate(rng.sample(pieces, min(made_of.faults, len(pieces)))):
        low, high = FAULT_V
        volts = low * (high / low) ** rng.random()
        ohm = math.inf if made_of.open and i == 0 else volts / amperes
        only = "m2" if i == 0 and (made_of.warms or made_of.goes) else ""
        faults.append(Fault(piece, ohm, only))
    between = run.feed[-1].entry if len(run.feed) > 1 else run.feed_terminal
    lamp = Load(
        id="undrawn", start=between, end=run.source.back, name="A lamp nobody drew",
        behaviour="constant_current", current_a=rng.uniform(0.3, 2.0),
    )  # fmt: skip
    panel = Source(
        id="panel", name="A panel nobody drew", live=run.feed_terminal, back=run.source.back,
        open_circuit_v=rng.uniform(14.0, 18.0), internal_ohm=rng.uniform(2.0, 8.0),
    )  # fmt: skip
    return World(
        craft, tables, run, ohms,
        {x.id: 1 + rng.uniform(-LOADS_SPREAD, LOADS_SPREAD) for x in craft.loads},
        tuple(faults), tuple(moments), rng.random() * DRIFTS_SHARE * craft.nominal_v,
        (lamp,) if made_of.lamp else (), (panel,) if made_of.panel else (),
    )  # fmt: skip


def _true(piece: Conductor | FixedPiece, drawn: float, rng: random.Random) -> float:
    if undrawn(piece):
        return rng.uniform(*UNKNOWN_OHM)
    spread = WIRE_SPREAD if isinstance(piece, Conductor) else PIECE_SPREAD
    return drawn * math.exp(rng.gauss(0.0, spread))
