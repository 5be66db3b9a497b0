"""Pieces, points and loads as people call them, and their figures in a short line."""

from dataclasses import replace

from spare_margin.core.errors import NoSolution
from spare_margin.core.model.naming import KIND_NAMES, called, point_called
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, Size
from spare_margin.wording.language.figures import amperes, digits, ohms, volts
from spare_margin.wording.language.units import figure, in_use, metres


def piece_name(piece: Conductor | FixedPiece) -> str:
    """What a person calls this piece: its name, else its kind and what tells it from others."""
    if isinstance(piece, Conductor) and not piece.name and piece.size:
        return f"Wire {size_typed(replace(piece.size, system=piece.size.system.removesuffix('-road')))}"
    return piece.name or figure(called(piece))


def point_name(craft: Craft, point_id: str) -> str:
    """What a person calls this test point: its name, else the pieces it lies after and before."""
    return point_called(craft, craft.point(point_id), piece_name)


def size_name(size: Size) -> str:
    """A size as people say it: `16 mm\u00b2`, `10 AWG`."""
    if size.system == "awg":
        return f"{size.value}\u00a0AWG"
    return f"{figure(size.value)}\u00a0mm\u00b2" + (
        "\u00a0road" if size.system == "mm2-road" else ""
    )


def size_typed(size: Size) -> str:
    """A size as a person would type it."""
    return size_name(size).replace("\u00a0", " ")


def spec(piece: Conductor | FixedPiece) -> str:
    """The piece's figures in one short line."""
    if isinstance(piece, Conductor):
        parts = [size_name(piece.size) if piece.size else None]
        if piece.size is None and piece.ohm_per_m is not None:
            parts = [f"{ohms(piece.ohm_per_m)}/m"]
        parts.append(metres(piece.length_m) if piece.length_m else None)
        if piece.resistance_ohm is not None:
            parts.append(ohms(piece.resistance_ohm))
        return " \u00b7 ".join(p for p in parts if p) or "no size or length yet"
    if piece.kind in ("fuse", "breaker"):
        if piece.rating_a is None and piece.resistance_ohm is None:
            return f"{piece.style}, rating not read yet" if piece.style else "rating not read yet"
        rating = f"{figure(f'{piece.rating_a:g}')}\u00a0A" if piece.rating_a else ""
        style = piece.style if piece.style or piece.kind == "breaker" else "blade"
        return " ".join(p for p in (style, rating) if p) or ohms(piece.resistance_ohm or 0)
    if piece.open:
        return "open"
    if piece.kind == "unknown" and piece.resistance_ohm is None:
        return "not drawn yet"
    if piece.style:
        return piece.style
    return (
        ohms(piece.resistance_ohm)
        if piece.resistance_ohm is not None
        else KIND_NAMES[piece.kind].lower()
    )


def load_spec(load: Load) -> str:
    """What the load draws, and how."""
    rated = f" at {digits(load.rated_v, 4)} V" if load.rated_v else ""
    power = f"{digits(load.power_w, 4)} W{rated}" if load.power_w else ""
    if load.behaviour is None:
        first = "current not known yet"
    elif load.load_ohm is not None:
        first = ohms(load.load_ohm)
    elif load.behaviour == "constant_current":
        first = amperes(load.current_a or 0)
    elif load.behaviour == "constant_power":
        first = f"{power}, constant power"
    elif load.behaviour == "filament":
        first = f"{power}, filament"
    else:
        first = f"{power}, resistor"
    return first + (
        f" \u00b7 starts \u00d7{digits(load.start_multiple, 3)}" if load.start_multiple else ""
    )


def stall_words(stalled: NoSolution) -> str:
    """What is said of a load that no voltage can feed, and what its loop may have at most."""
    says = (
        f"{stalled.name} would stall or drop out: its circuit has too much resistance to feed it at any "
        "voltage."
    )
    if stalled.loop_ohm is None or stalled.most_ohm is None:
        return says
    return (
        f"{says} It is {ohms(stalled.loop_ohm)}, source included; {ohms(stalled.most_ohm)} is the most "
        "that would work."
    )


def works(load: Load, got: float, scenario: str) -> str:
    """Whether a load works on the volts it gets in a scenario; empty where nobody said what it needs."""
    if load.least_v is None:
        return ""
    does = "drops out" if got < load.least_v else "works"
    return (
        f"In \u201c{scenario}\u201d, {load.name} {does}: it needs {volts(load.least_v)} and gets "
        f"{volts(got)}."
    )


def back_word() -> str:
    """What the return side is called here."""
    return in_use().back_word


def worded(text: str) -> str:
    """A fixed sentence in the words of this workshop: `{return}` is what the return side is called."""
    return text.replace("{return}", back_word())


def side_word(side: str) -> str:
    """A side by the word that is set for it."""
    return {"return": back_word(), "round_trip": "round trip"}.get(side, side)
