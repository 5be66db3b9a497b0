"""What is wrong with the protection of a wiring, in words."""

from spare_margin.core.model.pieces import Craft
from spare_margin.core.protection.checks import CONTINUOUS_TIMES, Violation
from spare_margin.wording.craft.pieces import piece_name
from spare_margin.wording.language.figures import amperes, digits
from spare_margin.wording.language.units import figure, metres

MOST_NAMED = 3


def violation_words(found: Violation, craft: Craft) -> tuple[str, str]:
    """What is wrong, and what to do. Raising a fuse is never the cure of a drop."""
    piece, fuse = _which(found.piece, found, craft), _which(found.fuse, found, craft)
    facts = {key: value for key, value in found.facts.items() if isinstance(value, float)}
    match found.code:
        case "unfused":
            return (
                f"No fuse on the way to {_loads(found, craft)}: {piece} would burn in a short.",
                f"Fit {_fitting(found)} as near the source as practicable, no larger than the wire bears.",
            )
        case "thin_for_fuse":
            return (
                f"{piece} bears {amperes(facts['amperes'])}; {fuse} lets {amperes(facts['rating'])} "
                "through.",
                f"{digits(facts['fits'], 4)} A of the same style carries what flows and starts."
                if "fits" in facts
                else "A thicker wire: no smaller fuse carries what flows and starts.",
            )
        case "fuse_far":
            return (
                f"{metres(facts['metres'])} of wire from the source on without a fuse, on the way to "
                f"{_loads(found, craft)}.",
                f"A fuse nearer the source: within {metres(facts['most'])}, or what the code in force "
                "says.",
            )
        case "cannot_break":
            return (
                f"A short behind {piece} could draw {amperes(facts['amperes'])}; its class breaks "
                f"{amperes(facts['breaks'])} at most. So too on the way to {_loads(found, craft)}.",
                "One of a class that breaks more, at the battery, protects them all.",
            )
        case "wrong_order":
            return (
                f"{piece} stands before {fuse}: the larger one behind it protects nothing.",
                "The larger belongs nearer the source.",
            )
        case "fuse_small":
            times = figure(f"{CONTINUOUS_TIMES:g}")
            return (
                f"{piece} carries {amperes(facts['amperes'])}: it wants {times} \u00d7 what flows for "
                f"long, {amperes(facts['needed'])}.",
                "Look first why so much flows. A larger fuse only if every wire after it bears it.",
            )
        case "opens_at_start":
            return (
                f"{piece} may open at a start: {amperes(facts['amperes'])} for about "
                f"{digits(facts['seconds'], 1)} s, it surely carries that for "
                f"{digits(facts['carries'], 1)} s.",
                "A slow one of the same rating, or the next rating if the wire bears it.",
            )
    raise AssertionError(found.code)


def _which(key: str, found: Violation, craft: Craft) -> str:
    """A piece by its name, and by whose run it is on where another has the same name."""
    names = {p.id: piece_name(p) for p in craft.pieces}
    name = names.get(key, "")
    shared = sum(other == name for other in names.values()) > 1
    return f"{name} ({_loads(found, craft)})" if shared and found.loads else name


def _fitting(found: Violation) -> str:
    """The fuse that fits, in words."""
    style, rating = found.facts.get("style"), found.facts.get("rating")
    if not isinstance(style, str) or not isinstance(rating, float):
        return "a fuse"
    return f"a {style} fuse of {digits(rating, 4)} A"


def _loads(found: Violation, craft: Craft) -> str:
    named = [x.name for x in craft.loads if x.id in found.loads]
    if len(named) > MOST_NAMED:
        return f"{', '.join(named[:MOST_NAMED])} and {len(named) - MOST_NAMED} more"
    return ", ".join(named)
