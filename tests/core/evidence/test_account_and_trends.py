"""What the volts of one moment add up to, what changes between moments, what to read next."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from spare_margin.core.evidence.outlook.probes import MINUTES, minutes_of
from spare_margin.core.evidence.verdict.account import Account, account
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.findings import GrowsWarm, RepeatsDiffer, ShrinksWarm
from spare_margin.core.model.jobs import Moment, Reading
from spare_margin.service.job.judging import Judging
from spare_margin.wording.measured.findings import finding_words
from tests.readings import reading
from tests.rough import LIMITS, TABLES, craft_by, judged

CRAFT = craft_by(
    'fuse 15 > switch [Out] > 2.5 mm² 4 m > pin [Plug] > lamp "L" 55 W at 12 V > pin [Tail] > '
    "2.5 mm² 2 m > ring"
)
LAMP = CRAFT.loads[0]
AT = {p.name: p.id for p in CRAFT.points if p.name}


def volts(red: str, black: str, value: float, **more: Any) -> Reading:
    return reading(red, black, value, **{"scenario": "rested", **more})


def with_moments(readings: list[Reading], *moments: Moment) -> Judgement:
    return Judging(CRAFT, readings, moments, (), LIMITS, TABLES).judge(LAMP.id)


def four(source: float, feed: float, load: float, back: float) -> list[Reading]:
    return [
        volts("live", "back", source), volts("live", LAMP.start, feed),
        volts(LAMP.start, LAMP.end, load), volts(LAMP.end, "back", back),
    ]  # fmt: skip


# The account


def test_four_readings_close_or_do_not() -> None:
    good = account(judged(CRAFT, four(12.5, 0.3, 12.05, 0.15)))
    assert good.left_v == pytest.approx(0.0, abs=1e-9)
    assert good.closes is True
    assert good.by_difference == ()
    bad = account(judged(CRAFT, four(12.5, 0.3, 11.2, 0.15)))
    assert bad.left_v == pytest.approx(0.85)
    assert bad.closes is False


@pytest.mark.parametrize(("missing", "name"), [(1, "feed"), (3, "return")])
def test_what_was_not_read_is_known_by_difference_where_that_is_much(
    missing: int, name: str
) -> None:
    little = four(12.5, 0.3, 12.05, 0.15)
    del little[missing]
    blunt = account(judged(CRAFT, little))
    assert (blunt.feed if name == "feed" else blunt.back) is None, "a source may move by more"
    readings = four(12.5, 2.0, 8.5, 2.0)
    del readings[missing]
    found = account(judged(CRAFT, readings))
    part = found.feed if name == "feed" else found.back
    assert part is not None
    assert not part.direct
    assert part.volts == pytest.approx(2.0, abs=part.doubt_v)
    assert part.doubt_v > 0.3, (
        "by difference it is doubted by all three, and the source may have moved"
    )
    assert found.by_difference == (name,)
    assert found.closes is None, "the sum proves nothing then"


def test_an_account_is_of_one_moment() -> None:
    cold, warm = Moment(id="c", scenario="rested"), Moment(id="w", scenario="rested", warm_min=12.0)
    mixed = [
        volts("live", "back", 12.5, moment="c"), volts(LAMP.start, LAMP.end, 12.0, moment="w"),
    ]  # fmt: skip
    found = account(with_moments(mixed, cold, warm))
    assert found.source is None or found.load is None, "volts of two moments are never subtracted"
    assert account(judged(CRAFT, [])) == Account()


# Spans


def pairs(found: Judgement) -> dict[tuple[str, str], Any]:
    return {(s.span.red, s.span.black): s for s in found.spans}


@pytest.mark.parametrize("turned", [False, True])
def test_of_repeats_that_differ_the_whole_range_counts(turned: bool) -> None:
    ends, sign = ((AT["Plug"], AT["Out"]), -1) if turned else ((AT["Out"], AT["Plug"]), 1)
    readings = [volts("live", "back", 12.5)]
    readings += [volts(*ends, sign * v, id=f"a{i}") for i, v in enumerate((0.11, 0.20, 0.12))]
    found = judged(CRAFT, readings)
    span = pairs(found)[AT["Out"], AT["Plug"]]
    assert span.volts == pytest.approx(0.155, abs=0.001)
    assert span.volts + span.doubt_v >= 0.20
    assert span.volts - span.doubt_v <= 0.11
    told = next(f for f in found.findings if f.code == "repeats_differ")
    assert told.readings == ("a0", "a1", "a2")
    assert isinstance(told, RepeatsDiffer)
    assert {abs(told.first), abs(told.last)} == {0.11, 0.20}, "the two furthest apart"
    assert told.who == ("", "")
    assert found.observed.set_aside == frozenset(), "none is dropped in silence, nor aloud"
    assert found.conclusion.contradicting == (), "a contact may come and go"


def test_repeats_of_two_people_that_differ_say_who_read_which() -> None:
    read = [("Ida", 0.14), ("Olaf", 0.15), ("Olaf", 0.31), ("Ida", 0.16)]
    readings = [volts("live", "back", 12.5)]
    readings += [
        volts(AT["Out"], AT["Plug"], v, id=f"a{i}", who=w) for i, (w, v) in enumerate(read)
    ]
    told = next(f for f in judged(CRAFT, readings).findings if f.code == "repeats_differ")
    assert isinstance(told, RepeatsDiffer)
    assert (told.first, told.last, told.who) == (0.14, 0.31, ("Ida", "Olaf"))
    assert finding_words(told, CRAFT)[0].startswith(
        "0.140 V (Ida) and then 0.310 V (Olaf) in the same place"
    )


def test_of_repeats_that_agree_the_bounds_hold_them_all() -> None:
    many = judged(
        CRAFT,
        [volts(AT["Out"], AT["Plug"], v, accuracy=0.004, id=str(v)) for v in (0.149, 0.151, 0.150)],
    )
    span = pairs(many)[AT["Out"], AT["Plug"]]
    assert span.volts == pytest.approx(0.150)
    assert span.doubt_v == pytest.approx(0.005)
    assert not [f for f in many.findings if f.code == "repeats_differ"]


def test_a_span_over_the_load_is_of_no_side() -> None:
    ends = LAMP.start, LAMP.end
    found = judged(CRAFT, [volts(*ends, 12.1, id="a"), volts(*ends, 11.3, id="b")])
    span = pairs(found)[ends]
    assert span.volts == pytest.approx(11.7, abs=0.01)
    assert span.doubt_v > 0.39
    assert span.span.side is None, "the load lies in it"


@pytest.mark.parametrize(
    ("first", "then", "code"),
    [(0.15, 0.45, "grows_warm"), (0.45, 0.15, "shrinks_warm"), (0.15, 0.16, None)],
)
def test_the_same_span_cold_and_warm(first: float, then: float, code: str | None) -> None:
    cold = Moment(id="c", scenario="rested", warm_min=0.0)
    warm = Moment(id="w", scenario="rested", warm_min=12.0)
    plus, minus = LAMP.start, LAMP.end
    readings = []
    for at, drop in (("c", first), ("w", then)):
        readings += [
            volts("live", "back", 12.5, moment=at),
            volts(plus, minus, 4.5, quantity="amperes", accuracy=0.1, moment=at, id=f"a{at}"),
            volts(minus, AT["Tail"], drop, moment=at),
        ]
    found = with_moments(readings, cold, warm)
    told = [f for f in found.findings if f.code in ("grows_warm", "shrinks_warm", "changes")]
    assert [f.code for f in told] == ([code] if code else [])
    if told:
        (trend,) = told
        assert isinstance(trend, GrowsWarm | ShrinksWarm)
        assert (trend.cold_min, trend.warm_min) == (0.0, 12.0)
        assert trend.before_ohm == pytest.approx(first / 4.5, rel=0.1)
        assert trend.after_ohm == pytest.approx(then / 4.5, rel=0.1)


def test_without_a_warm_up_it_just_changes() -> None:
    one, two = Moment(id="1", scenario="rested"), Moment(id="2", scenario="rested")
    readings = []
    for at, drop in (("1", 0.1), ("2", 0.6)):
        readings += [
            volts("live", "back", 12.5, moment=at),
            volts(
                LAMP.start, LAMP.end, 4.5, quantity="amperes", accuracy=0.1, moment=at, id=f"a{at}"
            ),
            volts(LAMP.end, AT["Tail"], drop, moment=at, id=f"d{at}"),
            volts(LAMP.start, LAMP.end, 12.1 - drop, moment=at, id=f"l{at}"),
        ]
    assert "changes" in {f.code for f in with_moments(readings, one, two).findings}


# What to read next


def test_what_to_read_next_tells_something_and_was_not_read() -> None:
    readings = four(12.5, 0.3, 11.0, 1.2)
    found = judged(CRAFT, readings)
    asked = [frozenset((p.red, p.black)) for p in found.probes]
    assert asked
    assert not set(asked) & {frozenset((r.red, r.black)) for r in readings}
    worth = [p.bits / p.minutes for p in found.probes]
    assert worth == sorted(worth, reverse=True)
    back = {s.entry for s in found.run.back} | {s.exit for s in found.run.back}
    assert set(asked[0]) - {"live", "back"} <= back, "the return is over: its pieces are asked for"


def test_an_element_that_is_sure_needs_no_more_readings() -> None:
    readings = [*four(12.5, 0.3, 11.0, 1.2), volts(LAMP.end, AT["Tail"], 1.08)]
    found = judged(CRAFT, readings)
    assert found.done == "cornered"
    assert found.probes == ()
    assert found.top[1] > 0.95


def test_a_point_behind_trim_costs_what_it_costs() -> None:
    access = {"a": "open", "b": "backprobe", "c": "trim"}
    posts = ("plus", "minus")
    one = minutes_of("plus", "a", access, posts)  # type: ignore[arg-type]
    two = minutes_of("plus", "b", access, posts)  # type: ignore[arg-type]
    three = minutes_of("a", "c", access, posts)  # type: ignore[arg-type]
    assert two - one == pytest.approx(MINUTES["backprobe"] - MINUTES["open"])
    assert three == pytest.approx(0.3 + MINUTES["open"] + MINUTES["trim"])


def test_access_moves_the_choice() -> None:
    def first(point: str, access: str) -> tuple[str, str]:
        points = tuple(replace(p, access=access) if p.id == point else p for p in CRAFT.points)  # type: ignore[arg-type]
        found = judged(replace(CRAFT, points=points), four(12.5, 0.3, 11.0, 1.2))
        return found.probes[0].red, found.probes[0].black

    (wanted,) = set(first(AT["Tail"], "open")) - {"live", "back"}
    assert wanted not in first(wanted, "trim"), "what tells as much elsewhere is read there"


def test_as_measured_carries_a_joint_into_every_scenario() -> None:
    """0.43 V at 4.5 A is 96 milliohm, in every scenario and every plan, until it is remade."""
    readings = [
        *four(12.5, 0.3, 11.55, 0.65),
        volts(LAMP.start, LAMP.end, 4.5, quantity="amperes", accuracy=0.1),
        volts(LAMP.end, AT["Tail"], 0.43),
    ]
    found = judged(CRAFT, readings)
    measured = found.measured
    pin = next(s.piece.id for s in found.run.back)
    for scenario in CRAFT.scenarios:
        state, stalled = measured.solved(scenario.id)
        assert not stalled
        element = state.solution.elements[pin]
        assert element.resistance_ohm == pytest.approx(0.43 / 4.5, rel=0.12)
    assert set(measured.load_v) == {s.id for s in CRAFT.scenarios if LAMP.id in s.on}
    for scenario in CRAFT.scenarios:
        got = measured.load_v.get(scenario.id)
        posts = measured.solved(scenario.id)[0].solution.volts("live", "back")
        assert got is None or (posts is not None and got < posts - 0.4)
    assert np.isfinite(found.spare[0]) if found.spare else True
