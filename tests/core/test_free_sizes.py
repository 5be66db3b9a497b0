"""What nobody has sized: fuses from currents, wires from fuses and ceilings, and what forces each."""

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.errors import JobError
from spare_margin.core.model.conductors import careful_ampacity_a
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Size, to_be_sized
from spare_margin.core.protection.checks import Protection
from spare_margin.core.protection.fuses import STANDARD_A
from spare_margin.core.sizing.craft_task import whole_craft_task
from spare_margin.core.sizing.easing import can_be_eased, size_all_the_same
from spare_margin.core.sizing.free import WireSort, begun, rated, sorts, usual_sort
from spare_margin.core.sizing.lines import HeldLimit
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.reasons import Reason, reasons
from spare_margin.core.sizing.sizes_tried import tried
from spare_margin.core.sizing.sizing import Impossible, Unsizable
from spare_margin.core.sizing.sizing_craft import CraftSized, size_craft
from spare_margin.core.sizing.ways_out import ways_out
from spare_margin.core.upgrade.order import work_order
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import read_line

TABLES = shipped_tables()
LIMITS = Limits(TABLES.limit_sets["by-duty"], {})
SORT = WireSort("mm2", "plain", 105.0)
TRUNK = "ring > cable 2 m > fuse > ring > [Panel +]"
BACK = "[Panel back] > cable 2 m > ring"


def craft_of(*lines: str, battery: Any = "agm", volts: float = 12.0) -> Craft:
    craft = new_craft("boat", volts, "none", battery, 200.0)
    for text in lines:
        read = read_line(text, craft, TABLES)
        assert read.line is not None, read.errors
        craft, _ = drawn(craft, read.line, None, frozenset())
    return craft


def sized(craft: Craft, limits: Limits = LIMITS, objective: str = "copper") -> CraftSized:
    ready = begun(craft, TABLES, SORT)
    return size_craft(
        ready, lambda each: whole_craft_task(each, limits, TABLES, objective), Effort(10.0)
    )


def fuses_of(found: CraftSized) -> dict[str, tuple[str, float]]:
    return {each.piece: (each.style, each.rating_a) for each in found.fuses}


PANEL = craft_of(
    f'{TRUNK} > fuse > cable 6 m > load "Cold box" 5 A > cable 6 m > {BACK}',
    '[Panel +] > fuse > cable 9 m > load "Mast lamp" 1 A critical > cable 9 m > [Panel back]',
    '[Panel +] > fuse > cable 4 m > load "Sump pump" 7 A x3 critical > cable 4 m > [Panel back]',
)


def test_fuses_by_hand() -> None:
    """1.25 x 5 A is 6.25: 7.5. 1.25 A: 2. 8.75 A: 10, which a blade carries 21 A of for 0.13 s: 15, 1.4
    times, for 0.6 s. All three together 13 A, 16.25: 20, and 27 A in the pump's start are below 1.35 x 20.
    """
    assert fuses_of(sized(PANEL)) == {
        "f1": ("blade", 20.0), "f2": ("blade", 7.5), "f3": ("blade", 2.0), "f4": ("blade", 15.0),
    }  # fmt: skip


def test_nothing_is_left_open_and_nothing_is_wrong_with_the_fuses() -> None:
    found = sized(PANEL)
    assert not any(to_be_sized(p) for p in found.craft.pieces)
    assert not tried(found.task, found.made.sizes).missed
    runs = traced(found.craft, closed_ohms(found.craft, TABLES)).runs
    solutions = [solve(found.craft, s, TABLES) for s in found.craft.scenarios]
    codes = {v.code for v in Protection(found.craft, runs, solutions, TABLES).violations}
    # Two metres of wire lie before the first fuse; the drawing says so, no size changes it.
    assert codes <= {"fuse_far", "cannot_break"}


def test_what_has_a_size_keeps_it() -> None:
    given_size = Size("mm2", "10")
    pieces = tuple(
        replace(p, size=given_size, insulation_c=90.0) if p.id == "w2" else p for p in PANEL.pieces
    )
    craft = replace(PANEL, pieces=pieces)
    ready = begun(craft, TABLES, SORT)
    assert "w2" not in ready.wires
    keep = frozenset({"w2"})
    found = size_craft(
        ready, lambda each: whole_craft_task(each, LIMITS, TABLES, "copper", keep), Effort(10.0)
    )
    wire = next(p for p in found.craft.pieces if p.id == "w2")
    assert isinstance(wire, Conductor)
    assert (wire.size, wire.insulation_c) == (given_size, 90.0)


