"""The walk's steps, patterns, stand-in loads and refusals, each by hand."""

import math
from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.account import account, inferred_a
from spare_margin.core.budget import RunBudget, RunBudgets
from spare_margin.core.cornering import Cornered, Probe, Suspect
from spare_margin.core.jobs import NoteState, Reading, WalkNote
from spare_margin.core.limits import Limits
from spare_margin.core.meters import Meter
from spare_margin.core.network import solve
from spare_margin.core.patterns import pattern
from spare_margin.core.readings import Evidence
from spare_margin.core.runs import Tracer
from spare_margin.core.safety import out_of_scope
from spare_margin.core.stand_in import StandInFigures, stand_in
from spare_margin.core.walk import Walk, loop_is_good, manner, range_for, walk
from spare_margin.data.shelves import shipped_tables
from tests.conftest import craft_of, loop

TABLES = shipped_tables()
IN_DOUBT = Cornered((Suspect("j", "excess_resistance", 0.4, 0.1),), (), False, 2.0, False)
SURE = replace(IN_DOUBT, done=True)


def budget_of(limit_set: str = "by-duty") -> RunBudget:
    """The loop of the tests at 5 A: feed drops about 0.26 V, return 0.22 V."""
    craft = craft_of(loop())
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    solution = solve(craft, craft.scenario(), TABLES)
    return RunBudgets(craft, runs, solution, Limits(TABLES.limit_sets[limit_set], {}), TABLES)["l"]


def reading(red: str, black: str, value: float | None, **more: Any) -> Reading:
    made: dict[str, Any] = {
        "id": f"{red}-{black}-{value}", "revision": "r", "quantity": "volts", "state": "value",
        "typed": str(value), "accuracy": 0.004, "scenario": "on", "taken_at": "2026-05-01T08:00:00Z",
    }  # fmt: skip
    return Reading(**{**made, "red": red, "black": black, "value": value, **more})


def note(step: str, state: NoteState, reason: str = "") -> WalkNote:
    return WalkNote(
        id=f"{step}{state}", stage="as_found", run="l", step=step, state=state, reason=reason, who="",
        made_at="2026-05-01T08:00:00Z",
    )  # fmt: skip


def stands(
    readings: list[Reading], notes: tuple[WalkNote, ...] = (), cornered: Cornered = IN_DOUBT,
    amps: bool = True, budget: RunBudget | None = None,
) -> Walk:  # fmt: skip
    budget = budget or budget_of()
    clamp = [reading("l+", "l-", 5.0, quantity="amperes", id="clamp")] if amps else []
    seen = account(budget, [*clamp, *readings], 12.0, frozenset())
    read = frozenset(frozenset((r.red, r.black)) for r in readings)
    return walk(budget, seen, cornered, read, amps, notes)


SOURCE = reading("b+", "b-", 12.55)
LOAD = reading("l+", "l-", 11.75)
RETURN = reading("l-", "b-", 0.55)
FEED = reading("b+", "l+", 0.25)


@pytest.mark.parametrize(
    ("readings", "amps", "expected"),
    [
        ([], False, "source"),
        ([SOURCE], False, "current"),
        ([SOURCE], True, "load"),
        ([SOURCE, LOAD], True, "return"),
        ([SOURCE, LOAD, RETURN], True, "feed"),
    ],
)
def test_the_opening_steps_in_their_order(
    readings: list[Reading], amps: bool, expected: str
) -> None:
    found = stands(readings, amps=amps).next
    assert found is not None
    assert found.id == expected


def test_after_the_sides_only_pieces_of_the_one_that_failed() -> None:
    probes = (
        Probe("b+", "f1", 0.9, 0.8), Probe("l-", "b-", 0.8, 0.8), Probe("l-", "r1", 0.5, 1.0),
    )  # fmt: skip
    cornered = replace(IN_DOUBT, next_probes=probes[1:])
    found = stands([SOURCE, LOAD, RETURN, FEED], cornered=cornered).next
    assert found is not None
    assert (found.red, found.black, found.side) == ("l-", "r1", "return")
    assert (found.bits, found.minutes) == (0.5, 1.0)
    # Without a probe left, the pieces of that side one by one.
    found = stands([SOURCE, LOAD, RETURN, FEED]).next
    assert found is not None
    assert (found.red, found.black) == ("l-", "r1")
    rest = [reading("l-", "r1", 0.5), reading("r1", "b-", 0.05)]
    assert stands([SOURCE, LOAD, RETURN, FEED, *rest]).ending == "out_of_steps"


