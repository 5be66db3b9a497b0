"""What is concluded is put right at once; what that costs, whether it was bad or not."""

from dataclasses import replace

from spare_margin.core.model.pieces import Conductor, FixedPiece

from . import acts as cost
from .acts import Act, Claim
from .exercise import Exercise
from .played import Played, Told, only, switched


def conclude(at: Played, done: Act) -> Played:
    """What is said to be wrong is put right at once; what is sound then costs as much.

    Args:
        done: what is done.
    """
    minutes = price = 0.0
    for claim in done.claims:
        took, paid = repair_cost(at.exercise, claim)
        minutes, price = minutes + took, price + paid
    if not done.claims:
        return only(at, Told(minutes=0.0))
    held = at.state
    mended = held.mended | {c.element for c in done.claims}
    at = replace(at, repairs=at.repairs + 1, on_min=0.0, red="", black="")
    state = replace(
        held, mended=mended, joined=None, stand_in=None, warm=False, loads={}, contacts={}
    )
    return switched(at, replace(state, power=True), Told(minutes=minutes, price=price))


def repair_cost(exercise: Exercise, claim: Claim) -> tuple[float, float]:
    """Minutes and price of doing what is said of one element.

    Args:
        exercise: the exercise.
        claim: what is said.
    """
    piece = next((p for p in exercise.craft.pieces if p.id == claim.element), None)
    if piece is None:
        load = any(x.id == claim.element for x in exercise.craft.loads)
        return (cost.LOAD_MIN, cost.LOAD_PRICE) if load else (cost.SOURCE_MIN, cost.SOURCE_PRICE)
    if claim.remedy == "remade" and piece.kind in cost.REMADE:
        return cost.REMADE_MIN, 0.0
    if isinstance(piece, Conductor):
        metres = max(piece.length_m, 1.0)
        return 5.0 + cost.WIRE_MIN_M * metres, 2.0 + cost.WIRE_PRICE_M * metres
    assert isinstance(piece, FixedPiece)
    return cost.REPLACED[piece.kind]
