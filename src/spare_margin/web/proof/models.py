"""What the API gives of the proof of a repair, and takes to sign it."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from spare_margin.core.model.jobs import Share, SignedBy, SignOff
from spare_margin.core.model.values import DeviceId
from spare_margin.web.common.models import Answer, Model, Point
from spare_margin.wording.repair.proof_lines import ProofSheet


class ProofQuery(Model):
    """Which run; by default the one most was read at."""

    run: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofOfJob(ProofSheet):
    """A proof with the job it is of, and the runs that job has."""

    job: str
    title: str
    customer: str
    craft_name: str
    runs: tuple[Point, ...]


class ProofOut(Answer[ProofOfJob]):
    """The proof of a run as far as it was read."""


class SignedOut(Answer[SignOff]):
    """A signature under a proof."""


Stroke = Annotated[list[tuple[Share, Share]], Field(max_length=2000)]


class Sign(Model):
    """A signature under the proof that is on screen; the device makes the id."""

    id: DeviceId
    run: str
    revision: str
    role: SignedBy
    name: Annotated[str, Field(max_length=200)]
    strokes: Annotated[list[Stroke], Field(default_factory=list, max_length=100)]
