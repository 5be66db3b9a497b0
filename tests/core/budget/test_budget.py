"""Allowances and spare, worked by hand, and their laws."""

import math
import random
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.budget.allowances import CopperOhms, FixedShares
from spare_margin.core.budget.headroom import Headroom, HeadroomEnd, headroom, own_pair
from spare_margin.core.budget.least_copper import CopperProgramme
from spare_margin.core.budget.loops import Loops
from spare_margin.core.budget.run_budget import RunBudget, RunBudgets
from spare_margin.core.budget.steady_currents import SteadyCurrents
from spare_margin.core.circuit.network import solve, solved_craft
from spare_margin.core.circuit.runs import Tracer, traced
from spare_margin.core.circuit.ways import Ways
from spare_margin.core.model.limits import Ceilings, Limits, LimitSet
from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.data.tables import shipped_tables
from tests.conftest import Document, craft_of, job_document, load, loop, piece, wire
from tests.trees import least_copper, tree

TABLES = shipped_tables()
BY_DUTY = Limits(TABLES.limit_sets["by-duty"], {})


def budgets(
    document: Document, limits: Limits = BY_DUTY, scenario: str | None = None
) -> tuple[Craft, dict[str, RunBudget]]:
    craft = craft_of(document)
    solution = solve(craft, craft.scenario(scenario), TABLES)
    tracer = Tracer(craft, {k: e.resistance_ohm or 0 for k, e in solution.elements.items()})
    runs = {each.id: tracer.trace(each) for each in craft.loads}
    return craft, RunBudgets(craft, runs, solution, limits, TABLES)


def ways_of(craft: Craft) -> Ways:
    return Ways(traced(craft, {}).runs, [each.id for each in craft.pieces])


def allowances(budget: RunBudget) -> dict[str, float]:
    return {p.step.piece.id: p.allowance.volts for side in budget.sides for p in side.pieces}


def test_allowances_by_hand() -> None:
    # Feed 0.50 V: fuse 7.7 mohm x 1.5 x 5 A = 57.75 mV, pin aged 10 mohm x 5 A = 50 mV.
    _, made = budgets(loop())
    allowed = allowances(made["l"])
    assert allowed["f"] == pytest.approx(0.05775)
    assert allowed["j"] == pytest.approx(0.05)
    assert allowed["w"] == pytest.approx(0.5 - 0.05775 - 0.05)
    assert allowed["wr"] == pytest.approx(0.25 - 0.05)
    feed = made["l"].feed
    by_hand = 5 * (0.0077 + 0.00798 * 5 + math.sqrt(0.002 * 0.005))
    assert feed.drop_v == pytest.approx(by_hand, rel=1e-9)
    assert feed.spare_v == pytest.approx(0.5 - by_hand, rel=1e-9)


def shared_trunk() -> Document:
    """A main feed of 4 m with a run of 6 m and 5 A, and one of 2 m and 11 A, behind it."""
    return job_document(
        [
            wire("main", "b+", "p", length_m=4, mm2="16"),
            wire("a", "p", "l+", length_m=6),
            load("l", end="b-"),
            wire("b", "p", "m+", length_m=2),
            load("m", "m+", "b-", behaviour="constant_current", current_a=11.0),
        ]
    )


def test_the_copper_of_a_shared_trunk_is_the_least_there_is() -> None:
    """Both branches fill what the trunk leaves, so that copper is a function of the trunk's volts v:

    16 x 16 / v + (36 x 5 + 4 x 11) / (0.5 - v), least where 256 / v^2 = 224 / (0.5 - v)^2.
    """
    _, made = budgets(shared_trunk())
    trunk = 0.5 / (1 + math.sqrt(224 / 256))
    assert allowances(made["l"]) == pytest.approx({"main": trunk, "a": 0.5 - trunk})
    assert allowances(made["m"]) == pytest.approx({"main": trunk, "b": 0.5 - trunk})


