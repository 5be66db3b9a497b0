"""Cornering: Bayes' rule over faults, probes that tell, an end; the simulated meter does the reading."""

import math
import random
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest

from spare_margin.core.cornering import Corner, Seen
from spare_margin.core.faults import fault_table
from spare_margin.core.network import Network
from spare_margin.core.odds import Odds
from spare_margin.core.pieces import Access, Craft
from spare_margin.core.resistances import closed_ohms
from spare_margin.core.runs import Tracer
from spare_margin.core.searching import Ground, search_craft, search_run
from spare_margin.data.shelves import demo_files, shipped_tables
from spare_margin.exchange.job_file import read_job
from spare_margin.instruments.simulated_meter import SimulatedMeter
from spare_margin.instruments.simulated_search import read, search
from tests.conftest import craft_of, load, loop, piece, wire

TABLES = shipped_tables()


def ground_of(craft: Craft, load_id: str, scenario: str | None = None) -> Ground:
    network = Network(craft, craft.scenario(scenario), TABLES)
    network.solve()
    run = Tracer(craft, closed_ohms(craft, TABLES)).trace(craft.load(load_id))
    return search_run(craft, network, run, TABLES)


def probabilities(ground: Ground, seen: list[Seen]) -> dict[str | None, float]:
    out: dict[str | None, float] = {}
    for s in ground.corner.given(seen, ground.points).suspects:
        out[s.element] = out.get(s.element, 0.0) + s.probability
    return out


def test_without_readings_the_odds_are_the_prior() -> None:
    ground = ground_of(craft_of(loop()), "l")
    found = ground.corner.given([], ground.points)
    assert sum(s.probability for s in found.suspects) == pytest.approx(1)
    by = probabilities(ground, [])
    # none 12 + 0, load 4, source 3, wires 1 + 1 each, pins 9 + 2.5 each, fuse 3 + 5.
    total = 12 + 4 + 3 + 2 * 2 + 2 * 11.5 + 8
    assert by[None] == pytest.approx(12 / total)
    assert by["j"] == pytest.approx(11.5 / total)
    assert by["f"] == pytest.approx(8 / total)
    assert not found.done
    assert found.next_probes


def test_a_reading_moves_the_odds_by_bayes_rule() -> None:
    """Two classes by hand: with the loop as it should be, none against a pin with much in it."""
    ground = ground_of(craft_of(loop()), "l")
    table = ground.corner.table
    good = Seen("b+", "l+", float(table.drop("b+", "l+")[0]), 0.004)
    by = probabilities(ground, [good])
    assert by["j"] < 0.1 * probabilities(ground, [])["j"], "the whole feed is good"
    back = by["jr"] / probabilities(ground, [])["jr"]
    assert back > 0.9, "the return was not looked at"


def test_the_demo_jobs_are_cornered_where_their_faults_are() -> None:
    guilty = {
        "1-sloop-marram": ("tap", "tap-ring", 0.078),
        "2-tourer-linnet": ("fan", "fan-pin", 0.145),
    }
    for name, raw in demo_files():
        if name not in guilty:
            continue
        run, wanted, ohm = guilty[name]
        job = read_job(raw)
        scenario = job.readings[0].scenario
        ground = ground_of(job.craft, run, scenario)
        meter = SimulatedMeter(job.craft, job.craft.scenario(scenario), TABLES, {wanted: ohm}, 5)
        ended = search(ground.corner, meter, dict(ground.points))
        top = ended.ended.suspects[0]
        assert (top.element, top.kind, ended.ended.done) == (wanted, "excess_resistance", True)
        assert top.ohm == pytest.approx(ohm, rel=0.15)
        assert len(ended.readings) <= 6


