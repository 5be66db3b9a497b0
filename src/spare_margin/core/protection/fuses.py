"""Fuses and breakers: which one protects a conductor, what that bears, which fuse would fit."""

from collections.abc import Iterable, Sequence

from spare_margin.core.circuit.runs import Run
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.conductors import corrected_ampacity_a
from spare_margin.core.model.pieces import Conductor, FixedPiece, Scenario
from spare_margin.core.model.tables import Tables

CONTINUOUS_TIMES = 1.25
"""A fuse is rated this many times what flows through it for long."""
KINDS = ("fuse", "breaker")
STANDARD_A = (
    1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 60.0, 80.0, 100.0, 125.0, 150.0, 175.0,
    200.0, 250.0, 300.0,
)  # fmt: skip
"""Ratings (A) as they are sold, for a class whose table lists none of its own: breakers."""


def fuses_of(run: Run) -> list[FixedPiece]:
    """The fuses and breakers of a run's feed, from the source on."""
    steps = [s.piece for s in run.way("feed")]
    return [p for p in steps if isinstance(p, FixedPiece) and p.kind in KINDS]


def protecting(runs: Iterable[Run]) -> dict[str, FixedPiece]:
    """The fuse that protects each conductor: the last before it on its feed; for a return, its load's last.

    Where several runs lead through a conductor, the largest of theirs counts.
    """
    out: dict[str, FixedPiece] = {}

    def take(key: str, fuse: FixedPiece) -> None:
        held = out.get(key)
        if held is None or (held.rating_a or 0.0) < (fuse.rating_a or 0.0):
            out[key] = fuse

    for run in runs:
        last: FixedPiece | None = None
        for step in run.feed:
            piece = step.piece
            if isinstance(piece, FixedPiece) and piece.kind in KINDS:
                last = piece
            elif isinstance(piece, Conductor) and last is not None:
                take(piece.id, last)
        for step in run.back:
            if isinstance(step.piece, Conductor) and last is not None:
                take(step.piece.id, last)
    return out


def style_of(fuse: FixedPiece) -> str:
    """The style by which a fuse's class is looked up; one that nobody said is a blade."""
    return "breaker" if fuse.kind == "breaker" else fuse.style or "blade"


def least_ampacity_a(
    wire: Conductor, scenarios: Iterable[Scenario], tables: Tables
) -> float | None:
    """The least current (A) that a conductor bears in any of the scenarios; None where no row says.

    Args:
        wire: the conductor.
        tables: the reference tables.
    """
    borne = [corrected_ampacity_a(wire, s, tables.conductors) for s in scenarios]
    return min((each for each in borne if each is not None), default=None)


def fuse_for(
    lasting_a: float,
    running_a: float,
    starting: tuple[float, float],
    bears_a: float | None,
    tables: Tables,
    styles: Sequence[str] = ("blade", "large blade", "bolt-down"),
) -> tuple[str, float] | None:
    """The smallest fuse (style, rating A) that carries what flows and starts, and that the wire bears.

    Args:
        lasting_a: what flows for long (A); the rating is 1.25 times that.
        running_a: what flows at most (A).
        starting: the most that flows in a start (A), and how long it lasts (s).
        bears_a: what the thinnest conductor after it bears (A); None where no row says.

    None where no fuse of these styles does all of that.

    >>> from spare_margin.data.tables import shipped_tables
    >>> fuse_for(7.0, 7.0, (7.0, 0.0), 20.0, shipped_tables())  # 1.25 x 7 A
    ('blade', 10.0)
    >>> fuse_for(12.00000000000001, 12.0, (12.0, 0.0), None, shipped_tables())  # as it is solved
    ('blade', 15.0)
    >>> fuse_for(7.0, 7.0, (7.0, 0.0), 8.0, shipped_tables()) is None  # more than its wire bears
    True
    """
    for style in styles:
        speed = tables.fuse_classes.get(style)
        ratings = sorted(rating for s, rating in tables.fixed.fuses if s == style)
        for rating in ratings or STANDARD_A:
            # A current that was solved may stand above the rating's own by a last digit.
            if rating < max(CONTINUOUS_TIMES * lasting_a, running_a) - ROUNDING:
                continue
            if speed and speed.carries_s(starting[0] / rating) < starting[1]:
                continue
            if bears_a is None or rating <= bears_a:
                return style, rating
            break
    return None
