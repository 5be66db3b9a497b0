"""Which states of a craft its loads are on in, as they are drawn."""

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.edit.charging import with_charger
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import ENGINE_C, new_craft
from spare_margin.core.model.pieces import Craft, CraftKind
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import read_line

TABLES = shipped_tables()
LAMP = '[Battery + clamp] > fuse 5 > 1.5 mm2 3 m > load "Cabin lamp" 1 A > 1.5 mm2 3 m'
PLOTTER = '[Battery + clamp] > fuse 5 > 1.5 mm2 3 m > load "Plotter" 2 A critical > 1.5 mm2 3 m'
STARTER = '[Battery + clamp] > 50 mm2 2 m > load "Starter" 200 A short-time > 50 mm2 2 m'
WINCH = '[Battery + clamp] > fuse 100 > 35 mm2 4 m > load "Sail winch" 60 A short-time > 35 mm2 4 m'


def craft_of(*lines: str, kind: CraftKind = "boat") -> Craft:
    """A craft with these runs, drawn in this order."""
    craft = new_craft(kind, 12.0, "negative", "flooded", 100.0)
    for text in lines:
        read = read_line(text, craft, TABLES)
        assert read.line is not None, read.errors
        craft, _ = drawn(craft, read.line)
    return craft


def on(craft: Craft) -> dict[str, set[str]]:
    """The loads that are on, by state."""
    return {s.id: set(s.on) for s in craft.scenarios}


def test_while_an_engine_is_started_only_what_must_keep_running_runs() -> None:
    used = {"cabin-lamp", "plotter"}
    assert on(craft_of(LAMP, PLOTTER, STARTER)) == {
        "rested": used, "charging": used, "tired": used, "start": {"plotter", "starter"},
    }  # fmt: skip


@pytest.mark.parametrize("lines", [(LAMP, PLOTTER, WINCH), (WINCH, PLOTTER, LAMP)])
def test_a_winch_is_on_in_a_state_of_its_own(lines: tuple[str, ...]) -> None:
    found = on(craft_of(*lines))
    assert "sail-winch" not in found["rested"] | found["charging"] | found["tired"]
    assert found["sail-winch-on"] == {"sail-winch", "plotter", "cabin-lamp"}


def test_the_starter_takes_the_volts_down_itself() -> None:
    """12.7 V rested behind 5 mohm and 200 A: 11.7 V at the posts, not 9.6 V less another volt."""
    craft = craft_of(STARTER)
    start = craft.scenario("start")
    assert start.source(craft.sources[0]).open_circuit_v == 12.7
    found = solve(craft, start, TABLES)
    posts = found.volts("live", "back")
    assert posts == pytest.approx(12.7 - 200 * 5e-3, abs=1e-3)


def test_a_craft_without_an_engine_gives_its_starter_a_state_of_its_own() -> None:
    found = on(craft_of(LAMP, PLOTTER, STARTER, kind="caravan"))
    assert found["starter-on"] == {"plotter", "starter"}


def test_a_load_that_is_drawn_later_joins_where_it_is_used() -> None:
    craft, _ = with_charger(craft_of(STARTER), "generator", "Alternator", 14.2)
    read = read_line(LAMP, craft, TABLES)
    assert read.line is not None
    craft, _ = drawn(craft, read.line)
    at = [s.id for s in craft.scenarios if "cabin-lamp" in s.on]
    assert at == ["rested", "charging", "tired", "charging-alternator"]


@pytest.mark.parametrize(
    ("kind", "runs_engine"), [("generator", True), ("charger", False), ("panel", False)]
)
def test_while_it_charges_nothing_short_runs(kind: str, runs_engine: bool) -> None:
    craft, load = with_charger(craft_of(LAMP, STARTER), kind, "Feeder", 14.2)  # type: ignore[arg-type]
    state = craft.scenario("charging-feeder")
    assert state.on == {"cabin-lamp", load}
    assert state.engine_c == (ENGINE_C if runs_engine else None)


def test_a_charging_path_draws_only_while_the_craft_is_charged() -> None:
    alternator = '[Battery + clamp] > 25 mm2 2 m > load "Alternator" 60 A charging > 25 mm2 2 m'
    found = on(craft_of(LAMP, STARTER, alternator))
    assert [key for key, loads in found.items() if "alternator" in loads] == ["charging"]
    # Beside a state of its own for a winch too.
    assert "alternator" not in on(craft_of(alternator, WINCH))["sail-winch-on"]