@pytest.mark.parametrize("fault", ["f", "w", "j", "jr", "wr"])
@pytest.mark.parametrize("ohm", [0.05, 0.3, math.inf])
def test_every_piece_of_a_loop_is_found(fault: str, ohm: float) -> None:
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {fault: ohm}, 9)
    ended = search(ground.corner, meter, dict(ground.points))
    assert ended.ended.done
    by: dict[str | None, float] = {}
    for s in ended.ended.suspects:
        by[s.element] = by.get(s.element, 0.0) + s.probability
    assert max(by, key=lambda k: by[k]) == fault
    assert by[fault] >= 0.95


def test_nothing_wrong_is_found_too() -> None:
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {}, 3)
    ended = search(ground.corner, meter, dict(ground.points), first=(("b+", "b-"), ("l+", "l-")))
    assert ended.ended.suspects[0].kind == "none"


def test_two_faults_at_once_are_told_as_a_pair() -> None:
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {"j": 0.08, "jr": 0.12}, 4)
    spans = [("b+", "f1"), ("f1", "w1"), ("w1", "l+"), ("l-", "r1"), ("r1", "b-")]
    found = ground.corner.given([read(meter, *span) for span in spans], ground.points)
    assert found.together
    assert {s.element for s in found.suspects[:2]} == {"j", "jr"}
    assert [s.probability for s in found.suspects[:2]] == pytest.approx([1, 1], abs=0.02)
    sizes = {s.element: s.ohm for s in found.suspects}
    assert sizes["j"] == pytest.approx(0.08, rel=0.1)
    assert sizes["jr"] == pytest.approx(0.12, rel=0.1)
    assert found.done


def test_a_point_behind_trim_is_asked_last() -> None:
    open_points = ground_of(craft_of(loop()), "l")
    behind: Mapping[str, Access] = {**open_points.points, "w1": "trim", "r1": "trim"}
    meter = SimulatedMeter(craft_of(loop()), craft_of(loop()).scenario(), TABLES, {"jr": 0.3}, 2)
    seen = [read(meter, "b+", "b-"), read(meter, "l+", "l-"), read(meter, "l-", "b-")]
    easy = open_points.corner.given(seen, open_points.points).next_probes[0]
    hard = open_points.corner.given(seen, behind).next_probes[0]
    assert "r1" in (easy.red, easy.black)
    assert easy.minutes < hard.minutes


def test_a_sagged_source_is_made_up_for_only_over_the_load() -> None:
    ground = ground_of(craft_of(loop()), "l")
    table = ground.corner.table
    source = float(table.drop("b+", "b-")[0])
    load_v = float(table.drop("l+", "l-")[0])
    sagged = Seen("l+", "l-", load_v - 0.4, 0.01, source_v=source - 0.4)
    assert ground.corner.compensated(sagged) == pytest.approx(load_v)
    drop = Seen("b+", "l+", 0.31, 0.01, source_v=source - 0.4)
    assert ground.corner.compensated(drop) == 0.31
    assert (
        probabilities(ground, [sagged])[None]
        > probabilities(ground, [Seen("l+", "l-", load_v - 0.4, 0.01)])[None]
    )


def test_odds_by_kind_and_style() -> None:
    odds = Odds({("joint", ""): (7, 2), ("joint", "pin"): (9, 2.5)})
    assert odds.of("joint", "pin") == (9, 2.5)
    assert odds.of("joint", "solder") == (7, 2)
    assert odds.of("gremlin") == (1.0, 1.0)


def test_a_shared_piece_is_searched_from_everything_that_is_on() -> None:
    document = loop()
    document["elements"] += [
        wire("w2", "f1", "m+", length_m=2),
        load("m", "m+", "m-", current_a=2.0, behaviour="constant_current"),
        piece("m-r", "m-", "b-", "return", style="pin"),
    ]  # fmt: skip
    document["scenarios"][0]["on"].append("m")
    document["nodes"] += [{"id": "m+"}, {"id": "m-"}]
    craft = craft_of(document)
    ground = search_craft(craft, craft.scenario(), TABLES)
    assert {f.element for f in ground.corner.table.faults} >= {"w2", "wr", "m", "l", "s", None}
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {"f": 0.2}, 8)
    seen = [read(meter, *pair) for pair in (("b+", "f1"), ("l+", "l-"), ("m+", "m-"))]
    assert ground.corner.given(seen, ground.points).suspects[0].element == "f"


