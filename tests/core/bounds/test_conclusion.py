"""The one conclusion, by hand: what is said, what it rests on, what is asked for next."""

from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.bounds.drift import FALLS_SHARE, RISES_SHARE, SETTLED_SHARE
from spare_margin.core.bounds.scale import OTHERS_SHARE
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import Moment, Reading
from spare_margin.core.model.pieces import Scenario
from spare_margin.core.patience import at_most
from spare_margin.core.walk.walk import walk
from spare_margin.service.job.judging import Judging
from spare_margin.wording.measured.verdicts import judgement_words
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by

CRAFT = craft_by(
    'fuse 15 [F] > switch [S] > 2.5 mm² 2 m > pin [P] > load "L" 5 A > pin [Q] > 2.5 mm² 2 m [W] > ring'
)
LOAD = CRAFT.loads[0]
AT = {p.name: p.id for p in CRAFT.points if p.name}
PLUS, MINUS = LOAD.start, LOAD.end


def read(red: str, black: str, value: float, **more: Any) -> Reading:
    return reading(red, black, value, **{"scenario": "rested", "accuracy": 0.002, **more})


def amps(value: float, **more: Any) -> Reading:
    return read(PLUS, MINUS, value, **{"quantity": "amperes", "accuracy": 0.05, **more})


def source(value: float, **more: Any) -> Reading:
    return read("live", "back", value, **{"accuracy": 0.04, **more})


def across(value: float, **more: Any) -> Reading:
    return read(PLUS, MINUS, value, **{"accuracy": 0.04, **more})


def feed(value: float, **more: Any) -> Reading:
    return read("live", PLUS, value, **more)


def back(value: float, **more: Any) -> Reading:
    return read(MINUS, "back", value, **more)


def judged(*readings: Reading, moments: tuple[Moment, ...] = ()) -> Judgement:
    return Judging(CRAFT, readings, moments, (), LIMITS, TABLES).judge("l")


def next_of(found: Judgement) -> str:
    asked = found.conclusion.to_read
    return asked[0].kind if asked else ""


# The verdict


def test_the_clamp_and_both_sides_are_enough() -> None:
    found = judged(amps(5.0), feed(0.30), back(0.15))
    assert (found.verdict, found.done) == ("within", "good")
    assert found.conclusion.to_read == ()
    side = found.sides["feed"]
    assert side.read
    # The source was read by nobody: what flows may have moved by 5 % between the readings.
    assert side.high_v == pytest.approx(0.30 * (1 + FALLS_SHARE) + 0.002)
    assert side.low_v == pytest.approx(0.30 * (1 - FALLS_SHARE) - 0.002)
    assert side.loaded_high_v == pytest.approx(side.high_v * 5.0 / 4.95)
    assert len(side.readings) == 1


def test_two_readings_of_the_source_that_agree_settle_it() -> None:
    sure = judged(source(12.6), amps(5.0), feed(0.30), back(0.15), source(12.6, id="again"))
    assert sure.sides["feed"].high_v == pytest.approx(0.30 * (1 + SETTLED_SHARE) + 0.002)
    moved = judged(source(12.6), amps(5.0), feed(0.30), back(0.15), source(12.2, id="again"))
    assert moved.sides["feed"].high_v == pytest.approx(0.30 * (1 + FALLS_SHARE) + 0.002)


@pytest.mark.parametrize(
    ("lost", "verdict"), [(0.228, "within"), (0.245, "too_close"), (0.27, "over")]
)
def test_the_limit_is_held_against_the_whole_range(lost: float, verdict: str) -> None:
    """0.25 V for the return: the most must keep it, or the least pass it."""
    found = judged(source(12.6), amps(5.0), feed(0.30), back(lost), source(12.6, id="again"))
    assert found.verdict == verdict


def test_without_a_clamp_it_is_said_of_it_as_it_ran() -> None:
    good = judged(feed(0.30), back(0.15))
    assert (good.verdict, good.loaded) == ("within_as_ran", None)
    assert (good.done, next_of(good)) == ("", "current")
    bad = judged(feed(0.30), back(0.50))
    assert bad.verdict == "over_as_ran"
    # 0.473 V at the least; the load itself is to blame from 5 A x 0.473 / 0.25 on.
    low = 0.50 * (1 - FALLS_SHARE) - 0.002
    assert bad.conclusion.unless_a == pytest.approx(5.0 * low / 0.25)
    assert "Unless L draws more than 9" in judgement_words(bad, CRAFT)


