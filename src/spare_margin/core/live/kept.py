"""What is kept of meters over hours: around what happened all of it, elsewhere the least and the most."""

from array import array
from collections import deque
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.model.values import Seconds

AROUND_S: Seconds = 10.0
"""All is kept for so long before and after what happened."""
MOST_STRETCHES = 600
"""Where nothing happened the time is parted into at most so many stretches; then each is twice as long."""
FIRST_STRETCH_S: Seconds = 2.0
MOST_WHOLE = 200_000
"""Samples that are kept as they are; beyond that only the least and the most."""

Row = tuple[float, int, float]
"""When (s), of which channel, what it showed (SI)."""
WIDTH = 3


@dataclass
class Kept:
    """Takes samples, oldest first, and keeps a bounded part of them.

    With `all_of_it` everything is kept, until that is too much.
    """

    all_of_it: bool = False
    _recent: deque[Row] = field(default_factory=deque)
    _whole: "array[float]" = field(default_factory=lambda: array("d"))
    _until_s: float = float("-inf")
    _from_s: float = float("inf")
    _stretch_s: float = FIRST_STRETCH_S
    _ends: dict[tuple[int, int], tuple[Row, Row]] = field(default_factory=dict)

    @property
    def is_full(self) -> bool:
        """Whether no more samples are kept as they are."""
        return len(self._whole) >= MOST_WHOLE * WIDTH

    def add(self, at_s: Seconds, channel: int, value: float) -> None:
        """Keep a sample.

        Args:
            at_s: when it was shown (s), not before the last one.
            channel: whose it is.
            value: what was shown (SI).
        """
        self._recent.append((at_s, channel, value))
        while self._recent and self._recent[0][0] < at_s - AROUND_S:
            self._file(self._recent.popleft())

    def happened(self, at_s: Seconds) -> None:
        """Keep all there is around a moment.

        Args:
            at_s: the moment (s).
        """
        if at_s - AROUND_S > self._until_s:
            self._from_s = at_s - AROUND_S
        self._until_s = at_s + AROUND_S

    def rows(self) -> NDArray[np.float64]:
        """What is kept, oldest first: when (s), of which channel, what it showed (SI), of shape (n, 3)."""
        ends = sorted({row for pair in self._ends.values() for row in pair})
        parts = [
            np.array(part, dtype=np.float64).reshape(-1, WIDTH) for part in (ends, self._recent)
        ]
        # Nearly all of an hour's trace, as plain figures: of rows it took a quarter of a second each time.
        whole = np.array(self._whole).reshape(-1, WIDTH)
        table = np.concatenate([parts[0], whole, parts[1]])
        return table if not ends else table[np.argsort(table[:, 0], kind="stable")]

    def _file(self, row: Row) -> None:
        whole = self.all_of_it or self._from_s <= row[0] <= self._until_s
        if whole and not self.is_full:
            self._whole.extend(row)
            return
        self._fold(row)
        while len(self._ends) > MOST_STRETCHES:
            self._stretch_s *= 2
            pairs, self._ends = list(self._ends.values()), {}
            for pair in pairs:
                for each in pair:
                    self._fold(each)

    def _fold(self, row: Row) -> None:
        if row[2] != row[2]:
            return  # what is no number is neither the least nor the most
        key = int(row[0] // self._stretch_s), row[1]
        low, high = self._ends.get(key, (row, row))
        self._ends[key] = min(low, row, key=_value), max(high, row, key=_value)


def _value(row: Row) -> float:
    return row[2]
