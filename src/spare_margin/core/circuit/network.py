"""Nodal analysis of a whole craft: every voltage, every current, in one scenario.

Modified nodal analysis (C.-W. Ho, A. E. Ruehli and P. A. Brennan, The modified nodal approach to
network analysis, IEEE Trans. CAS-22, 1975) with Newton's method on the loads. A piece of next to no
resistance, and every source, keeps its current as an unknown of its own, so that currents balance to
rounding however small the resistances are.

Solving gives a value: a `SolvedCraft` never changes, and what is asked of it later (a start, a little
more current, a longer wire) is another one.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from spare_margin.core.columns import Floats
from spare_margin.core.model.pieces import Conductor, Craft, Load, Scenario
from spare_margin.core.model.tables import Tables

from .layout import Layout
from .newton import SolvedState, newton, settle
from .solution import ElementState, ElementStates, Solution


def solve(
    craft: Craft,
    scenario: Scenario,
    tables: Tables,
    *,
    extra_a: Mapping[str, float] | None = None,
    resistances: Mapping[str, float] | None = None,
) -> Solution:
    """Solve a craft in one scenario.

    Args:
        craft: the wiring; every piece must have a resistance, by itself or by the tables.
        scenario: what is on, and the sources' state.
        tables: the reference tables.
        extra_a: additional current (A) drawn at a load's terminals, by load id.
        resistances: resistance (ohm) that rules over everything else, by piece id; infinity is open.

    Returns:
        Volts by test point, and the state of every element.

    Raises:
        JobError: a piece without a resistance, or sources that contradict each other.
        NoSolution: a constant-power load that no voltage can satisfy.
    """
    return solved_craft(craft, scenario, tables, resistances, extra_a).solution


def solved_craft(
    craft: Craft,
    scenario: Scenario,
    tables: Tables,
    resistances: Mapping[str, float] | None = None,
    extra_a: Mapping[str, float] | None = None,
    like: Layout | None = None,
) -> "SolvedCraft":
    """A craft solved in one scenario, ready for more questions; arguments and errors as of `solve`.

    `like` is a layout of the same craft in another scenario, to take over what does not differ.

    Args:
        tables: the reference tables.
        resistances: ohms that rule over everything else, by piece id.
        extra_a: current (A) drawn beside a load, by its id.
    """
    layout = Layout(craft, scenario, tables, resistances, like)
    laws, extra = layout.laws(scenario.starting), _extra(layout, extra_a or {})
    return SolvedCraft(layout, settle(layout, laws, layout.cold, extra), layout.cold)


@dataclass(frozen=True)
class SolvedCraft:
    """A craft in a scenario, and the one state that keeps every law. It never changes.

    `cold` are the ohms of its pieces at 20 C that it was solved with: as drawn, or as measured.
    """

    layout: Layout
    state: SolvedState
    cold: Floats

    @property
    def craft(self) -> Craft:
        """The wiring."""
        return self.layout.craft

    @property
    def scenario(self) -> Scenario:
        """What it was solved in."""
        return self.layout.scenario

    @cached_property
    def solution(self) -> Solution:
        """Volts by test point, and the state of every element."""
        return _solution(self)

    @cached_property
    def currents_a(self) -> Floats:
        """What each piece of the layout carries (A, from start to end)."""
        return self.state.piece_currents()

    @cached_property
    def piece_currents_a(self) -> Floats:
        """What each piece of the craft carries (A), in its order; nothing where it stands open."""
        out = np.zeros(len(self.craft.pieces))
        out[self.layout.closed] = self.currents_a
        return out

    @cached_property
    def piece_drops_v(self) -> Floats:
        """What each piece of the craft drops (V), in its order; 0 where an end hangs loose.

        What stands open holds back all there is between its ends.
        """
        layout = self.layout
        start, end = layout.all_ends
        out: Floats = self.state.x[start] - self.state.x[end]
        out[layout.closed] = self.currents_a * self.state.ohms
        out[~(layout.connected[start] & layout.connected[end])] = 0.0
        return out

    @property
    def stood_in(self) -> tuple[str, ...]:
        """Ids of loads that are worked out as resistors: another load alone joins them to a supply."""
        layout = self.layout
        return tuple(layout.loads[i].id for i in np.flatnonzero(layout.stood_in))

    def drawing_more(self, extra_a: Mapping[str, float]) -> "SolvedCraft":
        """The same craft with this current (A, by load id) drawn beside its loads. Errors as of `solve`.

        Args:
            extra_a: current (A) drawn beside a load, by its id.
        """
        layout = self.layout
        state = settle(layout, self.state.laws, self.cold, _extra(layout, extra_a), self.state)
        return SolvedCraft(layout, state, self.cold)

    def stretched(self, factors: Mapping[str, float]) -> "SolvedCraft":
        """The same craft with pieces this many times as long, by id. Errors as of `solve`.

        Args:
            factors: how many times as long, by piece id.
        """
        layout = self.layout
        cold = self.cold.copy()
        for key, factor in factors.items():
            cold[layout.places[key]] *= factor
        state = settle(layout, self.state.laws, cold, self.state.extra, near=self.state)
        return SolvedCraft(layout, state, cold)

    def while_starting(self, starting: frozenset[str]) -> "SolvedCraft":
        """The moment in which these loads start, in place of the scenario's. Errors as of `solve`.

        A start is over before a wire warms: every resistance stays as it is.

        Args:
            starting: the ids of the loads that start.
        """
        state = self.state
        moment = newton(
            self.layout,
            self.layout.laws(starting),
            state.ohms,
            state.extra,
            state.temperatures,
            near=state,
        )
        return SolvedCraft(self.layout, moment, self.cold)


def _extra(layout: Layout, extra_a: Mapping[str, float]) -> Floats:
    return np.array([extra_a.get(load.id, 0.0) for load in layout.loads], dtype=float)


def _solution(solved: SolvedCraft) -> Solution:
    """The state in the craft's own words."""
    layout, state = solved.layout, solved.state
    volts = state.x[: len(layout.index)]
    nodes: dict[str, float | None] = dict(zip(layout.index, volts.tolist(), strict=True))
    if not layout.connected.all():
        names = list(layout.index)
        nodes.update((names[i], None) for i in np.flatnonzero(~layout.connected))
    across = volts[layout.load_ends[0]] - volts[layout.load_ends[1]]
    reader = _ElementReader(solved, nodes, across)
    source_ids = [s.id for s in layout.craft.sources]
    starved = np.abs(across) <= np.maximum(state.laws.knee_v, 1e-3 * layout.craft.nominal_v)
    return Solution(
        layout.scenario.id,
        nodes,
        ElementStates(layout.element_ids, reader),
        dict(zip(source_ids, state.x[state.system.first_source :].tolist(), strict=True)),
        frozenset(layout.loads[i].id for i in np.flatnonzero(starved)),
    )


