"""What is to be sized: which conductors may take which sizes, and what must hold."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace

from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.estimate.circuits import AS_DRAWN, Adjusted, solved_as
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import Conductor, Craft, Scenario, Size
from spare_margin.core.model.tables import Tables


@dataclass(frozen=True)
class Task:
    """Conductors to be sized, and what must hold whatever they are.

    Attributes:
        craft: the wiring; the sizes that its free conductors have do not matter.
        options: the sizes each free conductor may take, by its id, thinnest first.
        cost: what a metre of a size costs: mm2 for least copper, money for the least price.
        ceilings: what each run may lose, by load id; a load that is not there has none.
        tied: sets of conductors that are to be of one size, as the two wires of a cable.
        least: whether every load must also get the least volts it works at, while running and while a
            motor starts beside it.
        ampacity: whether a size must bear the current, where the tables know what it bears.
        point: how the craft departs from its drawing; for a free conductor it is as its table row says.
    """

    craft: Craft
    tables: Tables
    options: Mapping[str, tuple[Size, ...]]
    cost: Callable[[Size], float]
    ceilings: Mapping[str, Ceilings]
    tied: tuple[frozenset[str], ...] = ()
    least: bool = True
    ampacity: bool = True
    point: Adjusted = field(default=AS_DRAWN)

    def sized(self, sizes: Mapping[str, Size]) -> Craft:
        """The craft with these sizes."""
        pieces = tuple(
            replace(p, size=sizes[p.id], ohm_per_m=None)
            if isinstance(p, Conductor) and p.id in sizes
            else p
            for p in self.craft.pieces
        )
        return replace(self.craft, pieces=pieces)

    def solved(self, craft: Craft, scenario: Scenario) -> SolvedCraft:
        """A sized craft solved at the task's point. Errors as of `solve`."""
        return solved_as(craft, scenario, self.tables, self._point)

    @property
    def _point(self) -> Adjusted:
        """What is told of a conductor that gets another size does not hold for the new one."""
        kept = {k: v for k, v in self.point.ohm_times.items() if k not in self.options}
        more = {k: v for k, v in self.point.more_ohm.items() if k not in self.options}
        return replace(self.point, ohm_times=kept, more_ohm=more)

    def copper(self, sizes: Mapping[str, Size]) -> float:
        """Length x area (m mm2) of the free conductors with these sizes."""
        rows = self.tables.conductors.rows
        return sum(w.length_m * rows[sizes[w.id]].area_mm2 for w in self.wires())

    def cost_of(self, sizes: Mapping[str, Size]) -> float:
        """What these sizes cost altogether."""
        return sum(w.length_m * self.cost(sizes[w.id]) for w in self.wires())

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
        """With some of its sizes, by their places."""
        at = list(kept)
        return Unit(self.wires, tuple(self.sizes[i] for i in at), tuple(self.costs[i] for i in at))


def units_of(task: Task) -> list[Unit]:
    """The free conductors as units. JobError where a unit has no size left that all of it may take."""
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
        metres = sum(w.length_m for w in own)
        priced = sorted((metres * task.cost(size), i) for i, size in enumerate(shared))
        out.append(
            Unit(tuple(own), tuple(shared[i] for _, i in priced), tuple(c for c, _ in priced))
        )
    return out
