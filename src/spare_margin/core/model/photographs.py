"""A photograph as a record of a job: what it shows, before the repair or after it, who took it."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Le

from spare_margin.core.model.jobs import MeasuredStage
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.values import Id, Name, StepOrNone, Text, Time

Subject = Literal["job", "point", "part", "reading", "step"]
"""What a photograph is of: a part is a piece, a load or a source; a step is one of a work order."""
LARGEST_PX = 2048
"""The longer side of a photograph that is kept."""
MOST_PHOTOGRAPHS = 200
"""How many a job may have."""
Pixels = Annotated[int, Ge(1), Le(LARGEST_PX)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Photograph:
    """What is said of a photograph; its picture lies beside it.

    `about` is the id of the subject, empty where that is the job itself; `stage` says whether it shows how
    something was found or how it was left; `taken_at` is when it was added (UTC, ISO 8601), `on_sheet`
    whether it goes on the hand-over sheet.
    """

    id: Id
    subject: Subject = "job"
    about: StepOrNone = ""
    stage: MeasuredStage = "as_found"
    note: Text = ""
    on_sheet: bool = False
    taken_at: Time
    who: Name = ""
    width_px: Pixels
    height_px: Pixels

    @property
    def part(self) -> str:
        """The id of the part it shows, or that the step it shows works on; empty for none."""
        if self.subject == "step":
            return "".join(self.about.split(".", 2)[2:])
        return self.about if self.subject == "part" else ""


def subjects(subject: Subject, crafts: Iterable[Craft], readings: Iterable[str]) -> set[str]:
    """The ids of all that a photograph of this `subject` may be of, empty where it has none of its own.

    `crafts` are the wirings of a job, `readings` the ids of its readings.
    """
    match subject:
        case "point":
            return {p.id for c in crafts for p in c.points}
        case "part":
            return {x.id for c in crafts for x in (*c.pieces, *c.loads, *c.sources)}
        case "reading":
            return set(readings)
        case _:
            return set()
