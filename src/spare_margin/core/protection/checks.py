"""What is wrong with the protection of a wiring as it stands, and what of it is not known.

A fuse stands as near the source as practicable, in every branch. Its rating is at most what the thinnest
conductor after it bears, up to the next fuse, and at least 1.25 times what flows for long; what flows while
a load starts must not open it. Of two in series the one nearer the source is the larger. Every conductor
bears what flows through itself: a return that runs share carries their sum, and no fuse sees that.

Where a figure that one of these needs is not known, that is told too: nothing counts as fine for its want.
"""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Literal

from spare_margin.core.circuit.resistances import TableOhms
from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Source,
    undrawn,
)
from spare_margin.core.model.tables import Tables

Code = Literal[
    "thin_for_fuse", "overloaded", "unfused", "unfused_by_custom", "fuse_far", "fuse_small",
    "opens_at_start", "wrong_order", "cannot_break", "not_known",
]  # fmt: skip
NotKnown = Literal["undrawn", "rating", "size", "insulation", "row"]
"""What may not be known: a stretch; a fuse's rating; a wire's size, its insulation, a row of the table."""
CONTINUOUS_TIMES = 1.25
"""A fuse is rated this many times what flows through it for long."""
LEAD_M = 0.3
"""So much wire may lie between the post and the first fuse; the code in force may say less."""
START_S = 0.5
"""How long a motor's start is taken to last (an estimate; a heavy load takes longer)."""
INRUSH_TIMES, INRUSH_S = 10.0, 0.05
"""A cold filament draws about ten times its current, for so long."""
TYPICAL_START_TIMES = 4.0
"""How many times its current a short-time motor draws in a start where nobody said: 3 to 5 is typical."""
KINDS = ("fuse", "breaker")


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


def fuses_of(run: Run) -> list[FixedPiece]:
    """The fuses and breakers of a run's feed, from the source on."""
    steps = [s.piece for s in run.feed if not s.beside]
    return [p for p in steps if isinstance(p, FixedPiece) and p.kind in KINDS]


def protecting(runs: Iterable[Run]) -> dict[str, FixedPiece]:
    """The fuse that protects each conductor: the last before it on its feed; for a return, its load's last.

    Where several runs lead through a conductor, the largest of theirs counts.
    """
    out: dict[str, FixedPiece] = {}

    def take(key: str, fuse: FixedPiece) -> None:
        held = out.get(key)
        if held is None or (held.rating_a or 0.0) < (fuse.rating_a or 0.0):
            out[key] = fuse

    for run in runs:
        last: FixedPiece | None = None
        for step in run.feed:
            piece = step.piece
            if isinstance(piece, FixedPiece) and piece.kind in KINDS:
                last = piece
            elif isinstance(piece, Conductor) and last is not None:
                take(piece.id, last)
        for step in run.back:
            if isinstance(step.piece, Conductor) and last is not None:
                take(step.piece.id, last)
    return out


@dataclass(frozen=True)
class Currents:
    """What flows through every piece (A): the most for long, the most at all, the most in a start."""

    lasting: Mapping[str, float]
    running: Mapping[str, float]
    starting: Mapping[str, tuple[float, float]]
    """By piece, the most that flows while a load starts, and for how long (s)."""
    advised: Mapping[str, tuple[float, float]]
    """The same for advice: a short-time motor whose start nobody said is given a typical one."""
    lasting_in: Sequence[Mapping[str, float]]
    """By solution, what flows through every piece for long (A)."""


def currents_of(runs: Mapping[str, Run], solutions: Sequence[Solution]) -> Currents:
    """The currents of a craft over all its scenarios.

    A start adds what the load draws more to what flows; the volts then sag, so that this is the most. Loads
    of short time do not count among what flows for long.
    """
    lasting: dict[str, float] = {}
    running: dict[str, float] = {}
    starting: dict[str, tuple[float, float]] = {}
    advised: dict[str, tuple[float, float]] = {}
    lasting_in: list[dict[str, float]] = []
    for solution in solutions:
        here: dict[str, float] = {}
        lasting_in.append(here)
        current = solution.elements.current_a
        brief: dict[str, float] = {}
        for key, run in runs.items():
            amperes = abs(current(key))
            if run.load.duty == "short_time":
                for step in run.steps():
                    brief[step.piece.id] = brief.get(step.piece.id, 0.0) + amperes
        for key, run in runs.items():
            amperes = abs(current(key))
            if not amperes:
                continue
            for step in run.steps():
                piece = step.piece.id
                flows = abs(current(piece))
                running[piece] = max(running.get(piece, 0.0), flows)
                lasts = max(flows - brief.get(piece, 0.0), 0.0)
                lasting[piece] = max(lasting.get(piece, 0.0), lasts)
                here[piece] = lasts
                for held, (times, seconds) in (
                    (starting, start_of(run.load)), (advised, advised_start_of(run.load)),
                ):  # fmt: skip
                    if times > 1.0:
                        most = (flows + (times - 1.0) * amperes, seconds)
                        held[piece] = max(held.get(piece, (0.0, 0.0)), most)
    return Currents(lasting, running, starting, advised, lasting_in)


