"""What the API takes and gives of photographs."""

from pydantic import BaseModel

from spare_margin.core.model.jobs import MeasuredStage
from spare_margin.core.model.photographs import Photograph, Subject
from spare_margin.core.model.values import DeviceId, StepOrNone, Text, Waited
from spare_margin.web.common.models import Answer, Model, Who


class PhotographPath(BaseModel):
    """The job and the photograph that an address names."""

    job: str
    photograph: str


class PhotographQuery(Model):
    """What is said of a photograph beside its picture, which is the body; the device makes the id."""

    id: DeviceId
    subject: Subject = "job"
    about: StepOrNone = ""
    stage: MeasuredStage = "as_found"
    note: Text = ""
    who: Who = ""
    waited_s: Waited = 0.0


class PhotographSaid(Model):
    """What is written under a photograph, and whether it goes on the hand-over sheet."""

    note: Text
    on_sheet: bool


class PhotographOut(Answer[Photograph]):
    """What is kept of a photograph beside its picture."""


class ShownPhotograph(Model):
    """A photograph, what it shows in words, and the id of the part that it shows, empty for none."""

    photograph: Photograph
    shows: str
    part: str


class PhotographList(Model):
    """The photographs of a job, in the order they were added."""

    job: str
    title: str
    photographs: list[ShownPhotograph]
    most: int
