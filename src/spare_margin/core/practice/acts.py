"""What a learner does at a craft, one act after the other, and what he concludes."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen

from spare_margin.core.model.pieces import FixedKind, PieceKind
from spare_margin.core.model.values import Id, IdOrNone

ActKind = Literal[
    "noted", "volts", "amperes", "lamp", "ohms", "zero", "command", "contact", "engine", "power",
    "wait", "join", "unjoin", "stand_in", "conclude", "hand_over",
]  # fmt: skip
MEASURING: frozenset[ActKind] = frozenset({"volts", "amperes", "lamp", "ohms"})
"""Acts in which something is laid on the craft."""
Commanded = Literal["", "running", "off", "unplugged", "open", "closed", "on"]
ClaimKind = Literal["resistance", "open", "loose", "weak", "load"]
"""Takes too many volts, or is open; is bad only while moved or warm; a weak source; the load itself."""
Remedy = Literal["remade", "replaced"]
ActRange = Annotated[float, Ge(0.06), Le(1000)] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """One thing said to be wrong, and what is done about it: `element` is a piece, a load or a source."""

    element: Id
    kind: ClaimKind
    remedy: Remedy = "replaced"


@dataclass(frozen=True, slots=True, kw_only=True)
class Act:
    """One act.

    Leads go on `red` and `black`; `range_v` is the range the meter's switch stands on (None: it chooses).
    With `moved` a piece is wiggled while the meter keeps least and most; with `start` they are kept over a
    start. `element` is a load, a contact, or what the clamp is round, `state` what it is told to do.
    `minutes` is how long is waited with the load on. A conclusion without `claims` says that all is well.
    """

    kind: ActKind
    red: IdOrNone = ""
    black: IdOrNone = ""
    range_v: ActRange = None
    moved: IdOrNone = ""
    start: bool = False
    element: IdOrNone = ""
    state: Commanded = ""
    minutes: Annotated[float, Ge(0), Le(60)] = 0.0
    claims: Annotated[tuple[Claim, ...], MaxLen(12)] = ()


# What acts cost

REACH_MIN = {"open": 0.5, "backprobe": 1.5, "trim": 6.0}
"""Minutes to get a lead onto a point; trim comes off once."""
READ_MIN, CLAMP_MIN, ZERO_MIN = 0.5, 1.5, 0.25
MOVED_MIN, START_MIN = 0.75, 0.5
COMMAND_MIN, UNPLUG_MIN, CONTACT_MIN, ENGINE_MIN = 0.25, 1.0, 0.25, 1.0
POWER_MIN, JOIN_MIN, UNJOIN_MIN, STAND_IN_MIN = 2.0, 2.0, 0.5, 3.0
SOURCE_MIN, LOAD_MIN = 20.0, 15.0
SOURCE_PRICE, LOAD_PRICE = 120.0, 85.0
WIRE_MIN_M, WIRE_PRICE_M = 4.0, 2.5
"""A wire that is replaced, by its metre."""
REPLACED: dict[FixedKind, tuple[float, float]] = {
    "joint": (8.0, 3.0), "fuse": (5.0, 6.0), "breaker": (12.0, 25.0), "switch": (15.0, 14.0),
    "relay_contact": (4.0, 16.0), "body_return": (10.0, 4.0), "resistor": (10.0, 8.0),
    "unknown": (45.0, 20.0),
}  # fmt: skip
"""Minutes and price of replacing a piece: made up, to weigh one way against another."""
REMADE_MIN = 5.0
"""A joint or an earth cleaned and made again."""
REMADE: frozenset[PieceKind] = frozenset({"joint", "body_return", "fuse"})
"""What can be cleaned and made again: a joint, an earth, the contacts of a fuse."""
