"""What a solved scenario says: V at every point, and the state of every element when it is asked for."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple


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


class ElementStates(Mapping[str, ElementState]):
    """The state of every element by its id, told when it is asked for."""

    def __init__(
        self,
        ids: Iterable[str],
        tell: Callable[[str], ElementState],
        current_a: Callable[[str], float],
    ) -> None:
        self._ids, self._tell = dict.fromkeys(ids), tell
        self.current_a = current_a
        """What one element carries (A, from start to end), without the rest of its state."""
        self._told: dict[str, ElementState] = {}

    def __getitem__(self, key: str) -> ElementState:
        told = self._told.get(key)
        if told is None:
            if key not in self._ids:
                raise KeyError(key)
            told = self._told[key] = self._tell(key)
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
        """What a meter with its leads on these two points shows; None if a lead hangs loose."""
        first, second = self.nodes[red], self.nodes[black]
        return None if first is None or second is None else first - second
