"""Checks on single readings, before any verdict: may it be believed, and what does it say by itself?"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from .budget import PieceBudget, RunBudget
from .jobs import Reading
from .pieces import called

TOP_SHARE = 1.35
"""No battery or charger holds more than this share of the nominal voltage on its posts."""
MILLIVOLTS_FROM = 15.0
"""A number this large on a drop was likely read in millivolts."""
SOURCE_MOVED_V = 0.2
"""A source that moved by more since its last reading must be read again (V at 12 V nominal)."""
WATCH_K, ACT_K = 10.0, 25.0
"""Surface temperature above the cable beside it (K) to watch, and to act on."""

Check = Literal[
    "not_loaded",
    "not_proven",
    "swapped",
    "reversed",
    "impossible",
    "no_sum",
    "unaccounted",
    "coarse",
    "scaled",
    "no_number",
    "changed",
    "hot",
    "source_moved",
    "warm",
    "held",
]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing a check has to say: about a reading (or the whole), in plain words, and what to do."""

    check: Check
    says: str
    do: str
    readings: tuple[str, ...] = ()
    piece: str | None = None


def pieces_of(budget: RunBudget) -> list[PieceBudget]:
    """Every piece of a run, feed first."""
    return [p for side in budget.sides for p in side.pieces]


def ends_of(piece: PieceBudget) -> tuple[str, str]:
    """A piece's two points in the current's order."""
    return piece.step.entry, piece.step.exit


def usable(
    live: Sequence[Reading],
    budget: RunBudget,
    nominal_v: float,
    stale: frozenset[str],
    findings: list[Finding],
) -> Iterable[Reading]:
    """The readings a verdict may rest on, with swapped leads turned round; says why not the rest."""
    run = budget.run
    posts = (run.source.live, run.source.back)
    forward = _directions(budget)
    on_posts = [r.value for r in live if (r.red, r.black) == posts and r.value is not None]
    source_v = max([abs(v) for v in on_posts], default=budget.source_v)
    reversed_source = any(v < 0 for v in on_posts)
    for r in live:
        if r.id in stale:
            findings.append(
                Finding(
                    "changed", "Taken before this piece was changed.", "Read it again.", (r.id,)
                )
            )
        elif r.value is None:
            if (r.red, r.black) in forward or (r.black, r.red) in forward:
                findings.append(_no_number(r))
        elif r.quantity == "amperes":
            yield r
        elif (most := _impossible(r, posts, source_v, nominal_v)) is not None:
            milli = abs(r.value) >= MILLIVOLTS_FROM and abs(r.value) / 1000 < most
            hint = f"If the meter showed millivolts, type {abs(r.value):g}m. " if milli else ""
            findings.append(
                Finding(
                    "impossible",
                    f"{abs(r.value):.3g} V is more than the source can give ({most:.2f} V).",
                    f"{hint}Check the range and where the other lead stands, then read it again.",
                    (r.id,),
                )
            )
        elif reversed_source:
            if (r.red, r.black) == posts:
                findings.append(
                    Finding(
                        "reversed",
                        "The source itself reads negative: battery or leads reversed.",
                        "Check the polarity at the posts before anything else.",
                        (r.id,),
                    )
                )
        elif (r.red, r.black) in forward and r.value < -r.accuracy:
            findings.append(
                Finding(
                    "swapped",
                    f"Read as {r.value:.3g} V: the leads were the other way round.",
                    "Kept; the sign is turned. Red goes nearer the live post.",
                    (r.id,),
                )
            )
            yield replace(r, value=-r.value)
        else:
            yield _at_source(r, budget, source_v)


def _at_source(r: Reading, budget: RunBudget, source_v: float) -> Reading:
    """A reading against a parked lead, brought to the source of this pass: it sags between readings.

    Only where the span holds the load's volts: there the whole reading goes with the source.
    """
    if r.source_v is None or r.value is None or r.source_v <= 0:
        return r
    posts = {budget.run.source.live, budget.run.source.back}
    parked = len({r.red, r.black} & posts) == 1
    if not parked or abs(r.value) < r.source_v / 2:
        return r
    return replace(r, value=r.value * source_v / r.source_v)


def held(live: Iterable[Reading]) -> Iterable[Finding]:
    """A least or most that a meter held is of one moment, as a motor's start: it stands by itself."""
    for r in live:
        if r.hold and r.value is not None:
            unit = {"volts": "V", "amperes": "A", "kelvin": "K"}[r.quantity]
            yield Finding(
                "held",
                f"{r.value:.3g} {unit} was the {r.hold} that the meter held.",
                "Kept by itself: the account is of what stands steadily.",
                (r.id,),
            )


def warm(r: Reading, budget: RunBudget) -> Iterable[Finding]:
    """What a surface says that is warmer than the cable beside it."""
    assert r.value is not None
    if r.value < WATCH_K:
        return
    ends = {r.red, r.black}
    piece = next((p.step.piece for p in pieces_of(budget) if set(ends_of(p)) == ends), None)
    name = called(piece) if piece else "It"
    act = r.value >= ACT_K
    yield Finding(
        "hot" if act else "warm",
        f"{name} is {r.value:.0f} K warmer than the cable beside it.",
        "Do not touch; switch off: a fire hazard until remade."
        if act
        else "Watch it: read its drop, and its temperature again after ten minutes.",
        (r.id,),
        piece.id if piece else None,
    )


def _impossible(
    r: Reading, posts: tuple[str, str], source_v: float, nominal_v: float
) -> float | None:
    """The most (V) that could be read there, where this reading is beyond it."""
    assert r.value is not None
    most = TOP_SHARE * nominal_v if {r.red, r.black} == set(posts) else source_v
    doubt = 0.0 if most != source_v else r.accuracy + 0.02 * nominal_v
    return most if abs(r.value) > most + doubt else None


def _directions(budget: RunBudget) -> set[tuple[str, str]]:
    """Every pair of points whose drop is positive when current flows the right way."""
    run = budget.run
    spans = {ends_of(p) for p in pieces_of(budget)}
    spans |= {run.ends("feed"), run.ends("return"), (run.feed_terminal, run.return_terminal)}
    return spans | {(run.source.live, run.source.back)}


def _no_number(r: Reading) -> Finding:
    if r.state == "over_range":
        return Finding(
            "no_number", "Over range.", "Take a higher range and read it again.", (r.id,)
        )
    if r.state == "wandering":
        return Finding(
            "no_number",
            "Wandering: a lead is on something that is connected to nothing.",
            "Check that both leads touch; if they do, something between is open.",
            (r.id,),
        )
    return Finding("no_number", "Not reached.", "A span across it tells as much.", (r.id,))


def source_moved(
    live: Sequence[Reading], budget: RunBudget, nominal_v: float, findings: list[Finding]
) -> None:
    """The source read along with a reading against the last reading of the source itself."""
    posts = {budget.run.source.live, budget.run.source.back}
    last: float | None = None
    for r in live:
        if r.quantity != "volts" or r.value is None:
            continue
        now = abs(r.value) if {r.red, r.black} == posts else r.source_v
        if now is None:
            continue
        if last is not None and abs(now - last) > SOURCE_MOVED_V * nominal_v / 12:
            findings.append(
                Finding(
                    "source_moved",
                    f"The source moved from {last:.2f} V to {now:.2f} V since it was last read.",
                    "Re-read the source; readings against it count at their own source volts.",
                    (r.id,),
                )
            )
        last = now
