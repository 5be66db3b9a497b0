"""What several runs share when a craft is put right: one return, one relay, one thicker trunk."""

from dataclasses import replace

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece
from spare_margin.core.model.stock import Part
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import Candidate, worked
from spare_margin.core.upgrade.making import moved
from spare_margin.core.upgrade.moves import (
    Mend,
    NewReturn,
    RelayNearLoad,
    SharedRelay,
    SharedReturn,
)
from spare_margin.core.upgrade.offers import Offer
from spare_margin.core.upgrade.order import work_order
from spare_margin.core.upgrade.ranking import cost
from spare_margin.core.upgrade.run_by_run import Repair, RunByRun, run_by_run
from spare_margin.core.upgrade.shared_ways import parting, trunk
from spare_margin.core.upgrade.sharing import Sharing, Wanted, sharings
from spare_margin.data.tables import shipped_tables
from spare_margin.wording.repair import upgrades
from tests.rough import craft_by

TABLES = shipped_tables()
BY_DUTY = Limits(TABLES.limit_sets["by-duty"], {})
A_MINUTE = 0.8
LONG = "25 mm² 105 °C 20 m"
RELAY = TABLES.stock.relays["Small relay 30 A, resistor across the coil"]


def craft_of(
    *amperes: float, trunk: str = "16 mm² 105 °C 8 m", back: str = "1.5 mm² 105 °C 8 m"
) -> Craft:
    """Loads a, b ... of so many amperes behind one switch and one trunk, back through one wire."""
    own = "4 mm² 105 °C 1 m"
    lines = []
    for name, drawn in zip("abc", amperes, strict=False):
        begin = f"{trunk} > panel switch > ring [Bar]" if not lines else "[Bar]"
        end = f"ring [Strap] > {back} > ring" if not lines else "ring [Strap]"
        lines.append(f'{begin} > fuse 10 > {own} > load "{name}" {drawn} A > {own} > {end}')
    craft = craft_by(*lines)
    return replace(craft, scenarios=craft.scenarios[:1])


def runs_of(craft: Craft) -> dict[str, Run]:
    """Its runs; what is to be sized is taken for 4 mm²."""
    sized = replace(craft, pieces=tuple(_sized(p) for p in craft.pieces))
    return dict(traced(sized, closed_ohms(sized, TABLES)).runs)


def _sized(piece: Conductor | FixedPiece) -> Conductor | FixedPiece:
    if isinstance(piece, Conductor) and piece.size is not None and piece.size.value == "auto":
        return replace(piece, size=replace(piece.size, value="4"))
    return piece


def bench(craft: Craft, load: str) -> Bench:
    return Bench(craft, load, AS_DRAWN, {}, BY_DUTY, TABLES)


def worn(craft: Craft, side: str, ohm: float) -> Craft:
    """The same with its trunk of that side a wire of an unknown size that has so many ohms."""
    longest = max(
        (p for p in craft.pieces if isinstance(p, Conductor) and p.side == side),
        key=lambda p: p.length_m,
    )
    bad = replace(longest, size=None, length_m=0.0, resistance_ohm=ohm)
    return replace(craft, pieces=tuple(bad if p is longest else p for p in craft.pieces))


def put_right(craft: Craft) -> RunByRun:
    return list(run_by_run(craft, TABLES, BY_DUTY, AS_DRAWN, {}, A_MINUTE))[-1]


def test_what_feeds_have_in_common_ends_where_they_part() -> None:
    craft = craft_of(4, 4)
    runs = list(runs_of(craft).values())
    assert [getattr(s.piece, "kind", "") for s in trunk(runs)] == [
        "joint", "conductor", "switch", "joint",
    ]  # fmt: skip
    assert parting(runs) == "bar"
    assert len(trunk(runs[:1])) == len(runs[0].way("feed"))