def test_what_one_run_cannot_pay_a_shared_joint_no_run_may_spend_there() -> None:
    """Three pins in the trunk; the load of 11 A may lose 20 mV on its feed, less than they ask for."""
    document = shared_trunk()
    document["elements"] += [
        piece(key, start, end, style="pin")
        for key, start, end in (("p1", "b+", "q1"), ("p2", "q1", "q2"), ("p3", "q2", "q3"))
    ]
    document["elements"][0]["from"] = "q3"
    document["nodes"] += [{"id": key} for key in ("q1", "q2", "q3")]
    tight = Limits(TABLES.limit_sets["by-duty"], {"m": Ceilings(feed_v=0.02, return_v=50.0)})
    _, made = budgets(document, tight)
    for run in ("l", "m"):
        pins = [p.allowance for p in made[run].feed.pieces if p.step.piece.id.startswith("p")]
        assert sum(p.volts for p in pins) == pytest.approx(0.02)
        assert {(p.rule, p.load_id) for p in pins} == {("squeezed", "m")}
    assert made["m"].feed.eaten_by
    assert not made["l"].feed.eaten_by


def test_copper_in_a_row_is_shared_by_length_and_root_of_current() -> None:
    """One run's copper at two currents: a load of 11 A that no ceiling holds shares the main feed."""
    free = {"duty": "charging"}
    document = shared_trunk()
    document["elements"][4] |= free
    wide = Limits(TABLES.limit_sets["by-duty"], {"m": Ceilings(feed_v=50.0, return_v=50.0)})
    _, made = budgets(document, wide)
    weights = {"main": 4 * math.sqrt(16), "a": 6 * math.sqrt(5)}
    share = 0.5 / sum(weights.values())
    assert allowances(made["l"]) == pytest.approx(
        {key: weight * share for key, weight in weights.items()}, rel=1e-3
    )
    main = made["m"].feed.pieces[0].allowance
    assert main.load_id == "l"  # its run binds the trunk for both


def test_a_conductor_is_sized_for_the_scenario_that_binds_it() -> None:
    """Half a load in one scenario: the ohms are those of the other, and the volts half as many."""
    document = loop()
    half = {"id": "half", "on": ["l"], "sources": {"s": {"open_circuit_v": 6.3}}}
    document["elements"][3] = {
        **document["elements"][3], "behaviour": "constant_resistance", "resistance_ohm": 2.4,
    }  # fmt: skip
    del document["elements"][3]["current_a"]
    document["scenarios"] = [half, {"id": "on", "on": ["l"]}]
    craft = craft_of(document)
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    solutions = [solve(craft, s, TABLES) for s in craft.scenarios]
    loops = Loops(craft, runs, BY_DUTY, TABLES)
    moments = [FixedShares.at(loops, each) for each in solutions]
    copper = CopperOhms(moments)
    made = [RunBudgets(craft, runs, each, BY_DUTY, TABLES, copper)["l"] for each in solutions]
    both = [allowances(budget) for budget in made]
    assert sum(both[1][key] for key in ("f", "w", "j")) == pytest.approx(0.5)
    assert both[0]["w"] == pytest.approx(both[1]["w"] * made[0].current_a / made[1].current_a)


@pytest.mark.parametrize(("nominal", "factor"), [(12, 1), (24, 2), (48, 4)])
def test_limits_scale_with_the_nominal_voltage(nominal: int, factor: int) -> None:
    _, made = budgets(loop(nominal_v=nominal))
    assert made["l"].ceilings == Ceilings(0.5 * factor, 0.25 * factor)


@pytest.mark.parametrize(
    ("duty", "feed", "back"),
    [
        ("control_supply", 0.10, 0.05),
        ("charging", 0.20, 0.20),
        ("ordinary", 0.50, 0.25),
        ("short_time", 0.50, 0.25),
    ],
)
def test_the_duty_table(duty: str, feed: float, back: float) -> None:
    document = loop()
    document["elements"][3]["duty"] = duty
    _, made = budgets(document)
    assert made["l"].ceilings == Ceilings(feed, back)


def test_single_piece_ceiling_and_what_eats_the_side() -> None:
    document = job_document(
        [
            *(
                piece(f"s{i}", a, b, kind="switch", style="panel switch")
                for i, (a, b) in enumerate([("b+", "1"), ("1", "2"), ("2", "3"), ("3", "4")])
            ),
            piece("s4", "4", "5", kind="switch", style="panel switch"),
            piece("s5", "5", "6", kind="switch", style="panel switch"),
            wire("w", "6", "l+"),
            load(end="b-"),
        ]
    )
    _, made = budgets(document)
    side = made["l"].feed
    assert side.eaten_by
    assert {p.allowance.rule for p in side.pieces} == {"squeezed", "copper"}
    assert sum(p.allowance.volts for p in side.pieces) == pytest.approx(0.5)
    assert allowances(made["l"])["w"] == 0