def test_nothing_that_runs_is_no_pass() -> None:
    """All volts at nought: nobody saw it run."""
    assert judged(feed(0.0), back(0.0)).verdict == "not_judged"
    off = judged(amps(0.0), feed(0.0), back(0.0), across(12.5), source(12.5))
    assert (off.verdict, off.loaded, off.done) == ("not_judged", False, "load")


def test_at_its_full_draw_a_run_loses_more() -> None:
    """0.15 V at 2.5 A are 0.30 at 5: over, though nothing was over when it was read."""
    found = judged(source(12.6), amps(2.5), feed(0.10), back(0.15), source(12.6, id="again"))
    assert found.verdict == "over"
    assert found.sides["return"].loaded_low_v == pytest.approx(
        (0.15 * (1 - SETTLED_SHARE) - 0.002) * 5 / 2.55
    )
    assert "low_current" in {f.code for f in found.findings}


def test_a_side_nobody_spanned_is_not_within() -> None:
    found = judged(amps(5.0), feed(0.30), read(MINUS, AT["W"], 0.05))
    assert found.verdict == "not_judged"
    assert found.conclusion.missing == "return"
    assert next_of(found) == "side"


def test_a_difference_against_the_source_is_blunt() -> None:
    """12.60 less 12.05 less 0.10 leaves 0.45: no verdict until the source stands still."""
    once = judged(source(12.60), amps(5.0), across(12.05), feed(0.10))
    assert once.verdict == "not_judged"
    assert (once.conclusion.missing, once.conclusion.unsettled) == ("source", True)
    assert next_of(once) == "source"
    again = judged(source(12.60), amps(5.0), across(12.05), feed(0.10), source(12.60, id="again"))
    assert again.verdict == "over"
    assert (
        set(again.sides["return"].readings) >= {"live-back-12.6-volts-None"}
        or again.sides["return"].readings
    )


def test_yesterdays_source_bounds_nothing() -> None:
    old = {"taken_at": "2026-05-01T08:00:00Z"}
    new = {"taken_at": "2026-05-02T08:00:00Z"}
    found = judged(
        source(12.60, **old), source(12.60, id="again", **old), amps(5.0, **new),
        across(11.0, **new), feed(0.10, **new),
    )  # fmt: skip
    assert found.verdict == "not_judged"
    assert found.sides["return"].high_v is None


def test_how_far_a_source_may_have_come_up() -> None:
    """An earlier source reading of 12.0 and 12.15 at the load: 0.12 V up are allowed, no more."""
    high = 12.0 + 0.04 + RISES_SHARE * 12
    ok = judged(source(12.0), amps(5.0), across(high + 0.03))
    assert ok.verdict != "contradiction"
    assert judged(source(12.0), amps(5.0), across(high + 0.05)).verdict == "contradiction"


# Contradictions


def test_readings_that_no_circuit_gives_are_named_and_nothing_rests_on_them() -> None:
    found = judged(source(12.6), across(12.05), back(1.07), amps(5.0))
    made = found.conclusion
    assert made.headline == "contradiction"
    assert set(made.contradicting) == {
        "live-back-12.6-volts-None", f"{PLUS}-{MINUS}-12.05-volts-None",
        f"{MINUS}-back-1.07-volts-None",
    }  # fmt: skip
    assert found.found == ()
    assert found.suspects == ()
    assert "can't all be true" in judgement_words(found, CRAFT)
    assert next_of(found) == "source"


def test_current_without_volts_is_one() -> None:
    assert judged(across(0.0), amps(5.0)).verdict == "contradiction"
    assert judged(source(0.1), amps(5.0)).verdict == "contradiction"


# What was found


