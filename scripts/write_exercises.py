"""Chooses the exercises that ship and writes them down: of each level different crafts and faults."""

from collections import Counter
from itertools import count
from pathlib import Path

from spare_margin.core.practice.debrief import kind_of
from spare_margin.core.practice.exercise import LEVELS, Exercise
from spare_margin.core.practice.making import exercise, key_of
from spare_margin.data.tables import shipped_tables

TARGET = Path(__file__).parents[1] / "src/spare_margin/core/practice/shipped.py"
EACH, LAST = 9, 14
"""So many of each level, and of the last one, which holds most kinds."""
SEEDS = 400
HEAD = '''"""The exercises that ship: what each is made from, whose craft it is, what the customer says.

Written by `scripts/write_exercises.py`: so a list of them needs none of them made.
"""

from .exercise import Level, Symptom

SHIPPED: tuple[tuple[str, Level, str, Symptom], ...] = (
'''


def signature(made: Exercise) -> tuple[object, ...]:
    """What tells one exercise from another of its level: what is wrong, and where."""
    return tuple(sorted((kind_of(made, h), h.element) for h in made.hidden))


def main() -> None:
    """Write the list."""
    tables = shipped_tables()
    lines = []
    for level in LEVELS:
        wanted = LAST if level == LEVELS[-1] else EACH
        had: set[tuple[object, ...]] = set()
        stories: Counter[str] = Counter()
        kinds: Counter[object] = Counter()
        for seed in count(1):
            if wanted == 0 or seed > SEEDS:
                break
            made = exercise(key_of(level, seed), tables)
            told = signature(made)
            kind = tuple(kind_of(made, h) for h in made.hidden) + tuple(h.when for h in made.hidden)
            most = 3 if level == LEVELS[-1] else EACH
            if told in had and (made.hidden or kinds[kind] >= most):
                continue
            if stories[made.story] > 2 or kinds[kind] >= most:
                continue
            had.add(told)
            stories[made.story] += 1
            kinds[kind] += 1
            wanted -= 1
            lines.append(f'    ("{made.key}", {level}, "{made.story}", "{made.symptom}"),\n')
    TARGET.write_text(HEAD + "".join(lines) + ")\n")
    print(f"wrote {len(lines)} exercises")


if __name__ == "__main__":
    main()
