"""What is to be sized: which conductors may take which sizes, and what must hold."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Traced, traced, traced_like
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted, solved_as
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import Conductor, Craft, Load, Scenario, Size
from spare_margin.core.model.starting import free_in
from spare_margin.core.model.tables import Tables


@dataclass(frozen=True)
class Task:
    """Conductors to be sized, and what must hold whatever they are.

    Attributes:
        craft: the wiring; the sizes that its free conductors have do not matter.
        options: the sizes each free conductor may take, by its id, thinnest first.
        cost: what a metre of a conductor costs in a size: mm2 for least copper, money for least price.
        ceilings: what each run may lose, by load id; a load that is not there has none, and its least
            volts are not looked at.
        tied: sets of conductors that are to be of one size, as the two wires of a cable.
        least: whether every load must also get the least volts it works at, while running and while a
            motor starts beside it.
        ampacity: whether a size must bear the current, where the tables know what it bears.
        starts: how many motors that start beside a load are looked at, those that move it most.
        near: a wiring that was traced and that this one may hang together like.
        point: how the craft departs from its drawing; a conductor that gets another size is as its table
            row says.
    """

    craft: Craft
    tables: Tables
    options: Mapping[str, tuple[Size, ...]]
    cost: Callable[[Conductor, Size], float]
    ceilings: Mapping[str, Ceilings]
    tied: tuple[frozenset[str], ...] = ()
    least: bool = True
    ampacity: bool = True
    starts: int = 1000
    point: Adjusted = field(default=AS_DRAWN)
    near: Traced | None = None

    def ceilings_in(self, scenario: Scenario, load: Load) -> Ceilings:
        """What a run may lose in a state; nothing is asked of one that has no ceilings, or none there.

        Args:
            scenario: the state of the craft that is asked about.
            load: the load.
        """
        own = self.ceilings.get(load.id)
        return Ceilings() if own is None or load.id in self.free[scenario.id] else own

    @cached_property
    def free(self) -> Mapping[str, frozenset[str]]:
        """By scenario, ids of the loads that are held to no ceiling there."""
        return {s.id: free_in(self.craft, s) for s in self.craft.scenarios}

    def sized(self, sizes: Mapping[str, Size]) -> Craft:
        """The craft with these sizes."""
        pieces = tuple(
            replace(p, size=sizes[p.id], ohm_per_m=None, resistance_ohm=None)
            if isinstance(p, Conductor) and p.id in sizes and sizes[p.id] != p.size
            else p
            for p in self.craft.pieces
        )
        return replace(self.craft, pieces=pieces)

    def runs(self, craft: Craft) -> Mapping[str, Run]:
        """The runs of a sized craft that close, by load id."""
        alike = traced_like(self._thickest, craft)
        return (alike or traced(craft, closed_ohms(craft, self.tables))).runs

    @cached_property
    def _thickest(self) -> Traced:
        """Traced once: another size changes no run, but among ways side by side."""
        craft = self.sized({key: sizes[-1] for key, sizes in self.options.items() if sizes})
        alike = self.near and traced_like(self.near, craft)
        return alike or traced(craft, closed_ohms(craft, self.tables))

    def solved(self, craft: Craft, scenario: Scenario) -> SolvedCraft:
        """A sized craft solved at the task's point; the last is kept. Errors as of `solve`.

        Args:
            scenario: the state of the craft that is asked about.
        """
        last = self._last.get(scenario.id)
        if last is not None and last[0] == craft:
            return last[1]
        solved = solved_as(craft, scenario, self.tables, self._point_of(craft))
        self._last[scenario.id] = craft, solved
        return solved

    def known(self, craft: Craft) -> dict[str, SolvedCraft]:
        """What was last solved, by scenario, as far as it was this craft."""
        return {key: solved for key, (was, solved) in self._last.items() if was == craft}

    @cached_property
    def _last(self) -> dict[str, tuple[Craft, SolvedCraft]]:
        return {}

    def _point_of(self, craft: Craft) -> Adjusted:
        """What was told of a conductor does not hold for another size."""
        if not (self.point.ohm_times or self.point.more_ohm):
            return self.point
        own = {w.id: w.size for w in self.wires()}
        other = {
            p.id
            for p in craft.pieces
            if isinstance(p, Conductor) and p.id in own and p.size != own[p.id]
        }
        kept = {k: v for k, v in self.point.ohm_times.items() if k not in other}
        more = {k: v for k, v in self.point.more_ohm.items() if k not in other}
        return replace(self.point, ohm_times=kept, more_ohm=more)

    def cold_ohm(self, wire: Conductor, size: Size) -> float:
        """Ohms at 20 C of a free conductor in a size: as it is where that is its own, else by the table.

        Args:
            wire: the conductor.
        """
        by_table = self.tables.conductors.rows[size].ohm_per_m * wire.length_m
        if size != wire.size:
            return by_table
        own = by_table if wire.resistance_ohm is None else wire.resistance_ohm
        return own * self.point.ohm_times.get(wire.id, 1.0)

    def more_ohm(self, wire: Conductor, size: Size) -> float:
        """Ohms that a fault adds to a free conductor, where it keeps its size.

        Args:
            wire: the conductor.
        """
        return self.point.more_ohm.get(wire.id, 0.0) if size == wire.size else 0.0

    def copper(self, sizes: Mapping[str, Size]) -> float:
        """Length x area (m mm2) of the free conductors with these sizes."""
        rows = self.tables.conductors.rows
        return sum(w.length_m * rows[sizes[w.id]].area_mm2 for w in self.wires())

    def cost_of(self, sizes: Mapping[str, Size]) -> float:
        """What these sizes cost altogether."""
        return sum(w.length_m * self.cost(w, sizes[w.id]) for w in self.wires())

    def wires(self) -> Iterable[Conductor]:
        """The free conductors, in the order of the craft."""
        for piece in self.craft.pieces:
            if isinstance(piece, Conductor) and piece.id in self.options:
                yield piece


@dataclass(frozen=True, slots=True)
class Unit:
    """Conductors that take one size together, and the sizes that they may take, the cheapest first."""

    wires: tuple[Conductor, ...]
    sizes: tuple[Size, ...]
    costs: tuple[float, ...]

    def only(self, kept: Iterable[int]) -> "Unit":
        """With some of its sizes, by their places.

        Args:
            kept: the places of the sizes that are kept.
        """
        at = list(kept)
        return Unit(self.wires, tuple(self.sizes[i] for i in at), tuple(self.costs[i] for i in at))


def units_of(task: Task) -> list[Unit]:
    """The free conductors as units. JobError where a unit has no size left that all of it may take.

    Args:
        task: what is to be sized, and what it is held to.
    """
    group: dict[str, frozenset[str]] = {}
    for tied in task.tied:
        merged = frozenset(key for key in tied if key in task.options)
        for key in merged:
            merged |= group.get(key, frozenset())
        group.update(dict.fromkeys(merged, merged))
    wires = {w.id: w for w in task.wires()}
    out: list[Unit] = []
    seen: set[str] = set()
    for key, wire in wires.items():
        if key in seen:
            continue
        together = group.get(key, frozenset({key}))
        seen |= together
        own = [wires[each] for each in wires if each in together]
        shared = [
            size
            for size in dict.fromkeys(task.options[key])
            if all(size in task.options[w.id] for w in own)
        ]
        if not shared:
            raise JobError(f"elements.{key}.size", f"{called(wire)} may take no size at all")
        priced = sorted(
            (sum(w.length_m * task.cost(w, size) for w in own), i) for i, size in enumerate(shared)
        )
        out.append(
            Unit(tuple(own), tuple(shared[i] for _, i in priced), tuple(c for c, _ in priced))
        )
    return out
