"""Columns of figures, and lists, in which single entries are exchanged."""

from collections import deque
from collections.abc import Sequence
from itertools import compress
from operator import is_not
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
T = TypeVar("T")
Entries = TypeVar("Entries", NDArray[np.float64], NDArray[np.bool_], NDArray[np.str_])


def with_others(column: Entries, at: Sequence[int], others: Entries) -> Entries:
    """A column (or rows) with others at these places; the one that is given stays as it is.

    >>> with_others(np.array([1.0, 2.0, 3.0]), [1], np.array([9.0]))
    array([1., 9., 3.])
    """
    made = column.copy()
    made[list(at)] = others
    return made


def exchanged(olds: Sequence[T], news: Sequence[T]) -> list[tuple[int, T, T]]:
    """Where two lists of one length hold another thing: the place, what was there, what is there now.

    >>> exchanged(["a", "b", "c"], ["a", "x", "c"])
    [(1, 'b', 'x')]
    """
    for before, after, found in tuple(_exchanged_lately):
        if before is olds and after is news:
            return found
    rows = zip(range(len(olds)), olds, news, strict=True)
    made = list(compress(rows, map(is_not, olds, news)))
    if isinstance(olds, tuple) and isinstance(news, tuple):
        _exchanged_lately.append((olds, news, made))
    return made


_exchanged_lately: deque[tuple[Any, Any, list[Any]]] = deque(maxlen=8)
"""Tuples that were compared lately: whoever works out a change compares the same two again and again."""