def test_a_piece_is_found_only_across_itself() -> None:
    by_parts = [amps(5.0), feed(0.2), back(0.95), read(AT["W"], "back", 0.02)]
    found = judged(*by_parts)
    assert found.found == ()
    assert found.conclusion.between == (MINUS, AT["W"])
    assert found.done == ""
    asked = found.conclusion.to_read[0]
    assert {asked.red, asked.black} <= {MINUS, AT["Q"], AT["W"]}
    cornered = judged(*by_parts, read(MINUS, AT["Q"], 0.85))
    pin = next(s.piece.id for s in cornered.run.back)
    assert cornered.found == (pin,)
    assert cornered.conclusion.between is None
    (held,) = cornered.conclusion.found
    assert held.ohm is not None
    assert held.ohm[0] < 0.85 / 5 < held.ohm[1]
    assert cornered.done == "cornered"
    assert cornered.top == (pin, 1.0)


def test_a_verdict_does_not_wait_for_the_odds() -> None:
    """With no time for them there are no suspects; what is said, and asked next, stands."""
    found = judged(amps(5.0), feed(0.2), back(0.95), read(AT["W"], "back", 0.02))
    with at_most(0.0):
        assert found.suspects == ()
        assert found.probes == ()
        asked = walk(found, ()).next
    assert found.verdict == "over"
    assert asked is not None
    assert {asked.red, asked.black} <= {MINUS, AT["Q"], AT["W"]}


def test_what_cannot_be_reached_is_found_by_what_is_left() -> None:
    pin = (MINUS, AT["Q"])
    never = read(*pin, 0.0, state="not_reachable")
    never = replace(never, value=None)
    found = judged(
        amps(5.0), feed(0.2), back(0.95), read(AT["Q"], "back", 0.05), never,
    )  # fmt: skip
    assert len(found.found) == 1


def test_several_are_found_and_a_little_more_is_not_one_of_them() -> None:
    """0.9 and 0.6 V in two pieces; the third has a little more than its share, and is let be."""
    steps = judged().run.feed
    switch, wire, pin = steps[-3:]
    found = judged(
        amps(5.0), feed(1.75), back(0.1), read(switch.entry, switch.exit, 0.90),
        read(wire.entry, wire.exit, 0.22), read(pin.entry, pin.exit, 0.60),
    )  # fmt: skip
    assert set(found.found) == {switch.piece.id, pin.piece.id}
    assert not set(found.found) & found.conclusion.cleared


def test_a_little_too_much_does_not_end_the_search_for_much() -> None:
    """1.75 V lost, and a fuse 0.01 V above its share: it is found, but most of it lies elsewhere."""
    steps = judged().run.feed
    fuse, pin = steps[1], steps[-1]
    taken = [amps(5.0), feed(1.75), back(0.1), read(fuse.entry, fuse.exit, 0.046)]
    found = judged(*taken)
    assert found.found == (fuse.piece.id,)
    assert found.conclusion.more is not None
    assert found.done == ""
    assert "more is lost between" in judgement_words(found, CRAFT)
    asked = walk(found, ()).next
    assert asked is not None
    assert {asked.red, asked.black} != {fuse.entry, fuse.exit}
    cornered = judged(*taken, read(pin.entry, pin.exit, 1.5))
    assert cornered.found == (pin.piece.id,)
    assert cornered.conclusion.more is None
    assert cornered.done == "cornered"


def test_a_wire_as_it_is_drawn_is_not_accused_while_more_is_lost_elsewhere() -> None:
    pieces = tuple(
        replace(p, pinned_v=0.082) if p.id == judged().run.feed[3].piece.id else p
        for p in CRAFT.pieces
    )
    craft = replace(CRAFT, pieces=pieces)
    wire, pin = judged().run.feed[3:5]
    taken = [amps(5.0), feed(1.75), back(0.1), read(wire.entry, wire.exit, 0.09)]
    found = Judging(craft, taken, (), (), LIMITS, TABLES).judge("l")
    assert found.found == ()
    assert found.conclusion.between is not None
    assert set(found.conclusion.between) != {wire.entry, wire.exit}
    assert found.done == ""
    last = [*taken, read(pin.entry, pin.exit, 1.5)]
    assert Judging(craft, last, (), (), LIMITS, TABLES).judge("l").found == (pin.piece.id,)


