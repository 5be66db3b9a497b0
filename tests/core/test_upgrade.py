"""Repairs and upgrades of a run: what each does to the wiring, what holds, what it takes."""

import json
import math
from dataclasses import replace

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted
from spare_margin.core.model.jobs import Job, Revision
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import AUTO, Conductor, Craft, FixedPiece, Size
from spare_margin.core.model.tables import Tables
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import Candidate, all_worked
from spare_margin.core.upgrade.new_ways import hot_pull_in_v
from spare_margin.core.upgrade.offers import NotOffered, Offers
from spare_margin.core.upgrade.order import work_order
from spare_margin.core.upgrade.parts import cut_m, new_relays, parts_of
from spare_margin.core.upgrade.ranking import ranked
from spare_margin.core.upgrade.run_by_run import RunByRun, run_by_run
from spare_margin.core.walk.regulated import regulated
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.job_file.job_file import ReadJob, read_job
from spare_margin.exchange.job_file.writing import write_job
from spare_margin.wording.repair import upgrades
from tests.rough import craft_by

TABLES = shipped_tables()
BY_DUTY = Limits(TABLES.limit_sets["by-duty"], {})
PUMP = (
    "[Bar] > fuse 15 > panel switch > 2.5 mm² 105 °C 4 m > pin > "
    'motor "Pump" 5 A x3 least 10 V > pin > 2.5 mm² 105 °C 4 m > ring > [Strap]'
)
TRUNK = "6 mm² 105 °C 2 m > ring [Bar] > "
FAN = (
    f'{TRUNK}fuse 5 > panel switch > 1 mm² 105 °C 1 m > load "Fan" 2 A > 1 mm² 105 °C 1 m > ring '
    "[Strap] > body"
)


def two_runs(*, pump: str = PUMP) -> Craft:
    """A fan and a pump behind one main feed, back through one strap and the body."""
    craft = craft_by(FAN, pump)
    return replace(craft, scenarios=craft.scenarios[:1])


def key_of(craft: Craft, name: str, at: int = 0) -> str:
    """The id of a load's own joint of a style, in the order drawn."""
    found = [p for p in craft.pieces if isinstance(p, FixedPiece) and p.style == name]
    return found[at].id


def bench(
    craft: Craft, guilty: str = "", ohm: float = 0.08, tables: Tables = TABLES, **more: object
) -> Bench:
    """The pump's bench; with a guilty piece, as a reading found it."""
    point = replace(AS_DRAWN, more_ohm={guilty: ohm}) if guilty else AS_DRAWN
    suspects = {guilty: 1.0} if guilty else {}
    return Bench(craft, "pump", point, suspects, BY_DUTY, tables, **more)  # type: ignore[arg-type]


def candidates(made: Bench) -> dict[str, Candidate]:
    offers = Offers(made).offered
    worked = [c for c in all_worked(made, offers) if isinstance(c, Candidate)]
    return {c.offer.id: c for c in worked}


def pump_pin(craft: Craft) -> str:
    """The pin on the pump's return."""
    run = traced(craft, closed_ohms(craft, TABLES)).runs["pump"]
    return next(s.piece.id for s in run.back if getattr(s.piece, "style", "") == "pin")


def test_a_repair_that_leaves_the_guilty_piece_in_place_fails() -> None:
    craft = two_runs()
    pin = pump_pin(craft)
    made = bench(craft, pin)
    assert made.before.spare_v < 0
    found = candidates(made)
    assert found[f"mend-{pin}"].holds
    assert found[f"mend-{pin}"].price == 0.0
    assert not found["thicker"].holds
    assert found["thicker"].left_in == {pin: 1.0}
    for each in found.values():
        cured = all(piece.id != pin or piece.repair for piece in each.craft.pieces)
        on_way = pin in {s.piece.id for s in _run(each.craft).steps()}
        assert each.holds <= (cured or not on_way), each.offer.id
    order = ranked(list(found.values()), 0.8)
    assert order.best == f"mend-{pin}"
    assert order.order.index("thicker") > order.order.index(f"mend-{pin}")


def _run(craft: Craft):  # type: ignore[no-untyped-def]
    return traced(craft, closed_ohms(craft, TABLES)).runs["pump"]


