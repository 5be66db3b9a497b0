"""Two loads in series: each has its run, the other is a step of it; one current, no loss."""

from dataclasses import replace

import pytest

from spare_margin.core.bounds.conclusion import Reread
from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.budget.trunk import stretches
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Section, Traced, traced, traced_like
from spare_margin.core.edit.columns import moved
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.lines import line_of
from spare_margin.core.edit.whole_runs import run_copied, run_taken_out
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.model.jobs import Moment, Reading
from spare_margin.core.model.pieces import Craft
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.offers import Offers
from spare_margin.exchange.run_line.reader import read_line
from spare_margin.exchange.run_line.text import line_text, matched
from spare_margin.service.job.judging import Judging
from tests.rough import LIMITS, TABLES, craft_by

STRING = (
    "isolator > 16 mm² 2 m [Panel] > fuse 5 > 1.5 mm² 3 m > pin [In] > "
    'lamp "Port" 6 W at 6 V > pin [Mid] > 1.5 mm² 1 m > lamp "Starboard" 6 W at 6 V > '
    "pin [Out] > 1.5 mm² 3 m > ring [Bus] > 16 mm² 2 m"
)
OTHER = '[Panel] > fuse 5 > 1.5 mm² 3 m > load "Fan" 1 A > 1.5 mm² 3 m > [Bus]'
CRAFT = craft_by(STRING, OTHER)
AT = {p.name: p.id for p in CRAFT.points if p.name}
PORT, STARBOARD = CRAFT.load("port"), CRAFT.load("starboard")


def runs_of(craft: Craft = CRAFT) -> Traced:
    return traced(craft, closed_ohms(craft, TABLES))


def test_each_load_has_its_run_and_the_other_is_a_step_of_it() -> None:
    found = runs_of()
    assert found.problem == ""
    port, starboard = found.runs["port"], found.runs["starboard"]
    assert port.string == starboard.string == ("port", "starboard")
    assert [s.load.id for s in port.back if s.load] == ["starboard"]
    assert [s.load.id for s in starboard.feed if s.load] == ["port"]
    assert {s.piece.id for s in port.steps()} == {s.piece.id for s in starboard.steps()}
    assert port.sections("return") == (
        Section(PORT.end, STARBOARD.start, False), Section(STARBOARD.start, STARBOARD.end, True),
        Section(STARBOARD.end, "back", False),
    )  # fmt: skip
    assert starboard.sections("return") == (Section(STARBOARD.end, "back", False),)
    # What lies between is on the one's return and on the other's feed: on no wrong side.
    assert port.misplaced == starboard.misplaced == ()


def test_one_current_passes_both_and_is_counted_once() -> None:
    found, solution = runs_of(), solve(CRAFT, CRAFT.scenario("rested"), TABLES)
    amps = solution.elements.current_a("port")
    assert solution.elements.current_a("starboard") == pytest.approx(amps)
    # Two lamps of 6 V on 12.7 V: each gets half of what the copper leaves.
    assert solution.volts(PORT.start, PORT.end) == pytest.approx(6.3, abs=0.1)
    fan = solution.elements.current_a("fan")
    trunk = next(s for s in stretches(found.runs, solution) if set(s.loads) == set(found.runs))
    assert trunk.current_a == pytest.approx(amps + fan)
    own = next(p.id for p in CRAFT.pieces if {p.start, p.end} == {AT["Mid"], PORT.end})
    assert found.users[own] == ["port"]


def test_what_the_other_takes_is_no_loss() -> None:
    found, solution = runs_of(), solve(CRAFT, CRAFT.scenario("rested"), TABLES)
    budgets = RunBudgets(CRAFT, found.runs, solution, LIMITS, TABLES)
    for key in ("port", "starboard"):
        feed, back = budgets[key].feed, budgets[key].back
        assert feed.drop_v + back.drop_v < 0.3
        assert feed.purpose_v + back.purpose_v == pytest.approx(6.3, abs=0.1)
        assert budgets[key].load_v == pytest.approx(6.3, abs=0.1)
        assert budgets[key].load_v == pytest.approx(
            budgets[key].source_v - feed.drop_v - back.drop_v - feed.purpose_v - back.purpose_v
        )


