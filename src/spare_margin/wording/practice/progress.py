"""How a learner stands, in plain sentences."""

from collections.abc import Iterator

from spare_margin.core.practice.result import RECENT, LevelProgress, Progress

from .debrief import habit_words, kind_words
from .exercise import LEVEL_WORDS

OWN_PACE = 1.25
"""Up to so many times the shortest way counts as short."""


def level_line(held: LevelProgress) -> str:
    """One level in a sentence."""
    name = LEVEL_WORDS[held.level][0]
    says = f"{name}: {held.right} of {held.ended} right."
    if held.times_shortest is None:
        return says
    if held.times_shortest <= OWN_PACE:
        return f"{says} As short as it can be done, lately."
    return f"{says} {held.times_shortest:.1f} times the shortest way, lately."


def progress_lines(held: Progress) -> Iterator[str]:
    """How a learner stands: what he finds, what he misses, what it costs him."""
    if not held.ended:
        yield "Nothing ended yet."
        return
    for kind, (there, found) in held.kinds.items():
        yield f"{kind_words(kind)}: found {found} of {there}."
    if held.lucky:
        times = "once" if held.lucky == 1 else f"{held.lucky} times"
        yield f"Right by luck {times}: the readings left other explanations open."


def habit_lines(held: Progress) -> Iterator[tuple[str, str]]:
    """What costs, with how often it was seen lately; and what to do instead."""
    for habit, count in held.habits:
        name, instead = habit_words(habit)
        yield f"{name}: {count} of the last {min(held.ended, RECENT)}", instead
