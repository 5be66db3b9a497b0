"""What the scenarios hold for each run: the worst of them, starting motors, loads that drop out."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.budget.run_budget import RunBudget, spend, totals
from spare_margin.core.circuit.layout import Layout
from spare_margin.core.circuit.network import SolvedCraft, solved_craft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Load, Scenario
from spare_margin.core.model.tables import Tables


@dataclass(frozen=True, slots=True)
class ScenarioState:
    """One scenario solved: loads that no voltage can feed are left off and named in `stalled`.

    `runaway`: its wires would heat one another without end; solved with all at the air's temperature.
    """

    scenario: Scenario
    solved: SolvedCraft
    stalled: tuple[NoSolution, ...]
    runaway: bool = False

    @property
    def solution(self) -> Solution:
        """Volts and the state of every element."""
        return self.solved.solution


@dataclass(frozen=True, slots=True)
class Worst:
    """The scenario in which a run has least spare. `budget` is None where its load stalls.

    The budget is without its pieces: their shares are another question.
    """

    scenario: Scenario
    spare_v: float
    budget: RunBudget | None


@dataclass(frozen=True, slots=True)
class Start:
    """What another load gets (V), running and while a motor starts; whether it then drops out."""

    motor: Load
    load: Load
    running_v: float
    starting_v: float
    drops_out: bool


def solved_scenario(
    craft: Craft,
    scenario: Scenario,
    tables: Tables,
    like: Layout | None = None,
) -> ScenarioState:
    """Solve a scenario, leaving off one after another the loads that would stall.

    `like` as of `solved_craft`. Raises JobError where the network has no solution even so.

    Args:
        craft: the wiring.
        tables: the reference tables.
    """
    stalled: list[NoSolution] = []
    runaway = False
    while True:
        try:
            solved = solved_craft(craft, scenario, tables, like=like)
            return ScenarioState(scenario, solved, tuple(stalled), runaway)
        except JobError as trouble:
            if runaway or not trouble.path.startswith("scenarios."):
                raise
            runaway = True
            scenario = replace(scenario, temperature_model="ambient")
        except NoSolution as named:
            stalled.append(named)
            scenario = replace(scenario, on=scenario.on - {named.load_id})


def solved_scenarios(craft: Craft, tables: Tables) -> list[ScenarioState]:
    """Every scenario of a craft, solved.

    Args:
        tables: the reference tables.
    """
    states: list[ScenarioState] = []
    for scenario in craft.scenarios:
        like = states[0].solved.layout if states else None
        states.append(solved_scenario(craft, scenario, tables, like))
    return states


def worst_scenarios(
    craft: Craft,
    runs: Mapping[str, Run],
    states: Iterable[ScenarioState],
    limits: Limits,
) -> dict[str, Worst]:
    """For each run (by load id), the scenario with least spare among those in which it is on.

    Args:
        craft: the wiring.
        runs: the runs, by load id.
        states: the craft solved in each scenario.
        limits: the limits that its runs are held to.
    """
    out: dict[str, Worst] = {}
    found: dict[str, tuple[float, ScenarioState]] = {}
    for state in states:
        scenario = state.scenario
        held = limits.during(craft, scenario)
        for named in state.stalled:
            if named.load_id in runs:
                out[named.load_id] = Worst(scenario, float("-inf"), None)
        for key, run in runs.items():
            if key not in scenario.on or not state.solution.elements[key].current_a:
                continue
            spare = spend(craft, run, state.solution, held).spare_v
            worst = found.get(key)
            if worst is None or spare < worst[0] - ROUNDING:
                found[key] = spare, state
    for key, (spare, state) in found.items():
        if key not in out:
            held = limits.during(craft, state.scenario)
            budget = totals(craft, runs[key], state.solution, held)
            out[key] = Worst(state.scenario, spare, budget)
    return out


def drops_out(load: Load, volts: float) -> bool:
    """Whether a load that is on gets less than it works at.

    Args:
        volts: what it gets (V).

    >>> pump = Load(id="l", start="a", end="b", name="Pump", least_v=10.5)
    >>> drops_out(pump, 10.4), drops_out(pump, 10.5)
    (True, False)
    """
    return load.least_v is not None and volts < load.least_v


def starts(craft: Craft, scenario: Scenario, tables: Tables) -> list[Start]:
    """For every motor that is on in a scenario, what the other loads get while it starts.

    Args:
        craft: the wiring.
        tables: the reference tables.
    """
    state = solved_scenario(craft, replace(scenario, starting=frozenset()), tables)
    on = [load for load in craft.loads if load.id in state.scenario.on]
    running = {load.id: state.solution.volts(load.start, load.end) or 0.0 for load in on}
    out = []
    for motor in on:
        if (motor.start_multiple or 1.0) <= 1.0:
            continue
        solution, lost = _moment(craft, state, motor, tables)
        for load in on:
            volts = abs(solution.volts(load.start, load.end) or 0.0)
            gone = load.id in lost or drops_out(load, volts)
            out.append(Start(motor, load, abs(running[load.id]), volts, gone))
    return out


def _moment(
    craft: Craft, state: ScenarioState, motor: Load, tables: Tables
) -> tuple[Solution, set[str]]:
    """The craft while a motor starts, and the loads that stall meanwhile."""
    starting = frozenset({motor.id})
    try:
        return state.solved.while_starting(starting).solution, set()
    except NoSolution:
        moment = solved_scenario(craft, replace(state.scenario, starting=starting), tables)
        return moment.solution, {named.load_id for named in moment.stalled}
