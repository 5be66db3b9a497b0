"""Repairs and upgrades in words: what a candidate does, why it is not enough, what is recommended."""

from collections import Counter
from collections.abc import Mapping, Sequence, Set

from spare_margin.core.circuit.runs import Held
from spare_margin.core.least import ROUNDING, first_least
from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.core.model.stock import Relay
from spare_margin.core.upgrade.candidates import Candidate
from spare_margin.core.upgrade.moves import (
    Mend,
    Move,
    NewReturn,
    OwnFeed,
    RelayNearLoad,
    SharedRelay,
    SharedReturn,
    Thicken,
)
from spare_margin.core.upgrade.offers import NotOffered
from spare_margin.core.upgrade.order import OrderStep, StepCode
from spare_margin.core.upgrade.parts import PartLine
from spare_margin.core.upgrade.ranking import Ranking
from spare_margin.wording.craft.pieces import back_word, side_word, size_name, worded
from spare_margin.wording.language.figures import (
    amperes,
    digits,
    fixed,
    ohms,
    percent,
    price,
    volts,
)
from spare_margin.wording.language.units import celsius, figure, metres
from spare_margin.wording.measured.verdicts import not_read_words

MENDED = {"cleaned": "Clean", "remade": "Remake", "replaced": "Replace"}


def title(candidate: Candidate, names: Mapping[str, str]) -> str:
    """What a candidate does, in a line; `names` are those of the pieces as found."""
    said = [_move_words(move, names) for move in candidate.offer.moves]
    first, rest = said[0], [s[0].lower() + s[1:] for s in said[1:]]
    return " + ".join([first, *rest])


def _move_words(move: Move, names: Mapping[str, str]) -> str:
    match move:
        case Mend():
            return f"{MENDED[move.how]} {names.get(move.piece, move.piece)}"
        case Thicken():
            return "Thicker wire, shared wiring too" if move.trunk else "Thicker wire"
        case NewReturn():
            if move.beside:
                return f"Extra {back_word()} in parallel with the old one"
            return f"New {back_word()} to the battery"
        case OwnFeed():
            return "Dedicated feed from the battery"
        case RelayNearLoad():
            return "Relay at the load"
        case SharedReturn():
            one = f"extra {back_word()}" if move.beside else f"new {back_word()}"
            return f"One {one} shared by {all_of(move.loads, names)}, with a bar where their feeds part"
        case SharedRelay():
            return f"One relay for {all_of(move.loads, names)}, where their feeds part"


def all_of(loads: Sequence[str], names: Mapping[str, str]) -> str:
    """Loads by their names, in a line.

    Args:
        loads: their ids, at least one.
        names: what each is called.
    """
    *most, last = (names.get(key, key) for key in loads)
    return f"{', '.join(most)} and {last}" if most else last


def alone_words(taken: Sequence[Candidate]) -> str:
    """What it would cost to put each run right by itself; empty where that was not thought of."""
    if not taken:
        return ""
    prices = [c.price for c in taken]
    spent = [] if None in prices else [f"price {price(sum(p for p in prices if p is not None))}"]
    minutes = sum(c.minutes for c in taken)
    return f"One by one: {', '.join([*spent, f'{minutes:.0f} min'])}."


def size_words(candidate: Candidate) -> list[str]:
    """The wires it takes: which, how long, what size."""
    out: Counter[str] = Counter()
    for piece in candidate.craft.pieces:
        if isinstance(piece, Conductor) and piece.id in candidate.sizes:
            which = f"{piece.name}: " if piece.name else ""  # a nameless wire goes by its size
            out[f"{which}{_size(piece.size)}, {metres(piece.length_m)}"] += 1
    return [words if many == 1 else f"{many} \u00d7 {words}" for words, many in out.items()]


def _size(size: Size | None) -> str:
    if size is None:
        return ""
    return size_name(size) + ("" if size.finish == "plain" else f" {size.finish}")


