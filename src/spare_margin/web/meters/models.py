"""What the API says of meters that speak."""

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.live.samples import LiveQuantity, Mode
from spare_margin.core.live.steady import Hands
from spare_margin.core.model.jobs import MeterFigure
from spare_margin.core.model.meters import Connection
from spare_margin.instruments.watched import State
from spare_margin.web.common.models import Model


class MeterPath(Model):
    """A meter that was added."""

    meter: Annotated[str, Field(max_length=64)]


@dataclass(frozen=True, slots=True)
class MeterShown:
    """What a meter shows now (V, A, ohm); `says` is why it shows nothing, or what is wrong with it.

    `step` is what its last digit counts. `stands_at` is what stands still, as one would type it; `offered`
    is how it was taken where it is to be kept by itself, once.
    """

    meter: str
    number: int
    state: State
    says: str
    who: str
    value: float | None
    step: float
    quantity: LiveQuantity
    mode: Mode
    range_to: float | None
    taken_at: str
    hands: Hands
    stands_at: str
    offered: MeterFigure | None


class MetersOut(Model):
    """Every meter that was added, what each shows, the ports there are, the specifications there are."""

    meters: list[Connection]
    shown: list[MeterShown]
    ports: list[str]
    specs: list[str]


class MeterForm(Model):
    """A meter to be added, or to be tried."""

    name: Annotated[str, Field(max_length=120)] = ""
    speaks: Literal["scpi", "lines"] = "scpi"
    address: Annotated[str, Field(max_length=200)]
    spec: Annotated[str, Field(max_length=400)] = ""
    figure: Annotated[int, Field(ge=0, le=50)] = 0
    unit: Literal["V", "MV", "A", "MA", "OHM"] = "V"
    baud: Annotated[int, Field(ge=50, le=4_000_000)] = 9600


class OnSource(Model):
    """Whether a meter stays on the source's posts."""

    on: bool


class FigureChoice(Model):
    """A figure of the line that a meter sent, and the unit the line says; empty where none."""

    text: str
    unit: str


class MeterTried(Model):
    """What a meter answered when tried: who it is, what it shows in words, figures to choose from."""

    who: str
    shows: str
    figures: list[FigureChoice]


class Pressed(Model):
    """What was taken by a press, as typed and as it is kept; neither where nothing stood still."""

    typed: str
    by_meter: MeterFigure | None


class MeterAdded(Model):
    """The id of a meter that was added."""

    id: str