def test_a_main_fuse_is_no_smaller_than_one_behind_it() -> None:
    craft = craft_of(
        f'{TRUNK} > fuse 40 > 10 mm\u00b2 1 m > load "Cold box" 5 A > 10 mm\u00b2 1 m > {BACK}'
    )
    (main,) = begun(craft, TABLES, SORT).fuses
    assert (main.rating_a, main.after) == (40.0, "f2")


def test_a_short_time_motor_is_given_a_typical_start() -> None:
    """80 A for seconds, 320 A for 0.5 s: of bolt-down fuses 125 A carries 2.56 times for 0.44 s, 150 A for
    0.74 s. A short at this battery draws 12.8 V / 2 mohm, which of those with 150 A only ceramic breaks.
    """
    line = 'fuse > cable 8 m > load "Windlass" 80 A short-time > cable 8 m'
    assert fuses_of(sized(craft_of(line))) == {"f1": ("ceramic", 150.0)}
    weak = craft_of(line, battery="flooded")
    tired = replace(weak.sources[0], internal_ohm=0.02)
    assert fuses_of(sized(replace(weak, sources=(tired,)))) == {"f1": ("bolt-down", 150.0)}


def test_a_breaker_takes_a_standard_rating() -> None:
    craft = craft_of('breaker > cable 3 m > load "Stove" 11 A > cable 3 m')
    ((style, rating),) = fuses_of(sized(craft)).values()
    assert (style, rating) == ("breaker", 15.0)
    assert rating in STANDARD_A


def test_a_load_that_draws_more_on_thin_wire_has_its_fuse_looked_at_again() -> None:
    """A holder of power draws more the fewer volts it gets; the fuse bears that with the sizes found."""
    craft = craft_of('fuse > cable 12 m > converter "Charger" 72 W > cable 12 m')
    found = sized(craft, Limits(TABLES.limit_sets["by-duty"], {"load1": Ceilings(1.4, 1.4, 2.8)}))
    again = rated(found.craft, ["f1"], TABLES)
    assert again[0].rating_a <= found.fuses[0].rating_a
    assert found.fuses[0].rating_a >= 1.25 * again[0].lasting_a - 1e-9


def why(found: CraftSized) -> dict[str, Reason]:
    return reasons(found.task, found.made, found.task.options)


def test_what_forces_each_wire() -> None:
    found = sized(PANEL)
    told = why(found)
    assert told.keys() == found.task.options.keys()
    rows = TABLES.conductors.rows
    for key, each in told.items():
        if each.thinner is None:
            assert each.forced == "thinnest"
            continue
        assert rows[each.thinner].area_mm2 < rows[found.made.sizes[key]].area_mm2
        if each.forced == "ceiling":
            missed = tried(found.task, {**found.made.sizes, key: each.thinner}).missed
            assert max(m.by for m in missed) == pytest.approx(each.by_v)
            assert each.held in {m.held for m in missed}
            assert key not in dict(each.eaten)
            assert list(each.eaten) == sorted(each.eaten, key=lambda one: -one[1])
    assert {each.forced for each in told.values()} <= {"thinnest", "ceiling", "fuse"}


def test_a_fuse_forces_a_wire_that_no_ceiling_does() -> None:
    free = Limits(TABLES.limit_sets["by-duty"], {"load1": Ceilings(9.0, 9.0, 9.0)})
    craft = craft_of('fuse 30 > cable 0.4 m > load "Stove" 2 A > cable 0.4 m')
    found = sized(craft, free)
    for each in why(found).values():
        assert (each.forced, each.amperes) == ("fuse", 30.0)
        wire = next(p for p in found.craft.pieces if p.id == each.wire)
        assert isinstance(wire, Conductor)
        thin = replace(wire, size=each.thinner)
        bears = [careful_ampacity_a(thin, s, TABLES.conductors) for s in craft.scenarios]
        assert min(b for b in bears if b is not None) < 30.0


def test_what_hangs_free_is_strong_enough_by_itself() -> None:
    craft = craft_of('fuse > cable 1 m > load "Bulb" 0.1 A > cable 1 m')
    pieces = tuple(
        replace(p, unsupported=True) if isinstance(p, Conductor) else p for p in craft.pieces
    )
    found = sized(replace(craft, pieces=pieces))
    assert {s.value for s in found.made.sizes.values()} == {"1.5"}
    assert {each.forced for each in why(found).values()} == {"mechanical"}


