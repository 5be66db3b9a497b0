"""What a craft is made of: test points joined by pieces, sources, loads and scenarios.

All values are frozen, their bounds stand in their types. Units are SI, lengths in metres, areas in mm2,
temperatures in degrees C.
"""

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, Literal, TypeVar

from annotated_types import Ge, Gt, Le

from spare_margin.core.model.values import Amperes, Celsius, Id, Metres, Name, Ohm, Volts

STARTER = re.compile(r"\bstarter\b|\bengine start|\bcrank", re.I)
Access = Literal["open", "backprobe", "trim"]
Battery = Literal["flooded", "agm", "lithium", "none"]
CraftKind = Literal["boat", "vehicle", "caravan", "other"]
Duty = Literal["control_supply", "charging", "ordinary", "short_time"]
FixedKind = Literal[
    "joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor", "unknown"
]
PieceKind = Literal[
    "conductor", "joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor",
    "unknown",
]  # fmt: skip
ContactState = Literal["open", "closed"]
CONTACTS: tuple[FixedKind, ...] = ("switch", "breaker", "relay_contact")
"""Kinds of pieces that a scenario may open or close."""
LoadLaw = Literal["constant_current", "constant_resistance", "constant_power", "filament"]
Polarity = Literal["negative", "positive", "none"]
Repair = Literal["cleaned", "remade", "replaced"]
Side = Literal["feed", "return"]
SIDES: tuple[Side, Side] = ("feed", "return")
TemperatureModel = Literal["ambient", "self_heating"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TestPoint:
    """A place a lead can touch; `access` says what it costs to get there.

    A point without a name of its own is called after the pieces that meet there.
    """

    __test__ = False  # not a pytest class

    id: Id
    name: Name = ""
    access: Access = "open"


OFF_OHM = 1e6
"""A source behind this much gives nothing: it is off."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """An open-circuit voltage (V) behind an internal resistance (ohm), between two test points.

    `live` is the switched, fused side whatever the polarity; volts are counted from `back` up to it.
    `battery` is its kind (none: a charger, a supply), `capacity_ah` its size.
    """

    id: Id
    name: Name = ""
    live: Id
    back: Id
    open_circuit_v: Annotated[float, Ge(0.1), Le(1000)]
    internal_ohm: Ohm
    battery: Battery = "none"
    capacity_ah: Annotated[float, Gt(0), Le(10000)] | None = None

    @property
    def off(self) -> bool:
        """Whether it gives nothing."""
        return self.internal_ohm >= OFF_OHM


AUTO = "auto"
"""The value of a size that is still to be chosen."""


@dataclass(frozen=True, slots=True)
class Size:
    """A conductor size as sold: `system` mm2, mm2-road or awg, `value` as printed, `finish`."""

    system: Name
    value: Name
    finish: Name = "plain"


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """Anything the current passes except a load: carries current from `start` to `end` if positive.

    `resistance_ohm`, when given, rules over every table. `repair` records what was done to it.
    `pinned_v` is an allowance (V) that a person fixed; the rest of the side is shared out around it.
    """

    id: Id
    name: Name = ""
    start: Id
    end: Id
    side: Side
    resistance_ohm: Ohm | None = None
    open: bool = False
    repair: Repair | None = None
    pinned_v: Annotated[float, Gt(0), Le(100)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor(Piece):
    """A length of wire: `length_m` (0: nobody knows it), and a table `size` or `ohm_per_m` at 20 C.

    `engine_space` says that it runs where a scenario may be hot; `bundle` is how many loaded conductors
    lie together, itself among them; `unsupported` that it hangs free between supports. Conductors with
    the same `cable` are the wires of one cable, and of one size.
    """

    kind: Literal["conductor"] = "conductor"
    length_m: Metres = 0.0
    size: Size | None = None
    ohm_per_m: Annotated[float, Gt(0), Le(1000)] | None = None
    insulation_c: Annotated[float, Ge(40), Le(300)] | None = None
    temperature_c: Celsius | None = None
    engine_space: bool = False
    bundle: Annotated[int, Ge(1), Le(500)] = 1
    unsupported: bool = False
    cable: Name = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedPiece(Piece):
    """A piece whose resistance does not come with length: joint, fuse, switch, chassis path ...

    `style` picks a row of the shipped tables, `rating_a` a fuse's or breaker's.
    """

    kind: FixedKind
    style: Name | None = None
    rating_a: Amperes | None = None


AnyPiece = Conductor | FixedPiece


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """What the volts are for. `start` is its feed terminal, `end` its return terminal.

    `current_a` for constant_current; `load_ohm`, or `power_w` with `rated_v`, for
    constant_resistance; `power_w` for constant_power; `power_w` with `rated_v` for filament.
    Without a behaviour nobody knows what it draws. `critical` is one that must not fail: navigation,
    a bilge pump, a main feed.
    """

    id: Id
    name: Name = ""
    start: Id
    end: Id
    kind: Literal["load"] = "load"
    behaviour: LoadLaw | None = None
    current_a: Amperes | None = None
    load_ohm: Annotated[float, Gt(0), Le(1e6)] | None = None
    power_w: Annotated[float, Gt(0), Le(1e5)] | None = None
    rated_v: Volts | None = None
    start_multiple: Annotated[float, Ge(1), Le(20)] | None = None
    least_v: Volts | None = None
    duty: Duty = "ordinary"
    critical: bool = False

    @property
    def is_starter(self) -> bool:
        """Whether it starts an engine, by what people call it."""
        return self.duty == "short_time" and bool(STARTER.search(self.name))


@dataclass(frozen=True, slots=True)
class SourceState:
    """What a scenario changes in a source; None keeps the source's own figure."""

    open_circuit_v: Volts | None = None
    internal_ohm: Ohm | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenario:
    """A state of the craft: which loads are on, the sources' state, the air around the wires.

    `starting` loads draw their start multiple; `contacts` are switches, breakers and relay contacts
    that stand otherwise than they are drawn; `engine_c` is the air around what runs in the
    engine space, where that is hotter than the rest.
    """

    id: Id
    name: Name = ""
    sources: Mapping[Id, SourceState] = field(default_factory=dict)
    on: frozenset[Id]
    ambient_c: Celsius = 20.0
    temperature_model: TemperatureModel = "ambient"
    starting: frozenset[Id] = frozenset()
    engine_c: Celsius | None = None
    contacts: Mapping[Id, ContactState] = field(default_factory=dict)

    def is_open(self, piece: Piece) -> bool:
        """Whether a contact stands open in this scenario, over what is drawn.

        Args:
            piece: the piece.
        """
        state = self.contacts.get(piece.id)
        return piece.open if state is None else state == "open"

    def source(self, source: Source) -> Source:
        """A source of the craft as it stands in this scenario."""
        state = self.sources.get(source.id)
        if state is None:
            return source
        volts, ohm = state.open_circuit_v, state.internal_ohm
        return replace(
            source,
            open_circuit_v=source.open_circuit_v if volts is None else volts,
            internal_ohm=source.internal_ohm if ohm is None else ohm,
        )


@dataclass(frozen=True, kw_only=True)
class Craft:
    """A whole wiring: every list in the order it was drawn; ids unique within their list."""

    kind: CraftKind
    nominal_v: float
    polarity: Polarity
    reference: str
    points: tuple[TestPoint, ...]
    sources: tuple[Source, ...]
    pieces: tuple[Conductor | FixedPiece, ...]
    loads: tuple[Load, ...]
    scenarios: tuple[Scenario, ...]

    def scenario(self, scenario_id: str | None = None) -> Scenario:
        """The scenario with this id, the first one by default. KeyError if there is none.

        Args:
            scenario_id: the id of the scenario.
        """
        if scenario_id is None:
            return self.scenarios[0]
        return next_with_id(self.scenarios, scenario_id)

    def used_in(self, load_id: str | None) -> Scenario:
        """The first scenario in which a load is on (any, without an id); the first of all where none is.

        Args:
            load_id: the id of the load.
        """
        on = (s for s in self.scenarios if (s.on if load_id is None else load_id in s.on))
        return next(on, self.scenarios[0])

    def point(self, point_id: str) -> TestPoint:
        """The test point with this id. KeyError if there is none.

        Args:
            point_id: the id of the test point.
        """
        return self._points[point_id]

    @cached_property
    def _points(self) -> Mapping[str, TestPoint]:
        return {point.id: point for point in self.points}

    @cached_property
    def touching(self) -> Counter[str]:
        """How many ends of pieces, loads and sources meet at each test point; 0 where none does."""
        ends = [end for e in (*self.pieces, *self.loads) for end in (e.start, e.end)]
        return Counter(ends + [post for s in self.sources for post in (s.live, s.back)])

    def takes_joints_of(self, other: "Craft") -> None:
        """Take over which ends meet where from one that joins the same points with the same elements.

        Args:
            other: the other craft.
        """
        self.__dict__["touching"] = other.touching
        if self.points is other.points:
            self.__dict__["_points"] = other._points

    def beside(self, point_id: str) -> tuple[AnyPiece | None, AnyPiece | None]:
        """The first piece that was drawn to a test point, and the first that was drawn from it.

        Args:
            point_id: the id of the test point.
        """
        to, away = self._first
        return to.get(point_id), away.get(point_id)

    @cached_property
    def _first(self) -> tuple[Mapping[str, AnyPiece], Mapping[str, AnyPiece]]:
        last_first = self.pieces[::-1]
        return {p.end: p for p in last_first}, {p.start: p for p in last_first}

    def load(self, load_id: str) -> Load:
        """The load with this id. KeyError if there is none.

        Args:
            load_id: the id of the load.
        """
        return self._loads[load_id]

    @cached_property
    def _loads(self) -> Mapping[str, Load]:
        return {load.id: load for load in self.loads}


Named = TypeVar("Named", Load, Scenario)


def next_with_id(things: tuple[Named, ...], wanted: str) -> Named:
    """The thing whose id is `wanted`. KeyError if there is none.

    Args:
        things: what to look through.
    """
    for thing in things:
        if thing.id == wanted:
            return thing
    raise KeyError(wanted)


def undrawn(piece: Conductor | FixedPiece) -> bool:
    """Whether nobody has said what the piece's ohms could be told from.

    An unknown stretch, a wire without length or size, a fuse or breaker whose rating nobody could read: it
    is judged by what is read of it, and asked for only where something needs it.

    >>> undrawn(Conductor(id="w", start="a", end="b", side="feed", length_m=3.0))
    True
    """
    if isinstance(piece, FixedPiece) and piece.kind == "unknown":
        return True
    if piece.resistance_ohm is not None:
        return False
    if isinstance(piece, Conductor):
        return piece.length_m <= 0 or (piece.size is None and piece.ohm_per_m is None)
    return piece.kind in ("fuse", "breaker") and piece.rating_a is None


def to_be_sized(piece: Conductor | FixedPiece) -> bool:
    """Whether the piece's size is still to be chosen: a wire with a length only, a fuse without a rating.

    >>> to_be_sized(Conductor(id="w", start="a", end="b", side="feed", length_m=3.0))
    True
    >>> to_be_sized(Conductor(id="w", start="a", end="b", side="feed"))
    False
    """
    if piece.resistance_ohm is not None:
        return False
    if isinstance(piece, Conductor):
        return piece.length_m > 0 and piece.size is None and piece.ohm_per_m is None
    return piece.kind in ("fuse", "breaker") and piece.rating_a is None
