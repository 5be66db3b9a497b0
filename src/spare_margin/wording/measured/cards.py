"""What a card of a walk says: what must be on, why this is read, the range, what to expect."""

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.walk.walk import Expectation, Measurement
from spare_margin.wording.craft.pieces import back_word
from spare_margin.wording.language.figures import amperes, digits, volts


def on_words(each: Measurement, run: Run, scenario: str) -> str:
    """What must be on, and how it is kept on with the hands free.

    `scenario` is the name of the one that is measured in; empty where the craft has no other.
    """
    state = f"as in {scenario}" if scenario else ""
    if each.kind == "source":
        return state or "as it stands"
    says = ", ".join(filter(None, (f"{run.load.name} on", state)))
    kinds = {s.piece.kind for s in run.steps()}
    if "relay_contact" in kinds:
        says += ". Use its switch, or pull the relay and fit a fused jumper from 30 to 87"
    elif run.load.duty == "charging":
        says += ". All loads on, engine at about 2000 rpm or charger at full output"
    elif run.load.duty == "short_time":
        says += "; a helper at the controls"
    elif run.load.duty == "control_supply":
        says += "; high-impedance meter only, no test lamp"
    return says


def why_words(each: Measurement, within: set[str], found: Judgement) -> str:
    """Why this is read; `within` are the pieces between its points, where one side holds both."""
    if each.kind == "source":
        return "Check the battery first. With a flat or reversed battery no other reading counts."
    if each.kind == "current":
        return (
            "There is only voltage drop while current flows. Without current, no reading proves "
            "anything."
        )
    if each.kind == "load":
        return f"What the load gets. With source, feed and {back_word()} it must add up."
    if each.kind == "side":
        return "Tests the whole side in one go: is the fault in it at all?"
    if found.loaded is False:
        return "No current flows: volts here, or none, tell on which side of this point it stops."
    if found.conclusion.headline == "contradiction":
        return "It disagrees with the others: measure it again."
    if within and found.conclusion.between is not None:
        return "The excess lies here or beyond: this reading tells which."
    return "It tells most of what is still open."


def range_words(most_v: float | None) -> str:
    """The range to set the meter to, by the most it holds (V); None for a current."""
    if most_v is None:
        return "clamp, zeroed; or in series"
    return f"{digits(most_v * 1000, 3)} mV or lower" if most_v < 1 else f"{digits(most_v, 3)} V"


def expect_words(each: Measurement, likely: Expectation | None) -> str:
    """What to expect, and what is allowed; empty where nothing can be said."""
    if likely is None:
        return ""
    if each.kind == "current":
        return f"expect about {amperes(likely.likely or 0.0)}"
    about = "" if likely.likely is None else f"expect about {volts(likely.likely)}"
    if likely.allowed is not None:
        limit = f"up to {volts(likely.allowed)} is allowed"
    elif each.kind == "load" and likely.likely is None:
        limit = f"expect {volts(likely.low)} or more"
    else:
        limit = ""
    return "; ".join(filter(None, (about, limit)))
