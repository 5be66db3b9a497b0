"""Wirings to practise on, a kind for each level: a story's load at the end of what its level teaches."""

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.model.pieces import (
    Access,
    AnyPiece,
    Conductor,
    Craft,
    CraftKind,
    Duty,
    FixedPiece,
    Load,
    LoadLaw,
    Scenario,
    Side,
    Size,
    Source,
    SourceState,
    TestPoint,
)

from .exercise import Level
from .stories import Story

SIZES_MM2 = (0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0)
COPPER_OHM_MM2_M = 0.02
WIRE_V = 0.06
"""Wires are chosen so that each takes no more than this: a sound craft keeps its limits."""
COIL_A = 0.15
CHARGED_TIMES = 1.1
"""With its engine running a source stands so much higher."""

Spec = (
    tuple[Literal["wire"], float]
    | tuple[Literal["fuse"], float]
    | tuple[Literal["joint", "switch"], str]
    | tuple[Literal["relay_contact", "unknown", "body_return"], None]
)
"""A piece in a row: its kind, and how long, how rated, or in which style."""
PIN: Spec = ("joint", "pin")
RING: Spec = ("joint", "ring on stud")
SPLICE: Spec = ("joint", "splice")
CLAMP: Spec = ("joint", "post clamp")
SWITCH: Spec = ("switch", "panel switch")
ISOLATOR: Spec = ("switch", "isolator")
CONTACT: Spec = ("relay_contact", None)
LOOM: Spec = ("unknown", None)


@dataclass(frozen=True)
class Wired:
    """A craft, the load that is complained about, and by the id of a relay's contact its coil."""

    craft: Craft
    run: str
    relays: Mapping[str, str] = field(default_factory=dict)


@dataclass
class Drawing:
    """A craft in the making: rows of pieces from a point to a point."""

    rng: random.Random
    story: Story
    pieces: list[AnyPiece] = field(default_factory=list)
    points: dict[str, TestPoint] = field(default_factory=dict)
    loads: list[Load] = field(default_factory=list)

    def point(self, access: Access | None = None, name: str = "") -> str:
        """A new test point; how it is reached is left to chance where nothing is said.

        Args:
            access: how it is reached; left to chance where nothing is said.
            name: what it is called.
        """
        made = access or self.rng.choices(("open", "backprobe", "trim"), (5, 3, 1))[0]
        key = f"p{len(self.points) + 1}"
        self.points[key] = TestPoint(id=key, name=name, access=made)
        return key

    def row(
        self, start: str, side: Side, amperes: float, specs: list[Spec], end: str | None = None
    ) -> str:
        """Pieces in a row; the id of the point it ends at.

        Args:
            start: the id of the point it starts from.
            side: which side they are of.
            amperes: what they carry (A): it makes the wires' size.
            specs: what stands in the row.
            end: the id of the point it ends at; a new one where None.
        """
        at = start
        for i, spec in enumerate(specs):
            to = end if end is not None and i == len(specs) - 1 else self.point()
            self.pieces.append(self._piece(spec, at, to, side, amperes))
            at = to
        return at

    def _piece(self, spec: Spec, start: str, end: str, side: Side, amperes: float) -> AnyPiece:
        key = f"e{len(self.pieces) + 1}"
        if spec[0] == "wire":
            metres = round(spec[1] * self.rng.uniform(0.7, 1.3), 1)
            least = COPPER_OHM_MM2_M * metres * amperes / WIRE_V
            mm2 = next((s for s in SIZES_MM2 if s >= least), SIZES_MM2[-1])
            size = Size("mm2", f"{mm2:g}", "plain")
            return Conductor(
                id=key, start=start, end=end, side=side, length_m=metres, size=size
            )  # fmt: skip
        if spec[0] == "fuse":
            return FixedPiece(
                id=key, start=start, end=end, side=side, kind="fuse", rating_a=spec[1]
            )
        return FixedPiece(id=key, start=start, end=end, side=side, kind=spec[0], style=spec[1])

    def load(self, start: str, end: str) -> str:
        """The load of the story; its id.

        Args:
            start: the id of the point of its feed terminal.
            end: the id of the point of its return terminal.
            duty: what it is for.
        """
        story = self.story
        return self._load(story.load, story.amperes, story.law, start, end, story.duty)

    def other(self, name: str, amperes: float, start: str, end: str) -> str:
        """Another load; its id.

        Args:
            name: what it is called.
            amperes: what it draws (A).
            start: the id of the point of its feed terminal.
            end: the id of the point of its return terminal.
        """
        return self._load(name, amperes, "constant_current", start, end, "ordinary")

    def _load(
        self, name: str, amperes: float, law: LoadLaw, start: str, end: str, duty: Duty
    ) -> str:
        key, volts = f"l{len(self.loads) + 1}", self.story.nominal_v
        held = law == "constant_current"
        made = Load(
            id=key, start=start, end=end, name=name, behaviour=law, duty=duty,
            current_a=amperes if held else None, power_w=None if held else round(amperes * volts, 1),
            rated_v=volts if law in ("constant_resistance", "filament") else None,
            start_multiple=2.0 if duty == "short_time" else None,
        )  # fmt: skip
        self.loads.append(made)
        return key

    def craft(self, source: Source) -> Craft:
        """The craft, everything on; in its second state the engine runs.

        Args:
            source: what feeds it.
        """
        on = frozenset(x.id for x in self.loads)
        charged = SourceState(open_circuit_v=round(source.open_circuit_v * CHARGED_TIMES, 2))
        states: tuple[Scenario, ...] = (Scenario(id="rested", name="Engine off", on=on),)
        if source.battery != "none":
            states += (
                Scenario(id="engine", name="Engine running", on=on, sources={source.id: charged}),
            )
        kind: CraftKind = self.story.kind
        return Craft(
            kind=kind, nominal_v=self.story.nominal_v, polarity="negative",
            reference=source.back, points=tuple(self.points.values()), sources=(source,),
            pieces=tuple(self.pieces), loads=tuple(self.loads), scenarios=states,
        )  # fmt: skip


