"""How a reading was understood, in words."""

from spare_margin.core.model.jobs import Reading
from spare_margin.wording.language.figures import amperes, digits, ohms, volts

STATES = {
    "over_range": "over range",
    "wandering": "wandering",
    "not_reachable": "cannot reach",
    "withdrawn": "taken back",
}


def reading_words(reading: Reading) -> str:
    """How a reading was understood, with its doubt."""
    if reading.value is None:
        return STATES[reading.state]
    if reading.quantity == "kelvin":
        return f"{digits(reading.value, 3)} K above the cable beside it"
    shown = {"volts": volts, "amperes": amperes, "ohms": ohms, "ripple": volts}[reading.quantity]
    return f"{shown(reading.value)} \u00b1 {digits(reading.accuracy, 2)}"
