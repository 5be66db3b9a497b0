"""Readings that say something only together: to and fro while a thing is moved, by way of a free point."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

from spare_margin.core.measure.findings import Finding, Moves
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.pieces import Craft

STIRRED_V = 0.02
"""A reading that goes to and fro by less than this (V) while a thing is moved, does so by itself."""


def stirred(live: Sequence[Reading]) -> tuple[list[Reading], frozenset[str], list[Finding]]:
    """Least and most that a meter held while a piece was moved: where they differ, the most counts.

    Returns the readings that count, the pieces that are guilty by it, and what is told.

    Args:
        live: the readings that stand.
    """
    least = {_held_over(r): r for r in live if r.moved and r.hold == "least"}
    guilty: set[str] = set()
    findings: list[Finding] = []
    gone: set[str] = set()
    for r in live:
        low = least.get(_held_over(r))
        if r.hold != "most" or low is None or r.value is None or low.value is None:
            continue
        if abs(r.value - low.value) > max(3 * (r.accuracy + low.accuracy) / 2, STIRRED_V):
            gone.add(low.id)
            guilty.add(r.moved)
            findings.append(
                Moves(readings=(low.id, r.id), piece=r.moved, least_v=low.value, most_v=r.value)
            )
    return [r for r in live if r.id not in gone], frozenset(guilty), findings


def _held_over(r: Reading) -> tuple[str, str, str, str | None, str]:
    return r.moved, r.red, r.black, r.moment, r.scenario


def joined_points(craft: Craft) -> set[str]:
    """The points that something drawn joins; the others are free.

    Args:
        craft: the wiring.
    """
    joined = {p for e in (*craft.pieces, *craft.loads) for p in (e.start, e.end)}
    return joined | {p for s in craft.sources for p in (s.live, s.back)}


def by_free_points(craft: Craft, live: Sequence[Reading]) -> list[Reading]:
    """Readings to a point that nothing drawn joins, carried on by what that point was read at.

    A ground nearby stands in for the post: what it loses itself against the post is added, with both
    doubts. A reading to a point of which nothing else was read in its moment says nothing of the wiring.

    Args:
        craft: the wiring.
        live: the readings that stand.
    """
    joined = joined_points(craft)
    out: list[Reading] = []
    for r in live:
        ends = (r.red, r.black)
        free = [p for p in ends if p not in joined]
        if not free:
            out.append(r)
        elif len(free) == 1 and r.quantity == "volts" and r.value is not None:
            out += _carried_on(r, free[0], joined, live)
    return out


def _carried_on(
    r: Reading, free: str, joined: Collection[str], live: Sequence[Reading]
) -> Iterator[Reading]:
    """A reading to a free point, put together with those that lead on from it."""
    assert r.value is not None
    here = r.value if r.black == free else -r.value
    start = r.red if r.black == free else r.black
    for other in live:
        ends = {other.red, other.black}
        far = next((p for p in ends if p != free), start)
        if other.id == r.id or free not in ends or far not in joined or far == start:
            continue
        if (other.moment, other.scenario) != (r.moment, r.scenario) or other.value is None:
            continue
        if other.quantity != "volts" or other.id < r.id:
            continue
        onward = other.value if other.red == free else -other.value
        yield replace(
            r, red=start, black=far, value=here + onward, accuracy=r.accuracy + other.accuracy
        )  # fmt: skip
