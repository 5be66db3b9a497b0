"""An exercise played act by act: what each shows and costs, by hand where it can be."""

import random
from typing import Any

import pytest

from spare_margin.core.errors import JobError
from spare_margin.core.practice.acts import Act, Claim
from spare_margin.core.practice.ahead import ahead
from spare_margin.core.practice.bench import OFFSET_A, shown_volts
from spare_margin.core.practice.played import WARM_MIN, Played
from spare_margin.core.practice.playing import MOST_ACTS, act, played
from tests.practice import made, shipped_with

WEAK, DEAD, RELAYS, STRONG = "1-7", "1-4", "4-2", "5-2"
MOVED, WARM, SAGS = "7-4", "7-1", "7-9"


def at(key: str, *acts: Act) -> Played:
    return played(made(key)[0], acts)


def do(on: Played, kind: Any, **said: Any) -> Played:
    return act(on, Act(kind=kind, **said))


def shown(on: Played) -> float:
    (value,) = on.told[-1].shown
    return value


NOTED = (Act(kind="noted"), Act(kind="zero"))


def test_the_same_acts_give_the_same_figures() -> None:
    acts = (*NOTED, Act(kind="volts", red="p1", black="p5"), Act(kind="amperes", element="l1"))
    assert at(WEAK, *acts).told == at(WEAK, *acts).told


def test_a_side_reads_current_times_its_ohms() -> None:
    on = at(WEAK, *NOTED)
    held, run = on.exercise, on.exercise.loop
    amps = do(on, "amperes", element=held.run)
    volts = do(amps, "volts", red=run.ends("feed")[0], black=run.ends("feed")[1])
    ohms = sum(held.ohms[s.piece.id] for s in run.feed)
    ohms += sum(h.ohm for h in held.hidden if h.element in {s.piece.id for s in run.feed})
    assert shown(volts) == pytest.approx(shown(amps) * ohms, rel=0.04)


def test_a_lead_that_lies_there_already_costs_nothing_and_trim_comes_off_once() -> None:
    held = made(shipped_with(2, lambda e: any(p.access == "trim" for p in e.craft.points)))[0]
    trim = next(p.id for p in held.craft.points if p.access == "trim")
    first = do(Played(exercise=held), "volts", red=trim, black="p2")
    again = do(first, "volts", red=trim, black="p2")
    there = do(do(again, "volts", red="p1", black="p2"), "volts", red=trim, black="p2")
    assert [t.minutes for t in there.told] == [7.0, 0.5, 1.0, 1.0]


def test_a_clamp_that_was_not_zeroed_is_off() -> None:
    wild, zeroed = at(WEAK), at(WEAK, Act(kind="zero"))
    off = shown(do(wild, "amperes", element="l1")) - shown(do(zeroed, "amperes", element="l1"))
    assert OFFSET_A[0] - 0.4 < off < OFFSET_A[1] + 0.4


def test_a_coarse_range_shows_fewer_digits_and_a_low_one_overflows() -> None:
    coarse = shown_volts(0.0312, 600.0, random.Random(1))
    assert coarse.step == pytest.approx(0.1)
    assert coarse.accuracy == pytest.approx(0.2, abs=0.01)
    assert shown_volts(12.6, 0.6, random.Random(1)).value is None
    assert shown_volts(None, None, random.Random(1)).wanders


def test_a_lead_in_the_air_wanders_and_is_no_reading() -> None:
    on = do(at(WEAK, *NOTED), "volts", red="p1", black="")
    assert on.told[-1].state == "wandering"
    assert on.readings == ()


def test_ohms_on_a_live_craft_are_a_danger_and_show_nothing() -> None:
    live = do(at(WEAK, *NOTED), "ohms", red="p1", black="p5")
    assert (live.told[-1].state, live.told[-1].danger) == ("wandering", "ohms_live")
    dead = do(do(do(at(WEAK, *NOTED), "command", element="l1", state="off"), "power", state="off"),
              "ohms", red="p1", black="p3")  # fmt: skip
    assert dead.told[-1].danger is None
    assert shown(dead) == pytest.approx(0.2, abs=0.11)


def test_an_ohmmeter_finds_a_bad_joint_as_good_as_a_cable() -> None:
    """What takes volts at eight amperes is a tenth of an ohm or two: the leads have as much."""
    on = at(WEAK, *NOTED)
    (bad,) = on.exercise.hidden
    piece = next(p for p in on.exercise.craft.pieces if p.id == bad.element)
    on = do(do(on, "command", element="l1", state="unplugged"), "power", state="off")
    assert shown(do(on, "ohms", red=piece.start, black=piece.end)) == pytest.approx(
        bad.ohm + 0.2, abs=0.16
    )


