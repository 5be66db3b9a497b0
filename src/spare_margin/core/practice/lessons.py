"""Ten lessons: each a small loop with one thing to pull, and one question that the loop itself answers.

Every figure is the engine's. The loop is a battery, a joint out, a lamp, and a joint back; what is pulled
changes one thing of it.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.errors import JobError
from spare_margin.core.model.meters import WORKSHOP_METER
from spare_margin.core.model.pieces import (
    SIDES,
    AnyPiece,
    Craft,
    FixedKind,
    FixedPiece,
    Load,
    Scenario,
    Source,
    TestPoint,
)
from spare_margin.core.model.tables import Tables

LessonId = Literal[
    "difference", "spent", "no_current", "ohms", "series", "shared", "ghosts", "opens", "doubt", "limits",
]  # fmt: skip
LESSONS: tuple[LessonId, ...] = (
    "difference", "spent", "no_current", "ohms", "series", "shared", "ghosts", "opens", "doubt", "limits",
)  # fmt: skip
Unit = Literal["V", "A", "ohm", ""]
BATTERY_V, LAMP_OHM, GOOD_OHM = 12.6, 2.4, 0.004
RANGES_V = (0.6, 6.0, 60.0, 600.0)
LEADS_OHM = STRAND_OHM = 0.2
SHARED_OHM = 0.05
ANSWERS = 3
"""So many answers a question offers."""
METER_OHM = 10e6
LAMP_W = 4.0


@dataclass(frozen=True, slots=True)
class Knob:
    """What is pulled: from the least to the most in steps, and where it stands at first."""

    least: float
    most: float
    step: float
    start: float
    unit: Unit


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure of a lesson: what it is of, as a code, and how much, with its doubt where it has one."""

    key: str
    value: float
    unit: Unit
    doubt: float = 0.0
    good: bool | None = None


@dataclass(frozen=True)
class Seen:
    """A lesson with its knob pulled somewhere.

    Attributes:
        figures: what is read and worked out.
        shares: where the source's volts are spent on the way round, by piece or load (V).
        red, black: where the meter's leads lie; empty in the air.
        right: which of the answers is right, from 0: as the loop itself gives it.
    """

    craft: Craft
    run: Run
    figures: tuple[Figure, ...]
    shares: Mapping[str, float]
    red: str
    black: str
    right: int


KNOBS: Mapping[LessonId, Knob] = {
    "difference": Knob(0, 3, 1, 0, ""),
    "spent": Knob(0, 0.95, 0.05, 0.0, ""),
    "no_current": Knob(0, 1, 1, 1, ""),
    "ohms": Knob(0, 20, 1, 0, "A"),
    "series": Knob(0, 5, 0.25, 0, "ohm"),
    "shared": Knob(0, 15, 1, 0, "A"),
    "ghosts": Knob(0, 5000, 100, 0, "ohm"),
    "opens": Knob(0, 4, 1, 0, ""),
    "doubt": Knob(0, 3, 1, 3, ""),
    "limits": Knob(0.05, 0.6, 0.05, 0.3, "V"),
}
SHOWS_AT: Mapping[LessonId, float] = {
    "difference": 3, "spent": 0.5, "no_current": 0, "ohms": 20, "series": 4, "shared": 12,
    "ghosts": 3000, "opens": 3, "doubt": 3, "limits": 0.3,
}  # fmt: skip
"""Where each knob shows what the question asks for."""


def lesson(key: LessonId, pulled: float, tables: Tables) -> Seen:
    """A lesson with its knob pulled to somewhere.

    Args:
        key: which.
        pulled: where the knob stands, within its ends.
        tables: the reference tables.

    Raises:
        JobError: pulled beyond its ends.
    """
    knob = KNOBS[key]
    if not knob.least <= pulled <= knob.most:
        raise JobError("pull", f"cannot be {pulled:g}", f"{knob.least:g} to {knob.most:g}")
    return _LESSONS[key](pulled, tables)


