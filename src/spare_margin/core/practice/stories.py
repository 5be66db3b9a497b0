"""Crafts that people practise on: who wired what. All of it is made up."""

from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.model.pieces import CraftKind, Duty, LoadLaw


@dataclass(frozen=True, slots=True)
class Story:
    """A craft with a load that is complained about.

    Attributes:
        craft: what it is, as one says it: "the oyster boat".
        load: what the load is called; it draws `amperes` at `nominal_v` by its `law`.
        others: other loads of the craft, each with what it draws (A).
        fuse_a: the fuse of its run.
        duty: what its load is: as long as it is wanted, for seconds, or a bank that is charged.
    """

    kind: CraftKind
    craft: str
    load: str
    amperes: float
    law: LoadLaw
    fuse_a: float
    nominal_v: float = 12.0
    others: tuple[tuple[str, float], ...] = ()
    duty: Duty = "ordinary"


STORIES: Mapping[str, Story] = {
    "library": Story(
        "caravan",
        "mobile library",
        "Reading light",
        3.5,
        "constant_current",
        7.5,
        others=(("Heater fan", 4.0), ("Book lift lamp", 1.5), ("Till", 2.0)),
    ),
    "oysters": Story(
        "boat",
        "oyster boat",
        "Wash pump",
        9.0,
        "constant_current",
        15.0,
        others=(("Sorting light", 4.0), ("Scale", 1.0), ("Cabin fan", 2.0)),
    ),
    "soup": Story(
        "caravan",
        "soup caravan",
        "Hood fan",
        6.0,
        "constant_current",
        10.0,
        others=(("Counter light", 3.0), ("Water pump", 5.0), ("Card reader", 0.5)),
    ),
    "sauna": Story(
        "boat",
        "floating sauna",
        "Changing room heater",
        12.0,
        "constant_resistance",
        20.0,
        others=(("Step light", 2.0), ("Bilge blower", 3.5), ("Music", 3.0)),
    ),
    "honey": Story(
        "caravan",
        "honey trailer",
        "Comb spinner",
        8.0,
        "constant_current",
        15.0,
        others=(("Work light", 3.0), ("Warming plate", 6.0), ("Fan", 1.5)),
    ),
    "puppets": Story(
        "vehicle",
        "puppet theatre van",
        "Stage lamp",
        7.0,
        "filament",
        10.0,
        24.0,
        others=(("Curtain motor", 3.0), ("Amplifier", 5.0), ("Prompter", 1.0)),
    ),
    "tea": Story(
        "boat",
        "tea barge",
        "Galley pump",
        5.0,
        "constant_current",
        10.0,
        others=(("Cup light", 2.5), ("Fridge", 4.5), ("Saloon fan", 1.5)),
    ),
    "birds": Story(
        "boat",
        "bird-watching punt",
        "Hide heater",
        10.0,
        "constant_resistance",
        15.0,
        24.0,
        others=(("Chart lamp", 0.8), ("Camera pole", 2.0), ("Kettle socket", 6.0)),
    ),
    "mirrors": Story(
        "caravan",
        "film wardrobe caravan",
        "Mirror light",
        8.0,
        "filament",
        15.0,
        others=(("Steam iron fan", 2.0), ("Rail light", 2.5), ("Extractor", 3.0)),
    ),
    "ice": Story(
        "vehicle",
        "ice cream van",
        "Display fridge",
        6.5,
        "constant_current",
        15.0,
        others=(("Hatch light", 2.0), ("Chime", 1.0), ("Scoop rinser", 4.0)),
    ),
    "press": Story(
        "boat",
        "bookbinder's barge",
        "Glue pot",
        7.5,
        "constant_resistance",
        10.0,
        others=(("Bench light", 3.0), ("Press fan", 2.0), ("Radio", 0.7)),
    ),
    "seals": Story(
        "boat",
        "seal survey launch",
        "Tank aerator",
        4.0,
        "constant_current",
        7.5,
        24.0,
        others=(("Deck light", 3.0), ("Logger", 0.6), ("Rinse pump", 5.0)),
    ),
}
"""Loads that run as long as they are wanted."""

STRONG: Mapping[str, Story] = {
    "kelp": Story(
        "boat", "kelp boat", "Net winch", 90.0, "constant_current", 150.0, duty="short_time"
    ),
    "lift": Story(
        "vehicle",
        "museum truck",
        "Tail lift",
        80.0,
        "constant_current",
        125.0,
        24.0,
        duty="short_time",
    ),
    "thruster": Story(
        "boat",
        "canal barge",
        "Bow thruster",
        110.0,
        "constant_current",
        175.0,
        24.0,
        duty="short_time",
    ),
    "platform": Story(
        "boat", "bathing raft", "Platform lift", 60.0, "constant_current", 100.0, duty="short_time"
    ),
    "mast": Story(
        "vehicle", "radio truck", "Mast winch", 70.0, "constant_current", 125.0, duty="short_time"
    ),
    "tent": Story(
        "caravan", "circus wagon", "Roof winch", 55.0, "constant_current", 80.0, duty="short_time"
    ),
}
"""Large motors that run for seconds."""

CHARGED: Mapping[str, Story] = {
    "generator": Story(
        "boat",
        "ferry café",
        "House bank, charging",
        35.0,
        "constant_current",
        60.0,
        duty="charging",
    ),
    "panels": Story(
        "caravan",
        "weather station wagon",
        "Bank, charging",
        18.0,
        "constant_current",
        30.0,
        duty="charging",
    ),
    "hydro": Story(
        "boat",
        "reed cutter",
        "Bank, charging",
        25.0,
        "constant_current",
        40.0,
        24.0,
        duty="charging",
    ),
}
"""A bank that is charged; what charges it is the source."""
