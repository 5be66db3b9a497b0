"""The ten lessons: a small loop with a knob, a question, an answer."""

from spare_margin.core.practice.lessons import KNOBS, LESSONS, SHOWS_AT, LessonId, Seen, lesson
from spare_margin.service.job.revising import now
from spare_margin.service.practice.exercises import TABLES
from spare_margin.store import practice as store
from spare_margin.store.practice import LessonAnswered
from spare_margin.web.common.area import area
from spare_margin.web.common.context import connection
from spare_margin.web.common.loop import LoopOut, LoopPiece
from spare_margin.web.common.parts import point_out
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.language.figures import volts
from spare_margin.wording.practice.lessons import figure_words, lesson_words, pulled_words

from .models import (
    AnsweredOut,
    AnswerForm,
    LessonFigure,
    LessonOut,
    LessonPath,
    LessonShare,
    PullQuery,
)

lessons_api = area("lessons", __name__, "/api/v1/practice/lessons", "practice")
LEAST_SHARE_V = 0.0005


@lessons_api.get("/<string:lesson>", responses={200: LessonOut})
def read_lesson(path: LessonPath, query: PullQuery) -> dict[str, object]:
    """A lesson with its knob pulled somewhere."""
    key, knob = path.lesson, KNOBS[path.lesson]
    at = knob.start if query.pull is None else query.pull
    seen, words = lesson(key, at, TABLES), lesson_words(key)
    limits = {k: held.name for k, held in TABLES.limit_sets.items()}
    figures = []
    for each in seen.figures:
        name, value = figure_words(each, limits)
        figures.append(LessonFigure(key=each.key, name=name, value=value, good=each.good))
    return LessonOut(
        id=key, number=LESSONS.index(key) + 1, title=words.title, pull=words.pull, what=words.what,
        least=knob.least, most=knob.most, step=knob.step, at=at, at_says=pulled_words(key, at),
        loop=_loop(seen), points=[point_out(seen.craft, p.id) for p in seen.craft.points],
        red=seen.red, black=seen.black, figures=figures, shares=_shares(seen),
        question=words.question, answers=list(words.answers),
    ).model_dump()  # fmt: skip


@lessons_api.post("/<string:lesson>", responses={200: AnsweredOut})
def answer_lesson(path: LessonPath, body: AnswerForm) -> dict[str, object]:
    """Answer a lesson's question."""
    key: LessonId = path.lesson
    correct = lesson(key, SHOWS_AT[key], TABLES).right
    right = body.answer == correct
    if body.who:
        store.keep_lesson(connection(), body.who, LessonAnswered(key, now(), right))
    return AnsweredOut(
        right=right, correct=correct, why=lesson_words(key).why, shows_at=SHOWS_AT[key]
    ).model_dump()


def _loop(seen: Seen) -> LoopOut:
    names = full_names(seen.craft, seen.run)

    def pieces(side: str) -> list[LoopPiece]:
        steps = seen.run.feed if side == "feed" else seen.run.back
        return [
            LoopPiece(
                id=s.piece.id, name=names[s.piece.id], kind=s.piece.kind, entry=s.entry, exit=s.exit,
                undrawn=False, open=False, verdict="not_measured", suspicion=0.0,
            )
            for s in steps
        ]  # fmt: skip

    return LoopOut(
        load=seen.run.load.name, source=seen.run.source.name, feed=pieces("feed"),
        back=pieces("return"), others=[],
    )  # fmt: skip


def _shares(seen: Seen) -> list[LessonShare]:
    names = {**full_names(seen.craft, seen.run), seen.run.load.id: seen.run.load.name}
    order = [
        *(s.piece.id for s in seen.run.feed), seen.run.load.id, *(s.piece.id for s in seen.run.back)
    ]  # fmt: skip
    return [
        LessonShare(
            name=names[key], volts=seen.shares[key], says=volts(seen.shares[key]),
            load=key == seen.run.load.id,
        )
        for key in order
        if seen.shares[key] > LEAST_SHARE_V
    ]  # fmt: skip
