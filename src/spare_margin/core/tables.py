"""The reference tables that the computation rests on, handed in as one value."""

from dataclasses import dataclass

from .conductors import ConductorTable
from .fixed_pieces import FixedTable
from .limits import LimitSet
from .meters import Meter
from .odds import Odds


@dataclass(frozen=True, slots=True, eq=False)
class Tables:
    """The shelves: conductors, fixed pieces, limit sets by id, meters by name, odds of failure."""

    conductors: ConductorTable
    fixed: FixedTable
    limit_sets: dict[str, LimitSet]
    meters: dict[str, Meter]
    odds: Odds