def test_a_thicker_trunk_stands_for_a_return_each() -> None:
    made = put_right(craft_of(4, 4))
    (repair,) = made.repairs
    assert (repair.load, repair.others) == ("a", ("b",))
    assert [r.load for r in repair.alone] == ["a", "b"]
    one_by_one = sum(cost(r.taken, A_MINUTE) for r in repair.alone)
    assert cost(repair.taken, A_MINUTE) < one_by_one
    assert (made.done, made.beyond, made.over, made.sharing) == (True, (), (), ())
    (thicker,) = repair.taken.sizes
    wire = next(p for p in made.craft.pieces if p.id == thicker)
    assert (wire.side, wire.length_m) == ("return", 8.0)  # type: ignore[union-attr]


def test_two_that_want_a_return_each_get_one_where_that_is_cheaper() -> None:
    craft = worn(craft_of(4, 4, trunk=LONG), "return", 0.5)
    made = put_right(craft)
    (repair,) = made.repairs
    assert {repair.load, *repair.others} == {"a", "b"}
    kinds = [type(m) for r in repair.alone for m in r.taken.offer.moves]
    assert kinds.count(NewReturn) == 2
    assert cost(repair.taken, A_MINUTE) < sum(cost(r.taken, A_MINUTE) for r in repair.alone)
    # The trunk of 20 m is bought once; each load's own part is as long as its own feed.
    new = [
        p for p in made.craft.pieces if isinstance(p, Conductor) and p.id in repair.taken.made.new
    ]
    assert sorted(p.length_m for p in new) == [1.0, 1.0, 20.0]
    # Both come back through it, and through nothing of the old way.
    names = {x.id: x.name for x in made.craft.loads}
    runs = runs_of(made.craft)
    for key in ("a", "b"):
        assert "Shared return" in [getattr(s.piece, "name", "") for s in runs[key].back]
        assert all(s.piece.resistance_ohm is None for s in runs[key].back)
    says = upgrades.title(repair.taken, names)
    assert says == "One new return shared by a and b, with a bar where their feeds part"


def test_a_bar_is_fitted_for_a_shared_return_and_counted() -> None:
    made = put_right(worn(craft_of(4, 4, trunk=LONG), "return", 0.5))
    (repair,) = made.repairs
    (bar,) = [line for line in repair.taken.parts if line.kind == "bar"]
    assert bar.price == TABLES.stock.part("bar").price
    assert made.craft.point(bar.piece).name == "Return bar"
    # Without it, or with as much dearer a bar, one by one would be the choice.
    dear = replace(
        TABLES,
        stock=replace(TABLES.stock, parts={**TABLES.stock.parts, ("bar", ""): Part(500.0, 15.0)}),
    )
    craft = worn(craft_of(4, 4, trunk=LONG), "return", 0.5)
    other = list(run_by_run(craft, dear, BY_DUTY, AS_DRAWN, {}, A_MINUTE))[-1]
    assert [r.others for r in other.repairs] == [(), ()]


def test_a_shared_return_bears_what_both_draw() -> None:
    """By hand: 8 A through what is shared, 4 A through each load's own."""
    craft = worn(craft_of(4, 4, trunk=LONG), "return", 0.5)
    made = put_right(craft)
    solved = solve(made.craft, made.craft.scenario(), TABLES)
    shared = next(p for p in made.craft.pieces if p.name == "Shared return")
    own = next(p for p in made.craft.pieces if p.name == "New return, a")
    assert abs(solved.elements.current_a(shared.id)) == pytest.approx(8.0)
    assert abs(solved.elements.current_a(own.id)) == pytest.approx(4.0)


def test_who_else_comes_back_the_old_way_still_does() -> None:
    craft = craft_of(4, 4, 1)
    runs = runs_of(craft)
    made = moved(craft, runs, "a", [SharedReturn(("a", "b"), beside=False)])
    after = runs_of(made.craft)
    assert [s.piece.id for s in after["c"].steps()] == [s.piece.id for s in runs["c"].steps()]
    gone = {p.id for p in craft.pieces} - {p.id for p in made.craft.pieces}
    own = {s.piece.id for key in "ab" for s in runs[key].back} - {
        s.piece.id for s in runs["c"].back
    }
    assert gone == own


