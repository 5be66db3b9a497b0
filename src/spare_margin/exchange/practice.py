"""What was practised as text: acts, what they came to, and exercises from one's own jobs."""

import math
from dataclasses import dataclass, replace

from pydantic import TypeAdapter

from spare_margin.core.practice.acts import Act
from spare_margin.core.practice.exercise import Hidden, Level, Symptom
from spare_margin.core.practice.result import Result


@dataclass(frozen=True, slots=True)
class OwnDocument:
    """An exercise from one's own job: its wiring as a job file's text, what was wrong in it.

    `opens` are the elements of `hidden` that are open: JSON knows no infinity.
    """

    wiring: str
    run: str
    level: Level
    symptom: Symptom
    hidden: tuple[Hidden, ...]
    opens: tuple[str, ...]
    seed: int


_ACTS = TypeAdapter(tuple[Act, ...])
_RESULT = TypeAdapter(Result)
_OWN = TypeAdapter(OwnDocument)


def acts_text(acts: tuple[Act, ...]) -> str:
    """Acts as text; what is as it is at first is left out."""
    return _ACTS.dump_json(acts, exclude_defaults=True).decode()


def acts_of(text: str) -> tuple[Act, ...]:
    """Acts from their text."""
    return _ACTS.validate_json(text)


def result_text(result: Result) -> str:
    """A result as text."""
    return _RESULT.dump_json(result).decode()


def result_from(text: str) -> Result:
    """A result from its text."""
    return _RESULT.validate_json(text)


@dataclass(frozen=True, slots=True)
class DemoAttempt:
    """An attempt of the demo: whose, at what, so many days ago, what was done, what it came to."""

    who: str
    exercise: str
    days_ago: int
    acts: tuple[Act, ...]
    result: Result


_DEMO = TypeAdapter(tuple[DemoAttempt, ...])


def demo_attempts(raw: bytes) -> tuple[DemoAttempt, ...]:
    """The attempts of the demo from their file."""
    return _DEMO.validate_json(raw)


def own_text(document: OwnDocument) -> str:
    """An own exercise as text."""
    opens = tuple(h.element for h in document.hidden if math.isinf(h.ohm))
    hidden = tuple(replace(h, ohm=0.0) if h.element in opens else h for h in document.hidden)
    return _OWN.dump_json(replace(document, hidden=hidden, opens=opens)).decode()


def own_of(text: str) -> OwnDocument:
    """An own exercise from its text."""
    held = _OWN.validate_json(text)
    hidden = tuple(replace(h, ohm=math.inf) if h.element in held.opens else h for h in held.hidden)
    return replace(held, hidden=hidden)
