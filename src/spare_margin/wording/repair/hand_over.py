"""What the hand-over sheet says besides the proof itself."""

from collections.abc import Mapping

from spare_margin.core.model.jobs import ProofOutcome, SignedBy
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Craft
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.language.figures import digits, volts

TITLE = "Hand-over sheet"
STATEMENT = (
    "These readings support the work of competent people. The code in force where the craft is used, the "
    "maker's instructions and licensed practice come first. Limits and ampacities are typical values. The "
    "results apply only to the loads, source and warm-up recorded here."
)
HEADS: Mapping[str, str] = {
    "job": "Job", "craft": "Craft", "customer": "Customer", "complaint": "Complaint", "limits": "Limits",
    "done": "What was done", "parts": "Parts", "left": "Work left", "readings": "Before and after",
    "needs": "Requirements", "alike": "Same conditions as before", "wiring": "Wiring, in order of current",
    "cautions": "Cautions", "signed": "Signatures", "history": "Repairs and their readings",
    "surfaces": "Temperature above the cable next to it", "photographs": "Photographs",
}  # fmt: skip
READING_HEADS = ("red lead \u2192 black lead", "before", "calculated", "after", "allowed")
PIECE_HEADS = ("piece", "", "before", "after")
NOT_READ = "\u00b1: not read there, but worked out from other readings."
WORKED_OUT = (
    "At full load, worked out from the readings; (c): calculated from the tables, not read."
)
CALCULATED = "(c)"
ROLES: Mapping[SignedBy, str] = {"fitter": "Installed by", "customer": "Accepted by"}
SIGNED_AS: Mapping[SignedBy, str] = {"fitter": "installer", "customer": "customer"}
ASIDE: Mapping[ProofOutcome, str] = {
    "passed": "proved", "failed": "not proved", "open": "not proved yet"
}  # fmt: skip
NOTHING_DONE = "No change to the wiring."
NOTHING_LEFT = "None noted."
NOTHING_READ = "Nothing was read after the repair."
POLARITIES = {
    "negative": "negative to chassis or hull",
    "positive": "positive to chassis or hull",
    "none": "two-wire, insulated",
}
CHART = "Voltage drop along the run: dashed before, filled after, blue the limit."


def craft_words(craft: Craft, name: str) -> str:
    """What the craft is: its name, kind, nominal voltage and polarity."""
    kind = f"{craft.kind}, {digits(craft.nominal_v, 3)} V, {POLARITIES[craft.polarity]}"
    return f"{name} ({kind})" if name else kind[0].upper() + kind[1:]


def limit_words(called: str, ceilings: Ceilings) -> str:
    """The limits a run is held to: the set's name, and each ceiling."""
    held = (
        (side_word("feed"), ceilings.feed_v),
        (side_word("return"), ceilings.return_v),
        (side_word("round_trip"), ceilings.round_trip_v),
    )
    said = ", ".join(f"{name} {volts(most)}" for name, most in held if most is not None)
    return f"{called}: {said}, at full-load current" if said else called
