"""Hand calculations and laws of the nodal analysis."""

import math
from collections import defaultdict
from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.circuit.linear import equations
from spare_margin.core.circuit.network import solve, solved_craft
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Size
from spare_margin.core.model.tables import Tables
from spare_margin.data.tables import shipped_tables
from tests.conftest import Document, craft_of, job_document, load, loop, piece, wire


def solved(document: Document, scenario: str | None = None, **more: Any) -> Solution:
    craft = craft_of(document)
    return solve(craft, craft.scenario(scenario), shipped_tables(), **more)


def one_load(ohm: float, **law: Any) -> Document:
    """12.6 V behind 10 milliohm, one piece of `ohm`, a load straight back to the post."""
    return job_document([piece("p", "b+", "l+", resistance_ohm=ohm), load(end="b-", **law)])


@pytest.mark.parametrize(
    ("law", "current"),
    [
        ({"behaviour": "constant_current", "current_a": 5.0}, 5.0),
        ({"behaviour": "constant_resistance", "resistance_ohm": 2.4}, 12.6 / 2.51),
        (
            {"behaviour": "constant_resistance", "power_w": 60, "rated_v": 12},
            12.6 / (0.11 + 12**2 / 60),
        ),
        # P = V I with V = 12.6 - 0.11 I: the smaller root of 0.11 I^2 - 12.6 I + 60 = 0.
        (
            {"behaviour": "constant_power", "power_w": 60},
            (12.6 - math.sqrt(12.6**2 - 4 * 0.11 * 60)) / (2 * 0.11),
        ),
    ],
)
def test_load_laws_by_hand(law: Document, current: float) -> None:
    state = solved(one_load(0.1, **law)).elements["l"]
    assert state.current_a == pytest.approx(current, rel=1e-12)
    assert state.drop_v == pytest.approx(12.6 - 0.11 * current, rel=1e-12)


def test_filament_follows_its_power_law() -> None:
    solution = solved(one_load(0.1, behaviour="filament", power_w=21, rated_v=12))
    state = solution.elements["l"]
    assert state.drop_v is not None
    assert state.current_a == pytest.approx(21 / 12 * (state.drop_v / 12) ** 0.55, rel=1e-12)


@pytest.mark.parametrize("ohm", [0.651, 0.7, 2.0, 50.0])
def test_power_with_no_solution_names_the_load(ohm: float) -> None:
    # The most a 12.6 V source gives through R is 12.6^2 / 4R = 60 W at R = 0.6615 ohm.
    with pytest.raises(NoSolution, match=r"Load l.*stall"):
        solved(one_load(ohm + 0.01, behaviour="constant_power", power_w=60))


def test_power_just_possible_is_solved() -> None:
    state = solved(one_load(0.65, behaviour="constant_power", power_w=60)).elements["l"]
    assert state.power_w == pytest.approx(60, rel=1e-9)
    assert state.drop_v is not None
    assert state.drop_v > 12.6 / 2


def test_wire_resistance_with_temperature_by_hand() -> None:
    document = job_document([wire("w", "b+", "l+", length_m=4, mm2="4"), load(end="b-")])
    document["scenarios"][0]["ambient_c"] = 45
    state = solved(document).elements["w"]
    assert state.resistance_ohm == pytest.approx(0.00495 * 4 * (1 + 0.00393 * 25), rel=1e-12)
    assert state.temperature_c == 45


def test_self_heating_by_hand() -> None:
    # 4 mm2 at 105 C carries 45 A in the table: at 30 A, T = 25 + 75 * (30/45)^2 = 58.33 C.
    document = job_document(
        [wire("w", "b+", "l+", mm2="4", insulation_c=105), load(end="b-", current_a=30.0,
         behaviour="constant_current")]
    )  # fmt: skip
    document["scenarios"][0] |= {"ambient_c": 25, "temperature_model": "self_heating"}
    state = solved(document).elements["w"]
    assert state.temperature_c == pytest.approx(25 + 75 * (30 / 45) ** 2, rel=1e-9)
    warmed = 1 + 0.00393 * (25 + 75 * (30 / 45) ** 2 - 20)
    assert state.resistance_ohm == pytest.approx(0.00495 * 5 * warmed, rel=1e-9)


