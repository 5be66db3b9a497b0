"""What a reading means the moment it is typed, in one sentence."""

from collections.abc import Mapping

from spare_margin.core.model.jobs import ReadingState
from spare_margin.core.walk.meaning import Code, Meaning
from spare_margin.core.walk.walk import Measurement
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.language.figures import amperes, volts

GOOD: Mapping[Code, bool] = {
    "draws_nothing": False, "draws_little": False, "draws_much": False, "draws": True,
    "impossible": False, "reversed": False, "source_gone": False, "source_low": False,
    "source_good": True, "open_loop": False, "loop_within": True, "loop_over": False,
    "drop_within": True, "drop_over": False, "drop_open": False,
}  # fmt: skip
"""Which meanings are good news, and which bad; the others are neither."""
STATES_MEAN: Mapping[ReadingState, str] = {
    "over_range": "No number: over the range. Take a higher one.",
    "wandering": "A wandering display: the lead stands on something connected to nothing.",
    "not_reachable": "Not reachable: kept as that.",
    "lit": "Lit: a way is there, with some volts behind it. A last strand lights a lamp too.",
    "dim": "Dim: some ohms in the way, or a weak source. Read the volts.",
    "dark": "Dark: open before this point, or the other lead stands on nothing.",
}
_PLAIN: Mapping[Code, str] = {
    "draws_nothing": "No current flows: drops prove nothing now; where it stops is searched for next.",
    "reversed": "The wrong way round: the leads, or the battery itself.",
    "source_gone": "Hardly a source: nothing can be judged on it.",
    "open_loop": "Next to nothing reaches the load: something in its loop is open.",
    "drop_open": "Nearly the whole source stands here: the way is open between these points.",
    "needs_current": "Within, if current flows: nothing shows that yet.",
}


def meaning_words(found: Meaning, each: Measurement) -> str:
    """A meaning in one sentence."""
    plain = _PLAIN.get(found.code)
    if plain is not None:
        return plain
    where = f"the {side_word(each.side)}" if each.kind == "side" and each.side else "it"
    match found.code:
        case "draws_little":
            return (
                f"{amperes(found.by)} less than it should draw: too little reaches it, or the load."
            )
        case "draws_much":
            return f"{amperes(found.by)} more than it should draw: the load, or a short."
        case "draws":
            return "Current flows: what is read of drops counts."
        case "impossible":
            return f"{volts(found.by)} more than there can be: look at the range and the points."
        case "source_low":
            return "Low for a source at rest: tired, or loaded."
        case "source_good":
            return "A source to go on with."
        case "loop_within":
            return f"Within: the whole loop could lose {volts(found.by)} more."
        case "loop_close":
            return f"Too close to call: {volts(found.by)} are lost in the loop."
        case "loop_over":
            return f"The loop loses {volts(found.by)} more than it may."
        case "turned":
            return "Below zero: the leads are swapped. It is kept turned round."
        case "drop_within":
            return f"Within: {volts(found.by)} of what {where} may lose is spare."
        case "drop_close":
            return f"Too close to call: right at what {where} may lose."
        case "drop_over":
            return f"Over what {where} may lose by {volts(found.by)}."
    return ""
