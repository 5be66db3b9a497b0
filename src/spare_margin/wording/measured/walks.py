"""What a walk says: why it ended, how a point is reached, what a pattern means, what a stand-in shows."""

from collections.abc import Collection, Mapping, Sequence

from spare_margin.core.circuit.runs import Run
from spare_margin.core.edit.splitting import Place
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.stand_in import Bulb, Suits
from spare_margin.core.model.jobs import Reading, Trial
from spare_margin.core.model.pieces import Access, Craft
from spare_margin.core.walk.at_rest import Stand
from spare_margin.core.walk.walk import After, Ending, Measurement
from spare_margin.wording.craft.names import span_name
from spare_margin.wording.craft.pieces import back_word, point_name, side_word, worded
from spare_margin.wording.language.figures import amperes, digits, ohms, volts

ENDINGS: Mapping[Ending, str] = {
    "good": "Within limits. Nothing else needs testing.",
    "cornered": "Found.",
    "load": "Feed and {return} are good. Suspect the load, or what commands it.",
    "no_current": "No current flows, and no card can tell where it stops.",
    "out_of_reach": "Everything that can be read here was read or skipped.",
    "as_drawn": "Nothing is worse than drawn. The wiring itself drops too much.",
}
AFTER: Mapping[After, str] = {
    "repair": "Plan the repair",
    "proof": "To the proof",
    "sheet": "See the run sheet",
    "bench": "Measure the load on the bench",
    "at_rest": "Find where it stops, load off",
    "take_up": "Take up what was skipped",
    "elsewhere": "Measure anywhere else",
}
"""What a button says that leads on from an ended walk."""


def ending_words(ending: Ending, found: Judgement) -> str:
    """Why a walk is over; empty while it is not."""
    made = found.conclusion
    if ending == "out_of_reach" and made.between is not None:
        return "It lies between two points, and nothing in between can be read."
    if ending == "cornered" and not made.found:
        return "Within limits, but not good."
    if ending == "cornered" and len(made.found) > 1:
        return f"Found: {len(made.found)} pieces."
    return worded(ENDINGS.get(ending, ""))


def rests_words(readings: Sequence[Reading], craft: Craft, run: Run) -> str:
    """What a conclusion rests on, by place, each once; empty where on nothing."""
    places = []
    for each in readings:
        if each.quantity == "amperes":
            places.append(f"the current of {run.load.name}")
            continue
        between = run.between(each.red, each.black)
        whole = between is not None and {each.red, each.black} == set(run.ends(between.side))
        name = span_name(craft, run, each.red, each.black)
        places.append(f"the whole {side_word(between.side)}" if between and whole else name)
    return f"Rests on {', '.join(dict.fromkeys(places))}." if places else ""


MANNERS: Mapping[Access, str] = {
    "open": "Exposed: probe the terminal itself, not the screw or nut on top.",
    "backprobe": "Back-probe: go in at the wire side, parallel to the wire, without nicking the seal; "
    "never push a thick tip into the front of a terminal.",
    "trim": "Behind trim: remove the trim. Do not pierce insulation to avoid it.",
}
"""How a point is reached without hurting it."""


def measurement_title(craft: Craft, run: Run, each: Measurement) -> str:
    """What a measurement is called, in words."""
    load = run.load.name
    match each.kind:
        case "source":
            return "The source, post to post"
        case "current":
            return f"The current of {load}"
        case "load":
            return f"The whole loop, across {load}"
        case "side":
            return f"The whole {side_word(each.side or '')}"
    ends = {each.red, each.black}
    coil = next((x for x in craft.loads if {x.start, x.end} == ends), None)
    if coil is not None:
        return f"Across {coil.name}"
    between = run.between(each.red, each.black)
    name = span_name(craft, run, each.red, each.black)
    drawn = {p.id for p in craft.pieces if p.kind != "unknown"}
    one = between is not None and len(between.pieces) == 1 and between.pieces[0] in drawn
    return f"Across {name}" if one else name


PLACES: Mapping[Place, tuple[str, ...]] = {
    "point": ("Point",),
    "fuse": ("Fuse, in", "Fuse, out"),
    "breaker": ("Breaker, in", "Breaker, out"),
    "switch": ("Switch, in", "Switch, out"),
    "relay": ("Relay, 30", "Relay, 87"),
    "plug": ("Plug, in", "Plug, out"),
    "splice": ("Splice, in", "Splice, out"),
    "ring": ("Stud, wire", "Stud, far side"),
}
"""What the test points at a place are called."""


