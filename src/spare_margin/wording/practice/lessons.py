"""The ten lessons in words: what to pull, the question, three answers, and why."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.practice.lessons import Figure, LessonId, Unit
from spare_margin.wording.craft.pieces import worded
from spare_margin.wording.language.figures import amperes, fixed, ohms, volts


@dataclass(frozen=True, slots=True)
class LessonWords:
    """A lesson: its name, what to pull and see, the question with its answers, and why it is so."""

    title: str
    pull: str
    what: str
    question: str
    answers: tuple[str, str, str]
    why: str


LESSON_WORDS: Mapping[LessonId, LessonWords] = {
    "difference": LessonWords(
        "A meter shows a difference",
        "Black lead",
        "Red stays on the lamp's + terminal. Move black along the loop. One point, four readings.",
        "Red is on Lamp +. Where does black go to measure what the feed drops?",
        ("On Battery \u2212", "On Lamp \u2212", "On Battery +"),
        "A reading belongs to two points. From Battery + to Lamp + lies the feed and nothing else.",
    ),
    "spent": LessonWords(
        "All of the source is dropped on the way round",
        "Resistance moved into the joint",
        "Move resistance from the lamp into the joint. The shares change, their sum does not.",
        "The joint has as many ohms as the lamp. How much is left for the lamp?",
        ("All of it", "Half of it", "Nothing"),
        "One current, two equal resistances: each takes half. What the joint takes the lamp lacks.",
    ),
    "no_current": LessonWords(
        "No current, no voltage drop",
        "Lamp off or on",
        "The joint has 1.2 Ω too much. Switch the lamp off.",
        "The lamp is off. What does the bad joint measure?",
        ("Nothing, as a good one does", "4.2 V as before", "All 12.6 V"),
        "A drop is current times resistance. Without current the worst joint measures perfect.",
    ),
    "ohms": LessonWords(
        "Ohms lie",
        "Load current",
        "One strand is left of this cable: 0.2 Ω. The ohmmeter shows 0.4 Ω, its own leads among them.",
        "At 20 A, how many volts does the strand drop?",
        ("None worth naming", "0.4 V", "4 V"),
        "20 A times 0.2 Ω is 4 V. A milliampere from an ohmmeter finds the strand as good as the cable.",
    ),
    "series": LessonWords(
        "The current is the same everywhere",
        "Second joint's resistance",
        "One joint is bad. Make a second one worse and watch the first.",
        "The second joint gets worse. What does the first one measure?",
        ("More", "Less", "The same"),
        "Less current flows, so the first drops less, bad as it is. One bad joint hides another.",
    ),
    "shared": LessonWords(
        "A shared {return}",
        "Pump current",
        "The lamp is off. A pump uses the same {return}. Raise its current.",
        "The lamp is off and the pump runs. What is there between Lamp \u2212 and Battery \u2212?",
        ("Nothing, the lamp is off", "All 12.6 V", "What the pump's current drops there"),
        "The shared {return} drops volts for everyone who uses it. Another load moves your zero.",
    ),
    "ghosts": LessonWords(
        "Ghost volts",
        "Joint's resistance",
        "The lamp is unplugged. Measure at its plug, then hang a test lamp there. Make the joint worse.",
        "The meter shows 12.6 V at the plug, the test lamp stays dark. What is it?",
        ("A broken test lamp", "A joint that passes next to no current", "A flat battery"),
        "The meter takes a millionth of an ampere, the lamp a third of one. They disagree on purpose.",
    ),
    "opens": LessonWords(
        "Volts stand up to the gap",
        "Where it is open",
        "Black stays on Battery \u2212. Open one piece after the other and look where the volts end.",
        "12.6 V before the switch, 12.6 V after it, 0 V after the joint. What is open?",
        ("The joint", "The switch", "The fuse"),
        "Volts stand on the near side of the gap and not on the far side. The gap lies in between.",
    ),
    "doubt": LessonWords(
        "No reading is exact",
        "Meter range",
        "One drop, 0.03 V. Measure it on every range of the meter.",
        "The 600 V range shows 0.0 V. What can the drop be?",
        ("Exactly nothing", "Up to 0.01 V", "Anything up to 0.2 V"),
        "Two counts of 0.1 V are the meter's accuracy there. Take the lowest range that holds the reading.",
    ),
    "limits": LessonWords(
        "Which limit",
        "Voltage drop of the {return}",
        "One {return}, five sets of limits. Move the drop.",
        "The {return} drops 0.3 V. Is that good?",
        ("Always", "It depends on the limits that apply", "Never"),
        "The same reading passes under one set of limits and fails under another. Say which one you use.",
    ),
}
FIGURE_WORDS: Mapping[str, str] = {
    "meter": "Meter", "strand": "The strand", "joint": "First joint", "lamp": "Lamp gets",
    "together": "All together", "back": "{return}",
    "amperes": "Current", "ohms": "Ohmmeter", "other_joint": "Second joint",
    "zero": "Lamp \u2212 to Battery \u2212",
    "other": "Pump current", "test_lamp": "Test lamp gets", "range": "Range", "at a": "After the fuse",
    "at b": "After the switch", "at c": "After the joint", "at lamp+": "At Lamp +",
}  # fmt: skip
_UNIT = {"V": volts, "A": amperes, "ohm": ohms}
_SIGN = {"V": "V", "A": "A", "ohm": "\u03a9", "": ""}


def lesson_words(key: LessonId) -> LessonWords:
    """A lesson in the words of this workshop."""
    held = LESSON_WORDS[key]
    first, second, third = (worded(a) for a in held.answers)
    return LessonWords(
        worded(held.title), worded(held.pull), worded(held.what), worded(held.question),
        (first, second, third), worded(held.why),
    )  # fmt: skip


def figure_words(figure: Figure, limit_names: Mapping[str, str]) -> tuple[str, str]:
    """A figure: what it is of, and how much."""
    if figure.key.startswith("limit "):
        name = limit_names[figure.key.removeprefix("limit ")]
        return f"{name}, limit {volts(figure.value)}", "passes" if figure.good else "fails"
    if figure.key == "range":
        return FIGURE_WORDS["range"], f"{figure.value:g} V"
    value = quantity(figure.value, figure.unit)
    if figure.doubt:
        places = max(0, -math.floor(math.log10(figure.doubt / 2)))
        shown, doubt = fixed(figure.value, places), fixed(figure.doubt, places)
        value = f"{shown} \u00b1 {doubt} {_SIGN[figure.unit]}"
    if figure.good is not None:
        value += ", lit" if figure.good else ", dark"
    name = worded(FIGURE_WORDS[figure.key])
    return name[0].upper() + name[1:], value


def quantity(value: float, unit: Unit) -> str:
    """A value with its unit."""
    return f"{value:g}" if unit == "" else _UNIT[unit](value)


def pulled_words(key: LessonId, pulled: float) -> str:
    """Where a knob stands, in words."""
    at = round(pulled)
    match key:
        case "difference":
            return ("Battery \u2212", "Lamp \u2212", "Lamp +", "Battery +")[at]
        case "spent":
            return f"{pulled:.0%}"
        case "no_current":
            return ("off", "on")[at]
        case "opens":
            return ("nowhere", "fuse", "switch", "joint", "plug")[at]
        case "doubt":
            return f"{(0.6, 6, 60, 600)[at]:g} V"
        case "ghosts":
            return f"{pulled:g} \u03a9"
        case "series":
            return f"{pulled:g} \u03a9"
        case "ohms" | "shared":
            return f"{pulled:g} A"
        case "limits":
            return f"{pulled:.2f} V"
