"""The circuit of some conditions: solved as drawn, with what is watched in it and how that moves.

`evaluate` gives, for many sizes of one fault at once, what every watched row shows and how steeply it
moves with each unknown: the model that the evidence of a fault is linearised about.
"""

from collections.abc import Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.circuit.layout import Layout
from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.newton import settle
from spare_margin.core.model.conductors import warm_ohm
from spare_margin.core.model.pieces import Conductor, Craft, Scenario, SourceState
from spare_margin.core.model.tables import Tables

from .bending_loads import FLAT_S, BendingLoads
from .parameters import BASE, COPPER, Floats, Key, Parameters
from .responses import Responses, Row, Watched, responses


@dataclass(frozen=True, slots=True)
class Adjusted:
    """A craft as it departs from the drawing, the point that is linearised about.

    Attributes:
        ohm_times: resistance of pieces in times of the drawing's, by id.
        more_ohm: ohms on top of that.
        load_times: what loads draw, in times of what is drawn.
        emf_v: open-circuit volts of sources, in place of the scenario's.
        inner_times: a source's inner resistance in times of the drawing's.
    """

    ohm_times: Mapping[str, float]
    more_ohm: Mapping[str, float]
    load_times: Mapping[str, float]
    emf_v: Mapping[str, float]
    inner_times: Mapping[str, float]


AS_DRAWN = Adjusted({}, {}, {}, {}, {})


def solved_as(
    craft: Craft, scenario: Scenario, tables: Tables, point: Adjusted = AS_DRAWN
) -> SolvedCraft:
    """A craft solved at a point. Raises JobError and NoSolution as `solve` does.

    Args:
        scenario: the state of the craft that is asked about.
        tables: the reference tables.
    """
    sources = {
        s.id: SourceState(
            point.emf_v.get(s.id, scenario.source(s).open_circuit_v),
            scenario.source(s).internal_ohm * point.inner_times.get(s.id, 1.0),
        )
        for s in craft.sources
    }
    layout = Layout(craft, replace(scenario, sources=sources), tables)
    cold = layout.cold.copy()
    for key, each in point.ohm_times.items():
        if key in layout.places:
            cold[layout.places[key]] *= each
    if point.more_ohm:
        # A fault's ohms are as they are now: what warms is the wire, so that they are taken back to 20 C.
        air = layout.warmth.temperatures_c(layout.scenario, np.zeros(len(cold)))
        warmer = np.where(layout.warms, warm_ohm(np.ones(len(cold)), air), 1.0)
        for key, ohm in point.more_ohm.items():
            if key in layout.places:
                cold[layout.places[key]] += ohm / warmer[layout.places[key]]
    times = np.array([point.load_times.get(x.id, 1.0) for x in layout.loads], dtype=float)
    laws = layout.laws(scenario.starting)
    scaled = replace(laws, scale=laws.scale * times)
    state = settle(layout, scaled, cold, np.zeros(len(layout.loads)))
    return SolvedCraft(layout, state, cold)


@dataclass(frozen=True, slots=True)
class Shown:
    """What R watched rows show in C cases: `values` (C, R) and their slopes by unknown (C, R, P).

    `by_size` (C, R) is the slope by the logarithm of the fault's size; `across` (C, L) are the volts
    at the loads.
    """

    values: Floats
    slopes: Floats
    by_size: Floats
    across: Floats

    def rows(self, which: slice | NDArray[np.intp]) -> "Shown":
        """Some of the rows.

        Args:
            which: their places.
        """
        return Shown(
            self.values[:, which], self.slopes[:, which], self.by_size[:, which], self.across
        )


