"""What flows through every piece of a craft: for long, at most, and while a load starts."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.pieces import Load

START_S = 0.5
"""How long a motor's start is taken to last (an estimate; a heavy load takes longer)."""
INRUSH_TIMES, INRUSH_S = 10.0, 0.05
"""A cold filament draws about ten times its current, for so long."""
TYPICAL_START_TIMES = 4.0
"""How many times its current a short-time motor draws in a start where nobody said: 3 to 5 is typical."""


@dataclass(frozen=True)
class Currents:
    """What flows through every piece (A): the most for long, the most at all, the most in a start."""

    lasting: Mapping[str, float]
    running: Mapping[str, float]
    starting: Mapping[str, tuple[float, float]]
    """By piece, the most that flows while a load starts, and for how long (s)."""
    advised: Mapping[str, tuple[float, float]]
    """The same for advice: a short-time motor whose start nobody said is given a typical one."""
    lasting_in: Sequence[Mapping[str, float]]
    """By solution, what flows through every piece for long (A)."""


def currents_of(runs: Mapping[str, Run], solutions: Sequence[Solution]) -> Currents:
    """The currents of a craft over all its scenarios.

    A start adds what the load draws more to what flows; the volts then sag, so that this is the most. Loads
    of short time do not count among what flows for long.

    Args:
        runs: the runs, by load id.
        solutions: the craft solved in each of its scenarios.
    """
    lasting: dict[str, float] = {}
    running: dict[str, float] = {}
    starting: dict[str, tuple[float, float]] = {}
    advised: dict[str, tuple[float, float]] = {}
    lasting_in: list[dict[str, float]] = []
    for solution in solutions:
        here: dict[str, float] = {}
        lasting_in.append(here)
        current = solution.elements.current_a
        brief: dict[str, float] = {}
        for key, run in runs.items():
            amperes = abs(current(key))
            if run.load.duty == "short_time":
                for step in run.steps():
                    brief[step.piece.id] = brief.get(step.piece.id, 0.0) + amperes
        for key, run in runs.items():
            amperes = abs(current(key))
            if not amperes:
                continue
            for step in run.steps():
                piece = step.piece.id
                flows = abs(current(piece))
                running[piece] = max(running.get(piece, 0.0), flows)
                lasts = max(flows - brief.get(piece, 0.0), 0.0)
                lasting[piece] = max(lasting.get(piece, 0.0), lasts)
                here[piece] = lasts
                for held, (times, seconds) in (
                    (starting, start_of(run.load)), (advised, advised_start_of(run.load)),
                ):  # fmt: skip
                    if times > 1.0:
                        most = (flows + (times - 1.0) * amperes, seconds)
                        held[piece] = max(held.get(piece, (0.0, 0.0)), most)
    return Currents(lasting, running, starting, advised, lasting_in)


def start_of(load: Load) -> tuple[float, float]:
    """How many times its current a load draws while it starts, and for how long (s).

    >>> motor = Load(id="l", start="a", end="b", name="Winch", start_multiple=4.0)
    >>> start_of(motor)[0]
    4.0
    """
    if load.behaviour == "filament":
        return INRUSH_TIMES, INRUSH_S
    return load.start_multiple or 1.0, START_S


def advised_start_of(load: Load) -> tuple[float, float]:
    """The start that a new fuse must carry: as said, else a typical one for a motor of short time.

    Args:
        load: the load.

    >>> winch = Load(id="l", start="a", end="b", name="Winch", duty="short_time")
    >>> advised_start_of(winch)
    (4.0, 0.5)
    """
    if load.duty == "short_time" and load.start_multiple is None and load.behaviour != "filament":
        return TYPICAL_START_TIMES, START_S
    return start_of(load)
