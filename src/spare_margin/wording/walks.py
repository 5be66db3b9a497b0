"""What a walk says: why it ended, how a point is reached, what a pattern means, what a stand-in shows."""

from collections.abc import Mapping

from spare_margin.core.circuit.runs import Run
from spare_margin.core.measure.patterns import TerminalPattern
from spare_margin.core.measure.stand_in import StandIn
from spare_margin.core.model.pieces import Access, Craft
from spare_margin.core.walk.walk import Ending, Measurement

from .figures import amperes, ohms
from .names import span_name
from .pieces import back_word, side_word

ENDINGS: Mapping[Ending, str] = {
    "good": "The whole loop is within its budget at the loaded current: nothing else needs a test.",
    "cornered": "Cornered: the readings point to one piece.",
    "load": "Feed and return carry what they should: suspect the load, or what commands it.",
    "no_current": "No current flows, and nothing more can be read that would tell where it stops.",
    "out_of_reach": "Everything that can be read here was read or skipped.",
    "as_drawn": "Every piece is as good as drawn: the wiring itself loses too much at this current.",
}
MANNERS: Mapping[Access, str] = {
    "open": "In the open: touch the metal of the terminal itself, not the screw or nut over it.",
    "backprobe": "Back-probe: go in at the wire side, parallel to the wire, without nicking the seal; "
    "never push a thick tip into the front of a terminal.",
    "trim": "Behind trim: take it off first. Do not pierce insulation to save the work.",
}
"""How a point is reached without hurting it."""


def measurement_title(craft: Craft, run: Run, each: Measurement) -> str:
    """What a measurement is called, in words."""
    load = run.load.name
    match each.kind:
        case "source":
            return "The source, post to post"
        case "current":
            return f"The current of {load}"
        case "load":
            return f"The whole loop, across {load}"
        case "side":
            return f"The whole {side_word(each.side or '')}"
    ends = {each.red, each.black}
    coil = next((x for x in craft.loads if {x.start, x.end} == ends), None)
    if coil is not None:
        return f"Across {coil.name}"
    between = run.between(each.red, each.black)
    name = span_name(craft, run, each.red, each.black)
    return f"Across {name}" if between and len(between.pieces) == 1 else name


def pattern_words(code: TerminalPattern) -> tuple[str, str]:
    """A pattern at the load's terminals as (what it means, what to do)."""
    back = back_word()
    match code:
        case "wiring_good":
            return (
                "The wiring is good at this current.",
                "Suspect the load, or what commands it.",
            )
        case "feed_excess":
            return "Excess resistance in the feed.", "Read the pieces of the feed."
        case "return_excess":
            return f"Excess resistance in the {back}.", f"Read the pieces of the {back}."
        case "both_sides":
            return (
                "Both sides are out of budget, or a piece they share with others is.",
                "Look at shared pieces and the source first, then at each side.",
            )
        case "return_open":
            return (
                f"The {back} is open.",
                f"Find the first point on the {back} that is not at the source.",
            )
        case "feed_open":
            return (
                "The feed is open: fuse, breaker, switch or wire \u2014 or it is not switched on.",
                f"A blown fuse: look for a short to the {back} below it before replacing it.",
            )
    raise AssertionError(code)


def stand_in_words(seen: StandIn, amps: float) -> str:
    """Whether a stand-in load that draws so much (A) can prove the run."""
    if seen.wanted_ohm is None or seen.wanted_a is None:
        return "The run has no budget at a loaded current to prove it against."
    if seen.proves:
        return (
            f"At {amperes(amps)} it can reveal {ohms(seen.least_ohm)}; the budget is "
            f"{ohms(seen.wanted_ohm)}: good enough."
        )
    return (
        f"This test load cannot prove this circuit: at {amperes(amps)} it only reveals "
        f"{ohms(seen.least_ohm)}, a third of the budget is {ohms(seen.wanted_ohm / 3)}. Take one of "
        f"{amperes(seen.wanted_a)} or more, or a lower range."
    )
