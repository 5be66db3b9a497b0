"""What the pieces and points of an exercise are called: the same names as in real work."""

from collections.abc import Mapping

from spare_margin.core.practice.exercise import Exercise
from spare_margin.wording.craft.names import full_names, point_names
from spare_margin.wording.craft.pieces import piece_name, point_name


def piece_names(made: Exercise) -> Mapping[str, str]:
    """What each piece, load and source is called, by its id."""
    craft = made.craft
    names = {p.id: piece_name(p) for p in craft.pieces}
    for key in reversed(list(dict.fromkeys((*made.looked_at, *made.runs)))):
        names |= full_names(craft, made.runs[key])
    names |= {x.id: x.name for x in craft.loads}
    return names | {s.id: s.name for s in craft.sources}


def names_of_points(made: Exercise) -> Mapping[str, str]:
    """What each test point is called, by its id: no two the same."""
    craft = made.craft
    names = {p.id: point_name(craft, p.id) for p in craft.points}
    for key in reversed(list(dict.fromkeys((*made.looked_at, *made.runs)))):
        names |= point_names(craft, made.runs[key])
    counts: dict[str, int] = {}
    out = {}
    for key, name in names.items():
        counts[name] = counts.get(name, 0) + 1
        out[key] = name if counts[name] == 1 else f"{name} ({counts[name]})"
    return out
