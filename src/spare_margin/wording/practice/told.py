"""What was done and what it showed, a line each."""

from collections.abc import Mapping

from spare_margin.core.model.jobs import Outcome, ReadingState
from spare_margin.core.practice.acts import Act, ActKind, Claim
from spare_margin.core.practice.bench import Shown
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.played import Danger, Told
from spare_margin.wording.language.figures import amperes, ohms, volts

from .exercise import KIND_WORDS
from .names import names_of_points, piece_names

VOLTS, CLAMP = "Red on {red}, black on {black}", "Clamp round {element}"
"""What is said of plain volts and of the clamp; a device without the network says it too."""
STATE_WORDS: Mapping[str, str] = {
    "over_range": "over range", "wandering": "won't settle", "lit": "lamp lit", "dim": "lamp dim",
    "dark": "lamp dark",
}  # fmt: skip
OUTCOME_WORDS: Mapping[Outcome, str] = {
    "right": "works as it should", "partly": "works better", "none": "no change",
}  # fmt: skip
DANGER_WORDS: Mapping[Danger, str] = {
    "cautions": "You measured before you took note of the cautions.",
    "ohms_live": "Ohms with the power on. It shows nothing, and it can destroy the meter.",
    "switched_off_loaded": "You took the battery off under load. The spark can ignite gas.",
    "fuse_bridged": "You bridged a fuse. A short would then have nothing to stop it.",
    "short": "You joined the source's own posts with a wire. It burns, and the battery can burst.",
    "held_on": "You held a short-time motor on for minutes. It burns.",
}
_COMMAND_WORDS: Mapping[str, str] = {
    "running": "switched on", "off": "switched off", "unplugged": "unplugged", "open": "opened",
    "closed": "closed",
}  # fmt: skip


def shown_words(act: Act, told: Told) -> str:
    """What an act showed; empty where it is nothing that shows."""
    if told.outcome is not None:
        return OUTCOME_WORDS[told.outcome]
    if told.state != "value":
        return STATE_WORDS[told.state]
    words = {"volts": volts, "amperes": amperes, "ohms": ohms}.get(act.kind)
    return "" if words is None else " to ".join(words(v) for v in told.shown)


def figure_words(kind: ActKind, shown: Shown) -> str:
    """What a meter or a clamp would show."""
    state: ReadingState = "value"
    if shown.wanders or shown.value is None:
        state = "wandering" if shown.wanders else "over_range"
    held = () if shown.value is None else (shown.value,)
    return shown_words(Act(kind=kind), Told(minutes=0.0, shown=held, state=state))


class ActWords:
    """The acts of an exercise in words; its names are made once."""

    def __init__(self, made: Exercise) -> None:
        self.pieces, self.points = piece_names(made), names_of_points(made)

    def said(self, act: Act) -> str:
        """What was done, without what it showed."""
        red, black = self.point(act.red), self.point(act.black)
        match act.kind:
            case "volts":
                more = f", moving {self.pieces[act.moved]}" if act.moved else ""
                more += ", over a start" if act.start else ""
                on = f", {act.range_v:g} V range" if act.range_v is not None else ""
                return f"{VOLTS.format(red=red, black=black)}{more}{on}"
            case "amperes":
                return CLAMP.format(element=self.pieces[act.element])
            case "lamp":
                return f"Test lamp from {red} to {black}"
            case "ohms":
                return f"Ohms from {red} to {black}"
            case "join":
                return f"Spare wire from {red} to {black}"
            case "stand_in":
                return f"Test load from {red} to {black}"
            case "command" | "contact":
                return f"{self.pieces[act.element]} {_COMMAND_WORDS[act.state]}"
            case "engine":
                return "Engine started" if act.state == "on" else "Engine stopped"
            case "power":
                return "Battery connected" if act.state == "on" else "Battery disconnected"
            case "wait":
                return f"Left on for {act.minutes:g} min"
            case "conclude":
                return self.concluded(act)
        return {
            "noted": "Cautions noted", "zero": "Clamp zeroed", "unjoin": "Spare wire taken off",
            "hand_over": "Handed over",
        }[act.kind]  # fmt: skip

    def point(self, key: str) -> str:
        """What a point is called; the air where there is none."""
        return self.points[key] if key else "nothing"

    def concluded(self, act: Act) -> str:
        """What was concluded."""
        if not act.claims:
            return "You said: all is well"
        return "You said: " + "; ".join(self.claim(c) for c in act.claims)

    def claim(self, claim: Claim) -> str:
        """One claim, with what was done about it."""
        did = "cleaned and remade" if claim.remedy == "remade" else "replaced"
        return f"{self.pieces[claim.element]} {KIND_WORDS[claim.kind]}, {did}"
