"""Meters that speak, in words: what is wrong with one, what it stands on."""

from collections.abc import Mapping

TROUBLES: Mapping[str, str] = {
    "not_there": "No meter answers there. Is it switched on, plugged in, and the address right?",
    "busy": "Another program has this port. Close it there first.",
    "silent": "It is there and says nothing. Is it asleep, or set to another way of sending?",
    "garbled": "It answers, but there is no figure in it.",
    "address": "That is no address: a name or number on the network, as 192.168.1.20, or a port, as "
    "/dev/ttyUSB0 or COM3.",
}
"""By the code of what is wrong with a meter."""
WRONG_MODE = "The meter stands on AC. Turn it to DC."
OVER_RANGE = "Over its range, or leads in the air."


def trouble_words(wrong: str, seen: str = "") -> str:
    """What is wrong with a meter, and what came instead of a figure.

    Args:
        wrong: the code of what is wrong.
        seen: what it answered, where that is no figure.
    """
    told = TROUBLES[wrong]
    return f"{told} It said \u201c{seen}\u201d." if wrong == "garbled" and seen else told


def state_words(state: str, wrong: str | None, seen: str = "") -> str:
    """How a meter stands, where there is something to say of it; empty where it is read.

    Args:
        state: whether it is read.
        wrong: why it is not.
        seen: what came instead of a figure.
    """
    match state:
        case "opening":
            return "Looking for it \u2026"
        case "gone":
            return trouble_words(wrong or "not_there", seen)
        case "wrong_mode":
            return WRONG_MODE
        case "over_range":
            return OVER_RANGE
        case _:
            return ""
