"""A piece's and a load's own figures as a person would type them, in the units in use."""

from spare_margin.core.model.pieces import Conductor, FixedPiece, Load
from spare_margin.web.sheet.models import LoadForm, PieceForm
from spare_margin.wording.craft.pieces import size_typed
from spare_margin.wording.language.figures import ohms
from spare_margin.wording.language.units import celsius, figure, metres


def _number(value: float | None, unit: str = "") -> str:
    return "" if value is None else figure(f"{value:g}") + unit


def _plain(text: str) -> str:
    return text.replace("\u00a0", " ")


def piece_form(piece: Conductor | FixedPiece) -> PieceForm:
    """A piece's own figures as a person would type them."""
    wire = piece if isinstance(piece, Conductor) else None
    fixed = piece if isinstance(piece, FixedPiece) else None
    return PieceForm(
        kind=piece.kind,
        name=piece.name,
        length=_plain(metres(wire.length_m)) if wire and wire.length_m else "",
        size=size_typed(wire.size) if wire and wire.size else "",
        resistance="" if piece.resistance_ohm is None else ohms(piece.resistance_ohm),
        style=(fixed.style or "") if fixed else "",
        rating=_number(fixed.rating_a, " A") if fixed else "",
        insulation=_plain(celsius(wire.insulation_c)) if wire and wire.insulation_c else "",
        engine_space=bool(wire and wire.engine_space),
        bundle=str(wire.bundle) if wire and wire.bundle != 1 else "",
        unsupported=bool(wire and wire.unsupported),
        cable=wire.cable if wire else "",
        open=piece.open,
        repair=piece.repair,
        pinned=_number(piece.pinned_v, " V"),
    )


def load_form(load: Load) -> LoadForm:
    """A load's figures as a person would type them."""
    return LoadForm(
        name=load.name,
        behaviour=load.behaviour,
        current=_number(load.current_a, " A"),
        resistance="" if load.load_ohm is None else ohms(load.load_ohm),
        power=_number(load.power_w, " W"),
        rated=_number(load.rated_v, " V"),
        least=_number(load.least_v, " V"),
        start=_number(load.start_multiple),
        duty=load.duty,
        critical=load.critical,
    )
