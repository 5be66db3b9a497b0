"""What a pass needs, each condition with what it is about where it does not hold.

A pass needs current that is proven, every ceiling kept at the loaded current, all points read again,
volts that close, no hot joint, no conductor thinner than its fuse, cautions taken note of; and what is not
like for like must not be able to have made the difference.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from spare_margin.core.evidence.observation.observations import WATCH_K, live_readings
from spare_margin.core.evidence.verdict.account import account
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.measure.findings import Burning, GrowsWarm
from spare_margin.core.model.jobs import Reading, WalkNote
from spare_margin.core.model.pieces import FixedPiece
from spare_margin.core.protection.checks import Violation
from spare_margin.core.walk.walk import Measurement

from .before_after import metered_current
from .likeness import Likeness
from .passes import ProofPass

COOL = "proof.cool"
"""The note that says that every joint worked on was felt, and none is hot."""
DANGEROUS = ("thin_for_fuse", "overloaded", "unfused")
"""What is wrong with the protection that no repair may leave behind."""
Code = Literal[
    "loaded", "ceilings", "points", "repeats", "closes", "cool", "fuses", "cautions", "alike"
]


@dataclass(frozen=True, slots=True)
class Condition:
    """One thing that a pass needs. `holds` is None while nobody can say; `about` are what it is about.

    `about` holds ids: of measurements, pieces, cautions, or codes of likenesses, as the code has it.
    """

    code: Code
    holds: bool | None
    about: tuple[str, ...] = ()
    facts: Mapping[str, float | str] = field(default_factory=dict)


def conditions(
    found: ProofPass | None,
    left: ProofPass,
    missing: Sequence[Measurement],
    worked: frozenset[str],
    alike: Sequence[Likeness],
    notes: Sequence[WalkNote],
    guards: Iterable[str],
    violations: Iterable[Violation],
) -> tuple[Condition, ...]:
    """All conditions of a pass; `missing` are measurements neither read nor skipped, `worked` pieces.

    Args:
        found: what was read as found; None where nothing was.
        left: what was read as left.
        alike: the conditions of both passes, compared.
        notes: what was noted on the walk, in order.
        guards: the cautions to be taken note of first.
        violations: what is wrong with the fuses.
    """
    judged = left.judgement
    return (
        _loaded(judged),
        _ceilings(judged),
        Condition("points", None if missing else True, tuple(m.id for m in missing)),
        _repeats(left),
        _closes(judged),
        _cool(left, worked, notes),
        _fuses(judged, violations),
        _cautions(guards, notes),
        _alike(alike, judged, found),
    )


def acknowledged(notes: Sequence[WalkNote]) -> frozenset[str]:
    """The steps that were taken note of, as the last word on each has it.

    Args:
        notes: what was noted on the walk, in order.
    """
    last = {note.step: note.state for note in notes}
    return frozenset(step for step, state in last.items() if state == "acknowledged")


def _loaded(left: Judgement) -> Condition:
    """Current is proven by a clamp or in series in the moment that is judged, not by inference."""
    if left.loaded is False:
        return Condition("loaded", False)
    metered = metered_current(left) is not None
    return Condition("loaded", True if left.loaded and metered else None)


def _repeats(left: ProofPass) -> Condition:
    """No two readings that stand differ over one span under the same conditions.

    Two that differ beyond their doubt are a contact that comes and goes, or a mistake: a mistake is
    corrected, which is told; what is not corrected stays open, however often it is read again.
    """
    stand = [r for r in live_readings(left.readings) if r.value is not None]
    if not stand:
        return Condition("repeats", None)
    about = [
        f"{last.red} {last.black}"
        for i, last in enumerate(stand)
        if any(_same_span(r, last) and _differ(r, last) for r in stand[:i])
    ]
    if about:
        return Condition("repeats", None, tuple(dict.fromkeys(about)))
    by_id = {r.id: r for r in left.readings}
    corrected = [
        (was.typed, r.typed)
        for r in stand
        if (was := by_id.get(r.supersedes or "")) is not None
        and was.value is not None
        and _differ(was, r)
    ]
    facts: dict[str, float | str] = {"corrected": len(corrected)}
    if corrected:
        facts |= dict(zip(("was", "is"), corrected[-1], strict=True))
    return Condition("repeats", True, facts=facts if corrected else {})


def _same_span(one: Reading, other: Reading) -> bool:
    return (
        {one.red, one.black} == {other.red, other.black}
        and one.quantity == other.quantity
        and (one.revision, one.moment, one.scenario)
        == (other.revision, other.moment, other.scenario)
    )


def _differ(one: Reading, other: Reading) -> bool:
    turned = -1.0 if one.red != other.red else 1.0
    assert one.value is not None, "only readings with a value are compared"
    assert other.value is not None, "only readings with a value are compared"
    return abs(one.value * turned - other.value) > one.accuracy + other.accuracy


def _ceilings(left: Judgement) -> Condition:
    holds = {"within": True, "over": False, "over_as_ran": False}.get(left.verdict)
    facts: dict[str, float | str] = {"verdict": left.verdict}
    if left.spare is not None:
        facts |= {"spare": left.spare[0], "which": left.spare[1]}
    return Condition("ceilings", holds, left.found if holds is False else (), facts)


def _closes(left: Judgement) -> Condition:
    sums = account(left)
    unread = tuple(
        name
        for name, part in zip(
            ("source", "feed", "load", "return"),
            (sums.source, sums.feed, sums.load, sums.back),
            strict=True,
        )
        if part is None or not part.direct
    )
    facts: dict[str, float | str] = {} if sums.left_v is None else {"volts": sums.left_v}
    return Condition("closes", None if unread else sums.closes, unread, facts)


def _cool(left: ProofPass, worked: frozenset[str], notes: Sequence[WalkNote]) -> Condition:
    """Every joint worked on was felt, or read with a thermometer, and none is hot."""
    hot = [f for f in left.judgement.findings if isinstance(f, Burning)]
    if hot:
        return Condition(
            "cool", False, tuple(dict.fromkeys(f.piece for f in hot if f.piece is not None))
        )
    felt = COOL in acknowledged(notes)
    read = [
        r for r in live_readings(left.readings) if r.quantity == "kelvin" and r.value is not None
    ]
    ends = {frozenset((r.red, r.black)) for r in read}
    joints = [
        s.piece
        for s in left.judgement.run.steps()
        if s.piece.id in worked and isinstance(s.piece, FixedPiece)
    ]
    unread = tuple(p.id for p in joints if frozenset((p.start, p.end)) not in ends)
    warm = tuple(f"{r.red} {r.black}" for r in read if (r.value or 0.0) >= WATCH_K)
    known = felt or bool(joints and not unread)
    return Condition("cool", True if known else None, unread if not known else warm)


def _fuses(left: Judgement, violations: Iterable[Violation]) -> Condition:
    """Holds only where each figure that it rests on is known."""
    own = {s.piece.id for s in left.run.steps()}
    here = [v for v in violations if left.run.load.id in v.loads or v.piece in own]
    wrong = [v for v in here if v.code in DANGEROUS]
    if wrong:
        codes = ",".join(dict.fromkeys(v.code for v in wrong))
        about = tuple(dict.fromkeys(v.piece for v in wrong))
        return Condition("fuses", False, about, {"wrong": codes})
    unknown = [v for v in here if v.code == "not_known"]
    if unknown:
        about = tuple(p for v in unknown for p in v.pieces if p in own)
        lacking = ",".join(dict.fromkeys(str(v.facts["what"]) for v in unknown))
        return Condition("fuses", None, about, {"lacking": lacking})
    custom = any(v.code == "unfused_by_custom" for v in here)
    return Condition("fuses", True, facts={"by_custom": "yes"} if custom else {})


def _cautions(guards: Iterable[str], notes: Sequence[WalkNote]) -> Condition:
    known = acknowledged(notes)
    left = tuple(g for g in guards if f"caution {g}" not in known)
    return Condition("cautions", None if left else True, left)


def _alike(alike: Sequence[Likeness], left: Judgement, found: ProofPass | None) -> Condition:
    """What is not alike stands in the way only where it may have made the difference."""
    if found is not None and not alike:
        # Nothing was read after the repair: what is not known yet is no tick.
        return Condition("alike", None)
    spare = left.spare[0] if left.spare is not None else 0.0
    warms = found is not None and any(isinstance(f, GrowsWarm) for f in found.judgement.findings)
    open_: list[str] = []
    for each in alike:
        unsaid = each.alike is None and each.facts.get("missing") == "after"
        eats = each.effect_v is not None and each.effect_v >= max(spare, 0.0)
        cold = each.code == "warm_up" and each.alike is not True and warms
        unsolved = each.alike is False and each.effect_v is None and each.code != "charger"
        if (
            (each.alike is False and (eats or unsolved))
            or cold
            or (unsaid and each.code in ("current", "source"))
        ):
            open_.append(each.code)
    return Condition("alike", None if open_ else True, tuple(open_))
