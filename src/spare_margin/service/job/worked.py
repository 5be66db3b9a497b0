"""A wiring worked out: how it hangs together whatever is on, and what it does in one scenario."""

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property

from spare_margin.core.budget.allowances import CopperOhms
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.budget.scenarios import ScenarioState, solved_scenario
from spare_margin.core.budget.steady_currents import SteadyCurrents
from spare_margin.core.circuit.layout import Layout
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Traced, traced, traced_like
from spare_margin.core.errors import NoSolution
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables


class WorkedCraft:
    """A wiring with its runs, and what its pieces demand, whatever is on in it.

    Args:
        like: one that was worked out before: what does not differ is taken over from it.

    Attributes:
        traced: the runs that close.
        loops: the same as arrays.
        steady: the currents that need no solving.
    """

    def __init__(
        self, craft: Craft, limits: Limits, tables: Tables, like: "WorkedCraft | None" = None
    ) -> None:
        self.craft, self.limits, self.tables = craft, limits, tables
        before = like if like is not None and like.tables is tables else None
        same = traced_like(before.traced, craft) if before is not None else None
        self.traced: Traced = same or traced(craft, closed_ohms(craft, tables))
        ways = before.loops.ways if before is not None and same is not None else None
        held = before.loops if before is not None else None
        self.loops: Loops = Loops(craft, self.traced.runs, limits, tables, ways, held)
        self.steady = SteadyCurrents(craft, self.loops.ways)
        self._laid: Layout | None = before._laid if before is not None else None

    def state(self, scenario: Scenario) -> ScenarioState:
        """It solved in a scenario; loads that it cannot feed are left off. JobError as solve."""
        made = solved_scenario(self.craft, scenario, self.tables, self._laid)
        self._laid = made.solved.layout
        return made

    @property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        return self.traced.runs


class SolvedWiring:
    """A worked craft in one scenario. Loads that it cannot feed are left off and named in `stalled`.

    `copper` gives the ohms that all scenarios of the craft allow its conductors, when they are asked for;
    without it the budgets are those of this scenario alone.
    """

    def __init__(
        self,
        worked: WorkedCraft,
        scenario: Scenario,
        copper: Callable[[], CopperOhms] | None = None,
    ) -> None:
        self.worked, self._copper = worked, copper
        self.craft, self.tables = worked.craft, worked.tables
        self.state = worked.state(scenario)
        self.scenario, self.solved = self.state.scenario, self.state.solved
        self.solution = self.state.solution

    @property
    def stalled(self) -> tuple[NoSolution, ...]:
        """Loads that no voltage can feed in this scenario."""
        return self.state.stalled

    @property
    def runs(self) -> Mapping[str, Run]:
        """Every run that closes, by load id."""
        return self.worked.runs

    @property
    def unclosed(self) -> str:
        """Why the first run that does not close does not; empty where all do."""
        return self.worked.traced.problem

    @cached_property
    def load_names(self) -> dict[str, str]:
        """What each load is called, by its id."""
        return {load.id: load.name for load in self.craft.loads}

    @property
    def users(self) -> Mapping[str, Sequence[str]]:
        """The ids of the loads whose run passes each piece."""
        return self.worked.traced.users

    @cached_property
    def budgets(self) -> RunBudgets:
        """The budget of every run, by load id."""
        copper = None if self._copper is None else self._copper()
        loops = self.worked.loops.during(self.scenario)
        return RunBudgets(
            self.craft, self.runs, self.solution, loops.limits, self.tables, copper, loops
        )
