"""The proof of a repair in words: what holds, what does not and what cures it, what is not alike."""

from collections.abc import Callable, Mapping, Sequence

from spare_margin.core.model.jobs import ProofOutcome
from spare_margin.core.proof.before_after import Won
from spare_margin.core.proof.conditions import Condition
from spare_margin.core.proof.likeness import Likeness
from spare_margin.core.proof.proof import Proof
from spare_margin.core.walk.walk import Measurement
from spare_margin.wording.craft.names import full_name
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.language.figures import amperes, digits, volts, volts_as_read
from spare_margin.wording.measured.cautions import CAUTIONS
from spare_margin.wording.measured.walks import measurement_title

OUTCOMES: Mapping[ProofOutcome, str] = {
    "passed": "Proved",
    "failed": "Not proved: a requirement is not met",
    "open": "Not proved yet",
}
HEADS: Mapping[str, str] = {
    "loaded": "Current",
    "ceilings": "Voltage-drop limits, at full-load current",
    "points": "Test points",
    "repeats": "Repeated readings",
    "closes": "Readings add up",
    "cool": "Joint temperature",
    "fuses": "Fuses and wires",
    "cautions": "Cautions",
    "alike": "Same conditions as before",
}
"""What a pass needs, condition by condition."""
PARTS: Mapping[str, str] = {"source": "the source", "load": "the load"}


def condition_words(each: Condition, proof: Proof) -> tuple[str, str]:
    """A condition as (what is known of it, what cures it); the cure is empty where it holds."""
    match each.code:
        case "loaded":
            return _loaded(each, proof)
        case "ceilings":
            return _ceilings(each, proof)
        case "points":
            if each.holds:
                return _read_words(proof), ""
            return (
                f"{len(each.about)} of {len(proof.rows)} still to be measured.",
                "Go on measuring.",
            )
        case "repeats":
            return _repeats(each, proof)
        case "closes":
            return _closes(each)
        case "cool":
            return _cool(each, proof)
        case "fuses":
            return _fuses(each, proof)
        case "cautions":
            if each.holds:
                return "All read.", ""
            left = ", ".join(CAUTIONS[c][0].lower() for c in CAUTIONS if c in each.about)
            return f"Not yet: {left}.", "Read them."
        case "alike":
            return _alike(each, proof)
    raise AssertionError(each.code)


def _read_words(proof: Proof) -> str:
    """How many of the points were measured, and how many were left out with a reason."""
    left = len(proof.left_out)
    skipped = f", {left} skipped" if left else ""
    return f"{len(proof.rows) - left} measured{skipped}."


LACKING: Mapping[str, str] = {
    "to_size": "the sizes to be chosen", "undrawn": "what is not drawn",
    "rating": "the fuse's rating", "size": "the wire's size",
    "insulation": "the wire's insulation", "row": "what the wire is rated for",
}  # fmt: skip
WRONG: Mapping[str, tuple[str, str]] = {
    "thin_for_fuse": (
        "The fuse lets more through than it is rated for", "A smaller fuse, or a thicker wire.",
    ),
    "overloaded": (
        "It carries more than it is rated for", "A thicker wire, or fewer loads on it.",
    ),
    "unfused": ("No fuse protects it", "A fuse as near the source as practicable."),
}  # fmt: skip


def _fuses(each: Condition, proof: Proof) -> tuple[str, str]:
    """Whether every wire of the run is protected; not known where a figure for it is not known."""
    named = _named(each.about, proof)
    if each.holds is False:
        codes = str(each.facts["wrong"]).split(",")
        says = "; ".join(WRONG[code][0].lower() for code in codes)
        return f"{named}: {says}.", " ".join(WRONG[code][1] for code in codes)
    if each.holds is None:
        lacking = [LACKING[what] for what in str(each.facts["lacking"]).split(",")]
        return f"Not known: {', '.join(lacking)} ({named}).", "Find it out and enter it."
    if each.facts.get("by_custom"):
        return (
            "No fuse, as is usual for an engine's starter: short, guarded, apart from other wiring.",
            "",
        )
    return "Every wire on this run can carry its fuse, and what flows through it.", ""


def _loaded(each: Condition, proof: Proof) -> tuple[str, str]:
    load = proof.left.run.load.name
    if each.holds:
        return f"The current of {load} was measured.", ""
    if each.holds is False:
        return "No current flowed.", f"Switch {load} on, and find out why it draws nothing."
    if proof.left.loaded:
        return (
            "Current flowed, but it was not measured.",
            f"Clamp the current with {load} on.",
        )
    return "No reading shows yet that current flowed.", f"Clamp the current with {load} on."


