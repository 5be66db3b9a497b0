"""Recordings in words: what is waited for, what was caught, what changed."""

from spare_margin.core.live.changes import Change
from spare_margin.core.live.kept import MOST_WHOLE
from spare_margin.core.live.samples import LiveQuantity
from spare_margin.core.live.starts import Start
from spare_margin.wording.language.figures import amperes, count, digits, ohms, volts

SHOWN = {"volts": volts, "amperes": amperes, "ohms": ohms}


def log_name(kind: str, meter: str, where: str) -> str:
    """What the log of a recording is called.

    >>> log_name("watch", "Blue meter", "Ring to Post")
    'Watch at Ring to Post, Blue meter'
    """
    words = {"trace": "Trace", "start": "Start", "watch": "Watch"}[kind]
    return f"{words} at {where}, {meter}" if where else f"{words}, {meter}"


def how_long(seconds: float) -> str:
    """A time as one says it: `40 s`, `12 min 5 s`, `3 h 20 min`.

    >>> how_long(40.2), how_long(725), how_long(12_000)
    ('40 s', '12 min 5 s', '3 h 20 min')
    """
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60} s"
    return f"{whole // 3600} h {whole % 3600 // 60} min"


def change_words(change: Change, quantity: LiveQuantity) -> str:
    """A change, in a line.

    >>> change_words(Change(1.0, 1.4, 0.4, 0.91), "volts").replace("\\u00a0", " ")
    'from 0.400 V to 0.910 V for 0.4 s'
    """
    shown = SHOWN[quantity]
    lasted = max(change.end_s - change.start_s, 0.1)
    to = "no figure" if change.went_to is None else shown(change.went_to)
    said = f"from {shown(change.stood_at)} to {to}"
    said += ", and stayed there" if change.stays else f" for {digits(lasted, 2)} s"
    return f"{said}: a lead may have come off" if change.in_air or change.went_to is None else said


def start_words(start: Start, quantity: LiveQuantity, is_reading: bool) -> str:
    """A start that was caught: what stood before it, its ends, where it settled.

    Args:
        start: what was caught.
        quantity: what the meter showed.
        is_reading: whether one of its ends is kept as a reading.
    """
    shown = SHOWN[quantity]
    settled = "not settled yet" if start.settled is None else f"settled at {shown(start.settled)}"
    return (
        f"Caught: {shown(start.before)} before, {shown(start.least)} at the least, "
        f"{shown(start.most)} at the most, {settled}."
        + ("" if is_reading else " Open it and pick the part that counts.")
    )


def state_words(
    kind: str, *, is_over: bool, is_full: bool, is_armed: bool, going_on: bool, changes: int,
    watched_s: float, heard: bool,
) -> str:  # fmt: skip
    """How a recording stands.

    Args:
        kind: what is recorded.
        is_over: whether it is over.
        is_full: whether it ended because a trace keeps no more figures.
        is_armed: whether a start would be caught.
        going_on: whether a change goes on now.
        changes: how many there were.
        watched_s: for how long figures came (s).
        heard: whether any figure came.
    """
    if not heard and not is_over:
        return "No figure has come from the meter yet."
    match kind:
        case "start":
            if is_over:
                return "Stopped before a start came."
            return (
                "Armed. Switch the load on."
                if is_armed
                else "Hold the leads still until it is armed."
            )
        case "watch":
            lately = how_long(watched_s)
            if going_on:
                return f"Changing now. Watched for {lately}."
            told = "nothing changed" if changes == 0 else f"{count(changes)} {_changes(changes)}"
            return f"{'Watched' if is_over else 'Watching'} for {lately}: {told}."
        case _:
            if is_full:
                kept = f"a trace keeps {count(MOST_WHOLE)} figures"
                return (
                    f"Ended by itself after {how_long(watched_s)}: {kept}. Record again to go on."
                )
            return f"{'Recorded' if is_over else 'Recording'} for {how_long(watched_s)}."


def _changes(number: int) -> str:
    return "change" if number == 1 else "changes"
