"""What the readings of a run say, in a sentence or two that name the piece."""

from collections.abc import Callable, Mapping, Set

from spare_margin.core.bounds.conclusion import AgainstLimit, Conclusion, Found, Headline, Range
from spare_margin.core.circuit.runs import Held
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import Planned
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.pieces import SIDES, Craft
from spare_margin.wording.craft.names import full_name, span_name
from spare_margin.wording.craft.pieces import point_name, side_word
from spare_margin.wording.language.figures import amperes, volts, volts_from, volts_to

VERDICT_WORDS: Mapping[Verdict, str] = {
    "within": "within limits",
    "within_as_ran": "within as it ran",
    "over": "over limit",
    "over_as_ran": "over as it ran",
    "too_close": "too close to call",
    "high": "above allowance",
    "open": "open",
    "contradiction": "can't all be true",
    "not_loaded": "no current",
}
"""A verdict in a word; none where nothing was measured."""
_SHOWN: Mapping[Headline, Verdict] = {
    "contradiction": "contradiction", "no_current": "not_loaded", "open": "open", "over": "over",
    "over_as_ran": "over_as_ran", "within": "within", "within_as_ran": "within_as_ran",
    "too_close": "too_close", "not_read": "not_measured",
}  # fmt: skip


def shown_verdict(found: Judgement) -> Verdict:
    """A judgement's verdict as it is shown."""
    return _SHOWN[found.conclusion.headline]


def judgement_words(found: Judgement, craft: Craft) -> str:
    """The judgement in a sentence or two."""
    return " ".join(filter(None, _SAID[found.conclusion.headline](found, craft)))


def _contradiction(found: Judgement, craft: Craft) -> list[str]:
    by_id = {o.reading: o for o in found.observed.each}
    told = []
    for key in found.conclusion.contradicting:
        o = by_id[key]
        shown = amperes(o.value) if o.quantity == "amperes" else volts(o.value)
        told.append(f"{shown} at {span_name(craft, found.run, o.red, o.black)}")
    return [
        f"These readings can't all be true: {_listed(told)}.",
        "Take them again. If they stay, something that isn't drawn feeds in between: a charger, a panel, a "
        "second battery.",
    ]


def _no_current(found: Judgement, _: Craft) -> list[str]:
    if found.done == "load":
        return [
            f"{found.run.load.name} gets its voltage but draws no current: check the load, its plug, and "
            "whatever controls it."
        ]
    return ["No current flowed, so these readings say nothing about voltage drop."]


def _open(found: Judgement, craft: Craft) -> list[str]:
    made = found.conclusion
    if made.found:
        says = f"{full_name(craft, found.run, made.found[0].piece)} is open."
    else:
        says = f"Open between {_ends(made, craft)}."
    return [
        says,
        "It comes and goes: current passed in another reading." if made.comes_and_goes else "",
    ]


def _over(found: Judgement, craft: Craft) -> list[str]:
    made = found.conclusion
    out = [_over_by(part) for part in _parts(made) if part.verdict == "over"]
    if len(out) > 1:
        out = out[:-1]  # that the sides are over says that both together are
    return [*out, *_where(found, craft)]


def _over_as_ran(found: Judgement, craft: Craft) -> list[str]:
    made = found.conclusion
    sides = [part for part in _parts(made) if part.verdict == "over_as_ran"]
    out = [
        f"As it ran, {_called(part)} dropped {_at_least(part.ran)} or more; "
        f"{volts(part.limit_v or 0.0)} is the limit."
        for part in sides[: max(len(sides) - 1, 1)]
    ]
    if made.unless_a is not None:
        out.append(
            f"Unless {found.run.load.name} draws more than {amperes(made.unless_a)}: clamp it."
        )
    return [*out, *_where(found, craft)]


def _over_by(part: AgainstLimit) -> str:
    over = _at_least(part.loaded, part.limit_v or 0.0)
    verb = "are" if part.part == "together" else "is"
    limit = "their limit" if part.part == "together" else "its limit"
    says = f"{_called(part)} {verb} over {limit} by {over} or more."
    return says[0].upper() + says[1:]


def _at_least(lost: Range, limit_v: float = 0.0) -> str:
    return volts_from((lost.low or 0.0) - limit_v, lost.half or 0.0)


def _where(found: Judgement, craft: Craft) -> list[str]:
    """Which pieces it is, or between which points."""
    made = found.conclusion
    if found.done == "as_drawn":
        return ["Nothing is worse than drawn. The wiring itself drops too much."]
    if made.found:
        told = [_piece(found, craft, each) for each in made.found]
        undrawn = any(
            s.piece.id in found.found and s.piece.kind == "unknown" for s in found.run.steps()
        )
        says = [f"It {'lies in' if undrawn else 'is'} {_listed(told)}."]
        if made.more is not None:
            ends = " and ".join(point_name(craft, p) for p in made.more)
            says.append(f"That is not all of it: more is lost between {ends}.")
        return says
    if made.between is not None:
        return [f"It lies between {_ends(made, craft)}."]
    return []


