"""One wiring in one scenario: its runs, its solution, its budgets, each worked out when asked for."""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property

from spare_margin.core.budget.allowances import CopperOhms
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.budget.scenarios import ScenarioState, solved_scenario
from spare_margin.core.budget.steady_currents import SteadyCurrents
from spare_margin.core.circuit.layout import Layout
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Traced, hang_alike, traced, traced_like
from spare_margin.core.circuit.ways import Ways
from spare_margin.core.columns import Floats
from spare_margin.core.errors import NoSolution
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables


class SolvedWiring:
    """A wiring solved in a scenario. Loads that it cannot feed are left off and named in `stalled`.

    `copper` gives the ohms that all scenarios of the craft allow its conductors, when they are asked for;
    without it the budgets are those of this scenario alone.
    """

    def __init__(
        self,
        craft: Craft,
        scenario: Scenario,
        limits: Limits,
        tables: Tables,
        state: ScenarioState | None = None,
        copper: Callable[[], CopperOhms] | None = None,
    ) -> None:
        self.craft, self.limits, self.tables = craft, limits, tables
        self._copper = copper
        if state is None:
            like = _laid(craft, scenario, tables)
            state = solved_scenario(craft, scenario, tables, like, self._carried(scenario))
            _laid_lately.append(state.solved.layout)
        self.state = state
        self.scenario, self.solved = self.state.scenario, self.state.solved
        self.solution = self.state.solution

    def _carried(self, scenario: Scenario) -> Floats | None:
        """What its pieces carry (A), where that can be told without solving and warms them."""
        if scenario.temperature_model != "self_heating":
            return None
        known = self.steady.at(scenario)
        return None if known is None else known[0]

    @cached_property
    def steady(self) -> SteadyCurrents:
        """The currents that need no solving."""
        return SteadyCurrents(self.craft, self._traced[1])

    @property
    def stalled(self) -> tuple[NoSolution, ...]:
        """Loads that no voltage can feed in this scenario."""
        return self.state.stalled

    @cached_property
    def _traced(self) -> tuple[Traced, Ways]:
        return _traced(self.craft, self.tables)

    @property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        return self._traced[0].runs

    @property
    def unclosed(self) -> str:
        """Why the first run that does not close does not; empty where all do."""
        return self._traced[0].problem

    @cached_property
    def load_names(self) -> dict[str, str]:
        """What each load is called, by its id."""
        return {load.id: load.name for load in self.craft.loads}

    @property
    def users(self) -> Mapping[str, Sequence[str]]:
        """The ids of the loads whose run passes each piece."""
        return self._traced[0].users

    @cached_property
    def budgets(self) -> RunBudgets:
        """The budget of every run, by load id."""
        copper = None if self._copper is None else self._copper()
        loops = self.loops.during(self.scenario)
        return RunBudgets(
            self.craft, self.runs, self.solution, loops.limits, self.tables, copper, loops
        )

    @cached_property
    def loops(self) -> Loops:
        """Its runs as arrays."""
        ways = self._traced[1]
        like = next((held for held in tuple(_loops_lately) if held.ways is ways), None)
        made = Loops(self.craft, self.runs, self.limits, self.tables, ways, like)
        _loops_lately.appendleft(made)
        return made


_traced_lately: deque[tuple[Tables, Traced, Ways]] = deque(maxlen=8)
_laid_lately: deque[Layout] = deque(maxlen=8)
_loops_lately: deque[Loops] = deque(maxlen=8)


def _traced(craft: Craft, tables: Tables) -> tuple[Traced, Ways]:
    """The runs of a craft and their ways: as of one that hung together alike lately, else traced afresh."""
    found = ways = None
    for same, held, led in reversed(tuple(_traced_lately)):
        if same is tables:
            found, ways = held if held.craft is craft else traced_like(held, craft), led
        if found is not None:
            break
    if found is None or ways is None:
        found = traced(craft, closed_ohms(craft, tables))
        ways = Ways(found.runs, [piece.id for piece in craft.pieces])
    _traced_lately.append((tables, found, ways))
    return found, ways


def _laid(craft: Craft, scenario: Scenario, tables: Tables) -> Layout | None:
    """How a craft that hung together alike was laid out lately, with the same contacts closed."""
    for held in reversed(tuple(_laid_lately)):
        contacts = held.scenario.contacts == scenario.contacts
        if held.tables is tables and contacts and hang_alike(held.craft, craft):
            return held
    return None
