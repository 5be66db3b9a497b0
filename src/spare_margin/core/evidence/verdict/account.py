"""The account of a measured run: source = feed + load + return + what is unaccounted for.

The account is of the moment that counts: each part as it was read there, else as the readings bound it.
"""

import math
from dataclasses import dataclass

from spare_margin.core.bounds.held import Judged

from .judgement import SHOWN_SHARE, Judgement

PARTS = ("source", "feed", "load", "return")


@dataclass(frozen=True, slots=True)
class AccountPart:
    """Volts of one part with the half-width of its doubt; `direct` where it was read across itself."""

    volts: float
    doubt_v: float
    direct: bool


@dataclass(frozen=True, slots=True)
class Account:
    """The parts of a run's account by name, None where nothing bounds them well; `left_v` is unaccounted.

    `closes` is None where one part was not read across itself: then the sum proves nothing.
    """

    source: AccountPart | None = None
    feed: AccountPart | None = None
    load: AccountPart | None = None
    back: AccountPart | None = None
    left_v: float | None = None
    closes: bool | None = None

    @property
    def by_difference(self) -> tuple[str, ...]:
        """Names of the parts that were not read across themselves."""
        named = zip(PARTS, (self.source, self.feed, self.load, self.back), strict=True)
        return tuple(name for name, part in named if part is not None and not part.direct)


def account(found: Judgement) -> Account:
    """The account of the moment that a judgement is of.

    Args:
        found: what the readings say of the run.
    """
    judged = found.concluded.judged
    if judged is None:
        return Account()
    run = found.run
    ends = (
        (run.source.live, run.source.back),
        run.ends("feed"),
        (run.feed_terminal, run.return_terminal),
        run.ends("return"),
    )
    source, feed, load, back = (_part(judged, *pair) for pair in ends)
    if source is None or feed is None or load is None or back is None:
        return Account(source, feed, load, back)
    left = source.volts - feed.volts - load.volts - back.volts
    if not all(part.direct for part in (source, feed, load, back)):
        return Account(source, feed, load, back, left if abs(left) > 1e-3 else 0.0)
    return Account(source, feed, load, back, left, not judged.moment.contradiction)


def _part(judged: Judged, red: str, black: str) -> AccountPart | None:
    """What was read there, as it was shown; else what the bounds leave, where that is a figure."""
    own = [o for o in judged.moment.volts if {o.red, o.black} == {red, black} and not o.beside]
    if own:
        last = own[-1]
        return AccountPart(last.value if last.red == red else -last.value, last.limit, True)
    if judged.moment.contradiction:
        return None
    low, high = judged.bounds.least_v(red, black), judged.bounds.most_v(red, black)
    volts, half = (low + high) / 2, (high - low) / 2
    known = math.isfinite(half) and half <= SHOWN_SHARE * abs(volts)
    return AccountPart(volts, half, _in_parts(judged, red, black)) if known else None


def _in_parts(judged: Judged, red: str, black: str) -> bool:
    """Whether a side that holds something fitted to take volts was read section by section."""
    run = judged.moment.run
    whole = run.between(red, black)
    return whole is not None and all(
        judged.moment.read_across(s.start, s.end) for s in run.sections(whole.side)
    )
