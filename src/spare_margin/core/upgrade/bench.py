"""What the candidates of a run rest on: the craft as measured, what is lost in it, and where."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from spare_margin.core.budget.run_budget import Spend
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import NOTHING_READ, Held, Read, Run, Traced, open_parts, traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.response.circuits import Adjusted
from spare_margin.core.evidence.verdict.planned import DOUBTED
from spare_margin.core.least import first_least
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, FixedPiece
from spare_margin.core.model.starting import free_in
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.currents import advised_start_of

LEAST_GAIN_V = 0.005
"""A repair that gains the run less than this is not worth the work."""


@dataclass(frozen=True, slots=True)
class BenchState:
    """A run in every scenario in which it is on: spare (V), volts at the load (None: it drops out)."""

    spares: Mapping[str, float]
    load_v: Mapping[str, float | None]
    worst: str
    spend: Spend
    heat_w: float
    switch_a: float | None

    @property
    def spare_v(self) -> float:
        """The least spare of all scenarios."""
        return min(self.spares.values())


@dataclass(frozen=True)
class Bench:
    """All that the candidates of a run rest on.

    Attributes:
        craft: the wiring as found; `load_id` the run's load.
        point: the craft as measured; as drawn where nothing was read.
        suspects: how likely each element is at fault, by id.
        regulated: why a relay is out of bounds for this load, as a code; empty where it is not.
        also: ids that are taken in other wirings of the job.
        read: what was measured, by load.
    """

    craft: Craft
    load_id: str
    point: Adjusted
    suspects: Mapping[str, float]
    limits: Limits
    tables: Tables
    regulated: str = ""
    also: frozenset[str] = frozenset()
    read: Read = field(default_factory=lambda: NOTHING_READ)

    @cached_property
    def traced(self) -> Traced:
        """The wiring as found, traced."""
        return traced(self.craft, closed_ohms(self.craft, self.tables))

    @property
    def runs(self) -> Mapping[str, Run]:
        """Every run of the wiring as found."""
        return self.traced.runs

    @property
    def run(self) -> Run:
        """The run to be put right."""
        return self.runs[self.load_id]

    @property
    def known(self) -> bool:
        """Whether anything is, of the run: all of it and its load's current, or it was measured."""
        return not self.run.guessed or self.load_id in self.read

    @property
    def unread(self) -> frozenset[Held]:
        """What of the run nothing can be said of."""
        return open_parts(self.run, self.read)

    @cached_property
    def measured(self) -> Measured:
        """The craft as measured."""
        return Measured(self.craft, self.tables, self.run, self.point)

    @cached_property
    def before(self) -> BenchState:
        """The run as it is. JobError where its load is on in no scenario."""
        return self.state(self.measured)

    @cached_property
    def spares_before(self) -> Mapping[str, float]:
        """The least spare (V) of every run over the scenarios it is on in."""
        return least_spares(self.craft, self.runs, self.measured, self.limits, self.read)

    def state(self, measured: Measured) -> BenchState:
        """The run in a wiring.

        Args:
            measured: how the craft stands, as measured.
        """
        run, craft = measured.run, measured.craft
        ceilings = self.limits.ceilings(run.load, craft.nominal_v)
        on = [s for s in craft.scenarios if run.load.id in s.on]
        if not on:
            raise JobError(
                "run", f"{run.load.name} is off in every scenario", "a scenario it is on in"
            )
        held = [s.id for s in on if run.load.id not in free_in(craft, s)]
        spends = {key: measured.spend(key, ceilings) for key in held}
        worst = first_least(held, lambda key: spends[key].spare_v)
        solved, _ = measured.solved(worst)
        switch = self.switch
        carried = None
        if switch is not None and switch in solved.layout.places:
            carried = max(
                abs(measured.solved(s.id)[0].solution.elements.current_a(switch)) for s in on
            )
        return BenchState(
            {key: each.spare_v for key, each in spends.items()}, measured.load_v, worst,
            spends[worst], measured.heat_w(worst), carried,
        )  # fmt: skip

    @cached_property
    def switch(self) -> str | None:
        """The switch nearest the load on the feed: what a relay would relieve."""
        switches = [
            s.piece.id
            for s in self.run.feed
            if isinstance(s.piece, FixedPiece) and s.piece.kind == "switch"
        ]
        return switches[-1] if switches else None

    def gains(self) -> dict[str, float]:
        """What making each fixed piece as good as new would save (V) at the worst, the most first."""
        solved, _ = self.measured.solved(self.before.worst)
        out = {}
        for step in self.run.steps():
            piece = step.piece
            if not isinstance(piece, FixedPiece) or step.beside:
                continue
            if piece.kind in ("resistor", "unknown"):
                continue
            state = solved.solution.elements[piece.id]
            good = (
                expected(replace(piece, resistance_ohm=None), self.tables.fixed).good_ohm
                if (piece.style is not None or piece.rating_a is not None)
                else expected(piece, self.tables.fixed).good_ohm
            )
            gain = abs(state.current_a) * ((state.resistance_ohm or 0.0) - good)
            if gain > LEAST_GAIN_V or self.suspects.get(piece.id, 0.0) >= DOUBTED:
                out[piece.id] = gain
        return dict(sorted(out.items(), key=lambda each: -each[1]))

    @cached_property
    def draws(self) -> tuple[float, float, tuple[float, float]]:
        """What the load draws for long, at most, and in a start (A, and s)."""
        amperes = max(
            abs(self.measured.solved(s.id)[0].solution.elements.current_a(self.load_id))
            for s in self.craft.scenarios
            if self.load_id in s.on
        )
        times, seconds = advised_start_of(self.run.load)
        lasting = 0.0 if self.run.load.duty == "short_time" else amperes
        return lasting, amperes, (times * amperes, seconds)


def least_spares(
    craft: Craft, runs: Mapping[str, Run], measured: Measured, limits: Limits, read: Read
) -> dict[str, float]:
    """The least spare (V) of every run over the scenarios in which it is on.

    A run of which something is not known has none, unless what is known of it is over already.

    Args:
        read: what was measured, by load.
        craft: the wiring.
        runs: the runs, by load id.
        measured: how the craft stands, as measured.
        limits: the limits that its runs are held to.
    """
    out: dict[str, float] = {}
    unread = {key: open_parts(run, read) for key, run in runs.items()}
    for scenario in craft.scenarios:
        held = limits.during(craft, scenario)
        solved, _ = measured.solved(scenario.id)
        elements = solved.solution.elements
        for key, run in runs.items():
            if key not in scenario.on or not elements.current_a(key):
                continue
            ceilings = held.ceilings(run.load, craft.nominal_v)
            spares = Spend(ceilings, *run.lost_v(elements)).spares()
            spare = min((v for k, v in spares.items() if k not in unread[key]), default=math.inf)
            if unread[key] and spare >= 0:
                continue
            out[key] = min(out.get(key, spare), spare)
    return out