@pytest.mark.parametrize(
    ("more", "engine_c", "temperature_c"),
    [
        # Ten together bear 0.6 of 45 A each: at 20 A, T = 25 + 75 * (20/27)^2.
        ({"bundle": 10}, None, 25 + 75 * (20 / 27) ** 2),
        # In an engine space whose air nobody said, as its ampacity has it: 50 C.
        ({"engine_space": True}, None, 50 + 75 * (20 / 45) ** 2),
        ({"engine_space": True}, 70, 70 + 75 * (20 / 45) ** 2),
    ],
)
def test_a_wire_is_as_warm_as_it_lies(
    more: Document, engine_c: float | None, temperature_c: float
) -> None:
    document = job_document(
        [wire("w", "b+", "l+", mm2="4", insulation_c=105, **more),
         load(end="b-", current_a=20.0, behaviour="constant_current")]
    )  # fmt: skip
    document["scenarios"][0] |= {"ambient_c": 25, "temperature_model": "self_heating"}
    if engine_c is not None:
        document["scenarios"][0]["engine_c"] = engine_c
    assert solved(document).elements["w"].temperature_c == pytest.approx(temperature_c, rel=1e-9)


def test_a_wire_at_what_it_bears_is_as_hot_as_its_insulation_may_be() -> None:
    for bundle in (1, 4, 10, 30):
        one = wire("w", "b+", "l+", mm2="4", insulation_c=105, bundle=bundle)
        document = job_document([one, load(end="b-", behaviour="constant_current", current_a=1)])
        document["scenarios"][0] |= {"ambient_c": 30, "temperature_model": "self_heating"}
        craft = craft_of(document)
        made = craft.pieces[0]
        assert isinstance(made, Conductor)
        most = corrected_ampacity_a(made, craft.scenario(), shipped_tables().conductors)
        document["elements"][1]["current_a"] = most
        hot = solved(document).elements["w"].temperature_c
        assert hot == pytest.approx(105.0, abs=1e-6), bundle


def test_a_temperature_or_resistance_given_with_the_piece_rules() -> None:
    document = job_document(
        [
            wire("w", "b+", "m", temperature_c=70),
            wire("v", "m", "l+", resistance_ohm=0.02),
            load(end="b-"),
        ]
    )
    document["scenarios"][0]["ambient_c"] = 40
    elements = solved(document).elements
    assert elements["w"].resistance_ohm == pytest.approx(0.00798 * 5 * (1 + 0.00393 * 50))
    assert elements["v"].resistance_ohm == 0.02


def test_open_contacts_and_unjoined_points() -> None:
    document = loop()
    document["elements"].append(
        piece("sw", "f1", "spare", kind="switch", style="panel switch", open=True)
    )
    document["nodes"] += [{"id": "spare"}, {"id": "alone"}]
    solution = solved(document)
    assert solution.nodes["spare"] is None
    assert solution.nodes["alone"] is None
    assert solution.elements["sw"].current_a == 0
    assert solution.elements["sw"].drop_v is None


@pytest.mark.parametrize(("cut", "at_load"), [("f", 0.0), ("jr", 12.6)])
@pytest.mark.parametrize(
    "law",
    [
        {"behaviour": "constant_current", "current_a": 5},
        {"behaviour": "constant_power", "power_w": 60},
        {"behaviour": "filament", "power_w": 21, "rated_v": 12},
    ],
)
def test_an_open_loop_carries_nothing(cut: str, at_load: float, law: Document) -> None:
    """Feed open: both ends of the load at zero. Return open: both at the source."""
    document = loop()
    document["elements"][3] = load(**law)
    solution = solved(document, resistances={cut: math.inf})
    assert solution.elements["l"].current_a == pytest.approx(0, abs=1e-9)
    for point in ("l+", "l-"):
        assert solution.nodes[point] == pytest.approx(at_load, abs=1e-6)
    assert solution.starved == {"l"}


