"""How large a craft may be, so that whoever asks about it gets an answer in time and within memory."""

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft

from .runs import traced

MOST_PIECES = 3000
"""Far more than a craft has, and worked out within the time of one request."""
MOST_LOADS = 300
MOST_IN_A_RUN = 200
"""The posterior of a run grows with the square of its pieces: of 300 it takes half a gigabyte."""


def too_large(craft: Craft) -> JobError | None:
    """What of a craft is more than can be judged, if anything is; the path is of the job file."""
    for count, most, what in (
        (len(craft.pieces), MOST_PIECES, "pieces"),
        (len(craft.loads), MOST_LOADS, "loads"),
    ):
        if count > most:
            return JobError("elements", f"the craft has {count} {what}", f"up to {most}")
    if len(craft.pieces) <= MOST_IN_A_RUN:
        return None
    for run in traced(craft, {}).runs.values():
        count = sum(1 for _ in run.steps())
        if count > MOST_IN_A_RUN:
            return JobError(
                "elements",
                f"the run of {run.load.name} has {count} pieces",
                f"up to {MOST_IN_A_RUN}; draw as one what is never read by itself",
            )
    return None
