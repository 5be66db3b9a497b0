"""How a reading was understood, in words."""

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.pieces import Craft
from spare_margin.wording.craft.names import span_name
from spare_margin.wording.language.figures import amperes, digits, ohms, volts

STATES = {
    "over_range": "over range",
    "wandering": "wandering",
    "not_reachable": "cannot reach",
    "withdrawn": "taken back",
    "lit": "test lamp lit",
    "dim": "test lamp dim",
    "dark": "test lamp dark",
}


def reading_words(reading: Reading) -> str:
    """How a reading was understood, with its doubt."""
    if reading.value is None:
        return STATES[reading.state]
    if reading.quantity == "kelvin":
        return f"{digits(reading.value, 3)} K above the cable beside it"
    shown = {"volts": volts, "amperes": amperes, "ohms": ohms, "ripple": volts}[reading.quantity]
    return f"{shown(reading.value)} \u00b1 {digits(reading.accuracy, 2)}"


def beside_words(reading: Reading, craft: Craft, run: Run) -> str:
    """A reading that is no drop, in a line."""
    said, where = reading_words(reading), span_name(craft, run, reading.red, reading.black)
    match reading.quantity:
        case "lamp":
            return f"{said[0].upper()}{said[1:]}, {where}"
        case "ohms":
            return f"{said}, power off, {where}"
        case "amperes":
            at = "" if reading.source_v is None else f" at {volts(reading.source_v)}"
            return f"{run.load.name} on the bench: {said}{at}"
        case "ripple":
            return f"{said} of ripple, {where}"
    return f"{said}, {where}"


def doubted_words(reading: Reading, craft: Craft, run: Run) -> str:
    """A reading and its place, as whoever typed it would know it again."""
    unit = {"volts": " V", "amperes": " A", "ohms": " \u03a9"}.get(reading.quantity, "")
    typed = reading.typed if reading.typed[-1:].isalpha() else f"{reading.typed}{unit}"
    return f"{typed} at {span_name(craft, run, reading.red, reading.black)}"
