"""A proof in lines of words and figures, for the page and for the paper."""

from dataclasses import dataclass

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import ProofOutcome, SignOff
from spare_margin.core.model.pieces import Side
from spare_margin.core.proof.before_after import Known
from spare_margin.wording.language.figures import Figure
from spare_margin.wording.measured.cautions import Caution


@dataclass(frozen=True, slots=True)
class ConditionLine:
    """One thing that a pass needs; `about` are ids of what it is about."""

    code: str
    holds: bool | None
    head: str
    says: str
    cure: str
    about: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class LikenessLine:
    """One condition before and after, and what a difference does."""

    code: str
    alike: bool | None
    head: str
    says: str
    effect: str


@dataclass(frozen=True, slots=True)
class ReadingLine:
    """One measurement, before and after, and how each is known; `taken` from which meter, if it spoke."""

    id: str
    kind: str
    what: str
    red: str
    black: str
    before: Figure | None
    before_known: Known | None
    before_verdict: Verdict
    after: Figure | None
    after_known: Known | None
    after_verdict: Verdict
    expected: Figure | None
    allowed: Figure | None
    taken: str


@dataclass(frozen=True, slots=True)
class PieceLine:
    """One piece on the run's way at the worst scenario, as measured before and after."""

    id: str
    name: str
    side: Side
    before_v: Figure | None
    after_v: Figure
    before_ohm: Figure | None
    after_ohm: Figure
    worked_on: bool
    known: Known


@dataclass(frozen=True, slots=True)
class SideBar:
    """What a side loses in the worst scenario, before and after (V), and its ceiling."""

    side: str
    before_v: Figure | None
    after_v: Figure
    ceiling_v: Figure | None


@dataclass(frozen=True, slots=True)
class SurfaceLine:
    """How much warmer than the cable beside it a surface was (K)."""

    where: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A measurement that was skipped, and why."""

    what: str
    why: str


@dataclass(frozen=True, slots=True)
class TryLine:
    """One repair as it was read: when it was made, what it changed, what its readings said."""

    made_at: str
    changed: tuple[str, ...]
    verdict: Verdict
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofSheet:
    """The whole proof of one run."""

    run: str
    name: str
    revision: str
    started: bool
    outcome: ProofOutcome
    outcome_says: str
    won: str
    scenario: str
    conditions: tuple[ConditionLine, ...]
    likenesses: tuple[LikenessLine, ...]
    readings: tuple[ReadingLine, ...]
    bars: tuple[SideBar, ...]
    pieces: tuple[PieceLine, ...]
    surfaces: tuple[SurfaceLine, ...]
    done: tuple[str, ...]
    left_out: tuple[LeftOut, ...]
    unticked: tuple[str, ...]
    left_undone: str
    tries: tuple[TryLine, ...]
    signed: tuple[SignOff, ...]
    cautions: tuple[Caution, ...]
