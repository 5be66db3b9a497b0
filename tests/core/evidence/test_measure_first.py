"""Measuring before anything is drawn: unknown pieces, stretches split, trials, free points."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.circuit.loads import UNKNOWN_A
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.circuit.soundness import network_troubles
from spare_margin.core.edit.charging import with_charger
from spare_margin.core.edit.one_load import one_load
from spare_margin.core.edit.splitting import Place, split
from spare_margin.core.errors import JobError
from spare_margin.core.evidence.observation.observations import observe
from spare_margin.core.evidence.observation.together import by_free_points
from spare_margin.core.model.fixed_pieces import UNKNOWN_OHM
from spare_margin.core.model.jobs import Moment, Reading, StandInLoad, Trial
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Size,
    TestPoint,
    undrawn,
)
from spare_margin.core.walk.at_rest import bypassed, stand_of, sweep
from spare_margin.core.walk.cautions import cautions, guards, raised
from spare_margin.core.walk.meaning import meaning
from spare_margin.core.walk.walk import Expectation, Measurement, expectation, walk
from spare_margin.service.job.judging import Judging
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by, judged

FEED, BACK = ("live", "feed-terminal"), ("return-terminal", "back")


def pump(**more: object) -> Craft:
    return one_load(
        "boat", 12.0, "flooded", Load(id="", start="", end="", name="Sump pump", **more)
    )


def run_of(craft: Craft) -> Run:
    return Tracer(craft, closed_ohms(craft, TABLES)).trace(craft.loads[0])


def read(red: str, black: str, value: float | None, **more: object) -> Reading:
    return reading(red, black, value, **{"scenario": "now", **more})


def four(source: float, amps: float, feed: float, back: float) -> list[Reading]:
    """Source, current, the load's volts, feed and return: what is read by hand."""
    return [
        read("live", "back", source),
        read("live", "feed-terminal", feed),
        read("feed-terminal", "return-terminal", amps, quantity="amperes", accuracy=0.1),
        read("feed-terminal", "return-terminal", source - feed - back),
        read(*BACK, back),
    ]


# Nothing drawn


def test_five_readings_give_a_verdict_of_what_nobody_has_drawn() -> None:
    assert judged(pump(), four(12.6, 4.6, 0.12, 0.08), "load").verdict == "within"
    over = judged(pump(), four(12.6, 4.6, 0.9, 0.08), "load")
    assert over.verdict == "over"
    assert over.sides["feed"].verdict == "over"
    assert over.sides["return"].verdict == "within"


def test_without_a_current_it_is_only_said_of_it_as_it_ran() -> None:
    no_clamp = [r for r in four(12.6, 4.6, 0.12, 0.08) if r.quantity != "amperes"]
    assert judged(pump(), no_clamp, "load").verdict == "within_as_ran"
    idle = [r for r in four(12.6, 4.6, 0.0, 0.0) if r.quantity != "amperes"]
    assert judged(pump(), idle, "load").verdict == "not_judged", "nothing shows that it ran"


@given(
    feed=st.floats(0.005, 1.5), back=st.floats(0.005, 1.5), amps=st.floats(0.5, 30),
    source=st.floats(11.5, 14.4),
)  # fmt: skip
def test_a_verdict_of_the_undrawn_is_that_of_the_sides_alone(
    feed: float, back: float, amps: float, source: float
) -> None:
    """0.50 and 0.25 V are the ceilings: well below both is never over, well above one never within."""
    found = judged(pump(), four(source, amps, feed, back), "load").verdict
    if feed < 0.35 and back < 0.17:
        assert found != "over"
    if feed > 0.65 or back > 0.35:
        assert found != "within"


@pytest.mark.parametrize(
    "piece",
    [
        Conductor(id="w", start="a", end="b", side="feed", length_m=4.0),
        Conductor(id="w", start="a", end="b", side="feed", size=Size("mm2", "2.5")),
        FixedPiece(id="f", start="a", end="b", side="feed", kind="fuse"),
        FixedPiece(id="b", start="a", end="b", side="feed", kind="breaker"),
        FixedPiece(id="u", start="a", end="b", side="feed", kind="unknown", resistance_ohm=0.1),
    ],
)
def test_pieces_without_figures_are_unknown_and_doubted_as_such(
    piece: Conductor | FixedPiece,
) -> None:
    assert undrawn(piece)
    assert TABLES.spreads.of_piece(piece) == TABLES.spreads.of("unknown") > 1
    if piece.resistance_ohm is None:
        assert not undrawn(replace(piece, resistance_ohm=0.01)) or piece.id == "u"