@dataclass(frozen=True)
class _Loop:
    """The loop with what is changed of it, solved."""

    tables: Tables
    feed_ohm: float = GOOD_OHM
    back_ohm: float = GOOD_OHM
    lamp_ohm: float = LAMP_OHM
    on: bool = True
    more: tuple[AnyPiece, ...] = ()
    loads: tuple[Load, ...] = ()

    @property
    def craft(self) -> Craft:
        """The battery's plus, a joint, the lamp, a joint, its minus."""
        own = {p.id for p in self.more}
        joints = (
            FixedPiece(
                id="out", name="Joint out", start="plus", end="lamp+", side="feed", kind="joint",
                resistance_ohm=self.feed_ohm,
            ),
            FixedPiece(
                id="home", name="Joint back", start="lamp-", end="minus", side="return", kind="joint",
                resistance_ohm=self.back_ohm,
            ),
        )  # fmt: skip
        lamp = Load(
            id="lamp", name="Lamp", start="lamp+", end="lamp-", behaviour="constant_resistance",
            load_ohm=self.lamp_ohm,
        )  # fmt: skip
        names = {
            "plus": "Battery +", "lamp+": "Lamp +", "lamp-": "Lamp \u2212", "minus": "Battery \u2212",
        }  # fmt: skip
        pieces = (*(j for j in joints if j.id not in own), *self.more)
        ends = [e for p in (*pieces, lamp, *self.loads) for e in (p.start, p.end)]
        on = frozenset(x.id for x in self.loads) | (frozenset({"lamp"}) if self.on else frozenset())
        return Craft(
            kind="other", nominal_v=12.0, polarity="negative", reference="minus",
            points=tuple(TestPoint(id=p, name=names.get(p, "")) for p in dict.fromkeys(("plus", *ends))),
            sources=(
                Source(
                    id="battery", name="Battery", live="plus", back="minus",
                    open_circuit_v=BATTERY_V, internal_ohm=0.004,
                ),
            ),
            pieces=pieces, loads=(lamp, *self.loads), scenarios=(Scenario(id="now", on=on),),
        )  # fmt: skip

    @property
    def run(self) -> Run:
        """The lamp's run."""
        ohms = {p.id: p.resistance_ohm or GOOD_OHM for p in self.craft.pieces}
        return traced(self.craft, ohms).runs["lamp"]

    @property
    def solution(self) -> Solution:
        """Every volt and ampere."""
        return solve(self.craft, self.craft.scenarios[0], self.tables)

    def seen(self, red: str, black: str, right: int, *figures: Figure) -> Seen:
        """As it is shown; `right` is the answer that the loop gives."""
        solved = self.solution
        spent = {
            s.piece.id: abs(solved.volts(s.entry, s.exit) or 0.0)
            for side in SIDES for s in self.run.side(side)
        }  # fmt: skip
        spent["lamp"] = abs(solved.volts("lamp+", "lamp-") or 0.0)
        return Seen(self.craft, self.run, figures, spent, red, black, right)

    def volts(self, red: str, black: str) -> float:
        """What a meter shows between two points (V)."""
        return self.solution.volts(red, black) or 0.0

    @property
    def amperes(self) -> float:
        """What the lamp draws (A)."""
        return abs(self.solution.elements.current_a("lamp"))


def _difference(pulled: float, tables: Tables) -> Seen:
    """One point, and the black lead on one after the other."""
    loop = _Loop(tables, feed_ohm=0.08)
    black = ("minus", "lamp-", "lamp+", "plus")[int(pulled)]
    lost = loop.volts("plus", "lamp+")
    reads = [abs(loop.volts("lamp+", p)) for p in ("minus", "lamp-", "plus")]
    right = _nearest(lost, reads)
    return loop.seen("lamp+", black, right, Figure("meter", loop.volts("lamp+", black), "V"))


