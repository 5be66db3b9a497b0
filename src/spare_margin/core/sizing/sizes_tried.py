"""A choice of sizes tried with real loads and hot conductors: what it loses, and what it does not keep."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.conductors import careful_ampacity_a
from spare_margin.core.model.pieces import Scenario, Size

from .held_states import held_states
from .lines import HeldLimit
from .task import Task

TOLERANCE_A = 1e-6
"""Less than this is no current (A)."""


@dataclass(frozen=True, slots=True)
class Lost:
    """The most (V) that a run loses where it is held to limits: its feed, its return, both together."""

    feed_v: float
    return_v: float
    round_trip_v: float


@dataclass(frozen=True, slots=True)
class Missed:
    """What a choice does not keep, and by how much: V, or A where `wire` bears less than it carries."""

    held: HeldLimit
    by: float
    wire: str = ""


@dataclass(frozen=True, slots=True)
class SizesTried:
    """A choice as it would be: what each run loses (by load id), what is missed, the tightest lines."""

    lost: Mapping[str, Lost]
    missed: tuple[Missed, ...]
    spares: Mapping[HeldLimit, float]
    currents: Mapping[str, float]


def tried(task: Task, sizes: Mapping[str, Size]) -> SizesTried:
    """Try a choice in every state.

    Args:
        task: what is to be sized, and what it is held to.
        sizes: a size for each free conductor, by its id.
    """
    craft = task.sized(sizes)
    runs = task.runs(craft)
    lost: dict[str, Lost] = {}
    missed: list[Missed] = []
    spares: dict[HeldLimit, float] = {}
    currents: dict[str, float] = {}
    steady: dict[str, SolvedCraft] = {}
    for scenario, motor in held_states(task):
        try:
            if motor is None:
                solved = task.solved(craft, scenario)
                steady[scenario.id] = solved
            elif scenario.id not in steady:
                continue
            else:
                starting = scenario.starting | {motor}
                solved = steady[scenario.id].while_starting(frozenset(starting))
        except NoSolution as named:
            held = HeldLimit(named.load_id, "least", scenario.id, motor)
            missed.append(Missed(held, float("inf")))
            continue
        except JobError:
            held = HeldLimit("", "least", scenario.id, motor)
            missed.append(Missed(held, float("inf")))
            continue
        for key, run in runs.items():
            if key not in scenario.on or _shut(run, solved):
                continue
            own = _spares(task, run, solved, scenario, motor, lost)
            spares |= own
            missed += [Missed(h, -v) for h, v in own.items() if v < -ROUNDING]
        if motor is None and task.ampacity:
            missed += _too_warm(task, solved, currents)
    return SizesTried(lost, tuple(missed), spares, currents)


def _shut(run: Run, solved: SolvedCraft) -> bool:
    """Whether an open contact keeps the load from its supply."""
    return any(s.piece.id not in solved.layout.places for s in run.steps())


def _spares(
    task: Task, run: Run, solved: SolvedCraft, scenario: Scenario, motor: str | None,
    lost: dict[str, Lost],
) -> dict[HeldLimit, float]:  # fmt: skip
    elements, load = solved.solution.elements, run.load
    feed, back = run.lost_v(elements)
    out: dict[HeldLimit, float] = {}
    if motor is None and load.id not in task.free[scenario.id]:
        most = lost.get(load.id, Lost(feed, back, feed + back))
        lost[load.id] = Lost(
            max(most.feed_v, feed), max(most.return_v, back), max(most.round_trip_v, feed + back)
        )
        c = task.ceilings_in(scenario, load)
        for under, ceiling, volts in (
            ("feed", c.feed_v, feed), ("return", c.return_v, back),
            ("round_trip", c.round_trip_v, feed + back),
        ):  # fmt: skip
            if ceiling is not None:
                out[HeldLimit(load.id, under, scenario.id, motor)] = ceiling - volts  # type: ignore[arg-type]
    source_v = solved.solution.volts(run.source.live, run.source.back) or 0.0
    wanted = load.least_v
    # A source that is itself too low for the load is no fault of the wires.
    if task.least and wanted is not None and load.id in task.ceilings and source_v > wanted:
        got = solved.solution.volts(run.feed_terminal, run.return_terminal) or 0.0
        out[HeldLimit(load.id, "least", scenario.id, motor)] = got - wanted
    return out


def _too_warm(task: Task, solved: SolvedCraft, currents: dict[str, float]) -> list[Missed]:
    """Free conductors that carry more than they bear; the most that each carries goes to `currents`."""
    if solved.scenario.starting:
        try:
            solved = solved.while_starting(frozenset())
        except NoSolution:
            return []
    out = []
    for wire in task.wires():
        sized = solved.layout.elements[wire.id]
        amps = abs(solved.solution.elements[wire.id].current_a)
        currents[wire.id] = max(currents.get(wire.id, 0.0), amps)
        most = careful_ampacity_a(
            replace(sized),  # type: ignore[arg-type]
            solved.scenario,
            task.tables.conductors,
        )
        if most is not None and amps > most + TOLERANCE_A:
            held = HeldLimit("", "least", solved.scenario.id)
            out.append(Missed(held, amps - most, wire.id))
    return out