def test_a_craft_of_unknown_pieces_is_solved_from_starting_values() -> None:
    craft = craft_by('fuse > wire > 2.5 mm2 > load "L" 2 A > 3 m')
    wires = [p for p in craft.pieces if undrawn(p)]
    assert len(wires) == 4
    solved = solve(craft, craft.scenarios[0], TABLES)
    fuse = next(p for p in wires if isinstance(p, FixedPiece))
    assert solved.elements[fuse.id].drop_v == pytest.approx(2 * UNKNOWN_OHM)


# Splitting


@pytest.mark.parametrize("place", ["point", "fuse", "plug", "ring"])
def test_a_stretch_splits_and_every_reading_keeps_its_points(place: Place) -> None:
    craft = pump()
    made, points = split(craft, run_of(craft), "u1", place, ("In", "Out"))
    assert len(points) == (1 if place == "point" else 2)
    assert {p.id for p in craft.points} <= {p.id for p in made.points}
    order = [s.entry for s in run_of(made).feed]
    assert order == ["live", *points]
    seen = four(12.6, 4.6, 0.9, 0.08)
    before, after = judged(craft, seen, "load"), judged(made, seen, "load")
    assert after.verdict == before.verdict == "over"
    assert after.sides["feed"].volts == pytest.approx(before.sides["feed"].volts, abs=0.02)


def test_halving_corners_a_bad_stud_in_three_more_readings() -> None:
    craft, seen = pump(), four(12.6, 4.6, 0.12, 0.9)
    found = judged(craft, seen, "load")
    stands = walk(found, [])
    assert (stands.split, stands.next) == ("u2", None)
    craft, (wire, stud) = split(craft, run_of(craft), "u2", "ring", ("Stud, wire", "Stud, hull"))
    seen += [read(wire, stud, 0.82), read("return-terminal", wire, 0.04), read(stud, "back", 0.04)]
    found = judged(craft, seen, "load")
    element, p = found.top
    guilty = next(x for x in craft.pieces if x.id == element)
    assert (guilty.start, guilty.end) == (wire, stud)
    assert p > 0.95
    assert walk(found, []).ending == "cornered"


def test_only_a_stretch_or_a_wire_is_split() -> None:
    craft, _ = split(pump(), run_of(pump()), "u1", "fuse", ("In", "Out"))
    fuse = next(p.id for p in craft.pieces if p.kind == "fuse")
    with pytest.raises(JobError, match="is one piece"):
        split(craft, run_of(craft), fuse, "point", ("Here", ""))
    with pytest.raises(JobError, match="there is no w9"):
        split(craft, run_of(craft), "w9", "point", ("Here", ""))
    drawn = craft_by('2.5 mm2 4 m > load "L" 2 A > 2.5 mm2 4 m')
    halves, _ = split(drawn, run_of(drawn), "w1", "point", ("Here", ""))
    assert sum(undrawn(p) for p in halves.pieces) == 2, "how long each half is nobody has said"


# What is expected, and what a value means by itself

SOURCE = Measurement("source", "source", "live", "back")
CURRENT = Measurement("current", "current", "a", "b")
LOAD = Measurement("load", "load", "a", "b")
SIDE = Measurement("feed", "side", "live", "a", side="feed")


def test_nothing_is_expected_that_nobody_knows() -> None:
    assert expectation(CURRENT, None, None, None) is None
    side = expectation(SIDE, None, 0.5, None)
    assert side == Expectation(None, 0.0, 0.5, 0.5)
    assert expectation(LOAD, None, 0.75, None, source_v=12.6) == Expectation(
        None, 11.85, 12.6, None
    )
    assert expectation(LOAD, None, 0.75, None) is None