def test_round_trip_ceiling_binds_both_sides_and_own_limits_rule() -> None:
    limits = Limits(TABLES.limit_sets["by-duty"], {"l": Ceilings(round_trip_v=0.4)})
    _, made = budgets(loop(), limits)
    budget = made["l"]
    assert sum(allowances(budget).values()) == pytest.approx(0.4)
    assert budget.spares()["round_trip"] == pytest.approx(
        0.4 - budget.feed.drop_v - budget.back.drop_v
    )
    tight = Limits(limits.limit_set, {"l": Ceilings(feed_v=0.2)})
    assert budgets(loop(), tight)[1]["l"].ceilings == Ceilings(0.2, 0.25)


def test_a_resistor_on_purpose_is_no_loss() -> None:
    document = loop()
    document["elements"][2] = piece("r", "w1", "l+", kind="resistor", resistance_ohm=0.5)
    _, made = budgets(document)
    feed = made["l"].feed
    assert feed.purpose_v == pytest.approx(2.5)
    assert feed.drop_v == pytest.approx(5 * (0.0077 + 0.00798 * 5))
    assert allowances(made["l"])["r"] == pytest.approx(2.5 * 1.1)


def test_parallel_returns_spend_once() -> None:
    document = job_document(
        [
            wire("w", "b+", "l+"), load(), wire("r", "l-", "b-", "return"),
            piece("strap", "l-", "c", "return", resistance_ohm=0.05),
            piece("body", "c", "b-", "return", kind="body_return", resistance_ohm=0.05),
        ]
    )  # fmt: skip
    craft, made = budgets(document)
    back = made["l"].back
    assert [p.step.piece.id for p in back.pieces] == ["r", "strap", "body"]
    assert [p.step.beside for p in back.pieces] == [False, True, True]
    assert back.drop_v == pytest.approx(back.pieces[0].drop_v)
    beside = sum(p.allowance.volts for p in back.pieces[1:])
    assert beside == pytest.approx(back.pieces[0].allowance.volts)
    assert [w.id for w in own_pair(made["l"].run)] == ["w", "r"]
    assert craft.kind == "boat"


def room_of(document: Document, limits: Limits = BY_DUTY) -> Headroom:
    craft, made = budgets(document, limits)
    return headroom(solved_craft(craft, craft.scenario(), TABLES), made["l"], limits, TABLES)


@pytest.mark.parametrize(
    ("mm2", "per_m", "until"),
    [
        ("1.5", 0.0133, HeadroomEnd("return")),
        ("2.5", 0.00798, HeadroomEnd("return")),
        ("6", 0.0033, HeadroomEnd("fuse", "f")),
    ],
)
def test_headroom_lands_on_the_first_bound(mm2: str, per_m: float, until: HeadroomEnd) -> None:
    document = loop()
    for i in (1, 5):
        document["elements"][i]["size"]["value"] = mm2
    room = room_of(document)
    assert room.amperes is not None
    assert room.metres is not None
    back_ohm = 5 * per_m + math.sqrt(0.002 * 0.005)
    by_hand = {"return": 0.25 / back_ohm - 5, "fuse": 10 / 1.25 - 5}[until.kind]
    assert (room.amperes_until, room.metres_until) == (until, HeadroomEnd("return"))
    assert room.amperes == pytest.approx(by_hand, abs=1e-2)
    assert room.metres == pytest.approx((0.25 - 5 * back_ohm) / (5 * per_m), abs=2e-2)
    assert (room.amperes < 0) == (mm2 == "1.5")


def test_a_load_of_short_time_may_draw_what_its_fuse_is_rated_for() -> None:
    document = loop()
    document["elements"][3]["duty"] = "short_time"
    document["elements"][1]["insulation_c"] = document["elements"][5]["insulation_c"] = 105
    room = room_of(document, Limits(TABLES.limit_sets["by-duty"], {"l": Ceilings(5, 5, 10)}))
    assert room.amperes == pytest.approx(10 - 5, abs=1e-3)
    assert room.amperes_until == HeadroomEnd("fuse", "f")


