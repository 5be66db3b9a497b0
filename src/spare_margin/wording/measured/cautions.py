"""The cautions in words; which of them belong to what is on screen is decided in the core."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from spare_margin.core.walk.cautions import CautionId
from spare_margin.core.walk.safety import OutOfScope
from spare_margin.wording.craft.pieces import worded

FIRST_START = [
    "This tool supports competent people. The code in force where the craft is used, the maker's "
    "instructions and licensed practice come first.",
    "Out of bounds: airbags and belt tensioners, orange high-voltage cables, and anything on 110 or "
    "230 V. Trained and licensed people only.",
]
CAUTIONS: Mapping[CautionId, tuple[str, str]] = {
    "hot_joint": ("Hot joint", "Do not touch. Switch off. It is a fire hazard until remade."),
    "open_protection": (
        "Fuse or breaker open",
        "Find why before it is replaced or reset: look for the short with the load unplugged. Reset or "
        "replace it once only, with the same rating.",
    ),
    "body_return": (
        "Bad body return",
        "The current finds other ways: bearings, drivetrain, cables, braided hoses. It damages them, and "
        "shifts what control units take for zero. Act soon.",
    ),
    "high_current": (
        "High current",
        "Keep clear of fans, belts, propellers and winch wire. Clips and long leads; brake on, out of "
        "gear, a helper at the controls.",
    ),
    "load_testers": (
        "Load testers",
        "Hot within seconds. Hold only as long as the reading takes.",
    ),
    "lithium": (
        "Lithium battery",
        "Never bypass the battery management system (BMS). Short-circuit currents are far higher: mind "
        "the fuse's class and breaking capacity.",
    ),
    "control_units": (
        "Control units and sensors",
        "Only a high-impedance meter on signal lines: no test lamp, no load, never battery voltage. Their "
        "supply and ground may be loaded at the plug with the unit unplugged; ignition off while plugging.",
    ),
    "mains_side": (
        "The side on 110 or 230 V",
        "Out of bounds: a licensed electrician only. Measure the 12 or 24 V side alone, away from it.",
    ),
    "brakes_steering": (
        "Brakes, steering, emergency equipment",
        "Lives depend on it and legal requirements apply: check with the code and the maker before "
        "anything is changed. Craft blocked, a helper at the controls.",
    ),
    "road_lights": (
        "Legally required equipment",
        "Legal requirements apply. Do not exceed the lamp power; check with the code.",
    ),
    "unbolting": (
        "Before unbolting a feed",
        "Take the battery's {return} off first and put it back last: an unfused feed shorted by a "
        "spanner burns and welds.",
    ),
    "battery": (
        "At the battery",
        "Eye protection, no sparks or flames, ventilate: charging gas explodes. Rings and watch "
        "straps off.",
    ),
    "petrol_gas": (
        "Petrol, gasoline, LPG or propane aboard",
        "Ventilate before switching anything; ignition-protected parts only.",
    ),
    "after_work": (
        "After the work",
        "Seals and boots back, cables clipped and clear of edges, fuse labelled, no fuse uprated.",
    ),
    "typical": (
        "Limits and ampacities",
        "Typical values. The code in force where the craft is used comes first.",
    ),
}
"""When a caution applies, and what it says; see `caution_words`."""
OUT_OF_SCOPE: Mapping[OutOfScope, tuple[str, str]] = {
    "airbags": (
        "airbags and belt tensioners",
        "A probe can fire them. Trained and licensed people only.",
    ),
    "traction": (
        "high-voltage and traction systems",
        "Lethal voltage. Trained and licensed people only.",
    ),
    "mains": (
        "shore power, inverter output, mains hook-up",
        "Mains voltage: a licensed electrician only.",
    ),
}
"""What is out of bounds, and why."""


@dataclass(frozen=True, slots=True)
class Caution:
    """A caution that belongs to what is looked at: when it applies, and what it says."""

    id: CautionId
    when: str
    says: str


def caution_words(found: Iterable[CautionId]) -> tuple[Caution, ...]:
    """These cautions in words."""
    return tuple(Caution(key, CAUTIONS[key][0], worded(CAUTIONS[key][1])) for key in found)


def refusal_words(found: OutOfScope) -> str:
    """Why a walk is refused, in two sentences."""
    what, why = OUT_OF_SCOPE[found]
    return f"{what[0].upper()}{what[1:]} are out of bounds. {why}"