def test_the_two_wires_of_a_cable_are_one_size_for_one_reason() -> None:
    craft = craft_of('fuse > cable 12 m > load "Cold box" 5 A > cable 12 m')
    pieces = tuple(
        replace(p, cable="Cold box") if isinstance(p, Conductor) else p for p in craft.pieces
    )
    found = sized(replace(craft, pieces=pieces))
    assert len(set(found.made.sizes.values())) == 1
    first, second = why(found).values()
    assert {first.with_wire, second.with_wire} in ({"", first.wire}, {"", second.wire})
    assert (first.forced, first.held) == (second.forced, second.held)


@settings(max_examples=25)
@given(
    amps=st.lists(st.floats(0.3, 18.0), min_size=1, max_size=4),
    metres=st.lists(st.floats(0.5, 9.0), min_size=4, max_size=4),
    inrush=st.sampled_from(["", " x3", " x5"]),
)
def test_every_wire_bears_its_fuse_and_every_fuse_its_currents(
    amps: list[float], metres: list[float], inrush: str
) -> None:
    lines = []
    for n, (a, m) in enumerate(zip(amps, metres, strict=False)):
        trunk, back = (TRUNK, BACK) if n == 0 else ("[Panel +]", "[Panel back]")
        lines.append(
            f'{trunk} > fuse > cable {m:.2f} m > load "L{n}" {a:.2f} A{inrush} > cable {m:.2f} m > {back}'
        )
    craft = craft_of(*lines)
    try:
        found = sized(craft)
    except Unsizable:
        return
    made = found.craft
    runs = traced(made, closed_ohms(made, TABLES)).runs
    solutions = [solve(made, s, TABLES) for s in made.scenarios]
    wrong = Protection(made, runs, solutions, TABLES).violations
    assert {v.code for v in wrong} <= {"fuse_far", "cannot_break"}


def test_sorts_are_kept_and_their_ampacity_is_known() -> None:
    every = sorts(TABLES)
    assert SORT in every
    assert all(
        (s.system, s.finish) in {(k.system, k.finish) for k in TABLES.stock.wire} for s in every
    )
    assert not [s for s in every if s.system == "mm2-road"], "no row says what it bears"


def test_new_wire_is_what_most_of_the_craft_is_of() -> None:
    assert usual_sort(PANEL, "awg") == WireSort("awg", "plain", 105.0)
    craft = craft_of(
        'fuse 5 > 2.5 mm\u00b2 tinned 2 m 90 \u00b0C > load "Fan" 2 A > 2.5 mm\u00b2 tinned 2 m'
    )
    assert usual_sort(craft, "awg") == WireSort("mm2", "tinned", 90.0)
    with pytest.raises(JobError, match="no silvered mm2"):
        begun(PANEL, TABLES, WireSort("mm2", "silvered", 90.0))


def test_a_current_that_no_fuse_carries_is_named() -> None:
    craft = craft_of('fuse > cable 1 m > load "Press" 400 A > cable 1 m')
    with pytest.raises(JobError, match="no fuse on offer carries") as said:
        begun(craft, TABLES, SORT)
    assert said.value.path == "elements.f1.rating_a"
    blade = tuple(
        replace(p, style="blade") if isinstance(p, FixedPiece) and p.kind == "fuse" else p
        for p in craft_of('fuse > cable 1 m > load "Press" 60 A > cable 1 m').pieces
    )
    with pytest.raises(JobError, match="no fuse on offer"):
        begun(replace(craft, pieces=blade), TABLES, SORT)


def ways(craft: Craft, limits: Limits) -> dict[str, dict[str, Any]]:
    task = whole_craft_task(begun(craft, TABLES, SORT).craft, limits, TABLES, "copper")
    with pytest.raises(Unsizable) as none:
        sized(craft, limits)
    return {w.way: dict(w.facts) for w in ways_out(task, none.value.why[0])}


def test_ways_out_by_hand() -> None:
    """5 A through 120 mm2, 2 x 100 m: 1 m less of 100 is a hundredth of what the wire loses."""
    craft = craft_of('cable 100 m > load "Cold box" 5 A > cable 100 m')
    tight = {"load1": Ceilings(0.05, 0.05, 0.1)}
    craft = replace(craft, loads=(replace(craft.loads[0], id="load1"),), scenarios=tuple(
        replace(s, on=frozenset({"load1"})) for s in craft.scenarios
    ))  # fmt: skip
    found = ways(craft, Limits(TABLES.limit_sets["by-duty"], tight))
    assert 0 < found["shorter"]["metres"] < found["shorter"]["of_metres"]
    assert found["limits"]["set"] in TABLES.limit_sets
    assert "own_feed" not in found, "nothing else uses its wires"