@pytest.mark.parametrize(
    ("each", "value", "loaded", "code"),
    [
        (CURRENT, 0.0, None, "draws_nothing"), (CURRENT, 4.6, None, "draws"),
        (CURRENT, 1.0, None, "draws_little"), (CURRENT, 9.0, None, "draws_much"),
        (SOURCE, 12.6, None, "source_good"), (SOURCE, 11.2, None, "source_low"),
        (SOURCE, -12.6, None, "reversed"), (SOURCE, 2.0, None, "source_gone"),
        (SOURCE, 20.0, None, "impossible"),
        (LOAD, 12.4, None, "loop_within"), (LOAD, 11.0, None, "loop_over"),
        (LOAD, 0.1, None, "open_loop"), (LOAD, 11.85, None, "loop_close"),
        (SIDE, 0.2, True, "drop_within"), (SIDE, 0.2, None, "needs_current"),
        (SIDE, 0.9, None, "drop_over"), (SIDE, 0.5, True, "drop_close"),
        (SIDE, -0.2, True, "turned"), (SIDE, 12.5, None, "drop_open"),
        (SIDE, 12.5, True, "drop_whole"), (SIDE, 11.0, True, "drop_over"),
        (SIDE, 310.0, True, "impossible"),
    ],
)  # fmt: skip
def test_a_typed_value_means_something_at_once(
    each: Measurement, value: float, loaded: bool | None, code: str
) -> None:
    likely = expectation(each, None, {"load": 0.75, "side": 0.5}.get(each.kind), 4.6, 12.6)
    assert meaning(each, value, 0.01, likely, 12.0, 12.6, loaded).code == code


def test_nearly_the_whole_source_on_a_side_that_carries_current_is_asked_about() -> None:
    """Somebody who holds the leads on the source itself reads just that; the source is not read yet."""
    likely = expectation(SIDE, None, 0.5, 4.6, None)
    assert meaning(SIDE, 12.5, 0.01, likely, 12.0, None, True).code == "drop_whole"
    assert meaning(SIDE, 12.5, 0.01, likely, 12.0, None, None).code == "drop_over"


# Trials


def tried(craft: Craft, seen: list[Reading], trial: Trial) -> Judging:
    moment = Moment(id=trial.moment, scenario="now")
    return Judging(craft, seen, [moment], [trial], LIMITS, TABLES)


def test_a_bridge_that_comes_right_names_what_was_bridged() -> None:
    craft, points = split(pump(), run_of(pump()), "u1", "switch", ("In", "Out"))
    seen = four(12.6, 4.6, 4.0, 0.08)
    trial = Trial(
        id="t", moment="m", kind="bridge", start=points[0], end=points[1], outcome="right"
    )
    found = tried(craft, seen, trial).judge("load")
    switch = next(p.id for p in craft.pieces if p.kind == "switch")
    assert found.top[0] == switch
    none = tried(craft, seen, replace(trial, outcome="none")).judge("load")
    assert none.search.by_element[switch] < 0.1


def test_a_temporary_return_tells_by_its_volts_what_a_new_one_would_bring() -> None:
    craft, seen = pump(), four(12.6, 4.6, 0.12, 0.9)
    trial = Trial(id="t", moment="m", kind="return", start="return-terminal", end="back", ohm=0.01)
    with_it = read("feed-terminal", "return-terminal", 12.42, moment="m", trial="t")
    found = tried(craft, [*seen, with_it], trial).judge("load")
    assert found.verdict == "over"
    assert found.top[0] == "u2"


# Moved, by way of, stood in


def test_what_changes_while_a_thing_is_moved_is_there() -> None:
    craft = craft_by(
        'fuse 15 > 2.5 mm2 3 m > pin [A] > pin [B] > load "L" 4 A > 2.5 mm2 3 m > ring'
    )
    load = craft.loads[0]
    pins = [p.id for p in craft.pieces if getattr(p, "style", "") == "pin"]
    at = ("live", load.start)
    seen = [
        reading("live", "back", 12.6, scenario="rested"),
        reading(*at, 0.10, scenario="rested", hold="least", moved=pins[1]),
        reading(*at, 0.48, scenario="rested", hold="most", moved=pins[1]),
    ]
    found = judged(craft, seen, load.id)
    assert "moves" in {f.code for f in found.findings}
    assert found.top[0] == pins[1]
    assert found.top[1] > 0.9
    other = judged(craft, [replace(r, moved=pins[0]) if r.moved else r for r in seen], load.id)
    assert other.top[0] == pins[0]
    still = [replace(r, value=0.10) if r.hold == "most" else r for r in seen]
    assert not observe(craft, still).set_aside, "what did not change was read twice"
    assert "moves" not in {f.code for f in judged(craft, still, load.id).findings}


