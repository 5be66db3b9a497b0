"""What is wrong with the protection of a wiring as it stands, and what of it is not known.

A fuse stands as near the source as practicable, in every branch. Its rating is at most what the thinnest
conductor after it bears, up to the next fuse, and at least 1.25 times what flows for long; what flows while
a load starts must not open it. Of two in series the one nearer the source is the larger. Every conductor
bears what flows through itself: a return that runs share carries their sum, and no fuse sees that.

Where a figure that one of these needs is not known, that is told too: nothing counts as fine for its want.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from math import inf
from typing import Literal

from spare_margin.core.circuit.resistances import TableOhms
from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Source,
    to_be_sized,
    undrawn,
)
from spare_margin.core.model.tables import Tables

from .currents import Currents, currents_of
from .fuses import (
    CONTINUOUS_TIMES,
    KINDS,
    fuse_for,
    fuses_of,
    least_ampacity_a,
    protecting,
    style_of,
)

Code = Literal[
    "thin_for_fuse", "overloaded", "unfused", "unfused_by_custom", "fuse_far", "fuse_small",
    "opens_at_start", "wrong_order", "cannot_break", "not_known",
]  # fmt: skip
NotKnown = Literal["to_size", "undrawn", "rating", "size", "insulation", "row"]
"""What may not be known: a size still to be chosen; a stretch; a fuse's rating; a wire's size, its
insulation, a row of the table."""
LEAD_M = 0.3
"""So much wire may lie between the post and the first fuse; the code in force may say less."""


@dataclass(frozen=True, slots=True)
class Violation:
    """One thing that is wrong with the protection.

    Args:
        code: what it is.
        piece: the conductor or fuse it is about.
        fuse: the fuse or breaker that does not fit it, where there is one.
        loads: ids of the loads whose runs it is about.
        facts: quantities in SI by name; which ones goes with the code.
        pieces: of what is not known, all the pieces it is about.
    """

    code: Code
    piece: str
    fuse: str = ""
    loads: tuple[str, ...] = ()
    facts: Mapping[str, float | str] = field(default_factory=dict)
    pieces: tuple[str, ...] = ()


def unfused_by_custom(load: Load, craft: Craft) -> bool:
    """Whether the main cable of a load has no fuse by custom: that of a vehicle's engine starter.

    Known by what people call it; a winch or a thruster has a fuse.

    Args:
        craft: the wiring.
    """
    return craft.kind == "vehicle" and load.is_starter


@dataclass(frozen=True)
class Protection:
    """The protection of a craft, ready to be checked."""

    craft: Craft
    runs: Mapping[str, Run]
    solutions: Sequence[Solution]
    tables: Tables

    @cached_property
    def currents(self) -> Currents:
        """What flows where."""
        return currents_of(self.runs, self.solutions)

    @cached_property
    def by_conductor(self) -> Mapping[str, FixedPiece]:
        """The fuse that protects each conductor."""
        return protecting(self.runs.values())

    @cached_property
    def violations(self) -> tuple[Violation, ...]:
        """Everything that is wrong, the dangerous first."""
        return (
            *self._unfused(), *self._thin(), *self._overloaded(), *self._far(), *self._breaking(),
            *self._order(), *self._small(), *self._starts(), *self._not_known(),
        )  # fmt: skip

    def of_run(self, load_id: str) -> list[Violation]:
        """What is wrong on one run.

        Args:
            load_id: the id of the load.
        """
        keys = {s.piece.id for s in self.runs[load_id].steps()}
        return [v for v in self.violations if v.piece in keys or load_id in v.loads]

    def _users(self, piece: str) -> tuple[str, ...]:
        return tuple(self._passing.get(piece, ()))

    @cached_property
    def _passing(self) -> dict[str, list[str]]:
        """The loads whose run passes each piece."""
        out: dict[str, list[str]] = {}
        for key, run in self.runs.items():
            for step in run.steps():
                out.setdefault(step.piece.id, []).append(key)
        return out

    def _unfused(self) -> Iterator[Violation]:
        """Branches without any fuse, each named once by its first conductor."""
        branches: dict[str, list[str]] = {}
        for key, run in self.runs.items():
            wires = [s.piece for s in run.feed if isinstance(s.piece, Conductor)]
            # In a stretch that nobody has drawn there may be one.
            if wires and not fuses_of(run) and not any(undrawn(s.piece) for s in run.feed):
                if unfused_by_custom(run.load, self.craft):
                    yield Violation("unfused_by_custom", wires[0].id, loads=(key,))
                    continue
                own = [
                    w for w in wires if all(not fuses_of(self.runs[k]) for k in self._users(w.id))
                ]
                branches.setdefault((own or wires)[0].id, []).append(key)
        for wire, loads in branches.items():
            yield Violation("unfused", wire, loads=tuple(loads), facts=self._fitting(wire, loads))

    def _fitting(self, first: str, loads: Sequence[str]) -> dict[str, float | str]:
        """The fuse that would protect what lies behind a conductor; nothing where none does it all."""
        bears: list[float] = []
        for key in loads:
            behind = False
            for step in self.runs[key].steps():
                behind = behind or step.piece.id == first
                if behind and isinstance(step.piece, Conductor):
                    most = least_ampacity_a(step.piece, self.craft.scenarios, self.tables)
                    bears += [] if most is None else [most]
        now = self.currents
        found = fuse_for(
            now.lasting.get(first, 0.0), now.running.get(first, 0.0),
            now.advised.get(first, (0.0, 0.0)), min(bears, default=None), self.tables,
        )  # fmt: skip
        return {} if found is None else {"style": found[0], "rating": found[1]}

    def _thin(self) -> Iterator[Violation]:
        for wire in self._wires():
            fuse = self.by_conductor.get(wire.id)
            if fuse is None or fuse.rating_a is None:
                continue
            bears = least_ampacity_a(wire, self.craft.scenarios, self.tables)
            if bears is not None and bears < fuse.rating_a:
                facts: dict[str, float | str] = {"amperes": bears, "rating": fuse.rating_a}
                fits = self._smaller(fuse, bears)
                if fits is not None:
                    facts["fits"] = fits
                yield Violation("thin_for_fuse", wire.id, fuse.id, self._users(wire.id), facts)

    def _smaller(self, fuse: FixedPiece, bears_a: float) -> float | None:
        """A smaller rating of the same style that carries what flows and starts, and that a wire bears."""
        now = self.currents
        found = fuse_for(
            now.lasting.get(fuse.id, 0.0), now.running.get(fuse.id, 0.0),
            now.advised.get(fuse.id, (0.0, 0.0)), bears_a, self.tables, (style_of(fuse),),
        )  # fmt: skip
        return None if found is None or found[1] >= (fuse.rating_a or 0.0) else found[1]

    def _overloaded(self) -> Iterator[Violation]:
        """Conductors through which more flows for long than they bear, on either side."""
        for wire in self._wires():
            worst: tuple[float, float, float, str] | None = None
            for scenario, flows in zip(
                self.craft.scenarios, self.currents.lasting_in, strict=False
            ):
                bears = corrected_ampacity_a(wire, scenario, self.tables.conductors)
                amperes = flows.get(wire.id, 0.0)
                if bears is not None and amperes > bears * (1 + ROUNDING):
                    found = (amperes - bears, amperes, bears, scenario.id)
                    worst = found if worst is None else max(worst, found)
            if worst is not None:
                _, amperes, bears, where = worst
                facts: dict[str, float | str] = {
                    "amperes": amperes, "bears": bears, "scenario": where
                }  # fmt: skip
                yield Violation("overloaded", wire.id, loads=self._users(wire.id), facts=facts)

    def _wires(self) -> list[Conductor]:
        """The conductors that runs pass."""
        return [p for p in self.craft.pieces if isinstance(p, Conductor) and p.id in self._passing]

    def _not_known(self) -> Iterator[Violation]:
        """What would have to be known for every conductor to be held against fuse and current."""
        held: dict[NotKnown, list[str]] = {}
        # Wires without a size are being planned; a fuse without a rating alone is one nobody could read.
        planning = any(to_be_sized(w) for w in self._wires())
        for piece in self.craft.pieces:
            what = self._lacks(piece) if piece.id in self._passing else None
            what = "to_size" if what is not None and planning and to_be_sized(piece) else what
            if what is not None:
                held.setdefault(what, []).append(piece.id)
        for what, pieces in held.items():
            users = dict.fromkeys(load for piece in pieces for load in self._users(piece))
            facts: dict[str, float | str] = {"what": what}
            yield Violation(
                "not_known", pieces[0], loads=tuple(users), pieces=tuple(pieces), facts=facts
            )

    def _lacks(self, piece: Conductor | FixedPiece) -> NotKnown | None:
        if isinstance(piece, FixedPiece):
            if piece.kind in KINDS and piece.rating_a is None:
                return "rating"
            return "undrawn" if piece.kind == "unknown" else None
        if least_ampacity_a(piece, self.craft.scenarios, self.tables) is not None:
            return None
        if undrawn(piece):
            return "undrawn"
        if piece.size is None:
            return "size"
        return "insulation" if piece.insulation_c is None else "row"

    def _far(self) -> Iterator[Violation]:
        """Wire between the post and the first fuse, each way told once by its first conductor."""
        told: dict[tuple[str, float], list[str]] = {}
        for key, run in self.runs.items():
            metres, first, fused = 0.0, "", False
            for step in run.feed:
                piece = step.piece
                if isinstance(piece, FixedPiece) and piece.kind in KINDS:
                    fused = True
                    break
                if isinstance(piece, Conductor) and not step.beside:
                    metres, first = metres + piece.length_m, first or piece.id
            if fused and metres > LEAD_M:
                told.setdefault((first, round(metres, 3)), []).append(key)
        for (wire, metres), loads in told.items():
            facts = {"metres": metres, "most": LEAD_M}
            yield Violation("fuse_far", wire, loads=tuple(loads), facts=facts)

    def _fuses(self) -> Iterator[tuple[FixedPiece, float]]:
        """Every fuse and breaker that has a rating and stands on a run."""
        used = {f.id for run in self.runs.values() for f in fuses_of(run)}
        for piece in self.craft.pieces:
            if isinstance(piece, FixedPiece) and piece.id in used and piece.rating_a is not None:
                yield piece, piece.rating_a

    def _small(self) -> Iterator[Violation]:
        for fuse, rating in self._fuses():
            lasting = self.currents.lasting.get(fuse.id, 0.0)
            running = self.currents.running.get(fuse.id, 0.0)
            needed = max(CONTINUOUS_TIMES * lasting, running)
            if rating < needed - ROUNDING:
                facts = {"rating": rating, "amperes": max(lasting, running), "needed": needed}
                yield Violation("fuse_small", fuse.id, fuse.id, self._users(fuse.id), facts)

    def _starts(self) -> Iterator[Violation]:
        for fuse, rating in self._fuses():
            amperes, seconds = self.currents.starting.get(fuse.id, (0.0, 0.0))
            speed = self.tables.fuse_classes.get(style_of(fuse))
            if speed is not None and speed.carries_s(amperes / rating) < seconds:
                facts = {
                    "rating": rating, "amperes": amperes, "seconds": seconds,
                    "carries": speed.carries_s(amperes / rating),
                }  # fmt: skip
                yield Violation("opens_at_start", fuse.id, fuse.id, self._users(fuse.id), facts)

    def _order(self) -> Iterator[Violation]:
        told: set[tuple[str, str]] = set()
        for run in self.runs.values():
            row = [f for f in fuses_of(run) if f.rating_a is not None]
            for first, second in pairwise(row):
                pair = (first.id, second.id)
                if (first.rating_a or 0.0) < (second.rating_a or 0.0) and pair not in told:
                    told.add(pair)
                    facts = {"rating": first.rating_a or 0.0, "after": second.rating_a or 0.0}
                    yield Violation("wrong_order", first.id, second.id, (run.load.id,), facts)

    def _breaking(self) -> Iterator[Violation]:
        """First fuses that a short just behind them is too much for, those of one class together.

        A short's current = open-circuit volts / (internal resistance + what lies before the fuse).
        """
        worst: dict[tuple[str, str], tuple[float, str, float]] = {}
        loads: dict[tuple[str, str], dict[str, None]] = {}
        for key, run in self.runs.items():
            source = run.source
            if source.internal_ohm <= 0:
                continue  # an ideal source: what a short draws from a real one nobody has said
            fuse, ohm = self._first_fuse(run)
            speed = None if fuse is None else self.tables.fuse_classes.get(style_of(fuse))
            if fuse is None or speed is None or ohm == inf:
                continue
            short = self._most_v(source) / ohm
            if short > speed.breaking_a:
                group = (source.id, speed.style)
                worst[group] = max(
                    worst.get(group, (0.0, "", 0.0)), (short, fuse.id, speed.breaking_a)
                )
                loads.setdefault(group, {})[key] = None
        for group, (short, piece, breaks) in worst.items():
            facts = {"amperes": short, "breaks": breaks}
            yield Violation("cannot_break", piece, piece, tuple(loads[group]), facts)

    def _first_fuse(self, run: Run) -> tuple[FixedPiece | None, float]:
        """A run's first fuse, and the ohms of a short just behind it, the source's own among them."""
        of_table = TableOhms(self.tables)
        ohm = run.source.internal_ohm
        for step in run.feed:
            piece = step.piece
            if isinstance(piece, FixedPiece) and piece.kind in KINDS:
                return piece, ohm
            own = piece.resistance_ohm
            # What is still to be sized may be of any ohms: of a short behind it nothing is said.
            ohm += inf if to_be_sized(piece) else of_table.of(piece) if own is None else own
        return None, ohm

    def _most_v(self, source: Source) -> float:
        return max(
            (s.source(source).open_circuit_v for s in self.craft.scenarios),
            default=source.open_circuit_v,
        )
