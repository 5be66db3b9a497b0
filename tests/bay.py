"""Simulated jobs: a world, somebody who reads it, the program's answer after every reading."""

import random
from collections.abc import Callable
from dataclasses import dataclass, field

from spare_margin.core.bay.laws import broken
from spare_margin.core.bay.people import MOST_READINGS, Asked, Person, person
from spare_margin.core.bay.world import World, WorldWanted, wanted, world
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.limits import Limits
from spare_margin.core.walk.walk import walk
from spare_margin.data.tables import shipped_tables
from spare_margin.service.job.judging import Judging

TABLES = shipped_tables()
LIMITS = Limits(TABLES.limit_sets["by-duty"], {})
THEN_ASKED = 6
"""So many readings people take as the answer asks, after their own."""
DECIDED = ("within", "within_as_ran", "over", "over_as_ran", "open")


@dataclass
class Job:
    """What came of one simulated job: the laws that were broken, and how it ended."""

    seed: int
    wanted: WorldWanted
    who: Person
    broken: list[str] = field(default_factory=list)
    answers: int = 0
    last: Judgement | None = None

    @property
    def decided(self) -> bool:
        """Whether the last answer says how the run stands."""
        return self.last is not None and self.last.conclusion.headline in DECIDED


def job(seed: int, make: Callable[[random.Random], WorldWanted] = wanted) -> Job:
    """A job read in the person's own order, asked after every reading; then what the answer asks for."""
    rng = random.Random(seed)
    made_of = make(rng)
    place = world(rng, made_of, TABLES)
    done = Job(seed, made_of, person(rng, place))
    bench = Bench(place)
    for moment in place.moments:
        done.who.moment = moment.id
        for asked in done.who.order():
            if done.who.read(asked) is None:
                return done
            _answer(done, bench)
    for _ in range(THEN_ASKED):
        wanted_next = _asked(done)
        if wanted_next is None or done.who.read(wanted_next) is None:
            break
        _answer(done, bench)
    return done


def _asked(done: Job) -> Asked | None:
    """What the last answer asks for that this person can read; nothing once it is decided."""
    if done.last is None or done.decided:
        return None
    for each in done.last.conclusion.to_read:
        if each.kind != "current":
            return "volts", each.red, each.black
        if done.who.clamp:
            return "amperes", each.red, each.black
    return None


def led(seed: int, make: Callable[[random.Random], WorldWanted] = wanted) -> Job:
    """The same job, read as the program's own cards ask, without mistakes and with a clamp."""
    rng = random.Random(seed)
    made_of = make(rng)
    place = world(rng, made_of, TABLES)
    done = Job(seed, made_of, Person(place, rng, "anything", clamp=True))
    bench = Bench(place)
    judged = bench.judge([])
    while len(done.who.readings) < 2 * MOST_READINGS:
        asked = walk(judged, ()).next
        if asked is None:
            break
        quantity: Asked = (
            "amperes" if asked.kind == "current" else "volts", asked.red, asked.black
        )  # fmt: skip
        if done.who.read(quantity) is None:
            break
        judged = _answer(done, bench)
    return done


class Bench:
    """Judges the readings of one world, its craft laid out once."""

    def __init__(self, place: World) -> None:
        self.place = place
        self._bare = Judging(place.craft, (), place.moments, (), LIMITS, TABLES)

    def judge(self, readings: list) -> Judgement:  # type: ignore[type-arg]
        """What these readings say of the run."""
        told = Judging(self.place.craft, readings, self.place.moments, (), LIMITS, TABLES)
        told.share(self._bare)
        return told.judge("x")

    def drawn(self, scenario):  # type: ignore[no-untyped-def]
        """What the loads draw by the drawing."""
        return self._bare.drawn(scenario)


def _answer(done: Job, bench: Bench) -> Judgement:
    judged = bench.judge(done.who.readings)
    done.answers += 1
    done.last = judged
    done.broken += broken(done.who, judged.concluded, bench.drawn)
    return judged
