"""Nodal analysis of a whole craft: every voltage, every current, in one scenario.

Modified nodal analysis (Ho, Ruehli and Brennan, 1975) with Newton's method on the loads. A piece
of next to no resistance, and every source, keeps its current as an unknown of its own, so that
currents balance to rounding however small the resistances are.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csc_array
from scipy.sparse.csgraph import connected_components

from .conductors import Warmth, warm_ohm
from .equations import Floats, Ints, System, own_current
from .errors import JobError, NoSolution
from .loads import LoadLaws, laws_of, rated_current_a
from .pieces import Conductor, Craft, FixedPiece, Load, Scenario
from .resistances import TableOhms
from .solution import ElementState, ElementStates, Solution
from .tables import Tables

PROBE_A = 0.01
"""The current with which a loop is felt for its resistance: too little to move other loads."""
NEWTON_STEPS = 80
HEATING_ROUNDS = 60
STRAIGHT = 1e-14
"""A load's law that its tangent meets to this share of its current is a straight line: nothing is left."""


def solve(
    craft: Craft,
    scenario: Scenario,
    tables: Tables,
    *,
    extra_a: dict[str, float] | None = None,
    resistances: dict[str, float] | None = None,
) -> Solution:
    """Solve a craft in one scenario.

    Args:
        extra_a: additional current (A) drawn at a load's terminals, by load id.
        resistances: resistance (ohm) that rules over everything else, by piece id; infinity is open.

    Raises:
        JobError: a piece without a resistance, or sources that contradict each other.
        NoSolution: a constant-power load that no voltage can satisfy.
    """
    network = Network(craft, scenario, tables, resistances)
    return network.solve(extra_a)


@dataclass(slots=True)
class _State:
    """Unknowns of a solve (V, then A), piece resistances and temperatures."""

    x: Floats
    ohms: Floats
    temperatures: Floats