def _spent(pulled: float, tables: Tables) -> Seen:
    """Ohms moved from the lamp to the joint: the source is spent all the same."""
    loop = _Loop(
        tables, feed_ohm=max(LAMP_OHM * pulled, GOOD_OHM), lamp_ohm=LAMP_OHM * (1 - pulled)
    )
    lost, left = loop.volts("plus", "lamp+"), loop.volts("lamp+", "lamp-")
    back = loop.volts("lamp-", "minus")
    right = _nearest(left / BATTERY_V, (1.0, 0.5, 0.0))
    return loop.seen(
        "lamp+", "lamp-", right, Figure("joint", lost, "V"), Figure("lamp", left, "V"),
        Figure("back", back, "V"), Figure("together", lost + left + back, "V"),
    )  # fmt: skip


def _no_current(pulled: float, tables: Tables) -> Seen:
    loop, loaded = (_Loop(tables, feed_ohm=1.2, on=on) for on in (pulled > 0, True))
    dropped = loop.volts("plus", "lamp+")
    right = _nearest(dropped, (0.0, loaded.volts("plus", "lamp+"), BATTERY_V))
    return loop.seen(
        "plus", "lamp+", right, Figure("joint", dropped, "V"),
        Figure("amperes", loop.amperes if loop.on else 0.0, "A"),
    )  # fmt: skip


def _ohms(pulled: float, tables: Tables) -> Seen:
    """A strand of 0.2 ohm, and what it takes at so many amperes."""
    draws = Load(
        id="more", name="Load", start="lamp+", end="lamp-", behaviour="constant_current",
        current_a=max(pulled, 0.001),
    )  # fmt: skip
    loop = _Loop(tables, feed_ohm=STRAND_OHM, lamp_ohm=1e6, loads=(draws,))
    lost = loop.volts("plus", "lamp+")
    shown = STRAND_OHM + LEADS_OHM
    return loop.seen(
        "plus", "lamp+", _nearest(lost, (0.0, 0.4, 4.0)),
        Figure("ohms", shown, "ohm", doubt=LEADS_OHM), Figure("strand", lost, "V"),
        Figure("lamp", loop.volts("lamp+", "lamp-"), "V"),
    )  # fmt: skip


def _series(pulled: float, tables: Tables) -> Seen:
    """A bad joint out, and one back that is made worse."""
    loop, alone = (
        _Loop(tables, feed_ohm=0.6, back_ohm=o) for o in (max(pulled, GOOD_OHM), GOOD_OHM)
    )
    dropped, before = (each.volts("plus", "lamp+") for each in (loop, alone))
    right = 2 if math.isclose(dropped, before) else 0 if dropped > before else 1
    return loop.seen(
        "plus", "lamp+", right, Figure("amperes", loop.amperes, "A"), Figure("joint", dropped, "V"),
        Figure("other_joint", loop.volts("lamp-", "minus"), "V"),
    )  # fmt: skip


def _shared(pulled: float, tables: Tables) -> Seen:
    """Another load on the same return moves the lamp's zero."""
    other = Load(
        id="more", name="Pump", start="plus", end="lamp-", behaviour="constant_current",
        current_a=max(pulled, 0.001),
    )  # fmt: skip
    loop = _Loop(tables, back_ohm=SHARED_OHM, loads=(other,), on=False)
    zero = loop.volts("lamp-", "minus")
    return loop.seen(
        "lamp-", "minus", _nearest(zero, (0.0, BATTERY_V, SHARED_OHM * pulled)),
        Figure("zero", zero, "V"), Figure("amperes", 0.0, "A"),
        Figure("other", pulled, "A"),
    )  # fmt: skip