def test_a_fuse_that_bears_too_much_already_does_not_end_the_metres() -> None:
    document = loop()
    document["elements"][3]["current_a"] = 9.0
    for i in (1, 5):
        document["elements"][i]["size"]["value"] = "10"
    room = room_of(document)
    assert room.amperes == pytest.approx(10 / 1.25 - 9, abs=1e-3)
    assert room.amperes_until == HeadroomEnd("fuse", "f")
    assert room.metres is not None
    assert room.metres > 0
    assert room.metres_until == HeadroomEnd("return")


def test_a_wire_bears_less_in_hot_air() -> None:
    # 2.5 mm2 with insulation for 105 C: the table's amperes x sqrt((105 - 80) / (105 - 30)).
    document = loop()
    document["elements"][0].update(rating_a=100, resistance_ohm=0.001)
    for i in (1, 5):
        document["elements"][i]["insulation_c"] = 105
    document["elements"][5]["engine_space"] = True
    document["scenarios"][0]["engine_c"] = 80.0
    wide = Limits(LimitSet("wide", "wide", "", (), {}), {})
    room = room_of(document, wide)
    table = next(
        row.ampacity_a for key, row in TABLES.conductors.ampacities.items()
        if key == ("mm2", "2.5", 105)
    )  # fmt: skip
    assert room.amperes_until == HeadroomEnd("wire", "wr")
    assert room.amperes == pytest.approx(table * math.sqrt(25 / 75) - 5, abs=1e-3)
    document["scenarios"][0]["engine_c"] = 106.0
    assert room_of(document, wide).amperes_until == HeadroomEnd("wire", "wr")
    del document["elements"][5]["engine_space"]
    document["scenarios"][0]["ambient_c"] = 30.0
    assert room_of(document, wide).amperes == pytest.approx(table - 5, abs=1e-3)


def backwards(document: Document) -> Document:
    """The same loop with every piece drawn from its other end."""
    for each in document["elements"]:
        if each["kind"] != "load":
            each["from"], each["to"] = each["to"], each["from"]
    return document


def with_a_resistor() -> Document:
    document = loop()
    document["elements"][2] = piece("j", "w1", "l+", kind="resistor", resistance_ohm=0.1)
    return document


def with_a_strap_beside() -> Document:
    document = loop()
    document["elements"].append(wire("strap", "r1", "b-", "return", length_m=8.0))
    return document


def thick() -> Document:
    document = loop()
    document["elements"][1]["size"]["value"] = document["elements"][5]["size"]["value"] = "16"
    return document


@pytest.mark.parametrize(
    "make", [lambda: backwards(loop()), with_a_resistor, with_a_strap_beside, thick]
)
def test_where_headroom_ends_a_ceiling_is_just_kept(make: Callable[[], Document]) -> None:
    """The load drawing that much more, and its wires that much longer, leave the named side nothing."""
    document = make()
    document["elements"][0]["rating_a"] = 100
    room = room_of(document)
    assert room.amperes is not None
    assert room.metres is not None
    more, longer = make(), make()
    for each in (more, longer):
        each["elements"][0]["rating_a"] = 100
    more["elements"][3]["current_a"] += room.amperes
    for i in (1, 5):
        longer["elements"][i]["length_m"] += room.metres
    for changed, until in ((more, room.amperes_until), (longer, room.metres_until)):
        assert until is not None
        assert budgets(changed)[1]["l"].spares()[until.kind] == pytest.approx(0, abs=2e-4)
        assert budgets(changed)[1]["l"].spare_v == pytest.approx(0, abs=2e-4)


def test_a_wire_that_warms_ends_the_amperes_before_the_fuse_that_seemed_first() -> None:
    """By its ohms now the return would bear 16.2 A, the fuse 16: but at 16 A the wire is warmer."""
    document = loop()
    document["elements"][0]["rating_a"] = 20
    document["elements"][1]["size"]["value"] = "10"
    for i in (1, 5):
        document["elements"][i]["insulation_c"] = 105
    back = document["elements"][5]
    back["length_m"] = (0.25 / 16.2 - math.sqrt(0.002 * 0.005)) / 0.00798
    document["scenarios"][0] |= {"temperature_model": "self_heating", "ambient_c": 20.0}
    room = room_of(document)
    assert room.amperes is not None
    assert room.amperes < 11 - 0.1
    assert room.amperes_until == HeadroomEnd("return")


