"""Rough crafts: wiring whose good pieces spread as pieces do, with a meter that reads it.

Nothing is as drawn: pieces spread by their kind, the source and the loads are off, the meters have a
gain error of their own. What is known of the truth is kept beside it, to hold a judgement against.
"""

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from spare_margin.core.circuit.network import SolvedCraft
from spare_margin.core.circuit.runs import Run
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.outlook.probes import minutes_of
from spare_margin.core.evidence.response.circuits import Adjusted, solved_as
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER
from spare_margin.core.model.pieces import SIDES, Access, Conductor, Craft, CraftKind, Scenario
from spare_margin.core.walk.walk import Measurement, walk
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import read_line
from spare_margin.service.job.judging import Judging

TABLES = shipped_tables()
LIMITS = Limits(TABLES.limit_sets["by-duty"], {})
MOST_READINGS = 25
COPPER_PER_K = 0.00393
ACCESS: tuple[Access, ...] = ("open", "backprobe", "trim")
ACCESS_SHARES = 0.6, 0.3, 0.1


def craft_by(*lines: str, kind: CraftKind = "vehicle") -> Craft:
    """A new 12 V craft with these runs drawn into it."""
    craft = new_craft(kind, 12.0, "negative", "flooded", 100.0)
    for line in lines:
        read = read_line(line, craft, TABLES)
        assert read.line, (line, read.errors)
        craft, _ = drawn(craft, read.line)
    return craft


def judged(craft: Craft, readings: list[Reading], run: str | None = None) -> Judgement:
    """What readings say of a run, by default the first of the craft."""
    judging = Judging(craft, readings, (), (), LIMITS, TABLES)
    return judging.judge(run or craft.loads[0].id)


def rough_lines(rng: random.Random) -> list[str]:
    """Two to four runs of all kinds of loads on one trunk, with one return."""
    lines = []
    for i in range(rng.randint(2, 4)):
        load = rng.choice(
            [
                f'load "L{i}" {rng.uniform(2, 12):.1f} A',
                f'lamp "L{i}" {rng.choice([10, 21, 35, 55])} W at 12 V',
                f'heater "L{i}" {rng.choice([40, 80, 120])} W at 12 V',
                f'converter "L{i}" {rng.choice([30, 60])} W',
            ]
        )
        size, metres = rng.choice(["1.5", "2.5", "4"]), rng.uniform(1.5, 5)
        middle = rng.choice(["pin > ", "splice > ", ""])
        trunk = "[Bar] > " if i else f"isolator > 25 mm² {rng.uniform(1, 4):.1f} m > ring [Bar] > "
        strap = "> [Strap]" if i else "[Strap] > body > "
        lines.append(
            f"{trunk}fuse {rng.choice([10, 15, 20])} > panel switch > {size} mm² {metres:.1f} m > "
            f"{middle}{size} mm² {metres / 3:.1f} m > pin > {load} > pin > {size} mm² {metres:.1f} m "
            f"> ring {strap}"
        )
    return lines


@dataclass
class Rough:
    """One rough craft with its run under test, the faults in it (ohm on top, by piece), its meter.

    `spare_v` is what the run truly has to spare in its worst scenario, its load at its full draw.
    """

    craft: Craft
    run: Run
    judging: Judging
    solved: SolvedCraft
    more: Mapping[str, float]
    spare_v: float
    gains: tuple[float, float]
    rng: random.Random
    readings: list[Reading] = field(default_factory=list)
    minutes: list[float] = field(default_factory=list)

    @property
    def guilty(self) -> set[str]:
        return set(self.more)

    def read(self, red: str, black: str, quantity: str = "volts") -> None:
        """Take one reading, with the meter's gain and counts."""
        solution = self.solved.solution
        if quantity == "volts":
            true, meter = solution.volts(red, black) or 0.0, WORKSHOP_METER
        else:
            true, meter = abs(solution.elements[self.run.load.id].current_a), CLAMP_METER
        step = meter.resolution(true)
        gain = self.gains[quantity != "volts"]
        counted = true * (1 + gain) + self.rng.uniform(-1, 1) * meter.counts * step
        shown = round(counted / step) * step
        self.readings.append(
            Reading(
                id=f"r{len(self.readings)}", revision="r", quantity=quantity,  # type: ignore[arg-type]
                red=red, black=black, value=shown, state="value", typed="",
                accuracy=meter.accuracy(shown), scenario="rested", taken_at="", meter=meter.name,
            )
        )  # fmt: skip

    def judge(self) -> Judgement:
        """What the readings taken so far say."""
        told = Judging(self.craft, self.readings, (), (), LIMITS, TABLES)
        told.__dict__["runs"], told._budgets = self.judging.runs, self.judging._budgets
        return told.judge(self.run.load.id)

    def start(self) -> Judgement:
        """What is said before anything is read."""
        return self.judge()

    def step(self, found: Judgement) -> Judgement | None:
        """Read what the walk asks for next; None, and nothing read, where it has ended."""
        asked = walk(found, ()).next
        if asked is None or len(self.readings) >= MOST_READINGS:
            return None
        self._take(asked)
        return self.judge()

    def _take(self, asked: Measurement) -> None:
        self.read(asked.red, asked.black, "amperes" if asked.kind == "current" else "volts")
        self.minutes.append(minutes_of(asked.red, asked.black, self.access, self.posts))

    def opening(self) -> Judgement:
        """Read the current and both whole sides, as far as they are asked for."""
        found = self.start()
        while (asked := walk(found, ()).next) is not None and asked.kind != "span":
            found = self.step(found) or found
        return found

    def walk(self) -> Judgement:
        """Read what is asked for until nothing is."""
        found = self.start()
        while (after := self.step(found)) is not None:
            found = after
        return found

    @property
    def posts(self) -> tuple[str, str]:
        return self.run.source.live, self.run.source.back

    @property
    def access(self) -> dict[str, Access]:
        return {p.id: p.access for p in self.craft.points}


