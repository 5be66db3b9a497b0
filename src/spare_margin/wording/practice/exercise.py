"""An exercise in words: whose craft it is, what the customer says, what can be seen and done there."""

from collections.abc import Mapping

from spare_margin.core.practice.acts import ClaimKind, Remedy
from spare_margin.core.practice.bench import Looks
from spare_margin.core.practice.exercise import Exercise, Level, Symptom
from spare_margin.core.practice.making import story_of
from spare_margin.core.practice.stories import Story

LEVEL_WORDS: Mapping[Level, tuple[str, str]] = {
    1: ("One run", "A complaint, one load, one thing to find."),
    2: ("Two sides", "A long feed and a long return. Which side is it?"),
    3: ("Shared wiring", "Other loads use the same feed and return."),
    4: ("Relays", "What switches the load is a circuit of its own."),
    5: ("Large motors and charging", "Tens of amperes: a little resistance is a lot of volts."),
    6: ("Unknown wiring", "A loom without a drawing."),
    7: ("Anything", "Comes and goes, several faults, the source, the load, or nothing at all."),
}
SYMPTOM_WORDS: Mapping[Symptom, str] = {
    "weak": "{load} works, but weakly.",
    "dead": "{load} does nothing, or next to nothing.",
    "fades": "{load} works at first. After a while it gets weak.",
    "now_and_then": "{load} cuts out now and then. Right now it works.",
    "asked": "{load} was looked at by someone else. Is it all right now?",
}
LOOKS_WORDS: Mapping[Looks, str] = {
    "full": "works as it should", "weak": "works weakly", "faint": "hardly does anything",
    "still": "does nothing", "off": "is switched off", "unplugged": "is unplugged",
}  # fmt: skip
KIND_WORDS: Mapping[ClaimKind, str] = {
    "resistance": "drops too many volts", "open": "is open", "loose": "comes and goes, or gets worse warm",
    "weak": "is weak", "load": "is faulty",
}  # fmt: skip
REMEDY_WORDS: Mapping[Remedy, str] = {"remade": "clean and remake", "replaced": "replace"}


def relay_words(pulled_in: bool) -> str:
    """What one hears of a relay."""
    return "has pulled in" if pulled_in else "has not pulled in"


def title_words(made: Exercise) -> str:
    """What an exercise is called: its craft and its load."""
    if not made.story:
        return f"From your own jobs: {made.craft.load(made.run).name}"
    return title_of(story_of(made.story))


def complaint_words(made: Exercise) -> str:
    """What the customer says."""
    return complaint_of(made.symptom, made.craft.load(made.run).name)


def title_of(story: Story) -> str:
    """What an exercise of a story is called."""
    return f"{story.craft[0].upper()}{story.craft[1:]}: {story.load}"


def complaint_of(symptom: Symptom, load: str) -> str:
    """What the customer says of a load."""
    return SYMPTOM_WORDS[symptom].format(load=load)
