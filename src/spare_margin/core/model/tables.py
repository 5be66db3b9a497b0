"""The reference tables that the computation rests on, handed in as one value."""

from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.model.conductors import ConductorTable
from spare_margin.core.model.fixed_pieces import FixedTable
from spare_margin.core.model.fuse_classes import FuseClass
from spare_margin.core.model.limits import LimitSet
from spare_margin.core.model.meters import Meter
from spare_margin.core.model.odds import Odds
from spare_margin.core.model.spreads import Spreads
from spare_margin.core.model.stock import Stock


@dataclass(frozen=True, slots=True, eq=False)
class Tables:
    """The tables: conductors, fixed pieces, limit sets by id, meters by name, odds of failure,
    spreads, what is in stock, how fast fuses open by their style."""

    conductors: ConductorTable
    fixed: FixedTable
    limit_sets: dict[str, LimitSet]
    meters: dict[str, Meter]
    odds: Odds
    spreads: Spreads
    stock: Stock
    fuse_classes: Mapping[str, FuseClass]
