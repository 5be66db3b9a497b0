"""Ohms with the power off, a test lamp, a load on the bench, a wire tried: by hand what each may say."""

from dataclasses import replace
from typing import Any

import pytest

from spare_margin.core.bounds.moment import RunMoment as ReadMoment
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.findings import BenchCurrent, Finding, LoadOhms
from spare_margin.core.model.jobs import Moment, Reading, Trial
from spare_margin.service.job.judging import Judging
from tests.core.bounds.test_conclusion import (
    AT,
    CRAFT,
    LIMITS,
    LOAD,
    MINUS,
    PLUS,
    TABLES,
    amps,
    read,
)

FUSE, SWITCH = (next(p for p in CRAFT.pieces if p.kind == k) for k in ("fuse", "switch"))
OFF = Moment(id="off", scenario="rested", loads={"l": "off"})
OUT = Moment(id="out", scenario="rested", loads={"l": "unplugged"})


def ohms(red: str, black: str, value: float | None, **more: Any) -> Reading:
    state = "value" if value is not None else "over_range"
    at = {"quantity": "ohms", "state": state, "moment": "off", **more}
    return replace(read(red, black, 0.0, **at), value=value)


def lamp(tip: str, state: str, other: str = "back", **more: Any) -> Reading:
    at = {"quantity": "lamp", "state": state, "moment": "off", "id": f"{tip}{other}{state}", **more}
    return replace(read(tip, other, 0.0, **at), value=None)


def judged(
    *readings: Reading, moments: tuple[Moment, ...] = (OFF, OUT), trials: Any = ()
) -> Judgement:
    return Judging(CRAFT, readings, moments, trials, LIMITS, TABLES).judge("l")


def told(found: Judgement, code: str) -> list[Finding]:
    return [f for f in found.findings if f.code == code]


# Ohms


def test_no_way_across_a_fuse_is_an_open() -> None:
    found = judged(ohms(FUSE.start, FUSE.end, None))
    assert (found.conclusion.headline, found.found) == ("open", (FUSE.id,))
    assert told(found, "protection_open")


def test_the_smallest_span_without_a_way_counts() -> None:
    wide, near = ohms(MINUS, "back", None), ohms(MINUS, AT["W"], None)
    for each in ((wide, near), (near, wide)):
        found = judged(*each)
        assert (found.conclusion.headline, found.conclusion.between) == ("open", (MINUS, AT["W"]))


def test_ohms_clear_nothing() -> None:
    """4.6 ohms come round through the lamp, whatever the fuse does."""
    found = judged(ohms(FUSE.start, FUSE.end, 4.6))
    assert (found.verdict, found.conclusion.cleared, found.found) == ("not_judged", frozenset(), ())


def test_a_contact_that_nobody_held_closed_may_be_off() -> None:
    assert judged(ohms(SWITCH.start, SWITCH.end, None)).conclusion.headline == "not_read"
    pressed = replace(OFF, id="pressed", contacts={SWITCH.id: "closed"})
    found = judged(ohms(SWITCH.start, SWITCH.end, None, moment="pressed"), moments=(pressed,))
    assert found.found == (SWITCH.id,)


def test_a_contact_that_joins_released_is_stuck_only_where_nothing_else_joins_its_ends() -> None:
    released = replace(OUT, id="released", contacts={SWITCH.id: "open"})
    alone = ohms(SWITCH.start, SWITCH.end, 0.2, moment="released")
    assert told(judged(alone, moments=(released,)), "contact_stuck")[0].piece == SWITCH.id
    plugged = replace(released, loads={"l": "off"})
    assert not told(judged(alone, moments=(plugged,)), "contact_stuck")
    opens = ohms(SWITCH.start, SWITCH.end, None, moment="released")
    assert judged(opens, moments=(released,)).findings == ()


def test_what_cannot_be_reached_is_no_open() -> None:
    found = judged(ohms(FUSE.start, FUSE.end, None, state="not_reachable"))
    assert found.conclusion.headline == "not_read"


# The load by itself


def heater(ohm: float, **more: Any) -> list[Finding]:
    craft = replace(
        CRAFT, loads=(replace(LOAD, behaviour="constant_resistance", current_a=None, load_ohm=2.4),)
    )
    taken = ohms(PLUS, MINUS, ohm, **{"moment": "out", **more})
    return list(Judging(craft, [taken], (OFF, OUT), (), LIMITS, TABLES).judge("l").findings)