def test_every_candidate_is_a_whole_wiring_that_comes_back_from_a_file() -> None:
    craft = two_runs()
    for each in candidates(bench(craft, pump_pin(craft))).values():
        found = traced(each.craft, closed_ohms(each.craft, TABLES))
        assert not found.problem
        assert found.runs.keys() >= {"fan", "pump"}
        sizes = [p.size for p in each.craft.pieces if isinstance(p, Conductor)]
        assert all(size is not None and size.value != AUTO for size in sizes)
        revision = Revision(id="r", stage="as_found", parent=None, made_at="2026-01-01T00:00:00Z",
                            craft=each.craft)  # fmt: skip
        file = write_job(ReadJob(Job(id="", title="x"), (revision,), ()))
        assert read_job(json.dumps(file).encode()).craft == each.craft


@pytest.mark.parametrize(("engine_c", "air_c"), [(90.0, 90.0), (None, 50.0)])
def test_a_relay_in_the_engine_space_pulls_in_later(engine_c: float | None, air_c: float) -> None:
    """It sits near the load: where the wires there lie in the engine space, so does its coil."""
    craft = two_runs()
    pieces = tuple(
        replace(p, engine_space=True) if isinstance(p, Conductor) else p for p in craft.pieces
    )
    scenarios = tuple(replace(s, engine_c=engine_c) for s in craft.scenarios)
    relay = candidates(bench(replace(craft, pieces=pieces, scenarios=scenarios)))["relay"]
    _, wanted = relay.pull_in or (0.0, 0.0)
    assert wanted == pytest.approx(7.8 * (1 + 0.00393 * (air_c + 40.0 - 20.0)), abs=0.005)


def test_a_relay_puts_the_old_wire_on_its_coil() -> None:
    craft = two_runs()
    made = bench(craft)
    relay = candidates(made)["relay"]
    run = _run(relay.craft)
    kinds = [s.piece.kind for s in run.feed]
    assert kinds[-5:] == ["fuse", "conductor", "joint", "relay_contact", "joint"]
    coil = relay.craft.load("coil-pump")
    assert coil.load_ohm == 90
    assert made.before.switch_a == pytest.approx(5.0)
    # What the old switch carries then: the coil's current, through its old thin wire.
    got, wanted = relay.pull_in or (0.0, 0.0)
    assert relay.now.switch_a == pytest.approx(got / 90, rel=0.02)
    assert wanted == pytest.approx(7.8 * (1 + 0.00393 * 45), abs=0.005)
    solution = solve(relay.craft, relay.craft.scenario(), TABLES)
    assert got == pytest.approx(abs(solution.volts(coil.start, coil.end) or 0.0))
    assert got > wanted
    assert new_relays(craft, relay.craft, TABLES)[coil.id].name.startswith("Small relay 30 A")
    fuse = next(p for p in relay.craft.pieces if p.id == relay.made.new_fuse)
    # 5 A x 1.25 = 6.25 A; a start of 15 A must stay below 1.35 times: 15 A.
    assert getattr(fuse, "rating_a", None) == 15.0


def test_a_coil_that_cannot_pull_in_through_the_old_wire() -> None:
    """A kilometre of 0.5 mm2 has 39 ohm: beside them the coil's 90 get 0.7 of the source."""
    craft = two_runs(
        pump=PUMP.replace("2.5 mm² 105 °C 4 m > pin > motor", "0.5 mm² 1000 m > pin > motor")
    )
    relay = candidates(bench(craft))["relay"]
    assert relay.pull_in is not None
    assert relay.pull_in[0] < relay.pull_in[1]
    assert not relay.holds
    assert "The coil gets" in upgrades.short_words(relay, {}, relay.craft) or relay.now.spare_v < 0


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({"current_a": 60.0}, "contact"),
        (
            {"behaviour": "filament", "power_w": 150.0, "rated_v": 12.0, "current_a": None},
            "contact",
        ),
    ],
)
def test_a_contact_that_bears_too_little_is_refused(change: dict[str, object], why: str) -> None:
    craft = two_runs()
    loads = tuple(replace(x, **change) if x.id == "pump" else x for x in craft.loads)  # type: ignore[arg-type]
    few = {k: r for k, r in TABLES.stock.relays.items() if r.contact_a <= 30}
    tables = replace(TABLES, stock=replace(TABLES.stock, relays=few))
    made = Offers(bench(replace(craft, loads=loads), tables=tables))
    assert [r.why for r in made.refused] == [why]


