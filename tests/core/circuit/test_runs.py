"""Tracing runs, and finding what is wrong with a drawn craft."""

from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.circuit.runs import Tracer, misplaced, traced, traced_like
from spare_margin.core.circuit.soundness import network_troubles
from spare_margin.core.errors import JobError
from spare_margin.data.tables import shipped_tables
from tests.conftest import Document, craft_of, job_document, load, loop, piece, wire


def troubles(document: Document) -> list[str]:
    return [str(t) for t in network_troubles(craft_of(document), shipped_tables())]


def test_a_run_is_traced_in_the_order_of_the_current() -> None:
    document = loop()
    document["elements"].reverse()
    document["elements"][0] |= {"from": "b-", "to": "r1"}
    craft = craft_of(document)
    run = Tracer(craft, {}).trace(craft.loads[0])
    assert [s.piece.id for s in run.steps()] == ["f", "w", "j", "jr", "wr"]
    assert run.back[-1].forward is False
    assert run.ends("return") == ("l-", "b-")


def test_a_load_drawn_the_other_way_round_and_an_open_switch_are_still_a_run() -> None:
    document = loop()
    document["elements"][3] |= {"from": "l-", "to": "l+"}
    document["elements"][0] |= {"kind": "switch", "open": True, "style": "isolator"}
    del document["elements"][0]["rating_a"]
    craft = craft_of(document)
    run = Tracer(craft, {}).trace(craft.loads[0])
    assert run.feed_terminal == "l+"


def test_sides_are_checked_not_believed() -> None:
    document = loop()
    document["elements"][4]["side"] = "feed"
    craft = craft_of(document)
    assert misplaced([Tracer(craft, {}).trace(craft.loads[0])]) == {"jr": "return"}


def test_a_bridge_of_paths_is_one_group() -> None:
    document = job_document(
        [
            wire("w", "b+", "l+"), load(),
            piece("a", "l-", "x", "return"), piece("b", "l-", "y", "return"),
            piece("c", "x", "y", "return"), piece("d", "x", "b-", "return"),
            piece("e", "y", "b-", "return"),
        ]
    )  # fmt: skip
    craft = craft_of(document)
    steps = Tracer(craft, {}).trace(craft.loads[0]).back
    assert len(steps) == 5
    assert len({s.group for s in steps}) == 1
    assert sum(not s.beside for s in steps) == 2


@pytest.mark.parametrize(
    ("gone", "says"),
    [
        ("w", "nothing connects a live post to its feed"),
        ("wr", "nothing connects its return back"),
    ],
)
def test_a_loop_that_does_not_close_names_its_gap(gone: str, says: str) -> None:
    document = loop()
    document["elements"] = [e for e in document["elements"] if e["id"] != gone]
    craft = craft_of(document)
    with pytest.raises(JobError, match=says):
        Tracer(craft, {}).trace(craft.loads[0])
    assert any(says in t for t in troubles(document))


def test_points_that_lead_nowhere() -> None:
    document = loop()
    document["nodes"].append({"id": "alone", "name": "Lone stud"})
    document["elements"].append(piece("stub", "f1", "end"))
    document["nodes"].append({"id": "end"})
    found = troubles(document)
    assert any("Lone stud is joined to nothing" in t for t in found)
    assert any("Joint leads nowhere" in t for t in found)


def second_source(**more: Any) -> Document:
    document = loop()
    document["sources"].append({**document["sources"][0], "id": "t", **more})
    return document


@pytest.mark.parametrize(
    "more",
    [
        {"open_circuit_v": 24.0},
        {"live": "b-", "return": "b+"},
    ],
)
def test_sources_that_fight_are_refused(more: Document) -> None:
    assert any("drive" in t for t in troubles(second_source(**more)))


def test_a_charger_beside_a_battery_is_fine() -> None:
    assert troubles(second_source(open_circuit_v=14.2, internal_ohm=0.05)) == []


def test_a_load_that_stalls_is_named_before_anything_is_shown() -> None:
    document = loop()
    document["elements"][3] = load(behaviour="constant_power", power_w=900)
    assert any("would stall" in t for t in troubles(document))


def test_runs_of_a_craft_that_hangs_alike_are_not_traced_again() -> None:
    craft = craft_of(loop())
    before = traced(craft, {})
    wire_, source = craft.pieces[1], craft.sources[0]
    longer = replace(wire_, length_m=9.0)
    fuller = replace(source, open_circuit_v=13.1)
    changed = replace(craft, pieces=(craft.pieces[0], longer, *craft.pieces[2:]), sources=(fuller,))
    like = traced_like(before, changed)
    assert like is not None
    assert like.runs == traced(changed, {}).runs
    assert like.runs["l"].feed[1].piece is longer
    for other in (
        replace(craft, pieces=craft.pieces[1:]),
        replace(craft, pieces=(replace(wire_, start="b-"), *craft.pieces[1:])),
        replace(craft, loads=(replace(craft.loads[0], end="b-"),)),
        replace(craft, sources=(replace(source, live="l+"),)),
    ):
        assert traced_like(before, other) is None


def test_a_way_beside_that_changes_is_traced_again() -> None:
    document = loop()
    document["elements"].append(piece("strap", "l-", "b-", "return"))
    craft = craft_of(document)
    before = traced(craft, {"strap": 1.0})
    strap = craft.pieces[-1]
    changed = replace(craft, pieces=(*craft.pieces[:-1], replace(strap, resistance_ohm=1e-5)))
    assert traced_like(before, changed) is None
    broken = replace(before, problem="the loop of it does not close")
    assert traced_like(broken, craft) is None


def test_what_hangs_together_alike_has_its_own_names() -> None:
    """Which ends meet where is taken over from the craft before; what a point is called is not."""
    craft = craft_of(loop())
    renamed = replace(craft, points=tuple(replace(p, name=f"Point {p.id}") for p in craft.points))
    assert craft.point("w1").name == ""
    renamed.takes_joints_of(craft)
    assert renamed.point("w1").name == "Point w1"
    afresh = replace(renamed)
    assert renamed.touching == afresh.touching
    longer = replace(craft, pieces=craft.pieces[::-1])
    longer.takes_joints_of(craft)
    assert longer.point("w1") is craft.point("w1")
