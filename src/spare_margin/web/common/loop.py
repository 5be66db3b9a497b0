"""A loop for a small picture."""

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.pieces import PieceKind

from .models import Model, Point


class LoopPiece(Model):
    """A piece of the loop in a small picture: its ends, what was read of it, how far it is suspected."""

    id: str
    name: str
    kind: PieceKind
    entry: str
    exit: str
    undrawn: bool
    open: bool
    verdict: Verdict
    suspicion: float


class LoopOut(Model):
    """The loop in the current's order; `others` are points of the craft that are not on it."""

    load: str
    source: str
    feed: list[LoopPiece]
    back: list[LoopPiece]
    others: list[Point]