def test_a_relay_is_refused_without_a_switch_a_coil_or_leave() -> None:
    bare = two_runs(pump=PUMP.replace("panel switch > ", ""))
    assert [r.why for r in Offers(bench(bare)).refused] == ["no_switch"]
    none = replace(TABLES, stock=replace(TABLES.stock, relays={}))
    assert [r.why for r in Offers(bench(two_runs(), tables=none)).refused] == ["no_coil"]
    lit = Offers(bench(two_runs(), regulated="road_lights"))
    assert [r.why for r in lit.refused] == ["road_lights"]
    for refused in lit.refused:
        assert "regulated" in upgrades.refused_words(refused, {})


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("Headlamp, left", "road_lights"), ("Brake light", "road_lights"),
        ("Brake servo pump", "brakes_steering"), ("Ignition interlock", "engine_control"),
        ("Airbag unit", "out_of_scope"), ("Bilge pump", ""), ("Reading lamp", ""),
    ],
)  # fmt: skip
def test_regulated_loads_are_known_by_their_names(name: str, why: str) -> None:
    assert regulated(name) == why


def test_a_new_return_leaves_the_body_and_says_what_it_does_to_others() -> None:
    craft = two_runs()
    found = candidates(bench(craft))
    new = found["return"]
    back = _run(new.craft).back
    assert [s.piece.kind for s in back][:3] == ["joint", "conductor", "joint"]
    assert not any(s.piece.kind == "body_return" for s in back)
    beside = _run(found["return-beside"].craft)
    assert any(s.beside for s in beside.back)
    for each in (new, found["return-beside"]):
        for before, after in each.others.values():
            assert after >= before - 1e-9


def test_an_own_feed_leaves_the_trunk_to_the_others() -> None:
    craft = two_runs()
    own = candidates(bench(craft))["own-feed"]
    trunk = next(p for p in craft.pieces if isinstance(p, Conductor) and p.length_m == 2)
    assert trunk.id not in {s.piece.id for s in _run(own.craft).steps()}
    fan = traced(craft, closed_ohms(craft, TABLES)).runs["fan"]
    lost = [
        sum(sign * (made.elements[k].drop_v or 0) for k, sign in fan.counted["feed"])
        for made in (solve(each, each.scenario(), TABLES) for each in (craft, own.craft))
    ]
    # The trunk of 2 m of 6 mm2 and its ring no longer carry the pump's 5 A.
    assert lost[0] - lost[1] > 5 * 2 * 3.3e-3


def test_what_holds_keeps_every_ceiling_and_the_least_volts() -> None:
    craft = two_runs()
    tight = Limits(BY_DUTY.limit_set, {"pump": Ceilings(0.3, 0.15, 0.35)})
    made = replace(bench(craft), limits=tight)
    assert made.before.spare_v < 0
    found = candidates(made)
    assert any(c.holds for c in found.values())
    for each in found.values():
        solution = solve(each.craft, each.craft.scenario(), TABLES)
        run = _run(each.craft)
        lost = {
            side: sum(sign * (solution.elements[k].drop_v or 0) for k, sign in run.counted[side])
            for side in ("feed", "return")
        }
        keeps = lost["feed"] <= 0.3 and lost["return"] <= 0.15 and sum(lost.values()) <= 0.35
        assert each.holds <= keeps, each.offer.id
        assert each.now.spend.feed_v == pytest.approx(lost["feed"])


def test_thicker_wire_is_no_thicker_than_it_must_be() -> None:
    craft = two_runs()
    tight = Limits(BY_DUTY.limit_set, {"pump": Ceilings(0.3, 0.15)})
    found = candidates(replace(bench(craft), limits=tight))
    thicker = found["thicker"]
    assert thicker.proven
    rows = TABLES.conductors.rows
    for key, size in thicker.sizes.items():
        steps = sorted((s for s in rows if s.system == "mm2" and s.finish == "plain"),
                       key=lambda s: rows[s].area_mm2)  # fmt: skip
        thinner = steps[steps.index(size) - 1]
        pieces = tuple(replace(p, size=thinner) if p.id == key else p for p in thicker.craft.pieces)
        less = replace(thicker.craft, pieces=pieces)
        solution = solve(less, less.scenario(), TABLES)
        run = _run(less)
        over = [
            sum(sign * (solution.elements[k].drop_v or 0) for k, sign in run.counted[side]) > most
            for side, most in (("feed", 0.3), ("return", 0.15))
        ]
        assert any(over), key


