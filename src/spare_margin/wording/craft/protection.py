"""What is wrong with the protection of a wiring, in words."""

from collections.abc import Mapping

from spare_margin.core.model.pieces import Conductor, Craft
from spare_margin.core.protection.checks import Code, Violation
from spare_margin.core.protection.fuses import CONTINUOUS_TIMES
from spare_margin.wording.craft.pieces import piece_name
from spare_margin.wording.language.figures import about_amperes, amperes, count, digits
from spare_margin.wording.language.units import figure, metres

MOST_NAMED = 3


ACTS: Mapping[Code, str] = {
    "unfused": "Fit a fuse", "thin_for_fuse": "Fit a smaller fuse or a thicker wire",
    "overloaded": "Fit a thicker wire", "unfused_by_custom": "Guard the unfused starter cable",
    "fuse_far": "Move the fuse nearer the source", "fuse_small": "Find why the current is high",
    "opens_at_start": "Fit a slower fuse", "wrong_order": "Put the larger fuse nearer the source",
    "cannot_break": "Fit a main fuse that can break a short",
}  # fmt: skip
"""What is to be done, in a few words; the reasons stand behind it."""
LEARN: Mapping[str, str] = {
    "to_size": "Size the craft", "undrawn": "Draw what is not drawn yet",
    "rating": "Read the rating off the fuse", "size": "Enter the wire's size",
    "insulation": "Enter what the insulation bears", "row": "Add the wire to the tables",
}  # fmt: skip
"""What is to be done about what is not known."""


def act_words(found: Violation) -> str:
    """What is to be done about it, in a few words."""
    return LEARN[str(found.facts["what"])] if found.code == "not_known" else ACTS[found.code]


def violation_words(found: Violation, craft: Craft) -> tuple[str, str]:
    """What is wrong, and what to do. Raising a fuse is never the cure of a drop."""
    piece, fuse = _which(found.piece, found, craft), _which(found.fuse, found, craft)
    facts = {key: value for key, value in found.facts.items() if isinstance(value, float)}
    match found.code:
        case "unfused":
            return (
                f"No fuse feeding {_loads(found, craft)}: a short would burn {piece}.",
                f"Fit {_fitting(found)} as close to the source as practicable, no larger than "
                "the wire's rating.",
            )
        case "thin_for_fuse":
            return (
                f"{piece} is rated for {amperes(facts['amperes'])}, but {fuse} lets "
                f"{amperes(facts['rating'])} through.",
                f"A {digits(facts['fits'], 4)} A fuse of the same style carries the running and "
                "starting current."
                if "fits" in facts
                else "Fit a thicker wire: no smaller fuse carries the running and starting current.",
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
                f"{metres(facts['metres'])} of unfused wire from the source, feeding "
                f"{_loads(found, craft)}.",
                f"A fuse nearer the source: within {metres(facts['most'])}, or what the code in force "
                "says.",
            )
        case "cannot_break":
            named = piece if "(" in piece else f"{piece} ({_loads(found, craft)})"
            return (
                f"A short after {named} could draw about {about_amperes(facts['amperes'])}. Its breaking "
                f"capacity is only {amperes(facts['breaks'])}.",
                "One fuse with a higher breaking capacity, at the battery, protects them all.",
            )
        case "wrong_order":
            return (
                f"{piece} comes before the larger {fuse}, which then protects nothing.",
                "Put the larger one nearer the source.",
            )
        case "fuse_small":
            times = figure(f"{CONTINUOUS_TIMES:g}")
            return (
                f"{piece} carries {amperes(facts['amperes'])}; for continuous current it should be {times} "
                f"times that, {amperes(facts['needed'])}.",
                "First find out why the current is so high. Fit a larger fuse only if every "
                "wire after it is "
                "rated for it.",
            )
        case "opens_at_start":
            return (
                f"{piece} may {_opens(found, craft)} during a start: {amperes(facts['amperes'])} for about "
                f"{digits(facts['seconds'], 1)} s, but it is only sure to carry that for "
                f"{digits(facts['carries'], 1)} s.",
                "Use a slow-blow fuse of the same rating, or the next rating up if the wire allows.",
            )
    raise AssertionError(found.code)


PLAN = "Size the craft: each fuse is rated, and each wire sized to bear it."


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


def _to_size(found: Violation, craft: Craft) -> tuple[str, str]:
    wires = {p.id for p in craft.pieces if isinstance(p, Conductor)}
    counts = [(len(wires.intersection(found.pieces)), "wire")]
    counts.append((len(found.pieces) - counts[0][0], "fuse"))
    told = " and ".join(f"{count(n)} {what}{'s' if n > 1 else ''}" for n, what in counts if n)
    return f"To be sized: {told}.", PLAN


def _not_known(found: Violation, craft: Craft) -> tuple[str, str]:
    if found.facts["what"] == "to_size":
        return _to_size(found, craft)
    one, several, do = NOT_KNOWN[str(found.facts["what"])]
    said = one if len(found.pieces) == 1 else several
    names = {p.id: piece_name(p) for p in craft.pieces}
    said = said.format(piece=names.get(found.piece, ""), count=len(found.pieces))
    return f"{said}. Whether every wire can carry its fuse is not known.", do


def _opens(found: Violation, craft: Craft) -> str:
    breaker = any(p.id == found.piece and p.kind == "breaker" for p in craft.pieces)
    return "trip" if breaker else "blow"


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
