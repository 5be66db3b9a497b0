"""What can be wrong, as values of one small family: the place, the trouble, what is accepted."""

import numpy as np


class SpareMarginError(Exception):
    """The base of every error this package raises on purpose."""


class JobError(SpareMarginError):
    """Something in a job is wrong.

    Args:
        path: where, as `elements[3].length_m`; empty for the whole job.
        problem: what is wrong, as a sentence part.
        accepted: what would be accepted; may be empty.
    """

    def __init__(self, path: str, problem: str, accepted: str = "") -> None:
        self.path = path
        self.problem = problem
        self.accepted = accepted
        super().__init__(self.sentence())

    def sentence(self) -> str:
        """The error as one line a person can act on."""
        where = f"{self.path}: " if self.path else ""
        wanted = f"; accepted: {self.accepted}" if self.accepted else ""
        return f"{where}{self.problem}{wanted}"


class NoSolution(SpareMarginError):
    """A constant-power load that the loop cannot feed: it would stall or drop out.

    Args:
        load_id: the load's id.
        name: the load's name as people know it.
        loop_ohm: the resistance of its loop, source included, as the load sees it.
        most_ohm: the resistance that would just carry its power.
    """

    def __init__(
        self,
        load_id: str,
        name: str,
        loop_ohm: float | None = None,
        most_ohm: float | None = None,
    ) -> None:
        self.load_id = load_id
        self.name = name
        self.loop_ohm = loop_ohm
        self.most_ohm = most_ohm
        more = ""
        if loop_ohm is not None and most_ohm is not None:
            more = f" ({_plain(loop_ohm)} ohm; at most {_plain(most_ohm)} ohm would just carry it)"
        super().__init__(
            f"load {load_id} ({name}) would stall or drop out: "
            f"the loop is too resistive to carry its power at any voltage{more}"
        )


def _plain(value: float) -> str:
    """Three digits that count, without powers of ten."""
    return np.format_float_positional(value, precision=3, fractional=False, trim="-")