class _ElementReader:
    """Reads the state of one element of a solved craft at a time."""

    def __init__(self, solved: SolvedCraft, nodes: dict[str, float | None], across: Floats) -> None:
        self.solved, self.layout, self.nodes = solved, solved.layout, nodes
        state = solved.state
        currents = solved.currents_a
        columns = (currents, currents * state.ohms, currents**2 * state.ohms, state.ohms)
        self.currents, self.drops, self.powers, self.ohms = (each.tolist() for each in columns)
        self.temperatures = state.temperatures.tolist()
        drawn = (state.laws.current(across) + state.extra).tolist()
        self.drawn = dict(zip((load.id for load in self.layout.loads), drawn, strict=True))

    def piece_currents(self) -> Floats:
        """What each piece of the craft carries (A)."""
        return self.solved.piece_currents_a

    def piece_drops(self) -> Floats:
        """What each piece of the craft drops (V)."""
        return self.solved.piece_drops_v

    def current_a(self, key: str) -> float:
        """What the element of this id carries (A)."""
        i = self.layout.places.get(key)
        return float(self.drawn.get(key, 0.0) if i is None else self.currents[i])

    def read(self, key: str) -> ElementState:
        """The state of the element of this id."""
        i = self.layout.places.get(key)
        if i is None:
            element = self.layout.elements[key]
            if isinstance(element, Load):
                return _load_state(element, self.drawn.get(key, 0.0), self.nodes)
            drop = _difference(self.nodes, element.start, element.end)
            return ElementState(0.0, drop, 0.0, None, None)
        piece = self.layout.pieces[i]
        hangs = self.nodes[piece.start] is None
        return ElementState(
            self.currents[i],
            None if hangs else self.drops[i],
            self.powers[i],
            self.ohms[i],
            self.temperatures[i] if isinstance(piece, Conductor) else None,
        )


def _difference(nodes: Mapping[str, float | None], start: str, end: str) -> float | None:
    first, second = nodes[start], nodes[end]
    return None if first is None or second is None else first - second


def _load_state(load: Load, current: float, nodes: Mapping[str, float | None]) -> ElementState:
    drop = _difference(nodes, load.start, load.end)
    ohm = drop / current if drop is not None and current else None
    return ElementState(current, drop, current * (drop or 0.0), ohm, None)
