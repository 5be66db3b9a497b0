"""Practice: what there is, the bay act by act, the debrief, sets for a group."""

import csv
import io
from datetime import UTC, datetime

from flask import Response

from spare_margin.core.practice.ahead import ahead
from spare_margin.core.practice.exercise import LEVELS, Level, Symptom
from spare_margin.core.practice.lessons import LESSONS
from spare_margin.core.practice.making import next_like, story_of
from spare_margin.core.practice.result import progress
from spare_margin.core.practice.shipped import SHIPPED
from spare_margin.exchange.tables.safe_cells import safe
from spare_margin.service.errors import NotThere
from spare_margin.service.practice import attempts
from spare_margin.service.practice.exercises import OWN, exercise_of, todays
from spare_margin.service.practice.groups import Done, came_of, set_exercises
from spare_margin.service.practice.own import from_job
from spare_margin.store import practice as store
from spare_margin.store.practice import Attempt, ExerciseSet
from spare_margin.web.common.area import area
from spare_margin.web.common.context import connection, open_job
from spare_margin.web.common.downloads import attached
from spare_margin.wording.practice.debrief import OUTCOME_WORDS, habit_words
from spare_margin.wording.practice.exercise import (
    LEVEL_WORDS,
    complaint_of,
    complaint_words,
    title_of,
    title_words,
)
from spare_margin.wording.practice.lessons import lesson_words
from spare_margin.wording.practice.progress import habit_lines, level_line, progress_lines
from spare_margin.wording.practice.told import CLAMP, VOLTS, figure_words

from .models import (
    ActForm,
    AheadOut,
    AnotherForm,
    AttemptPath,
    BayOut,
    BeginForm,
    DebriefOut,
    DoneOut,
    ExerciseOut,
    LessonLine,
    LevelBar,
    LevelOut,
    OwnForm,
    OwnOut,
    PracticeOut,
    ProgressOut,
    SetForm,
    SetLine,
    SetOut,
    SetPath,
    WhoQuery,
)
from .view import bay_out, debrief_out

practice_api = area("practice", __name__, "/api/v1/practice", "practice")


# What there is


class _Shelf:
    """What a learner finds: every exercise with where he stands with it."""

    def __init__(self, who: str) -> None:
        self.who = who
        self.last: dict[str, Attempt] = {a.exercise: a for a in store.attempts(connection(), who)}

    def shipped(self, key: str, number: int, story: str, symptom: Symptom) -> ExerciseOut:
        """One exercise that ships: nothing of it needs to be made for the list."""
        told = story_of(story)
        return self._line(key, number, title_of(told), complaint_of(symptom, told.load))

    def line(self, key: str) -> ExerciseOut:
        """Any exercise on the list."""
        made = exercise_of(connection(), key)
        return self._line(key, 0, title_words(made), complaint_words(made))

    def _line(self, key: str, number: int, title: str, complaint: str) -> ExerciseOut:
        last = self.last.get(key)
        result = None if last is None else attempts.came_to(connection(), last)
        return ExerciseOut(
            key=key, number=number, title=title, complaint=complaint,
            attempt=None if last is None else last.id,
            ended=last is not None and last.ended_at is not None,
            right=None if result is None else result.right,
            outcome="" if result is None else OUTCOME_WORDS[result.outcome],
        )  # fmt: skip

    def set_line(self, held: ExerciseSet) -> SetLine:
        """One set on the list."""
        return SetLine(
            id=held.id, name=held.name, made_by=held.made_by, made_at=held.made_at,
            learners=list(held.learners), exercises=[self.line(k) for k in held.exercises],
            mine=self.who in held.learners,
        )  # fmt: skip


@practice_api.get("", responses={200: PracticeOut})
def read_practice(query: WhoQuery) -> dict[str, object]:
    """All there is to practise, and where a learner stands with it."""
    shelf, held = _Shelf(query.who), connection()
    answered = {each.lesson: each.right for each in store.lessons(held, query.who)}
    levels = [
        LevelOut(
            level=level, name=LEVEL_WORDS[level][0], asks=LEVEL_WORDS[level][1],
            exercises=[
                shelf.shipped(key, n, story, symptom)
                for n, (key, story, symptom) in enumerate(_of_level(level), 1)
            ],
        )
        for level in LEVELS
    ]  # fmt: skip
    begun = [a.exercise for a in reversed(shelf.last.values()) if a.ended_at is None]
    return PracticeOut(
        today=shelf.line(todays(datetime.now(UTC).date())),
        open=[shelf.line(key) for key in begun],
        levels=levels,
        own=[shelf.line(OWN + each.id) for each in store.own_exercises(held)],
        lessons=[
            LessonLine(id=key, title=lesson_words(key).title, right=answered.get(key))
            for key in LESSONS
        ],
        sets=[shelf.set_line(each) for each in store.sets(held)],
        learners=store.learners(held),
    ).model_dump()


def _of_level(level: Level) -> list[tuple[str, str, Symptom]]:
    return [(key, story, symptom) for key, at, story, symptom in SHIPPED if at == level]


# The bay


@practice_api.post("/attempts", responses={201: BayOut})
def begin(body: BeginForm) -> tuple[dict[str, object], int]:
    """Begin an exercise."""
    made = attempts.begin(connection(), body.id, body.who, body.exercise, body.asked_by)
    return bay_out(made).model_dump(), 201


@practice_api.post("/another", responses={201: BayOut})
def another(body: AnotherForm) -> tuple[dict[str, object], int]:
    """Begin another exercise like one: of its level, one that this learner did not have yet."""
    like = exercise_of(connection(), body.like)
    had = {a.exercise for a in store.attempts(connection(), body.who)}
    key = next_like(like.level, had)
    return bay_out(attempts.begin(connection(), body.id, body.who, key)).model_dump(), 201