def wired(level: Level, story: Story, rng: random.Random) -> Wired:
    """A wiring of a level's kind around the load of a story.

    Args:
        level: what it is to ask for.
        story: whose craft it is.
        rng: where chance comes from: the same seed makes the same.
    """
    drawing = Drawing(rng, story)
    return _KINDS[level](drawing)


def _battery(d: Drawing) -> Source:
    cells = d.story.nominal_v / 12.0
    plus, minus = d.point("open", "Battery +"), d.point("open", "Battery \u2212")
    strong = d.story.amperes > 40
    return Source(
        id="battery", name="Battery", live=plus, back=minus, open_circuit_v=round(12.7 * cells, 2),
        internal_ohm=(0.003 if strong else 0.006) * cells, battery="agm", capacity_ah=110.0,
    )  # fmt: skip


def _one_run(d: Drawing) -> Wired:
    """Fuse, switch, a wire out, a plug, and back."""
    battery, a = _battery(d), d.story.amperes
    plus = d.row(
        battery.live, "feed", a, [CLAMP, ("fuse", d.story.fuse_a), SWITCH, ("wire", 4.0), PIN]
    )
    minus = d.point("open")
    run = d.load(plus, minus)
    d.row(minus, "return", a, [PIN, ("wire", 4.0), RING], battery.back)
    return Wired(d.craft(battery), run)


def _two_sides(d: Drawing) -> Wired:
    """A long way out and a long way back, much of it behind trim."""
    battery, a = _battery(d), d.story.amperes
    feed: list[Spec] = [CLAMP, ISOLATOR, ("wire", 2.0), ("fuse", d.story.fuse_a), SWITCH]
    plus = d.row(battery.live, "feed", a, [*feed, ("wire", 3.0), SPLICE, ("wire", 2.0), PIN])
    minus = d.point("open")
    run = d.load(plus, minus)
    home: list[Spec] = [PIN, ("wire", 2.0), SPLICE, ("wire", 3.0), RING, ("wire", 1.5), CLAMP]
    d.row(minus, "return", a, home, battery.back)
    return Wired(d.craft(battery), run)


