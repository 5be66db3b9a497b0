"""The reference tables that the computation rests on, handed in as one value."""

from dataclasses import dataclass

from .conductors import ConductorTable
from .fixed_pieces import FixedTable
from .limits import LimitSet
from .meters import Meter


@dataclass(frozen=True, slots=True)
class Tables:
    """The shelves: conductors, fixed pieces, the limit sets by id, the meters by name."""

    conductors: ConductorTable
    fixed: FixedTable
    limit_sets: dict[str, LimitSet]
    meters: dict[str, Meter]