def test_a_proven_point_stands_in_for_the_post_with_its_own_drop_added() -> None:
    craft = replace(pump(), points=(*pump().points, TestPoint(id="block", name="Engine block")))
    seen = [
        *four(12.6, 4.6, 0.12, 0.08)[:3],
        read("return-terminal", "block", 0.30, id="a1"),
        read("block", "back", 0.05, id="a2"),
    ]
    values = {
        (o.red, o.black): o.value for o in observe(craft, seen).values if o.quantity == "volts"
    }
    assert values["return-terminal", "back"] == pytest.approx(0.35)
    (carried,) = by_free_points(craft, seen[-2:])
    assert carried.accuracy == pytest.approx(seen[-1].accuracy + seen[-2].accuracy)
    alone = observe(craft, seen[:-1])
    assert ("return-terminal", "back") not in {(o.red, o.black) for o in alone.values}


def stood(
    craft: Craft, amps: float, volts: float, leads: float = 0.0, feed_alone: float | None = None
) -> Judging:
    """Across a stand-in in the connector, and with its return lead on the post."""
    load, scenario = craft.loads[0], craft.scenarios[0].id
    moments, seen = [], []
    for end, value in ((load.end, volts), ("back", feed_alone)):
        if value is None:
            continue
        held = StandInLoad(start=load.start, end=end, amperes=amps)
        moments.append(
            Moment(id=end, scenario=scenario, loads={load.id: "unplugged"}, stand_in=held)
        )
        seen.append(
            reading(
                load.start,
                end,
                value,
                scenario=scenario,
                moment=end,
                source_v=12.60,
                leads_ohm=leads,
            )
        )
    return Judging(craft, seen, moments, [], LIMITS, TABLES)


def test_a_stand_in_judges_the_run_at_the_current_of_its_own_load() -> None:
    craft = craft_by('fuse 15 > 4 mm2 2 m > load "L" 4.6 A > 4 mm2 2 m > ring')

    def fine(held: Judging) -> Judging:
        sharp = [replace(r, accuracy=0.02) for r in held.readings]
        return Judging(craft, sharp, held.moments, [], LIMITS, TABLES)

    heavy = fine(stood(craft, 4.4, 12.45, feed_alone=12.53)).judge("l")
    assert heavy.verdict == "within"
    assert heavy.loaded
    assert stood(craft, 4.4, 10.9).judge("l").verdict == "over"
    # Its leads' own 0.6 V are no loss of the run's.
    own = fine(stood(craft, 4.4, 11.85, leads=0.6 / 4.4, feed_alone=11.93)).judge("l")
    assert own.verdict == "within"
    assert stood(craft, 4.4, 11.60, feed_alone=11.93).judge("l").verdict == "over"


def test_what_no_reading_could_tell_is_not_passed_on_the_drawings_word() -> None:
    """A good meter and 0.1 A: some millivolts of doubt are 0.15 V at 4.6 A, more than a third of 0.25."""
    craft = craft_by('fuse 15 > 4 mm2 2 m > load "L" 4.6 A > 4 mm2 2 m > ring')
    seen = stood(craft, 0.1, 12.598, feed_alone=12.599)
    fine = [replace(r, accuracy=0.01) for r in seen.readings]
    found = Judging(craft, fine, seen.moments, [], LIMITS, TABLES).judge("l")
    assert found.verdict not in ("within", "over")


@given(amps=st.floats(0.1, 0.4))
def test_a_weak_stand_in_never_clears(amps: float) -> None:
    craft = craft_by('fuse 15 > 4 mm2 2 m > load "L" 4.6 A > 4 mm2 2 m > ring')
    assert stood(craft, amps, 12.6 - 0.02 * amps).judge("l").verdict != "within"


# At rest