@practice_api.get("/attempts/<string:attempt>", responses={200: BayOut})
def read_attempt(path: AttemptPath, query: WhoQuery) -> dict[str, object]:
    """An exercise as far as its learner played it."""
    return bay_out(attempts.opened(connection(), path.attempt, query.who)).model_dump()


@practice_api.get("/attempts/<string:attempt>/ahead", responses={200: AheadOut})
def read_ahead(path: AttemptPath, query: WhoQuery) -> dict[str, object]:
    """What the next readings would show, for a device that loses the network meanwhile."""
    at = attempts.opened(connection(), path.attempt, query.who).at
    steps = [] if at.ended else list(ahead(at))
    return AheadOut(
        number=len(at.acts),
        volts_says=VOLTS,
        clamp_says=CLAMP,
        volts=[
            {f"{r} {b}": figure_words("volts", v) for (r, b), v in s.volts.items()} for s in steps
        ],
        amperes=[{key: figure_words("amperes", v) for key, v in s.amperes.items()} for s in steps],
    ).model_dump()


@practice_api.post("/attempts/<string:attempt>/acts", responses={200: BayOut})
def do(path: AttemptPath, body: ActForm) -> dict[str, object]:
    """One act more."""
    held = attempts.opened(connection(), path.attempt, body.who)
    return bay_out(attempts.do(connection(), held, body.number, body.act)).model_dump()


@practice_api.get("/attempts/<string:attempt>/debrief", responses={200: DebriefOut})
def read_debrief(path: AttemptPath, query: WhoQuery) -> dict[str, object]:
    """What is to be said of an exercise that has ended."""
    held = attempts.opened(connection(), path.attempt, query.who)
    return debrief_out(held, attempts.debriefed(held)).model_dump()


# How a learner stands


@practice_api.get("/progress", responses={200: ProgressOut})
def read_progress(query: WhoQuery) -> dict[str, object]:
    """How a learner stands."""
    held = progress(attempts.results(connection(), query.who))
    return ProgressOut(
        who=query.who,
        levels=[
            LevelBar(
                level=each.level, name=LEVEL_WORDS[each.level][0], ended=each.ended,
                right=each.right, says=level_line(each),
            )
            for each in held.levels
        ],
        lines=list(progress_lines(held)),
        habits=list(habit_lines(held)),
        times=list(held.times),
        lessons=sum(each.right for each in store.lessons(connection(), query.who)),
    ).model_dump()  # fmt: skip


# Sets for a group


@practice_api.post("/sets", responses={201: SetOut})
def make_set(body: SetForm) -> tuple[dict[str, object], int]:
    """Set exercises for some learners."""
    made = set_exercises(connection(), body.name, body.who, body.exercises, body.learners)
    return _set_out(made).model_dump(), 201


@practice_api.get("/sets/<string:set>", responses={200: SetOut})
def read_set(path: SetPath) -> dict[str, object]:
    """What came of a set. It tells outcomes and minutes, and nothing of what is hidden."""
    return _set_out(_set(path.set)).model_dump()


@practice_api.post("/sets/<string:set>/remove", responses={204: None})
def remove_set(path: SetPath) -> tuple[str, int]:
    """Take a set out; what was practised from it stays."""
    if not store.drop_set(connection(), path.set):
        raise NotThere("There is no such set.")
    return "", 204


@practice_api.get("/sets/<string:set>.csv", responses={200: None})
def set_csv(path: SetPath) -> Response:
    """What came of a set as CSV."""
    held = _set_out(_set(path.set))
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(
        [
            "Learner",
            "Exercise",
            "Title",
            "Tries",
            "Outcome",
            "Right",
            "Minutes",
            "Shortest",
            "Habits",
        ]
    )
    for d in held.done:
        right = "" if d.right is None else "yes" if d.right else "no"
        figures = ["" if m is None else f"{m:.0f}" for m in (d.minutes, d.shortest_min)]
        cells = [d.learner, d.exercise, d.title, str(d.tries), d.outcome, right, *figures]
        rows.writerow([safe(cell) for cell in [*cells, "; ".join(d.habits)]])
    return attached(text.getvalue(), f"{held.name}.csv", "text/csv; charset=utf-8")


def _set(set_id: str) -> ExerciseSet:
    found = next((s for s in store.sets(connection()) if s.id == set_id), None)
    if found is None:
        raise NotThere("There is no such set.")
    return found


def _set_out(held: ExerciseSet) -> SetOut:
    titles = {k: title_words(exercise_of(connection(), k)) for k in held.exercises}
    return SetOut(
        id=held.id, name=held.name, made_by=held.made_by, made_at=held.made_at,
        learners=list(held.learners), exercises=list(titles.items()),
        done=[_done_out(d, titles[d.exercise]) for d in came_of(connection(), held)],
    )  # fmt: skip


def _done_out(done: Done, title: str) -> DoneOut:
    result = done.result
    return DoneOut(
        learner=done.learner, exercise=done.exercise, title=title, tries=done.tries,
        outcome="" if result is None else OUTCOME_WORDS[result.outcome],
        right=None if result is None else result.right,
        minutes=None if result is None else result.minutes,
        shortest_min=None if result is None else result.shortest_min,
        habits=[] if result is None else [habit_words(h)[0] for h in result.habits],
    )  # fmt: skip


# From one's own jobs


@practice_api.post("/own", responses={201: OwnOut})
def make_own(body: OwnForm) -> tuple[dict[str, object], int]:
    """Make an exercise of a job whose fault was found; names and customer are left out."""
    key = from_job(connection(), open_job(body.job))
    return OwnOut(key=key, title=title_words(exercise_of(connection(), key))).model_dump(), 201
