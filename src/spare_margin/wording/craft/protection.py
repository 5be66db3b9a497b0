"""What is wrong with the protection of a wiring, in words."""

from collections.abc import Mapping

from spare_margin.core.model.pieces import Craft
from spare_margin.core.protection.checks import Violation
from spare_margin.core.protection.fuses import CONTINUOUS_TIMES
from spare_margin.wording.craft.pieces import piece_name
from spare_margin.wording.language.figures import about_amperes, amperes, digits
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
                f"{piece} is rated for {amperes(facts['amperes'])}, but {fuse} lets "
                f"{amperes(facts['rating'])} through.",
                f"{digits(facts['fits'], 4)} A of the same style carries what flows and starts."
                if "fits" in facts
                else "A thicker wire: no smaller fuse carries what flows and starts.",
            )
        case "overloaded":
            where = craft.scenario(str(found.facts["scenario"])).name
            return (
                f"{piece} carries {amperes(facts['amperes'])} in \u201c{where}\u201d, together for "
                f"{_loads(found, craft)}. It is rated for {amperes(facts['bears'])}.",
                "Fit a thicker wire there, or give some of these loads a wire of their own.",
            )
        case "unfused_by_custom":
            return (
                f"No fuse on the main cable of {_loads(found, craft)}, as is usual for an engine's "
                "starter. No fuse would outlast the start.",
                "Keep it short, guarded and apart from other wiring; follow the maker and the code in "
                "force.",
            )
        case "not_known":
            return _not_known(found, craft)
        case "fuse_far":
            return (
                f"{metres(facts['metres'])} of wire from the source on without a fuse, on the way to "
                f"{_loads(found, craft)}.",
                f"A fuse nearer the source: within {metres(facts['most'])}, or what the code in force "
                "says.",
            )
        case "cannot_break":
            named = piece if "(" in piece else f"{piece} ({_loads(found, craft)})"
            return (
                f"A short behind {named} could draw about {about_amperes(facts['amperes'])}. Its class "
                f"breaks {amperes(facts['breaks'])} at most.",
                "One fuse of a class that breaks more, at the battery, protects them all.",
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


NOT_KNOWN: Mapping[str, tuple[str, str, str]] = {
    "undrawn": (
        "Part of this wiring is not drawn", "Part of this wiring is not drawn",
        "Look for the fuse and the wire there, and draw them.",
    ),
    "rating": (
        "The rating of {piece} is not known", "The ratings of {count} fuses are not known",
        "Read it off the fuse, and enter it.",
    ),
    "size": (
        "The size of {piece} is not known", "The sizes of {count} wires are not known",
        "Enter the size.",
    ),
    "insulation": (
        "The insulation of {piece} is not known", "The insulation of {count} wires is not known",
        "Enter its temperature, as printed on the wire or by its kind.",
    ),
    "row": (
        "The tables do not say what {piece} is rated for",
        "The tables do not say what {count} wires are rated for",
        "Add a row to the table of wires, from the maker.",
    ),
}  # fmt: skip
"""What is not known, of one piece and of several, and what to do."""


def _not_known(found: Violation, craft: Craft) -> tuple[str, str]:
    one, several, do = NOT_KNOWN[str(found.facts["what"])]
    said = one if len(found.pieces) == 1 else several
    names = {p.id: piece_name(p) for p in craft.pieces}
    said = said.format(piece=names.get(found.piece, ""), count=len(found.pieces))
    return f"{said}. Whether every wire can carry its fuse is not known.", do


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
