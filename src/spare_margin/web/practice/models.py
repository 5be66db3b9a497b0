"""What the API takes and gives of practice. Numbers are SI, times minutes."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.core.model.pieces import ContactState, PieceKind, Side
from spare_margin.core.practice.acts import Act, ActKind, ClaimKind, Remedy
from spare_margin.core.practice.bench import Looks
from spare_margin.core.practice.debrief import Outcome
from spare_margin.core.practice.exercise import Level
from spare_margin.core.practice.lessons import LessonId
from spare_margin.web.common.loop import LoopOut
from spare_margin.web.common.models import Model, Point, Who
from spare_margin.wording.measured.cautions import Caution

Key = Annotated[str, Field(max_length=80)]
Name = Annotated[str, Field(max_length=120)]


class WhoQuery(Model):
    """Who practises."""

    who: Who = ""


class AttemptPath(Model):
    """An attempt."""

    attempt: Key


class SetPath(Model):
    """A set of exercises for a group."""

    set: Key


class LessonPath(Model):
    """A lesson."""

    lesson: LessonId


# What there is


class ExerciseOut(Model):
    """An exercise on the list: where a learner stands with it.

    `attempt` is his last one, `outcome` what that came to in words (empty: not ended, or not begun).
    """

    key: str
    number: int
    title: str
    complaint: str
    attempt: str | None
    ended: bool
    right: bool | None
    outcome: str


class LevelOut(Model):
    """A level with the exercises that ship of it."""

    level: Level
    name: str
    asks: str
    exercises: list[ExerciseOut]


class LessonLine(Model):
    """A lesson on the list; `right` is how it was answered last, None where it was not."""

    id: LessonId
    title: str
    right: bool | None


class SetLine(Model):
    """A set for a group; `mine` are the exercises that the one who asks is to do."""

    id: str
    name: str
    made_by: str
    made_at: str
    learners: list[str]
    exercises: list[ExerciseOut]
    mine: bool


class PracticeOut(Model):
    """All there is to practise, and the names of those who did."""

    today: ExerciseOut
    open: list[ExerciseOut]
    levels: list[LevelOut]
    own: list[ExerciseOut]
    lessons: list[LessonLine]
    sets: list[SetLine]
    learners: list[str]


# The bay


class BeginForm(Model):
    """Begin an exercise; `id` is made by the page, so that sending it twice begins it once."""

    id: Annotated[str, Field(min_length=8, max_length=64)]
    who: Who = ""
    exercise: Key
    asked_by: Annotated[str, Field(max_length=64)] = ""


class AnotherForm(Model):
    """Another exercise like one."""

    id: Annotated[str, Field(min_length=8, max_length=64)]
    who: Who = ""
    like: Key


class ActForm(Model):
    """One act, the `number`-th from 0: sent twice it is done once."""

    who: Who = ""
    number: Annotated[int, Field(ge=0, le=1000)]
    act: Act


class BayLoad(Model):
    """A load as it is seen now."""

    id: str
    name: str
    looks: Looks
    says: str
    own: bool


class BayContact(Model):
    """A switch, breaker or relay contact that can be commanded."""

    id: str
    name: str
    state: ContactState


class ClaimChoice(Model):
    """A kind of fault, and what is said of it."""

    id: ClaimKind
    says: str


class RemedyChoice(Model):
    """What can be done about it, in words."""

    id: Remedy
    says: str


class BayThing(Model):
    """Something that may be said to be at fault: a piece, a load, the source."""

    id: str
    name: str
    kind: PieceKind | Literal["load", "source"]
    side: Side | None
    remedies: list[RemedyChoice]
    kinds: list[ClaimChoice]


class ActLine(Model):
    """An act that was done, what it showed, and what it cost."""

    number: int
    kind: ActKind
    says: str
    shown: str
    minutes: float
    danger: str


class Display(Model):
    """What the meter shows now: in words; empty before anything was measured."""

    says: str
    shown: str


class PointReach(Model):
    """A point that a lead can touch, with the minutes that takes now."""

    id: str
    name: str
    minutes: float


class BayOut(Model):
    """An exercise as far as it was played. Nothing of what is hidden stands in it.

    Attributes:
        loops: the loop of the complaint first, then those of relays' coils.
        points: every point, those of the loops first.
        number: how many acts were done; the next one has this number.
    """

    attempt: str
    exercise: str
    level: Level
    title: str
    complaint: str
    cautions: list[Caution]
    noted: bool
    loops: list[LoopOut]
    points: list[PointReach]
    loads: list[BayLoad]
    contacts: list[BayContact]
    has_engine: bool
    has_start: bool
    engine: bool
    power: bool
    joined: str
    stand_in: bool
    zeroed: bool
    warm_min: float
    red: str
    black: str
    display: Display
    minutes: float
    price: str
    acts: list[ActLine]
    things: list[BayThing]
    repaired: bool
    number: int
    ended: bool


class AheadOut(Model):
    """What the next acts would show, the `number`-th first, each by `red black` or by what is clamped.

    `volts_says` and `clamp_says` are what is said of such an act; {red}, {black}, {element} are put in.
    """

    number: int
    volts_says: str
    clamp_says: str
    volts: list[dict[str, str]]
    amperes: list[dict[str, str]]


# The debrief


class DebriefStep(Model):
    """An act with what it told, and what would have told more for less."""

    says: str
    shown: str
    minutes: float
    told: str
    better: str
    danger: str
    left: int
    volts: float


class DebriefOut(Model):
    """What is to be said of an exercise that has ended."""

    attempt: str
    title: str
    complaint: str
    outcome: Outcome
    right: bool
    says: str
    truth: str
    rests: list[str]
    steps: list[DebriefStep]
    shortest: list[ActLine]
    minutes: float
    shortest_min: float
    price: str
    needless: str
    dangers: list[str]
    habits: list[tuple[str, str]]


# Lessons


class PullQuery(Model):
    """Where a lesson's knob stands; at first where it does not say."""

    pull: float | None = None