class Network:
    """A craft in a scenario, laid out as index arrays, to be solved as often as is wanted.

    Arguments and errors are those of `solve`.
    """

    def __init__(
        self,
        craft: Craft,
        scenario: Scenario,
        tables: Tables,
        resistances: dict[str, float] | None = None,
    ) -> None:
        resistances = resistances or {}
        self.craft, self.scenario, self.tables = craft, scenario, tables
        self.index = {point.id: i for i, point in enumerate(craft.points)}
        self.ruled = resistances
        apart = {key for key, ohm in resistances.items() if ohm == math.inf}
        self.pieces = [p for p in craft.pieces if not p.open and p.id not in apart]
        self.piece_ends = self._ends([(p.start, p.end) for p in self.pieces])
        self.loads = [load for load in craft.loads if load.id in scenario.on]
        self.load_ends = self._ends([(load.start, load.end) for load in self.loads])
        self.source_ends = self._ends([(s.back, s.live) for s in craft.sources])
        self.emf, self.internal = self._sources()
        self._connect()
        self.rated = laws_of(self.loads, craft.nominal_v)
        self.laws = self._laws(scenario.starting)
        self.cold, self.warms, self.warmth = self._cold()
        self.extra = np.zeros(len(self.loads))
        self.places = {p.id: i for i, p in enumerate(self.pieces)}
        self.ids = [e.id for e in (*craft.pieces, *craft.loads)]
        self.near: Floats | None = None
        self.system: System | None = None
        self.carried: Floats | None = None
        """What each piece carries (A) in the scenario as it is."""
        self.last: _State | None = None
        """The last solution: where the next search starts."""

    @cached_property
    def elements(self) -> dict[str, Conductor | FixedPiece | Load]:
        """Every element by its id."""
        return {e.id: e for e in (*self.craft.pieces, *self.craft.loads)}

    def solve(
        self, extra_a: dict[str, float] | None = None, stretched: dict[str, float] | None = None
    ) -> Solution:
        """Solve with `extra_a` (A, by load id) more, and pieces `stretched` by these factors."""
        self.extra = np.zeros(len(self.loads))
        for i, load in enumerate(self.loads):
            self.extra[i] = (extra_a or {}).get(load.id, 0.0)
        cold = self.cold
        if stretched:
            cold = cold.copy()
            for key, factor in stretched.items():
                cold[self.places[key]] *= factor
        self.last = self._settle(cold)
        if not extra_a and not stretched:
            self.carried = self.piece_currents(self.last)
        return self._solution(self.last)

    def moment(self, starting: frozenset[str]) -> Solution:
        """What the last solution becomes while these loads start, in place of the scenario's.

        A start is over before a wire warms: every resistance stays as it was last.
        """
        assert self.last is not None, "a start is felt against what was solved before"
        before, self.laws = self.laws, self._laws(starting)
        try:
            state = replace(self.last, x=self._newton(self.last.ohms))
            return self._solution(state)
        finally:
            self.laws = before

    def matrix(self) -> csc_array | Floats:
        """The matrix of the linear part at 20 C, as it is factored: sparse where it is large."""
        return System(self, self.cold).base

    def _ends(self, pairs: list[tuple[str, str]]) -> Ints:
        ends = [(self.index[a], self.index[b]) for a, b in pairs]
        return np.array(ends, dtype=np.intp).reshape(-1, 2).T

    def _sources(self) -> tuple[Floats, Floats]:
        emf, internal = [], []
        for source in self.craft.sources:
            state = self.scenario.sources.get(source.id)
            volts = state.open_circuit_v if state else None
            ohms = state.internal_ohm if state else None
            emf.append(source.open_circuit_v if volts is None else volts)
            internal.append(source.internal_ohm if ohms is None else ohms)
        return np.array(emf, dtype=float), np.array(internal, dtype=float)

    def _connect(self) -> None:
        """Find what hangs together, with and without the loads, and ground each part once."""
        n = len(self.index)
        wires = np.concatenate([self.piece_ends, self.source_ends], axis=1)
        with_loads = np.concatenate([wires, self.load_ends], axis=1)
        island = _parts(wires, n)
        self.supplied = island[self.load_ends[0]] == island[self.load_ends[1]]
        whole = _parts(with_loads, n)
        reference = self.index[self.craft.reference]
        touched = np.zeros(n, dtype=bool)
        touched[with_loads.ravel()] = True
        self.connected = touched & (whole == whole[reference])
        grounds = np.unique(whole, return_index=True)[1]
        grounds[whole[reference]] = reference
        self.free = np.ones(n, dtype=bool)
        self.free[grounds] = False

    def _laws(self, starting: frozenset[str]) -> LoadLaws:
        """A load outside every supply's loop only joins its two ends, as a resistor does."""
        times = np.ones(len(self.loads))
        for i, load in enumerate(self.loads):
            if load.id in starting:
                times[i] = load.start_multiple or 1.0
        scale, power = self.rated.scale * times, self.rated.power
        if not self.supplied.all():
            nominal = self.craft.nominal_v
            rated = [rated_current_a(load, nominal) / nominal for load in self.loads]
            scale = np.where(self.supplied, scale, np.array(rated, dtype=float))
            power = np.where(self.supplied, power, 1.0)
        return LoadLaws(scale, power, self.rated.knee_v)

    # Resistances

    def _cold(self) -> tuple[Floats, NDArray[np.bool_], Warmth]:
        """Each piece's ohms at 20 C, whether temperature changes them, and how warm it gets."""
        ohms: list[float] = []
        warming: list[Conductor | None] = []
        of_table = TableOhms(self.tables)
        for piece in self.pieces:
            own = self.ruled.get(piece.id, piece.resistance_ohm)
            ohms.append(of_table.of(piece) if own is None else own)
            warming.append(piece if own is None and isinstance(piece, Conductor) else None)
        warms = np.array([wire is not None for wire in warming], dtype=bool)
        warmth = Warmth.of(warming, self.tables.conductors)
        return np.array(ohms, dtype=float), warms, warmth

    # Solving

    def _settle(self, cold: Floats) -> _State:
        """Solve, warm the conductors by what they carry, and again until nothing moves."""
        warms = self.warms
        state = _State(np.zeros(0), cold, np.full(len(cold), self.scenario.ambient_c))
        # As warm as the craft itself makes it: where that is still so, one round is enough.
        currents = np.zeros(len(cold)) if self.carried is None else self.carried
        heating = self.scenario.temperature_model == "self_heating"
        for _ in range(HEATING_ROUNDS):
            state.temperatures = self.warmth.temperatures_c(self.scenario, currents)
            before = state.ohms
            state.ohms = np.where(warms, warm_ohm(cold, state.temperatures), cold)
            if state.x.size and np.allclose(state.ohms, before, rtol=1e-13, atol=0):
                return state
            state.x = self._newton(state.ohms)
            currents = self.piece_currents(state)
            if not heating:
                return state
        raise JobError(
            f"scenarios.{self.scenario.id}",
            "the conductors heat one another without end",
            "currents within the conductors' ampacity",
        )

    def _newton(self, ohms: Floats) -> Floats:
        """The unknowns that satisfy every law; see the class of systems above."""
        system = self._system(ohms)
        x = self.near
        if x is None or len(x) != system.size:
            x = self._start(system)
        residual = math.inf
        for _ in range(NEWTON_STEPS):
            volts = system.across_loads(x)
            slope = self.laws.slope(volts)
            offset = self.laws.current(volts) - slope * volts
            target = system.solve(slope, offset + self.extra)
            if self._is_straight(system.across_loads(target), slope, offset):
                self._refuse_collapse(system, target)
                self.near = target
                return target
            if residual == math.inf:
                residual = system.imbalance(x)
            step = target - x
            # Quadratic: after a step of 1e-8 what is left is below rounding.
            if np.abs(step).max(initial=0.0) < 1e-8 * max(1.0, np.abs(x).max(initial=0.0)):
                self._refuse_collapse(system, target)
                self.near = target
                return target
            share = 1.0
            while True:
                trial = x + share * step
                error = system.imbalance(trial)
                # A step must gain, in proportion to its share: two states may else swap for ever.
                if error <= residual * (1 - 1e-3 * share) or error < 1e-9 or share < 1e-4:
                    break
                share /= 2
            x, residual = trial, error
        if residual < 1e-9:
            self._refuse_collapse(system, x)
            return x
        raise self._no_solution(system)

    def _is_straight(self, volts: Floats, slope: Floats, offset: Floats) -> bool:
        """Whether the loads draw at these volts what the straight lines through their laws say."""
        drawn = self.laws.current(volts)
        return bool((np.abs(slope * volts + offset - drawn) <= STRAIGHT * np.abs(drawn)).all())

    def _system(self, ohms: Floats) -> System:
        """The equations of these resistances; the last ones, with what is factored, if they fit."""
        if self.system is None or not np.array_equal(self.system.ohms, ohms):
            self.system = System(self, ohms, self.system)
        self.system.laws, self.system.extra = self.laws, self.extra
        return self.system

    def _start(self, system: System) -> Floats:
        """Where the search starts: the laws about the nominal voltage.

        A load that holds its power stands in as a resistor: its own slope there, which is negative,
        may be more than its loop can bear.
        """
        volts = np.full(len(self.loads), self.craft.nominal_v)
        holds = self.laws.power < 0
        slope = np.where(
            holds, self.laws.scale * volts ** (self.laws.power - 1), self.laws.slope(volts)
        )
        offset = np.where(holds, 0.0, self.laws.current(volts) - slope * volts)
        return system.solve(slope, offset)

    def _refuse_collapse(self, system: System, x: Floats) -> None:
        """A power-holding load that ended below its knee, on a live supply, has no solution."""
        if (self._holds_power() & (np.abs(system.across_loads(x)) < self.laws.knee_v)).any():
            unloaded = system.across_loads(
                system.solve(np.full(len(self.loads), 1e-9), 0 * self.extra)
            )
            if (self._holds_power() & (np.abs(unloaded) > self.laws.knee_v)).any():
                raise self._no_solution(system)

    def _holds_power(self) -> NDArray[np.bool_]:
        holds: NDArray[np.bool_] = (self.laws.power < 0) & self.supplied
        return holds

    def _no_solution(self, system: System) -> NoSolution | JobError:
        """Name the load whose power asks most of what its loop could carry at best."""
        none = np.zeros(len(self.loads))
        unloaded = system.across_loads(system.solve(none, none))
        worst, asked = None, 0.0
        for i in np.flatnonzero(self._holds_power()):
            one_amp = none.copy()
            one_amp[i] = 1.0
            ohm = float((unloaded - system.across_loads(system.solve(none, one_amp)))[i])
            share = float(self.laws.scale[i] * 4 * ohm / max(unloaded[i] ** 2, 1e-12))
            if share > asked:
                worst, asked = self.loads[i], share
        if worst is None:
            return JobError("elements", "the network has no steady state")
        return NoSolution(worst.id, worst.name, *self._bearable(worst))

    def _bearable(self, load: Load) -> tuple[float | None, float | None]:
        """The loop's resistance (ohm) as the load sees it, and the most that would just carry it.

        Thevenin's equivalent with the other loads on; P = V^2 / 4R is the most it can give.
        None where the other loads have no solution either.
        """
        feeler = Load(
            id=load.id,
            start=load.start,
            end=load.end,
            name=load.name,
            behaviour="constant_current",
            current_a=PROBE_A,
        )
        loads = tuple(feeler if x.id == load.id else x for x in self.craft.loads)
        probe = Network(replace(self.craft, loads=loads), self.scenario, self.tables, self.ruled)
        try:
            drops = [probe.solve({load.id: more}).elements[load.id].drop_v for more in (0, PROBE_A)]
        except (JobError, NoSolution):
            return None, None
        assert drops[0] is not None
        assert drops[1] is not None
        power = (load.power_w or 0.0) * (
            (load.start_multiple or 1.0) if load.id in self.scenario.starting else 1.0
        )
        ohm = (drops[0] - drops[1]) / PROBE_A
        return ohm, (drops[0] + ohm * PROBE_A) ** 2 / (4 * power)

    # Results

    def piece_currents(self, state: _State) -> Floats:
        """Currents (A) of the pieces, from start to end."""
        start, end = self.piece_ends
        unknown = own_current(state.ohms)
        currents = np.zeros(len(state.ohms))
        drop = state.x[start] - state.x[end]
        currents[~unknown] = drop[~unknown] / state.ohms[~unknown]
        first = len(self.index)
        currents[unknown] = state.x[first : first + int(unknown.sum())]
        return currents

    def _solution(self, state: _State) -> Solution:
        """The state in the craft's own words."""
        volts = state.x[: len(self.index)]
        nodes: dict[str, float | None] = dict(zip(self.index, volts.tolist(), strict=True))
        if not self.connected.all():
            names = list(self.index)
            nodes.update((names[i], None) for i in np.flatnonzero(~self.connected))
        across = volts[self.load_ends[0]] - volts[self.load_ends[1]]
        own = len(self.index) + int(own_current(state.ohms).sum())
        source_ids = [s.id for s in self.craft.sources]
        starved = np.abs(across) <= np.maximum(self.laws.knee_v, 1e-3 * self.craft.nominal_v)
        return Solution(
            self.scenario.id,
            nodes,
            ElementStates(self.ids, _Teller(self, state, nodes, across).tell),
            dict(zip(source_ids, state.x[own:].tolist(), strict=True)),
            frozenset(self.loads[i].id for i in np.flatnonzero(starved)),
        )