@pytest.mark.parametrize("state", ["off", "unplugged"])
def test_a_stretch_that_nobody_drew_may_hold_the_switch_that_keeps_the_load_off(state: str) -> None:
    taken = [read("live", "back", 12.6, moment="m"), read("feed-terminal", "back", 0.0, moment="m")]

    def judged_in(loads: str) -> str:
        moment = Moment(id="m", scenario="now", loads={"load": loads})  # type: ignore[dict-item]
        judging = Judging(pump(), taken, [moment], [], LIMITS, TABLES)
        return judging.judge("load").conclusion.headline

    assert judged_in(state) == "not_read"
    assert judged_in("attempted") == "open"
    blind = [
        replace(
            reading(*FEED, None, quantity="ohms", scenario="now", moment="m"), state="over_range"
        )
    ]
    off = Moment(id="m", scenario="now", loads={"load": state})  # type: ignore[dict-item]
    meter = Judging(pump(), blind, [off], [], LIMITS, TABLES).judge("load")
    assert meter.conclusion.headline == "not_read", "nor does an ohmmeter look through a switch"


def test_the_sweep_at_rest_tells_where_each_point_stands_and_what_a_contact_does_not_keep_back() -> (
    None
):
    craft = craft_by('fuse 15 [F] > switch [S] > 2.5 mm2 3 m > load "L" 2 A > 2.5 mm2 3 m')
    run = run_of(craft)
    off = replace(craft.scenarios[0], on=frozenset())
    resting = solve(craft, off, TABLES)
    order = [p.point for p in sweep(run, resting, {}, 12.6)]
    points = {p.id: p.name for p in craft.points}
    switched = next(k for k, n in points.items() if n == "S")
    read_at = dict.fromkeys(order, 12.6)
    after = order.index(switched)
    read_at |= dict.fromkeys(order[after:], 0.0)
    assert [p.should for p in sweep(run, resting, read_at, 12.6)][after] == "source"
    assert bypassed(sweep(run, resting, read_at, 12.6)) == []
    # The switch stands open: then nothing behind it is as it should be.
    switch = next(p.id for p in craft.pieces if p.kind == "switch")
    opened = solve(craft, replace(off, contacts={switch: "open"}), TABLES)
    assert [p.should for p in sweep(run, opened, read_at, 12.6)][after] != "source"
    assert bypassed(sweep(run, opened, read_at, 12.6)) == []
    assert bypassed(sweep(run, opened, dict.fromkeys(order, 12.6), 12.6)) == [switched]
    assert bypassed(sweep(run, opened, {**read_at, order[-1]: 12.6}, 12.6)) == [order[-1]]
    assert stand_of(6.0, 12.6) == "between"


# Cautions


def named(name: str, **more: object) -> Craft:
    return one_load("vehicle", 12.0, "flooded", Load(id="", start="", end="", name=name, **more))


@pytest.mark.parametrize(
    ("name", "caution", "guard"),
    [
        ("Fuel pump", "petrol_gas", True), ("Gas locker fan", "petrol_gas", True),
        ("Headlamp, left", "road_lights", False), ("Horn", "road_lights", False),
        ("Steering pump", "brakes_steering", True), ("Brake booster", "brakes_steering", True),
        ("Engine control", "control_units", True), ("Tank sensor", "control_units", True),
        ("Inverter", "mains_side", True),
    ],
)  # fmt: skip
def test_a_caution_appears_by_the_loads_name_on_any_craft(
    name: str, caution: str, guard: bool
) -> None:
    craft = named(name)
    load = craft.loads[0]
    assert caution in cautions(craft, 1.0, "as_found", load)
    assert (caution in guards(craft, 1.0, "as_found", load)) == guard
    plain = named("Cabin fan")
    assert caution not in cautions(plain, 1.0, "as_found", plain.loads[0])


def test_a_winch_is_cautioned_though_nobody_knows_its_current() -> None:
    winch = named("Capstan", duty="short_time")
    assert "high_current" in guards(winch, 1.0, "as_found", winch.loads[0])


