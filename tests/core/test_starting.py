"""While an engine is started only its starter is held to limits; the rest must get its least volts."""

from dataclasses import replace

import pytest

from spare_margin.core.budget.limit_comparison import under_limits
from spare_margin.core.budget.scenarios import solved_scenarios, worst_scenarios
from spare_margin.core.circuit.network import solved_craft
from spare_margin.core.model.jobs import Moment, Reading
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.starting import free_in, starts_engine
from spare_margin.core.sizing.craft_task import whole_craft_task
from spare_margin.core.sizing.sizes_tried import tried
from spare_margin.service.job.judging import Judging
from tests.core.test_states import craft_of
from tests.readings import reading
from tests.rough import LIMITS, TABLES

STARTER = (
    '[Battery + clamp] > 50 mm2 2 m > load "Starter" 200 A short-time > 50 mm2 2 m > ring [Bus] > '
    "35 mm2 1.5 m"
)
PLOTTER = (
    '[Battery + clamp] > fuse 5 > 1.5 mm2 3 m > load "Plotter" 2 A critical least 10 V > '
    "1.5 mm2 3 m > [Bus]"
)
CRAFT = craft_of(STARTER, PLOTTER)
START = CRAFT.scenario("start")


def judging(craft: Craft, *readings: Reading, moments: tuple[Moment, ...] = ()) -> Judging:
    return Judging(craft, readings, moments, (), LIMITS, TABLES)


def test_who_is_held_to_limits_where() -> None:
    rested = CRAFT.scenario("rested")
    assert (starts_engine(CRAFT, START), starts_engine(CRAFT, rested)) == (True, False)
    assert free_in(CRAFT, START) == {"plotter"}
    assert free_in(CRAFT, rested) == set()
    # Stalled, or switched off on screen, it is the same state.
    assert free_in(CRAFT, replace(START, on=frozenset({"plotter"}))) == {"plotter"}
    # What is on in no other state has its limits here.
    others = tuple(
        replace(s, on=s.on - {"plotter"}) if s.id != "start" else s for s in CRAFT.scenarios
    )
    assert free_in(replace(CRAFT, scenarios=others), START) == set()


def test_the_starters_volts_in_a_shared_return_are_no_drop_of_what_keeps_running() -> None:
    """200 A through 1.5 m of 35 mm2 is 0.15 V and more in the plotter's return; 0.25 V is its limit."""
    made = judging(CRAFT)
    lost = made.budget("plotter", START)
    assert lost.back.drop_v > 0.25
    assert lost.spares() == {}
    assert made.budget("starter", START).spares() != {}
    states = solved_scenarios(CRAFT, TABLES)
    worst = worst_scenarios(CRAFT, made.runs, states, LIMITS)
    assert worst["plotter"].scenario.id == "rested"
    assert worst["plotter"].spare_v > 0
    assert worst["starter"].scenario.id == "start"
    compared = under_limits(
        solved_craft(CRAFT, START, TABLES), made.runs, "plotter", LIMITS, TABLES
    )
    assert (compared.verdict, compared.spare) == ("not_measured", None)


def test_a_sound_run_read_at_rest_is_not_held_to_the_start() -> None:
    made = judging(CRAFT)
    run = made.runs["plotter"]
    plus, minus = run.feed_terminal, run.return_terminal
    at = {"scenario": "rested", "accuracy": 0.002}
    read = [
        reading(plus, minus, 2.0, **{**at, "quantity": "amperes", "accuracy": 0.03}),
        reading("live", plus, 0.12, **at),
        reading(minus, "back", 0.09, **at),
    ]
    found = judging(CRAFT, *read).judge("plotter").conclusion
    assert found.headline == "within"
    assert found.sides is not None
    assert found.sides["return"].loaded.high == pytest.approx(0.095, abs=0.005), (
        "at 2 A, the source 5 % up"
    )


def test_no_wire_is_made_thicker_for_a_limit_in_the_start() -> None:
    """The starter's limits and the plotter's least volts are all that is asked there."""
    task = whole_craft_task(CRAFT, LIMITS, TABLES, "copper")
    held = tried(task, {}).spares
    in_start = {(h.load, h.under) for h in held if h.scenario == "start" and h.starting is None}
    assert ("plotter", "least") in in_start
    assert {under for key, under in in_start if key == "plotter"} == {"least"}
    assert {under for key, under in in_start if key == "starter"} >= {"feed", "return"}


def test_a_state_of_something_else_that_runs_for_seconds_is_no_engines_start() -> None:
    winch = replace(CRAFT.load("starter"), id="winch", name="Anchor winch")
    loads = (*(x for x in CRAFT.loads if x.id != "starter"), winch)
    states = tuple(
        replace(s, on=s.on - {"starter"} | {"winch"}) if s.id == "start" else s
        for s in CRAFT.scenarios
    )
    mooring = replace(CRAFT, loads=loads, scenarios=states)
    assert not starts_engine(mooring, mooring.scenario("start"))
    bare = tuple(replace(s, on=s.on - {"starter"}) for s in CRAFT.scenarios)
    assert starts_engine(replace(CRAFT, scenarios=bare), bare[-1]), "nobody drew the starter yet"