def _shared(d: Drawing) -> Wired:
    """Several loads on one feed bar and one return."""
    battery, rng = _battery(d), d.rng
    others = rng.sample(d.story.others, rng.randint(2, len(d.story.others)))
    every = d.story.amperes + sum(a for _, a in others)
    bar = d.row(battery.live, "feed", every, [CLAMP, ISOLATOR, ("wire", 2.0)])
    home = d.point("open")
    d.row(home, "return", every, [RING, ("wire", 2.0), CLAMP], battery.back)
    a = d.story.amperes
    plus = d.row(bar, "feed", a, [("fuse", d.story.fuse_a), SWITCH, ("wire", 3.0), PIN])
    minus = d.point("open")
    run = d.load(plus, minus)
    d.row(minus, "return", a, [PIN, ("wire", 2.5)], home)
    for name, amperes in others:
        end = d.row(bar, "feed", amperes, [("fuse", 10.0), ("wire", 3.0)])
        back = d.point()
        d.other(name, amperes, end, back)
        d.row(back, "return", amperes, [("wire", 2.0)], home)
    return Wired(d.craft(battery), run)


def _relayed(d: Drawing) -> Wired:
    """A relay in its socket near the load; its coil is switched far away."""
    battery, a = _battery(d), d.story.amperes
    plus = d.row(battery.live, "feed", a, [CLAMP, ("fuse", d.story.fuse_a), ("wire", 3.0), PIN])
    relayed = d.row(plus, "feed", a, [CONTACT])
    contact = d.pieces[-1].id
    fed = d.row(relayed, "feed", a, [PIN, ("wire", 1.0)])
    minus = d.point("open")
    run = d.load(fed, minus)
    home = d.row(minus, "return", a, [PIN, ("wire", 3.0), RING])
    d.row(home, "return", a, [CLAMP], battery.back)
    coil_plus = d.row(battery.live, "feed", COIL_A, [("fuse", 3.0), SWITCH, ("wire", 4.0), PIN])
    coil_minus = d.point("backprobe")
    coil = d.other("Relay coil", COIL_A, coil_plus, coil_minus)
    d.row(coil_minus, "return", COIL_A, [PIN, ("wire", 0.5)], home)
    return Wired(d.craft(battery), run, {contact: coil})


def _strong(d: Drawing) -> Wired:
    """A large motor that runs for seconds; or a bank and what charges it."""
    if d.story.duty == "charging":
        return _charged(d)
    battery, a = _battery(d), d.story.amperes
    plus = d.row(
        battery.live, "feed", a,
        [CLAMP, ("fuse", d.story.fuse_a), ("wire", 1.2), ISOLATOR, RING, ("wire", 1.5), RING],
    )  # fmt: skip
    minus = d.point("open")
    run = d.load(plus, minus)
    d.row(minus, "return", a, [RING, ("wire", 1.2), RING, ("wire", 1.0), CLAMP], battery.back)
    return Wired(d.craft(battery), run)


def _charged(d: Drawing) -> Wired:
    cells, a = d.story.nominal_v / 12.0, d.story.amperes
    live, back = d.point("open", "Generator +"), d.point("open", "Generator \u2212")
    source = Source(
        id="generator", name="Generator", live=live, back=back,
        open_circuit_v=round(14.6 * cells, 2), internal_ohm=0.012 * cells,
    )  # fmt: skip
    plus = d.row(
        live, "feed", a, [RING, ("wire", 0.8), ("fuse", d.story.fuse_a), ("wire", 0.8), RING, CLAMP]
    )
    minus = d.point("open")
    run = d.load(plus, minus)
    d.row(minus, "return", a, [CLAMP, ("wire", 0.8), RING], back)
    return Wired(d.craft(source), run)


def _loom(d: Drawing) -> Wired:
    """A loom nobody has drawn, but for what is seen of it."""
    battery, a = _battery(d), d.story.amperes
    plus = d.row(battery.live, "feed", a, [LOOM, ("fuse", d.story.fuse_a), LOOM, SWITCH, LOOM])
    minus = d.point("open")
    run = d.load(plus, minus)
    d.row(minus, "return", a, [LOOM, RING, LOOM], battery.back)
    return Wired(d.craft(battery), run)


def _any(d: Drawing) -> Wired:
    return d.rng.choice((_one_run, _two_sides, _shared))(d)


_KINDS: Mapping[Level, Callable[[Drawing], Wired]] = {
    1: _one_run, 2: _two_sides, 3: _shared, 4: _relayed, 5: _strong, 6: _loom, 7: _any,
}  # fmt: skip