def test_an_open_breaker_and_a_bad_hull_path_raise_their_cautions() -> None:
    craft = craft_by('breaker 20 [B] > 2.5 mm2 3 m > load "L" 4 A > 1.5 mm2 1 m > ring > body')
    load = craft.loads[0]
    rested = {"scenario": "rested"}
    breaker = next(p for p in craft.pieces if p.kind == "breaker")
    dead = [
        reading("live", "back", 12.6, **rested),
        reading(load.start, load.end, 0.0, quantity="amperes", accuracy=0.02, **rested),
        reading(breaker.start, "back", 12.6, **rested), reading(breaker.end, "back", 0.0, **rested),
    ]  # fmt: skip
    assert "open_protection" in raised(judged(craft, dead, load.id))
    bad = [
        reading("live", "back", 12.6, **rested),
        reading(load.start, load.end, 4.0, quantity="amperes", accuracy=0.1, **rested),
        reading(load.end, "back", 1.4, **rested),
    ]
    assert "body_return" in raised(judged(craft, bad, load.id))


# The charging path


def test_a_generator_feeds_the_battery_and_every_load_by_the_charging_path() -> None:
    craft, run_id = with_charger(
        craft_by('fuse 15 > 4 mm2 2 m > load "L" 5 A'), "generator", "Gen", 14.2
    )
    run = Tracer(craft, closed_ohms(craft, TABLES)).trace(craft.load(run_id))
    assert run.source.name == "Gen"
    assert (run.feed_terminal, run.return_terminal) == ("live", "back")
    charging = craft.scenarios[-1]
    # What nobody knows of is drawn as UNKNOWN_A: 5 A and that flow out of the generator, by 20 mohm.
    solved = solve(craft, charging, TABLES)
    drawn = 5 + UNKNOWN_A
    assert solved.source_current_a["gen"] == pytest.approx(drawn, rel=1e-3)
    assert abs(solved.source_current_a["source"]) < 1e-4
    assert solved.elements[run.feed[0].piece.id].drop_v == pytest.approx(
        drawn * UNKNOWN_OHM, rel=1e-3
    )
    # In the states before, the generator gives nothing.
    rested = solve(craft, craft.scenarios[0], TABLES)
    assert abs(rested.source_current_a["gen"]) < 1e-4
    assert list(network_troubles(craft, TABLES)) == []


def test_a_charging_path_is_read_against_two_tenths_a_side() -> None:
    craft, run_id = with_charger(
        craft_by('fuse 15 > 4 mm2 2 m > load "L" 5 A'), "generator", "Gen", 14.2
    )
    charging = craft.scenarios[-1].id
    gen = craft.sources[1]

    def seen(feed: float) -> list[Reading]:
        more = {"scenario": charging}
        return [
            reading(gen.live, gen.back, 14.30, **more),
            reading(gen.live, "live", feed, **more),
            reading("live", "back", 31.0, quantity="amperes", accuracy=0.5, **more),
            reading("live", "back", 14.30 - feed - 0.06, **more),
            reading("back", gen.back, 0.06, **more),
        ]

    assert judged(craft, seen(0.08), run_id).verdict == "within"
    over = judged(craft, seen(0.45), run_id)
    assert over.verdict == "over"
    assert over.sides["feed"].ceiling_v == pytest.approx(0.2)


def test_ripple_while_charging_hints_at_a_rectifier() -> None:
    craft = pump()
    for value, said in ((0.2, False), (0.9, True)):
        rippled = read("live", "back", value, quantity="ripple")
        found = observe(craft, [rippled])
        assert ("ripples" in {f.code for f in found.findings}) == said
        assert not found.values, "it is no drop"


def test_off_by_a_switch_on_the_return_nothing_is_bypassed() -> None:
    """A lamp joins its ends: what lies before its open switch stands at the source's volts."""
    craft = craft_by('fuse 15 > 2.5 mm2 3 m > lamp "L" 24 W > 2.5 mm2 3 m > switch [S] > 4 mm2 1 m')
    run = run_of(craft)
    switch = next(p.id for p in craft.pieces if p.kind == "switch")
    off = replace(craft.scenarios[0], on=frozenset(), contacts={switch: "open"})
    resting = solve(craft, off, TABLES)
    swept = sweep(run, resting, dict.fromkeys([*run.line["feed"], *run.line["return"]], 12.6), 12.6)
    assert {p.should for p in swept} == {"source"}
    assert bypassed(swept) == []
    back = sweep(run, resting, {"back": 12.6}, 12.6, "return")
    assert [p.should for p in back][:2] == ["source", "source"]
    assert back[-1].should == "loose"
