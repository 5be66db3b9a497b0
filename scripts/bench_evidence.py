"""Walks over simulated faults: who is named rightly, who wrongly, and what it takes in readings."""

import math
import random
import statistics
import sys
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from spare_margin.core.evidence.estimate.faults import OPEN_OHM
from spare_margin.core.evidence.outlook.probes import minutes_of
from spare_margin.core.evidence.response.circuits import AS_DRAWN, solved_as
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.judging import Judging
from tests.rough import LIMITS, TABLES, Rough, craft_by, reached, rough, true_spare

SMOOTH, ROUGH, PER_CRAFT = 400, 150, 20
OPEN_SHARE, SURE, CLEAR_V = 0.2, 0.95, 0.02
EXCESS_V = (0.15, 8.0)
"""Excess resistances take this many volts at the current that flows, log-uniform."""
BITS = ("pin", "ring on stud", "splice", "panel switch", "wire", "wire", "wire")


def smooth_craft(rng: random.Random) -> Craft:
    """A run of 12 to 26 pieces that shares its ends with another one."""

    def bit() -> str:
        word = rng.choice(BITS)
        if word != "wire":
            return word
        return f"{rng.choice(['1', '1.5', '2.5', '4'])} mm2 {rng.uniform(0.5, 5):.1f} m"

    def way() -> str:
        return " > ".join(bit() for _ in range(rng.randint(2, 9)))

    return craft_by(
        f"isolator > 16 mm2 2 m [Panel] > fuse 10 > panel switch > {way()} > "
        f'load "Fan" {rng.uniform(1, 6):.1f} A > {way()} > ring [Bus] > 16 mm2 2 m',
        '[Panel] > fuse 5 > 1.5 mm2 3 m > load "Other" 2 A > 1.5 mm2 3 m > [Bus]',
        kind="boat",
    )


def smooth_cases(faults: int, seed: int = 1) -> list[Rough]:
    """Crafts exactly as drawn with one fault each."""
    rng = random.Random(seed)
    out = []
    for i in range(faults):
        if i % PER_CRAFT == 0:
            craft = reached(smooth_craft(rng), rng)
            judging = Judging(craft, (), (), (), LIMITS, TABLES)
            run, scenario = judging.runs["fan"], craft.scenario("rested")
            good = solved_as(craft, scenario, TABLES).solution
        wanted = rng.choice([s.piece.id for s in run.steps()])
        volts = math.exp(rng.uniform(*map(math.log, EXCESS_V)))
        opened = rng.random() < OPEN_SHARE
        more = {wanted: OPEN_OHM if opened else volts / abs(good.elements[wanted].current_a)}
        point = type(AS_DRAWN)({}, more, {}, {}, {})
        solved = solved_as(craft, scenario, TABLES, point)
        gains = rng.uniform(-1, 1) * 0.005, rng.uniform(-1, 1) * 0.02
        worst = (true_spare(craft, run, s, point) for s in craft.scenarios if run.load.id in s.on)
        out.append(Rough(craft, run, judging, solved, more, min(worst), gains, rng))
    return out


