"""Columns of figures, and lists, in which single entries are differing."""

from collections.abc import Sequence
from typing import TypeVar

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


def differing(olds: Sequence[T], news: Sequence[T]) -> list[tuple[int, T, T]]:
    """Where two lists of one length hold another thing: the place, what was there, what is there now.

    Args:
        olds: what was there.
        news: what is there now.

    >>> differing(["a", "b", "c"], ["a", "x", "c"])
    [(1, 'b', 'x')]
    """
    rows = zip(range(len(olds)), olds, news, strict=True)
    return [row for row in rows if row[1] is not row[2]]
