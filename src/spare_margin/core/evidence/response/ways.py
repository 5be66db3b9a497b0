"""Which points still hang together when something is open."""

from collections.abc import Collection

from spare_margin.core.circuit.joined import joined
from spare_margin.core.model.pieces import Craft, Scenario


def cut_apart(
    craft: Craft, scenario: Scenario, opened: Collection[str], red: str, black: str
) -> bool:
    """Whether two points have no way between them, through pieces, loads that are on and sources.

    `opened` are ids of pieces and loads that are open beside those that are open on purpose.

    Args:
        craft: the wiring.
        scenario: the state of the craft that is asked about.
        red: the id of the point that the red lead is on.
        black: the id of the point that the black lead is on.
    """
    ways = [
        (piece.start, piece.end)
        for piece in craft.pieces
        if not scenario.is_open(piece) and piece.id not in opened
    ]
    ways += [
        (load.start, load.end)
        for load in craft.loads
        if load.id in scenario.on and load.id not in opened
    ]
    ways += [(source.live, source.back) for source in craft.sources]
    return not joined(ways, red, black)