@dataclass
class Tally:
    """What became of the walks over one set."""

    walks: int = 0
    right: int = 0
    passed: int = 0
    said: int = 0
    said_rightly: int = 0
    false_pass: int = 0
    false_over: int = 0
    readings: list[int] = field(default_factory=list)
    halves: list[int] = field(default_factory=list)
    minutes: list[float] = field(default_factory=list)
    half_minutes: list[float] = field(default_factory=list)
    doubts: list[float] = field(default_factory=list)
    bits: list[float] = field(default_factory=list)
    took: list[float] = field(default_factory=list)
    ends: Counter[str] = field(default_factory=Counter)

    def walk(self, case: Rough) -> None:
        """Walk one craft to its end and count what was said of it."""
        judge = self._timed(case.judge)
        case.judge = judge  # type: ignore[method-assign]
        self.doubts.append(
            _entropy(Judging(case.craft, (), (), (), LIMITS, TABLES).judge(case.run.load.id))
        )
        found = case.start()
        while (after := case.step(found)) is not None:
            if found.probes:
                self.bits.append(found.probes[0].bits)
            found = after
        self.walks += 1
        self.ends[found.done or "asked on"] += 1
        self.readings.append(len(case.readings))
        self.minutes.append(sum(case.minutes))
        named = {e for e, p in found.search.by_element.items() if p >= SURE and e is not None}
        if found.done not in ("cornered", "load"):
            named = set()
        self.said += len(named)
        self.said_rightly += len(named & case.guilty)
        self.right += bool(named) and named <= case.guilty
        self.passed += found.done == "good" and case.spare_v >= 0
        self.false_pass += found.verdict == "within" and case.spare_v < -CLEAR_V
        self.false_over += found.verdict == "over" and case.spare_v > CLEAR_V
        if len(case.guilty) == 1:
            half = _halving(case)
            self.halves.append(len(half))
            self.half_minutes.append(sum(half))

    def _timed(self, judge: Callable[[], Judgement]) -> Callable[[], Judgement]:
        def timed() -> Judgement:
            start = time.perf_counter()
            found = judge()
            self.took.append(time.perf_counter() - start)
            return found

        return timed

    def told(self, title: str, faults: int) -> None:
        """Print it."""
        mean = statistics.mean(self.readings)
        print(f"{title}: {self.walks} walks")
        if faults:
            wrong = self.said - self.said_rightly
            right = (self.right + self.passed) / self.walks
            print(f"  right                     {right:.1%} ({self.right} named, {self.passed} keep "
                  "their ceilings and were passed)")  # fmt: skip
            print(f"  said with 95 % or more    {self.said}, {wrong} of them wrong")
        else:
            print(f"  convicted                 {self.said} of {self.walks}")
            print(f"  false pass, false over    {self.false_pass}, {self.false_over}")
        print(f"  readings, mean            {mean:.2f} (most {max(self.readings)})")
        if self.halves:
            half = statistics.mean(self.halves)
            spent, halved = statistics.mean(self.minutes), statistics.mean(self.half_minutes)
            print(f"  against plain halving     {mean / half:.2f} x readings ({half:.2f}), "
                  f"{spent / halved:.2f} x minutes ({halved:.2f})")  # fmt: skip
        if self.bits and faults:
            bits = statistics.mean(self.bits)
            bound = statistics.mean(self.doubts) / bits
            print(f"  against the bound         {mean / bound:.2f} x  ({bound:.2f}: "
                  f"{statistics.mean(self.doubts):.2f} bits in doubt, {bits:.2f} a reading)")  # fmt: skip
        print(f"  an answer, median         {statistics.median(self.took) * 1000:.0f} ms")
        print(f"  ends                      {dict(self.ends)}")


def _entropy(found: Judgement) -> float:
    """Bits in doubt between the elements."""
    return -sum(p * math.log2(p) for p in found.search.by_element.values() if p > 0)


def _halving(case: Rough) -> list[float]:
    """Minutes of each reading of who reads source, current, load and one side, then halves it.

    One lead stays parked at the post; what is left is halved by its number of pieces.
    """
    (wanted,) = case.guilty
    run, points, posts = case.run, case.access, case.posts
    side = run.feed if any(s.piece.id == wanted for s in run.feed) else run.back
    load = run.feed_terminal, run.return_terminal
    ends = (posts[0], load[0]) if side is run.feed else (load[1], posts[1])
    pairs = [posts, load, load, ends]
    left = list(side)
    while len(left) > 1:
        half = len(left) // 2
        pairs.append((posts[0], left[half - 1].exit))
        inside = any(s.piece.id == wanted for s in left[:half])
        left = left[:half] if inside else left[half:]
    return [minutes_of(red, black, points, posts) for red, black in pairs]


def evidence(smooth: int = SMOOTH, rough_ones: int = ROUGH) -> None:
    """Walk the smooth set and the rough ones, and print how it went."""
    tally = Tally()
    for case in smooth_cases(smooth):
        tally.walk(case)
    tally.told("As drawn but for one fault", 1)
    for faults in (0, 1, 2):
        tally = Tally()
        for i in range(rough_ones):
            made = rough(100_000 + 3 * i + faults, faults)
            if made is not None and (faults or made.spare_v > CLEAR_V):
                tally.walk(made)
        tally.told(f"Rough crafts, {('no fault', 'one fault', 'two faults')[faults]}", faults)


if __name__ == "__main__":
    evidence(*map(int, sys.argv[1:3]))
