"""The resistance of any piece as the tables have it, before it warms."""

from spare_margin.core.errors import JobError
from spare_margin.core.model.conductors import cold_ohm
from spare_margin.core.model.fixed_pieces import UNKNOWN_OHM, expected
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Size, undrawn
from spare_margin.core.model.tables import Tables


class TableOhms:
    """Ohms at 20 C by the tables; each row is looked up once for all pieces of one sort."""

    def __init__(self, tables: Tables) -> None:
        self.tables = tables
        self._sizes: dict[Size, float] = {}

    def of(self, piece: Conductor | FixedPiece) -> float:
        """Ohms of a piece without a resistance of its own. JobError where nothing gives one."""
        if undrawn(piece):
            return UNKNOWN_OHM
        try:
            if isinstance(piece, FixedPiece):
                return expected(piece, self.tables.fixed).good_ohm
            if piece.ohm_per_m is not None or piece.size is None:
                return cold_ohm(piece, self.tables.conductors)
            per_m = self._sizes.get(piece.size)
            if per_m is None:
                per_m = self._sizes[piece.size] = self.tables.conductors.rows[piece.size].ohm_per_m
            return per_m * piece.length_m
        except KeyError as missing:
            raise JobError(f"elements.{piece.id}", f"has no resistance: {missing}") from None


def closed_ohms(craft: Craft, tables: Tables) -> dict[str, float]:
    """Ohms at 20 C of every piece, by id, contacts closed: tells main ways from ways beside.

    Args:
        craft: the wiring.
        tables: the reference tables.
    """
    of_table = TableOhms(tables)
    return {
        p.id: of_table.of(p) if p.resistance_ohm is None else p.resistance_ohm for p in craft.pieces
    }
