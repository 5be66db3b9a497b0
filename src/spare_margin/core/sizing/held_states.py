"""Every ceiling in every state as one line of a linear programme, in units of what it allows.

A line says: the volts that the wiring takes from a load, as they depend on the sizes, are no more than
a ceiling leaves. Where a load draws by its volts, its current is between two bounds that hold for every
choice that keeps the ceilings; a line is made with the lower one, so that no choice that really keeps
its ceiling is lost. Whether one that keeps the line keeps the ceiling is then seen by solving it.
"""

from collections.abc import Iterator, Mapping, Sequence

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.pieces import SIDES, Load, Scenario, Side, Size

from .bounded import BoundedState
from .lines import LimitLine, LimitLines, NotATree, Under
from .task import Task, Unit


def held_states(task: Task) -> Iterator[tuple[Scenario, str | None]]:
    """Every scenario, and every start of a motor in it beside a load that needs its volts.

    Args:
        task: what is to be sized, and what it is held to.
    """
    for scenario in task.craft.scenarios:
        yield scenario, None
        on = [x for x in task.craft.loads if x.id in scenario.on]
        if task.least and any(x.least_v is not None for x in on if x.id in task.ceilings):
            motors = [
                x for x in on if (x.start_multiple or 1.0) > 1.0 and x.id not in scenario.starting
            ]
            # A motor of the runs that are looked at moves them most; then the largest of the others.
            motors.sort(key=lambda x: (x.id not in task.ceilings, -_start_more(x, task)))
            for load in motors[: task.starts]:
                yield scenario, load.id


def _start_more(load: Load, task: Task) -> float:
    """What a load draws more than its running current while it starts (A)."""
    times = (load.start_multiple or 1.0) - 1.0
    return times * rated_current_a(load, task.craft.nominal_v)


def lines_of(task: Task, units: Sequence[Unit]) -> LimitLines:
    """The lines of a task over its units: every choice that keeps the ceilings keeps them.

    Sizes that cannot bear the least current they may carry are left out of the units.

    Raises NotATree where currents part by the sizes (ways side by side, several sources, loads one
    behind the other).
    """
    thick = task.sized({w.id: u.sizes[-1] for u in units for w in u.wires})
    runs = task.runs(thick)
    _check_tree(task, runs, units)
    kept = list(units)
    drawn: list[BoundedState] = []
    steady: dict[str, BoundedState] = {}
    for scenario, motor in held_states(task):
        if motor is None:
            solved = task.solved(thick, scenario)
            state = steady[scenario.id] = BoundedState(task, solved, runs, kept)
        else:
            state = steady[scenario.id].while_starting(motor)
        state.bound_currents()
        drawn.append(state)
        if task.ampacity and motor is None:
            kept = [
                unit.only(i for i, size in enumerate(unit.sizes) if state.bears(unit, size))
                for unit in kept
            ]
    exact = all(state.exact for state in drawn)
    if not all(unit.sizes for unit in kept):
        return LimitLines((), tuple(kept), exact)
    return LimitLines(_of(drawn, kept), tuple(kept), exact)


def lines_near(
    task: Task, units: Sequence[Unit], sizes: Mapping[str, Size]
) -> tuple[LimitLine, ...]:
    """The lines with the currents that flow under one choice: near it they are nearly the law.

    Args:
        task: what is to be sized, and what it is held to.
        units: the conductors that change size together.
        sizes: a size for each free conductor, by its id.

    Raises NoSolution where a load gets none under that choice.
    """
    craft = task.sized(sizes)
    runs = task.runs(craft)
    drawn = []
    steady: dict[str, BoundedState] = {}
    for scenario, motor in held_states(task):
        if motor is None:
            solved = task.solved(craft, scenario)
            state = steady[scenario.id] = BoundedState(task, solved, runs, units)
        else:
            state = steady[scenario.id].while_starting(motor)
        state.take_currents()
        drawn.append(state)
    return _of(drawn, units)


def _of(drawn: Sequence[BoundedState], units: Sequence[Unit]) -> tuple[LimitLine, ...]:
    return tuple(_telling([line for state in drawn for line in state.lines(units)]))


def _check_tree(task: Task, runs: Mapping[str, Run], units: Sequence[Unit]) -> None:
    """Every free conductor must carry the sum of its loads, the same way round for all of them."""
    in_series = any(len(run.string) > 1 for run in runs.values())
    if len(task.craft.sources) > 1 or in_series:
        raise NotATree
    free = {w.id for u in units for w in u.wires}
    way: dict[str, tuple[Side, bool]] = {}
    for run in runs.values():
        for side in SIDES:
            for step in run.side(side):
                if step.piece.id not in free:
                    continue
                here = (side, step.forward)
                beside = step.group is not None or step.beside
                if beside or way.setdefault(step.piece.id, here) != here:
                    raise NotATree
    if free - way.keys() and len(runs) < len(task.craft.loads):
        raise NotATree


def _telling(lines: list[LimitLine]) -> list[LimitLine]:
    """Without the lines that another one, of the same load and kind, makes needless."""
    by_kind: dict[tuple[str, Under], list[LimitLine]] = {}
    out: list[LimitLine] = []
    for line in lines:
        rivals = by_kind.setdefault((line.held.load, line.held.under), [])
        if not any(_covers(rival, line) for rival in rivals):
            rivals[:] = [rival for rival in rivals if not _covers(line, rival)]
            rivals.append(line)
    for kept in by_kind.values():
        out += kept
    return out


def _covers(one: LimitLine, other: LimitLine) -> bool:
    """Whether whatever keeps one line keeps the other."""
    return (
        one.left <= other.left
        and one.volts.keys() == other.volts.keys()
        and all(bool((one.volts[n] >= other.volts[n]).all()) for n in one.volts)
    )
