"""What two readings at the load say at a glance: both of its terminals against the return post.

The table is the trade's: each row holds for a run that is switched on.
"""

from typing import Literal

from spare_margin.core.model.limits import Ceilings

TerminalPattern = Literal[
    "wiring_good", "feed_excess", "return_excess", "both_sides", "return_open", "feed_open"
]
NEAR_SHARE = 0.04
"""Within this share of the source's volts, a terminal stands at the source, or at nothing."""


def terminal_pattern(
    source: float,
    feed: float,
    returned: float,
    ceilings: Ceilings,
    on_purpose: tuple[float, float] = (0.0, 0.0),
) -> TerminalPattern | None:
    """The pattern of a run by volts against the return post.

    Args:
        source: the live post (V).
        feed: the load's feed terminal (V).
        returned: its return terminal (V).
        ceilings: what either side may lose (V).
        on_purpose: what resistors fitted on purpose drop on the feed and the return (V).

    >>> terminal_pattern(12.6, 12.5, 12.5, Ceilings(0.5, 0.25))
    'return_open'
    """
    if source <= 0:
        return None
    near = NEAR_SHARE * source
    if feed >= source - near and returned >= source - near:
        return "return_open"
    if abs(feed) <= near and abs(returned) <= near:
        return "feed_open"
    feed_limit = ceilings.round_trip_v if ceilings.feed_v is None else ceilings.feed_v
    return_limit = ceilings.round_trip_v if ceilings.return_v is None else ceilings.return_v
    if feed_limit is None or return_limit is None:
        return None
    over_feed = source - feed - on_purpose[0] > feed_limit
    over_return = returned - on_purpose[1] > return_limit
    if over_feed and over_return:
        return "both_sides"
    if over_feed:
        return "feed_excess"
    return "return_excess" if over_return else "wiring_good"