def test_headroom_without_bound_or_hope() -> None:
    document = loop()
    document["elements"][2]["resistance_ohm"] = 0.2
    room = room_of(document)
    assert room.metres is None
    assert room.metres_until == HeadroomEnd("piece", "j")


def run_of(sizes: list[str], lengths: list[float], **more: Any) -> RunBudget:
    points = ["b+", *(f"n{i}" for i in range(len(sizes) - 1)), "l+"]
    wires = [
        wire(f"w{i}", points[i], points[i + 1], mm2=size, length_m=length)
        for i, (size, length) in enumerate(zip(sizes, lengths, strict=True))
    ]
    _, made = budgets(job_document([*wires, load(end="b-", **more)]))
    return made["l"]


SIZES = ["1", "1.5", "2.5", "4", "6", "10", "16"]


@settings(max_examples=40)
@given(st.lists(st.tuples(st.sampled_from(SIZES), st.floats(0.1, 20)), min_size=1, max_size=6))
def test_allowances_fill_the_ceiling_and_spares_add_up(wires: list[tuple[str, float]]) -> None:
    side = run_of([s for s, _ in wires], [m for _, m in wires]).feed
    assert sum(p.allowance.volts for p in side.pieces) == pytest.approx(0.5)
    assert side.spare_v == pytest.approx(sum(p.spare_v for p in side.pieces))


@settings(max_examples=30)
@given(st.lists(st.floats(0.5, 10), min_size=1, max_size=4), st.data())
def test_spare_is_monotonic_in_size(lengths: list[float], data: st.DataObject) -> None:
    sizes = [data.draw(st.sampled_from(SIZES[:-1])) for _ in lengths]
    at = data.draw(st.integers(0, len(sizes) - 1))
    bigger = [*sizes]
    bigger[at] = SIZES[SIZES.index(sizes[at]) + 1]
    law = {"behaviour": "constant_power", "power_w": 40}
    before, after = run_of(sizes, lengths, **law), run_of(bigger, lengths, **law)
    assert after.feed.drop_v < before.feed.drop_v
    assert after.spare_v >= before.spare_v


@settings(max_examples=25)
@given(seed=st.integers(0, 10**6), trunks=st.integers(0, 3), loads=st.integers(1, 6))
def test_every_ceiling_holds_and_no_conductor_could_have_more(
    seed: int, trunks: int, loads: int
) -> None:
    """What is allowed fills no ceiling over; each conductor stands under one that is full."""
    craft, ceilings = tree(random.Random(seed), trunks, loads, scenarios=2, times=3.0)
    craft = least_copper(craft, ceilings).sized(
        {p.id: Size("mm2", "6") for p in craft.pieces if isinstance(p, Conductor)}
    )
    tracer = Tracer(craft, {})
    runs = {each.id: tracer.trace(each) for each in craft.loads}
    limits = Limits(LimitSet("none", "none", "", (), {}), ceilings)
    solutions = [solve(craft, s, TABLES) for s in craft.scenarios]
    loops = Loops(craft, runs, limits, TABLES)
    moments = [FixedShares.at(loops, each) for each in solutions]
    copper = CopperOhms(moments)
    ohms = np.array([copper.ohms.get(key, 0.0) for key in loops.ids])
    full: set[str] = set()
    for moment in moments:
        lines = moment.lines()
        for left, amperes in zip(lines.left, lines.amperes, strict=True):
            spent = float(amperes @ ohms)
            assert left <= 0 or spent <= left * (1 + 1e-6)
            if spent >= left * (1 - 1e-6):
                full |= {loops.ids[i] for i in np.flatnonzero(amperes)}
    assert full == set(copper.ohms)