def test_a_heater_has_its_own_ohms_unplugged() -> None:
    assert heater(2.4) == []
    (found,) = heater(7.1)
    assert found == LoadOhms(
        readings=found.readings, load="l", ohm=7.1, should_ohm=pytest.approx(2.4)
    )
    # Plugged in, what lies beside it can only make them less.
    assert heater(0.4, moment="off") == []


def test_the_leads_own_ohms_are_taken_off() -> None:
    assert heater(3.2, leads_ohm=0.6) == []
    assert [f.code for f in heater(3.2)] == ["load_ohms"]


def test_no_way_through_a_load_is_told() -> None:
    found = judged(ohms(PLUS, MINUS, None, moment="out"))
    assert told(found, "load_open")
    assert found.conclusion.headline == "not_read"


@pytest.mark.parametrize(
    ("drawn", "volts", "off"),
    [
        (5.0, 12.0, False),
        (2.0, 12.0, True),
        (9.0, 12.0, True),
        (4.2, None, False),
        (3.7, None, True),
    ],
)
def test_on_the_bench_a_load_draws_what_it_should(
    drawn: float, volts: float | None, off: bool
) -> None:
    """5 A as drawn: alike from 4 A to 6.25 A, the clamp's own limit on top."""
    found = judged(amps(drawn, moment="out", source_v=volts))
    (bench,) = told(found, "bench_current")
    assert isinstance(bench, BenchCurrent)
    assert (bench.off, bench.should_a) == (off, pytest.approx(5.0))
    # It is no current of the craft.
    assert (found.loaded, found.amps) == (None, None)


# The lamp


def test_where_the_lamp_goes_dark_it_is_open() -> None:
    found = judged(
        lamp("live", "lit"), lamp(AT["S"], "lit"), lamp(PLUS, "dark"), lamp(MINUS, "dark")
    )
    assert (found.conclusion.headline, found.conclusion.between) == ("open", (AT["S"], PLUS))


def test_a_return_is_searched_from_the_live_post_too() -> None:
    lit = [lamp(p, s, "live") for p, s in (("back", "lit"), (AT["W"], "lit"), (AT["Q"], "dark"))]
    found = judged(*lit)
    wire = next(p.id for p in CRAFT.pieces if {p.start, p.end} == {AT["Q"], AT["W"]})
    assert (found.conclusion.headline, found.found) == ("open", (wire,))


def test_through_the_load_a_return_is_searched_as_the_feed_is() -> None:
    found = judged(lamp(PLUS, "lit"), lamp(MINUS, "lit"), lamp(AT["Q"], "dark"))
    pin = next(p.id for p in CRAFT.pieces if {p.start, p.end} == {MINUS, AT["Q"]})
    assert found.found == (pin,)


@pytest.mark.parametrize(
    "readings",
    [
        (
            lamp("live", "lit"),
            lamp(FUSE.end, "lit"),
            lamp(AT["S"], "dark"),
        ),  # the switch may be off
        (lamp("live", "lit"), lamp(PLUS, "dim")),
        (lamp(AT["S"], "lit"), lamp(PLUS, "dark"), lamp(MINUS, "lit")),  # it cannot be both
        (lamp(PLUS, "lit"), lamp(MINUS, "dark")),  # the load is off
        (lamp("live", "dark"), lamp(PLUS, "dark")),
        (lamp(AT["S"], "lit"), lamp(PLUS, "dark", moment=None)),  # the load is on
    ],
)
def test_a_lamp_that_proves_nothing_says_nothing_of_an_open(readings: tuple[Reading, ...]) -> None:
    assert judged(*readings).conclusion.headline == "not_read"


def test_dark_with_the_load_on_may_be_a_bad_joint_too() -> None:
    found = judged(lamp(AT["S"], "lit", moment=None), lamp(PLUS, "dark", moment=None))
    assert told(found, "lamp_under_load")
    assert found.found == ()


# A wire tried

BRIDGE = Trial(
    id="t", moment="on", kind="bridge", start=AT["W"], end="back", ohm=0.01, outcome="right",
)  # fmt: skip
ON = Moment(id="on", scenario="rested", loads={"l": "running"})


def with_bridge(*readings: Reading) -> Judgement:
    tried = tuple(replace(r, trial="t", moment="on", id=f"{r.id}t") for r in readings)
    return judged(*tried, moments=(ON,), trials=(BRIDGE,))


