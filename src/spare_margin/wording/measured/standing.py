"""Where a walk stands, in words: suspects, what is unaccounted for, what nobody has read."""

from spare_margin.core.evidence.estimate.search import Suspect
from spare_margin.core.evidence.verdict.account import Account
from spare_margin.core.model.pieces import AnyPiece, kind_of
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.language.figures import amperes, ohms, volts

NOTHING_HERE = "nothing in this wiring"


def suspect_words(suspect: Suspect, piece: AnyPiece | None, source: bool) -> str:
    """What would be wrong with a suspect: a `piece`, the `source`, else the load."""
    if piece is not None:
        says = "open" if suspect.kind == "open" else "excess resistance"
        if suspect.kind == "excess_resistance" and suspect.ohm is not None:
            says = f"about {ohms(suspect.ohm)} too much"
        return says + ", though it is fitted on purpose" * (kind_of(piece) == "resistor")
    if source:
        return "weak"
    return "draws nothing" if suspect.kind == "open" else "draws otherwise than it should"


def unaccounted_words(found: Account) -> str:
    """How many volts nobody has accounted for, and the span that nobody has measured."""
    if found.left_v is not None:
        left = volts(found.left_v)
        if found.closes:
            return f"The volts close: {left} left, within the meter's doubt."
        return "" if found.closes is None else f"{left} are unaccounted for."
    if found.source is None or found.load is None:
        return ""
    sides = (("feed", found.feed), ("return", found.back))
    missing = " and the ".join(side_word(name) for name, part in sides if part is None)
    known = sum(part.volts for _, part in sides if part is not None)
    spent = volts(found.source.volts - found.load.volts - known)
    return f"{spent} are spent where nobody has measured: the {missing}."


def current_words(amps: float, doubt: float) -> str:
    """How the current is known where no meter has read it."""
    return (
        f"By the drops of known pieces about {amperes(amps)} flow (\u00b1 {amperes(doubt)}); no meter has "
        "read it."
    )


def source_again_words(doubt_v: float) -> str:
    """Why the source should be read again before what is read next."""
    return (
        "The source may have moved since: what is read next would be off by about "
        f"{volts(doubt_v)}. Read it again first."
    )


def split_words(start: str, end: str) -> str:
    """Between which points the trouble lies, where no lead has been in between."""
    return f"The trouble lies between {start} and {end}."
