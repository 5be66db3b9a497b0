"""What single values of a record may be: their bounds, and what is accepted where one does not fit.

The bounds stand once, in the types of a record's fields; whoever reads a file or a request is held to them.
Units are SI.
"""

import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from annotated_types import Ge, Gt, Le, MaxLen, MinLen, Predicate


@dataclass(frozen=True, slots=True)
class Form:
    """Text that has to match `pattern` from end to end; `says` is what is accepted, in words."""

    pattern: str
    says: str

    def __get_pydantic_core_schema__(self, source: object, of: Any) -> Mapping[str, Any]:
        """How the reader at the edge asks for it: annotated-types has no bound for this."""
        return {**of(source), "pattern": self.pattern}


ID = Form(r"^[A-Za-z0-9_.+-]{1,64}$", "letters, digits and - _ . +, at most 64")
DEVICE_ID = Form(r"^[A-Za-z0-9_.+-]{8,64}$", "letters, digits and - _ . +, 8 to 64 of them")
ID_OR_NONE = Form(r"^([A-Za-z0-9_.+-]{1,64})?$", ID.says)
STEP_OR_NONE = Form(r"^[A-Za-z0-9_.+-]{0,128}$", "letters, digits and - _ . +, at most 128")
TIME = Form(r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$", "UTC time as 2026-01-31T09:30:00Z")
TIME_OR_NONE = Form(r"^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z)?$", TIME.says)
FORMS = (ID, DEVICE_ID, ID_OR_NONE, STEP_OR_NONE, TIME, TIME_OR_NONE)


def there_is(time: str) -> bool:
    """Whether the calendar has such a time. ValueError, in words, where it has not.

    >>> there_is("2026-01-31T09:30:00Z")
    True
    """
    try:
        datetime.fromisoformat(time.replace("Z", "+00:00"))
    except ValueError:
        raise ValueError("is no time there is") from None
    return True


BIDI = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that turn what follows round: a name must read as it is kept."""


def is_seen(text: str) -> bool:
    """Whether all of a text can be seen. ValueError, in words, where it cannot: control or bidi marks.

    >>> is_seen("Pin, grün")
    True
    """
    for c in text:
        if c in BIDI or (unicodedata.category(c) == "Cc" and c not in "\n\t"):
            raise ValueError("holds a character that cannot be seen")
    return True


Id = Annotated[str, ID]
DeviceId = Annotated[str, DEVICE_ID]
"""An id made on a device, so that what is sent twice is kept once."""
IdOrNone = Annotated[str, ID_OR_NONE]
StepOrNone = Annotated[str, STEP_OR_NONE]
"""An id, or a step of a work order, which is named by what is done and to what."""
Time = Annotated[str, TIME, Predicate(there_is)]
TimeOrNone = Annotated[str, TIME_OR_NONE]
Text = Annotated[str, MaxLen(2000)]
Name = Annotated[str, MaxLen(120)]
AsTyped = Annotated[str, MaxLen(200)]
"""A figure as somebody typed it."""
Title = Annotated[str, MinLen(1), MaxLen(200)]
Called = Annotated[str, MaxLen(200), Predicate(is_seen)]
"""What a person calls a job, a craft, a scenario."""
Ohm = Annotated[float, Ge(0), Le(1e6)]
Volts = Annotated[float, Gt(0), Le(1000)]
ZeroOrVolts = Annotated[float, Ge(0), Le(1000)]
SignedVolts = Annotated[float, Ge(-1000), Le(1000)]
Amperes = Annotated[float, Gt(0), Le(5000)]
Celsius = Annotated[float, Ge(-60), Le(250)]
Metres = Annotated[float, Gt(0), Le(1000)]
Minutes = Annotated[float, Ge(0), Le(10000)]
Seconds = Annotated[float, Ge(0), Le(1e9)]
Waited = Annotated[float, Ge(0), Le(31_536_000)]
"""How long something waited on a device, by that device's own clock (s): a year at most."""
