"""A stretch split where a lead can touch it: the drawing grows from the measuring."""

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal

from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import JobError
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import (
    Access,
    AnyPiece,
    Conductor,
    Craft,
    FixedKind,
    FixedPiece,
    TestPoint,
)

from .ids import PREFIXES, NewIds

Place = Literal["point", "fuse", "breaker", "switch", "relay", "plug", "splice", "ring"]
_PIECES: dict[Place, tuple[FixedKind, str | None]] = {
    "fuse": ("fuse", None), "breaker": ("breaker", None), "switch": ("switch", None),
    "relay": ("relay_contact", None), "plug": ("joint", "pin"),
    "splice": ("joint", "splice"), "ring": ("joint", "ring on stud"),
}  # fmt: skip
"""What stands at a place that has two sides a lead can touch; a point has but one."""


def split(
    craft: Craft,
    run: Run,
    piece_id: str,
    place: Place,
    names: tuple[str, str],
    access: Access = "open",
    also: Iterable[str] = (),
) -> tuple[Craft, tuple[str, ...]]:
    """The craft with a stretch split at a place, and the new test points in the current's order.

    A place with a piece in it (a fuse, a plug) gives two points, before and behind it, with an unknown
    stretch on either side; a point of one's own gives one. Every point that was there stays, so that
    readings keep theirs.

    Args:
        names: what the points are called; the second is not used where there is but one.
        also: ids that are taken in other wirings of the job.
        piece_id: the id of the piece.
        access: how the new test point is reached.

    Raises:
        JobError: the piece is none of the run, or is drawn already and so cannot be split.
    """
    step = next((s for s in run.steps() if s.piece.id == piece_id), None)
    if step is None:
        raise JobError("piece", f"there is no {piece_id} on this run", "a piece of the run")
    if step.piece.kind not in ("unknown", "conductor"):
        what = called(step.piece)
        raise JobError("piece", f"{what} is one piece", "an unknown stretch, or a wire")
    ids = NewIds(craft, also)
    found = _PIECES.get(place)
    points = [
        TestPoint(id=ids.next("p"), name=n, access=access) for n in names[: 2 if found else 1]
    ]
    between: list[AnyPiece] = []
    if found is not None:
        kind, style = found
        key = ids.next(PREFIXES[kind])
        between = [
            FixedPiece(id=key, start="", end="", side=step.piece.side, kind=kind, style=style)
        ]
    first = replace(step.piece, resistance_ohm=None, pinned_v=None)
    last = replace(first, id=ids.next(PREFIXES[first.kind]), name="")
    if isinstance(first, Conductor) and isinstance(last, Conductor):
        # How long each part is, nobody has said.
        first, last = replace(first, length_m=0.0), replace(last, length_m=0.0)
    corners = [step.entry, *(p.id for p in points), step.exit]
    row = [first, *between, last]
    laid = tuple(replace(each, start=corners[i], end=corners[i + 1]) for i, each in enumerate(row))
    at = craft.pieces.index(step.piece)
    pieces = (*craft.pieces[:at], *laid, *craft.pieces[at + 1 :])
    made = replace(craft, pieces=pieces, points=(*craft.points, *points))
    return made, tuple(p.id for p in points)
