"""Learners at exercises: the rig's people, who read in their own order and conclude what bounds carry."""

import json
import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from spare_margin.core.bay.people import HABITS, Person
from spare_margin.core.practice.acts import Act
from spare_margin.core.practice.debrief import Debrief, debrief
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.expert import conclusion, next_act, way
from spare_margin.core.practice.left import Judge, Standing
from spare_margin.core.practice.making import exercise
from spare_margin.core.practice.played import Played
from spare_margin.core.practice.playing import act
from spare_margin.core.practice.shipped import SHIPPED
from spare_margin.exchange.practice import acts_text
from spare_margin.service.practice.exercises import TABLES, judge_of

MOST_ACTS = 90


def made(key: str) -> tuple[Exercise, Judge]:
    """An exercise with what judges its readings."""
    held = exercise(key, TABLES)
    return held, judge_of(held)


def shipped_with(level: int, fits: Callable[[Exercise], bool]) -> str:
    """The key of the first exercise of a level that ships and fits."""
    return next(k for k, at, _, _ in SHIPPED if at == level and fits(made(k)[0]))


def way_of(key: str) -> list[dict[str, Any]]:
    """The acts of an expert at an exercise, as they are sent."""
    acts: list[dict[str, Any]] = json.loads(acts_text(way(*made(key)).acts))
    return acts


@dataclass
class Learner:
    """Somebody of the rig at an exercise: reads by habit first, then as an expert would."""

    exercise: Exercise
    judge: Judge
    rng: random.Random

    def play(self) -> Played:
        """To the end: concluded by what no circuit can escape, repaired, proven, handed over."""
        at = act(Played(exercise=self.exercise), Act(kind="noted"))
        at = act(at, Act(kind="zero"))
        held = self.exercise
        world = held.world(held.craft, frozenset(), False, "")
        person = Person(world, self.rng, self.rng.choice(HABITS), clamp=True)
        for quantity, red, black in person.order():
            if quantity == "amperes":
                at = act(at, Act(kind="amperes", element=held.run))
            else:
                at = act(at, Act(kind="volts", red=red, black=black))
            if Standing(at, self.judge).left.found:
                break
        while len(at.acts) < MOST_ACTS:
            stands = Standing(at, self.judge)
            asked = None if stands.left.found else next_act(stands)
            if asked is not None:
                at = act(at, asked)
                continue
            ends = conclusion(stands)
            if not ends.claims:
                break
            at = act(at, ends)
        if not at.repairs:
            at = act(at, Act(kind="conclude"))
        return act(at, Act(kind="hand_over"))


def learned(key: str, seed: int) -> Debrief:
    """What is said of a learner at an exercise."""
    held, judge = made(key)
    return debrief(Learner(held, judge, random.Random(seed)).play(), judge)
