"""Drawings of small crafts of several kinds, as a person would have drawn them."""

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    FixedKind,
    FixedPiece,
    Load,
    LoadLaw,
    Scenario,
    Side,
    Source,
    SourceState,
    TestPoint,
)

Kind = Literal[
    "series", "loom", "trunk", "two_returns", "relay", "charging", "two_in_row", "string"
]
KINDS: tuple[Kind, ...] = (
    "series", "loom", "trunk", "two_returns", "relay", "charging", "two_in_row", "string"
)  # fmt: skip
COPPER_OHM_MM2_M = 0.0175
"""Copper as it is, near the book's 0.0172: what is judged does not rest on the truth having the table's
figure."""
MM2_A = 2.0
"""So many amperes are planned for a square millimetre: without a fault most runs keep their limits."""
LAWS: tuple[LoadLaw, ...] = (
    "constant_current", "constant_resistance", "constant_power", "filament"
)  # fmt: skip


@dataclass
class Sketch:
    """A craft in the making: pieces drawn one after the other from a point onwards."""

    rng: random.Random
    pieces: list[AnyPiece] = field(default_factory=list)
    loads: list[Load] = field(default_factory=list)
    points: dict[str, None] = field(default_factory=dict)

    def wire(self, start: str, end: str, side: Side, mm2: float, metres: float) -> None:
        """A length of copper.

        Args:
            start: the id of the point where it starts.
            end: the id of the point where it ends.
            side: the side.
            mm2: the area of its copper (mm2).
            metres: its length (m).
        """
        self._add(
            Conductor(
                id=f"w{len(self.pieces)}", start=start, end=end, side=side, length_m=metres,
                ohm_per_m=COPPER_OHM_MM2_M / mm2,
            )
        )  # fmt: skip

    def fixed(
        self,
        start: str,
        end: str,
        side: Side,
        kind: FixedKind = "joint",
        style: str | None = None,
        rating_a: float | None = None,
    ) -> None:
        """A joint, a fuse, a switch ...

        Args:
            start: the id of the point where it starts.
            end: the id of the point where it ends.
            side: the side.
            kind: what kind of piece.
            style: its style, as the tables have it; None for any.
            rating_a: its rating (A); None where it has none.
        """
        self._add(
            FixedPiece(
                id=f"{kind[0]}{len(self.pieces)}", start=start, end=end, side=side, kind=kind,
                style=style, rating_a=rating_a,
            )
        )  # fmt: skip

    def _add(self, piece: AnyPiece) -> None:
        self.pieces.append(piece)
        self.points.update(dict.fromkeys((piece.start, piece.end)))

    def load(self, key: str, start: str, end: str, amperes: float) -> None:
        """A load of any law that draws about so much at 12 V.

        Args:
            key: its id.
            start: the id of the point where it starts.
            end: the id of the point where it ends.
            amperes: what it draws (A).
        """
        law = self.rng.choice(LAWS)
        held = law == "constant_current"
        rated = law in ("constant_resistance", "filament")
        self.loads.append(
            Load(
                id=key, start=start, end=end, name=key, behaviour=law,
                current_a=amperes if held else None, power_w=None if held else 12.0 * amperes,
                rated_v=12.0 if rated else None,
            )
        )  # fmt: skip
        self.points.update(dict.fromkeys((start, end)))

    def halved(self, key: str, start: str, end: str, amperes: float) -> None:
        """A lamp or a heater that draws about so much at half of 12 V.

        Args:
            key: its id.
            start: the id of the point where it starts.
            end: the id of the point where it ends.
            amperes: what it draws (A) at half of 12 V.
        """
        law: LoadLaw = self.rng.choice(("constant_resistance", "filament"))
        self.loads.append(
            Load(
                id=key, start=start, end=end, name=key, behaviour=law, power_w=6.0 * amperes,
                rated_v=6.0,
            )
        )  # fmt: skip
        self.points.update(dict.fromkeys((start, end)))

    def craft(self, sources: tuple[Source, ...], scenarios: tuple[Scenario, ...]) -> Craft:
        """The craft.

        Args:
            sources: what feeds it.
            scenarios: the states of the craft.
        """
        posts = [p for s in sources for p in (s.live, s.back)]
        return Craft(
            kind="boat", nominal_v=12.0, polarity="negative", reference=sources[0].back,
            points=tuple(TestPoint(id=p) for p in dict.fromkeys([*posts, *self.points])),
            sources=sources, pieces=tuple(self.pieces), loads=tuple(self.loads),
            scenarios=scenarios,
        )  # fmt: skip