def test_two_loads_on_one_open_return_carry_nothing() -> None:
    document = job_document(
        [
            piece("a", "b+", "l+"), piece("c", "b+", "m+"), load("l"), load("m", "m+", "l-"),
            piece("r", "l-", "b-", "return"),
        ]
    )  # fmt: skip
    solution = solved(document, resistances={"r": math.inf})
    assert solution.elements["l"].current_a == pytest.approx(0, abs=1e-9)
    assert solution.nodes["l-"] == pytest.approx(12.6, abs=1e-6)


def test_parallel_returns_share_by_conductance() -> None:
    document = job_document(
        [
            piece("f", "b+", "l+"), load(), piece("r1", "l-", "b-", "return", resistance_ohm=0.003),
            piece("r2", "l-", "b-", "return", resistance_ohm=0.001),
        ]
    )  # fmt: skip
    elements = solved(document).elements
    assert elements["r1"].current_a == pytest.approx(1.25, rel=1e-9)
    assert elements["r2"].current_a == pytest.approx(3.75, rel=1e-9)


def test_sources_side_by_side_share_and_pieces_without_resistance_carry() -> None:
    document = job_document([piece("z", "b+", "l+", resistance_ohm=0.0), load(end="b-")])
    twin = {**document["sources"][0], "id": "t", "internal_ohm": 0.03}
    document["sources"].append(twin)
    solution = solved(document)
    assert solution.source_current_a["s"] == pytest.approx(3.75, rel=1e-9)
    assert solution.source_current_a["t"] == pytest.approx(1.25, rel=1e-9)
    assert solution.elements["z"].current_a == pytest.approx(5, rel=1e-12)


def test_ideal_sources_that_contradict_each_other_are_refused() -> None:
    document = loop()
    own = {**document["sources"][0], "internal_ohm": 0.0}
    document["sources"] = [own, {**own, "id": "t", "open_circuit_v": 14.0}]
    with pytest.raises(JobError) as refused:
        solved(document)
    assert refused.value.path == "sources"


def test_extra_current_and_another_reference() -> None:
    plain, more = solved(loop()), solved(loop(), extra_a={"l": 2.0})
    assert more.elements["w"].current_a == pytest.approx(plain.elements["w"].current_a + 2)
    turned = solved(loop(reference="b+"))
    assert turned.nodes["b+"] == 0
    assert turned.volts("l+", "l-") == pytest.approx(plain.volts("l+", "l-"))


# Laws


def imbalances(craft: Craft, solution: Solution) -> dict[str, float]:
    """Current (A) that appears or vanishes at each point."""
    sums: dict[str, float] = defaultdict(float)
    for element in (*craft.pieces, *craft.loads):
        current = solution.elements[element.id].current_a
        sums[element.start] -= current
        sums[element.end] += current
    for source in craft.sources:
        sums[source.live] += solution.source_current_a[source.id]
        sums[source.back] -= solution.source_current_a[source.id]
    return sums


ohms = st.floats(1e-5, 0.05)
laws = st.one_of(
    st.floats(0.1, 15).map(lambda a: {"behaviour": "constant_current", "current_a": a}),
    st.floats(1, 60).map(lambda w: {"behaviour": "constant_power", "power_w": w}),
    st.floats(1, 60).map(lambda w: {"behaviour": "filament", "power_w": w, "rated_v": 12}),
    st.floats(1, 50).map(lambda r: {"behaviour": "constant_resistance", "resistance_ohm": r}),
)


@st.composite
def crafts(draw: st.DrawFn) -> Document:
    """A panel and a bus, runs of random length between them, some with a second return."""
    elements = [
        piece("main", "b+", "panel", resistance_ohm=draw(ohms)),
        piece("home", "bus", "b-", "return", resistance_ohm=draw(ohms)),
    ]
    for n in range(draw(st.integers(1, 4))):
        points = ["panel", *(f"p{n}.{i}" for i in range(draw(st.integers(0, 3)))), f"l{n}+"]
        for i, (a, b) in enumerate(pairwise(points)):
            elements.append(piece(f"e{n}.{i}", a, b, resistance_ohm=draw(ohms)))
        elements.append(load(f"l{n}", f"l{n}+", f"l{n}-", **draw(laws)))
        ends = [("bus", 0), *([("b-", 1)] if draw(st.booleans()) else [])]
        for end, i in ends:
            elements.append(piece(f"r{n}.{i}", f"l{n}-", end, "return", resistance_ohm=draw(ohms)))
    return job_document(elements)


