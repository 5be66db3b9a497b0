"""The account of a measured run: source = feed + load + return + what is unaccounted for.

The account is of one moment: what was read then, else what the readings of that moment leave by
difference. Volts that nobody has accounted for are where the fault is, or a reading that is wrong.
"""

import math
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.outlook.outlook import figures_in
from spare_margin.core.evidence.outlook.trends import read_between
from spare_margin.core.evidence.response.responses import Row

from .judgement import DOUBT, Judgement

PARTS = ("source", "feed", "load", "return")
MOVED = 0.0015
"""A source moves by this share between the readings of one moment."""


@dataclass(frozen=True, slots=True)
class Part:
    """Volts of one part with the half-width of its doubt; `direct` where it was read across itself.

    `limit_v` is the most that its meter may be off, where it was read.
    """

    volts: float
    doubt_v: float
    direct: bool
    limit_v: float = 0.0


@dataclass(frozen=True, slots=True)
class Account:
    """The parts of a run's account by name, None where nothing joins their ends; `left_v` is unaccounted.

    `closes` is None where one part is known by difference only: then the sum proves nothing.
    """

    source: Part | None = None
    feed: Part | None = None
    load: Part | None = None
    back: Part | None = None
    left_v: float | None = None
    closes: bool | None = None

    @property
    def by_difference(self) -> tuple[str, ...]:
        """Names of the parts that were not read across themselves."""
        named = zip(PARTS, (self.source, self.feed, self.load, self.back), strict=True)
        return tuple(name for name, part in named if part is not None and not part.direct)


def account(found: Judgement) -> Account:
    """The account of the moment that a judgement is of."""
    if found.conditions is None:
        return Account()
    run: Run = found.run
    ends = (
        (run.source.live, run.source.back),
        run.ends("feed"),
        (run.feed_terminal, run.return_terminal),
        run.ends("return"),
    )
    observed, key = found.search.observed, found.conditions.key
    read = [
        [
            o
            for o in observed.values
            if o.conditions.key == key
            and o.quantity == "volts"
            and not o.beside
            and {o.red, o.black} == set(pair)
        ]
        for pair in ends
    ]
    rows: dict[tuple[str, str], Row] = {
        pair: ("volts", *pair)
        for pair, taken in zip(ends, read, strict=True)
        if not taken and read_between(observed, key, *pair)
    }
    figures = figures_in(found.search, ((found.conditions, row) for row in rows.values()))
    parts: list[Part | None] = []
    for pair, taken in zip(ends, read, strict=True):
        if taken:
            value = taken[-1].value if taken[-1].red == pair[0] else -taken[-1].value
            gain = observed.gains.get(taken[-1].meter, 0.0) * abs(value)
            limit = math.sqrt(3) * (taken[-1].sigma + gain)
            parts.append(Part(value, DOUBT * math.hypot(taken[-1].sigma, gain), True, limit))
        elif pair in rows:
            mean, sigma = figures[key, rows[pair]]
            parts.append(Part(mean, DOUBT * sigma, False))
        else:
            parts.append(None)
    source, feed, load, back = parts
    if any(part is None for part in parts):
        return Account(source, feed, load, back)
    left = sum((1 if i == 0 else -1) * part.volts for i, part in enumerate(parts) if part)
    if not all(part.direct for part in parts if part):
        return Account(source, feed, load, back, left if abs(left) > 1e-3 else 0.0)
    # Each reading may be off by all that its meter may be: two meters of one name are not the same meter.
    limits = [part.limit_v for part in parts if part]
    doubt = sum(limits) + MOVED * abs(parts[0].volts if parts[0] else 0)
    return Account(source, feed, load, back, left, abs(left) <= doubt)
