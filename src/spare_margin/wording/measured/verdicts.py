"""What the readings of a run say, in a sentence or two that name the piece."""

from collections.abc import Mapping

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.pieces import SIDES, Craft, kind_of
from spare_margin.wording.craft.names import full_name, span_name
from spare_margin.wording.craft.pieces import point_name, side_word
from spare_margin.wording.language.figures import volts

VERDICT_WORDS: Mapping[Verdict, str] = {
    "within": "within",
    "over": "over",
    "too_close": "too close to call",
    "high": "a little high",
    "not_loaded": "not loaded",
}
"""A verdict in a word; none where nothing was measured."""
WELL_KNOWN = 0.05
"""A current known to this share of itself need not be clamped for the verdict."""


def shown_verdict(found: Judgement) -> Verdict:
    """A judgement's verdict as it is shown."""
    if found.verdict == "not_judged":
        return "not_loaded" if found.loaded is False else "not_measured"
    return found.verdict


def judgement_words(found: Judgement, craft: Craft) -> str:
    """The judgement in a sentence or two."""
    parts: list[str] = []
    element, _ = found.top
    if found.loaded is False:
        opened = _open_words(found, craft)
        return opened or "No current flowed: these readings prove nothing of the drops yet."
    if found.verdict == "over":
        parts += _over(found, craft)
        if found.done == "cornered" and element is not None:
            parts.append(f"It is {_suspect_words(found, craft, element)}.")
        elif found.done == "as_drawn":
            parts.append("Every piece is as good as drawn: the wiring itself loses too much.")
        elif found.done == "":
            parts.append("Read its pieces to corner it.")
        return " ".join(parts)
    if found.verdict == "within":
        both = [s for s in SIDES if found.sides[s].ceiling_v is not None]
        said = " and ".join(side_word(s) for s in both) or "The round trip"
        said = said[0].upper() + said[1:]
        verb = "are within their ceilings" if len(both) > 1 else "is within its ceiling"
        return f"{said} {verb}, at the loaded current."
    if found.done == "load":
        return f"The wiring carries what it should: suspect {found.run.load.name}."
    missing = [side_word(s) for s in SIDES if not found.sides[s].read]
    if found.verdict == "too_close":
        close = [side_word(s) for s in SIDES if found.sides[s].verdict == "too_close"]
        where = " and the ".join(close) or "round trip"
        close_call = f"Too close to call: the {where}, within the doubt of what was read."
        return f"{close_call} {_settled_by(found, craft)}".strip()
    if missing:
        verb = "is" if len(missing) == 1 else "are"
        return f"Not judged yet: the {' and the '.join(missing)} {verb} not measured."
    return "Not judged yet: nothing shows that current flowed."


def planned_words(plan: Planned) -> str:
    """What a plan would do with what was measured of the pieces it keeps, in a sentence or two."""
    craft = plan.measured.craft
    left = [full_name(craft, plan.measured.run, key) for key in list(plan.left_in)[:2]]
    if plan.verdict == "over":
        over = [
            f"{side_word(name)} over by {volts(-spare)}"
            for name, spare in plan.spend.spares().items()
            if spare < 0
        ]
        says = f"Planned, with what was measured: {', '.join(over) or 'the load would drop out'}."
        return f"{says} It leaves {left[0]} as it is." if left else says
    if plan.verdict == "too_close":
        return f"Planned, within only if the fault is not in what is kept: {', '.join(left)}."
    return "Planned, within every ceiling with what was measured of the pieces that are kept."


def _settled_by(found: Judgement, craft: Craft) -> str:
    """What read next would tell most where it is too close to call."""
    asked = []
    if found.amps is None or found.amps[1] > WELL_KNOWN * abs(found.amps[0]):
        asked.append("clamp the current")
    if found.probes:
        first = found.probes[0]
        ends = [point_name(craft, first.red), point_name(craft, first.black)]
        asked.append(f"read {' to '.join(ends)}")
    said = " and ".join(asked)
    return f"{said[0].upper()}{said[1:]} next." if said else ""


def _over(found: Judgement, craft: Craft) -> list[str]:
    out = []
    for side in SIDES:
        judged = found.sides[side]
        if judged.verdict == "over" and judged.ceiling_v is not None:
            over = volts(judged.loaded_v - judged.ceiling_v)
            out.append(f"The {side_word(side)} is over its ceiling by {over}.")
    if out:
        return out
    for span in found.spans:
        if span.verdict == "over" and span.loaded_v is not None:
            name = span_name(craft, found.run, span.span.red, span.span.black)
            return [f"{name} alone loses {volts(span.loaded_v)}: more than its side may."]
    spare = found.spare
    by = f" by {volts(-spare[0])}" if spare and spare[0] < 0 else ""
    return [f"More is lost than feed and {side_word('return')} may lose together{by}."]


def _open_words(found: Judgement, craft: Craft) -> str:
    element, _ = found.top
    if found.done == "load":
        return (
            f"Its volts reach {found.run.load.name}, and it draws nothing: the load itself, or what "
            "commands it."
        )
    if found.done == "cornered" and element is not None:
        return f"No current flows: {_suspect_words(found, craft, element)}."
    return ""


def _suspect_words(found: Judgement, craft: Craft, element: str) -> str:
    suspect = next(s for s in found.search.suspects if s.element == element)
    name = full_name(craft, found.run, element)
    piece = next((p for p in craft.pieces if p.id == element), None)
    if piece is not None and kind_of(piece) == "unknown":
        name = f"somewhere from {name}"
    return f"{name}, open" if suspect.kind == "open" else name
