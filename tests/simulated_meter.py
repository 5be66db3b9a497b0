"""A meter that reads a network with a fault: true drop, then gain error, noise and resolution."""

import math
import random
from dataclasses import dataclass, field

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER, Meter
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables


@dataclass(slots=True)
class SimulatedMeter:
    """Reads `craft` in `scenario` where some pieces have `excess_ohm` too much (infinity: open).

    The gain error is drawn once, as a real meter's is; the noise anew with each reading. Both stay
    within the meter's specification.
    """

    craft: Craft
    scenario: Scenario
    tables: Tables
    excess_ohm: dict[str, float]
    seed: int
    _random: random.Random = field(init=False)
    _gain: float = field(init=False)
    _solution: Solution = field(init=False)

    def __post_init__(self) -> None:
        self._random = random.Random(self.seed)
        self._gain = self._random.uniform(-0.6, 0.6)
        good = solve(self.craft, self.scenario, self.tables)
        ohms = {
            piece: (good.elements[piece].resistance_ohm or 0.0) + excess
            for piece, excess in self.excess_ohm.items()
        }
        self._solution = solve(self.craft, self.scenario, self.tables, resistances=ohms)

    def volts(self, red: str, black: str) -> str | None:
        """What the display shows with the leads on these points; None where it only wanders."""
        true = self._solution.volts(red, black)
        return None if true is None else self._shown(true, WORKSHOP_METER)

    def amperes(self, element: str) -> str:
        """What a clamp round this element shows."""
        return self._shown(abs(self._solution.elements[element].current_a), CLAMP_METER)

    def _shown(self, true: float, meter: Meter) -> str:
        step = meter.resolution(true)
        value = true * (1 + self._gain * meter.percent / 100)
        value += self._random.uniform(-0.7, 0.7) * meter.counts * step
        places = max(0, round(-math.log10(step)))
        return f"{round(value / step) * step:.{places}f}"
