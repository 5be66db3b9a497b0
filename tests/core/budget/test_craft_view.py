"""A craft as a whole: worst scenarios, starting motors, the trunk, copper, what helps most."""

from dataclasses import replace

import pytest

from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.budget.scenarios import (
    solved_scenario,
    solved_scenarios,
    starts,
    worst_scenarios,
)
from spare_margin.core.budget.trunk import copper_by_size, helps, next_size, row_order, stretches
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft, Size
from spare_margin.data.tables import shipped_tables
from tests.conftest import Document, craft_of, job_document, load, piece, wire

TABLES = shipped_tables()
BY_DUTY = Limits(TABLES.limit_sets["by-duty"], {})


def tree(**more: object) -> Document:
    """A main feed to a panel, from it a pump (5 A) and a fan (2 A); a common return."""
    return job_document(
        [
            wire("main", "b+", "panel", length_m=2, mm2="10"),
            wire("wp", "panel", "p+", length_m=4),
            load("pump", "p+", "p-", start_multiple=4.0, least_v=10.0),
            wire("rp", "p-", "bus", "return", length_m=4),
            wire("wf", "panel", "f+", length_m=3),
            load("fan", "f+", "f-", behaviour="constant_current", current_a=2.0, least_v=12.2),
            wire("rf", "f-", "bus", "return", length_m=3),
            piece("strap", "bus", "b-", "return", resistance_ohm=0.01),
        ],
        scenarios=[
            {"id": "rested", "on": ["pump", "fan"]},
            {"id": "fan-alone", "on": ["fan"]},
            {"id": "warm", "on": ["pump"], "ambient_c": 60},
        ],
        **more,
    )


def runs_of(craft: Craft) -> dict[str, Run]:
    tracer = Tracer(craft, {})
    return {each.id: tracer.trace(each) for each in craft.loads}


def test_the_worst_scenario_of_each_run() -> None:
    craft = craft_of(tree())
    worst = worst_scenarios(craft, runs_of(craft), solved_scenarios(craft, TABLES), BY_DUTY)
    assert worst["fan"].scenario.id == "rested", "the pump's current in the shared pieces"
    # The pump: 2 A less in the shared ohms when it is alone, but all its copper 16 % warmer.
    assert worst["pump"].scenario.id == "warm"
    assert worst["pump"].budget is not None
    assert worst["pump"].spare_v == pytest.approx(worst["pump"].budget.spare_v)


def test_a_load_that_stalls_is_the_worst_there_is() -> None:
    document = tree()
    document["elements"][2] |= {"behaviour": "constant_power", "power_w": 2000}
    del document["elements"][2]["start_multiple"]
    craft = craft_of(document)
    worst = worst_scenarios(craft, runs_of(craft), solved_scenarios(craft, TABLES), BY_DUTY)
    assert worst["pump"].budget is None
    assert worst["pump"].spare_v == float("-inf")
    state = solved_scenario(craft, craft.scenario(), TABLES)
    assert [s.load_id for s in state.stalled] == ["pump"]
    assert state.solution.elements["fan"].current_a == pytest.approx(2.0)
    assert state.stalled[0].loop_ohm is not None
    assert state.stalled[0].most_ohm is not None
    # The most it bears: V^2 / 4P of what the rest of the craft leaves it.
    assert state.stalled[0].most_ohm == pytest.approx(12.6**2 / 4 / 2000, rel=0.02)


def test_what_a_start_does_to_the_others() -> None:
    craft = craft_of(tree())
    seen = {(s.motor.id, s.load.id): s for s in starts(craft, craft.scenario("rested"), TABLES)}
    assert set(seen) == {("pump", "pump"), ("pump", "fan")}
    fan = seen["pump", "fan"]
    # 15 A more through source 10 mohm, main 2 x 1.91 mohm, strap 10 mohm.
    assert fan.running_v - fan.starting_v == pytest.approx(15 * (0.02 + 2 * 0.00191), rel=0.01)
    assert fan.drops_out
    assert not seen["pump", "pump"].drops_out


def test_the_trunk() -> None:
    craft = craft_of(tree())
    runs = runs_of(craft)
    solution = solve(craft, craft.scenario("rested"), TABLES)
    parts = stretches(runs, solution)
    seen = {(p.side, p.loads): p for p in parts}
    main = seen["feed", ("pump", "fan")]
    assert (main.depth, round(main.current_a, 3)) == (0, 7.0)
    assert main.drop_v == pytest.approx(7 * 2 * 0.00191, rel=0.01)
    assert seen["feed", ("fan",)].depth == 1
    assert seen["return", ("pump", "fan")].pieces[0].id == "strap"
    assert row_order(runs, parts) == ["pump", "fan"]
    for key, run in runs.items():
        drawn = sum(p.drop_v for p in parts if key in p.loads)
        lost = (solution.volts("b+", "b-") or 0) - (
            solution.volts(run.feed_terminal, run.return_terminal) or 0
        )
        assert drawn == pytest.approx(lost), "the stretches of a run add up to what it loses"


def test_copper_by_size() -> None:
    uses = copper_by_size(craft_of(tree()), TABLES)
    assert [(u.size.value, u.length_m) for u in uses] == [("2.5", 14.0), ("10", 2.0)]
    assert uses[0].mass_kg == pytest.approx(8.96e-3 * 2.5 * 14)


def test_what_helps_most() -> None:
    document = tree()
    document["elements"][-1] = piece("strap", "bus", "b-", "return", resistance_ohm=0.08)
    craft = craft_of(document)
    solution = solve(craft, craft.scenario("rested"), TABLES)
    budgets = RunBudgets(craft, runs_of(craft), solution, BY_DUTY, TABLES)
    best = helps(budgets, solution, TABLES)[0]
    assert (best.piece.id, best.size, best.short_runs) == ("strap", None, 2)
    # Without a style it is taken for the style nearest to its ohms: a pin, 2 mohm at best.
    assert best.gain_v == pytest.approx(7 * (0.08 - 0.002))


def test_the_next_size() -> None:
    assert next_size(Size("mm2", "2.5"), TABLES, 1) == Size("mm2", "4")
    assert next_size(Size("awg", "10"), TABLES, -1) == Size("awg", "12")
    assert next_size(Size("mm2", "0.5"), TABLES, -1) is None
    assert next_size(Size("mm2", "2.6"), TABLES, 1) is None


def test_no_start_without_a_motor() -> None:
    craft = craft_of(tree())
    quiet = replace(craft, loads=tuple(replace(x, start_multiple=None) for x in craft.loads))
    assert starts(quiet, quiet.scenario(), TABLES) == []
