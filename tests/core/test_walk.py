"""The walk's measurements, stand-in loads and refusals, each by hand."""

from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.bounds.conclusion import Reread
from spare_margin.core.budget.run_budget import RunBudget, RunBudgets
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.evidence.outlook.probes import Probe
from spare_margin.core.measure.stand_in import least_ohm, suits, usual_bulbs
from spare_margin.core.model.jobs import NoteState, Reading, WalkNote
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.meters import Meter
from spare_margin.core.walk.cautions import cautions, guards
from spare_margin.core.walk.safety import out_of_scope
from spare_margin.core.walk.walk import (
    After,
    Ending,
    Measurement,
    Walk,
    after,
    best_first,
    expectation,
    range_for,
    seen,
    walk,
)
from spare_margin.data.tables import shipped_tables
from spare_margin.service.job.judging import Judging
from tests.conftest import craft_of, loop
from tests.readings import reading

TABLES = shipped_tables()


def budget_of(limit_set: str = "by-duty") -> RunBudget:
    """The loop of the tests at 5 A: feed drops about 0.26 V, return 0.22 V."""
    craft = craft_of(loop())
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    solution = solve(craft, craft.scenario(), TABLES)
    return RunBudgets(craft, runs, solution, Limits(TABLES.limit_sets[limit_set], {}), TABLES)["l"]


def note(step: str, state: NoteState, reason: str = "") -> WalkNote:
    return WalkNote(
        id=f"{step}{state}", stage="as_found", run="l", step=step, state=state, reason=reason, who="",
        made_at="2026-05-01T08:00:00Z",
    )  # fmt: skip


def stands(
    readings: list[Reading], *notes: WalkNote, limit_set: str = "by-duty", **more: Any
) -> Walk:
    limits = Limits(TABLES.limit_sets[limit_set], {})
    judging = Judging(craft_of(loop(**more)), readings, (), (), limits, TABLES)
    return walk(judging.judge("l"), notes)


SOURCE = reading("b+", "b-", 12.55)
AMPS = reading("l+", "l-", 5.0, quantity="amperes", accuracy=0.1)
LOAD = reading("l+", "l-", 11.75)
RETURN = reading("l-", "b-", 0.55)
FEED = reading("b+", "l+", 0.25)


@pytest.mark.parametrize(
    ("readings", "expected"),
    [
        ([], "current"),
        ([SOURCE], "current"),
        ([SOURCE, AMPS], "return"),
        # Source less load is blunt: each side is read across itself.
        ([SOURCE, AMPS, LOAD], "return"),
        ([AMPS, reading("l-", "b-", 0.21)], "feed"),
        ([AMPS, RETURN], "span r1 b-"),
    ],
)
def test_the_opening_measurements_in_their_order(readings: list[Reading], expected: str) -> None:
    found = stands(readings).next
    assert found is not None
    assert found.id == expected


def test_then_the_side_that_failed_and_never_a_pair_that_was_read() -> None:
    readings = [SOURCE, AMPS, LOAD, RETURN, FEED]
    pairs = {frozenset((r.red, r.black)) for r in readings}
    stood = stands(readings)
    for _ in range(4):
        if stood.next is None:
            break
        pair = frozenset((stood.next.red, stood.next.black))
        assert pair not in pairs
        pairs.add(pair)
        drops = {"l-": 0.55, "r1": 0.2, "b-": 0.0}
        at = [drops.get(p) for p in (stood.next.red, stood.next.black)]
        assert None not in at, "only the return is in question"
        readings.append(reading(stood.next.red, stood.next.black, at[0] - at[1]))  # type: ignore[operator]
        stood = stands(readings)
    assert stood.ending == "cornered"


def test_a_good_loop_ends_with_three_readings() -> None:
    good = [AMPS, reading("l-", "b-", 0.2), FEED]
    assert stands(good, limit_set="half-volt").ending == "good"
    assert stands([AMPS, RETURN, FEED], limit_set="half-volt").ending == ""
    assert stands([SOURCE, AMPS, LOAD], limit_set="half-volt").ending == ""


@pytest.mark.parametrize(
    ("first", "blown"),
    [((reading("l+", "l-", 0.0), reading("l-", "b-", 0.0)), "feed"),
     ((reading("l+", "l-", 0.0), reading("l-", "b-", 12.55)), "return")],
)  # fmt: skip
def test_after_a_true_zero_current_the_open_is_searched(
    first: tuple[Reading, ...], blown: str
) -> None:
    nothing = reading("l+", "l-", 0.0, quantity="amperes", accuracy=0.03)
    stood = stands([SOURCE, nothing, *first])
    assert stood.next is not None
    assert stood.next.kind == "span"
    run = Tracer(craft_of(loop()), {}).trace(craft_of(loop()).load("l"))
    own = {p for s in run.side(blown) for p in (s.entry, s.exit)}  # type: ignore[arg-type]
    assert {stood.next.red, stood.next.black} - {"b+", "b-"} <= own


