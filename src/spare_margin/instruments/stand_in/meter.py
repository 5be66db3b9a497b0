"""A simulated meter whose leads lie on points of a world: ranges, counts, noise, settling, open leads."""

import math
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from threading import RLock
from typing import Literal

from spare_margin.core.bay.world import Fault, World
from spare_margin.core.model.jobs import LoadState

COUNTS = 6000
RANGES_V = (0.6, 6.0, 60.0, 600.0)
RANGES_A = (60.0, 600.0)
SETTLES_S = 0.25
"""How long a display takes to come near what it is laid on."""
AIR_V = 0.02, 0.12
"""Leads in the air wander by so much (V)."""
GAIN_SHARE, NOISE_COUNTS = 0.002, 0.6

Switch = Literal["volts", "volts_ac", "amperes"]


@dataclass
class StandInMeter:
    """Reads `world` in one of its moments. Every method may be called from any thread.

    `red` and `black` are ids of points, empty in the air; `clamp` is the id of what the jaw is round.
    """

    world: World
    moment: str
    seed: int = 1
    clock: Callable[[], float] = time.monotonic
    red: str = ""
    black: str = ""
    clamp: str = ""
    switch: Switch = "volts"
    asleep: bool = False
    plugged: bool = True
    _since: float = field(init=False)
    _switched_on: float = field(init=False)
    _rng: random.Random = field(init=False)
    _gain: float = field(init=False)
    _lock: RLock = field(default_factory=RLock)

    def __post_init__(self) -> None:
        self._rng = random.Random(self.seed)
        self._gain = 1 + self._rng.uniform(-GAIN_SHARE, GAIN_SHARE)
        self._since = self._switched_on = self.clock()

    def points(self) -> dict[str, str]:
        """The points that leads can lie on: what each is called, by its id."""
        return {p.id: p.name or p.id for p in self.world.craft.points}

    def lay(self, red: str, black: str) -> None:
        """Lay the leads on two points; empty for one in the air. KeyError where there is no such point."""
        known = self.points()
        for lead in (red, black):
            if lead and lead not in known:
                raise KeyError(lead)
        with self._lock:
            self.red, self.black, self._since = red, black, self.clock()

    def turn(self, switch: Switch) -> None:
        """Turn the meter's switch."""
        with self._lock:
            self.switch, self._since = switch, self.clock()

    def fault(self, piece: str, ohm: float) -> None:
        """Give a piece so many ohms more: infinite for an open one, nought for none.

        KeyError where there is no such piece.
        """
        if piece not in self.world.ohms:
            raise KeyError(piece)
        with self._lock:
            others = tuple(f for f in self.world.faults if f.piece != piece)
            made = (Fault(piece, ohm),) if ohm > 0 else ()
            self.world = replace(self.world, faults=others + made, _solved={})

    def command(self, load: str, state: LoadState) -> None:
        """Switch a load on or off, pull its plug. KeyError where there is no such load."""
        if load not in {x.id for x in self.world.craft.loads}:
            raise KeyError(load)
        with self._lock:
            moments = tuple(
                replace(m, loads={**m.loads, load: state}) if m.id == self.moment else m
                for m in self.world.moments
            )
            self.world = replace(self.world, moments=moments, _solved={})
            self._switched_on = self.clock()

    def shown(self) -> tuple[float | None, float, float]:
        """What the display shows (V or A; None: over every range), one count, the end of the range."""
        with self._lock:
            true = self._true()
            if true is None or math.isnan(true):
                true = self._rng.choice((-1, 1)) * self._rng.uniform(*AIR_V)
            else:
                left = math.exp(-(self.clock() - self._since) / (SETTLES_S / 3))
                true *= self._gain * (1 - left * self._rng.uniform(0.2, 0.6))
            ranges = RANGES_A if self.switch == "amperes" else RANGES_V
            end = next((r for r in ranges if abs(true) < r), None)
            if end is None:
                return None, 0.0, ranges[-1]
            step = end / COUNTS
            noisy = true + self._rng.uniform(-1, 1) * NOISE_COUNTS * step
            return round(noisy / step) * step, step, end

    def _true(self) -> float | None:
        """What there truly is; None where a lead hangs in the air, or nothing is solved."""
        solved = self.world.solved(self.moment, round(self.clock() - self._switched_on))
        if solved is None:
            return None
        if self.switch == "amperes":
            return abs(solved.solution.elements.current_a(self.clamp)) if self.clamp else 0.0
        if self.switch == "volts_ac":
            return 0.004 if self.red and self.black else None
        if not (self.red and self.black):
            return None
        return solved.solution.volts(self.red, self.black)