def test_probes_promise_no_more_than_is_in_doubt() -> None:
    rng = random.Random(2)
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    for _ in range(10):
        fault = rng.choice(["f", "w", "j", "jr", "wr"])
        meter = SimulatedMeter(craft, craft.scenario(), TABLES, {fault: rng.uniform(0.02, 1)}, 1)
        seen = [read(meter, "b+", "b-"), read(meter, "l+", "l-")]
        found = ground.corner.given(seen, ground.points)
        for probe in found.next_probes:
            assert -1e-9 <= probe.bits <= found.entropy + 1e-9
        speed = [p.bits / p.minutes for p in found.next_probes]
        assert speed == sorted(speed, reverse=True)


def test_the_table_and_prior_fit_each_other() -> None:
    craft = craft_of(loop())
    network = Network(craft, craft.scenario(), TABLES)
    network.solve()
    table = fault_table(network, {"j"})
    assert {f.element for f in table.faults} == {None, "j"}
    corner = Corner(table, np.full(len(table.faults), 1 / len(table.faults)), ("b+", "b-"))
    assert len(corner.classes) == 3


@pytest.mark.parametrize("order", [(0, 1, 2, 3), (3, 1, 0, 2), (2, 3, 1, 0)])
def test_the_order_of_readings_does_not_matter(order: tuple[int, ...]) -> None:
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {"wr": 0.12}, 6)
    spans = [("b+", "b-"), ("l+", "l-"), ("l-", "b-"), ("r1", "b-")]
    seen = [read(meter, *span) for span in spans]
    straight = probabilities(ground, seen)
    shuffled = probabilities(ground, [seen[i] for i in order])
    assert shuffled == pytest.approx(straight)
    assert sum(straight.values()) == pytest.approx(1)


@pytest.mark.parametrize("ohm", [0.03, 0.1, 0.4])
def test_a_better_meter_leaves_less_in_doubt(ohm: float) -> None:
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {"j": ohm}, 6)
    seen = [read(meter, "b+", "b-"), read(meter, "l+", "l-")]
    rough = [Seen(s.red, s.black, s.volts, 5 * s.accuracy) for s in seen]
    doubt = [ground.corner.given(each, ground.points).entropy for each in (seen, rough)]
    assert doubt[0] <= doubt[1] + 0.2


def test_one_wrong_reading_does_not_decide_alone() -> None:
    """A slip of the finger among good readings: the rest outweighs it."""
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    meter = SimulatedMeter(craft, craft.scenario(), TABLES, {"jr": 0.2}, 6)
    seen = [read(meter, *span) for span in (("b+", "b-"), ("l+", "l-"), ("l-", "r1"), ("l-", "b-"))]
    wrong = Seen("b+", "f1", 9.0, 0.05)
    assert max(probabilities(ground, [*seen, wrong]).items(), key=lambda kv: kv[1])[0] == "jr"


def test_a_source_that_stands_beside_the_model_is_no_fault() -> None:
    """The battery rests 0.5 V lower than its scenario says; the fault is found all the same."""
    craft = craft_of(loop())
    ground = ground_of(craft, "l")
    low = replace(craft, sources=(replace(craft.sources[0], open_circuit_v=12.1),))
    for fault in ("j", "jr", "w"):
        meter = SimulatedMeter(low, low.scenario(), TABLES, {fault: 0.15}, 5)
        first = (("b+", "b-"), ("l+", "l-"))
        ended = search(ground.corner, meter, dict(ground.points), first=first)
        assert not ended.ended.together
        assert ended.ended.suspects[0].element == fault
    meter = SimulatedMeter(low, low.scenario(), TABLES, {}, 5)
    seen = [read(meter, *span) for span in (("b+", "b-"), ("l+", "l-"), ("b+", "l+"), ("l-", "b-"))]
    assert ground.corner.given(seen, ground.points).suspects[0].kind == "none"
