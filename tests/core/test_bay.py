"""Simulated people at work on simulated crafts: every answer against the truth."""

import random
from dataclasses import replace

import pytest

from spare_margin.core.bay.laws import broken
from spare_margin.core.bay.people import Person
from spare_margin.core.bay.world import OPEN_OHM, WorldWanted, wanted, world
from spare_margin.core.bounds.conclude import Concluded
from spare_margin.core.bounds.conclusion import Conclusion, Found, Range
from tests.bay import LIMITS, TABLES, Bench, Job, job, led

JOBS = 300
PARTS = 6


@pytest.mark.slow
@pytest.mark.parametrize("part", range(PARTS))
def test_nothing_untrue_is_said_to_three_hundred_people(part: int) -> None:
    """In their own order, with several faults, with mistakes, with a clamp or none."""
    said: list[tuple[int, list[str]]] = []
    answers = decided = 0
    for seed in range(part, JOBS, PARTS):
        done = job(seed)
        answers += done.answers
        decided += done.decided
        if done.broken:
            said.append((seed, done.broken[:3]))
    assert said == []
    assert answers > 8 * JOBS / PARTS
    assert decided >= 0.75 * JOBS / PARTS


@pytest.mark.slow
def test_led_by_the_cards_a_sound_loop_takes_the_clamp_and_two_sides() -> None:
    readings = []
    for seed in range(40):
        done = led(seed, lambda _: WorldWanted("series", 0))
        assert done.broken == []
        if done.last is not None and done.last.verdict == "within":
            readings.append(len(done.who.readings))
    assert len(readings) > 10
    assert sorted(readings)[len(readings) // 2] == 3


@pytest.mark.slow
def test_led_by_the_cards_a_single_fault_is_found() -> None:
    found = over = 0
    for seed in range(40):
        done = led(seed, lambda rng: WorldWanted(rng.choice(("series", "two_in_row")), 1))
        assert done.broken == []
        assert done.last is not None
        if done.last.verdict == "over":
            over += 1
            found += bool(done.last.found)
    assert over > 15
    assert found == over


# The laws themselves: each notices a lie


def told(seed: int = 3) -> tuple[Job, Concluded, Bench]:
    """A sound series loop, read by the cards."""
    done = led(seed, lambda _: WorldWanted("series", 0))
    assert done.last is not None
    return done, done.last.concluded, Bench(done.who.world)


def lie(concluded: Concluded, **more: object) -> Concluded:
    return replace(concluded, conclusion=replace(concluded.conclusion, **more))


def test_a_lie_of_each_kind_is_noticed() -> None:
    done, found, bench = told()
    piece = done.who.world.run.feed[0].piece.id
    assert broken(done.who, found, bench.drawn) == []
    guilty = Found(piece, "excess_resistance", "feed", Range(9.0, 9.1), 5.0, None, ())
    assert broken(done.who, lie(found, found=(guilty,), headline="over"), bench.drawn)
    cut = Found(piece, "open", "feed", Range(None, None), None, None, ())
    assert broken(done.who, lie(found, found=(cut,), headline="open"), bench.drawn)
    assert broken(done.who, lie(found, headline="no_current"), bench.drawn)
    assert broken(
        done.who, lie(found, headline="contradiction", contradicting=("r000",)), bench.drawn
    )
    assert broken(done.who, lie(found, found=(guilty,), cleared=frozenset({piece})), bench.drawn)


def test_a_false_pass_and_a_false_conviction_are_noticed() -> None:
    done = led(7, lambda _: WorldWanted("series", 1))
    found, bench = done.last and done.last.concluded, Bench(done.who.world)
    assert found is not None
    made = found.conclusion
    assert made.sides is not None
    passed = {k: replace(v, verdict="within", limit_v=1e-4) for k, v in made.sides.items()}
    assert broken(
        done.who, lie(found, headline="within", sides=passed, found=(), between=None), bench.drawn
    )
    convicted = {k: replace(v, verdict="over", limit_v=9.0) for k, v in made.sides.items()}
    assert broken(done.who, lie(found, headline="over", sides=convicted), bench.drawn)


def test_a_mistake_must_be_among_what_is_named() -> None:
    done, found, bench = told()
    done.who.mistakes = {"r001"}
    named = lie(
        found, headline="contradiction", contradicting=("r000", "r001"), sides=None, together=None
    )
    missed = lie(
        found, headline="contradiction", contradicting=("r000",), sides=None, together=None
    )
    assert broken(done.who, named, bench.drawn) == []
    assert broken(done.who, missed, bench.drawn)


def test_a_world_is_what_it_was_made_of() -> None:
    for seed in range(60):
        rng = random.Random(seed)
        made_of = wanted(rng)
        place = world(rng, made_of, TABLES)
        assert len(place.faults) == made_of.faults
        assert bool(place.extra_loads) == made_of.lamp
        assert place.feeds_in == made_of.panel
        for moment in place.moments:
            ohms = place.true_ohms(moment.id)
            opened = [p for p in ohms if ohms[p] >= OPEN_OHM]
            assert all(place.is_open(p, moment.id) for p in opened)


def test_the_source_sags_towards_rest() -> None:
    place = world(random.Random(5), WorldWanted("series", 0), TABLES)
    place.surge_v = 0.5
    volts = []
    for at_s in (0.0, 30.0, 300.0):
        solved = place.solved("m1", at_s)
        assert solved is not None
        volts.append(solved.solution.volts("bat+", "bat-") or 0.0)
    assert volts == sorted(volts, reverse=True)
    assert volts[0] - volts[2] == pytest.approx(0.5, abs=0.01)


def test_who_reads_writes_down_what_the_meter_shows() -> None:
    place = world(random.Random(5), WorldWanted("series", 0), TABLES)
    who = Person(place, random.Random(1), "sides_first", clamp=True)
    for asked in who.order():
        assert who.read(asked) is not None
    assert [r.quantity for r in who.readings] == ["amperes", "volts", "volts", "volts", "volts"]
    for r in who.readings:
        assert r.value is not None
        solved = place.solved("m1", 20.0)
        assert solved is not None
        if r.quantity == "volts":
            true = solved.solution.volts(r.red, r.black) or 0.0
            assert abs(r.value - true) <= r.accuracy + 0.06 * abs(true)
    assert LIMITS.ceilings(place.run.load, 12.0).feed_v == 0.5
    assert Conclusion("not_read").verdict == "not_judged"