def test_a_skipped_measurement_is_passed_until_it_is_taken_up() -> None:
    passed = stands([], note("current", "skipped", "no clamp"))
    assert passed.next is not None
    assert (passed.next.id, [s.id for s in passed.skipped]) == ("return", ["current"])
    again = stands([], note("current", "skipped", "no clamp"), note("current", "back"))
    assert again.next is not None
    assert (again.next.id, again.skipped) == ("current", ())


def test_what_was_seen_can_be_taken_back() -> None:
    hums, warm = (
        replace(note("seen", "seen", why), id=key) for key, why in (("n1", "hums"), ("n2", "warm"))
    )
    assert seen([hums, warm]) == [hums, warm]
    assert seen([hums, warm, note("seen n1", "back")]) == [warm]
    assert seen([hums, warm, note("seen n", "back")]) == [hums, warm]


def test_ohms_take_the_place_of_no_drop() -> None:
    """The whole return by the ohmmeter, power off: its drop is still to be read, and proves a repair."""
    screened = reading("l-", "b-", 0.1, quantity="ohms")
    stood = stands([AMPS, screened])
    assert stood.next is not None
    assert stood.next.id == "return"
    assert "return" not in [m.id for m in stood.done]
    wandered = stands([AMPS, reading("l-", "b-", None)])
    assert "return" in [m.id for m in wandered.done]


def ended(readings: list[Reading], *notes: WalkNote) -> tuple[Ending, dict[str, After]]:
    """How a walk ended, and what comes next as found and as left."""
    limits = Limits(TABLES.limit_sets["half-volt"], {})
    found = Judging(craft_of(loop()), readings, (), (), limits, TABLES).judge("l")
    stood = walk(found, notes)
    assert stood.next is None
    return stood.ending, {stage: after(found, stood, stage) for stage in ("as_found", "as_left")}


SKIPPED = [
    note(step, "skipped", "out of reach")
    for step in (
        "source", "current", "load", "return", "feed", "span l- r1", "span r1 b-", "span b+ w1",
        "span w1 l+",
    )
]  # fmt: skip


@pytest.mark.parametrize(
    ("readings", "notes", "ending", "found", "left"),
    [
        ([AMPS, reading("l-", "b-", 0.2), FEED], [], "good", "sheet", "proof"),
        ([AMPS, RETURN, FEED, reading("r1", "b-", 0.5)], [], "cornered", "repair", "sheet"),
        # Over, and what is inside cannot be read: it is put right as a whole.
        ([AMPS, RETURN, FEED], SKIPPED, "out_of_reach", "repair", "sheet"),
        ([], SKIPPED, "out_of_reach", "take_up", "take_up"),
        ([reading("l+", "l-", 0.0, quantity="amperes", accuracy=0.03), SOURCE,
          reading("l+", "l-", 12.55), reading("l+", "b-", 12.55), reading("l-", "b-", 0.0)],
         [], "load", "bench", "bench"),
        ([reading("l+", "l-", 0.0, quantity="amperes", accuracy=0.03)], SKIPPED + [
            note(s, "skipped") for s in ("span l+ b-", "span l- b-")], "no_current", "at_rest", "at_rest"),
    ],
)  # fmt: skip
def test_every_ending_leads_on_to_one_thing(
    readings: list[Reading], notes: list[WalkNote], ending: str, found: str, left: str
) -> None:
    assert ended(readings, *notes) == (ending, {"as_found": found, "as_left": left})


def test_a_conclusion_names_the_readings_it_rests_on() -> None:
    limits = Limits(TABLES.limit_sets["half-volt"], {})
    bad = reading("r1", "b-", 0.5)
    readings = [SOURCE, AMPS, LOAD, RETURN, FEED, bad]
    found = Judging(craft_of(loop()), readings, (), (), limits, TABLES).judge("l")
    # Over on the return: the clamp, the return and the piece; the feed has no part in it.
    assert set(found.rests_on) == {AMPS.id, bad.id} or set(found.rests_on) == {
        AMPS.id, RETURN.id, bad.id,
    }  # fmt: skip
    assert Judging(craft_of(loop()), [SOURCE], (), (), limits, TABLES).judge("l").rests_on == ()


