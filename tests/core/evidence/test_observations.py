"""What a reading is taken to say: its doubt, its moment, and when it is not believed."""

import math
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.evidence.observation.moments import TRIAL_PIECE, warm_order
from spare_margin.core.evidence.observation.observations import Observed, observe
from spare_margin.core.evidence.response.ways import cut_apart
from spare_margin.core.measure.findings import Impossible
from spare_margin.core.model.jobs import MeterFigure, Moment, Reading, SourceFigure, Trial
from spare_margin.core.model.pieces import SIDES
from spare_margin.service.job.judging import Judging
from tests.conftest import craft_of, load, loop
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by

CRAFT = craft_of(loop())
FORWARD = frozenset({("b+", "l+"), ("w1", "l+"), ("l-", "b-")})


def seen(*readings: Reading, **more: Any) -> Observed:
    return observe(CRAFT, readings, **{"forward": FORWARD, **more})


def codes(found: Observed) -> list[str]:
    return [f.code for f in found.findings]


def test_a_reading_is_an_observation_with_its_own_doubt_and_its_meters() -> None:
    # 12.50 V, good to 0.08 V: four fifths of the share is the meter's gain, the rest its counts.
    found = seen(reading("b+", "b-", 12.5, accuracy=0.08, meter="M"))
    (only,) = found.values
    assert found.gains == {"volts M": pytest.approx(0.8 * 0.08 / 12.5 / math.sqrt(3))}
    assert only.sigma == pytest.approx(0.2 * 0.08 / math.sqrt(3))
    whole = math.hypot(only.sigma, found.gains["volts M"] * 12.5)
    assert whole <= 0.08 / math.sqrt(3) * (1 + 1e-9), "no better and no worse than the meter says"


def test_the_best_reading_of_a_meter_bounds_its_gain() -> None:
    fine = reading("b+", "b-", 12.5, accuracy=0.03, meter="M")
    coarse = reading("w1", "l+", 0.02, accuracy=0.002, meter="M")
    other = reading("l+", "l-", 12.1, accuracy=0.5, meter="N")
    found = seen(fine, coarse, other)
    assert found.gains["volts M"] == pytest.approx(0.8 * 0.03 / 12.5 / math.sqrt(3))
    assert found.gains["volts N"] == pytest.approx(0.02 / math.sqrt(3)), (
        "no meter is that bad by gain"
    )


@pytest.mark.parametrize(
    ("value", "turned"), [(-0.31, True), (-0.012, True), (-0.0015, False), (0.31, False)]
)
def test_a_drop_the_wrong_way_round_was_read_with_the_leads_swapped(
    value: float, turned: bool
) -> None:
    found = seen(reading("l-", "b-", value, accuracy=0.002))
    assert found.values[0].value == (-value if turned else value)
    assert codes(found) == (["swapped"] if turned else [])


@pytest.mark.parametrize(
    ("volts", "milli"), [(150.0, True), (16.9, True), (9000.0, True), (30_000.0, False)]
)
def test_more_than_the_source_can_give_is_set_aside(volts: float, milli: bool) -> None:
    found = seen(reading("w1", "l+", volts))
    assert found.values == ()
    assert codes(found) == ["impossible"]
    (told,) = found.findings
    assert isinstance(told, Impossible)
    assert told.millivolts == milli
    assert found.set_aside == {told.readings[0]}


def test_the_sources_own_reading_bounds_what_can_be_read() -> None:
    posts = reading("b+", "b-", 12.4)
    high = reading("l+", "l-", 13.5)
    assert codes(seen(high)) == []
    assert codes(seen(posts, high)) == ["impossible"]
    charging = reading("b+", "b-", 14.3)
    assert codes(seen(charging, high)) == []


def test_a_reversed_source_stops_everything() -> None:
    found = seen(reading("b+", "b-", -12.4), reading("w1", "l+", 0.1))
    assert set(codes(found)) == {"reversed"}
    assert found.values == ()
    turned = seen(reading("b-", "b+", 12.4), reading("w1", "l+", 0.1))
    assert set(codes(turned)) == {"reversed"}, "black on the live post says the same"


