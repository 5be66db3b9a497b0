"""What a workshop has to build with: wire by the metre, parts by the piece, relays."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from spare_margin.core.model.pieces import Load, Size

Suppression = Literal["none", "resistor", "diode"]


@dataclass(frozen=True, slots=True)
class Part:
    """What a part costs, and the minutes that fitting one takes."""

    price: float
    minutes: float


@dataclass(frozen=True, slots=True)
class Relay:
    """A relay: its coil (V, ohm, at 20 C), when it pulls in and drops out (V), what its contact bears (A).

    `contact_a` is for a resistive load; motors and lamps take a multiple of their current when they start,
    so that a contact bears less of them.
    """

    name: str
    coil_v: float
    coil_ohm: float
    pull_in_v: float
    drop_out_v: float
    contact_a: float
    motor_a: float
    lamp_a: float
    suppression: Suppression
    changeover: bool
    price: float

    def bears_a(self, load: Load) -> float:
        """The running current (A) of a load of this kind that the contact bears."""
        if load.behaviour == "filament":
            return self.lamp_a
        if (load.start_multiple or 1.0) > 1.0 or load.duty == "short_time":
            return self.motor_a
        return self.contact_a


@dataclass(frozen=True, slots=True)
class Stock:
    """Wire with its price a metre (None: not said), parts by (kind, style), relays by name.

    A part without a style stands for every style of its kind that has no row of its own.
    """

    wire: Mapping[Size, float | None]
    parts: Mapping[tuple[str, str], Part]
    relays: Mapping[str, Relay]

    def part(self, kind: str, style: str = "") -> Part:
        """What a part of a kind costs; nothing where nobody said.

        Args:
            style: its style, as the tables have it.
        """
        return self.parts.get((kind, style)) or self.parts.get((kind, "")) or Part(0.0, 0.0)
