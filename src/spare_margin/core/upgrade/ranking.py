"""Candidates against one another: which are beaten, which is enough and not more, what would change it."""

from collections.abc import Sequence
from dataclasses import dataclass

from spare_margin.core.least import ROUNDING

from .candidates import Candidate


@dataclass(frozen=True, slots=True)
class Ranking:
    """Ids of candidates in the order in which they are shown.

    Attributes:
        order: those that hold by their cost, then those that do not by what they leave.
        beaten: by id, another that leaves as much spare for no more money, time and copper.
        best: the least cost of those that hold; None where none does.
        next: the one that would be the best at another price of a minute, and that price.
    """

    order: tuple[str, ...]
    beaten: dict[str, str]
    best: str | None
    next: tuple[str, float] | None


def cost(candidate: Candidate, a_minute: float) -> float:
    """Parts and work, in the workshop's money: price + minutes x what a minute costs.

    Parts whose price nobody said count nothing.

    Args:
        candidate: what would be done.
        a_minute: what a minute of work costs.
    """
    return (candidate.price or 0.0) + a_minute * candidate.minutes


def ranked(candidates: Sequence[Candidate], a_minute: float) -> Ranking:
    """The candidates in order; `a_minute` is what a minute of work costs."""
    holding = [c for c in candidates if c.holds]
    failing = [c for c in candidates if not c.holds]
    holding.sort(key=lambda c: (cost(c, a_minute), -c.now.spare_v))
    failing.sort(key=lambda c: -c.now.spare_v)
    beaten: dict[str, str] = {}
    for one in holding:
        for other in holding:
            if other is not one and other.offer.id not in beaten and _beats(other, one):
                beaten[one.offer.id] = other.offer.id
                break
    best = holding[0] if holding else None
    return Ranking(
        tuple(c.offer.id for c in (*holding, *failing)), beaten,
        best.offer.id if best else None, _turns(best, holding, a_minute) if best else None,
    )  # fmt: skip


def _beats(one: Candidate, other: Candidate) -> bool:
    """Whether one leaves as much spare for no more, and something for less."""
    pairs = [
        (-one.now.spare_v, -other.now.spare_v), (one.price or 0.0, other.price or 0.0),
        (one.minutes, other.minutes), (one.copper_kg, other.copper_kg),
    ]  # fmt: skip
    return all(a <= b + ROUNDING for a, b in pairs) and any(a < b - ROUNDING for a, b in pairs)


def _turns(
    best: Candidate, holding: Sequence[Candidate], a_minute: float
) -> tuple[str, float] | None:
    """The nearest price of a minute at which another would be the best, and which."""
    found: list[tuple[float, str, float]] = []
    for other in holding:
        minutes = best.minutes - other.minutes
        money = (other.price or 0.0) - (best.price or 0.0)
        if other is best or abs(minutes) < ROUNDING:
            continue
        turning = money / minutes
        if turning > 0:
            found.append((abs(turning - a_minute), other.offer.id, turning))
    if not found:
        return None
    _, key, turning = min(found)
    return key, turning
