"""What came of sizing, in words."""

from collections.abc import Mapping, Sequence

from spare_margin.core.circuit.runs import Run
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.core.model.tables import Tables
from spare_margin.core.sizing.easing import Ceiling
from spare_margin.core.sizing.free import FuseChosen
from spare_margin.core.sizing.reasons import Reason
from spare_margin.core.sizing.sizing import Impossible, Sizing
from spare_margin.core.sizing.ways_out import WayOut
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.craft.pieces import piece_name, side_word, size_name, worded
from spare_margin.wording.language.figures import amperes, digits, fixed, volts
from spare_margin.wording.language.units import figure, metres

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


def eased_words(eased: Mapping[Ceiling, float], craft: Craft) -> list[str]:
    """The limits that no sizes meet, with by how much these miss them; empty where there are none."""
    return [
        f"Over its limit with the thickest wire in stock: {craft.load(load).name}, "
        f"{_part(under)} by {volts(by)}."
        for (load, under), by in eased.items()
    ]


def _part(under: str) -> str:
    both = f"feed and {side_word('return')} together"
    return both if under == "round_trip" else f"the {side_word(under)}"


def sure_words(made: Sizing, over: bool = False) -> str:
    """How sure it is that no other sizes take less; `over` where limits are missed all the same."""
    if made.proven and over:
        return "Proven: no other sizes come as near for less."
    if made.proven:
        return "Proven: no other sizes meet every limit for less."
    if made.bound <= 0:
        return "Best found. Not proven, because parallel paths share the current."
    gap = (
        f"{fixed(made.gap * 100, 1)} %" if made.gap >= LEAST_GAP else f"less than {fixed(0.1, 1)} %"
    )
    return f"Best found; another set could be at most {gap} less."


def unknown_words(names: Sequence[str]) -> list[str]:
    """Loads whose runs are held to no limit; empty where there are none."""
    if not names:
        return []
    return [f"Not sized: {', '.join(names)}. Part of the run, or its load, is not known."]


def tried_words(made: Sizing) -> str:
    """How many choices were tried."""
    tries = "choice" if made.rounds == 1 else "choices"
    return f"{made.rounds} {tries} tried with real loads and hot conductors."


def still_costing(sure: str) -> str:
    """The same, while the ceilings' prices are worked out."""
    return f"{sure} Working out what each limit costs \u2026"


def second_words(made: Sizing, names: Mapping[str, str], objective: str) -> str:
    """The next best choice, in a sentence; empty where there is none. `names` are the wires', by id."""
    if made.second is None:
        return ""
    sizes, cost = made.second
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
    part = _part(why.held.under)
    verb = "are" if why.held.under == "round_trip" else "is"
    told = (
        f"{name}: {part} {verb} still {volts(why.by)} over the limit in \u201c{where}\u201d with the "
        "thickest wire in stock"
    )
    if why.joints_v is not None and why.joints_v > 0:
        told += f"; what is not being sized drops {volts(why.joints_v)} by itself"
    return f"{told}. A limit {volts(why.by)} higher, thicker wire or better joints would do"


TO_BE_SIZED = "to be sized"
UNDER: dict[str, str] = {
    "feed": "feed",
    "return": "{return}",
    "round_trip": "feed and {return} together",
}
FORCED: dict[str, str] = {
    "thinnest": "The thinnest wire in stock.",
    "mechanical": "The thinnest that is strong enough by itself.",
    "dearer": "The next thinner one costs more.",
    "open": "The next thinner one may do as well; that was not tried to the end.",
}


def reason_words(why: Reason, craft: Craft, runs: Mapping[str, Run]) -> str:
    """What forces a wire to be as thick as it is, in a sentence."""
    names: Mapping[str, str] = {p.id: piece_name(p) for p in craft.pieces}
    if why.held is not None and why.held.load in runs:
        names = {**names, **full_names(craft, runs[why.held.load])}
    if why.thinner is None or why.forced in FORCED:
        return FORCED[why.forced]
    thinner = size_text(why.thinner)
    said = _forced_words(why, craft, runs, names, thinner)
    if why.with_wire:
        return f"One cable with the other side. {said[:1].upper()}{said[1:]}"
    return f"{said[:1].upper()}{said[1:]}"


