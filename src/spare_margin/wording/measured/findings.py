"""What a check found, in words: what it says, and what to do."""

from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word
from spare_margin.wording.language.figures import amperes, digits, ohms, volts, watts

from .screening import Words, screening_words

HAZARD = "Do not touch it. Switch off. It is a fire hazard until remade."


def _called(piece: Conductor | FixedPiece, craft: Craft) -> str:
    """A piece by its name; a stretch that nobody has drawn by its ends."""
    if piece.kind == "unknown" and not piece.name:
        return f"{point_name(craft, piece.start)} to {point_name(craft, piece.end)}"
    return piece_name(piece)


def _of_ohms(facts: dict[str, float]) -> str:
    if "before_ohm" not in facts or "after_ohm" not in facts:
        return ""
    return f": {ohms(facts['before_ohm'])} and {ohms(facts['after_ohm'])}"


def _in_ohms(facts: dict[str, float]) -> str:
    both = _of_ohms(facts).removeprefix(": ")
    return f"{both}, " if both else ""


def finding_words(found: Finding, craft: Craft) -> Words:  # noqa: PLR0911, PLR0912  one case a finding
    """A finding as (what it says, what to do); the latter may be empty."""
    piece = next((p for p in craft.pieces if p.id == found.piece), None)
    name = _called(piece, craft) if piece else "It"
    facts = {key: value for key, value in found.facts.items() if isinstance(value, float)}
    codes = {key: value for key, value in found.facts.items() if isinstance(value, str)}
    load_name = next((x.name for x in craft.loads if x.id == codes.get("load")), "the load")
    match found.code:
        case "not_loaded":
            return (
                "No current flowed, so there was no voltage drop to read.",
                f"Switch {load_name} on and measure again.",
            )
        case "not_proven":
            return (
                "No reading yet shows that current flowed.",
                "Clamp the current, or measure across something that should drop more.",
            )
        case "swapped":
            return (
                f"{volts(facts['volts'])}: your leads were swapped.",
                "Saved with the sign reversed. Red goes nearer the live post.",
            )
        case "reversed":
            return (
                "The source itself reads negative: battery or leads reversed.",
                "Check the polarity at the posts before anything else.",
            )
        case "impossible":
            typed = digits(facts["volts"], 6)
            hint = f"If the meter showed millivolts, type {typed}m. " if "milli" in codes else ""
            return (
                f"{volts(facts['volts'])} is more than the source can give ({volts(facts['most'])}).",
                f"{hint}Check the meter range and where both leads are, then measure again.",
            )
        case "coarse":
            return (
                f"{name} is allowed {volts(facts['allowed'])}, but this reading is only good to "
                f"{volts(facts['doubt'])}.",
                "Use a lower range, put both leads right across it, or run more current.",
            )
        case "moves":
            return (
                f"Moving {name} changed the reading from {volts(facts['least'])} to "
                f"{volts(facts['most'])}.",
                "The fault is there, even if everything else reads well. Open it up.",
            )
        case "ripples":
            return (
                f"{volts(facts['volts'])} of ripple while charging; up to {volts(facts['most'])} is usual.",
                "A rectifier may have failed: have the generator looked at.",
            )
        case "over_range":
            return "Over range.", "Take a higher range and read it again."
        case "wandering":
            return (
                "The reading won't settle: one lead is on something not connected.",
                "Check that both leads touch; if they do, the circuit between them is open.",
            )
        case "not_reachable":
            return "Not reached.", "A span across it tells as much."
        case "changed":
            return "Taken before this piece was changed.", "Read it again."
        case "repeats_differ":
            said = amperes if codes["quantity"] == "amperes" else volts
            return (
                f"{said(facts['first'])} and then {said(facts['last'])} in the same place and moment. "
                "Both count.",
                "If one was typed wrong, correct it. If not, a contact comes and goes: move and press what "
                "lies between while watching.",
            )
        case "heats":
            return (
                f"{name} turns {watts(facts['watts'])} into heat.",
                "Look for browning; feel for heat only after switching off.",
            )
        case "burns":
            return f"{name} turns {watts(facts['watts'])} into heat.", HAZARD
        case "surface_warm":
            return (
                f"{name} is {digits(facts['kelvin'], 2)} K warmer than the cable beside it.",
                "Watch it: read its drop, and its temperature again after ten minutes.",
            )
        case "surface_hot":
            return (
                f"{name} is {digits(facts['kelvin'], 2)} K warmer than the cable beside it.",
                HAZARD,
            )
        case "contradiction":
            return "It doesn't agree with the others.", "Take it again."
        case "comes_and_goes":
            ends = [point_name(craft, codes[key]) for key in ("start", "end") if key in codes]
            where = name if piece or not ends else f"Something between {' and '.join(ends)}"
            return (
                f"{where} comes and goes: bad in one reading, well in another.",
                "Open it up, whatever it reads now. Move and press it while you watch the display.",
            )
        case "source_unsettled":
            return (
                "The source may have fallen since it was read.",
                "Read it again with the load on: until two readings agree, nothing rests on it.",
            )
        case "over":
            return "", ""
        case "grows_warm" | "shrinks_warm":
            word = "more" if found.code == "grows_warm" else "less"
            return (
                f"{volts(facts['before'])} and later {volts(facts['after'])} over the same span, "
                f"{_in_ohms(facts)}{word} when warm.",
                "The worst reading is used. Measure again after the same warm-up.",
            )
        case "changes":
            return (
                f"{volts(facts['before'])} in one moment and {volts(facts['after'])} in another over "
                f"the same span{_of_ohms(facts)}.",
                "Move and press it while watching: an intermittent contact is the fault.",
            )
        case "a_little_high":
            return (
                f"{name} is above its allowance: {volts(facts['volts'])} at full-load current, "
                f"{volts(facts['allowed'])} allowed. The whole side is within its limit.",
                "Note it; no repair needed for this.",
            )
        case "more_lost_than_drawn":
            return (
                f"The {side_word(codes['side'])} drops {volts(facts['volts'])} more than calculated. One "
                "joint could be causing all of it.",
                "Measure each half of that side to find out.",
            )
        case "over_as_drawn":
            return (
                "Nothing here is worse than drawn. The wiring itself drops too much at this current.",
                "Thicker or shorter wire, or a relay near the load.",
            )
        case "low_current":
            return (
                f"{amperes(facts['amperes'])} flows; {amperes(facts['drawn'])} is expected at this "
                "voltage.",
                "The load draws too little for the voltage it gets: check the load, and "
                "whatever controls it.",
            )
        case "high_current":
            return (
                f"{amperes(facts['amperes'])} flows; {amperes(facts['drawn'])} is expected.",
                "The load works too hard, is partly shorted, or another load is on this wire.",
            )
        case "drops_out":
            where = next(
                (s.name for s in craft.scenarios if s.id == codes["scenario"]), codes["scenario"]
            )
            return (
                f"In \u201c{where}\u201d the load gets {volts(facts['volts'])} at most, going by the "
                "readings, and drops out.",
                "",
            )
        case "protection_open":
            load = "unplug the load and look for a short downstream"
            if codes["kind"] == "breaker":
                return (
                    f"{name} may have tripped.",
                    f"Find the cause first: {load}. Then reset it, once only, and measure current and load "
                    "again. If it trips again, leave it off.",
                )
            return (
                f"{name} may be blown.",
                f"Find the cause first: {load}. Then fit one of the same rating, once only, and measure "
                "current and load again.",
            )
    return screening_words(found, name, load_name)
