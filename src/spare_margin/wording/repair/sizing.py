"""What came of sizing, in words."""

from spare_margin.core.model.pieces import Craft
from spare_margin.core.sizing.sizing import Impossible
from spare_margin.wording.craft.pieces import piece_name, side_word
from spare_margin.wording.language.figures import amperes, volts


def impossible_words(why: Impossible, craft: Craft) -> str:
    """Which load, which ceiling, by how much, and what would make it possible."""
    if why.held is None or (not why.held.load and not why.wire):
        return "no choice of sizes can be solved"
    where = next((s.name for s in craft.scenarios if s.id == why.held.scenario), "")
    if why.wire:
        wire = next(p for p in craft.pieces if p.id == why.wire)
        return (
            f"{piece_name(wire)} ({why.wire}) carries {amperes(why.by)} more than any size on offer bears "
            f"in \u201c{where}\u201d; insulation that bears more heat, or a thicker size, would do"
        )
    load = craft.load(why.held.load)
    name = f"{load.name} ({load.id})" if load.name != load.id else load.id
    if why.by == float("inf"):
        return f"{name}: no size on offer feeds it in \u201c{where}\u201d: it drops out"
    if why.held.under == "least":
        during = ""
        if why.held.starting:
            during = f" while {craft.load(why.held.starting).name} starts"
        return (
            f"{name}: the least volts it works at are missed by {volts(why.by)} in \u201c{where}\u201d"
            f"{during} with the thickest wire on offer"
        )
    ceiling = {
        "feed": f"the {side_word('feed')}\u2019s ceiling (feed_v)",
        "return": f"the {side_word('return')}\u2019s ceiling (return_v)",
        "round_trip": "the ceiling of both together (round_trip_v)",
    }[why.held.under]
    told = (
        f"{name}: {ceiling} cannot be kept: {volts(why.by)} too much in \u201c{where}\u201d "
        "with the thickest wire on offer"
    )
    if why.joints_v is not None and why.joints_v > 0:
        told += f"; what is not sized loses {volts(why.joints_v)} by itself"
    return f"{told}. A ceiling {volts(why.by)} higher, thicker wire or better joints would do"