def _forced_words(
    why: Reason, craft: Craft, runs: Mapping[str, Run], names: Mapping[str, str], thinner: str
) -> str:
    if why.forced == "fuse":
        return f"{thinner} can't carry its {amperes(why.amperes)} fuse where it lies."
    held = why.held
    assert held is not None
    where = _scenario(craft, held.scenario)
    if why.forced == "current":
        return f"{thinner} would carry {amperes(why.amperes)} more than it is rated for in {where}."
    name = craft.load(held.load).name if held.load else ""
    if why.forced == "volts":
        during = f" while {craft.load(held.starting).name} starts" if held.starting else ""
        if why.by_v == float("inf"):
            return f"with {thinner}, {name} drops out in {where}{during}."
        return (
            f"with {thinner}, {name} is {volts(why.by_v)} short of its minimum in {where}{during}."
        )
    critical = ", which must not fail" if craft.load(held.load).critical else ""
    limit = f"{worded(UNDER[held.under])} limit"
    comma = "," if critical else ""
    told = (
        f"with {thinner}, {name}{critical}{comma} is {volts(why.by_v)} over its {limit} in {where}."
    )
    if not why.eaten:
        return told
    run = runs[held.load]
    eaten = " and ".join(f"{_eater(key, run, runs, names)} ({volts(v)})" for key, v in why.eaten)
    return f"{told} Most of the rest is lost in {eaten}."


def _eater(key: str, run: Run, runs: Mapping[str, Run], names: Mapping[str, str]) -> str:
    """What else loses volts on a run's way: a wire by its side, and whether others use it too."""
    shared = sum(any(s.piece.id == key for s in each.steps()) for each in runs.values()) > 1
    piece = next((s.piece for s in run.steps() if s.piece.id == key), None)
    if isinstance(piece, Conductor):
        return f"{'the shared' if shared else 'its'} {side_word(piece.side)} wire"
    if piece is not None and piece.kind == "fuse":
        return "the shared fuse" if shared else "its fuse"
    return names.get(key, key)


def _scenario(craft: Craft, key: str) -> str:
    return next((f"\u201c{s.name}\u201d" for s in craft.scenarios if s.id == key), "one scenario")


LEAST_FLOW_A = 0.005
"""Less than this is shown as nothing."""


def fuse_reason(chosen: FuseChosen, craft: Craft) -> str:
    """What a fuse is rated for, in a sentence."""
    if chosen.after:
        behind = next((piece_name(p) for p in craft.pieces if p.id == chosen.after), "")
        return f"Not smaller than {behind} behind it."
    start = f"carries a start of {amperes(chosen.start_a)}" if chosen.start_a > 0 else ""
    if chosen.lasting_a < LEAST_FLOW_A:
        return f"Nothing flows through it for long; {start or 'the smallest rating'}."
    told = f"{amperes(chosen.lasting_a)} for long, so {amperes(1.25 * chosen.lasting_a)} or more"
    return f"{told}; {start}." if start else f"{told}."


def rating_text(rating_a: float, style: str) -> str:
    """A fuse's rating and class: `15 A blade`."""
    return f"{figure(f'{rating_a:g}')}\u00a0A {style}"


def ways_words(ways: Sequence[WayOut], tables: Tables) -> list[str]:
    """What else would keep a limit that no size keeps, a sentence each."""
    return [_way_words(each, tables) for each in ways]


def _way_words(each: WayOut, tables: Tables) -> str:
    facts = each.facts
    match each.way:
        case "joints":
            count = int(facts["pieces"])
            which = "One joint less" if count == 1 else f"{count} joints fewer"
            return f"{which} on the way would do: they lose {volts(float(facts['gains_v']))}."
        case "own_feed":
            gains = volts(float(facts["gains_v"]))
            return (
                f"Wires of its own from the source, or a relay with its own feed, would do: other loads "
                f"cost it {gains} in what they share."
            )
        case "shorter":
            return (
                f"A way {metres(float(facts['metres']), '.2g')} shorter would do, of "
                f"{metres(float(facts['of_metres']), '.3g')} of wire."
            )
        case "limits":
            return f"The limits of \u201c{tables.limit_sets[str(facts['set'])].name}\u201d would allow it."