def _repeats(each: Condition, proof: Proof) -> tuple[str, str]:
    if each.holds:
        return f"No two readings of the same points differ.{_corrected(each)}", ""
    if not each.about:
        return "Nothing was read after the repair yet.", ""
    points = {p.id: p.name or p.id for p in proof.left.craft.points}
    named = [" to ".join(points.get(p, p) for p in pair.split()) for pair in each.about]
    return (
        f"{', '.join(named)}: measured again with another result. An intermittent contact, or a mistake.",
        "Move the contact while you read it. If one of them was typed wrong, correct that one.",
    )


def _corrected(each: Condition) -> str:
    """What was typed wrong and corrected, for whoever signs."""
    count = each.facts.get("corrected", 0)
    if not count:
        return ""
    if count == 1:
        return f" One was typed wrong, {each.facts['was']}, and corrected to {each.facts['is']}."
    return f" {count} were typed wrong and corrected; the record keeps both."


def _ceilings(each: Condition, proof: Proof) -> tuple[str, str]:
    spare, which = each.facts.get("spare"), str(each.facts.get("which", ""))
    if each.holds and isinstance(spare, float):
        return f"{volts(spare)} to spare, {side_word(which)}.", ""
    if each.holds:
        return "Nothing is over its limit.", ""
    if each.holds is False:
        over = f"{side_word(which).capitalize()} over" if isinstance(spare, float) else "Over"
        by = f" by {volts(-spare)}" if isinstance(spare, float) and spare < 0 else ""
        named = _named(each.about, proof)
        if named:
            return (
                f"{over}{by}: most likely {named}.",
                f"Put {named} right, then start again at the source.",
            )
        return (
            f"{over}{by}.",
            "Find the remaining fault, repair it, then start again at the source.",
        )
    if each.facts.get("verdict") == "too_close":
        return "Too close to call.", "Use a more accurate meter, or measure that side end to end."
    return "No verdict yet.", "Measure the source, the current, the load and both sides."


def _closes(each: Condition) -> tuple[str, str]:
    left = each.facts.get("volts")
    said = volts(left) if isinstance(left, float) else ""
    if each.holds:
        return f"Source = feed + load + {side_word('return')}, {said} left.", ""
    if each.holds is False:
        return (
            f"{said} unaccounted for.",
            "Measure all four again in a row without changing anything.",
        )
    parts = [PARTS.get(p) or f"the whole {side_word(p)}" for p in each.about]
    return "Not all four are measured.", f"Measure {' and '.join(parts)} end to end."


def _cool(each: Condition, proof: Proof) -> tuple[str, str]:
    if each.holds:
        return "None of the joints worked on is hot, after warm-up.", ""
    named = _named(each.about, proof)
    if each.holds is False:
        return (
            f"Hot: {named or 'a joint'}. A fire hazard.",
            "Switch off. Remake it before anything else.",
        )
    return (
        f"Not confirmed for {named or 'the joints on this run'}.",
        "After warm-up, measure each joint and the cable next to it with a thermometer, or "
        "hold the back of "
        "your hand near it.",
    )


def _alike(each: Condition, proof: Proof) -> tuple[str, str]:
    if not proof.likenesses:
        if proof.found is None:
            return "Nothing was read before the repair: there is nothing to compare with.", ""
        return "Nothing to compare yet.", ""
    differ = [x for x in proof.likenesses if x.alike is False]
    if each.holds and not differ:
        return "As far as they were recorded.", ""
    if each.holds:
        return "Not all the same, but that can't have made the difference.", ""
    cures = [CURES[x.code] for x in proof.likenesses if x.code in each.about]
    return "Conditions were different, and that may have made the difference.", " ".join(cures)


CURES: Mapping[str, str] = {
    "loads": "Put the same loads on, and measure again.",
    "current": "Find out why the load draws otherwise, and measure again.",
    "source": "Bring the source to the same volts, and measure again.",
    "charger": "Charger as before, and measure again.",
    "warm_up": "Leave it on as long as before, and measure again.",
    "meter": "Measure again with the same meter.",
}