def test_a_third_load_in_between_is_no_string() -> None:
    """Where currents part between two loads, neither has a loop of its own."""
    read = read_line('[Mid] > load "Third" 1 A > [Bus]', CRAFT, TABLES)
    assert read.line is not None
    with pytest.raises(Exception, match="is not complete"):
        drawn(CRAFT, read.line)


@pytest.mark.parametrize("turned", ["port", "starboard"])
def test_a_load_drawn_the_other_way_round_is_the_same_string(turned: str) -> None:
    loads = tuple(
        replace(x, start=x.end, end=x.start) if x.id == turned else x for x in CRAFT.loads
    )
    found = runs_of(replace(CRAFT, loads=loads))
    assert found.runs["port"].string == ("port", "starboard")
    assert found.runs[turned].feed_terminal == CRAFT.load(turned).start


def test_a_load_that_changes_changes_the_runs_of_the_others() -> None:
    before = runs_of()
    loads = tuple(replace(x, power_w=9.0) if x.id == "starboard" else x for x in CRAFT.loads)
    after = replace(CRAFT, loads=loads)
    assert traced_like(before, after) is None
    (step,) = (s for s in runs_of(after).runs["port"].back if s.load)
    assert step.load is not None
    assert step.load.power_w == 9.0
    fan = tuple(replace(x, current_a=2.0) if x.id == "fan" else x for x in CRAFT.loads)
    same = traced_like(before, replace(CRAFT, loads=fan))
    assert same is not None
    assert same.runs == runs_of(replace(CRAFT, loads=fan)).runs


# The line


@pytest.mark.parametrize("run", ["port", "starboard"])
def test_either_run_is_the_same_line_and_redraws_to_the_same_craft(run: str) -> None:
    line = line_of(CRAFT, runs_of().runs[run])
    text = line_text(line)
    assert text.index('"Port"') < text.index('"Starboard"')
    read = read_line(text, CRAFT, TABLES)
    assert read.line is not None
    again, load = drawn(CRAFT, matched(read.line, line), line)
    assert (again, load) == (CRAFT, "port")


def test_a_string_is_copied_and_taken_out_as_one() -> None:
    copied, new = run_copied(CRAFT, "starboard")
    assert new == "starboard-2"
    assert runs_of(copied).runs[new].string == ("port-2", "starboard-2")
    assert all({"port-2", "starboard-2"} <= s.on for s in copied.scenarios if "port" in s.on)
    left = run_taken_out(CRAFT, "port")
    assert {x.id for x in left.loads} == {"fan"}
    assert runs_of(left).problem == ""


def test_a_piece_moves_past_the_other_load() -> None:
    run = runs_of().runs["port"]
    wire = next(s.piece.id for s in run.back if s.exit == STARBOARD.start)
    found = runs_of(moved(CRAFT, run, wire, later=True))
    after = found.runs["port"].back
    at = next(i for i, s in enumerate(after) if s.load)
    assert after[at + 1].piece.id == wire


# Read and judged


def volts(red: str, black: str, value: float) -> Reading:
    return Reading(
        id=f"{red} {black}", revision="r", quantity="volts", red=red, black=black, value=value,
        state="value", typed=str(value), accuracy=0.002 + 0.005 * abs(value), scenario="rested",
        taken_at="",
    )  # fmt: skip


def clamped(value: float) -> Reading:
    made = volts(PORT.start, PORT.end, value)
    return replace(made, id="amps", quantity="amperes", accuracy=0.02)


def judged(run: str, *readings: Reading):  # type: ignore[no-untyped-def]
    return Judging(CRAFT, readings, (), (), LIMITS, TABLES).judge(run)


