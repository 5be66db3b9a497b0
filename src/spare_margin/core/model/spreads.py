"""How far good pieces, loads and sources stand off what is drawn: the doubt before any reading."""

from collections.abc import Mapping
from dataclasses import dataclass

from .pieces import Conductor, FixedPiece, undrawn

DEFAULT_SPREAD = 0.5
"""One sigma of the logarithm for a kind that no row speaks of: within a factor of three, nearly always."""


@dataclass(frozen=True, slots=True)
class Spreads:
    """Relative spreads (one sigma) by kind, with the rows `load`, `emf`, `internal`, `copper`.

    `emf` is the source's open-circuit volts as a share of the nominal voltage; `copper` is common to
    all wires of a craft, since they share the air's temperature.
    """

    rows: Mapping[str, float]

    def of(self, kind: str) -> float:
        """The spread of a kind."""
        return self.rows.get(kind, DEFAULT_SPREAD)

    def of_piece(self, piece: Conductor | FixedPiece) -> float:
        """The spread of a piece; one whose resistance was said stands as its kind does."""
        return self.of("unknown" if undrawn(piece) else piece.kind)