def short_words(candidate: Candidate, names: Mapping[str, str], craft: Craft) -> str:
    """Why a candidate is not enough, or only just; empty where it surely is."""
    now = candidate.now
    if candidate.holds:
        if candidate.unread:
            return f"Whether it is enough is not known: {not_read_words(candidate.unread)}"
        if now.spare_v >= candidate.doubt_v:
            return ""
        return (
            f"Just enough: the new parts could drop {volts(candidate.doubt_v)} more, or less, than "
            "calculated."
        )
    where = next(s.name for s in craft.scenarios if s.id == now.worst)
    if any(v is None for v in now.load_v.values()):
        return "The load drops out."
    left = [names.get(key, key) for key in candidate.left_in]
    if now.spare_v < -ROUNDING:
        spares = now.spend.spares()
        under = first_least(spares, lambda key: spares[key])
        stays = f" It leaves {left[0]} as it is." if left else ""
        over = f"{side_word(under).capitalize()} {volts(-now.spare_v)} over its limit"
        return f"{over} in \u201c{where}\u201d.{stays}"
    if candidate.pull_in is not None and candidate.pull_in[0] < candidate.pull_in[1]:
        got, wanted = candidate.pull_in
        return f"The coil gets {volts(got)}; when hot it needs {volts(wanted)} to pull in."
    if left:
        return f"The fault may be in what this leaves in place: {', '.join(left[:2])}."
    return "The load gets less than its minimum voltage."


def refused_words(refused: NotOffered, names: Mapping[str, str]) -> str:
    """Why something that might have been done is not offered."""
    facts = refused.facts
    named = {"relay": "A relay", "own-feed": "An own feed", "return": "A new {return}"}
    what = worded(named.get(refused.move, "Another candidate"))
    match refused.why:
        case "not_known":
            return (
                "Nothing is offered yet: part of this run, or its load, is not known. "
                "Draw it, or measure the run."
            )
        case "in_series":
            return f"{what} is not offered: another load lies in series. Draw the new way yourself."
        case "no_switch":
            return f"{what} is not offered: there is no switch on the feed to relieve."
        case "no_length":
            return f"{what} is not offered: it needs the lengths of the wires out to the load."
        case "no_fuse":
            return (
                f"{what} is not offered: no fuse in the table carries {amperes(float(facts['amperes']))} "
                "and its start."
            )
        case "no_coil":
            return f"{what} is not offered: no relay of {digits(float(facts['volts']), 3)} V in the table."
        case "contact":
            return (
                f"{what} is not offered: {amperes(float(facts['amperes']))} for this kind of load is above "
                f"every relay contact rating in the table ({amperes(float(facts['most']))})."
            )
        case "road_lights" | "brakes_steering" | "engine_control":
            return (
                f"{what} is not offered: the wiring of this load is regulated. Change it only as the "
                "code in force and the maker allow; do not exceed the lamp power."
            )
        case "out_of_scope":
            return f"{what} is not offered: out of bounds, trained and licensed people only."
        case "stock":
            return f"{what} cannot be built: {facts['problem']}; it takes {facts['accepted']}."
    raise AssertionError(refused.why)


def recommended(
    ranking: Ranking,
    by_id: Mapping[str, Candidate],
    titles: Mapping[str, str],
    before: float | None,
    unread: Set[Held] = frozenset(),
) -> tuple[str, str]:
    """What is recommended with its reason, and what would change it; either may be empty.

    Args:
        before: the spare now (V); None where it is not known.
        unread: what of the run nothing is known of.
    """
    if ranking.best is None:
        if not by_id:
            return "", ""
        open_to = next(iter(by_id.values()))
        if open_to.left_in and open_to.now.spare_v >= 0:
            return (
                "None of these is certain to be enough: the readings don't show where the fault is.",
                "One more reading on the walk may tell.",
            )
        return (
            "None of these meets every limit.",
            "Try a shorter route, a smaller load or other limits.",
        )
    best = by_id[ranking.best]
    spare = volts(best.now.spare_v)
    if before is None:
        return f"Nothing is recommended yet: {not_read_words(unread)}", "Read that first."
    lead = "No work is needed. If you do any: " if before >= 0 else ""
    title = titles[ranking.best]
    if best.unread:
        return (
            f"{title}: takes away what was found, at the lowest cost in parts and time.",
            "Whether that is enough shows when the run is read again.",
        )
    reason = f"{lead}{title}: enough, with {spare} spare, at the lowest cost in parts and time."
    if lead:
        reason = reason.replace(lead + reason[len(lead)], lead + reason[len(lead)].lower(), 1)
    if ranking.next is None:
        return reason, "No labour rate makes another option that works cheaper."
    other, turning = ranking.next
    return reason, (
        f"At {figure(fixed(turning, 2))} a minute labour, {titles[other]} would cost the same."
    )


