"""What may be at fault in some runs, and the circuits of every moment, laid out once for what was read."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.moments import Conditions, warm_order
from spare_margin.core.evidence.observation.observations import Observation, Observed
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Circuit
from spare_margin.core.evidence.response.parameters import emf_key, parameters
from spare_margin.core.evidence.response.responses import Row
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, undrawn
from spare_margin.core.model.tables import Tables

from . import categorical
from .faults import NO_SIZE, OPEN, FaultClass, Sizes, excess_sizes, load_sizes, prior, suspects_of
from .linearisation import Base, linearised, solved_resting, with_base
from .mixture import Cases, Weighed, gather, weighed

Prior = tuple[FaultClass, Sizes, float]
"""A fault, the sizes it may have, and how probable it is before anything is read."""


class Scope:
    """The suspects of some runs, their unknowns, and how each fault explains what was observed.

    Args:
        tables: the reference tables.

    Raises JobError where the craft cannot be solved.
    """

    def __init__(
        self, craft: Craft, runs: Sequence[Run], observed: Observed, tables: Tables
    ) -> None:
        self.craft, self.runs, self.observed, self.tables = craft, runs, observed, tables
        self.pieces = list(dict.fromkeys(s.piece.id for run in runs for s in run.steps()))
        purpose = {s.piece.id for run in runs for s in run.steps() if s.on_purpose}
        self.loads = [run.load.id for run in runs]
        self.sources = list(dict.fromkeys(run.source.id for run in runs))
        self.suspected = [p for p in self.pieces if p not in purpose] + sorted(purpose)
        on = {key for c in observed.conditions for key in c.running} | set(self.loads)
        unknowns = parameters(craft, observed, self._carrying(on), on, tables)
        made = linearised(craft, runs, observed, unknowns, tables)
        self.points, self.parameters = made.points, made.parameters

    def _carrying(self, on: Iterable[str]) -> list[str]:
        """Pieces whose tolerance matters: those in scope, and those that other loads' current passes."""
        if not self.observed.conditions or set(on) <= set(self.loads):
            return self.pieces
        return [p.id for p in self.craft.pieces]

    @property
    def elements(self) -> tuple[str, ...]:
        """Pieces, sources and loads that may be at fault."""
        return (*self.suspected, *self.sources, *self.loads)

    # The circuits

    @cached_property
    def circuits(self) -> Mapping[str, Circuit]:
        """The circuit of each moment, watched where it was read."""
        return self.circuits_with(None)

    def circuits_with(self, base: Base | None) -> dict[str, Circuit]:
        """The circuits with a fault that stands.

        Args:
            base: a fault that stands already; None where none does.
        """
        return {
            c.key: self._circuit(c, rows_of(self.observed, c), base)
            for c in self.observed.conditions
        }

    def _circuit(self, c: Conditions, rows: Sequence[Row], base: Base | None = None) -> Circuit:
        point = self.points.get(emf_key(c.key), AS_DRAWN)
        solved = solved_resting(
            c.craft(self.craft), c.scenario, self.tables, with_base(point, base)
        )
        return Circuit(solved, rows, self.parameters, emf_key(c.key), base=base)

    @cached_property
    def order(self) -> tuple[str, ...]:
        """Loaded moments by warm-up, where more than one was read."""
        conditions = self.observed.conditions
        loaded = [c for c in conditions if c.trial is None and set(self.loads) & c.running]
        read = {o.conditions.key for o in self.observed.values}
        kept = tuple(key for key in warm_order(loaded) if key in read)
        return kept if len(kept) > 1 else ()

    # The faults

    @cached_property
    def classes(self) -> Sequence[Prior]:
        """Every single fault there may be."""
        faults = suspects_of(self.suspected, self.sources, self.loads, self.order[1:])
        odds = prior(self.craft, faults, self.tables.odds)
        amps = {
            key: max((abs(c.carries(key)) for c in self.circuits.values()), default=0.0)
            for key in (*self.suspected, *self.sources)
        }
        typical = max(amps.values(), default=0.0)
        return [
            (fault, self._sizes(fault, amps, typical), float(p))
            for fault, p in zip(faults, odds, strict=True)
        ]

    def _sizes(self, fault: FaultClass, amps: Mapping[str, float], typical: float) -> Sizes:
        if fault.kind == "excess_resistance":
            key = fault.element or ""
            return excess_sizes(amps.get(key, 0.0) or typical, self._excused(key))
        if fault.kind == "load":
            return load_sizes()
        return OPEN if fault.kind == "open" else NO_SIZE

    @cached_property
    def _by_id(self) -> Mapping[str, Conductor | FixedPiece]:
        return {p.id: p for p in self.craft.pieces}

    def _excused(self, key: str) -> float:
        """Half the ohms that age excuses in a fixed piece: less is no fault of it."""
        piece = self._by_id.get(key)
        if not isinstance(piece, FixedPiece) or undrawn(piece):
            return 0.0
        found = expected(piece, self.tables.fixed)
        return 0.5 * (found.aged_ohm - found.good_ohm)

    def cases(self, classes: Sequence[Prior], circuits: Mapping[str, Circuit]) -> Cases:
        """These faults in every size, with what each would show in these circuits.

        Args:
            classes: the faults, with how probable each is before any reading.
        """
        places = [(key, circuit, self._places(key)) for key, circuit in circuits.items()]
        cases = gather(classes, places, self.order, len(self.parameters.keys))
        factor = cases.factor.copy()
        for each in self.observed.screens:
            factor += categorical.screened(self.craft, cases, each)
        if self.observed.stirred:
            factor += categorical.stirred(cases, self.observed.stirred)
        for tried, conditions in self.observed.trials:
            row = [categorical.at_load(self.runs[0])]
            both = self._circuit(conditions, row), self._circuit(categorical.plain(conditions), row)
            factor += categorical.trial(cases, *both, tried.outcome)
        return replace(cases, factor=factor)

    def _places(self, key: str) -> NDArray[np.intp]:
        """Which observations belong to these conditions."""
        values = self.observed.values
        return np.array([i for i, o in enumerate(values) if o.conditions.key == key], dtype=np.intp)

    def weigh(self, cases: Cases) -> Weighed:
        """These cases by what was observed."""
        values = self.observed.values
        columns = {
            i: [column for column, _ in self.circuits[o.conditions.key].emf_columns]
            for i, o in enumerate(values)
        }
        return weighed(cases, self.parameters, values, self.craft.nominal_v, columns)


def rows_of(observed: Observed, conditions: Conditions) -> list[Row]:
    """What was observed under these conditions, as rows to watch."""
    out: list[Row] = []
    for o in observed.values:
        if o.conditions.key == conditions.key:
            out.append(_row_of(o))
    return out


def _row_of(o: Observation) -> Row:
    if o.quantity == "volts":
        return ("volts", o.red, o.black)
    return ("amperes", o.through, o.red)