@settings(max_examples=60)
@given(crafts())
def test_currents_balance_and_volts_add_up(document: Document) -> None:
    craft = craft_of(document)
    tables: Tables = shipped_tables()
    solution = solve(craft, craft.scenario(), tables)
    assert max(map(abs, imbalances(craft, solution).values())) < 1e-9
    spent = sum(abs(e.power_w) for e in solution.elements.values())
    given_up = sum(
        s.open_circuit_v * solution.source_current_a[s.id]
        - s.internal_ohm * solution.source_current_a[s.id] ** 2
        for s in craft.sources
    )
    assert spent == pytest.approx(given_up, rel=1e-9, abs=1e-9)
    for element in craft.pieces:
        state = solution.elements[element.id]
        across = solution.volts(element.start, element.end)
        assert state.drop_v == pytest.approx(across, abs=1e-9)


def same_state(a: Solution, b: Solution) -> bool:
    """Whether two solutions of one craft agree to rounding, in every point and element."""
    pairs = list(zip(a.nodes.values(), b.nodes.values(), strict=True))
    for key, state in a.elements.items():
        pairs += zip(state, b.elements[key], strict=True)
    return all(
        x == y if x is None or y is None else x == pytest.approx(y, rel=1e-9, abs=1e-9)
        for x, y in pairs
    )


@settings(max_examples=40)
@given(crafts())
def test_in_whatever_order_unknowns_are_eliminated_the_state_is_the_same(
    document: Document,
) -> None:
    craft = craft_of(document)
    dense = solve(craft, craft.scenario(), shipped_tables())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(equations, "DENSE_UP_TO", 0)
        equations._skeleton.cache_clear()
        sparse = solve(craft, craft.scenario(), shipped_tables())
    equations._skeleton.cache_clear()
    assert same_state(dense, sparse)


@settings(max_examples=40)
@given(crafts(), st.data())
def test_what_is_taken_over_from_a_layout_is_as_laid_out_afresh(
    document: Document, data: st.DataObject
) -> None:
    """Other pieces in the same places, one of them perhaps a wire that warms, one perhaps opened."""
    craft, tables = craft_of(document), shipped_tables()
    before = solved_craft(craft, craft.scenario(), tables).layout
    pieces: list[Conductor | FixedPiece] = list(craft.pieces)
    at = data.draw(st.integers(0, len(pieces) - 1))
    old = pieces[at]
    ends = {"id": old.id, "start": old.start, "end": old.end, "side": old.side}
    warm = Conductor(
        **ends, length_m=data.draw(st.floats(0.1, 9)), size=Size("mm2", "2.5"), insulation_c=90.0
    )
    pieces[at] = data.draw(
        st.sampled_from([warm, replace(old, resistance_ohm=0.0), replace(old, open=True)])
    )
    changed = replace(craft, pieces=tuple(pieces))
    scenario = replace(changed.scenario(), temperature_model="self_heating", ambient_c=35.0)
    afresh = solved_craft(changed, scenario, tables)
    over = solved_craft(changed, scenario, tables, like=before)
    assert (over.layout.warms == afresh.layout.warms).all()
    assert same_state(afresh.solution, over.solution)


@settings(max_examples=40)
@given(crafts(), st.floats(1.1, 20))
def test_more_resistance_in_the_main_feed_never_helps(document: Document, factor: float) -> None:
    craft = craft_of(document)
    tables = shipped_tables()
    before = solve(craft, craft.scenario(), tables)
    worse = replace(craft.pieces[0], resistance_ohm=(craft.pieces[0].resistance_ohm or 0) * factor)
    try:
        after = solve(replace(craft, pieces=(worse, *craft.pieces[1:])), craft.scenario(), tables)
    except NoSolution:
        return
    for each in craft.loads:
        was, now = before.volts(each.start, each.end), after.volts(each.start, each.end)
        assert was is not None
        assert now is not None
        assert now <= was + 1e-9