class LessonFigure(Model):
    """A figure of a lesson."""

    key: str
    name: str
    value: str
    good: bool | None


class LessonShare(Model):
    """What a part of the loop takes of the source's volts."""

    name: str
    volts: float
    says: str
    load: bool


class LessonOut(Model):
    """A lesson with its knob pulled somewhere."""

    id: LessonId
    number: int
    title: str
    pull: str
    what: str
    least: float
    most: float
    step: float
    at: float
    at_says: str
    loop: LoopOut
    points: list[Point]
    red: str
    black: str
    figures: list[LessonFigure]
    shares: list[LessonShare]
    question: str
    answers: list[str]


class AnswerForm(Model):
    """An answer to a lesson's question, from 0."""

    who: Who = ""
    answer: Annotated[int, Field(ge=0, le=2)]


class AnsweredOut(Model):
    """Whether an answer was right, which one is, why, and where the knob shows it."""

    right: bool
    correct: int
    why: str
    shows_at: float


# How a learner stands


class LevelBar(Model):
    """A level: ended, right."""

    level: Level
    name: str
    ended: int
    right: int
    says: str


class ProgressOut(Model):
    """How a learner stands; `times` are his minutes against the shortest way, in order."""

    who: str
    levels: list[LevelBar]
    lines: list[str]
    habits: list[tuple[str, str]]
    times: list[float]
    lessons: int


class SetForm(Model):
    """Exercises set for some learners."""

    who: Who = ""
    name: Name
    exercises: Annotated[list[Key], Field(max_length=100)]
    learners: Annotated[list[Name], Field(max_length=200)]


class DoneOut(Model):
    """What came of an exercise with a learner; empty outcome: not ended yet."""

    learner: str
    exercise: str
    title: str
    tries: int
    outcome: str
    right: bool | None
    minutes: float | None
    shortest_min: float | None
    habits: list[str]


class SetOut(Model):
    """A set for a group, and what came of it."""

    id: str
    name: str
    made_by: str
    made_at: str
    learners: list[str]
    exercises: list[tuple[str, str]]
    done: list[DoneOut]


class OwnForm(Model):
    """Make an exercise of a job."""

    job: Key


class OwnOut(Model):
    """The exercise that was made."""

    key: str
    title: str
