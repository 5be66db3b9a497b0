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
    """A part against its limit: at the least it loses where it is over, else at the most that is known."""
    over = part.verdict in ("over", "over_as_ran")
    lost = part.loaded.low if over else part.loaded.high
    known = part.direct or part.verdict not in ("not_judged", "too_close")
    if part.limit_v is None or lost is None or not known:
        return None
    about, name = part.part, side_word(part.part)
    if part.part == "together":
        about, name = "round_trip", "round trip"  # type: ignore[assignment]
    spare = part.limit_v - lost
    return WorkingLine(
        about, f"Spare, {name}",
        f"{volts(part.limit_v)} limit \u2212 {volts(lost)} at {'least' if over else 'most'}, by the "
        "readings, at full-load current",
        volts(spare) + share_of(spare, part.limit_v), limit_words(limits),
    )  # fmt: skip
