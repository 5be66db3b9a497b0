"""Cornering over simulated faults: share found, readings taken against a bound and two habits."""

import math
import random
import statistics
import sys
import time
from dataclasses import dataclass

import numpy as np

from spare_margin.core.cornering import Corner
from spare_margin.core.drawing import drawn
from spare_margin.core.network import Network
from spare_margin.core.new_craft import new_craft
from spare_margin.core.pieces import Craft, Scenario
from spare_margin.core.resistances import closed_ohms
from spare_margin.core.runs import Run, Tracer
from spare_margin.core.searching import Ground, search_run
from spare_margin.data.shelves import shipped_tables
from spare_margin.exchange.run_line import read_line
from spare_margin.instruments.simulated_meter import SimulatedMeter
from spare_margin.instruments.simulated_search import Search, search

TABLES = shipped_tables()
FAULTS, PER_CRAFT = 2000, 20
OPEN_SHARE = 0.2
EXCESS_V = (0.15, 8.0)
"""Excess resistances take this many volts at the current that flows, log-uniform."""
BITS = ("pin", "ring on stud", "splice", "panel switch", "wire", "wire", "wire")


def generated_run(rng: random.Random) -> Craft:
    """A run of 12 to 26 pieces that shares its ends with another one."""
    craft = new_craft("boat", 12.0, "none", "agm", 200.0)

    def bit() -> str:
        word = rng.choice(BITS)
        if word != "wire":
            return word
        return f"{rng.choice(['1', '1.5', '2.5', '4'])} mm2 {rng.uniform(0.5, 5):.1f} m"

    def way() -> str:
        return " > ".join(bit() for _ in range(rng.randint(2, 9)))

    for text in (
        f"isolator > 16 mm2 2 m [Panel] > fuse 10 > panel switch > {way()} > "
        f'load "Fan" {rng.uniform(1, 6):.1f} A > {way()} > ring [Bus] > 16 mm2 2 m',
        '[Panel] > fuse 5 > 1.5 mm2 3 m > load "Other" 2 A > 1.5 mm2 3 m > [Bus]',
    ):
        read = read_line(text, craft, TABLES)
        assert read.line is not None, read.errors
        craft, _ = drawn(craft, read.line)
    return craft


@dataclass(slots=True)
class Bench:
    """A craft ready to be searched."""

    craft: Craft
    scenario: Scenario
    run: Run
    ground: Ground
    network: Network

    @classmethod
    def of(cls, craft: Craft) -> "Bench":
        """A craft laid out and solved."""
        scenario = craft.scenarios[0]
        network = Network(craft, scenario, TABLES)
        network.solve()
        run = Tracer(craft, closed_ohms(craft, TABLES)).trace(craft.load("fan"))
        return cls(craft, scenario, run, search_run(craft, network, run, TABLES), network)


def found(ended: Search, wanted: str) -> bool:
    """Whether the search stopped on this element."""
    sums: dict[str | None, float] = {}
    for s in ended.ended.suspects:
        sums[s.element] = sums.get(s.element, 0.0) + s.probability
    return ended.ended.done and max(sums, key=lambda k: sums[k]) == wanted


def walking(run: Run, wanted: str) -> int:
    """Readings of who reads the load, then piece by piece from the post on, until it shows."""
    order = [s.piece.id for s in run.steps()]
    return 1 + order.index(wanted) + 1


def halving(run: Run, wanted: str) -> int:
    """Readings of who reads the load, one side, then halves that side until one piece is left."""
    side = run.feed if any(s.piece.id == wanted for s in run.feed) else run.back
    return 2 + math.ceil(math.log2(max(len(side), 1)))


def entropy(corner: Corner) -> float:
    """Bits in doubt before any reading."""
    p = np.bincount(corner.number, corner.prior)
    p = p[p > 0]
    return float(-(p * np.log2(p)).sum())


def cornering(faults: int = FAULTS, seed: int = 1) -> None:
    """Simulate faults one by one, print how the search does, and name what it missed."""
    rng = random.Random(seed)
    counts, walks, halves, bits, doubts, right, missed = [], [], [], [], [], 0, []
    answers: list[float] = []
    for i in range(faults):
        if i % PER_CRAFT == 0:
            bench = Bench.of(generated_run(rng))
            pieces = [s.piece.id for s in bench.run.steps()]
            good = bench.network.solve()
        wanted = rng.choice(pieces)
        size = math.exp(rng.uniform(*map(math.log, EXCESS_V)))
        is_open = rng.random() < OPEN_SHARE
        ohm = math.inf if is_open else size / abs(good.elements[wanted].current_a)
        meter = SimulatedMeter(
            bench.craft, bench.scenario, TABLES, {wanted: ohm}, rng.randrange(10**9)
        )
        start = time.perf_counter()
        ended = search(bench.ground.corner, meter, dict(bench.ground.points))
        answers.append((time.perf_counter() - start) / (len(ended.readings) + 1))
        if found(ended, wanted):
            right += 1
        else:
            missed.append(f"{wanted} open" if is_open else f"{wanted} {size:.2f} V")
        counts.append(len(ended.readings))
        bits += ended.bits
        walks.append(walking(bench.run, wanted))
        halves.append(halving(bench.run, wanted))
        doubts.append(entropy(bench.ground.corner))
    mean, a_reading = statistics.mean(counts), statistics.mean(bits)
    bound = statistics.mean(doubts) / a_reading
    print(
        f"Cornering {faults} simulated faults (excess {1 - OPEN_SHARE:.0%}, open {OPEN_SHARE:.0%})"
    )
    print(
        f"  right                     {right / faults:.2%}   missed: {', '.join(missed) or 'none'}"
    )
    print(f"  readings, mean            {mean:.2f} (most {max(counts)})")
    print(f"  against the bound         {mean / bound:.2f} x  ({bound:.2f}: {statistics.mean(doubts):.2f}"
          f" bits in doubt, {a_reading:.2f} a reading)")  # fmt: skip
    print(f"  against plain halving     {mean / statistics.mean(halves):.2f} x"
          f"  ({statistics.mean(halves):.2f})")  # fmt: skip
    print(f"  against piece by piece    {mean / statistics.mean(walks):.2f} x"
          f"  ({statistics.mean(walks):.2f})")  # fmt: skip
    print(f"  an answer, median         {statistics.median(answers) * 1000:.0f} ms")


if __name__ == "__main__":
    cornering(int(sys.argv[1]) if len(sys.argv) > 1 else FAULTS)