def test_what_is_new_is_as_sure_as_its_tables() -> None:
    """Two wires of a tenth either way, as squares; a repair that leaves less than that is just enough."""
    craft = two_runs()
    tight = Limits(BY_DUTY.limit_set, {"pump": Ceilings(0.3, 0.15)})
    thicker = candidates(replace(bench(craft), limits=tight))["thicker"]
    solution = solve(thicker.craft, thicker.craft.scenario(), TABLES)
    drops = [solution.elements[key].drop_v or 0.0 for key in thicker.sizes]
    assert thicker.doubt_v == pytest.approx(0.1 * math.hypot(*drops), rel=1e-3)
    just = replace(thicker, now=replace(thicker.now, spares={"rested": 0.001}))
    assert upgrades.short_words(just, {}, craft).startswith("Just enough")
    ample = replace(thicker, now=replace(thicker.now, spares={"rested": 0.2}))
    assert upgrades.short_words(ample, {}, craft) == ""


def test_parts_and_prices_by_hand() -> None:
    assert cut_m(4.0) == pytest.approx(4.7)
    craft = two_runs()
    made = candidates(bench(craft))["relay"]
    lines = {line.kind: line for line in made.parts}
    # 6 m of way out: 6 x 1.1 + 0.3, rounded up to tenths.
    assert lines["wire"].metres == pytest.approx(6.9)
    assert lines["wire"].price == pytest.approx(
        (TABLES.stock.wire[made.sizes[lines["wire"].piece]] or 0.0) * 6.9
    )
    assert (lines["relay"].price, lines["socket"].count, lines["sleeve"].count) == (5.2, 1, 2)
    assert made.price == pytest.approx(sum(line.price or 0 for line in made.parts))
    assert parts_of(craft, craft, TABLES) == ()
    unpriced = replace(TABLES, stock=replace(
        TABLES.stock, wire=dict.fromkeys(TABLES.stock.wire)
    ))  # fmt: skip
    assert candidates(bench(craft, tables=unpriced))["relay"].price is None


def test_nothing_in_stock_is_said() -> None:
    empty = replace(TABLES, stock=replace(TABLES.stock, wire={}))
    made = bench(two_runs(), tables=empty)
    answers = list(all_worked(made, Offers(made).offered))
    refused = [a for a in answers if isinstance(a, NotOffered)]
    assert {r.why for r in refused} == {"stock"}
    assert "nothing in stock" in upgrades.refused_words(refused[0], {})


def test_one_that_another_beats_is_named_and_a_price_of_work_may_turn_it() -> None:
    craft = two_runs()
    pin = pump_pin(craft)
    found = list(candidates(bench(craft, pin)).values())
    cheap = ranked(found, 0.0)
    assert cheap.beaten[f"remake-{pin}"] == f"mend-{pin}"
    by_id = {c.offer.id: c for c in found}
    for beaten, by in cheap.beaten.items():
        assert by_id[by].now.spare_v >= by_id[beaten].now.spare_v - 1e-9
        assert (by_id[by].price or 0) <= (by_id[beaten].price or 0)
        assert by_id[by].minutes <= by_id[beaten].minutes
    titles = {c.offer.id: upgrades.title(c, {}) for c in found}
    says, _ = upgrades.recommended(cheap, by_id, titles, -0.1)
    assert says.startswith(titles[f"mend-{pin}"])
    assert ranked([], 1.0).best is None
    assert upgrades.recommended(ranked([], 1.0), {}, {}, 0.0) == ("", "")
    unknown, _ = upgrades.recommended(cheap, by_id, titles, None, frozenset({"return"}))
    assert unknown.startswith("Nothing is recommended yet: the return is neither drawn"), (
        "not: no work"
    )


