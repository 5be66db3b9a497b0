"""Names as people type them."""

from spare_margin.core.errors import JobError


def one_line(text: str) -> str:
    """A text on one line, single spaces between its words."""
    return " ".join(text.split())


def title_of(text: str) -> str:
    """A job's title. JobError where nothing was typed."""
    title = one_line(text)
    if not title:
        raise JobError("title", "is empty", "what the job is called, as the craft's name")
    return title