BATTERY = Source(
    id="bat", name="Battery", live="bat+", back="bat-", open_circuit_v=12.7, internal_ohm=0.006,
    battery="flooded", capacity_ah=100.0,
)  # fmt: skip


def sketched(kind: Kind, rng: random.Random) -> Craft:
    """A craft of a kind; its run under test is that of the load `x`.

    Args:
        rng: where chance comes from: the same seed makes the same.
    """
    return _KINDS[kind](Sketch(rng))


def _feed(s: Sketch, start: str, tag: str, amperes: float) -> str:
    """Fuse, switch, wire and a plug to a load; the point it ends at."""
    mm2 = max(amperes / MM2_A, 1.0)
    s.fixed(start, f"f{tag}", "feed", "fuse", rating_a=20.0)
    s.fixed(f"f{tag}", f"s{tag}", "feed", "switch")
    s.wire(f"s{tag}", f"p{tag}", "feed", mm2, s.rng.uniform(1.5, 5.0))
    if s.rng.random() < 0.6:
        s.fixed(f"p{tag}", f"{tag}+", "feed")
        return f"{tag}+"
    return f"p{tag}"


def _back(s: Sketch, start: str, tag: str, end: str, amperes: float) -> None:
    mm2 = max(amperes / MM2_A, 1.0)
    s.fixed(start, f"n{tag}", "return")
    s.wire(f"n{tag}", f"r{tag}", "return", mm2, s.rng.uniform(1.0, 4.0))
    s.fixed(f"r{tag}", end, "return")


def _scenarios(*on: str, others: tuple[str, ...] = ()) -> tuple[Scenario, ...]:
    """Rested with the run's own loads on; charging with everything on."""
    charged = {"bat": SourceState(open_circuit_v=13.8)}
    return (
        Scenario(id="rested", name="Rested", on=frozenset(on)),
        Scenario(id="charging", name="Charging", on=frozenset((*on, *others)), sources=charged),
    )


def _series(s: Sketch) -> Craft:
    amperes = s.rng.uniform(2.0, 15.0)
    s.fixed("bat+", "c+", "feed")
    end = _feed(s, "c+", "x", amperes)
    s.load("x", end, "x-", amperes)
    _back(s, "x-", "x", "c-", amperes)
    s.fixed("c-", "bat-", "return")
    return s.craft((BATTERY,), _scenarios("x"))


def _loom(s: Sketch) -> Craft:
    """A loom nobody has drawn, but for a switch and a ground."""
    amperes = s.rng.uniform(2.0, 15.0)
    s.fixed("bat+", "a", "feed", "unknown")
    s.fixed("a", "b", "feed", "switch")
    s.fixed("b", "x+", "feed", "unknown")
    s.load("x", "x+", "x-", amperes)
    s.fixed("x-", "c", "return", "unknown")
    s.fixed("c", "d", "return")
    s.fixed("d", "bat-", "return", "unknown")
    return s.craft((BATTERY,), _scenarios("x"))


def _trunk(s: Sketch) -> Craft:
    """Two to four runs on one bar, with one return."""
    count = s.rng.randint(2, 4)
    s.fixed("bat+", "c+", "feed")
    s.wire("c+", "bar+", "feed", 16.0, s.rng.uniform(1.0, 3.0))
    s.wire("bar-", "c-", "return", 16.0, s.rng.uniform(1.0, 3.0))
    s.fixed("c-", "bat-", "return")
    tags = ["x", *"yzv"[: count - 1]]
    for tag in tags:
        amperes = s.rng.uniform(2.0, 12.0)
        end = _feed(s, "bar+", tag, amperes)
        s.load(tag, end, f"{tag}-", amperes)
        _back(s, f"{tag}-", tag, "bar-", amperes)
    return s.craft((BATTERY,), _scenarios("x", *tags[1:2], others=tuple(tags[2:])))


def _two_returns(s: Sketch) -> Craft:
    amperes = s.rng.uniform(4.0, 15.0)
    s.fixed("bat+", "c+", "feed")
    end = _feed(s, "c+", "x", amperes)
    s.load("x", end, "x-", amperes)
    _back(s, "x-", "x", "c-", amperes)
    s.wire("x-", "q", "return", max(amperes / MM2_A, 1.0), s.rng.uniform(2.0, 4.0))
    s.fixed("q", "c-", "return")
    s.fixed("c-", "bat-", "return")
    return s.craft((BATTERY,), _scenarios("x"))


