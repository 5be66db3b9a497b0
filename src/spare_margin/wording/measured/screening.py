"""What ohms with the power off, a test lamp and a load on the bench say, in words."""

from spare_margin.core.measure.findings import Finding
from spare_margin.wording.language.figures import amperes, ohms, volts

Words = tuple[str, str]


def screening_words(found: Finding, name: str, load: str) -> Words:
    """A finding of a screen as (what it says, what to do), with the names of its piece and its load."""
    facts = {key: value for key, value in found.facts.items() if isinstance(value, float)}
    match found.code:
        case "contact_stuck":
            return (
                f"{name} was commanded open and still joins, {ohms(facts['ohm'])}, with every load "
                "unplugged.",
                "It is stuck closed or bridged: take it out and check it.",
            )
        case "lamp_under_load":
            return (
                f"Dark while {load} is switched on: open, or a joint that takes the volts as soon as "
                "current flows.",
                f"Switch {load} off or unplug it, and try the lamp again. Or read the volts.",
            )
        case "lamp_dim":
            return (
                "Dim: some ohms in the way, or a weak source. A lamp can't tell which.",
                "Read the volts there with the load on.",
            )
        case "load_open":
            return (
                f"No way through {load} by the ohmmeter. A lamp, a heater or a motor with this is "
                "burnt out; electronics can read so when they are sound.",
                f"Try {load} on the bench, or another one in its place.",
            )
        case "load_ohms":
            return (
                f"{load} has {ohms(facts['ohm'])} where {ohms(facts['should'])} are expected.",
                f"Look at {load} itself, or at what was drawn of it.",
            )
        case "bench_current":
            drew = (
                f"On the bench {load} draws {amperes(facts['amperes'])} at {volts(facts['volts'])}"
            )
            if found.facts["off"]:
                return (
                    f"{drew}, where {amperes(facts['should'])} are expected.",
                    f"Look at {load} itself, or at what was drawn of it.",
                )
            return f"{drew}, as it should.", ""
    raise AssertionError(found.code)
