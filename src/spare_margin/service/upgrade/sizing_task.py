"""Sizing a job file: from what it leaves open to a task of the core, and what came of it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import AUTO, Conductor, Craft, Size
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.fuses import protecting
from spare_margin.core.sizing.easing import Ceiling, size_all_the_same
from spare_margin.core.sizing.free import Begun, begun, usual_sort
from spare_margin.core.sizing.options import cables, costs, on_offer, strong_enough
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.reasons import Reason, reasons
from spare_margin.core.sizing.sizing_craft import CraftSized, size_craft
from spare_margin.core.sizing.task import Task
from spare_margin.exchange.job_file.job_file import ReadJob

Objective = Literal["copper", "price"]


@dataclass(frozen=True)
class FileSized:
    """What a file was sized to, what forces each wire, by its id, by how much limits are missed (V)."""

    sized: CraftSized
    reasons: Mapping[str, Reason]
    missed: Mapping[Ceiling, float]


class FileSizing:
    """A job file to be sized: every wire without a size or with `auto`, every fuse without a rating.

    JobError (path: in the file) for a stock without a size that fits, or a price that is missing.

    Args:
        read: the job, within the ceilings that it names.
        tables: the reference tables.
        objective: copper or price.
        least: whether every load must also get the least volts it works at, starts beside it included.
    """

    def __init__(
        self, read: ReadJob, tables: Tables, objective: Objective, least: bool = False
    ) -> None:
        self.read, self.tables, self.least = read, tables, least
        self.price = costs(objective, tables)
        craft = read.craft
        self.offered = {
            piece.id: self._offered(piece, f"elements[{i}]")
            for i, piece in enumerate(craft.pieces)
            if isinstance(piece, Conductor) and piece.size is not None and piece.size.value == AUTO
        }
        laid = replace(
            craft,
            pieces=tuple(
                replace(p, size=self.offered[p.id][-1])
                if isinstance(p, Conductor) and p.id in self.offered
                else p
                for p in craft.pieces
            ),
        )
        # What a file does not say of its insulation nobody chooses for it.
        sort = replace(usual_sort(craft, "mm2"), insulation_c=None)
        # What a file says of a section nobody has seen, its guess, speaks here: every run is sized.
        self.begun: Begun = begun(laid, tables, sort, {x.id: frozenset() for x in craft.loads})
        for i, piece in enumerate(self.begun.craft.pieces):
            if isinstance(piece, Conductor) and piece.id in self.begun.wires:
                self.offered[piece.id] = self._offered(piece, f"elements[{i}]")

    def task(self, craft: Craft) -> Task:
        """What is to be sized of the craft with its fuses rated. JobError where nothing is strong enough.

        Args:
            craft: the wiring, with a size in the place of each that is to be chosen.
        """
        fuses = protecting(traced(craft, closed_ohms(craft, self.tables)).runs.values())
        options = {
            p.id: strong_enough(
                p,
                self.offered[p.id],
                self.tables,
                craft.scenarios,
                fuses[p.id].rating_a if p.id in fuses else None,
            )
            for p in craft.pieces
            if isinstance(p, Conductor) and p.id in self.offered
        }
        return Task(
            craft=craft,
            tables=self.tables,
            options=options,
            cost=lambda wire, size: self.price[size],
            ceilings=self._ceilings(),
            tied=cables(craft.pieces),
            least=self.least,
        )

    def sized(self, effort: Effort, anyway: bool = False) -> FileSized:
        """Sizes and ratings; `anyway` though a limit cannot be kept. Errors as of `size_craft`."""
        missed: Mapping[Ceiling, float] = {}
        if anyway:
            found, missed = size_all_the_same(self.begun, self.task, effort)
        else:
            found = size_craft(self.begun, self.task, effort)
        return FileSized(found, reasons(found.task, found.made, found.task.options), missed)

    def _offered(self, wire: Conductor, at: str) -> tuple[Size, ...]:
        stock = self.read.job.stock or None
        assert wire.size is not None
        every = on_offer(wire, self.tables)
        known = ", ".join(size.value for size in every)
        if not every:
            raise JobError(
                f"{at}.size",
                f"no row for {wire.size.system} {wire.size.finish}",
                "a system and finish of the table of wire",
            )
        for i, value in enumerate(stock or ()):
            if value not in {s.value for s in self.tables.conductors.rows}:
                raise JobError(f"stock[{i}]", f"there is no size {value}", known)
        offered = tuple(s for s in on_offer(wire, self.tables, stock) if s in self.price)
        if not offered:
            said = "with a price " if len(self.price) < len(self.tables.conductors.rows) else ""
            raise JobError("stock", f"holds nothing {said}for {wire.id}", f"one of {known}")
        return offered

    def _ceilings(self) -> dict[str, Ceilings]:
        """The ceilings by load: those the file gives itself, over those of the set it names."""
        read = self.read
        if not read.names_set:
            return {x.id: read.job.own_limits.get(x.id, Ceilings()) for x in read.craft.loads}
        limits = Limits(self.tables.limit_sets[read.job.limit_set], read.job.own_limits)
        return {x.id: limits.ceilings(x, read.craft.nominal_v) for x in read.craft.loads}