@settings(max_examples=25)
@given(seed=st.integers(0, 10**6), moves=st.lists(st.floats(-0.02, 0.02), min_size=8, max_size=8))
def test_no_other_ohms_hold_less_copper(seed: int, moves: list[float]) -> None:
    """Nothing near the answer that keeps every line is better: so far as convex goes, nothing is."""
    rng = np.random.default_rng(seed)
    amperes = np.vstack([rng.random((5, 8)) * (rng.random((5, 8)) < 0.5), np.full(8, 0.1)])
    amperes = amperes[amperes.any(axis=1)]
    left, lengths = rng.random(len(amperes)) + 0.1, rng.random(8) * 5 + 0.1
    ohms, price = CopperProgramme(amperes, left).least(lengths)
    assert (amperes @ ohms <= left * (1 + 1e-9)).all()
    assert (price >= -1e-12).all()
    other = ohms * (1 + np.array(moves))
    other /= max(float((amperes @ other / left).max()), 1.0)
    assert (lengths**2 / other).sum() >= (lengths**2 / ohms).sum() * (1 - 1e-8)


@settings(max_examples=25)
@given(seed=st.integers(0, 10**6))
def test_each_conductor_stands_in_a_line_that_is_used_up(seed: int) -> None:
    """However little copper hangs on it: lengths and volts spread over six orders."""
    rng = np.random.default_rng(seed)
    amperes = np.vstack([rng.random((5, 6)) * (rng.random((5, 6)) < 0.5), np.full(6, 0.1)])
    amperes = amperes[amperes.any(axis=1)]
    left, lengths = 10 ** rng.uniform(-3, 2, len(amperes)), 10 ** rng.uniform(-3, 3, 6)
    ohms, _ = CopperProgramme(amperes, left).least(lengths)
    used_up = amperes @ ohms >= left * (1 - 2e-9)
    assert (amperes[used_up] > 0).any(axis=0).all()
    assert (amperes @ ohms <= left * (1 + 1e-9)).all()


@settings(max_examples=10)
@given(seed=st.integers(0, 10**6), sizes=st.sampled_from(["4", "16"]))
def test_steady_currents_are_those_of_the_solved_craft(seed: int, sizes: str) -> None:
    craft, ceilings = tree(random.Random(seed), 2, 4, scenarios=2)
    craft = least_copper(craft, ceilings).sized(
        {p.id: Size("mm2", sizes) for p in craft.pieces if isinstance(p, Conductor)}
    )
    ways = ways_of(craft)
    for scenario in craft.scenarios:
        steady = SteadyCurrents(craft, ways).at(scenario)
        assert steady is not None
        states = solve(craft, scenario, TABLES).elements
        pieces = [abs(states.current_a(each.id)) for each in craft.pieces]
        assert pieces == pytest.approx(steady[0].tolist(), abs=1e-9)
        assert [states.current_a(key) for key in ways.run_ids] == pytest.approx(steady[1].tolist())


def test_a_motor_that_starts_draws_as_often_as_it_is_said_to() -> None:
    document = loop()
    document["elements"][3] |= {"start_multiple": 3.0}
    document["scenarios"] = [
        {"id": "on", "on": ["l"]}, {"id": "start", "on": ["l"], "starting": ["l"]},
        {"id": "hot", "on": ["l"], "ambient_c": 50},
    ]  # fmt: skip
    craft = craft_of(document)
    currents = SteadyCurrents(craft, ways_of(craft))
    running, starting, hot = map(currents.at, craft.scenarios)
    assert running is not None
    assert starting is not None
    assert (running[1].tolist(), starting[1].tolist()) == ([5.0], [15.0])
    assert starting[0].tolist() == [15.0] * len(craft.pieces)
    assert hot is running


def test_currents_that_must_be_solved_are_not_guessed() -> None:
    lamp = loop()
    lamp["elements"][3] |= {"behaviour": "filament", "power_w": 20, "rated_v": 12}
    craft = craft_of(lamp)
    assert SteadyCurrents(craft, ways_of(craft)).at(craft.scenario()) is None
    beside = loop()
    beside["elements"].append(piece("strap", "r1", "b-", "return"))
    craft = craft_of(beside)
    assert SteadyCurrents(craft, ways_of(craft)).at(craft.scenario()) is None


def test_an_open_contact_carries_nothing_and_holds_back_all() -> None:
    document = loop()
    document["scenarios"] = [{"id": "on", "on": ["l"], "contacts": {"f": "open"}}]
    document["elements"][0]["kind"] = "breaker"
    craft = craft_of(document)
    steady = SteadyCurrents(craft, ways_of(craft)).at(craft.scenario())
    assert steady is not None
    assert not steady[0].any()
    states = solve(craft, craft.scenario(), TABLES).elements
    assert states.piece_currents_a.tolist() == [0.0] * len(craft.pieces)
    told = [states[each.id].drop_v or 0.0 for each in craft.pieces]
    assert states.piece_drops_v.tolist() == pytest.approx(told)
    assert max(told) == pytest.approx(12.6)