def test_the_work_order_of_a_relay() -> None:
    craft = two_runs()
    made = candidates(bench(craft))["relay"]
    solution = solve(made.craft, made.craft.scenario(), TABLES)
    order = work_order(craft, made.craft, _run(made.craft), solution, TABLES)
    codes = [step.code for step in order.steps]
    assert codes[0] == "isolate"
    assert codes[-3:] == ["fuse_in", "reconnect", "seal"]
    assert {"run_wire", "fit_holder", "fit_relay", "old_wire_to_coil", "move_load"} <= set(codes)
    assert codes.index("fit_holder") < codes.index("fuse_in")
    assert len({step.id for step in order.steps}) == len(order.steps)
    for step in order.steps:
        assert upgrades.step_words(step, {})[0].endswith(".")
    read = {r.measurement.id: r.expected for r in order.readings}
    assert read["source"] == pytest.approx(read["load"] + read["feed"] + read["return"])
    coil = made.craft.load("coil-pump")
    assert read[f"span {coil.start} {coil.end}"] > 9.2
    for line in order.parts:
        assert all(upgrades.part_words(line, {}, {"feed": "red"}))


def test_a_run_that_is_never_on_has_no_bench() -> None:
    craft = two_runs()
    off = replace(
        craft, scenarios=tuple(replace(s, on=frozenset({"fan"})) for s in craft.scenarios)
    )
    with pytest.raises(JobError, match="off in every scenario"):
        Offers(bench(off))


def test_wires_that_are_alike_are_told_once() -> None:
    made = candidates(bench(two_runs(pump=PUMP.replace("2.5 mm²", "1 mm²"))))["thicker"]
    alike = Size("mm2", "4")
    pieces = tuple(replace(p, size=alike) if p.id in made.sizes else p for p in made.craft.pieces)
    both = replace(made, craft=replace(made.craft, pieces=pieces))
    assert len(made.sizes) == 2
    assert upgrades.size_words(both) == ["2 \u00d7 4\xa0mm², 4\xa0m"]


def put_right(craft: Craft, point: Adjusted, suspects: dict[str, float]) -> RunByRun:
    return list(run_by_run(craft, TABLES, BY_DUTY, point, suspects, 0.8))[-1]


def test_the_worst_run_is_put_right_first_and_counts_for_the_others() -> None:
    craft = two_runs()
    pin = pump_pin(craft)
    guilty = replace(AS_DRAWN, more_ohm={pin: 0.08})
    made = put_right(craft, guilty, {pin: 1.0})
    assert [(r.load, r.taken.offer.id) for r in made.repairs] == [("pump", f"mend-{pin}")]
    assert (made.beyond, made.over, made.done) == ((), (), True)
    assert next(p for p in made.craft.pieces if p.id == pin).repair
    # The shared feed is at fault: both runs are over, one repair puts both right.
    ring = key_of(craft, "ring on stud")
    shared = put_right(craft, replace(AS_DRAWN, more_ohm={ring: 0.1}), {ring: 1.0})
    assert [r.taken.offer.id for r in shared.repairs] == [f"mend-{ring}"]
    assert not shared.beyond


def test_with_nothing_over_nothing_is_repaired() -> None:
    craft = two_runs()
    assert put_right(craft, AS_DRAWN, {}).craft == craft


def test_what_nothing_on_offer_helps_is_said_and_the_rest_goes_on() -> None:
    hopeless = PUMP.replace("least 10 V", "least 12.79 V")
    craft = two_runs(pump=hopeless)
    ring = key_of(craft, "ring on stud")
    made = put_right(craft, replace(AS_DRAWN, more_ohm={ring: 0.1}), {ring: 1.0})
    assert made.beyond == ("pump",)
    assert made.done
    assert [r.load for r in made.repairs] == ["fan"]


def test_a_hot_coil_wants_more_volts() -> None:
    relay = TABLES.stock.relays["Small relay 30 A, resistor across the coil"]
    assert hot_pull_in_v(relay, 60.0) > hot_pull_in_v(relay, 25.0) > relay.pull_in_v
    assert relay.bears_a(craft_by(FAN).load("fan")) == 30
    assert Size("mm2", AUTO) not in TABLES.conductors.rows
