"""What a solved scenario says: V at every point, and the state of every element when it is asked for."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple, Protocol

from spare_margin.core.columns import Floats


class ElementState(NamedTuple):
    """What one element does: A and V from start to end, W, ohm, and a conductor's degrees C.

    `drop_v` is None where an end is connected to nothing; `resistance_ohm` is None for what
    carries nothing.
    """

    current_a: float
    drop_v: float | None
    power_w: float
    resistance_ohm: float | None
    temperature_c: float | None


class Teller(Protocol):
    """Knows what the elements of one solved craft do."""

    def read(self, key: str) -> ElementState:
        """The state of the element of this id.

        Args:
            key: the id of the element.
        """

    def current_a(self, key: str) -> float:
        """What the element of this id carries (A, from start to end).

        Args:
            key: the id of the element.
        """

    def piece_currents(self) -> Floats:
        """What each piece carries (A)."""

    def piece_drops(self) -> Floats:
        """What each piece drops (V)."""


class ElementStates(Mapping[str, ElementState]):
    """The state of every element by its id, told when it is asked for.

    Args:
        ids: the ids of the elements.
        teller: what tells the state of one.
    """

    def __init__(self, ids: Iterable[str], teller: Teller) -> None:
        self._ids, self._teller = dict.fromkeys(ids), teller
        self._told: dict[str, ElementState] = {}

    def current_a(self, key: str) -> float:
        """What one element carries (A, from start to end), without the rest of its state.

        Args:
            key: the id of the element.
        """
        return self._teller.current_a(key)

    @cached_property
    def piece_currents_a(self) -> Floats:
        """What each piece of the craft carries (A), in the order in which it was drawn."""
        return self._teller.piece_currents()

    @cached_property
    def piece_drops_v(self) -> Floats:
        """What each piece of the craft drops (V), in that order; 0 where an end hangs loose."""
        return self._teller.piece_drops()

    def __getitem__(self, key: str) -> ElementState:
        told = self._told.get(key)
        if told is None:
            if key not in self._ids:
                raise KeyError(key)
            told = self._told[key] = self._teller.read(key)
        return told

    def __iter__(self) -> Iterator[str]:
        return iter(self._ids)

    def __len__(self) -> int:
        return len(self._ids)


@dataclass(frozen=True, slots=True)
class Solution:
    """A solved scenario: V by test point against the reference (None: connected to nothing)."""

    scenario: str
    nodes: Mapping[str, float | None]
    elements: ElementStates
    source_current_a: dict[str, float]
    starved: frozenset[str]
    """Loads that are on but get no more than a whiff of voltage: an open loop."""

    def volts(self, red: str, black: str) -> float | None:
        """What a meter with its leads on these two points shows; None if a lead hangs loose.

        Args:
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
        """
        first, second = self.nodes[red], self.nodes[black]
        return None if first is None or second is None else first - second