class Circuit:
    """A craft solved in some conditions, and rows watched in it.

    Args:
        emf_key: the moment whose open-circuit volts are unknown here; None where they are given.
        given_load: a load whose own draw is given here rather than unknown.
        base: a piece or source and the ohms (in `solved` already) of a fault that stands in it.
        parameters: the unknowns.
    """

    def __init__(
        self,
        solved: SolvedCraft,
        rows: Sequence[Row],
        parameters: Parameters,
        emf_key: str | None,
        given_load: str | None = None,
        base: tuple[str, float] | None = None,
    ) -> None:
        self.solved, self.layout, self.parameters = solved, solved.layout, parameters
        self.rows = tuple(rows)
        self.answers: Responses = responses(solved)
        self.watched: Watched = self.answers.watch(rows)
        self.laws = solved.state.laws
        state = solved.state
        self.across_now = state.system.across_loads(state.x)
        self.given_load = given_load
        self._place(emf_key, given_load, base)

    def watching(self, rows: Sequence[Row]) -> "Circuit":
        """The same circuit with other rows watched in it."""
        other = copy(self)
        other.rows, other.watched = tuple(rows), self.answers.watch(rows)
        return other

    def _place(
        self, emf_key: str | None, given_load: str | None, base: tuple[str, float] | None
    ) -> None:
        """Which unknown moves which branch, load and source."""
        index, layout = self.parameters.index, self.layout
        self.piece_columns: list[tuple[int, int, float]] = []
        self.copper = index[COPPER]
        pieces = {p.id: p for p in layout.pieces}
        for key, branch in self.answers.branches.items():
            ohm = float(self.answers.ohms[branch])
            piece = pieces.get(key)
            column = index.get(("piece", key)) if piece else index.get(("inner", key))
            if column is not None:
                self.piece_columns.append((column, branch, ohm))
            if isinstance(piece, Conductor):
                self.piece_columns.append((self.copper, branch, ohm))
        if base is not None and base[0] in self.answers.branches:
            self.piece_columns.append((index[BASE], self.answers.branches[base[0]], base[1]))
        self.load_columns = [
            (index["load", load.id], i)
            for i, load in enumerate(layout.loads)
            if ("load", load.id) in index and load.id != given_load
        ]
        self.emf_columns: list[tuple[int, int]] = []
        if emf_key is not None:
            for i, source in enumerate(layout.craft.sources):
                key_: Key = ("emf", f"{source.id} {emf_key}")
                if key_ in index:
                    self.emf_columns.append((index[key_], i))

    def carries(self, key: str) -> float:
        """The current (A) that a piece or source carries here, as it is solved; 0 where it is open.

        Args:
            key: the id of the element.
        """
        branch = self.answers.branches.get(key)
        if branch is None:
            return 0.0
        alone, by_load, _, _ = self.answers.flows
        drawn = self.laws.current(self.across_now)
        return float(alone[branch] + by_load[branch] @ drawn)

    def none(self) -> Shown:
        """What is shown as it is solved: one case."""
        first = np.zeros(1, dtype=np.intp)
        return self.evaluate([None], first, np.zeros(1), [None], np.ones(1))

    def evaluate(
        self,
        faults: Sequence[str | None],
        number: NDArray[np.intp],
        ohms: Floats,
        loads: Sequence[str | None],
        times: Floats,
    ) -> Shown:
        """What is shown in C cases of some faults.

        Args:
            faults: by fault, the piece or source with extra ohms; None where none has.
            number: by case, the number of its fault, (C,).
            ohms: by case, the extra ohms, (C,).
            loads: by fault, the load that draws otherwise than it should; None where none does.
            times: by case, what it draws in times of what it should, (C,).
        """
        answers, watched = self.answers, self.watched
        across0, z, into_branch, by_emf = answers.across
        alone, by_load, by_branch, flow_emf = answers.flows
        branch = np.array([answers.branches.get(f or "", -1) for f in faults], dtype=np.intp)
        there = (branch >= 0)[number]
        k = np.where(there, branch[number], 0)
        ohms = np.where(there, ohms, 0.0)
        share = ohms / (1 - ohms * by_branch[k, k])
        into = into_branch[:, k].T
        flow = by_load[k]
        bending = BendingLoads(
            self.laws, z, across0 + (share * alone[k])[:, None] * into, self._scale(loads, number, times),
            share, into, flow,
        )  # fmt: skip
        across = bending.settle(self.across_now)
        amps = bending.drawn(across)
        lost = share * (alone[k] + np.einsum("cl,cl->c", amps, flow))
        values = (
            watched.alone + amps @ watched.by_load.T + lost[:, None] * watched.by_branch[:, k].T
        )
        flows = alone + amps @ by_load.T + lost[:, None] * by_branch[:, k].T
        push = _Push(self, bending.slopes(across), share, k)
        slopes = np.zeros((len(k), len(self.rows), len(self.parameters.keys)))
        if self.piece_columns:
            columns, branches, drawn = (np.array(c) for c in zip(*self.piece_columns, strict=True))
            moved = push.out(
                into_branch[:, branches], watched.by_branch[:, branches], by_branch[:, branches]
            )
            moved *= (flows[:, branches] * drawn)[:, None, :]
            own = columns != self.copper
            slopes[:, :, columns[own]] = moved[:, :, own]
            slopes[:, :, self.copper] = moved[:, :, ~own].sum(axis=2)
        if self.load_columns:
            columns, places = (np.array(c) for c in zip(*self.load_columns, strict=True))
            moved = push.out(z[:, places], watched.by_load[:, places], by_load[:, places])
            slopes[:, :, columns] = moved * amps[:, None, places]
        if self.emf_columns:
            columns, places = (np.array(c) for c in zip(*self.emf_columns, strict=True))
            slopes[:, :, columns] = push.out(
                by_emf[:, places], watched.by_emf[:, places], flow_emf[:, places]
            )
        by_size = push.own() * lost[:, None]
        return Shown(values, slopes, by_size, across)

    def _scale(
        self, loads: Sequence[str | None], number: NDArray[np.intp], times: Floats
    ) -> Floats:
        """What each load draws in times of what it should, (C, L)."""
        scale = np.ones((len(number), len(self.layout.loads)))
        places = {x.id: i for i, x in enumerate(self.layout.loads)}
        place = np.array([places.get(each or "", -1) for each in loads], dtype=np.intp)[number]
        at = np.flatnonzero(place >= 0)
        scale[at, place[at]] = times[at]
        return scale


