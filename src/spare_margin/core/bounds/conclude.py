"""From readings to the one conclusion: each moment by itself, then the worst of them.

Nothing is within unless one moment spans it, and nothing is over unless one moment leaves no other way. A
moment whose readings contradict one another decides nothing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.evidence.observation.observations import Observation, Observed
from spare_margin.core.measure.findings import Finding
from spare_margin.core.model.pieces import SIDES, Craft, Side

from .conclusion import AgainstLimit, Conclusion, Found, Headline, Missing, Range
from .guilt import guilt
from .held import Judged, RunLimits
from .moment import RunMoment
from .opens import Open, opened, screened
from .to_read import to_read
from .trends import comes_and_goes, trends

WORST_FIRST: tuple[Headline, ...] = (
    "contradiction", "over", "over_as_ran", "open", "within", "within_as_ran", "too_close",
    "not_read", "no_current",
)  # fmt: skip
"""Of several moments the first of these counts."""
TRIED: frozenset[Headline] = frozenset({"contradiction", "over", "over_as_ran", "open"})
"""What a moment with a trial's wire in it can say of the wiring without: a wire beside a piece can only
take volts off a side (Rayleigh's monotonicity law)."""
DECIDED: frozenset[Headline] = frozenset({"over", "over_as_ran", "within", "within_as_ran"})


@dataclass(frozen=True)
class Said:
    """What one moment says by itself."""

    judged: Judged
    headline: Headline
    open: Open | None = None

    @property
    def moment(self) -> RunMoment:
        """The moment."""
        return self.judged.moment


@dataclass(frozen=True)
class Concluded:
    """The conclusion, with the moments it was drawn from, the load on in them, in the order of reading."""

    conclusion: Conclusion
    moments: tuple[Judged, ...]
    judged: Judged | None
    findings: tuple[Finding, ...]


def conclude(
    craft: Craft,
    run: Run,
    users: Mapping[str, Sequence[str]],
    observed: Observed,
    limits: RunLimits,
    out_of_reach: frozenset[frozenset[str]] = frozenset(),
) -> Concluded:
    """What the readings of a craft say of one of its runs.

    Args:
        users: ids of the loads whose run passes each piece.
        observed: all that was read of the craft.
        limits: what the run may lose, and what the loads draw, by scenario.
        out_of_reach: pairs of points that cannot be read.
    """
    moments = _moments(craft, run, users, observed)
    said = [s for m in moments if m.commanded and _counts(s := _said(m, limits))]
    off = [m for m in moments if not m.commanded]
    resting = [o for m in off if (o := opened(m, observed.screens)) is not None]
    resting += screened(run, observed.screens)
    judged = tuple(s.judged for s in said)
    goes = _goes(said, resting)
    if not said:
        made = _at_rest(resting)
        return Concluded(replace(made, to_read=to_read(run, None, made, None)), (), None, ())
    counts = min(reversed(said), key=_rank)
    if resting and counts.headline in ("not_read", "no_current", "too_close"):
        counts = replace(counts, headline="open", open=resting[-1])
    elif counts.open is not None:
        counts = replace(counts, open=_narrowest(counts.open, resting))
    told = trends(run, [j for j in judged if j.moment.conditions.trial is None])
    goes = goes or comes_and_goes(judged, told)
    made = _conclusion(counts, limits, goes, out_of_reach)
    made = replace(made, to_read=to_read(run, counts.judged, made, counts.open))
    return Concluded(made, judged, counts.judged, tuple(told))


def _moments(
    craft: Craft, run: Run, users: Mapping[str, Sequence[str]], observed: Observed
) -> list[RunMoment]:
    """What was read, moment by moment, in the order of the first reading of each.

    A trial's wire may lie beside pieces of one side; what was read with another one says nothing here.
    """
    taken: dict[str, tuple[Conditions, list[Observation]]] = {}
    for o in observed.each:
        trial = o.conditions.trial
        elsewhere = trial is not None and run.between(trial.start, trial.end) is None
        if elsewhere or o.reading in observed.set_aside:
            continue
        taken.setdefault(o.conditions.key, (o.conditions, []))[1].append(o)
    return [
        RunMoment(craft, run, users, conditions, readings)
        for conditions, readings in taken.values()
        if any(o.red in run.points or o.black in run.points for o in readings)
    ]


def _rank(said: Said) -> tuple[int, bool, float]:
    """The worst first; what was read without a trial before what was read with one."""
    tried = said.moment.conditions.trial is not None
    return WORST_FIRST.index(said.headline), tried, -_excess(said)


# One moment


def _counts(said: Said) -> bool:
    """Whether what a moment says holds without what was tried in it."""
    return said.moment.conditions.trial is None or said.headline in TRIED


def _said(moment: RunMoment, limits: RunLimits) -> Said:
    judged = Judged(moment, limits)
    if moment.contradiction:
        return Said(judged, "contradiction")
    found = opened(moment)
    if found is not None:
        return Said(judged, "open", found)
    if moment.dead:
        return Said(judged, "no_current")
    return Said(judged, _by_parts(judged))


def _by_parts(judged: Judged) -> Headline:
    limited = [p for p in judged.parts.values() if p.limit_v is not None]
    verdicts = {p.verdict for p in limited}
    if "over" in verdicts:
        return "over"
    if "over_as_ran" in verdicts:
        return "over_as_ran"
    if limited and verdicts <= {"within"}:
        return "within"
    if limited and verdicts <= {"within", "within_as_ran"}:
        return "within_as_ran"
    if limited and all(p.direct and p.verdict != "not_judged" for p in limited):
        return "too_close"
    return "not_read"


def _excess(said: Said) -> float:
    """By how much a moment is over at least (V)."""
    if said.headline not in ("over", "over_as_ran"):
        return 0.0
    return max(
        max(p.loaded.low or 0.0, p.ran.low or 0.0) - p.limit_v
        for p in said.judged.parts.values()
        if p.limit_v is not None
    )


# All of them


def _goes(said: Sequence[Said], resting: Sequence[Open]) -> tuple[str, str] | None:
    """Between which points a run was open in one moment, though current passed in another."""
    opens = [s.open for s in said if s.open is not None] + list(resting)
    passed = any(s.moment.flows or s.moment.ran for s in said if s.open is None)
    return (opens[0].start, opens[0].end) if opens and passed else None


def _at_rest(resting: Sequence[Open]) -> Conclusion:
    if not resting:
        return Conclusion("not_read", missing="current")
    return _of_open(Conclusion("open", loaded=None), resting[-1])


def _narrowest(found: Open, others: Sequence[Open]) -> Open:
    """An open, or the narrowest of others within it, the last of those that are as narrow."""
    within = [o for o in others if set(o.pieces) < set(found.pieces)]
    return min(reversed(within), key=lambda o: len(o.pieces), default=found)


def _of_open(made: Conclusion, found: Open) -> Conclusion:
    if len(found.pieces) == 1:
        piece = Found(
            found.pieces[0], "open", found.side, Range(None, None), None, None, found.readings
        )  # fmt: skip
        return replace(made, found=(piece,))
    return replace(made, between=(found.start, found.end))


def _conclusion(
    counts: Said,
    limits: RunLimits,
    goes: tuple[str, str] | None,
    out_of_reach: frozenset[frozenset[str]],
) -> Conclusion:
    judged, moment = counts.judged, counts.moment
    made = Conclusion(
        counts.headline, moment.conditions.untried, moment.flows if not moment.dead else False,
        moment.amperes, comes_and_goes=goes,
    )  # fmt: skip
    if counts.headline == "contradiction":
        return replace(made, contradicting=moment.contradiction, loaded=moment.flows)
    sides: Mapping[Side, AgainstLimit] = {side: judged.parts[side] for side in SIDES}
    made = replace(made, sides=sides, together=judged.parts["together"])
    if counts.open is not None:
        return _of_open(made, counts.open)
    if counts.headline == "no_current":
        return replace(made, missing="current")
    made = replace(made, cleared=judged.cleared)
    if counts.headline in ("over", "over_as_ran"):
        told = guilt(judged, lambda a, b: frozenset((a, b)) not in out_of_reach)
        found = told.found
        made = replace(
            made, found=found, between=None if found else told.rest,
            more=told.rest if found else None, cleared=judged.cleared - {f.piece for f in found},
            unless_a=judged.unless_a() if counts.headline == "over_as_ran" else None,
        )  # fmt: skip
    unsettled = counts.headline not in DECIDED and _settles(counts, limits)
    return replace(made, unsettled=unsettled, missing=_missing(judged, made, unsettled))


def _settles(counts: Said, limits: RunLimits) -> bool:
    """Whether the moment would be decided if the source had stood still."""
    m = counts.moment
    still = RunMoment(m.craft, m.run, m.users, m.conditions, m.readings, settled=True)
    return not still.contradiction and _by_parts(Judged(still, limits)) in DECIDED


def _missing(judged: Judged, made: Conclusion, unsettled: bool) -> Missing | None:
    """What keeps a run from a verdict."""
    if made.headline in ("over", "within"):
        return None
    if unsettled:
        return "source"
    unread: list[Side] = [
        side for side in reversed(SIDES) if not judged.parts[side].direct
    ]  # fmt: skip
    if unread and made.headline not in ("within_as_ran", "over_as_ran"):
        return unread[0]
    return None if judged.moment.flows else "current"