def test_wires_of_its_own_are_a_way_out_where_others_cost_it_more_than_it_lacks() -> None:
    craft = craft_of(
        'cable 60 m > [Far +] > cable 1 m > load "Lamp" 0.5 A critical > cable 1 m > [Far back] > '
        "cable 60 m",
        '[Far +] > cable 1 m > load "Stove" 40 A > cable 1 m > [Far back]',
    )
    lamp = craft.loads[0].id
    stove = craft.loads[1].id
    limits = Limits(
        TABLES.limit_sets["by-duty"],
        {lamp: Ceilings(0.2, 0.2, 0.4), stove: Ceilings(9.0, 9.0, 9.0)},
    )
    assert "own_feed" in ways(craft, limits)


FAR = craft_of(
    f'{TRUNK} > fuse > cable 90 m > load "Far lamp" 20 A > cable 90 m > {BACK}',
    '[Panel +] > fuse > cable 4 m > load "Fan" 2 A > cable 4 m > [Panel back]',
)


def test_what_cannot_be_kept_is_missed_by_as_little_as_the_stock_allows() -> None:
    with pytest.raises(Unsizable) as none:
        sized(FAR)
    assert can_be_eased(none.value.why)
    ready = begun(FAR, TABLES, SORT)
    found, eased = size_all_the_same(
        ready, lambda each: whole_craft_task(each, LIMITS, TABLES, "copper"), Effort(10.0)
    )
    assert {load for load, _ in eased} == {"far-lamp"}
    runs = traced(found.craft, closed_ohms(found.craft, TABLES)).runs
    ((_, by),) = eased.items()
    assert by >= none.value.why[0].by - 1e-9, "less copper elsewhere cannot help"
    lost = 0.0
    for scenario in found.craft.scenarios:
        if "far-lamp" in scenario.on:
            lost = max(
                lost, runs["far-lamp"].lost_v(solve(found.craft, scenario, TABLES).elements)[1]
            )
    allowed = LIMITS.ceilings(FAR.load("far-lamp"), 12.0).return_v
    assert allowed is not None
    assert lost - allowed == pytest.approx(by, abs=1e-6)
    back = [s.piece for s in runs["far-lamp"].back if isinstance(s.piece, Conductor)]
    offered = whole_craft_task(ready.craft, LIMITS, TABLES, "copper").options
    assert [w.size for w in back] == [offered[w.id][-1] for w in back], "the thickest in stock"
    # The other run is held to its own limits as ever.
    with_fan = tried(found.task, found.made.sizes)
    assert not [m for m in with_fan.missed if m.held is not None and m.held.load == "fan"]


def test_what_a_wire_bears_is_not_loosened() -> None:
    assert not can_be_eased([Impossible(None, 2.0, "w1")])
    least = HeldLimit("load", "least", "now")
    assert not can_be_eased([Impossible(least, 0.2)])
    assert not can_be_eased([Impossible(HeldLimit("load", "feed", "now"), float("inf"))])


def test_the_order_of_a_new_craft_lays_wires_and_fits_fuses() -> None:
    found = sized(PANEL)
    runs = traced(found.craft, closed_ohms(found.craft, TABLES)).runs
    key = next(iter(runs))
    solution = solve(found.craft, found.craft.used_in(key), TABLES)
    order = work_order(PANEL, found.craft, runs[key], solution, TABLES)
    codes = [step.code for step in order.steps]
    assert "replace_wire" not in codes, "nothing is replaced by itself"
    assert codes.count("run_wire") == len(found.made.sizes)
    assert codes.count("fuse_in") == codes.count("fit_holder") == len(found.fuses)
    kinds = {line.kind for line in order.parts}
    assert {"wire", "fuse", "holder", "joint", "sleeve"} <= kinds
    # A fuse that lies there and gets another rating is said too.
    other = replace(
        found.craft,
        pieces=tuple(
            replace(p, rating_a=25.0) if isinstance(p, FixedPiece) and p.id == "f1" else p
            for p in found.craft.pieces
        ),
    )
    again = work_order(found.craft, other, runs[key], solution, TABLES)
    assert [(s.code, s.piece) for s in again.steps if s.piece] == [("other_fuse", "f1")]
