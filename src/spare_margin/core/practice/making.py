"""Exercises made from a seed: a story, a wiring of the level's kind, and something wrong in it, or nothing.

What is made is kept only where it is fair: sound without its fault by a margin, over its limit with it by
more than a meter's doubt, and never so bad that a glance would do.
"""

import math
import random
from collections.abc import Collection, Mapping
from dataclasses import replace
from itertools import count

from spare_margin.core.bay.world import DRIFTS_SHARE, PIECE_SPREAD, UNKNOWN_OHM, WIRE_SPREAD
from spare_margin.core.budget.scenarios import solved_scenario
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import SIDES, AnyPiece, Conductor, Side, undrawn
from spare_margin.core.model.tables import Tables

from .bench import Bench, State
from .exercise import LEVELS, Exercise, Hidden, Level, Symptom
from .faults import hidden_in
from .stories import CHARGED, STORIES, STRONG, Story
from .wirings import wired

LIMIT_SET = "by-duty"
SOUND, ILL = 0.85, 1.25
"""A sound side loses this share of its limit at most, an ill one so many times it at least."""
MOST_LOST = 0.8
TRIES = 200
SETTLED_S = 600.0
FIRST_OWN = 1000
"""Exercises that are made as they are wanted have numbers from here on."""


def key_of(level: Level, seed: int) -> str:
    """What an exercise is made from again.

    Args:
        level: the level.
        seed: its number.
    """
    return f"{level}-{seed}"


def next_like(level: Level, had: Collection[str]) -> str:
    """The key of another exercise of a level that is not among those that somebody had.

    Args:
        level: the level.
        had: the keys of those.
    """
    return next(k for n in count(FIRST_OWN) if (k := key_of(level, n)) not in had)


def daily(day: int) -> str:
    """The key of the exercise of a day: the levels one after the other.

    Args:
        day: days since any fixed one.
    """
    return key_of(LEVELS[day % len(LEVELS)], 100_000 + day)


def exercise(key: str, tables: Tables) -> Exercise:
    """The exercise with this key; the same key makes the same.

    Args:
        tables: the reference tables.

    Raises:
        JobError: no such level, or no number.
    """
    level, _, seed = key.partition("-")
    known = {str(each): each for each in LEVELS}
    if level not in known or not (seed.isdigit() and len(seed) <= 9):
        raise JobError("exercise", f"there is no {key}", "a level from 1 to 7 and a number: 2-14")
    limits = Limits(tables.limit_sets[LIMIT_SET], {})
    rng = random.Random(f"practice {key}")
    for _ in range(TRIES):
        made = _made(key, known[level], rng, tables)
        if is_fair(made, limits):
            return made
    raise JobError("exercise", f"nothing fair comes of {key}", "another number")


def _made(key: str, level: Level, rng: random.Random, tables: Tables) -> Exercise:
    story_key, story = _story(level, rng)
    held = wired(level, story, rng)
    drawn = closed_ohms(held.craft, tables)
    made = Exercise(
        key, level, story_key, held.craft, tables, held.run, "asked", (),
        {p.id: _true(p, drawn[p.id], rng) for p in held.craft.pieces},
        {x.id: 1 + rng.uniform(-0.08, 0.08) for x in held.craft.loads},
        rng.random() * DRIFTS_SHARE * 0.5 * held.craft.nominal_v, rng.randrange(2**31),
        held.relays,
    )  # fmt: skip
    hidden = hidden_in(made, held, story, rng)
    made = replace(made, hidden=hidden)
    return replace(made, symptom=symptom_of(made))


def _story(level: Level, rng: random.Random) -> tuple[str, Story]:
    of: Mapping[str, Story] = STORIES
    if level == 5:
        of = STRONG if rng.random() < 0.7 else CHARGED
    key = rng.choice(list(of))
    return key, of[key]


def story_of(key: str) -> Story:
    """The story with this key. KeyError where there is none."""
    return {**STORIES, **STRONG, **CHARGED}[key]


def _true(piece: AnyPiece, drawn: float, rng: random.Random) -> float:
    if undrawn(piece):
        return rng.uniform(*UNKNOWN_OHM) / 2
    spread = WIRE_SPREAD if isinstance(piece, Conductor) else PIECE_SPREAD
    return drawn * math.exp(min(rng.gauss(0.0, spread), 2 * spread))


def symptom_of(made: Exercise) -> Symptom:
    """What the customer says: what shows of what is wrong.

    Args:
        made: the exercise.
    """
    if not made.hidden:
        return "asked"
    if any(h.when == "warm" for h in made.hidden):
        return "fades"
    if any(h.when == "moved" for h in made.hidden):
        return "now_and_then"
    look = Bench(made, State()).looks(SETTLED_S)[made.run]
    if look in ("still", "faint"):
        return "dead"
    # That a bank charges badly nobody sees on the day.
    charging = made.craft.load(made.run).duty == "charging"
    return "asked" if look == "full" and not charging else "weak"


# What is fair


def is_fair(made: Exercise, limits: Limits) -> bool:
    """Whether an exercise can be asked of anybody.

    Args:
        made: the exercise.
        limits: what its runs may lose.
    """
    pieces = frozenset(h.element for h in made.hidden)
    well = State(mended=pieces)
    if any(lost_share(made, well, run, limits) > SOUND for run in made.looked_at):
        return False
    return all(_shows(made, h, pieces - {h.element}, limits) for h in made.hidden)


def _shows(made: Exercise, wrong: Hidden, others: frozenset[str], limits: Limits) -> bool:
    """Whether one thing that is wrong shows by itself."""
    if wrong.element not in made.ohms:
        return True
    alone = State(mended=others, warm=wrong.when == "warm")
    run = next(r for r in made.looked_at if wrong.element in _pieces_of(made, r))
    moved = wrong.element if wrong.when == "moved" else ""
    if math.isinf(wrong.ohm):
        return True
    lost = lost_share(made, alone, run, limits, moved)
    load = made.craft.load(made.run)
    solved = Bench(made, State(warm=alone.warm)).solved(SETTLED_S, moved)
    gets = abs(solved.solution.volts(load.start, load.end) or 0.0)
    return lost > ILL and gets > (1 - MOST_LOST) * made.craft.nominal_v


def _pieces_of(made: Exercise, run: str) -> set[str]:
    return {s.piece.id for s in made.runs[run].steps()}


def lost_share(made: Exercise, state: State, run: str, limits: Limits, moved: str = "") -> float:
    """What the worse side of a run truly loses at the loaded current of the worst scenario, of its limit.

    Args:
        made: the exercise.
        state: what was put right, and whether it is warm.
        run: the id of its load.
        limits: what its runs may lose.
        moved: the piece that is being moved.
    """
    craft, ends = made.craft, made.runs[run]
    world = made.world(craft, state.mended, state.warm, moved)
    held = limits.ceilings(craft.load(run), craft.nominal_v)
    ceilings: Mapping[Side, float | None] = {"feed": held.feed_v, "return": held.return_v}
    shares = [0.0]
    for scenario in craft.scenarios:
        planned = solved_scenario(craft, scenario, made.tables).solution.elements
        drawn = {x.id: abs(planned.current_a(x.id)) for x in craft.loads}
        solved = world.loaded_with(world.true_ohms(""), scenario, drawn).solution
        lost = {side: abs(solved.volts(*ends.ends(side)) or 0.0) for side in SIDES}
        shares += [lost[side] / most for side, most in ceilings.items() if most]
    return max(shares)