def _relay(s: Sketch) -> Craft:
    """A relay near the load; its coil hangs on the old wire."""
    amperes = s.rng.uniform(6.0, 20.0)
    s.fixed("bat+", "c+", "feed")
    s.fixed("c+", "f1", "feed", "fuse", rating_a=30.0)
    s.wire("f1", "k30", "feed", amperes / MM2_A, s.rng.uniform(1.5, 4.0))
    s.fixed("k30", "k87", "feed", "relay_contact")
    s.wire("k87", "x+", "feed", amperes / MM2_A, 0.4)
    s.load("x", "x+", "x-", amperes)
    _back(s, "x-", "x", "c-", amperes)
    s.fixed("c-", "bat-", "return")
    s.fixed("c+", "f2", "feed", "fuse", rating_a=5.0)
    s.fixed("f2", "s2", "feed", "switch")
    s.wire("s2", "k86", "feed", 1.0, s.rng.uniform(2.0, 5.0))
    s.load("coil", "k86", "rx", 0.15)
    return s.craft((BATTERY,), _scenarios("x", "coil"))


def _charging(s: Sketch) -> Craft:
    """A generator that charges the battery a load hangs on."""
    generator = Source(
        id="gen", name="Generator", live="gen+", back="gen-", open_circuit_v=14.2,
        internal_ohm=0.02,
    )  # fmt: skip
    amperes = s.rng.uniform(3.0, 15.0)
    s.wire("gen+", "bat+", "feed", 16.0, 1.5)
    s.wire("bat-", "gen-", "return", 16.0, 1.5)
    s.fixed("bat+", "c+", "feed")
    end = _feed(s, "c+", "x", amperes)
    s.load("x", end, "x-", amperes)
    _back(s, "x-", "x", "c-", amperes)
    s.fixed("c-", "bat-", "return")
    off = {"gen": SourceState(internal_ohm=1e9)}
    return s.craft(
        (BATTERY, generator),
        (
            Scenario(id="rested", name="Rested", on=frozenset({"x"}), sources=off),
            Scenario(id="charging", name="Charging", on=frozenset({"x"})),
        ),
    )


def _two_in_row(s: Sketch) -> Craft:
    """Two switches and two plugs in a row: long feeds, more to be wrong."""
    amperes = s.rng.uniform(2.0, 12.0)
    mm2 = max(amperes / MM2_A, 1.0)
    s.fixed("bat+", "c+", "feed")
    s.fixed("c+", "f", "feed", "fuse", rating_a=20.0)
    s.wire("f", "k", "feed", mm2, s.rng.uniform(1.0, 3.0))
    s.fixed("k", "k2", "feed", "switch")
    s.wire("k2", "n", "feed", mm2, s.rng.uniform(1.0, 3.0))
    s.fixed("n", "n2", "feed", "switch")
    s.fixed("n2", "x+", "feed")
    s.load("x", "x+", "x-", amperes)
    s.fixed("x-", "g", "return")
    s.fixed("g", "c-", "return", "body_return")
    s.fixed("c-", "bat-", "return")
    return s.craft((BATTERY,), _scenarios("x"))


def _string(s: Sketch) -> Craft:
    """Two lamps, or a heater and its resistor, one behind the other; either may be the one that is read."""
    amperes = s.rng.uniform(2.0, 8.0)
    s.fixed("bat+", "c+", "feed")
    end = _feed(s, "c+", "a", amperes)
    first, second = s.rng.choice((("x", "y"), ("y", "x")))
    s.halved(first, end, "m1", amperes)
    s.wire("m1", "m2", "return", max(amperes / MM2_A, 1.0), s.rng.uniform(0.5, 2.0))
    s.halved(second, "m2", "b-", amperes)
    _back(s, "b-", "b", "c-", amperes)
    s.fixed("c-", "bat-", "return")
    return s.craft((BATTERY,), _scenarios("x", "y"))


_KINDS: Mapping[Kind, Callable[[Sketch], Craft]] = {
    "series": _series, "loom": _loom, "trunk": _trunk, "two_returns": _two_returns,
    "relay": _relay, "charging": _charging, "two_in_row": _two_in_row,
    "string": _string,
}  # fmt: skip
