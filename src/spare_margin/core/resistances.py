"""The resistance of any piece as the tables have it, before it warms."""

from .conductors import cold_ohm
from .errors import JobError
from .fixed_pieces import expected
from .pieces import Conductor, Craft, FixedPiece
from .tables import Tables


def table_ohm(piece: Conductor | FixedPiece, tables: Tables) -> float:
    """Ohms at 20 C of a piece without a resistance of its own. JobError where nothing gives one."""
    try:
        if isinstance(piece, Conductor):
            return cold_ohm(piece, tables.conductors)
        return expected(piece, tables.fixed).good_ohm
    except KeyError as missing:
        raise JobError(f"elements.{piece.id}", f"has no resistance: {missing}") from None


def closed_ohms(craft: Craft, tables: Tables) -> dict[str, float]:
    """Ohms at 20 C of every piece, by id, contacts closed: tells main ways from ways beside."""
    return {
        p.id: table_ohm(p, tables) if p.resistance_ohm is None else p.resistance_ohm
        for p in craft.pieces
    }
