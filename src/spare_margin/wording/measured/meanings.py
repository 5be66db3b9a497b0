"""What a reading means the moment it is typed, in one sentence."""

from collections.abc import Mapping

from spare_margin.core.model.jobs import ReadingState
from spare_margin.core.walk.meaning import Code, Meaning
from spare_margin.core.walk.walk import Measurement
from spare_margin.wording.craft.pieces import side_word, worded
from spare_margin.wording.language.figures import amperes, volts_to

GOOD: Mapping[Code, bool] = {
    "draws_nothing": False, "draws_little": False, "draws_much": False, "draws": True,
    "impossible": False, "reversed": False, "source_gone": False, "source_low": False,
    "source_good": True, "open_loop": False, "loop_within": True, "loop_over": False,
    "drop_within": True, "drop_over": False, "drop_open": False, "drop_whole": False,
}  # fmt: skip
"""Which meanings are good news, and which bad; the others are neither."""
STATES_MEAN: Mapping[ReadingState, str] = {
    "over_range": "No number: over the range. Take a higher one.",
    "wandering": "The display won't settle: the lead is on something that is not connected.",
    "not_reachable": "Not reachable: kept as that.",
    "lit": "Lit: a way is there, with some volts behind it. A last strand lights a lamp too.",
    "dim": "Dim: some ohms in the way, or a weak source. Read the volts.",
    "dark": "Dark: open before this point, or the other lead stands on nothing.",
}
_PLAIN: Mapping[Code, str] = {
    "draws_nothing": "No current flows, so voltage drops prove nothing now. Next, find the open.",
    "reversed": "Reversed: your leads, or the battery itself.",
    "source_gone": "Almost no source voltage: nothing can be judged on it.",
    "open_loop": "Almost no voltage reaches the load: its circuit is open somewhere.",
    "drop_open": "Nearly all the source voltage is across these points: the circuit is open between them.",
    "drop_whole": "Nearly the whole source, though current flows. Are both leads where the card says?",
    "needs_current": "Within limits, if current flows. No reading shows that yet.",
}


def meaning_words(found: Meaning, each: Measurement, doubt: float) -> str:
    """A meaning in one sentence; `doubt` is the reading's (V or A)."""
    plain = _PLAIN.get(found.code)
    if plain is not None:
        return plain
    where = f"the {side_word(each.side)}" if each.kind == "side" and each.side else "it"
    by = volts_to(found.by, doubt)
    match found.code:
        case "draws_little":
            return (
                f"{amperes(found.by)} less than it should draw. Too little voltage reaches it, or the "
                "load is at fault."
            )
        case "draws_much":
            return f"{amperes(found.by)} more than it should draw. Suspect the load, or a short."
        case "draws":
            return "Current flows, so voltage drop readings count."
        case "impossible":
            return f"{by} more than there can be. Check the range and the points."
        case "source_low":
            return "Low for a source at rest: the battery is tired, or a load is on."
        case "source_good":
            return "Source good enough to carry on."
        case "loop_within":
            return f"Within limits: {by} spare for the whole circuit."
        case "loop_close":
            return worded(f"Too close to call: feed and {{return}} together drop {by}.")
        case "loop_over":
            return worded(f"Feed and {{return}} together drop {by} more than allowed.")
        case "turned":
            return "Negative: your leads are swapped. Saved with the sign reversed."
        case "drop_within":
            return f"Within limits: {by} spare."
        case "drop_close":
            return f"Too close to call: right at the limit for {where}."
        case "drop_over":
            return f"{by} over the limit for {where}."
    return ""
