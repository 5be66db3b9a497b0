"""What the runs of a craft demand of their ceilings, as arrays over runs and pieces."""

import math
from collections.abc import Mapping
from typing import NamedTuple, get_args

import numpy as np

from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.ways import Ways
from spare_margin.core.columns import Floats, differing, with_others
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    FixedKind,
    Scenario,
    Side,
    undrawn,
)
from spare_margin.core.model.tables import Tables

UNKNOWN_LENGTH_M = 3.0
"""A stretch that nobody has drawn shares in what the fixed pieces leave as so much wire would."""


class Demand(NamedTuple):
    """What a piece demands of the volts, and by which rule.

    `volts` of its own, or `ohm` times what it carries up to `most_v`, or its `metres` as copper.
    """

    rule: str
    volts: float = 0.0
    ohm: float = 0.0
    most_v: float = math.inf
    metres: float = 0.0


def demand_of(piece: AnyPiece, ceiling_v: float | None, tables: Tables) -> Demand:
    """What a piece demands; `ceiling_v` is that of a single piece of its kind.

    >>> from spare_margin.core.model.pieces import FixedPiece
    >>> from spare_margin.data.tables import shipped_tables
    >>> ring = FixedPiece(id="r", start="a", end="b", side="return", kind="joint", style="pin")
    >>> aged = demand_of(ring, 0.1, shipped_tables())
    >>> aged.rule, aged.most_v, 0.001 < aged.ohm < 0.02
    ('aged', 0.1, True)
    >>> wire = Conductor(id="w", start="a", end="b", side="feed", length_m=4.0, ohm_per_m=0.008)
    >>> demand_of(wire, None, shipped_tables())
    Demand(rule='copper', volts=0.0, ohm=0.0, most_v=inf, metres=4.0)
    """
    if undrawn(piece) and piece.pinned_v is None:
        return Demand("copper", metres=UNKNOWN_LENGTH_M)
    if isinstance(piece, Conductor):
        if piece.pinned_v is not None:
            return Demand("pinned", piece.pinned_v)
        return Demand("copper", metres=piece.length_m) if piece.length_m > 0 else Demand("own")
    most = math.inf if ceiling_v is None else ceiling_v
    if piece.kind == "resistor":
        return Demand("purpose", ohm=expected(piece, tables.fixed).aged_ohm)
    if piece.pinned_v is None:
        return Demand("aged", ohm=expected(piece, tables.fixed).aged_ohm, most_v=most)
    held = "pinned" if piece.pinned_v <= most else "ceiling"
    return Demand(held, min(piece.pinned_v, most))


class Loops:
    """The runs of a craft as arrays: what each piece demands, which pieces each side of each run counts.

    Args:
        ways: those of the runs, where they were laid out already.
        like: what a craft that hangs together alike demands, to take over what does not differ.
        limits: the limits that its runs are held to.
        tables: the reference tables.

    Attributes:
        on_side: by side, whether a piece stands on the main way of a run, (runs, pieces).
        held: the ceilings of each run.
        ceilings: feed, return, round trip (V) of each run, infinite where there is none, (runs, 3).
    """

    def __init__(
        self,
        craft: Craft,
        runs: Mapping[str, Run],
        limits: Limits,
        tables: Tables,
        ways: Ways | None = None,
        like: "Loops | None" = None,
    ) -> None:
        self.craft, self.runs, self.limits, self.tables = craft, runs, limits, tables
        self.ways = ways or Ways(runs, [piece.id for piece in craft.pieces])
        self.run_ids, self.ids = self.ways.run_ids, self.ways.ids
        self.row, self.column, self.on_side = self.ways.row, self.ways.column, self.ways.on_side
        self._demand(like if like is not None and self._held_like(like) else None)
        self.own_volts, self.ohm, self.most_v, self.metres = self.figures.T
        self.copper, self.pinned, self.purpose, self.own = (
            self.rules == rule for rule in ("copper", "pinned", "purpose", "own")
        )
        self.fixed = ~(self.copper | self.pinned | self.purpose)
        given = [(c.feed_v, c.return_v, c.round_trip_v) for c in self.held]
        self.ceilings = np.array(given, dtype=float).reshape(-1, 3)
        self.ceilings[np.isnan(self.ceilings)] = math.inf

    def _held_like(self, like: "Loops") -> bool:
        """Whether the same pieces of another craft, on the same ways, are held to the same limits."""
        return (
            like.ways is self.ways
            and like.tables is self.tables
            and like.limits == self.limits
            and like.craft.nominal_v == self.craft.nominal_v
        )

    def _demand(self, like: "Loops | None") -> None:
        """What each piece demands, and what each run is held to."""
        craft, limits, loads = self.craft, self.limits, [run.load for run in self.runs.values()]
        anew = list(range(len(craft.pieces)))
        if like is not None:
            anew = [i for i, _, _ in differing(like.craft.pieces, craft.pieces)]
        singles = {k: limits.single_ceiling_v(k, craft.nominal_v) for k in get_args(FixedKind)}
        demands = [
            demand_of(p, None if isinstance(p, Conductor) else singles[p.kind], self.tables)
            for p in (craft.pieces[i] for i in anew)
        ]
        rules = np.array([each.rule for each in demands], dtype="U8")
        figures = np.array([each[1:] for each in demands], dtype=float).reshape(-1, 4)
        if like is None:
            self.rules, self.figures = rules, figures
            self.held = [limits.ceilings(load, craft.nominal_v) for load in loads]
            return
        self.rules = with_others(like.rules, anew, rules)
        self.figures = with_others(like.figures, anew, figures)
        known = zip(loads, like.runs.values(), like.held, strict=True)
        self.held = [
            held if load is run.load else limits.ceilings(load, craft.nominal_v)
            for load, run, held in known
        ]

    def during(self, scenario: Scenario) -> "Loops":
        """The same, held to what limits there are in a state of the craft.

        Args:
            scenario: the state of the craft that is asked about.
        """
        limits = self.limits.during(self.craft, scenario)
        if limits is self.limits:
            return self
        return Loops(self.craft, self.runs, limits, self.tables, self.ways)

    def lost_v(self, side: Side, drops: Floats) -> Floats:
        """What each run loses on a side (V), a resistor fitted on purpose not counted, (runs,).

        `drops` are those of the pieces from start to end (V), (pieces,).
        """
        lost: Floats = np.where(self.purpose, 0.0, drops) @ self.ways.sign[side].T
        return lost
