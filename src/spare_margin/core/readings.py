"""What readings say together: the drop over any span they determine, and what speaks against them.

Every reading is the difference of two potentials within its accuracy. Potentials are estimated by
least squares, each reading weighted by 1 / accuracy^2 (Gauss-Markov); the standard error of a span
is then the effective resistance between its ends of a network whose resistors are the accuracies
squared. A span is determined exactly when readings join its two ends.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .jobs import Reading

Verdict = Literal["within", "over", "too_close", "not_loaded", "not_measured"]
DEAD_SHARE = 0.05
"""Below this share of the expected current or drop, nothing is switched on."""


@dataclass(frozen=True, slots=True)
class Measured:
    """A drop (V) with the half-width of its doubt, and the ids of the readings it rests on.

    `direct` says that it was read across the span itself.
    """

    volts: float
    accuracy: float
    rests_on: tuple[str, ...]
    direct: bool


def live_readings(readings: Iterable[Reading]) -> list[Reading]:
    """The readings that stand: not superseded, not withdrawn, in the order they were taken."""
    all_of_them = list(readings)
    superseded = {r.supersedes for r in all_of_them if r.supersedes}
    return [r for r in all_of_them if r.id not in superseded and r.state != "withdrawn"]


class Evidence:
    """The voltage readings of one pass, ready to be asked for any span."""

    def __init__(self, readings: Iterable[Reading]) -> None:
        self.readings = [r for r in readings if r.quantity == "volts" and r.value is not None]
        points = sorted({p for r in self.readings for p in (r.red, r.black)})
        self.index = {p: i for i, p in enumerate(points)}
        n = len(points)
        laplacian = np.zeros((n, n))
        pull = np.zeros(n)
        self.part = list(range(n))
        for r in self.readings:
            a, b = self.index[r.red], self.index[r.black]
            weight = 1 / max(r.accuracy, 1e-6) ** 2
            laplacian[[a, b, a, b], [a, b, b, a]] += [weight, weight, -weight, -weight]
            assert r.value is not None
            pull[a] += weight * r.value
            pull[b] -= weight * r.value
            old, new = self.part[a], self.part[b]
            self.part = [new if p == old else p for p in self.part]
        self.spread = np.linalg.pinv(laplacian, hermitian=True) if n else laplacian
        self.potential = self.spread @ pull

    def drop(self, start: str, end: str) -> Measured | None:
        """Volts lost from `start` to `end`; None where the readings do not join the two.

        Readings across the span itself rule; several of them count as their weighted mean.
        """
        across = [r for r in self.readings if {r.red, r.black} == {start, end}]
        if across:
            return self._mean(across, start)
        a, b = self.index.get(start), self.index.get(end)
        if a is None or b is None or self.part[a] != self.part[b]:
            return None
        variance = self.spread[a, a] + self.spread[b, b] - 2 * self.spread[a, b]
        rests_on = tuple(
            r.id for r in self.readings if self.part[self.index[r.red]] == self.part[a]
        )
        volts = float(self.potential[a] - self.potential[b])
        return Measured(volts, float(np.sqrt(max(variance, 0.0))), rests_on, False)

    @staticmethod
    def _mean(across: list[Reading], start: str) -> Measured:
        weights = np.array([1 / max(r.accuracy, 1e-6) ** 2 for r in across])
        signed = np.array([(r.value or 0.0) * (1 if r.red == start else -1) for r in across])
        mean = float(weights @ signed / weights.sum())
        spread = float(np.abs(signed - mean).max())
        # A meter's error does not average out: repeating shows the spread, not a better meter.
        accuracy = max(min(r.accuracy for r in across), spread)
        return Measured(mean, accuracy, tuple(r.id for r in across), True)

    def disagreement(self, reading: Reading) -> float | None:
        """Volts by which this reading misses what the others say of its span, beyond all doubt.

        None where the others say nothing, or agree within their accuracies.
        """
        if reading.value is None:
            return None
        others = Evidence(r for r in self.readings if r.id != reading.id)
        said = others.drop(reading.red, reading.black)
        if said is None:
            return None
        miss = reading.value - said.volts
        return miss if abs(miss) > reading.accuracy + said.accuracy else None


def verdict(drop_v: float, accuracy_v: float, allowance_v: float) -> Verdict:
    """Within if drop + doubt keeps the allowance, over if drop - doubt exceeds it, else too close."""
    if drop_v + accuracy_v <= allowance_v + 1e-12:
        return "within"
    if drop_v - accuracy_v > allowance_v:
        return "over"
    return "too_close"


def worst(verdicts: Iterable[Verdict]) -> Verdict:
    """The verdict of a whole from those of its parts: over before unknown before too close."""
    seen = set(verdicts)
    order: tuple[Verdict, ...] = ("not_loaded", "over", "not_measured", "too_close", "within")
    return next((v for v in order if v in seen), "not_measured")


def current_proven(
    drops: Iterable[tuple[Measured, float]], clamp_a: float | None, expected_a: float
) -> bool:
    """Whether current flowed: a clamp saw it, or some drop stands clear of the meter's doubt.

    A drop exists only while current flows, so one that cannot be nothing is proof enough, unless
    it is next to nothing against the drop (V) that stands with it as expected: a load asleep.
    """
    if clamp_a is not None:
        return abs(clamp_a) > DEAD_SHARE * expected_a
    return any(
        abs(d.volts) > 2 * d.accuracy and abs(d.volts) > DEAD_SHARE * expected_v
        for d, expected_v in drops
    )
