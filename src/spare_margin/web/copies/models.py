"""What is said of copies: never where they lie."""

from spare_margin.web.common.models import Model


class CopiesOut(Model):
    """How many copies of all jobs there are, and when the newest was made (UTC)."""

    count: int
    newest: str | None