class _Teller:
    """Tells the state of one element of a solved network at a time."""

    def __init__(
        self, circuit: Network, state: _State, nodes: dict[str, float | None], across: Floats
    ) -> None:
        self.circuit, self.nodes = circuit, nodes
        currents = circuit.piece_currents(state)
        told = (currents, currents * state.ohms, currents**2 * state.ohms, state.ohms)
        self.currents, self.drops, self.powers, self.ohms = (each.tolist() for each in told)
        self.temperatures = state.temperatures.tolist()
        drawn = (circuit.laws.current(across) + circuit.extra).tolist()
        self.drawn = dict(zip((load.id for load in circuit.loads), drawn, strict=True))

    def tell(self, key: str) -> ElementState:
        """The state of the element of this id."""
        i = self.circuit.places.get(key)
        if i is None:
            element = self.circuit.elements[key]
            if isinstance(element, Load):
                return _load_state(element, self.drawn.get(key, 0.0), self.nodes)
            drop = _difference(self.nodes, element.start, element.end)
            return ElementState(0.0, drop, 0.0, None, None)
        piece = self.circuit.pieces[i]
        hangs = self.nodes[piece.start] is None
        return ElementState(
            self.currents[i],
            None if hangs else self.drops[i],
            self.powers[i],
            self.ohms[i],
            self.temperatures[i] if isinstance(piece, Conductor) else None,
        )


def _parts(ends: Ints, n: int) -> NDArray[np.int32]:
    """A label for each point, the same for points that these ends join."""
    graph = coo_array((np.ones(ends.shape[1]), (ends[0], ends[1])), shape=(n, n))
    labels: NDArray[np.int32] = connected_components(graph, directed=False)[1]
    return labels


def _difference(nodes: Mapping[str, float | None], start: str, end: str) -> float | None:
    first, second = nodes[start], nodes[end]
    return None if first is None or second is None else first - second


def _load_state(load: Load, current: float, nodes: Mapping[str, float | None]) -> ElementState:
    drop = _difference(nodes, load.start, load.end)
    ohm = drop / current if drop is not None and current else None
    return ElementState(current, drop, current * (drop or 0.0), ohm, None)