def test_loads_on_one_point_leave_it_for_a_shared_return() -> None:
    """Nothing of the old way back is theirs alone: both leave the point where a third stays."""
    lines = (
        '10 mm² 105 °C 5 m > ring [Bar] > fuse 10 > load "a" 4 A > [Stud] 1.5 mm² 6 m',
        '[Bar] > fuse 10 > 1 mm² 1 m > load "b" 4 A > [Stud]',
        '[Bar] > fuse 10 > load "c" 4 A > [Stud]',
    )
    craft = craft_by(*lines)
    runs = runs_of(craft)
    made = moved(craft, runs, "a", [SharedReturn(("a", "b"), beside=False)])
    after = runs_of(made.craft)
    assert after["c"].return_terminal == runs["c"].return_terminal
    assert len({run.return_terminal for run in after.values()}) == 3
    # Where a load's feed has no wire of its own, it sits at the bar: a ring and no wire.
    assert {p.name for p in made.craft.pieces if isinstance(p, Conductor) and p.name} == {
        "Shared return", "New return, b",
    }  # fmt: skip


def test_a_return_beside_leaves_the_old_one() -> None:
    craft = craft_of(4, 4)
    runs = runs_of(craft)
    made = moved(craft, runs, "a", [SharedReturn(("a", "b"), beside=True)])
    assert {p.id for p in craft.pieces} < {p.id for p in made.craft.pieces}
    solved = solve(
        replace(made.craft, pieces=tuple(_sized(p) for p in made.craft.pieces)),
        made.craft.scenario(), TABLES,
    )  # fmt: skip
    shared = next(p for p in made.craft.pieces if p.name == "Shared return")
    assert 0 < abs(solved.elements.current_a(shared.id)) < 8


def relays(craft: Craft, *loads: str) -> list[Sharing]:
    """What may be shared where each of these would get a relay of its own."""
    own = RelayNearLoad(RELAY, "blade", 15.0)
    return sharings([Wanted(bench(craft, key), (own,)) for key in loads])


def test_one_relay_feeds_two_loads_from_where_their_feeds_part() -> None:
    craft = craft_of(4, 4)
    offer = next(s.offer for s in relays(craft, "a", "b") if s.offer.id.startswith("shared"))
    (move,) = offer.moves
    assert isinstance(move, SharedRelay)
    # 8 A for long asks for 10 A; the wires behind it bear that.
    assert (move.loads, move.style, move.rating_a) == (("a", "b"), "blade", 10.0)
    made = worked(bench(craft, "a"), offer)
    solved = solve(made.craft, made.craft.scenario(), TABLES)
    assert abs(solved.elements.current_a(made.made.contact)) == pytest.approx(8.0)
    switch = next(p.id for p in craft.pieces if getattr(p, "kind", "") == "switch")
    coil = abs(solved.elements.current_a(made.made.coil))
    assert abs(solved.elements.current_a(switch)) == pytest.approx(coil)
    assert coil < 0.5
    assert made.craft.load(made.made.coil).name == "Relay coil, a and b"
    assert made.pull_in is not None
    assert made.pull_in[0] > made.pull_in[1]
    names = {x.id: x.name for x in made.craft.loads}
    assert upgrades.title(made, names) == "One relay for a and b, where their feeds part"
    order = work_order(craft, made.craft, runs_of(made.craft)["a"], solved, TABLES)
    assert [s.code for s in order.steps].count("fit_relay") == 1
    assert [line.kind for line in order.parts].count("relay") == 1


def test_a_relay_and_a_return_are_shared_together() -> None:
    craft = craft_of(4, 4)
    both = (RelayNearLoad(RELAY, "blade", 15.0), NewReturn(beside=False))
    made = sharings([Wanted(bench(craft, key), both) for key in "ab"])
    offer = next(s.offer for s in made if s.offer.id.startswith("shared"))
    candidate = worked(bench(craft, "a"), offer)
    runs = runs_of(candidate.craft)
    assert runs["a"].back[-2].piece.id == runs["b"].back[-2].piece.id
    assert candidate.holds
    # The coil alone still comes back the old way.
    old = {p.id for p in craft.pieces if p.side == "return"}
    assert old & {s.piece.id for s in runs[candidate.made.coil].back}