def reached(craft: Craft, rng: random.Random) -> Craft:
    """The craft with points in the open, behind a seal or behind trim; its posts are in the open."""
    posts = {craft.sources[0].live, craft.sources[0].back}

    def access(point: str) -> Access:
        return "open" if point in posts else rng.choices(ACCESS, ACCESS_SHARES)[0]

    return replace(craft, points=tuple(replace(p, access=access(p.id)) for p in craft.points))


def rough(seed: int, faults: int, uniform: float | None = None) -> Rough | None:
    """A rough craft with so many faults; None where a load of it would stall.

    Args:
        seed: names the craft.
        faults: how many pieces are at fault; a single one may be an open.
        uniform: pieces spread evenly by this share, in place of by their kind.
    """
    rng = random.Random(seed)
    craft = reached(craft_by(*rough_lines(rng), kind="boat"), random.Random(seed))
    copper = 1 + COPPER_PER_K * (rng.uniform(-5, 40) - 20)
    times = {p.id: _times(p, rng, copper, uniform) for p in craft.pieces}
    loads = {each.id: 1 + rng.uniform(-0.15, 0.15) for each in craft.loads}
    source = {craft.sources[0].id: rng.uniform(12.0, 13.3)}
    run_id = rng.choice([each.id for each in craft.loads])
    judging = Judging(craft, (), (), (), LIMITS, TABLES)
    run = judging.runs[run_id]
    scenario = craft.scenario("rested")
    good = solved_as(craft, scenario, TABLES, Adjusted(times, {}, loads, source, {}))
    more: dict[str, float] = {}
    pieces = [s.piece for s in run.steps()]
    odds = [TABLES.odds.of(_odds_kind(p), getattr(p, "style", "") or "") for p in pieces]
    while len(more) < faults:
        i = rng.choices(range(len(pieces)), [sum(each) for each in odds])[0]
        piece, (worse, opened) = pieces[i], odds[i]
        if piece.id in more:
            continue
        if faults == 1 and rng.random() < opened / (worse + opened):
            more[piece.id] = 1e6
        else:
            volts = math.exp(rng.uniform(math.log(0.25), math.log(3)))
            more[piece.id] = volts / abs(good.solution.elements[piece.id].current_a)
    try:
        true = solved_as(craft, scenario, TABLES, Adjusted(times, more, loads, source, {}))
    except NoSolution:
        return None
    worst = {**loads, run_id: max(loads[run_id], 1.0)}
    point = Adjusted(times, more, worst, {}, {})
    spare = min(
        true_spare(craft, run, each, point) for each in craft.scenarios if run_id in each.on
    )
    gains = rng.uniform(-1, 1) * 0.005, rng.uniform(-1, 1) * 0.02
    return Rough(craft, run, judging, true, more, spare, gains, rng)


def true_spare(craft: Craft, run: Run, scenario: Scenario, point: Adjusted) -> float:
    """What a run truly has to spare (V) in a scenario; minus infinity where a load would stall."""
    try:
        elements = solved_as(craft, scenario, TABLES, point).solution.elements
    except NoSolution:
        return -math.inf
    feed, back = (
        sum(sign * (elements[key].drop_v or 0.0) for key, sign in run.counted[side])
        for side in SIDES
    )
    held = LIMITS.ceilings(run.load, craft.nominal_v)
    return min(
        (held.feed_v or math.inf) - feed,
        (held.return_v or math.inf) - back,
        (held.round_trip_v or math.inf) - feed - back,
    )


def _odds_kind(piece: object) -> str:
    return "conductor" if isinstance(piece, Conductor) else piece.kind  # type: ignore[attr-defined]


def _times(piece: object, rng: random.Random, copper: float, uniform: float | None) -> float:
    """What a good piece has of what is drawn: within twice its spread, and no older than age excuses."""
    if uniform is not None:
        return 1 + rng.uniform(-uniform, uniform)
    spread = TABLES.spreads.of_piece(piece)  # type: ignore[arg-type]
    made = math.exp(max(-2 * spread, min(2 * spread, rng.gauss(0, spread))))
    if isinstance(piece, Conductor):
        return made * copper
    good = expected(piece, TABLES.fixed)  # type: ignore[arg-type]
    return min(made, good.aged_ohm / good.good_ohm)
