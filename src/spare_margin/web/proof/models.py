"""What the API gives of the proof of a repair, and takes to sign it."""

from typing import Annotated

from pydantic import ConfigDict, Field

from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import ProofOutcome, SignedBy
from spare_margin.core.model.pieces import Side
from spare_margin.core.proof.before_after import Known
from spare_margin.web.common.models import Caution, DeviceId, Model, Point
from spare_margin.wording.language.figures import Figure


class Read(Model):
    """Made of the lines of a proof; what this leaves out of them is not shown."""

    model_config = ConfigDict(extra="ignore", from_attributes=True)


class ProofQuery(Model):
    """Which run; by default the one most was read at."""

    run: str | None = None


class ConditionOut(Read):
    """One thing that a pass needs; `holds` is null while nobody can say."""

    code: str
    holds: bool | None
    head: str
    says: str
    cure: str
    about: list[str]


class LikenessOut(Read):
    """One condition before and after, and what a difference does."""

    code: str
    alike: bool | None
    head: str
    says: str
    effect: str


class ProofReading(Read):
    """One measurement, before and after."""

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


class ProofPiece(Read):
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


class ProofBar(Read):
    """What a side loses before and after, and its ceiling."""

    side: str
    before_v: Figure | None
    after_v: Figure
    ceiling_v: Figure | None


class SurfaceOut(Read):
    """How much warmer than the cable beside it a surface was."""

    where: str
    before: str
    after: str


class LeftOutOut(Read):
    """A measurement that was skipped, and why."""

    what: str
    why: str


class TryOut(Read):
    """One repair as it was read."""

    made_at: str
    changed: list[str]
    verdict: Verdict
    says: str


class SignedOut(Read):
    """A signature; `strokes` in shares of the box's width."""

    id: str
    revision: str
    role: SignedBy
    name: str
    strokes: list[list[tuple[float, float]]]
    outcome: ProofOutcome
    made_at: str


class ProofOut(Read):
    """The proof of a run as far as it was read."""

    job: str
    title: str
    customer: str
    craft_name: str
    runs: list[Point]
    run: str
    name: str
    revision: str
    started: bool
    outcome: ProofOutcome
    outcome_says: str
    won: str
    scenario: str
    conditions: list[ConditionOut]
    likenesses: list[LikenessOut]
    readings: list[ProofReading]
    bars: list[ProofBar]
    pieces: list[ProofPiece]
    surfaces: list[SurfaceOut]
    done: list[str]
    left_out: list[LeftOutOut]
    unticked: list[str]
    left_undone: str
    tries: list[TryOut]
    signed: list[SignedOut]
    cautions: list[Caution]


Share = Annotated[float, Field(ge=-0.5, le=1.5)]
Stroke = Annotated[list[tuple[Share, Share]], Field(max_length=2000)]


class Sign(Model):
    """A signature under the proof that is on screen; the device makes the id."""

    id: DeviceId
    run: str
    revision: str
    role: SignedBy
    name: Annotated[str, Field(max_length=200)]
    strokes: Annotated[list[Stroke], Field(default_factory=list, max_length=100)]