def start_of(load: Load) -> tuple[float, float]:
    """How many times its current a load draws while it starts, and for how long (s).

    >>> motor = Load(id="l", start="a", end="b", name="Winch", start_multiple=4.0)
    >>> start_of(motor)[0]
    4.0
    """
    if load.behaviour == "filament":
        return INRUSH_TIMES, INRUSH_S
    return load.start_multiple or 1.0, START_S


def advised_start_of(load: Load) -> tuple[float, float]:
    """The start that a new fuse must carry: as said, else a typical one for a motor of short time.

    >>> winch = Load(id="l", start="a", end="b", name="Winch", duty="short_time")
    >>> advised_start_of(winch)
    (4.0, 0.5)
    """
    if load.duty == "short_time" and load.start_multiple is None and load.behaviour != "filament":
        return TYPICAL_START_TIMES, START_S
    return start_of(load)


STARTER = re.compile(r"\bstarter\b|\bstarter motor\b|\bengine start|\bcrank", re.I)


def unfused_by_custom(load: Load, craft: Craft) -> bool:
    """Whether the main cable of a load has no fuse by custom: that of a vehicle's engine starter.

    Known by what people call it; a winch or a thruster has a fuse.
    """
    return craft.kind == "vehicle" and load.duty == "short_time" and bool(STARTER.search(load.name))


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
        """What is wrong on one run."""
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
                if bears is not None and amperes > bears * (1 + 1e-9):
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
        for piece in self.craft.pieces:
            what = self._lacks(piece) if piece.id in self._passing else None
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
            if rating < needed - 1e-9:
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
            if fuse is None or speed is None:
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
            ohm += of_table.of(piece) if own is None else own
        return None, ohm

    def _most_v(self, source: Source) -> float:
        return max(
            (s.source(source).open_circuit_v for s in self.craft.scenarios),
            default=source.open_circuit_v,
        )


def style_of(fuse: FixedPiece) -> str:
    """The style by which a fuse's class is looked up; one that nobody said is a blade."""
    return "breaker" if fuse.kind == "breaker" else fuse.style or "blade"


def least_ampacity_a(
    wire: Conductor, scenarios: Iterable[Scenario], tables: Tables
) -> float | None:
    """The least current (A) that a conductor bears in any of the scenarios; None where no row says."""
    borne = [corrected_ampacity_a(wire, s, tables.conductors) for s in scenarios]
    return min((each for each in borne if each is not None), default=None)


def fuse_for(
    lasting_a: float,
    running_a: float,
    starting: tuple[float, float],
    bears_a: float | None,
    tables: Tables,
    styles: Sequence[str] = ("blade", "large blade", "bolt-down"),
) -> tuple[str, float] | None:
    """The smallest fuse (style, rating A) that carries what flows and starts, and that the wire bears.

    Args:
        lasting_a: what flows for long (A); the rating is 1.25 times that.
        running_a: what flows at most (A).
        starting: the most that flows in a start (A), and how long it lasts (s).
        bears_a: what the thinnest conductor after it bears (A); None where no row says.

    None where no fuse of these styles does all of that.

    >>> from spare_margin.data.tables import shipped_tables
    >>> fuse_for(7.0, 7.0, (7.0, 0.0), 20.0, shipped_tables())  # 1.25 x 7 A
    ('blade', 10.0)
    >>> fuse_for(7.0, 7.0, (7.0, 0.0), 8.0, shipped_tables()) is None  # more than its wire bears
    True
    """
    for style in styles:
        speed = tables.fuse_classes.get(style)
        ratings = sorted(rating for s, rating in tables.fixed.fuses if s == style)
        for rating in ratings:
            if rating < max(CONTINUOUS_TIMES * lasting_a, running_a):
                continue
            if speed and speed.carries_s(starting[0] / rating) < starting[1]:
                continue
            if bears_a is None or rating <= bears_a:
                return style, rating
            break
    return None