def test_the_load_is_not_to_blame_while_a_side_is_over() -> None:
    found = judged(amps(10.0), feed(0.2), back(0.55))
    assert found.verdict == "over"
    assert LOAD.id not in found.suspicion
    assert "high_current" in {f.code for f in found.findings}
    sound = judged(amps(10.0), feed(0.2), back(0.10), across(12.2))
    assert (sound.verdict, sound.done) == ("within", "load")


# Opens


def dead(*more: Reading) -> list[Reading]:
    return [source(12.6), amps(0.0, accuracy=0.05), across(0.0, accuracy=0.002), *more]


def test_an_open_lies_between_source_and_nothing() -> None:
    found = judged(*dead(read(AT["F"], "back", 12.6, accuracy=0.04)))
    assert found.conclusion.headline == "no_current", "nothing stands at the return yet"
    far = judged(*dead(read(AT["F"], "back", 12.6, accuracy=0.04), back(0.0)))
    assert far.conclusion.headline == "open"
    assert far.conclusion.between == (AT["F"], PLUS)
    near = judged(
        *dead(read(AT["F"], "back", 12.6, accuracy=0.04), back(0.0), read(AT["S"], "back", 0.0))
    )
    switch = next(s.piece.id for s in near.run.feed if {s.entry, s.exit} == {AT["F"], AT["S"]})
    assert near.found == (switch,)
    assert near.conclusion.found[0].kind == "open"
    assert near.done == "cornered"


def test_an_open_return_leaves_its_terminal_at_the_source() -> None:
    found = judged(*dead(back(12.6, accuracy=0.04)))
    assert found.conclusion.headline == "open"
    assert found.conclusion.between == (MINUS, "back")


def test_a_contact_commanded_open_then_is_no_fault() -> None:
    switch = next(p.id for p in CRAFT.pieces if {p.start, p.end} == {AT["F"], AT["S"]})
    told = [
        source(12.6, moment="m"), read(AT["F"], "back", 12.6, accuracy=0.04, moment="m"),
        read(AT["S"], "back", 0.0, moment="m"),
    ]  # fmt: skip
    off = Moment(id="m", scenario="rested", loads={"l": "off"}, contacts={switch: "open"})
    assert judged(*told, moments=(off,)).conclusion.headline == "not_read"
    unsaid = replace(off, contacts={})
    assert judged(*told, moments=(unsaid,)).conclusion.headline == "not_read"
    closed = replace(off, contacts={switch: "closed"})
    assert judged(*told, moments=(closed,)).found == (switch,)


# Moments


def two(first: dict[str, Any], second: dict[str, Any]) -> tuple[Moment, Moment]:
    return (
        Moment(id="one", scenario="rested", **first), Moment(id="two", scenario="rested", **second)
    )  # fmt: skip


def test_moments_are_never_mixed() -> None:
    """The feed in one moment and the return in another are no pass of either."""
    moments = two({"warm_min": 1.0}, {"warm_min": 9.0})
    found = judged(
        amps(5.0, moment="one"), feed(0.3, moment="one"), amps(5.0, moment="two"),
        back(0.15, moment="two"), moments=moments,
    )  # fmt: skip
    assert found.verdict == "not_judged"


def test_the_worst_moment_is_the_verdict() -> None:
    moments = two({"warm_min": 1.0}, {"warm_min": 9.0})
    sides = [
        r
        for key, lost in (("one", 0.15), ("two", 0.60))
        for r in (amps(5.0, moment=key), feed(0.3, moment=key), back(lost, moment=key))
    ]
    found = judged(*sides, moments=moments)
    assert found.verdict == "over"
    assert found.conditions is not None
    assert found.conditions.moment == "two"
    assert "grows_warm" in {f.code for f in found.findings}
    other = judged(*sides, moments=two({}, {"note": "later"}))
    assert other.verdict == "over"
    assert "changes" in {f.code for f in other.findings}


