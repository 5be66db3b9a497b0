"""Learners at exercises: the rig's people, who read in their own order and conclude what bounds carry."""

import random
from dataclasses import dataclass

from spare_margin.core.bay.people import HABITS, Person
from spare_margin.core.practice.acts import Act
from spare_margin.core.practice.debrief import Debrief, debrief
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.expert import conclusion, next_act
from spare_margin.core.practice.left import Judge, Standing
from spare_margin.core.practice.making import exercise
from spare_margin.core.practice.played import Played, act
from spare_margin.service.practice.exercises import TABLES, judge_of

MOST_ACTS = 90


def made(key: str) -> tuple[Exercise, Judge]:
    """An exercise with what judges its readings."""
    held = exercise(key, TABLES)
    return held, judge_of(held)


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
