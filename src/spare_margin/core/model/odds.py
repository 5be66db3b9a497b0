"""How often each kind of thing fails: where cornering starts from."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Odds:
    """How often each kind of thing fails, as weights: (kind, style) -> (excess, open).

    An empty style stands for every style that has no row of its own; the kinds `load`, `source` and
    `none` stand with them.
    """

    rows: Mapping[tuple[str, str], tuple[float, float]]

    def of(self, kind: str, style: str = "") -> tuple[float, float]:
        """The weights of (excess or fault, open).

        Args:
            kind: what kind of element.
            style: its style; empty for any.
        """
        return self.rows.get((kind, style)) or self.rows.get((kind, "")) or (1.0, 1.0)
