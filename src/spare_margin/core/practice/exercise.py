"""An exercise: a craft as somebody drew it, what it truly is, and what the customer says."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal

from spare_margin.core.bay.world import Fault, World
from spare_margin.core.budget.scenarios import solved_scenario
from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.model.pieces import Craft, Source
from spare_margin.core.model.tables import Tables

Level = Literal[1, 2, 3, 4, 5, 6, 7]
LEVELS: tuple[Level, ...] = (1, 2, 3, 4, 5, 6, 7)
Symptom = Literal["weak", "dead", "fades", "now_and_then", "asked"]
"""Too little of it; nothing at all; well at first; only sometimes; it is only asked whether all is well."""
When = Literal["always", "warm", "moved"]
PULLS_IN = 0.6
"""A relay pulls in at this share of the nominal voltage."""


@dataclass(frozen=True, slots=True)
class Hidden:
    """One thing that truly is wrong.

    A piece with so many `ohm` more (infinite: open), always, only warm, or only while it is moved; a source
    with so many more; or a load that draws `times` what it should.
    """

    element: str
    ohm: float = 0.0
    when: When = "always"
    times: float = 1.0


@dataclass(frozen=True)
class Exercise:
    """An exercise with its truth. The craft is what is drawn; nothing of the truth stands in it.

    Attributes:
        key: what it is made from again; `own-` with an id where it comes from a job.
        run: the id of the load that the complaint is about.
        relays: by the id of a relay's contact, that of its coil.
        ohms: what each piece truly has (ohm) without what is wrong.
        load_times: what each load draws, of what is drawn.
        surge_v: what the source falls by in the first minutes (V).
    """

    key: str
    level: Level
    story: str
    craft: Craft
    tables: Tables
    run: str
    symptom: Symptom
    hidden: tuple[Hidden, ...]
    ohms: Mapping[str, float]
    load_times: Mapping[str, float]
    surge_v: float
    seed: int
    relays: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def runs(self) -> Mapping[str, Run]:
        """Every run as drawn, by the id of its load."""
        return traced(self.craft, closed_ohms(self.craft, self.tables)).runs

    @property
    def loop(self) -> Run:
        """The run of the complaint."""
        return self.runs[self.run]

    @cached_property
    def should_v(self) -> Mapping[str, float]:
        """What each load gets as drawn (V), everything on, by its id."""
        solved = solved_scenario(self.craft, self.craft.scenarios[0], self.tables).solution
        return {x.id: abs(solved.volts(x.start, x.end) or 0.0) for x in self.craft.loads}

    @property
    def every_a(self) -> float:
        """What all its loads draw together, by their plates (A)."""
        return sum(rated_current_a(x, self.craft.nominal_v) for x in self.craft.loads)

    @property
    def looked_at(self) -> tuple[str, ...]:
        """The runs that an answer may lie in: the complaint's own, then those of its relays' coils."""
        return (self.run, *dict.fromkeys(self.relays.values()))

    @property
    def pieces(self) -> tuple[str, ...]:
        """The ids of the pieces that an answer may name, in the order of the current."""
        steps = (s.piece.id for run in self.looked_at for s in self.runs[run].steps())
        return tuple(dict.fromkeys(steps))

    def world(self, craft: Craft, mended: frozenset[str], warm: bool, moved: str) -> World:
        """The craft as it truly stands now.

        Args:
            craft: what is joined, as drawn, with what was tried out.
            mended: the elements that were put right.
            warm: whether its loads have been on for long.
            moved: the piece that is being moved.
        """
        held = [
            h for h in self.hidden
            if h.element not in mended
            and (h.when == "always" or (h.when == "warm" and warm) or h.element == moved)
        ]  # fmt: skip
        more = {h.element: h for h in held}
        faults = tuple(Fault(h.element, h.ohm) for h in held if h.element in self.ohms)
        times = {
            **self.load_times,
            **{h.element: h.times for h in held if h.times != 1.0 and h.element not in self.ohms},
        }
        sources = tuple(_weakened(s, more.get(s.id)) for s in craft.sources)
        drawn = closed_ohms(self.craft, self.tables)
        ohms = {p: drawn[p] if p in mended else ohm for p, ohm in self.ohms.items()}
        return World(
            replace(craft, sources=sources), self.tables, self.loop, ohms, times, faults, (),
            self.surge_v,
        )  # fmt: skip


def _weakened(source: Source, hidden: Hidden | None) -> Source:
    if hidden is None or not math.isfinite(hidden.ohm):
        return source
    return replace(source, internal_ohm=source.internal_ohm + hidden.ohm)
