"""What was done to a job, in a line each."""

from collections.abc import Mapping, Sequence

from spare_margin.core.model.jobs import Quantity, Reading, Revision, SignOff, Stage, WalkNote
from spare_margin.core.model.pieces import Craft
from spare_margin.core.proof.conditions import COOL
from spare_margin.core.proof.proof import LEFT_UNDONE
from spare_margin.wording.craft.changes import revision_words
from spare_margin.wording.craft.pieces import worded
from spare_margin.wording.measured.cautions import CAUTIONS
from spare_margin.wording.repair.hand_over import ASIDE, SIGNED_AS

STAGE_WORDS: Mapping[Stage, str] = {
    "as_found": "As found", "planned": "Planned", "as_left": "As left"
}  # fmt: skip
TAKEN_IN = "Put on the shelf here."
QUANTITIES: Mapping[Quantity, tuple[str, str]] = {
    "volts": ("reading of volts", "readings of volts"),
    "amperes": ("current", "currents"),
    "ohms": ("resistance, power off", "resistances, power off"),
    "kelvin": ("surface", "surfaces"),
    "ripple": ("ripple", "ripples"),
    "lamp": ("place with a test lamp", "places with a test lamp"),
}
STEPS: Mapping[str, str] = {
    COOL: "no joint is hot", "source": "the source", "current": "the current",
    "load": "the whole loop", "return": "the whole {return}", "feed": "the whole feed",
}  # fmt: skip


def changed_words(revision: Revision, before: Revision | None) -> str:
    """What a change of the wiring did."""
    told = revision_words(revision, None if before is None else before.craft)
    if revision.folded:
        changes = f"{revision.folded} earlier change{'s' if revision.folded > 1 else ''}"
        told = f"{changes} and this one, together: {told}"
    return f"{STAGE_WORDS[revision.stage]}: {told}."


def read_words(stage: Stage, readings: Sequence[Reading]) -> str:
    """A sitting of readings: how many of what, and how many were corrected or taken back."""
    counts: dict[Quantity, int] = {}
    for each in readings:
        if each.state != "withdrawn":
            counts[each.quantity] = counts.get(each.quantity, 0) + 1
    said = [f"{n} {QUANTITIES[key][n != 1]}" for key, n in counts.items()]
    corrected = sum(1 for r in readings if r.supersedes and r.state != "withdrawn")
    back = sum(1 for r in readings if r.state == "withdrawn")
    said += [f"{corrected} of them in place of one typed wrong"] if corrected else []
    said += [f"{back} taken back"] if back else []
    return f"Read {STAGE_WORDS[stage].lower()}: {', '.join(said)}."


def photographed_words(stage: Stage, count: int) -> str:
    """Photographs that were added one after the other."""
    return f"{STAGE_WORDS[stage]}: {count} photograph{'s' if count > 1 else ''} added."


def noted_words(code: str, notes: Sequence[WalkNote], craft: Craft) -> str:
    """Notes of one kind: cautions taken note of, steps ticked, skipped or taken up again."""
    loads = {x.id: x.name for x in craft.loads}
    run = loads.get(notes[0].run, notes[0].run)
    if code == "seen":
        return f"{run}: seen or heard: {'; '.join(n.reason for n in notes)}."
    if code == "skipped":
        said = "; ".join(f"{_step(n.step)} ({n.reason})" for n in notes)
        return f"{run}: not read: {said}."
    steps = [n for n in notes if n.step.startswith("order.")]
    others = [n for n in notes if n not in steps]
    left = [n.reason for n in others if n.step == LEFT_UNDONE]
    if code == "taken_up":
        return f"{run}: taken back or up again: {', '.join(_step(n.step) for n in notes)}."
    parts = [f"{len(steps)} steps of the work order ticked"] if steps else []
    named = [_step(n.step) for n in others if n.step != LEFT_UNDONE]
    parts += [f"taken note of: {', '.join(named)}"] if named else []
    parts += [f"left undone: {text}" for text in left]
    return f"{run}: {'; '.join(parts)}."


def _step(step: str) -> str:
    if step.startswith(("caution ", "caution.")):
        key = step[len("caution ") :]
        return next((CAUTIONS[c][0].lower() for c in CAUTIONS if c == key), key)
    if step.startswith("seen "):
        return "what was seen or heard"
    return worded(STEPS.get(step, "")) or (
        "a span" if step.startswith("span ") else "a step of the order"
    )


def signed_words(signed: SignOff, craft: Craft) -> str:
    """A signature: under which run's proof, and what that came to."""
    run = next((x.name for x in craft.loads if x.id == signed.run), signed.run)
    return f"{run}: signed as {SIGNED_AS[signed.role]}; {ASIDE[signed.outcome]}."
