"""What a hand-over sheet holds, before it is drawn."""

from dataclasses import dataclass
from datetime import date
from typing import Literal

from spare_margin.wording.measured.cautions import Caution
from spare_margin.wording.repair.proof_lines import ProofSheet

Paper = Literal["a4", "letter"]


@dataclass(frozen=True, slots=True)
class OnSheet:
    """A photograph on the sheet: its picture as JPEG, and what is written under it."""

    picture: bytes
    note: str


@dataclass(frozen=True, slots=True)
class BesideEachOther:
    """Photographs of one thing, before and after, in the order they were taken."""

    shows: str
    before: tuple[OnSheet, ...]
    after: tuple[OnSheet, ...]


@dataclass(frozen=True, slots=True)
class HandOver:
    """Everything the sheet holds, in words.

    Attributes:
        pieces: what every piece of the run is, by id.
        parts: what was fitted, a line each.
        made: the day it is written.
    """

    workshop: str
    title: str
    craft: str
    customer: str
    complaint: str
    limits: str
    proof: ProofSheet
    pieces: dict[str, str]
    parts: tuple[str, ...]
    cautions: tuple[Caution, ...]
    made: date
    paper: Paper = "a4"
    photographs: tuple[BesideEachOther, ...] = ()
