"""Learners at exercises: is any marked wrong that the bounds call right, is the shortest way beaten."""

import sys
from statistics import mean

from spare_margin.core.practice.exercise import LEVELS
from spare_margin.core.practice.making import key_of
from tests.practice import learned

SEEDS = 500
FROM = 5000


def main() -> None:
    """Print the shares of so many seeds."""
    wrong, beaten, times, better = [], 0, [], []
    for seed in range(SEEDS):
        key = key_of(LEVELS[seed % len(LEVELS)], FROM + seed)
        told = learned(key, seed)
        carried = all(r.rested == "carried" for r in told.rests)
        if carried and not told.right:
            wrong.append((key, told.outcome))
        ratio = told.minutes / told.shortest.minutes
        beaten += ratio < 1
        times.append(ratio)
        better.append(sum(s.better is not None for s in told.steps))
        if sys.stderr.isatty():
            print(f"\r{seed + 1}", end="", file=sys.stderr)
    print(f"practice  {SEEDS} learners who conclude what the bounds let them, in their own order")
    print(f"practice  marked wrong: {len(wrong)} {wrong[:5]}")
    print(f"practice  shorter than the shortest way: {beaten / SEEDS:.1%}")
    print(f"practice  minutes against it: {mean(times):.2f} on average")
    print(f"practice  told of something better: {mean(better):.1f} times each")


if __name__ == "__main__":
    main()