def test_with_a_wire_beside_it_a_side_that_is_over_is_over_without() -> None:
    found = with_bridge(amps(5.0), read("live", PLUS, 0.9), read(MINUS, "back", 0.1))
    assert (found.verdict, found.conclusion.headline) == ("over", "over")
    # What is asked for next is asked without the wire.
    assert found.conditions is not None
    assert found.conditions.trial is None


def test_with_a_wire_beside_it_nothing_is_within() -> None:
    found = with_bridge(amps(5.0), read("live", PLUS, 0.2), read(MINUS, "back", 0.05))
    assert (found.verdict, found.conclusion.cleared) == ("not_judged", frozenset())


def test_beside_a_wire_nothing_is_known_to_fall() -> None:
    """What is tapped within a bridged stretch may be fed from its far end: either way round."""
    found = with_bridge(amps(5.0), read("live", PLUS, 0.2), read(MINUS, "back", 0.1))
    assert found.concluded.moments == ()
    conditions = found.observed.each[0].conditions
    moment = ReadMoment(
        CRAFT, found.run, {}, conditions, [o for o in found.observed.each]
    )  # fmt: skip
    falls = {
        p: s.falls for side in ("feed", "return") for s in moment.sides[side] for p in s.pieces
    }  # type: ignore[index]
    ring = next(p.id for p in CRAFT.pieces if p.start == AT["W"])
    assert not falls[ring]
    assert all(falls[s.piece.id] for s in found.run.feed)


def test_a_bad_piece_is_found_though_a_wire_lies_elsewhere() -> None:
    pin = next(p for p in CRAFT.pieces if p.end == PLUS)
    found = with_bridge(amps(5.0), read("live", PLUS, 0.9), read(pin.start, pin.end, 0.6))
    assert found.found == (pin.id,)
    assert found.conclusion.found[0].ohm == pytest.approx((0.6 / 5, 0.6 / 5), rel=0.1)


def test_of_a_bridged_piece_the_ohms_are_not_known() -> None:
    """The current parts there: what it drops says that it is bad, not by how much."""
    ring = next(p for p in CRAFT.pieces if p.start == AT["W"])
    found = with_bridge(amps(5.0), read(MINUS, "back", 0.9), read(ring.start, ring.end, 0.7))
    assert found.verdict == "over"
    assert [f.ohm for f in found.conclusion.found] == [None]


# Loose ends, the load off


def wandering(red: str, black: str, moment: str = "still") -> Reading:
    return replace(read(red, black, 0.0, moment=moment, state="wandering"), value=None)


STILL = Moment(id="still", scenario="rested", loads={"l": "off"}, contacts={SWITCH.id: "closed"})


def rested(*readings: Reading, moment: Moment = STILL) -> Judgement:
    return judged(read("live", "back", 12.6, moment=moment.id), *readings, moments=(moment,))


def test_a_point_that_hangs_loose_beyond_a_live_one_is_behind_an_open() -> None:
    before, after = SWITCH.start, SWITCH.end
    found = rested(read(before, "back", 12.6, moment="still"), wandering(after, "back"))
    assert (found.conclusion.headline, found.found) == ("open", (SWITCH.id,))
    (piece,) = found.conclusion.found
    assert len(piece.readings) == 2, "the live point, the loose one"
    # Nobody said that the switch was on: then it may be what keeps the load off.
    unsaid = replace(STILL, contacts={})
    by_command = rested(
        read(before, "back", 12.6, moment="still"), wandering(after, "back"), moment=unsaid
    )
    assert by_command.conclusion.headline == "not_read"
    # Source voltage farther on: the leads did not touch.
    beyond = rested(wandering(after, "back"), read(PLUS, "back", 12.6, moment="still"))
    assert beyond.conclusion.headline == "not_read"


def test_a_return_is_searched_from_the_live_post() -> None:
    run = Judging(CRAFT, (), (), (), LIMITS, TABLES).runs["l"]
    far, near = run.way("return")[0].entry, run.way("return")[-1].entry
    held = read("live", near, 12.6, moment="still")
    found = rested(held, wandering("live", far))
    assert found.conclusion.headline == "open"
    assert found.conclusion.between == (far, near) or len(found.found) == 1
    # A meter that pulls the loose end to its own lead shows nothing there.
    pulled = rested(held, read("live", far, 0.0, moment="still"))
    assert pulled.conclusion.headline == "open"
    assert pulled.conclusion.between == found.conclusion.between
    # Without a reading of the source the red lead may hang loose itself.
    assert judged(wandering("live", far), moments=(STILL,)).conclusion.headline == "not_read"