def part_words(
    line: PartLine, names: Mapping[str, str], colours: Mapping[str, str]
) -> tuple[str, str]:
    """A line of the list of parts: what, and how much; `colours` are the workshop's own, by side."""
    rating = f" {digits(line.rating_a, 4)} A" if line.rating_a else ""
    name = names.get(line.piece, "")
    if line.kind == "wire":
        warm = "" if line.insulation_c is None else f", {celsius(line.insulation_c)}"
        colour = f", {colours[line.side]}" if line.side and colours.get(line.side) else ""
        return f"{_size(line.size)} wire{colour}{warm} \u00b7 {name}", metres(line.metres)
    words = {
        "joint": f"{line.style or 'terminal'} terminal", "fuse": f"Fuse {line.style}{rating}",
        "holder": f"Holder, {line.style} fuse", "socket": "Relay socket", "sleeve": "Lined sleeves",
        "relay": line.style, "switch": f"{line.style or 'switch'}", "cleaning": "Cleaning",
        "breaker": f"Breaker{rating}", "bar": "Busbar or stud",
    }  # fmt: skip
    what = words.get(line.kind, line.kind.replace("_", " "))
    what = what[0].upper() + what[1:]
    return (f"{what} \u00b7 {name}" if name else what), f"{line.count}"


CONTACT_LOOK = (
    "Brown powder in the terminal: replace it. White film or green edge: clean it; keep it if bright metal "
    "shows. Dark, crusted grease: it was hot. Strip the wire back until it is bright; green strands mean "
    "corrosion runs on under the insulation."
)


PLANNED_SIZES = "Planned: the sizes that were found."
PLANNED_RUNS = "Planned: the repairs, run by run."


def planned_words(candidate: Candidate, names: Mapping[str, str]) -> str:
    """A candidate that was made the plan."""
    return f"Planned: {title(candidate, names)}."


def noted_words(when: str) -> str:
    """A caution of a work order, to be taken note of."""
    return f"I have read: {when.lower()}."


STEPS: Mapping[StepCode, tuple[str, str]] = {
    "isolate": (
        "Switch off. Disconnect the battery {return} first.",
        "Eye protection; rings and watch straps off; nothing live under the spanner.",
    ),
    "look": ("Look at {name}.", CONTACT_LOOK),
    "clean": (
        "Clean, tighten and protect {name}.",
        "To bright metal; a blade must grip; then grease or a sealing sleeve.",
    ),
    "remake": (
        "Remake {name}.",
        "Strip to fresh copper and crimp with an adhesive-lined sleeve. Solder alone is not a "
        "mechanical hold.",
    ),
    "replace": ("Replace {name}.", "Same rating, same kind: like for like. Never a larger fuse."),
    "take_out": ("Take out {name}.", ""),
    "replace_wire": (
        "Replace {name} by {size}: cut {long}.", "Clear of edges, pulleys and heat; clipped.",
    ),
    "other_fuse": (
        "Put {rating} A in the place of {name}.", "Only where every wire behind it can carry that.",
    ),
    "run_wire": ("Run {name}: {size}, cut {long}.", "Clear of edges, pulleys and heat; clipped."),
    "new_joint": ("Fit {name}.", "Onto bright metal, adhesive-lined sleeve, then pull-test it."),
    "fit_holder": (
        "Fit the holder for {name}, {rating} A, as near the source as practicable.",
        "Leave the fuse out until the end.",
    ),
    "fit_bar": (
        "Fit a busbar or an insulated stud: {name}.", "Dry, covered, within reach of the ring terminals.",
    ),
    "fit_relay": (
        "Fit the relay socket near the load, dry, holes downwards.",
        "30 to the new feed, 87 to the load, 86 and 85 to the coil. A hole 87a stays empty.",
    ),
    "old_wire_to_coil": (
        "Put the old feed on 86, and 85 on the load's {return}: {name}.",
        "A diode across the coil is polarised: banded end (cathode) to 86. Replace like for like.",
    ),
    "move_load": ("Put {name} on its new wire.", ""),
    "fuse_in": (
        "Put the fuse of {rating} A in: {name}.",
        "Label it. Never fit a larger fuse to cure voltage drop.",
    ),
    "reconnect": ("Reconnect the battery {return} last.", ""),
    "seal": ("Seals and boots back, cables clipped and clear of edges and pulleys.", ""),
}  # fmt: skip
"""By the code of a step, what to do and what to mind."""


