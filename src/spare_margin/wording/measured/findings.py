"""What a check found, in words: what it says, and what to do."""

from typing import assert_never

from spare_margin.core.measure import findings as found_as
from spare_margin.core.measure.findings import Finding, OfLoad, OfPiece, OfReading, OfRun, Trend
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word
from spare_margin.wording.language.figures import about_watts, amperes, digits, ohms, volts

Words = tuple[str, str]
"""What is said, and what to do; the latter may be empty."""
HAZARD = "Do not touch it. Switch off. It is a fire hazard until remade."


def finding_words(found: Finding, craft: Craft) -> Words:
    """A finding of a craft in words."""
    if isinstance(found, OfReading):
        return _of_reading(found, _called(found.piece, craft))
    if isinstance(found, OfPiece):
        return _of_piece(found, _called(found.piece, craft), craft)
    if isinstance(found, OfLoad):
        return _of_load(found, craft)
    return _of_run(found)


def _called(piece_id: str | None, craft: Craft) -> str:
    """A piece by its name; a section that nobody has drawn by its ends."""
    piece: Conductor | FixedPiece | None = next((p for p in craft.pieces if p.id == piece_id), None)
    if piece is None:
        return "It"
    if piece.kind == "unknown" and not piece.name:
        return f"{point_name(craft, piece.start)} to {point_name(craft, piece.end)}"
    return piece_name(piece)


def _of_reading(found: OfReading, name: str) -> Words:
    match found:
        case found_as.Swapped():
            return (
                f"{volts(found.volts)}: your leads were swapped.",
                "Saved with the sign reversed. Red goes nearer the live post.",
            )
        case found_as.Reversed():
            return (
                "The source itself reads negative: battery or leads reversed.",
                "Check the polarity at the posts before anything else.",
            )
        case found_as.Impossible():
            typed = digits(found.volts, 6)
            hint = f"If the meter showed millivolts, type {typed}m. " if found.millivolts else ""
            return (
                f"{volts(found.volts)} is more than the source can give ({volts(found.most_v)}).",
                f"{hint}Check the meter range and where both leads are, then measure again.",
            )
        case found_as.Coarse():
            return (
                f"{name} is allowed {volts(found.allowed_v)}, but this reading is only good to "
                f"{volts(found.doubt_v)}.",
                "Use a lower range, put both leads right across it, or run more current.",
            )
        case found_as.OverRange():
            return "Over range.", "Take a higher range and read it again."
        case found_as.Wandering():
            return (
                "The reading won't settle: one lead is on something not connected.",
                "Check that both leads touch; if they do, the circuit between them is open.",
            )
        case found_as.NotReachable():
            return "Not reached.", "A span across it tells as much."
        case found_as.Changed():
            return "Taken before this piece was changed.", "Read it again."
        case found_as.RepeatsDiffer():
            said = amperes if found.quantity == "amperes" else volts
            first, last = (f" ({name})" if name else "" for name in found.who)
            return (
                f"{said(found.first)}{first} and then {said(found.last)}{last} in the same place and "
                "moment. Both count.",
                "If one was typed wrong, correct it. If not, a contact comes and goes: move and press what "
                "lies between while watching.",
            )
        case found_as.Contradiction():
            return "It doesn't agree with the others.", "Take it again."
        case found_as.SourceUnsettled():
            return (
                "The source may have fallen since it was read.",
                "Read it again with the load on: until two readings agree, nothing rests on it.",
            )
    assert_never(found)


def _of_piece(found: OfPiece, name: str, craft: Craft) -> Words:
    match found:
        case found_as.Moves():
            return (
                f"Moving {name} changed the reading from {volts(found.least_v)} to "
                f"{volts(found.most_v)}.",
                "The fault is there, even if everything else reads well. Open it up.",
            )
        case found_as.Heats():
            return (
                f"{name} turns {about_watts(found.watts)} into heat.",
                "Look for browning; feel for heat only after switching off.",
            )
        case found_as.Burns():
            return f"{name} turns {about_watts(found.watts)} into heat.", HAZARD
        case found_as.SurfaceWarm():
            return (
                f"{name} is {digits(found.kelvin, 2)} K warmer than the cable beside it.",
                "Watch it: read its drop, and its temperature again after ten minutes.",
            )
        case found_as.SurfaceHot():
            return f"{name} is {digits(found.kelvin, 2)} K warmer than the cable beside it.", HAZARD
        case found_as.ALittleHigh():
            return (
                f"{name} is above its allowance: {volts(found.volts)} at full-load current, "
                f"{volts(found.allowed_v)} allowed. The whole side is within its limit.",
                "Note it; no repair needed for this.",
            )
        case found_as.Changes() | found_as.GrowsWarm() | found_as.ShrinksWarm():
            return _of_trend(found)
        case found_as.ComesAndGoes():
            ends = " and ".join(point_name(craft, p) for p in (found.start, found.end))
            where = f"Something between {ends}" if found.piece is None else name
            return (
                f"{where} comes and goes: bad in one reading, well in another.",
                "Open it up, whatever it reads now. Move and press it while you watch the display.",
            )
        case found_as.ProtectionOpen():
            return _of_protection(found, name)
        case found_as.ContactStuck():
            return (
                f"{name} was commanded open and still joins, {ohms(found.ohm)}, with every load "
                "unplugged.",
                "It is stuck closed or bridged: take it out and check it.",
            )
    assert_never(found)