class _Push:
    """How the watched rows follow a small push, with the loads bending and the fault in its branch."""

    def __init__(self, circuit: Circuit, slope: Floats, share: Floats, k: NDArray[np.intp]) -> None:
        self.share, self.k = share, k
        _, z, into_branch, _ = circuit.answers.across
        _, by_load, self.by_branch, _ = circuit.answers.flows
        watched = circuit.watched
        bent = np.flatnonzero((np.abs(slope) > FLAT_S).any(axis=0))
        self.bent, self.slope = bent, slope[:, bent]
        self.into = into_branch[np.ix_(bent, k)].T
        self.out_k = watched.by_branch[:, k].T
        by_bent = watched.by_load[:, bent] + share[:, None, None] * (
            self.out_k[:, :, None] * by_load[np.ix_(k, bent)][:, None, :]
        )
        self.by_volts = self._by_volts(by_bent, z[np.ix_(bent, bent)], by_load[np.ix_(k, bent)])

    def _by_volts(self, by_bent: Floats, z: Floats, flow: Floats) -> Floats:
        """What the rows show for a volt pushed across each bending load, all of them answering: (C, R, b).

        The bent loads' volts are v = push + z S v, so rows are moved by B S (1 - z S)^-1 push. Cases in
        which no load bends need no solving.
        """
        by_volts = by_bent * self.slope[:, None, :]
        bends = np.flatnonzero((np.abs(self.slope) > FLAT_S).any(axis=1))
        if len(bends):
            part = self.share[bends, None, None]
            fed = z + part * self.into[bends, :, None] * flow[bends, None, :]
            back = np.eye(fed.shape[1]) - fed * self.slope[bends, None, :]
            turned = by_volts[bends].transpose(0, 2, 1)
            by_volts[bends] = np.linalg.solve(back.transpose(0, 2, 1), turned).transpose(0, 2, 1)
        return by_volts

    def out(self, across: Floats, direct: Floats, flows: Floats) -> Floats:
        """The rows' answers (C, R, n) to n pushes.

        Args:
            across: volts across the loads, (L, n).
            direct: at the rows, (R, n).
            flows: the current each drives through every branch, (B, n).
        """
        drives = self.share[:, None] * flows[self.k]
        out: Floats = direct + self._own_rows()[:, :, None] * drives[:, None, :]
        if len(self.bent):
            out += self.by_volts @ across[self.bent]
        return out

    def own(self) -> Floats:
        """The rows' answers (C, R) to a push in the faulty branch itself."""
        drives = self.share * self.by_branch[self.k, self.k]
        own: Floats = self._own_rows() * (1 + drives)[:, None]
        return own

    def _own_rows(self) -> Floats:
        """What the rows show for a volt in the faulty branch, the loads answering: (C, R)."""
        rows: Floats = self.out_k + np.einsum("crb,cb->cr", self.by_volts, self.into)
        return rows