@pytest.mark.parametrize("metres", [12, 12.5, 13, 13.5, 14, 16, 20, 40, 400])
@pytest.mark.parametrize("size", ["0.75", "2.5"])
def test_a_loop_too_long_for_its_current_still_has_a_state(metres: float, size: str) -> None:
    """A load that holds 19 A where the loop cannot carry them gives up below its knee."""
    document = job_document(
        [
            wire("w", "b+", "l+", length_m=metres, mm2=size),
            load("l", current_a=19.0, behaviour="constant_current"),
            wire("r", "l-", "b-", "return", length_m=metres, mm2=size),
        ]
    )
    craft = craft_of(document)
    solution = solve(craft, craft.scenario(), shipped_tables())
    volts, amps = solution.elements["l"].drop_v, solution.elements["l"].current_a
    assert volts is not None
    ohm = 0.01 + sum(solution.elements[k].resistance_ohm or 0 for k in ("w", "r"))
    assert volts == pytest.approx(12.6 - amps * ohm, abs=1e-6)
    knee = 0.04 * 12
    assert amps == pytest.approx(19.0 if volts >= knee else 19.0 * volts / knee)


def test_lamps_one_behind_the_other_share_the_volts_by_their_laws() -> None:
    # 55 W and 21 W at 12 V in series: I = 55 / 12^1.55 V1^0.55 = 21 / 12^1.55 (V - V1)^0.55.
    lamp = {"behaviour": "filament", "rated_v": 12.0}
    document = job_document(
        [load("l", "b+", "mid", power_w=55.0, **lamp), load("m", "mid", "b-", power_w=21.0, **lamp)]
    )
    craft = craft_of(document)
    found = solved_craft(craft, craft.scenario(), shipped_tables())
    first, second = found.solution.elements["l"], found.solution.elements["m"]
    assert first.drop_v is not None
    assert second.drop_v is not None
    assert first.current_a == pytest.approx(second.current_a)
    assert first.drop_v / second.drop_v == pytest.approx((21 / 55) ** (1 / 0.55))
    assert found.stood_in == ()


def test_what_would_hold_its_current_behind_a_lamp_is_said_to_stand_in_as_a_resistor() -> None:
    document = job_document(
        [
            load("l", "b+", "mid"),
            load("m", "mid", "b-", behaviour="filament", power_w=21.0, rated_v=12.0),
        ]
    )
    craft = craft_of(document)
    found = solved_craft(craft, craft.scenario(), shipped_tables())
    assert found.stood_in == ("l",)
    state = found.solution.elements["l"]
    assert state.drop_v is not None
    assert state.current_a == pytest.approx(5 * state.drop_v / 12)


@pytest.mark.parametrize("side_by_side", [2, 3])
def test_pieces_without_resistance_side_by_side_share_as_equals(side_by_side: int) -> None:
    joints = [piece(f"p{i}", "b+", "x", resistance_ohm=0.0) for i in range(side_by_side)]
    found = solved(job_document([*joints, load("l", "x", "b-")]))
    for joint in joints:
        assert found.elements[joint["id"]].current_a == pytest.approx(5 / side_by_side, rel=1e-6)


@pytest.mark.parametrize("ohm", [10.0, 1e3, 1e6])
def test_a_stall_names_the_ohms_of_its_own_loop(ohm: float) -> None:
    # 60 W from 12.6 V: at most 12.6^2 / 240 = 0.66 ohm would carry it.
    document = job_document(
        [
            piece("p", "b+", "x", resistance_ohm=ohm),
            load("l", "x", "b-", behaviour="constant_power", power_w=60.0),
        ]
    )
    with pytest.raises(NoSolution) as stall:
        solved(document)
    assert stall.value.loop_ohm == pytest.approx(ohm + 0.01, rel=1e-4)
    assert stall.value.most_ohm == pytest.approx(12.6**2 / 240, rel=1e-4)
    assert "e+" not in str(stall.value)
