"""Simulated people at work: how often something untrue is said, a run decided, in how many readings."""

import statistics
import sys
import time
from collections import Counter

from tests.bay import Job, job, led

JOBS = 3000


def main(jobs: int) -> None:
    """Print what came of so many jobs in people's own order, and of a tenth of them led by the cards."""
    began = time.perf_counter()
    own = [each for seed in range(jobs) if (each := job(seed)).last is not None]
    answers = sum(each.answers for each in own)
    spent = time.perf_counter() - began
    untrue = [each for each in own if each.broken]
    print(
        f"{len(own)} jobs in people's own order, {answers} answers, {spent / answers * 1000:.0f} ms each"
    )
    print(f"  untrue in {len(untrue)}: {[each.seed for each in untrue][:20]}")
    print(f"  decided {share(own)}")
    for habit, count in Counter(each.who.habit for each in own).most_common():
        of_habit = [each for each in own if each.who.habit == habit]
        print(f"    {habit}: {share(of_habit)} of {count}")
    cards = [each for seed in range(jobs // 10) if (each := led(seed)).last is not None]
    readings = statistics.mean(len(each.who.readings) for each in cards)
    print(
        f"{len(cards)} jobs led by the cards: decided {share(cards)}, {readings:.1f} readings each"
    )
    print(f"  untrue in {sum(1 for each in cards if each.broken)}")


def share(jobs: list[Job]) -> str:
    """How many of some jobs were decided."""
    return f"{sum(1 for each in jobs if each.decided) / max(len(jobs), 1):.0%}"


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else JOBS)
