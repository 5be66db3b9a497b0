"""Where a walk stands, in words: suspects, what is unaccounted for, what nobody has read."""

from spare_margin.core.evidence.estimate.search import Suspect
from spare_margin.core.evidence.verdict.account import Account
from spare_margin.core.model.pieces import AnyPiece
from spare_margin.wording.language.figures import about_ohms, volts

NOTHING_HERE = "no fault in this wiring"


def suspect_words(suspect: Suspect, piece: AnyPiece | None, source: bool) -> str:
    """What would be wrong with a suspect: a `piece`, the `source`, else the load."""
    if piece is not None:
        says = "open" if suspect.kind == "open" else "excess resistance"
        if suspect.kind == "excess_resistance" and suspect.ohm is not None:
            says = f"about {about_ohms(suspect.ohm)} too much resistance"
        return says + ", though it is fitted on purpose" * (piece.kind == "resistor")
    if source:
        return "weak source"
    return "draws nothing" if suspect.kind == "open" else "draws the wrong current"


def unaccounted_words(found: Account) -> str:
    """That the volts add up, where each part was read across itself."""
    if found.left_v is None or not found.closes:
        return ""
    return f"The readings add up: {volts(found.left_v)} left over, within meter accuracy."


def split_words(start: str, end: str) -> str:
    """Between which points the trouble lies, where no lead has been in between."""
    return f"The fault is between {start} and {end}."
