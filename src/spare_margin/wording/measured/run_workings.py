"""How the figures of a run came about that was read: by the bounds that its headline rests on."""

from spare_margin.core.bounds.conclusion import AgainstLimit
from spare_margin.core.budget.headroom import Headroom
from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.limits import Limits
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.craft.sheets import as_measured_words
from spare_margin.wording.craft.workings import (
    WorkingLine,
    limit_words,
    load_working,
    room_working,
)
from spare_margin.wording.language.figures import share_of, volts


def read_working(
    judged: Judgement, budget: RunBudget, room: Headroom, limits: Limits, read_v: float | None
) -> list[WorkingLine]:
    """How a read run's own figures came about.

    Args:
        judged: what the readings say of it.
        budget: the run with the craft as measured, in its worst scenario.
        room: what more it would bear, as measured.
        read_v: what was read across the load (V), where it was.
    """
    lines = []
    if read_v is not None:
        lines.append(WorkingLine("load_v", "At the load", "read across it", volts(read_v)))
    if not judged.unread:
        label = "At the load" if read_v is None else "Worst"
        lines.append(load_working(budget, label, as_measured_words(judged.worst.name)))
    made = judged.conclusion
    parts = [*(made.sides or {}).values(), *([made.together] if made.together else [])]
    lines += [line for part in parts if (line := _against_limit(part, limits)) is not None]
    return [*lines, *room_working(budget, room)]


def _against_limit(part: AgainstLimit, limits: Limits) -> WorkingLine | None:
    """A part against its limit: at the least it loses where it is over, at the most where it is within."""
    low, high = part.loaded.low, part.loaded.high
    known = part.direct or part.verdict not in ("not_judged", "too_close")
    if part.limit_v is None or not known:
        return None
    about, name = ("round_trip", "round trip") if part.part == "together" else (
        part.part, side_word(part.part),
    )  # fmt: skip
    over = part.verdict in ("over", "over_as_ran")
    lost = low if over else high
    if part.verdict == "too_close" and low is not None and high is not None:
        loses, result = f"{volts(low)} to {volts(high)}", "too close to call"
    elif lost is not None:
        spare = part.limit_v - lost
        loses = f"{volts(lost)} at {'least' if over else 'most'}"
        result = volts(spare) + share_of(spare, part.limit_v)
    else:
        return None
    formula = f"{volts(part.limit_v)} limit \u2212 {loses}, by the readings, at full-load current"
    return WorkingLine(about, f"Spare, {name}", formula, result, limit_words(limits))
