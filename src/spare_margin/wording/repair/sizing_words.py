"""What came of sizing, in words."""

from collections.abc import Sequence

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft, Size
from spare_margin.core.sizing.sizing import Impossible, Sizing
from spare_margin.wording.craft.pieces import piece_name, side_word, size_name
from spare_margin.wording.language.figures import amperes, digits, fixed, volts

MOST_TOLD = 4
LEAST_GAP = 0.001
NOT_SIZED = "The craft could not be sized. Its drawing may not be finished."
LOOKING = "Looking for sizes that hold \u2026"


def way_name(key: str, mends: bool) -> str:
    """The craft as it is, mended, or with the sizes that were found (mended too, with `mends`)."""
    sized = "Mended, with these sizes" if mends else "With these sizes"
    return {"as_is": "As it is", "mended": "What was found mended", "sized": sized}[key]


def cost_text(value: float, objective: str) -> str:
    """Copper in m mm2 to a tenth, money to the hundredth."""
    return fixed(value, 1 if objective == "copper" else 2)


def size_text(size: Size) -> str:
    """A size with its finish, where that is not plain."""
    return size_name(size) + ("" if size.finish == "plain" else f" {size.finish}")


def trouble_words(trouble: JobError) -> str:
    """Why a craft cannot be sized at all."""
    wanted = f" It takes {trouble.accepted}." if trouble.accepted else ""
    return f"{trouble.problem[:1].upper()}{trouble.problem[1:]}.{wanted}"


def impossible_sentences(why: Sequence[Impossible], craft: Craft) -> list[str]:
    """Why no sizes keep every ceiling, a sentence each."""
    first, *more = (impossible_words(each, craft) for each in why[:MOST_TOLD])
    return [f"No sizes meet every limit. {first}.", *(f"{each}." for each in more)]


def best_words(best: float, bound: float, objective: str) -> str:
    """How far the search is."""
    least = cost_text(bound, objective)
    return f"Best so far {cost_text(best, objective)}; none can be below {least}."


def sure_words(made: Sizing) -> str:
    """How sure it is that no other sizes take less."""
    if made.proven:
        return "Proven: no other sizes meet every limit for less."
    if made.bound <= 0:
        return "Best found. Not proven, because parallel paths share the current."
    gap = (
        f"{fixed(made.gap * 100, 1)} %" if made.gap >= LEAST_GAP else f"less than {fixed(0.1, 1)} %"
    )
    return f"Best found; another set could be at most {gap} less."


def tried_words(made: Sizing) -> str:
    """How many choices were tried."""
    tries = "choice" if made.rounds == 1 else "choices"
    return f"{made.rounds} {tries} tried with real loads and hot conductors."


def still_costing(sure: str) -> str:
    """The same, while the ceilings' prices are worked out."""
    return f"{sure} Working out what each limit costs \u2026"


def second_words(made: Sizing, craft: Craft, objective: str) -> str:
    """The next best choice, in a sentence; empty where there is none."""
    if made.second is None:
        return ""
    sizes, cost = made.second
    names = {p.id: piece_name(p) for p in craft.pieces}
    other = [
        f"{names[key]} {size_text(size)}" for key, size in sizes.items() if size != made.sizes[key]
    ]
    told = ", ".join(other[:MOST_TOLD])
    rest = f" and {digits(len(other) - MOST_TOLD, 3)} more" if len(other) > MOST_TOLD else ""
    return f"Second best {cost_text(cost, objective)}: {told}{rest}."


def impossible_words(why: Impossible, craft: Craft) -> str:
    """Which load, which ceiling, by how much, and what would make it possible."""
    if why.held is None or (not why.held.load and not why.wire):
        return "no choice of sizes can be solved"
    where = next((s.name for s in craft.scenarios if s.id == why.held.scenario), "")
    if why.wire:
        wire = next(p for p in craft.pieces if p.id == why.wire)
        return (
            f"{piece_name(wire)} carries {amperes(why.by)} more than any stocked size is rated for in "
            f"\u201c{where}\u201d. Use higher-temperature insulation or a thicker size"
        )
    load = craft.load(why.held.load)
    name = load.name
    if why.by == float("inf"):
        return f"{name}: no stocked size feeds it in \u201c{where}\u201d. It drops out"
    if why.held.under == "least":
        during = ""
        if why.held.starting:
            during = f" while {craft.load(why.held.starting).name} starts"
        return (
            f"{name}: {volts(why.by)} short of its minimum voltage in \u201c{where}\u201d{during}, "
            "with the thickest wire in stock"
        )
    part = {"round_trip": f"feed and {side_word('return')} together"}.get(
        why.held.under, f"the {side_word(why.held.under)}"
    )
    verb = "are" if why.held.under == "round_trip" else "is"
    told = (
        f"{name}: {part} {verb} still {volts(why.by)} over the limit in \u201c{where}\u201d with the "
        "thickest wire in stock"
    )
    if why.joints_v is not None and why.joints_v > 0:
        told += f"; what is not being sized drops {volts(why.joints_v)} by itself"
    return f"{told}. A limit {volts(why.by)} higher, thicker wire or better joints would do"
