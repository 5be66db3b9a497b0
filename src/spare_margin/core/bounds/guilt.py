"""What of a run that is over must hold the excess: pieces, or else the smallest span."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from spare_margin.core.least import ROUNDING
from spare_margin.core.model.pieces import SIDES, Side, undrawn

from .conclusion import Found, Together
from .held import PARTS, Judged, range_of
from .moment import ReadStretch

AS_DRAWN_TIMES = 1.3
"""A piece that has no more than this many times the ohms that are drawn is as drawn."""


@dataclass(frozen=True, slots=True)
class Guilt:
    """Which pieces are at fault, and between which points lies what they do not explain (None: nothing)."""

    found: tuple[Found, ...]
    rest: tuple[str, str] | None


def guilt(judged: Judged, reached: Callable[[str, str], bool]) -> Guilt:
    """What of a run that is over must hold the excess.

    A piece that is as it is drawn is none of it, where the drawing keeps the limits: what is searched for
    lies elsewhere. It is accused only where nothing else is left that could hold the excess.

    Args:
        judged: one moment with what it says of the run.
        reached: whether a reading across a piece can be taken at all.
    """
    every = sorted(_too_much(judged, reached), key=lambda f: f[0], reverse=True)
    worse = [f for f in every if not _is_as_drawn(judged, f[2].piece, f[1])]
    found, mended = _relieving(judged, worse)
    if found and not _still_over(judged, mended):
        return Guilt(tuple(found), None)
    settled = {
        piece: high.volts
        for piece, (_, high, stretch) in judged.pieces.items()
        if any(f.piece == piece for f in found)
        or (
            len(stretch.steps) == 1
            and judged.moment.read_across(stretch.entry, stretch.exit)
            and _is_as_drawn(judged, piece, high.volts)
        )
    }
    rest = _between(judged, settled)
    if rest is not None:
        return Guilt(tuple(found), rest)
    found, _ = _relieving(judged, every)
    return Guilt(tuple(found), None if found else _between(judged, {}))


def _is_as_drawn(judged: Judged, piece: str, most: float) -> bool:
    """Whether a piece surely has no more than it is drawn with, by its usual spread; the drawing holds."""
    budget = judged.limits.allowed(judged.worst)
    each = {p.step.piece.id: p for s in budget.sides for p in s.pieces}
    held = each.get(piece)
    if held is None or undrawn(held.step.piece) or budget.spare_v < 0:
        return False
    return most <= AS_DRAWN_TIMES * abs(held.drop_v)


def _relieving(
    judged: Judged, worse: Iterable[tuple[float, float, Found]]
) -> tuple[list[Found], Mapping[Side | Together, float]]:
    """Pieces that lose more than they may, in a part that is over, read across themselves.

    The worst first; each leaves the search, which goes on only while what is left must be over still.
    Where a piece cannot be read across, what is left of a bounded span will do. Beside them: by how much
    mending them relieves each part at most (V).
    """
    out: list[Found] = []
    mended: dict[Side | Together, float] = dict.fromkeys(PARTS, 0.0)
    for _, most, each in worse:
        parts: list[Side | Together] = [each.side, "together"]
        if any(_over_without(judged, part, mended[part]) for part in parts):
            out.append(each)
            for part in parts:
                mended[part] += most - (each.allowed_v or 0.0)
    return out, mended


def _still_over(judged: Judged, mended: Mapping[Side | Together, float]) -> bool:
    return any(_over_without(judged, part, mended[part]) for part in PARTS)


def _over_without(judged: Judged, part: Side | Together, volts: float) -> bool:
    """Whether a part must be over still with so much of it mended."""
    held = judged.parts[part]
    if held.limit_v is None or held.verdict not in ("over", "over_as_ran"):
        return False
    least = max(held.loaded.low or 0.0, held.ran.low or 0.0)
    return least - volts > held.limit_v


def _too_much(
    judged: Judged, reached: Callable[[str, str], bool]
) -> Iterator[tuple[float, float, Found]]:
    """Pieces that surely lose more than they may: by how much at least, their most, what they are."""
    for piece, (low, high, stretch) in judged.pieces.items():
        if len(stretch.steps) > 1 or stretch.purpose or not _side_over(judged, stretch.side):
            continue
        read = judged.moment.read_across(stretch.entry, stretch.exit)
        allowed = judged.allowances.get(piece, 0.0)
        if low.volts > allowed and (read or not reached(stretch.entry, stretch.exit)):
            found = Found(
                piece, "excess_resistance", stretch.side, range_of(low, high), allowed,
                judged.ohms(stretch.entry, stretch.exit, [stretch]), tuple(sorted(low.readings)),
            )  # fmt: skip
            yield low.volts - allowed, high.volts, found


def _side_over(judged: Judged, side: Side) -> bool:
    return any(judged.parts[part].verdict in ("over", "over_as_ran") for part in (side, "together"))


def _between(judged: Judged, settled: Mapping[str, float]) -> tuple[str, str] | None:
    """The smallest span that must hold the excess: its least is above what its pieces may lose.

    Where that can be said, it lies within what is between things that are fitted to take volts. `settled`
    are the pieces of which it is known what they lose at most (V): they are searched no more.
    """
    sides = [judged.moment.sides[side] for side in SIDES if _side_over(judged, side)]
    apart = [
        list(group)
        for stretches in sides
        for purpose, group in groupby(stretches, key=lambda s: s.purpose)
        if not purpose
    ]
    whole = [[s for s in stretches if not s.purpose] for stretches in sides]
    best = _smallest(judged, apart, settled) or _smallest(judged, whole, settled)
    if best is None and not settled and judged.parts["together"].verdict in ("over", "over_as_ran"):
        run = judged.moment.run
        return run.source.live, run.source.back
    return best


def _smallest(
    judged: Judged, rows: Iterable[Sequence[ReadStretch]], settled: Mapping[str, float]
) -> tuple[str, str] | None:
    """Of stretches in rows, the fewest pieces in one of them that must hold too much; its ends."""
    allowed = {**judged.allowances, **settled}
    best: tuple[int, float, tuple[str, str]] | None = None
    for stretches in rows:
        for i in range(len(stretches)):
            for j in range(i, len(stretches)):
                inside = stretches[i : j + 1]
                pieces = [p for s in inside for p in s.pieces]
                if best is not None and len(pieces) > best[0]:
                    break
                low, _ = judged.span(inside)
                excess = low.volts - sum(allowed.get(p, 0.0) for p in pieces)
                found = (len(pieces), -excess, (inside[0].entry, inside[-1].exit))
                if excess > ROUNDING and (best is None or found < best):
                    best = found
    return None if best is None else best[2]
