"""What things are called where nobody named them: short, in the trade's words.

Errors name pieces with these too; what is shown on screen goes through `wording`, which adds the
workshop's decimal mark.
"""

from collections.abc import Callable, Mapping

from .pieces import Conductor, Craft, FixedPiece, TestPoint

KIND_NAMES: Mapping[str, str] = {
    "conductor": "Wire",
    "joint": "Joint",
    "fuse": "Fuse",
    "breaker": "Breaker",
    "switch": "Switch",
    "relay_contact": "Relay contact",
    "body_return": "Body return",
    "resistor": "Resistor",
    "unknown": "Unknown section",
}


def called(piece: Conductor | FixedPiece) -> str:
    """What a person calls this piece: its name, else its kind and what tells it from others.

    >>> called(FixedPiece(id="f", start="a", end="b", side="feed", kind="fuse", rating_a=15.0))
    'Fuse 15 A'
    """
    if piece.name:
        return piece.name
    if isinstance(piece, Conductor):
        size = piece.size.value if piece.size else ""
        unit = (
            "" if not size else " AWG" if piece.size and piece.size.system == "awg" else " mm\u00b2"
        )
        return f"Wire {size}{unit}".strip()
    if piece.rating_a:
        return f"{KIND_NAMES[piece.kind]} {piece.rating_a:g} A"
    if piece.kind == "joint" and piece.style:
        return piece.style[0].upper() + piece.style[1:]
    return KIND_NAMES[piece.kind]


def point_called(
    craft: Craft, point: TestPoint, name: Callable[[Conductor | FixedPiece], str] = called
) -> str:
    """What a person calls this test point: its name, else the pieces it lies after and before.

    Where one of the two is a section that nobody has drawn, the other alone names it: `Switch in`,
    `Switch out`, as the current goes.

    Args:
        craft: the wiring.
    """
    if point.name:
        return point.name
    ends, starts = craft.beside(point.id)
    before, after = (None if p is None else name(p) for p in (ends, starts))
    if before is None or after is None:
        load = next((x.name for x in craft.loads if point.id in (x.start, x.end)), None)
        before, after = before or load, after or load
    if before and after:
        vague = [p is not None and p.kind == "unknown" and not p.name for p in (ends, starts)]
        if vague == [True, False]:
            return f"{after} in"
        if vague == [False, True]:
            return f"{before} out"
        return f"{before} / {after}"
    return before or after or point.id