def test_a_side_is_read_on_either_side_of_the_other_load() -> None:
    asked = judged("port").conclusion.to_read
    assert asked[1:] == (
        Reread("span", PORT.end, STARBOARD.start, "return"),
        Reread("span", STARBOARD.end, "back", "return"),
        Reread("side", "live", PORT.start, "feed"),
    )


def test_a_sound_string_is_within_with_one_clamp_for_both() -> None:
    read = (
        clamped(1.02), volts("live", PORT.start, 0.07), volts(PORT.end, STARBOARD.start, 0.02),
        volts(STARBOARD.end, "back", 0.05),
    )  # fmt: skip
    for run in ("port", "starboard"):
        found = judged(run, *read)
        assert (found.verdict, found.done) == ("within", "good"), run


@pytest.mark.parametrize(("run", "side"), [("port", "return"), ("starboard", "feed")])
def test_what_is_bad_in_between_is_found_on_both_runs(run: str, side: str) -> None:
    pin = next(p.id for p in CRAFT.pieces if {p.start, p.end} == {AT["Mid"], PORT.end})
    found = judged(
        run, clamped(0.95), volts("live", PORT.start, 0.07),
        volts(PORT.end, STARBOARD.start, 1.3), volts(PORT.end, AT["Mid"], 1.25),
    )  # fmt: skip
    assert (found.verdict, found.found) == ("over", (pin,))
    assert found.conclusion.found[0].side == side


def test_a_burnt_out_lamp_is_open_on_the_run_of_the_other() -> None:
    found = judged(
        "port", clamped(0.0), volts("live", "back", 12.7), volts(PORT.end, "back", 12.7),
        volts(STARBOARD.start, "back", 12.7), volts(STARBOARD.end, "back", 0.0),
    )  # fmt: skip
    assert (found.conclusion.headline, found.found) == ("open", ("starboard",))


@pytest.mark.parametrize("state", ["off", "unplugged"])
def test_a_load_in_series_that_is_off_is_no_open(state: str) -> None:
    """Source volts before it, none behind: it was taken out, or switched off by itself."""
    resting = Moment(id="m", scenario="rested", loads={"port": "off", "starboard": state})  # type: ignore[dict-item]
    read = [volts(STARBOARD.start, "back", 12.7), volts(STARBOARD.end, "back", 0.0)]
    taken = [replace(r, moment="m") for r in read]
    blind = replace(
        volts(STARBOARD.start, STARBOARD.end, 0.0), quantity="ohms", state="over_range", value=None,
        moment="m",
    )  # fmt: skip
    for readings in (taken, [blind]):
        found = Judging(CRAFT, readings, (resting,), (), LIMITS, TABLES).judge("port")
        assert (found.conclusion.headline, found.found) == ("not_read", ())


def test_electronics_in_series_may_keep_the_current_back_themselves() -> None:
    held = replace(STARBOARD, behaviour="constant_power", power_w=6.0, rated_v=None)
    craft = replace(CRAFT, loads=(PORT, held, CRAFT.load("fan")))
    read = [
        clamped(0.0), volts("live", "back", 12.7), volts(PORT.end, "back", 12.7),
        volts(STARBOARD.start, "back", 12.7), volts(STARBOARD.end, "back", 0.0),
    ]  # fmt: skip
    found = Judging(craft, read, (), (), LIMITS, TABLES).judge("port")
    assert (found.conclusion.headline, found.found) == ("no_current", ())


def test_no_new_way_is_offered_that_would_bridge_the_other_load() -> None:
    found = runs_of()
    for run, moves in (("port", {"return", "relay"}), ("starboard", {"own-feed", "relay"})):
        bench = Bench(CRAFT, run, AS_DRAWN, {}, LIMITS, TABLES)
        refused = {r.move for r in Offers(bench).refused if r.why == "in_series"}
        assert refused == moves, found.runs[run].string
