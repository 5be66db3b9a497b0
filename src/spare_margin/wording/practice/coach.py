"""The coach in real work: why a card is the next one, in the words of the lesson it stands for."""

from spare_margin.core.practice.lessons import LessonId
from spare_margin.core.walk.walk import Measurement
from spare_margin.wording.craft.pieces import side_word, worded
from spare_margin.wording.language.figures import amperes, volts


def coach_words(
    card: Measurement, load: str, amps: float | None, allowed: float | None, source_v: float | None
) -> tuple[str, LessonId]:
    """What the coach says of a card, and which lesson it is from.

    Args:
        card: the card.
        load: what the load is called.
        amps: what the load should draw (A).
        allowed: what may be dropped between the leads (V).
        source_v: what the source was measured at (V).
    """
    match card.kind:
        case "current":
            drawn = "" if amps is None else f" It should draw about {amperes(amps)}."
            return (
                f"Without current every bad joint of {load} measures perfect.{drawn}",
                "no_current",
            )
        case "source":
            return (
                f"All of the source is dropped on the way round. What {load} does not get was dropped "
                "before it or after it.",
                "spent",
            )
        case "load":
            has = "the source" if source_v is None else f"{volts(source_v)} at the source"
            return (
                f"From {has}, what is missing here was dropped in the feed and the {side_word('return')} "
                "together.",
                "spent",
            )
        case "side":
            word = side_word(card.side or "feed")
            limit = "" if allowed is None else f" Up to {volts(allowed)} clears them all."
            return (
                f"One reading across the whole {word} speaks for every piece in it.{limit}",
                "difference",
            )
    share = "" if allowed is None else f" Its allowance is {volts(allowed)}."
    return (
        worded(
            "The meter shows only what lies between its two leads: put nothing else between them."
        )
        + share,
        "difference",
    )
