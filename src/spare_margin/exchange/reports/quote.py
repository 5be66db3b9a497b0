"""What a quote holds, before it is drawn."""

from dataclasses import dataclass
from datetime import date

from spare_margin.wording.measured.cautions import Caution
from spare_margin.wording.repair.lists import BuyRow, WireRow

from .sheet import Paper


@dataclass(frozen=True, slots=True)
class Quote:
    """Everything a quote holds, in words.

    Attributes:
        done: what will be done, a line a run.
        unpriced: how many things have no price.
        cost: what the work costs, and parts and work together; empty where nobody said.
        prices_of: of when the prices are.
        open: that some of it is still to be sized; empty else.
        typical: what is typical, and must be checked.
        made: the day it is written.
    """

    workshop: str
    title: str
    craft: str
    customer: str
    limits: str
    done: tuple[str, ...]
    buying: tuple[BuyRow, ...]
    wires: tuple[WireRow, ...]
    together: str
    unpriced: int
    prices_of: str
    work: str
    cost: str
    open: str
    typical: tuple[str, ...]
    cautions: tuple[Caution, ...]
    made: date
    paper: Paper = "a4"
