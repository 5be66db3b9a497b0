"""What a solved craft answers to small changes: the same linear part, answered once for every way of
pushing at it.

Extra ohms in a branch are a series voltage there, e = R_extra i (W. W. Hager, Updating the inverse of a
matrix, SIAM Review 31, 1989). The linear part is answered for a unit current at each load, a unit series
voltage in each branch (pieces, then sources) and a unit of each source's own volts. What is left to solve
for any fault is as many unknowns as there are loads whose current bends with their volts.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.circuit.network import SolvedCraft

Floats = NDArray[np.float64]
SHUNT_S = 1e-9
"""What every load lets through at least: keeps points that only a load holds from floating."""
Row = tuple[str, str, str]
"""What is watched: ("volts", red, black), or ("amperes", element, the point it is counted from)."""


@dataclass(frozen=True)
class Responses:
    """Answers of one solved craft. n unknowns; L loads; B branches: pieces that carry, then sources.

    Attributes:
        by_load, by_branch, by_emf: answers (unknowns) to 1 A drawn at a load, 1 V in series in a
            branch, 1 V more of a source; shapes (n, L), (n, B), (n, sources).
        alone: answers to the sources as they are, with nothing drawn; shape (n,).
    """

    solved: SolvedCraft
    by_load: Floats
    by_branch: Floats
    by_emf: Floats
    alone: Floats

    @cached_property
    def branches(self) -> Mapping[str, int]:
        """The branch of each piece and source by its id."""
        layout = self.solved.layout
        ids = [p.id for p in layout.pieces] + [s.id for s in layout.craft.sources]
        return {key: i for i, key in enumerate(ids)}

    @cached_property
    def ohms(self) -> Floats:
        """Resistance of each branch as it is, shape (B,)."""
        return np.concatenate([self.solved.state.ohms, self.solved.layout.internal])

    @cached_property
    def across(self) -> tuple[Floats, Floats, Floats, Floats]:
        """Volts across the loads: alone (L,), by load (L, L), by branch (L, B), by emf (L, S)."""
        start, end = self.solved.layout.load_ends
        return (
            self.alone[start] - self.alone[end],
            self.by_load[start] - self.by_load[end],
            self.by_branch[start] - self.by_branch[end],
            self.by_emf[start] - self.by_emf[end],
        )

    @cached_property
    def flows(self) -> tuple[Floats, Floats, Floats, Floats]:
        """Current in the branches: alone (B,), by load (B, L), by branch (B, B), by emf (B, S)."""
        layout, system = self.solved.layout, self.solved.state.system
        nodes, pieces = len(layout.index), len(layout.pieces)
        own = system.own
        rows = np.zeros(len(self.ohms), dtype=np.intp)
        rows[:pieces][own] = nodes + np.arange(int(own.sum()))
        rows[pieces:] = nodes + int(own.sum()) + np.arange(len(layout.internal))
        g = np.zeros(len(self.ohms))
        g[:pieces][~own] = 1 / self.solved.state.ohms[~own]
        start, end = np.zeros((2, len(self.ohms)), dtype=np.intp)
        start[:pieces], end[:pieces] = layout.piece_ends
        kept = np.concatenate([own, np.ones(len(layout.internal), dtype=bool)])

        def of(answers: Floats) -> Floats:
            across = answers[start] - answers[end]
            shape = (-1,) + (1,) * (answers.ndim - 1)
            flows: Floats = np.where(kept.reshape(shape), answers[rows], g.reshape(shape) * across)
            return flows

        by_branch = of(self.by_branch)
        by_branch[np.arange(pieces), np.arange(pieces)] -= g[:pieces]
        return of(self.alone), of(self.by_load), by_branch, of(self.by_emf)

    def watch(self, rows: Sequence[Row]) -> "Watched":
        """The answers at what is watched. KeyError for a point or element that is not there.

        Args:
            rows: what is watched.
        """
        index, branches = self.solved.layout.index, self.branches
        loads = {load.id: i for i, load in enumerate(self.solved.layout.loads)}
        flows = self.flows
        tables = (self.alone, self.by_load, self.by_branch, self.by_emf)
        out = [np.zeros((len(rows), *t.shape[1:])) for t in tables]
        drawn = np.zeros((len(rows), len(loads)))
        for i, (kind, one, other) in enumerate(rows):
            if kind == "volts":
                for o, t in zip(out, tables, strict=True):
                    o[i] = t[index[one]] - t[index[other]]
            elif one in loads:
                drawn[i, loads[one]] = 1.0
            elif one in branches:
                piece = self.solved.layout.elements.get(one)
                sign = -1.0 if piece is not None and other and piece.start != other else 1.0
                for o, t in zip(out, flows, strict=True):
                    o[i] = sign * t[branches[one]]
            # What is open, or a load that is off, carries nothing.
        return Watched(out[0], out[1] + drawn, out[2], out[3])


@dataclass(frozen=True, slots=True)
class Watched:
    """Answers at R watched rows: alone (R,), by load (R, L), by branch (R, B), by emf (R, S)."""

    alone: Floats
    by_load: Floats
    by_branch: Floats
    by_emf: Floats


def responses(solved: SolvedCraft) -> Responses:
    """The answers of a solved craft, its wires as warm as they are."""
    layout, system, ohms = solved.layout, solved.state.system, solved.state.ohms
    loads, pieces, sources = len(layout.loads), len(layout.pieces), len(layout.internal)
    nodes, own = len(layout.index), int(system.own.sum())
    columns = np.zeros((system.size, loads + pieces + 2 * sources + 1))
    at = np.arange(loads)
    np.subtract.at(columns, (layout.load_ends[0], at), 1.0)
    np.add.at(columns, (layout.load_ends[1], at), 1.0)
    branch = loads + np.arange(pieces)
    columns[nodes + np.arange(own), branch[system.own]] = 1.0
    stamped = ~system.own
    g = 1 / ohms[stamped]
    columns[layout.piece_ends[0][stamped], branch[stamped]] += g
    columns[layout.piece_ends[1][stamped], branch[stamped]] -= g
    source_rows = nodes + own + np.arange(sources)
    columns[source_rows, loads + pieces + np.arange(sources)] = 1.0
    columns[source_rows, loads + pieces + sources + np.arange(sources)] = -1.0
    columns[:, -1] = system.rhs
    answers = system.responses(np.full(loads, SHUNT_S), columns)
    a, b, c = loads, loads + pieces + sources, loads + pieces + 2 * sources
    return Responses(solved, answers[:, :a], answers[:, a:b], answers[:, b:c], answers[:, -1])