def step_words(step: OrderStep, names: Mapping[str, str]) -> tuple[str, str]:
    """A step of a work order: what to do, and what to mind."""
    facts = {
        "name": names.get(step.piece, step.piece),
        "size": _size(step.size),
        "long": metres(float(step.facts["metres"])) if "metres" in step.facts else "",
        "rating": digits(float(step.facts["rating"]), 4) if "rating" in step.facts else "",
        "return": back_word(),
    }
    what, mind = STEPS[step.code]
    return what.format_map(facts), mind


def relay_words(relay: Relay, nominal_v: float) -> list[str]:
    """What a relay is, line by line."""
    coil_a = nominal_v / relay.coil_ohm
    across = {
        "none": "no suppression across the coil; a type with resistor or diode is kinder to the switch",
        "resistor": "a resistor across its coil; either way round",
        "diode": "a diode across its coil: polarised, its ring to 86. Replace like for like",
    }[relay.suppression]
    return [
        f"{relay.name}.",
        f"Coil {ohms(relay.coil_ohm)}, {amperes(coil_a)} at {digits(nominal_v, 3)} V; {across}.",
        f"Contact: {digits(relay.contact_a, 4)} A resistive, {digits(relay.motor_a, 4)} A motors, "
        f"{digits(relay.lamp_a, 4)} A lamps.",
        f"Drops out at {digits(relay.drop_out_v, 3)} V."
        + (" Changeover: 87a connects to 30 when off." if relay.changeover else ""),
    ]


def relief_words(running_a: float, starting_a: float, coil_a: float) -> str:
    """What the old switch carries before and after, running and while the load starts."""
    start = f", {amperes(starting_a)} while it starts" if starting_a > running_a else ""
    return f"The old switch carries {amperes(running_a)} now{start}, {amperes(coil_a)} afterwards."


def pull_in_words(pull_in: tuple[float, float]) -> str:
    """The coil's margin through the old wire at the lowest source."""
    got, wanted = pull_in
    share = percent((got - wanted) / wanted) if wanted else ""
    return (
        f"The coil gets at least {volts(got)} through the old wire; hot, it pulls in at {volts(wanted)}. "
        f"{volts(got - wanted)} spare ({share})."
    )


_SOCKET: Sequence[tuple[str, str, str]] = (
    ("30", "source voltage, always", "source voltage"),
    (
        "87",
        "through the load to {return}: a few ohms, no voltage",
        "source voltage while switched on",
    ),
    ("86", "source voltage while switched on, through the old wire", "the same"),
    ("85", "the {return}: no volts against the post", "the same"),
    ("87a", "empty; on changeover types joined to 30 at rest", "as wired"),
)


def socket() -> list[tuple[str, str, str]]:
    """The holes of a relay socket: what each reads with the relay out, and with it in."""
    return [(hole, worded(out), fitted) for hole, out, fitted in _SOCKET]


SEVERAL_RUNS = "the whole craft"
"""What a work order is about that touches several runs."""
