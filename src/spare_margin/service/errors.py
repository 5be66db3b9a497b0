"""What keeps a session from doing what was asked."""

from spare_margin.core.errors import SpareMarginError


class Conflict(SpareMarginError):
    """The job moved on since it was read, or the same id came again with other content."""


class NotThere(SpareMarginError):
    """Something of this id does not exist."""


OTHER_WIRING = (
    "The wiring this was read on is not known here: an older copy of the jobs may have been put back. "
    "Compare the wiring as it is now, then send it to that, or discard it."
)
MOVED_ON = "Someone else changed the wiring. This is the current version; enter your change again."