def test_an_open_has_no_ohms_and_a_lamp_behind_it_stays_dark() -> None:
    on = at(DEAD, *NOTED)
    run = on.exercise.loop
    (gap,) = on.exercise.hidden
    piece = next(s for s in run.steps() if s.piece.id == gap.element)
    assert do(on, "lamp", red=piece.exit, black=run.source.back).told[-1].state == "dark"
    assert do(on, "lamp", red=piece.entry, black=run.source.back).told[-1].state == "lit"
    off = do(do(on, "command", element="l1", state="unplugged"), "power", state="off")
    assert do(off, "ohms", red=piece.entry, black=piece.exit).told[-1].state == "over_range"


def test_a_relay_lets_go_where_its_coil_gets_nothing() -> None:
    on = at(RELAYS, *NOTED)
    assert on.looks["l1"] == "still"
    (gap,) = on.exercise.hidden
    mended = do(on, "conclude", claims=(Claim(element=gap.element, kind="open"),))
    assert mended.looks["l1"] == "full"
    assert mended.truly_well


def test_a_spare_wire_round_what_is_bad_tells() -> None:
    on = at(WEAK, *NOTED)
    (bad,) = on.exercise.hidden
    piece = next(p for p in on.exercise.craft.pieces if p.id == bad.element)
    over = do(on, "join", red=piece.start, black=piece.end)
    assert over.told[-1].outcome == "right"
    assert over.looks["l1"] == "full"
    assert do(over, "unjoin").looks["l1"] == on.looks["l1"]
    other = next(p for p in on.exercise.craft.pieces if p.kind == "fuse")
    fuse = do(on, "join", red=other.start, black=other.end)
    assert (fuse.told[-1].outcome, fuse.told[-1].danger) == ("none", "fuse_bridged")


def test_a_test_load_stands_in_only_for_what_is_unplugged() -> None:
    on = at(WEAK, *NOTED)
    load = on.exercise.craft.load("l1")
    with pytest.raises(JobError):
        do(on, "stand_in", red=load.start, black=load.end)
    hung = do(do(on, "command", element="l1", state="unplugged"), "stand_in",
              red=load.start, black=load.end)  # fmt: skip
    run = on.exercise.loop
    side = run.ends("feed")
    assert shown(do(hung, "volts", red=side[0], black=side[1])) > 0.5
    plugged = do(hung, "command", element="l1", state="running")
    assert plugged.state.stand_in is None


def test_what_is_loose_shows_only_while_it_is_moved() -> None:
    on = at(MOVED, *NOTED)
    run = on.exercise.loop
    (loose,) = on.exercise.hidden
    side = "feed" if loose.element in {s.piece.id for s in run.feed} else "return"
    red, black = run.ends(side)
    still = shown(do(on, "volts", red=red, black=black))
    least, most = do(on, "volts", red=red, black=black, moved=loose.element).told[-1].shown
    assert least == pytest.approx(still, rel=0.05, abs=0.005)
    assert most > still + 0.3
    other = next(s.piece.id for s in run.steps() if s.piece.id != loose.element)
    calm = do(on, "volts", red=red, black=black, moved=other).told[-1].shown
    assert calm[1] - calm[0] < 0.05


def test_what_grows_bad_warm_needs_time_and_power_on() -> None:
    on = at(WARM, *NOTED)
    assert on.looks["l1"] == "full"
    assert do(on, "wait", minutes=WARM_MIN - 1).looks["l1"] == "full"
    warm = do(on, "wait", minutes=WARM_MIN)
    assert warm.looks["l1"] == "weak"
    assert do(warm, "command", element="l1", state="off").state.warm is False
    off = do(do(on, "command", element="l1", state="off"), "wait", minutes=WARM_MIN)
    assert off.state.warm is False


def test_a_weak_source_sags_at_its_posts() -> None:
    on = at(SAGS, *NOTED)
    source = on.exercise.loop.source
    loaded = shown(do(on, "volts", red=source.live, black=source.back))
    off = do(on, "command", element="l1", state="off")
    rest = shown(do(off, "volts", red=source.live, black=source.back))
    assert rest - loaded > 0.8


def test_a_start_is_kept_as_least_and_most() -> None:
    on = at(STRONG, *NOTED)
    run = on.exercise.loop
    red, black = run.ends("feed")
    least, most = do(on, "volts", red=red, black=black, start=True).told[-1].shown
    assert most > 1.5 * least
    with_moment = do(on, "volts", red=red, black=black, start=True)
    assert with_moment.moments[-1].loads["l1"] == "starting"


