"""What two readings at the load say at a glance: both of its terminals against the return post.

The table is the trade's: each row holds for a run that is switched on.
"""

from dataclasses import dataclass
from typing import Literal

from .budget import RunBudget
from .readings import Evidence

PatternName = Literal[
    "wiring_good", "feed_excess", "return_excess", "both_sides", "return_open", "feed_open"
]
NEAR_SHARE = 0.04
"""Within this share of the source's volts, a terminal stands at the source, or at nothing."""
SAYS: dict[PatternName, tuple[str, str]] = {
    "wiring_good": (
        "The wiring is good at this current.", "Suspect the load, or what commands it.",
    ),
    "feed_excess": ("Excess resistance in the feed.", "Read the pieces of the feed."),
    "return_excess": ("Excess resistance in the return.", "Read the pieces of the return."),
    "both_sides": (
        "Both sides are out of budget, or a piece they share with others is.",
        "Look at shared pieces and the source first, then at each side.",
    ),
    "return_open": ("The return is open.", "Find the first point on the return that is not at the source."),
    "feed_open": (
        "The feed is open: fuse, breaker, switch or wire \u2014 or it is not switched on.",
        "A blown fuse: look for a short to the return below it before replacing it.",
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Pattern:
    """A named pattern and the ids of the readings it rests on."""

    name: PatternName
    says: str
    do: str
    readings: tuple[str, ...]


def pattern(budget: RunBudget, evidence: Evidence) -> Pattern | None:
    """The pattern of this run as soon as source and both terminals of the load are known."""
    run = budget.run
    back = run.source.back
    source = evidence.drop(run.source.live, back)
    feed = evidence.drop(run.feed_terminal, back)
    returned = evidence.drop(run.return_terminal, back)
    if source is None or feed is None or returned is None or source.volts <= 0:
        return None
    name = _name(budget, source.volts, feed.volts, returned.volts)
    if name is None:
        return None
    ids = tuple(dict.fromkeys(i for m in (source, feed, returned) for i in m.rests_on))
    return Pattern(name, *SAYS[name], ids)


def _name(budget: RunBudget, source: float, feed: float, returned: float) -> PatternName | None:
    near = NEAR_SHARE * source
    lost = source - feed - budget.feed.purpose_v
    feed_limit = _limit(budget.feed.ceiling_v, budget)
    return_limit = _limit(budget.back.ceiling_v, budget)
    raised = returned - budget.back.purpose_v
    if feed >= source - near and returned >= source - near:
        return "return_open"
    if abs(feed) <= near and abs(returned) <= near:
        return "feed_open"
    if feed_limit is None or return_limit is None:
        return None
    over_feed, over_return = lost > feed_limit, raised > return_limit
    if over_feed and over_return:
        return "both_sides"
    if over_feed:
        return "feed_excess"
    return "return_excess" if over_return else "wiring_good"


def _limit(ceiling: float | None, budget: RunBudget) -> float | None:
    """The side's own ceiling, else what a round-trip ceiling leaves either side."""
    return budget.ceilings.round_trip_v if ceiling is None else ceiling