def test_open_once_and_closed_later_comes_and_goes() -> None:
    moments = two({"loads": {"l": "attempted"}}, {"loads": {"l": "running"}})
    first = [replace(r, moment="one") for r in dead(back(0.0))]
    well = [
        replace(r, moment="two", id=f"w{i}")
        for i, r in enumerate((amps(5.0), feed(0.3), back(0.15)))
    ]
    found = judged(*first, *well, moments=moments)
    assert found.conclusion.headline == "open"
    assert found.conclusion.comes_and_goes == ("live", PLUS)
    assert found.done != "good"
    assert "comes and goes" in judgement_words(found, CRAFT)


def test_what_is_read_twice_in_a_moment_and_differs_bars_good() -> None:
    pair = (MINUS, AT["Q"])
    found = judged(amps(5.0), feed(0.3), back(0.15), read(*pair, 0.01), read(*pair, 0.08, id="x"))
    assert found.verdict == "within"
    assert "repeats_differ" in {f.code for f in found.findings}
    assert found.done != "good"


# Shared wiring

SHARED = craft_by(
    'isolator > 16 mm² 2 m > ring [Bar] > fuse 15 > 2.5 mm² 2 m > load "X" 5 A > 2.5 mm² 2 m > '
    "ring [Strap] > 16 mm² 2 m > ring",
    '[Bar] > fuse 15 > 2.5 mm² 2 m > load "Y" 5 A > 2.5 mm² 2 m > ring > [Strap]',
)
X, Y = SHARED.loads


def shared(*readings: Reading, on: frozenset[str] = frozenset({"x"})) -> Judgement:
    alone = Scenario(id="alone", name="Alone", on=on)
    both = Scenario(id="both", name="Both", on=frozenset({"x", "y"}))
    craft = replace(SHARED, scenarios=(alone, both))
    told = [replace(r, scenario="alone") for r in readings]
    return Judging(craft, told, (), (), LIMITS, TABLES).judge("x")


def test_shared_wiring_loses_more_with_the_others_on() -> None:
    """0.1 V of trunk with X alone is 0.2 with Y as well; X's own part stays."""
    bar = next(p.id for p in SHARED.points if p.name == "Bar")
    found = shared(
        read("live", "back", 12.6, accuracy=0.04), read("live", "back", 12.6, accuracy=0.04, id="s"),
        read(X.start, X.end, 5.0, quantity="amperes", accuracy=0.0501), read("live", bar, 0.1),
        read(bar, X.start, 0.1), read(X.end, "back", 0.02),
    )  # fmt: skip
    low = (0.1 * (1 - SETTLED_SHARE) - 0.002) * 10 / 5.0501 + 0.1 * (1 - SETTLED_SHARE) - 0.002
    side = found.sides["feed"]
    assert side.loaded_low_v == pytest.approx(low, rel=0.02)
    assert side.high_v == pytest.approx(0.2 * (1 + SETTLED_SHARE) + 0.004)
    assert found.worst.id == "both"


def test_what_others_drew_then_is_known_to_a_fifth() -> None:
    told = (
        read(X.start, X.end, 5.0, quantity="amperes", accuracy=0.0501), read("live", X.start, 0.2),
    )  # fmt: skip
    with_both = shared(*told, on=frozenset({"x", "y"})).sides["feed"]
    assert with_both.loaded_high_v is not None
    assert with_both.high_v is not None
    # All of it may lie in the trunk: (5 + 5) A there, (4.95 + 4) A in the moment at the least.
    worst = (5 + 5) / (4.95 + 5 * (1 - OTHERS_SHARE))
    assert with_both.loaded_high_v == pytest.approx(with_both.high_v * worst, rel=0.01)


def test_a_side_that_parts_in_two_is_asked_for_where_it_parts() -> None:
    found = shared(
        read("live", "back", 12.6, accuracy=0.04), read("live", "back", 12.6, accuracy=0.04, id="s"),
        read(X.start, X.end, 5.0, quantity="amperes", accuracy=0.0501), read("live", X.start, 0.35),
        read(X.end, "back", 0.05),
    )  # fmt: skip
    assert found.conclusion.headline == "too_close"
    asked = found.conclusion.to_read[0]
    bar = next(p.id for p in SHARED.points if p.name == "Bar")
    assert (asked.red, asked.black) == ("live", bar)
