"""What every way to a meter has: it is opened, gives one sample at a time, and says what is wrong."""

from typing import Literal, Protocol

from spare_margin.core.live.samples import Sample

Wrong = Literal["not_there", "busy", "silent", "garbled", "address"]
"""Nothing at that address; taken by another program; no answer; no figure in the answer; no address."""


class LinkTrouble(Exception):
    """A meter that cannot be read now: what is wrong as a code, and what was seen."""

    def __init__(self, wrong: Wrong, seen: str = "") -> None:
        super().__init__(wrong, seen)
        self.wrong, self.seen = wrong, seen


class Link(Protocol):
    """A way to one meter. It is used by one thread alone."""

    def open(self) -> str:
        """Open it; what the meter says it is. LinkTrouble where it cannot be."""
        ...

    def read(self) -> Sample:
        """What the meter shows next. LinkTrouble where nothing comes, or no figure."""
        ...

    def close(self) -> None:
        """Close it, whatever happens."""
        ...