def _piece(found: Judgement, craft: Craft, each: Found) -> str:
    name = full_name(craft, found.run, each.piece)
    if each.drop.volts is None or each.allowed_v is None:
        return name
    return f"{name} ({volts_to(each.drop.volts, each.drop.half or 0.0)}, {volts(each.allowed_v)} allowed)"


def _within(found: Judgement, _: Craft) -> list[str]:
    both = [s for s in SIDES if found.sides[s].ceiling_v is not None]
    said = " and ".join(side_word(s) for s in both) or "the round trip"
    said = said[0].upper() + said[1:]
    verb = "are within their limits" if len(both) > 1 else "is within its limit"
    out = [f"{said} {verb} at full-load current."]
    if found.done == "load":
        out.append(f"{found.run.load.name} draws the wrong current: check the load.")
    elif found.done == "cornered":
        out.append("But not good: something burns, or comes and goes.")
    return out


def _within_as_ran(found: Judgement, _: Craft) -> list[str]:
    return [
        "As it ran, no voltage drop was over its limit.",
        f"The current of {found.run.load.name} is not known. Clamp it to prove the run.",
    ]


def _too_close(found: Judgement, _: Craft) -> list[str]:
    close = [p for p in _parts(found.conclusion) if p.verdict == "too_close"]
    told = [
        f"{_called(p)} drops {volts(p.loaded.low or 0.0)} to {volts(p.loaded.high or 0.0)}, "
        f"{volts(p.limit_v or 0.0)} is the limit"
        for p in close
        if p.part != "together" or len(close) == 1
    ]
    return [
        f"Too close to call: {_listed(told)}." if told else "Too close to call.",
        _settled_by(found),
    ]


def _settled_by(found: Judgement) -> str:
    if found.conclusion.unsettled:
        return "Measure the source again."
    return "Clamp the current." if found.amps is None else ""


def _not_read(found: Judgement, _: Craft) -> list[str]:
    match found.conclusion.missing:
        case "current":
            return ["No verdict yet: no reading shows that current flowed."]
        case "source":
            return ["No verdict yet: the source may have moved. Measure it again with the load on."]
        case None:
            return ["No verdict yet."]
        case side:
            return [f"No verdict yet: the {side_word(side)} is not measured end to end."]


_SAID: Mapping[Headline, Callable[[Judgement, Craft], list[str]]] = {
    "contradiction": _contradiction, "no_current": _no_current, "open": _open, "over": _over,
    "over_as_ran": _over_as_ran, "within": _within, "within_as_ran": _within_as_ran,
    "too_close": _too_close, "not_read": _not_read,
}  # fmt: skip


def _parts(made: Conclusion) -> list[AgainstLimit]:
    sides = [] if made.sides is None else list(made.sides.values())
    return [*sides, *([] if made.together is None else [made.together])]


def _called(part: AgainstLimit) -> str:
    if part.part == "together":
        return f"feed and {side_word('return')} together"
    return f"the {side_word(part.part)}"


def _ends(made: Conclusion, craft: Craft) -> str:
    assert made.between is not None, "only where it lies between two points"
    return " and ".join(point_name(craft, p) for p in made.between)


def _listed(parts: list[str]) -> str:
    return " and ".join(filter(None, (", ".join(parts[:-1]), parts[-1] if parts else "")))


def not_read_words(unread: Set[Held]) -> str:
    """Of what of a run nothing is known."""
    open_sides = [s for s in SIDES if s in unread] or SIDES
    sides = " and ".join(f"the {side_word(s)}" for s in open_sides)
    return f"{sides} {'is' if len(open_sides) == 1 else 'are'} neither drawn in full nor read."


def planned_words(plan: Planned) -> str:
    """What a plan would do with what was measured of the pieces it keeps, in a sentence or two."""
    craft = plan.measured.craft
    left = [full_name(craft, plan.measured.run, key) for key in list(plan.left_in)[:2]]
    if plan.verdict == "over":
        over = [
            f"the {side_word(name)} would be {volts(-spare)} over its limit"
            for name, spare in plan.spares.items()
            if spare < 0
        ]
        says = (
            f"Going by the readings, with this plan {', '.join(over) or 'the load would drop out'}."
        )
        return f"{says} It leaves {left[0]} as it is." if left else says
    if plan.verdict == "not_measured":
        return f"Whether this plan is enough is not known: {not_read_words(plan.unread)}"
    if plan.verdict == "too_close":
        return f"This plan works only if the fault is not in what you keep: {', '.join(left)}."
    return "Going by the readings on what you keep, this plan meets every limit."
