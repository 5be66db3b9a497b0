"""What the API gives of the lists of a craft."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.model.jobs import Stage
from spare_margin.web.common.models import Model


class ListsQuery(Model):
    """Which stage, which runs (all where none is named), and whether as if nothing lay there.

    Without `whole`, a craft of which nothing was measured is listed whole.
    """

    stage: Stage | None = None
    run: Annotated[list[str], Field(max_length=300)] = Field(default_factory=list)
    whole: bool | None = None


class WireRowOut(Model):
    """One wire of the wire list."""

    number: int
    wire: str
    start: str
    end: str
    size: str
    colour: str
    cut: str
    cable: str
    start_terminal: str
    end_terminal: str
    fed_by: str
    loads: str
    label: str
    state: Literal["new", "changed", "stays"]


class BuyRowOut(Model):
    """One thing of the buying list."""

    group: str
    what: str
    amount: str
    each: str
    price: str


class RunName(Model):
    """A run that may be listed by itself."""

    id: str
    name: str


class ListsOut(Model):
    """The lists of a craft; `to_size` says that some of it is still to be sized."""

    job: str
    title: str
    stage: Stage
    stages: list[Stage]
    whole: bool
    can_compare: bool
    runs: list[RunName]
    wires: list[WireRowOut]
    buying: list[BuyRowOut]
    together: str
    unpriced: int
    prices_of: str
    work: str
    cost: str
    to_size: str