def _of_trend(
    found: found_as.Changes | found_as.GrowsWarm | found_as.ShrinksWarm,
) -> Words:
    before, after, both = volts(found.before_v), volts(found.after_v), _both_ohms(found)
    if isinstance(found, found_as.Changes):
        return (
            f"{before} in one moment and {after} in another over the same span"
            f"{both and f': {both}'}.",
            "Move and press it while watching: an intermittent contact is the fault.",
        )
    word = "more" if isinstance(found, found_as.GrowsWarm) else "less"
    return (
        f"{before} and later {after} over the same span, {both and f'{both}, '}{word} when warm.",
        "The worst reading is used. Measure again after the same warm-up.",
    )


def _both_ohms(found: Trend) -> str:
    if found.before_ohm is None or found.after_ohm is None:
        return ""
    return f"{ohms(found.before_ohm)} and {ohms(found.after_ohm)}"


def _of_protection(found: found_as.ProtectionOpen, name: str) -> Words:
    first = "Find the cause first: unplug the load and look for a short downstream."
    if found.kind == "breaker":
        return (
            f"{name} may have tripped.",
            f"{first} Then reset it, once only, and measure current and load again. If it trips "
            "again, leave it off.",
        )
    return (
        f"{name} may be blown.",
        f"{first} Then fit one of the same rating, once only, and measure current and load again.",
    )


def _of_load(found: OfLoad, craft: Craft) -> Words:
    def called(load_id: str) -> str:
        return next((x.name for x in craft.loads if x.id == load_id), "the load")

    match found:
        case found_as.NotLoaded():
            return (
                "No current flowed, so there was no voltage drop to read.",
                f"Switch {called(found.load)} on and measure again.",
            )
        case found_as.LowCurrent():
            return (
                f"{amperes(found.amperes)} flows; {amperes(found.drawn_a)} is expected at this "
                "voltage.",
                "The load draws too little for the voltage it gets: check the load, and "
                "whatever controls it.",
            )
        case found_as.HighCurrent():
            return (
                f"{amperes(found.amperes)} flows; {amperes(found.drawn_a)} is expected.",
                "The load works too hard, is partly shorted, or another load is on this wire.",
            )
        case found_as.DropsOut():
            where = next(
                (s.name for s in craft.scenarios if s.id == found.scenario), found.scenario
            )
            return (
                f"In \u201c{where}\u201d the load gets {volts(found.volts)} at most, going by the "
                "readings, and drops out.",
                "",
            )
        case found_as.LoadOpen():
            name = called(found.load)
            return (
                f"No way through {name} by the ohmmeter. A lamp, a heater or a motor with this is "
                "burnt out; electronics can read so when they are sound.",
                f"Try {name} on the bench, or another one in its place.",
            )
        case found_as.LoadOhms():
            name = called(found.load)
            return (
                f"{name} has {ohms(found.ohm)} where {ohms(found.should_ohm)} are expected.",
                f"Look at {name} itself, or at what was drawn of it.",
            )
        case found_as.BenchCurrent():
            name = called(found.load)
            drew = f"On the bench {name} draws {amperes(found.amperes)} at {volts(found.volts)}"
            if not found.off:
                return f"{drew}, as it should.", ""
            return (
                f"{drew}, where {amperes(found.should_a)} are expected.",
                f"Look at {name} itself, or at what was drawn of it.",
            )
        case found_as.LampUnderLoad():
            name = called(found.load)
            return (
                f"Dark while {name} is switched on: open, or a joint that takes the volts as soon as "
                "current flows.",
                f"Switch {name} off or unplug it, and try the lamp again. Or read the volts.",
            )
    assert_never(found)


def _of_run(found: OfRun) -> Words:
    match found:
        case found_as.LampDim():
            return (
                "Dim: some ohms in the way, or a weak source. A lamp can't tell which.",
                "Read the volts there with the load on.",
            )
        case found_as.NotProven():
            return (
                "No reading yet shows that current flowed.",
                "Clamp the current, or measure across something that should drop more.",
            )
        case found_as.Over():
            return "", ""
        case found_as.OverAsDrawn():
            return (
                "Nothing here is worse than drawn. The wiring itself drops too much at this current.",
                "Thicker or shorter wire, or a relay near the load.",
            )
        case found_as.MoreLostThanDrawn():
            return (
                f"The {side_word(found.side)} drops {volts(found.volts)} more than calculated. One "
                "joint could be causing all of it.",
                "Measure each half of that side to find out.",
            )
        case found_as.Ripples():
            return (
                f"{volts(found.volts)} of ripple while charging; up to {volts(found.most_v)} is usual.",
                "A rectifier may have failed: have the generator looked at.",
            )
    assert_never(found)