def test_what_a_good_reading_looks_like() -> None:
    span = Measurement("span a b", "span", "a", "b")
    likely = expectation(span, 0.15, 0.3, 5.0)
    assert likely is not None
    assert (likely.low, likely.high, likely.allowed) == (0.0, 0.3, 0.3)
    load = expectation(Measurement("load", "load", "a", "b"), 12.0, None, 5.0)
    assert load is not None
    assert (load.low, load.high) == (pytest.approx(11.64), pytest.approx(12.36))
    # A resistor fitted on purpose is not expected within what its side may lose.
    purpose = expectation(span, 8.47, 0.5, 5.0)
    assert purpose is not None
    assert purpose.allowed is None
    amps = expectation(Measurement("current", "current", "a", "b"), None, None, 5.0)
    assert amps is not None
    assert amps.likely == 5.0


def test_one_meter_knows_a_difference_better_than_two() -> None:
    meter = Meter("m", 0.5, 2, 6000)
    assert meter.difference(12.6, 12.1) == pytest.approx(0.5 * 0.005 + 4 * 0.01)
    assert meter.difference(12.6, 12.1) < meter.accuracy(12.6) + meter.accuracy(12.1)


def test_cautions_are_known_by_their_ids() -> None:
    craft = craft_of(loop(craft="boat"))
    assert "petrol_gas" in cautions(craft, 5.0, "as_found")
    burning = cautions(craft, 40.0, "as_found", found={"hot_joint"})
    assert burning[:2] == ["hot_joint", "high_current"]
    assert "high_current" not in cautions(craft, 39.9, "as_found")
    assert set(guards(craft, 50.0, "planned", craft.loads[0])) == {
        "high_current",
        "battery",
        "petrol_gas",
    }


def test_which_stand_in_suits_by_hand() -> None:
    found = suits(budget_of(), 0.02, 12.0)
    assert found is not None
    # The return's 0.25 V at 5 A is 50 mohm; two readings' doubt of 40 mV is a third of that at 2.4 A.
    assert found.wanted_ohm == pytest.approx(0.05)
    assert found.wanted_a == pytest.approx(2.4)
    assert [(b.watts, b.enough) for b in found.bulbs] == [
        (5, False), (10, False), (21, False), (55, True)
    ]  # fmt: skip
    assert least_ohm(2.5, 0.02) == pytest.approx(0.016)
    assert [b.watts for b in usual_bulbs(24.0)] == [10, 20, 42, 110]


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("Airbag module", "airbags"), ("air-bag squib", "airbags"), ("Belt tensioner", "airbags"),
        ("HV inverter", "traction"), ("orange cable", "traction"), ("Hybrid drive", "traction"),
        ("230 V socket", "mains"), ("110V outlet", "mains"), ("Shore power", "mains"),
        ("mains charger", "mains"), ("hook-up inlet", "mains"),
    ],
)  # fmt: skip
def test_systems_out_of_bounds_are_known_by_name(text: str, word: str) -> None:
    found = out_of_scope("Bilge pump", text)
    assert found is not None
    assert found == word


@pytest.mark.parametrize(
    "text",
    ["Bilge pump", "12 V socket", "24 V winch", "48 V bus", "Remains of the loom", "Baggage light"],
)
def test_ordinary_systems_are_not(text: str) -> None:
    assert out_of_scope(text) is None


@pytest.mark.parametrize(
    ("volts", "range_v"), [(0.2, 0.6), (0.57, 0.6), (0.58, 6.0), (5.0, 6.0), (12.6, 60), (59, 600)]
)
def test_the_range_that_just_holds_it(volts: float, range_v: float) -> None:
    assert range_for(volts) == range_for(-volts) == range_v


@pytest.mark.parametrize(
    ("whole", "one", "first"),
    [(1.0, 0.85, "one"), (1.0, 0.75, "whole"), (0.75, 1.0, "one"), (0.0, 0.0, "one")],
)
def test_of_spans_that_tell_as_much_the_one_across_the_fewest_pieces_is_asked_for(
    whole: float, one: float, first: str
) -> None:
    craft = craft_of(loop())
    run = Tracer(craft, {}).trace(craft.load("l"))
    ends = {"whole": run.ends("feed"), "one": (run.ends("feed")[0], next(run.steps()).piece.end)}
    spans = {key: Reread("span", *pair) for key, pair in ends.items()}
    told = {"whole": whole, "one": one}
    odds = [Probe(*ends[key], bits=2 * told[key], minutes=2.0) for key in ends]
    amps = Reread("current", *run.ends("feed"))
    for order in (["whole", "one"], ["one", "whole"]):
        asked = best_first(run, [*(spans[key] for key in order), amps], odds)
        assert asked[0] == spans[first]
        assert asked[-1] == amps