def test_the_ways_a_walk_ends() -> None:
    everything = [SOURCE, LOAD, RETURN, FEED]
    assert stands([*everything, reading("l-", "r1", 0.45)], cornered=SURE).ending == "cornered"
    good = [
        SOURCE,
        reading("l+", "l-", 12.08),
        reading("l-", "b-", 0.21),
        reading("b+", "l+", 0.26),
    ]
    assert stands(good).ending == "within"
    dead = [SOURCE, reading("l+", "l-", 12.55), reading("l-", "b-", 0.0), reading("b+", "l+", 0.0)]
    nothing = [reading("l+", "l-", 0.0, quantity="amperes", id="none")]
    seen = account(budget_of(), [*nothing, *dead], 12.0, frozenset())
    read = frozenset(frozenset((r.red, r.black)) for r in dead)
    assert walk(budget_of(), seen, IN_DOUBT, read, True, ()).ending == "not_loaded"


def test_a_skipped_step_is_passed_until_it_is_taken_up() -> None:
    passed = stands([], (note("source", "skipped", "no reach"),), amps=False)
    assert passed.next is not None
    assert (passed.next.id, [s.id for s in passed.skipped]) == ("current", ["source"])
    back = (note("source", "skipped", "no reach"), note("source", "back"))
    again = stands([], back, amps=False)
    assert again.next is not None
    assert (again.next.id, again.skipped) == ("source", ())


@pytest.mark.parametrize(
    ("load_v", "limit_set", "good"),
    [
        # Predicted: 0.48 V in all, 0.24 V spare on the feed, 0.03 V on the return.
        (12.55 - 0.47, "by-duty", True),
        (12.55 - 0.56, "by-duty", False),
        (12.55 - 0.56, "half-volt", True),
        (12.55 - 0.90, "half-volt", False),
        (12.55 - 0.47, "load-share", True),
        (12.55 - 0.52, "load-share", False),
        (12.55 - 1.10, "percent", True),
        (12.55 - 1.25, "percent", False),
    ],
)
def test_when_the_whole_loop_is_good(load_v: float, limit_set: str, good: bool) -> None:
    budget = budget_of(limit_set)
    clamp = reading("l+", "l-", 5.0, quantity="amperes", id="clamp")
    taken = [clamp, SOURCE, reading("l+", "l-", load_v)]
    assert loop_is_good(budget, account(budget, taken, 12.0, frozenset())) is good


def test_one_meter_knows_a_difference_better_than_two() -> None:
    meter = Meter("m", 0.5, 2, 6000)
    assert meter.difference(12.6, 12.1) == pytest.approx(0.5 * 0.005 + 4 * 0.01)
    assert meter.difference(12.6, 12.1) < meter.accuracy(12.6) + meter.accuracy(12.1)
    budget = budget_of("half-volt")
    wide = [replace(r, accuracy=0.083) for r in (SOURCE, reading("l+", "l-", 12.06))]
    seen = account(budget, wide, 12.0, frozenset())
    assert loop_is_good(budget, seen, meter)


@pytest.mark.parametrize(
    ("feed_terminal", "return_terminal", "name"),
    [
        (12.30, 0.10, "wiring_good"),
        (11.60, 0.10, "feed_excess"),
        (12.30, 0.60, "return_excess"),
        (11.60, 0.60, "both_sides"),
        (12.55, 12.55, "return_open"),
        (0.0, 0.0, "feed_open"),
    ],
)
def test_every_pattern_of_the_table(
    feed_terminal: float, return_terminal: float, name: str
) -> None:
    taken = [SOURCE, reading("l+", "b-", feed_terminal), reading("l-", "b-", return_terminal)]
    found = pattern(budget_of(), Evidence(taken))
    assert found is not None
    assert found.name == name
    assert set(found.readings) == {r.id for r in taken}
    assert pattern(budget_of(), Evidence(taken[:2])) is None