def test_holding_a_short_time_motor_and_taking_the_battery_off_are_dangers() -> None:
    on = at(STRONG, *NOTED)
    assert do(on, "wait", minutes=8).told[-1].danger == "held_on"
    assert do(on, "power", state="off").told[-1].danger == "switched_off_loaded"
    off = do(on, "command", element="l1", state="off")
    assert do(off, "power", state="off").told[-1].danger is None
    assert do(at(STRONG), "volts", red="p1", black="p2").told[-1].danger == "cautions"


def test_a_repair_begins_a_new_pass_and_what_was_sound_costs_too() -> None:
    on = do(at(WEAK, *NOTED), "volts", red="p1", black="p5")
    fuse = next(p for p in on.exercise.craft.pieces if p.kind == "fuse")
    after = do(on, "conclude", claims=(Claim(element=fuse.id, kind="resistance"),))
    assert after.price > 0
    assert after.current == ()
    assert not after.truly_well
    ended = do(after, "hand_over")
    with pytest.raises(JobError):
        do(ended, "zero")


@pytest.mark.parametrize(
    "wrong",
    [
        Act(kind="volts", red="p99", black="p1"), Act(kind="volts", red="p1", black="p1"),
        Act(kind="lamp", red="p1"), Act(kind="amperes", element="p1"),
        Act(kind="command", element="l1", state="open"), Act(kind="command", element="e1", state="off"),
        Act(kind="contact", element="e1", state="open"), Act(kind="power", state="running"),
        Act(kind="unjoin"), Act(kind="volts", red="p1", black="p2", moved="l1"),
        Act(kind="conclude", claims=(Claim(element="nobody", kind="open"),)),
        Act(kind="conclude", claims=(Claim(element="l1", kind="load", remedy="remade"),)),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_named_and_changes_nothing(wrong: Act) -> None:
    on = at(WEAK, *NOTED)
    with pytest.raises(JobError) as refused:
        act(on, wrong)
    assert refused.value.path
    assert len(on.acts) == len(NOTED)


def test_a_charging_craft_has_no_engine() -> None:
    held = made("5-1")[0]
    assert held.story in ("generator", "panels", "hydro")
    with pytest.raises(JobError):
        act(Played(exercise=held), Act(kind="engine", state="on"))


@pytest.mark.parametrize("key", [WEAK, RELAYS, STRONG])
def test_what_is_known_ahead_is_what_the_act_shows(key: str) -> None:
    on = at(key, *NOTED)
    run = on.exercise.loop
    steps = list(ahead(on))
    wanted = [Act(kind="volts", red=a, black=b) for a, b in (run.ends("feed"), run.ends("return"))]
    for step, each in zip(
        steps, [*wanted, Act(kind="amperes", element="l1"), *wanted], strict=False
    ):
        known = step.amperes["l1"] if each.kind == "amperes" else step.volts[each.red, each.black]
        on = act(on, each)
        assert on.told[-1].shown == ((known.value,) if known.value is not None else ())


def test_a_relay_is_heard_to_pull_in_or_not() -> None:
    on = at(RELAYS, *NOTED)
    assert on.pulled_in == set()
    (gap,) = on.exercise.hidden
    mended = do(on, "conclude", claims=(Claim(element=gap.element, kind="open"),))
    assert mended.pulled_in == {"l2"}
    off = do(mended, "command", element="l2", state="off")
    assert (off.pulled_in, off.looks["l1"]) == (set(), "still")


def test_a_wire_from_post_to_post_is_a_short_and_one_along_the_feed_is_none() -> None:
    on = at(WEAK, *NOTED)
    source, load = on.exercise.loop.source, on.exercise.craft.load("l1")
    assert do(on, "join", red=source.live, black=source.back).told[-1].danger == "short"
    assert do(on, "join", red=load.end, black=source.back).told[-1].danger is None


def test_what_is_switched_off_by_any_way_grows_cold() -> None:
    warm = do(at(WARM, *NOTED), "wait", minutes=WARM_MIN)
    assert warm.state.warm
    switch = next(p.id for p in warm.exercise.craft.pieces if p.kind == "switch")
    for off in (do(warm, "contact", element=switch, state="open"), do(warm, "power", state="off")):
        assert not off.state.warm
        assert do(off, "wait", minutes=WARM_MIN).state.warm is False
    assert do(warm, "engine", state="on").state.warm


def test_an_exercise_can_always_be_ended() -> None:
    on = at(WEAK)
    for _ in range(MOST_ACTS):
        on = do(on, "zero")
    with pytest.raises(JobError):
        do(on, "zero")
    assert do(do(on, "conclude"), "hand_over").ended