def test_a_relay_is_shared_only_where_the_wires_behind_it_bear_its_fuse() -> None:
    def behind(first: str, rest: str) -> Craft:
        return craft_by(
            f'16 mm² 105 °C 8 m > panel switch > ring [Bar] > {first} 1 m > load "a" 9 A > {rest} > body',
            f'[Bar] > {first} 1 m > load "b" 9 A > {rest} > body',
        )

    def shared(craft: Craft) -> list[Sharing]:
        return [s for s in relays(craft, "a", "b") if s.offer.id.startswith("shared")]

    # 18 A for long want 25 A, more than 0.75 mm² bears; of a wire not in the table nobody knows.
    assert shared(behind("6 mm² 105 °C", "6 mm² 105 °C 1 m"))
    assert not shared(behind("0.75 mm² 105 °C", "6 mm² 105 °C 1 m"))
    assert not shared(behind("6 mm² 105 °C", "0.75 mm² 105 °C 1 m"))
    # A fuse of its own holds what follows it.
    assert shared(behind("fuse 10 > 0.75 mm² 105 °C", "0.75 mm² 105 °C 1 m"))


def test_runs_with_switches_of_their_own_share_no_relay() -> None:
    craft = craft_by(
        '16 mm² 8 m > ring [Bar] > fuse 10 > panel switch > 4 mm² 1 m > load "a" 4 A > body',
        '[Bar] > fuse 10 > panel switch > 4 mm² 1 m > load "b" 4 A > body',
    )
    assert not [s for s in relays(craft, "a", "b") if s.offer.id.startswith("shared")]


def test_runs_that_share_no_wire_share_nothing() -> None:
    craft = craft_by(
        'fuse 10 > 4 mm² 1 m > load "a" 4 A > body', 'fuse 10 > 4 mm² 1 m > load "b" 4 A > body'
    )
    returns = (NewReturn(beside=False),)
    assert sharings([Wanted(bench(craft, key), returns) for key in "ab"]) == []


def test_a_repair_of_what_was_not_there_as_found_is_not_shared() -> None:
    """The second repair of a run may be of what the first one brought."""
    craft = craft_of(4, 4)
    known = Wanted(bench(craft, "a"), (NewReturn(beside=False),))
    later = replace(known, bench=bench(craft, "b"))
    assert sharings([known, later])
    brought = replace(later, moves=(*later.moves, Mend("not-there", "cleaned")))
    assert sharings([known, brought]) == []


def test_one_by_one_stays_where_sharing_costs_more() -> None:
    craft = craft_of(2, 6)
    made = put_right(craft)
    assert [(r.load, r.others) for r in made.repairs] == [("b", ())]


def test_a_shared_repair_that_does_not_hold_for_both_is_not_taken() -> None:
    craft = worn(craft_of(4, 4, trunk=LONG), "return", 0.5)
    asking = replace(
        craft,
        loads=tuple(replace(x, least_v=12.79) if x.id == "b" else x for x in craft.loads),
    )
    candidate = worked(
        bench(asking, "a"), Offer("shared", (SharedReturn(("a", "b"), beside=False),))
    )
    assert candidate.now.spare_v > 0
    assert not candidate.holds
    made = put_right(asking)
    assert all(not r.others for r in made.repairs)
    assert "b" in made.beyond


def test_how_far_it_is_names_those_that_are_tried_together() -> None:
    steps = list(run_by_run(craft_of(4, 4), TABLES, BY_DUTY, AS_DRAWN, {}, A_MINUTE))
    assert ("a", "b") in [s.sharing for s in steps]
    assert [s.done for s in steps].count(True) == 1
    assert isinstance(steps[-1].repairs[0], Repair)
    assert isinstance(steps[-1].repairs[0].taken, Candidate)