def _ghosts(pulled: float, tables: Tables) -> Seen:
    """A joint that lets hardly anything through: a meter takes next to nothing, a test lamp more."""
    feed = max(pulled, GOOD_OHM)

    def drawing(load_ohm: float) -> _Loop:
        """The lamp unplugged, and a meter or a test lamp where it was."""
        asks = Load(
            id="asks",
            start="lamp+",
            end="lamp-",
            behaviour="constant_resistance",
            load_ohm=load_ohm,
        )
        return _Loop(tables, feed_ohm=feed, on=False, loads=(asks,))

    meter, lamp = drawing(METER_OHM), drawing(BATTERY_V**2 / LAMP_W)
    gets, shows = (each.volts("lamp+", "lamp-") for each in (lamp, meter))
    # A lamp that would be lit by what it gets is not lit: it is broken. No volts at all: the battery is.
    right = 2 if shows < BATTERY_V / 2 else 1 if gets < BATTERY_V / 2 else 0
    return meter.seen(
        "lamp+", "lamp-", right, Figure("meter", shows, "V"),
        Figure("test_lamp", gets, "V", good=gets > BATTERY_V / 2),
    )  # fmt: skip


def _opens(pulled: float, tables: Tables) -> Seen:
    """Four pieces out, one of them open: volts stand up to it."""
    points = ("plus", "a", "b", "c", "lamp+")
    where = int(pulled)
    kinds: tuple[FixedKind, ...] = ("fuse", "switch", "joint", "joint")
    row = tuple(
        FixedPiece(
            id="out" if i == 0 else f"out{i}", name=("Fuse", "Switch", "Joint", "Plug")[i],
            start=points[i], end=points[i + 1], side="feed",
            kind=kinds[i],
            resistance_ohm=1e9 if where == i + 1 else GOOD_OHM,
        )
        for i in range(len(points) - 1)
    )  # fmt: skip
    loop = _Loop(tables, more=row)
    figures = [Figure(f"at {p}", round(loop.volts(p, "minus"), 2), "V") for p in points[1:]]
    fuse, switch, joint = (loop.volts(*points[i : i + 2]) for i in range(ANSWERS))
    right = max(range(ANSWERS), key=(joint, switch, fuse).__getitem__)
    return loop.seen("lamp+", "minus", right, *figures)


def _doubt(pulled: float, tables: Tables) -> Seen:
    """One drop, on one range after the other."""
    loop = _Loop(tables, feed_ohm=0.0064)
    true, end = loop.volts("plus", "lamp+"), RANGES_V[int(pulled)]
    step = WORKSHOP_METER.resolution(0.95 * end)
    doubt = abs(true) * WORKSHOP_METER.percent / 100 + WORKSHOP_METER.counts * step
    return loop.seen(
        "plus", "lamp+", _nearest(abs(round(true / step) * step) + doubt, (0.0, 0.01, 0.2)),
        Figure("meter", round(true / step) * step, "V", doubt=doubt),
        Figure("range", end, "V"),
    )  # fmt: skip


def _limits(pulled: float, tables: Tables) -> Seen:
    """One return, held against one school after the other."""
    amps = BATTERY_V / LAMP_OHM
    loop = _Loop(tables, back_ohm=pulled / amps / (1 - pulled / BATTERY_V))
    lost = loop.volts("lamp-", "minus")
    lamp = loop.craft.load("lamp")
    figures = []
    for key, held in tables.limit_sets.items():
        ceilings = held.ceilings(lamp, 12.0)
        most = ceilings.return_v if ceilings.return_v is not None else ceilings.round_trip_v
        if most is not None:
            figures.append(Figure(f"limit {key}", most, "V", good=lost <= most + 1e-9))
    passed = [bool(f.good) for f in figures]
    right = 0 if all(passed) else 1 if any(passed) else 2
    return loop.seen("lamp-", "minus", right, Figure("meter", lost, "V"), *figures)


def _nearest(value: float, answers: Sequence[float]) -> int:
    """Which of the answers the loop gives: the one that its figure is nearest to."""
    return min(range(len(answers)), key=lambda i: abs(answers[i] - value))


_LESSONS: Mapping[LessonId, Callable[[float, Tables], Seen]] = {
    "difference": _difference, "spent": _spent, "no_current": _no_current, "ohms": _ohms,
    "series": _series, "shared": _shared, "ghosts": _ghosts, "opens": _opens, "doubt": _doubt,
    "limits": _limits,
}  # fmt: skip