@pytest.mark.parametrize(
    ("state", "code", "silent"),
    [("over_range", "over_range", False), ("wandering", "wandering", True),
     ("not_reachable", "not_reachable", False)],
)  # fmt: skip
def test_a_display_without_a_number(state: str, code: str, silent: bool) -> None:
    found = seen(reading("w1", "l+", None, state=state))
    assert codes(found) == [code]
    assert sum(s.shows == "wandering" for s in found.screens) == silent
    assert bool(found.set_aside) != silent


def test_stale_withdrawn_superseded_and_foreign_readings_do_not_count() -> None:
    first = reading("w1", "l+", 0.1, id="one")
    second = reading("w1", "l+", 0.2, id="two", supersedes="one")
    gone = reading("l-", "r1", 0.1, id="three", state="withdrawn")
    foreign = reading("nowhere", "l+", 0.1)
    elsewhere = reading("w1", "l+", 0.1, scenario="another")
    found = seen(first, second, gone, foreign, elsewhere)
    assert [o.reading for o in found.values] == ["two"]
    stale = seen(second, stale=frozenset({"two"}))
    assert (stale.values, codes(stale)) == ((), ["changed"])


def test_ohms_only_tell_whether_there_is_a_way() -> None:
    found = seen(
        reading("w1", "l+", 0.3, quantity="ohms"),
        reading("l-", "r1", 2e6, quantity="ohms"),
        reading("r1", "b-", None, quantity="ohms", state="over_range"),
        reading("r1", "b-", None, quantity="ohms", state="not_reachable"),
    )
    assert [s.shows for s in found.screens] == ["joined", "open", "open"]
    assert found.values == ()


@pytest.mark.parametrize(
    ("kelvin", "code"), [(9.0, None), (12.0, "surface_warm"), (31.0, "surface_hot")]
)
def test_a_surface_warmer_than_the_cable_beside_it(kelvin: float, code: str | None) -> None:
    found = seen(reading("w1", "l+", kelvin, quantity="kelvin"))
    assert codes(found) == ([code] if code else [])
    assert found.values == ()
    if code:
        assert found.findings[0].piece == "j"


def test_a_current_is_one_through_the_element_between_the_points() -> None:
    found = seen(
        reading("l+", "l-", 4.9, quantity="amperes"),
        reading("f1", "w1", 4.9, quantity="amperes"),
        reading("b+", "r1", 4.9, quantity="amperes"),
    )
    assert [o.through for o in found.values] == ["l", "w"]
    assert len(found.set_aside) == 1, "nothing lies between those two"


def test_a_source_reading_that_came_along_shares_the_instant() -> None:
    found = seen(reading("l+", "l-", 11.9, source_v=12.31))
    own, beside = found.values
    assert (own.sag, beside.sag) == (own.reading, own.reading)
    assert (beside.red, beside.black, beside.value, beside.beside) == ("b+", "b-", 12.31, True)


def test_a_second_meter_on_the_source_has_its_own_doubt_and_its_own_gain() -> None:
    own = SourceFigure(name="Red", spec="Bench", typed="12.310 V", accuracy=0.011)
    given = MeterFigure(name="Blue", samples=9, source=own)
    walked = reading("l+", "l-", 11.9, source_v=12.31, accuracy=0.08, meter="M", by_meter=given)
    first, beside = seen(walked).values
    assert (first.limit, beside.limit) == (0.08, 0.011)
    assert first.meter == "volts M"
    assert beside.meter not in (first.meter, "volts ")
    assert beside.sigma == pytest.approx(0.011 / math.sqrt(3)), "no gain of the other meter in it"


# Moments