def place_names(craft: Craft, place: Place, name: str) -> tuple[str, str]:
    """The names of the points at a place, the person's own word for it first; none is there already."""
    taken = {p.name.casefold() for p in craft.points}
    plain = PLACES[place]
    word, number = name or plain[0].split(",")[0], 1
    while True:
        called = word if number == 1 else f"{word} {number}"
        made = [f"{called}{each[len(each.split(',')[0]) :]}" for each in plain]
        if not taken & {m.casefold() for m in made}:
            return made[0], made[-1]
        number += 1


def trial_words(tried: Trial, craft: Craft, volts_v: float | None = None) -> str:
    """What was joined, and what came of it."""
    here = {p.id for p in craft.points}
    ends = [point_name(craft, p) if p in here else p for p in (tried.start, tried.end)]
    what = {
        "bridge": f"Bridge {ends[0]} to {ends[1]}",
        "feed": f"Fused feed from {ends[0]} to {ends[1]}",
        "return": f"Temporary {back_word()} from {ends[0]} to {ends[1]}",
    }[tried.kind]
    came = {"right": "works normally", "partly": "works better", "none": "no change"}
    told = [came[tried.outcome]] if tried.outcome else []
    if volts_v is not None:
        told.append(f"{volts(abs(volts_v))} at the load")
    return f"{what}: {', '.join(told)}"


STANDS: Mapping[Stand, str] = {
    "source": "source voltage", "nothing": "nothing", "loose": "nothing, or won't settle",
    "between": "in between",
}  # fmt: skip
"""Where a point should stand at rest."""


def bypassed_words(point: str, craft: Craft) -> str:
    """A point at the source's volts behind a contact that should be open."""
    return (
        f"Source voltage at {point_name(craft, point)} though a contact before it should be open: it is "
        "closed, stuck or bypassed."
    )


def suits_words(found: Suits | None) -> str:
    """Which stand-in load proves a run, before anything is unplugged."""
    if found is None:
        return (
            "This load's current is not known yet: use a test load that draws about the same. A smaller "
            "one can show a fault but can't clear the run."
        )
    return (
        f"A test load of {amperes(found.wanted_a)} or more is enough to prove this run (up to "
        f"{ohms(found.wanted_ohm)} allowed). A smaller one can show a fault but can't clear the run."
    )


def stand_in_how(control_unit: bool) -> str:
    """How a stand-in load is used; of a control unit, otherwise."""
    if control_unit:
        return (
            "With the unit unplugged, ignition off while plugging: load the supply and ground of its plug, "
            "never a signal line. Look at the pins first: do they grip?"
        )
    return (
        "Check the pins grip. Unplug the load: with no load you must read source voltage between the two "
        "terminals. Then connect the test load there. It is hot within seconds: hold it only as long "
        f"as the reading takes. For a small circuit a filament lamp of about {amperes(0.3)} across the "
        "meter's leads will do; an electronic test lamp loads nothing."
    )


def stand_in_next(places: Collection[str]) -> str:
    """What to do next with a stand-in load, by where it was read; and what that tells."""
    if "connector" not in places:
        return "First with both leads in the connector: the whole loop."
    if "return_moved" not in places:
        return (
            f"Next move its {back_word()} lead to a known-good {back_word()}. The loss that disappears "
            f"was on the {back_word()}."
        )
    if "feed_moved" not in places:
        return (
            "Next move its feed lead to a known-good fused feed. The loss that disappears was on the "
            "feed."
        )
    return "Both sides were taken out in turn. The likely faults say what that told."


def bulb_words(bulb: Bulb) -> str:
    """A usual bulb."""
    return f"{digits(bulb.watts, 3)} W bulb, about {amperes(bulb.amperes)}"


def stood_in_words(place: str, amps: float, volts_v: float | None) -> str:
    """What was read across a stand-in load."""
    where = {
        "connector": "in the connector", "return_moved": f"{back_word()} lead on a proven point",
        "feed_moved": "feed lead on a proven point",
    }[place]  # fmt: skip
    got = "no number" if volts_v is None else volts(abs(volts_v))
    return f"{amperes(amps)} {where}: {got}"
