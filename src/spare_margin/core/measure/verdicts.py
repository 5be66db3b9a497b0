"""A verdict on one figure against a limit, with the half-width of its doubt."""

from typing import Literal

from spare_margin.core.least import ROUNDING

Verdict = Literal[
    "within", "within_as_ran", "over", "over_as_ran", "too_close", "high", "open", "contradiction",
    "not_loaded", "not_measured",
]  # fmt: skip
"""What is shown of a piece, a side or a run. `high`: a piece above its own allowance, ceilings kept."""


def verdict(
    drop_v: float, doubt_v: float, allowance_v: float
) -> Literal["within", "over", "too_close"]:
    """Within if drop + doubt keeps the allowance, over if drop - doubt exceeds it, else too close.

    Args:
        drop_v: what is lost (V).
        doubt_v: half of what that may be off (V).
        allowance_v: what may be lost (V).

    >>> verdict(0.11, 0.01, 0.12), verdict(0.115, 0.01, 0.12), verdict(0.1301, 0.01, 0.12)
    ('within', 'too_close', 'over')
    """
    if drop_v + doubt_v <= allowance_v + ROUNDING:
        return "within"
    if drop_v - doubt_v > allowance_v:
        return "over"
    return "too_close"