def test_a_moment_says_which_loads_are_otherwise_than_in_the_scenario() -> None:
    document = loop()
    document["elements"].append(load("m", "w1", "b-", start_multiple=4.0))
    document["scenarios"][0]["on"] = ["l", "m"]
    craft = craft_of(document)
    moments = [
        Moment(id="dark", scenario="on", loads={"l": "off"}),
        Moment(id="try", scenario="on", loads={"l": "attempted"}, warm_min=2.0),
        Moment(id="late", scenario="on", warm_min=15.0),
    ]
    readings = [
        reading("b+", "b-", 12.5, moment="dark"),
        reading("b+", "b-", 12.4, moment="try"),
        reading("b+", "b-", 12.3, moment="late"),
        reading("b+", "b-", 9.8, hold="least"),
        reading("b+", "b-", 12.2),
    ]
    found = observe(craft, readings, moments)
    by_key = {c.key: c for c in found.conditions}
    assert "l" not in by_key["dark"].running
    assert by_key["try"].states["l"] == "attempted"
    assert "l" in by_key["try"].running, "commanded is on, whatever it does"
    held = next(c for c in found.conditions if c.scenario.starting)
    assert held.scenario.starting == {"m"}, "what a meter held is a start of what has one"
    assert warm_order(found.conditions) == ["try", "late"]
    assert len(by_key) == 5


def test_a_trial_adds_its_wire_and_keeps_the_moments_source() -> None:
    moment = Moment(id="m1", scenario="on")
    trial = Trial(id="t1", moment="m1", kind="return", start="l-", end="b-", outcome="right")
    found = observe(CRAFT, [reading("l+", "l-", 12.2, trial="t1")], [moment], [trial])
    ((_, conditions),) = found.trials
    added = conditions.craft(CRAFT).pieces[-1]
    assert (added.id, added.start, added.end, added.resistance_ohm) == (
        TRIAL_PIECE, "l-", "b-", 0.01,
    )  # fmt: skip
    assert found.values[0].conditions.key == conditions.key
    assert conditions.craft(CRAFT).pieces[:-1] == CRAFT.pieces
    unsaid = observe(CRAFT, [], [moment], [replace(trial, outcome=None)])
    assert unsaid.trials == ()
    lost = observe(CRAFT, [], [], [trial])
    assert lost.trials == (), "a trial of no moment says nothing"


# Ways


def test_points_are_cut_apart_by_what_is_open() -> None:
    scenario = CRAFT.scenario()
    assert not cut_apart(CRAFT, scenario, (), "l+", "b-")
    assert cut_apart(CRAFT, scenario, ("j", "l"), "l+", "b-")
    assert not cut_apart(CRAFT, scenario, ("j",), "l+", "b-"), "through the load and the return"
    off = replace(scenario, on=frozenset())
    assert cut_apart(CRAFT, off, ("j",), "l+", "b-")
    assert not cut_apart(CRAFT, off, (), "l+", "b-"), "through the feed and the source"


@given(data=st.data())
def test_what_was_read_tells_each_run_the_same_worked_out_once_for_all(data: st.DataObject) -> None:
    craft = craft_by(
        'fuse 5 [P] > 1.5 mm2 2 m > load "A" 1 A > 1.5 mm2 2 m > ring [B] > 6 mm2 1 m',
        '[P] > 1.5 mm2 3 m > load "C" 2 A > 1.5 mm2 3 m > [B]',
    )
    at = {"scenario": craft.scenarios[0].id}
    runs = Judging(craft, (), (), (), LIMITS, TABLES).runs.values()
    pairs = [run.ends(side) for run in runs for side in SIDES]
    spans = st.sampled_from([*pairs, *((black, red) for red, black in pairs), ("live", "back")])
    shown = st.sampled_from([-0.3, 0.1, 0.2, 12.1])
    taken = [
        reading(*pair, value, id=str(i), **at)
        for i, (pair, value) in enumerate(data.draw(st.lists(st.tuples(spans, shown), max_size=6)))
    ]
    judging = Judging(craft, taken, (), (), LIMITS, TABLES)
    for run in judging.runs.values():
        shared = judging.judge(run.load.id).observed
        assert shared == observe(craft, taken, forward=run.forward_spans)