def test_a_pattern_under_a_round_trip_ceiling() -> None:
    taken = [SOURCE, reading("l+", "b-", 11.9), reading("l-", "b-", 0.1)]
    found = pattern(budget_of("load-share"), Evidence(taken))
    assert found is not None
    assert found.name == "feed_excess"


def test_a_stand_in_load_by_hand() -> None:
    budget = budget_of()
    figures = StandInFigures(
        source_v=12.6, on_battery_v=12.4, amps=2.5, accuracy_v=0.02, in_connector_v=12.1,
        return_moved_v=12.3,
    )  # fmt: skip
    seen = stand_in(figures, budget)
    # Leads 0.2 V; two readings' doubt over 2.5 A is 16 mohm; the return's 0.25 V at 5 A is 50 mohm.
    assert (seen.leads_v, seen.least_ohm) == (pytest.approx(0.2), pytest.approx(0.016))
    assert seen.wanted_ohm == pytest.approx(0.05)
    assert seen.proves
    # Twice the current at the load: losses scale by two.
    assert seen.loop_v == pytest.approx(0.6)
    assert seen.feed_v == pytest.approx(0.2)
    assert seen.return_v == pytest.approx(0.4)
    other = stand_in(replace(figures, return_moved_v=None, feed_moved_v=12.2), budget)
    assert (other.feed_v, other.return_v) == (pytest.approx(0.2), pytest.approx(0.4))
    weak = stand_in(replace(figures, amps=0.5), budget)
    assert not weak.proves
    assert "Take one of 2.4 A or more" in weak.says


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("Airbag module", "airbags"), ("air-bag squib", "airbags"), ("Belt tensioner", "airbags"),
        ("HV inverter", "high-voltage"), ("orange cable", "high-voltage"), ("Hybrid drive", "high-voltage"),
        ("230 V socket", "mains"), ("110V outlet", "mains"), ("Shore power", "mains"),
        ("mains charger", "mains"), ("hook-up inlet", "mains"),
    ],
)  # fmt: skip
def test_systems_out_of_bounds_are_known_by_name(text: str, word: str) -> None:
    found = out_of_scope("Bilge pump", text)
    assert found is not None
    assert word in found.what
    assert found.why.endswith("only.")


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


def test_manners_of_probing() -> None:
    assert "wire side" in manner("backprobe")
    assert "Do not pierce" in manner("trim")
    assert all(manner(access) for access in ("open", "backprobe", "trim"))


def test_a_joint_that_is_warmer_than_its_cable() -> None:
    budget = budget_of()
    pin = budget.feed.pieces[2].step
    for kelvin, check in ((5.0, None), (14.0, "warm"), (31.0, "hot")):
        warm = reading(pin.entry, pin.exit, kelvin, quantity="kelvin")
        findings = account(budget, [warm], 12.0, frozenset()).findings
        assert [f.check for f in findings] == ([] if check is None else [check])
    assert math.isfinite(budget.spare_v)


def test_the_current_by_the_drop_of_a_known_wire() -> None:
    budget = budget_of()
    wire = next(p for p in budget.feed.pieces if p.step.piece.id == "w")
    taken = [reading(wire.step.entry, wire.step.exit, 0.16)]
    seen = account(budget, taken, 12.0, frozenset())
    found = inferred_a(budget, seen.pieces)
    assert found is not None
    amps, doubt, piece = found
    # Five metres of 2.5 mm2: 39.9 mohm at 20 C.
    assert (piece, amps) == ("w", pytest.approx(0.16 / 0.0399, rel=0.01))
    assert doubt == pytest.approx(0.004 / 0.0399 + 0.08 * amps, rel=0.01)
    assert inferred_a(budget, {}) is None


def test_what_a_meter_held_stands_by_itself() -> None:
    budget = budget_of()
    pin = budget.feed.pieces[2].step
    steady, held = (
        reading(pin.entry, pin.exit, 0.02),
        reading(pin.entry, pin.exit, 0.9, hold="most"),
    )
    seen = account(budget, [steady, held], 12.0, frozenset())
    assert seen.pieces["j"].raw.volts == pytest.approx(0.02)
    assert [f.check for f in seen.findings if f.readings == (held.id,)] == ["held"]
    assert "0.9 V was the most" in next(f.says for f in seen.findings if f.check == "held")