def test_a_wire_that_stands_open_beside_another_way_is_not_lengthened() -> None:
    """The feed's last wire on the main way is open: it is in no solved layout to be lengthened."""
    document = loop()
    feed = document["elements"][1]
    ends = feed["from"], feed["to"]
    document["elements"].append(wire("beside", *ends, mm2="1.5", length_m=9.0))
    feed["open"] = True
    craft = craft_of(document)
    solved = solved_craft(craft, craft.scenarios[0], TABLES)
    tracer = Tracer(craft, {feed["id"]: 0.01, "beside": 0.1})
    run = tracer.trace(craft.loads[0])
    made = RunBudgets(craft, {"l": run}, solved.solution, BY_DUTY, TABLES)["l"]
    assert feed["id"] in {w.id for w in own_pair(run)}
    # The main way holds back all there is: no bound is met, and nothing is tried on the open wire.
    assert headroom(solved, made, BY_DUTY, TABLES).metres is None


def test_what_all_runs_spend_at_once_is_what_each_spends() -> None:
    """A piece drawn the other way round, a resistor fitted on purpose, a run whose feed hangs loose."""
    document = loop()
    wire_out = document["elements"][1]
    wire_out["from"], wire_out["to"] = wire_out["to"], wire_out["from"]
    document["elements"][2] = piece("j", "w1", "l+", kind="resistor", resistance_ohm=0.1)
    document["elements"] += [
        piece("f2", "f1", "f3", kind="breaker", rating_a=10, open=True),
        wire("w2", "f3", "k+"),
        load("k", "k+", "k-"),
        wire("w3", "k-", "b-", "return"),
    ]
    document["nodes"] += [{"id": p} for p in ("f3", "k+", "k-")]
    document["scenarios"] = [{"id": "on", "on": ["l"]}]
    craft = craft_of(document)
    solution = solve(craft, craft.scenario(), TABLES)
    made = RunBudgets(craft, traced(craft, {}).runs, solution, BY_DUTY, TABLES)
    assert set(made) == {"l", "k"}
    for key, budget in made.items():
        assert (made.spend(key).feed_v, made.spend(key).return_v) == pytest.approx(
            (budget.feed.drop_v, budget.back.drop_v), abs=1e-12
        )
    fuse, wires = 5 * 0.0077, 5 * 0.00798 * 5
    assert made.spend("l").feed_v == pytest.approx(fuse + wires, rel=1e-3)
    # Nothing is known of a point that hangs loose: no drop is made up for what leads to it.
    assert made.spend("k").feed_v == pytest.approx(fuse, rel=1e-3)


@pytest.mark.parametrize(
    "changed",
    [{"length_m": 3.5}, {"pinned_v": 0.07}, {"size": Size("mm2", "6")}, {"length_m": 0.0}],
)
def test_what_a_changed_piece_demands_is_as_worked_out_afresh(changed: dict[str, Any]) -> None:
    craft = craft_of(shared_trunk())
    before = Loops(craft, traced(craft, {}).runs, BY_DUTY, TABLES)
    wires = [i for i, p in enumerate(craft.pieces) if isinstance(p, Conductor)]
    for i in wires:
        pieces = [*craft.pieces]
        pieces[i] = replace(pieces[i], **changed)
        hungry = replace(craft.loads[0], duty="control_supply")
        other = replace(craft, pieces=tuple(pieces), loads=(hungry, *craft.loads[1:]))
        runs = traced(other, {}).runs
        over = Loops(other, runs, BY_DUTY, TABLES, before.ways, before)
        afresh = Loops(other, runs, BY_DUTY, TABLES)
        assert over.rules.tolist() == afresh.rules.tolist()
        assert over.figures.tolist() == afresh.figures.tolist()
        assert over.held == afresh.held
    strict = Limits(TABLES.limit_sets["by-duty"], {craft.loads[0].id: Ceilings(0.1, 0.1)})
    assert Loops(craft, before.runs, strict, TABLES, before.ways, before).held != before.held