def _named(about: Sequence[str], proof: Proof) -> str:
    """Pieces by their names, at most three of them."""
    craft, run = proof.left.craft, proof.left.run
    own = {p.id for p in craft.pieces} | {run.load.id, run.source.id}
    named = [full_name(craft, run, key) for key in about if key in own]
    more = f" and {len(named) - 3} more" if len(named) > 3 else ""
    return ", ".join(named[:3]) + more


LIKE_HEADS: Mapping[str, str] = {
    "loads": "Loads on", "current": "Current", "source": "Source", "charger": "Charger",
    "warm_up": "Warm-up", "meter": "Meter",
}  # fmt: skip


def likeness_words(each: Likeness, proof: Proof) -> tuple[str, str]:
    """A condition of both compared: what it was before and after, and what the difference does."""
    if each.alike is None:
        when = "before" if each.facts.get("missing") == "before" else "after"
        return f"Not known {when}.", ""
    said = _said(each, proof)
    says = f"{said[0].upper()}{said[1:]}."
    if each.alike:
        risen = each.code == "current" and each.facts.get("by_volts")
        return says, "It draws more because it gets more volts." if risen else ""
    return says, _effect_words(each)


def _said(each: Likeness, proof: Proof) -> str:
    before, after = each.facts.get("before"), each.facts.get("after")
    match each.code:
        case "loads":
            return _loads_words(each, proof)
        case "current":
            return _both(before, after, amperes)
        case "source":
            return _both(before, after, volts)
        case "charger":
            seen = ", by the volts on the posts" if each.facts.get("seen") else ""
            return f"{before} before, {after} after{seen}"
        case "warm_up":
            return _both(before, after, lambda minutes: f"{digits(minutes, 3)} min")
        case "meter":
            return "The same" if each.alike else "Another meter than before"


def _both(before: object, after: object, shown: Callable[[float], str]) -> str:
    if not isinstance(before, float) or not isinstance(after, float):
        return "the same"
    return f"{shown(before)} before, {shown(after)} after"


def _loads_words(each: Likeness, proof: Proof) -> str:
    if each.alike:
        return "the same"
    before = proof.before.on if proof.before else frozenset()
    names = {x.id: x.name for x in proof.left.craft.loads}
    missing = [names.get(x, x) for x in each.loads if x in before]
    extra = [names.get(x, x) for x in each.loads if x not in before]
    parts = [f"{', '.join(missing)} off"] if missing else []
    parts += [f"{', '.join(extra)} on"] if extra else []
    return f"Different from before: {'; '.join(parts)}"


def _effect_words(each: Likeness) -> str:
    """What the difference would do to the volts lost."""
    effect = each.effect_v
    if each.code == "charger":
        return "The volts it adds are in the source, above."
    if each.code == "meter":
        return "The meter's own error no longer cancels out."
    if effect is None:
        return "What that does cannot be worked out."
    if abs(effect) < 0.0005:
        return "It changes nothing worth telling."
    more = "more" if effect > 0 else "less"
    upto = "up to " if each.code == "warm_up" else ""
    return f"Under the earlier conditions the wiring would drop {upto}{volts(abs(effect))} {more}."


READ_TO_V = 0.01
"""Volts at a load are told to the hundredth: their sum and difference are no better."""


def won_words(proof: Proof) -> str:
    """What the repair gave, in a sentence; empty where nothing was read before.

    Where the load was read before and after that is what is told: no other figure stands beside it.
    """
    read = next((r for r in proof.rows if r.measurement.kind == "load"), None)
    load = proof.left.run.load.name
    if read is not None and read.before is not None and read.after is not None:
        then, after = read.before.value, read.after.value
        gain = volts_as_read(abs(after - then), READ_TO_V)
        more = "more" if after >= then else "less"
        both = f"{volts_as_read(after, READ_TO_V)} instead of {volts_as_read(then, READ_TO_V)}"
        burnt = f"; {_heat_words(proof.won)}, worked out" if proof.won is not None else ""
        return f"{load}: {both} as read, {gain} {more}{burnt}."
    return ""


def _heat_words(won: Won) -> str:
    saved = won.heat_w[0] - won.heat_w[1]
    return (
        f"{digits(abs(saved), 2)} W {'less' if saved >= 0 else 'more'} wasted as heat in the wiring"
    )


def point_words(each: Measurement, proof: Proof) -> str:
    """What a measurement of a proof is called."""
    return measurement_title(proof.left.craft, proof.left.run, each)
