"""An exercise as it is shown: what only a person there would have."""

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.model.pieces import CONTACTS, SIDES, AnyPiece, undrawn
from spare_margin.core.practice.acts import REMADE, ClaimKind, Remedy
from spare_margin.core.practice.debrief import Debrief
from spare_margin.core.practice.exercise import Exercise
from spare_margin.core.practice.measuring import reach_min
from spare_margin.core.practice.played import Played
from spare_margin.core.walk.cautions import guards
from spare_margin.service.practice.attempts import Opened
from spare_margin.web.common.loop import LoopOut, LoopPiece
from spare_margin.web.common.models import Point
from spare_margin.wording.language.figures import price
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.practice.debrief import OUTCOME_WORDS, DebriefWords, habit_words
from spare_margin.wording.practice.exercise import (
    KIND_WORDS,
    LOOKS_WORDS,
    REMEDY_WORDS,
    complaint_words,
    relay_words,
    title_words,
)
from spare_margin.wording.practice.told import DANGER_WORDS, ActWords, shown_words

from .models import (
    ActLine,
    BayContact,
    BayLoad,
    BayOut,
    BayThing,
    ClaimChoice,
    DebriefOut,
    DebriefStep,
    Display,
    PointReach,
    RemedyChoice,
)


def loop_out(exercise: Exercise, run: Run, at: Played | None, words: ActWords) -> LoopOut:
    """A loop for the picture: what is drawn, and what was measured of it."""
    read = set() if at is None else {
        frozenset((r.red, r.black)) for r in at.current if r.quantity == "volts"
    }  # fmt: skip
    scenario = exercise.craft.scenarios[0] if at is None else at.state.scenario(exercise.craft)

    def shown(step: Step) -> LoopPiece:
        piece = step.piece
        seen = frozenset((step.entry, step.exit)) in read
        return LoopPiece(
            id=piece.id, name=words.pieces[piece.id], kind=piece.kind, entry=step.entry,
            exit=step.exit, undrawn=undrawn(piece), open=scenario.is_open(piece),
            verdict="high" if seen else "not_measured", suspicion=0.0,
        )  # fmt: skip

    on = set(run.points)
    return LoopOut(
        load=run.load.name,
        source=run.source.name,
        feed=[shown(s) for s in run.way("feed")],
        back=[shown(s) for s in run.way("return")],
        others=[
            Point(id=p.id, name=words.points[p.id], access=p.access)
            for p in exercise.craft.points
            if p.id not in on
        ],
    )


def bay_out(opened: Opened) -> BayOut:
    """An attempt as far as it was played."""
    exercise, at = opened.exercise, opened.at
    craft, words = exercise.craft, ActWords(exercise)
    scenario = at.state.scenario(craft)
    lines = acts_out(at, words)
    last = next((line for line in reversed(lines) if line.shown), None)
    loops = [loop_out(exercise, exercise.runs[r], at, words) for r in exercise.looked_at]
    ordered = [p for r in exercise.looked_at for s in SIDES for p in exercise.runs[r].line[s]]
    every = dict.fromkeys([*ordered, *(p.id for p in craft.points)])
    amps = rated_current_a(craft.load(exercise.run), craft.nominal_v)
    return BayOut(
        attempt=opened.attempt.id, exercise=exercise.key, level=exercise.level,
        title=title_words(exercise), complaint=complaint_words(exercise),
        cautions=list(
            caution_words(guards(craft, amps, "as_found", craft.load(exercise.run)))
        ),
        noted=at.noted, loops=loops,
        points=[
            PointReach(id=p, name=words.points[p], minutes=reach_min(at, p)) for p in every
        ],
        loads=_loads(exercise, at),
        contacts=[
            BayContact(
                id=p.id, name=words.pieces[p.id],
                state="open" if scenario.is_open(p) else "closed",
            )
            for p in craft.pieces if _by_hand(exercise, p)
        ],
        has_engine=len(craft.scenarios) > 1,
        has_start=craft.load(exercise.run).start_multiple is not None,
        engine=at.state.engine, power=at.state.power,
        joined="" if at.state.joined is None else _joined(at, words),
        stand_in=at.state.stand_in is not None, zeroed=at.zeroed, warm_min=at.on_min,
        red=at.red, black=at.black,
        display=Display(says=last.says if last else "", shown=last.shown if last else ""),
        minutes=at.minutes, price=_paid(at.price), acts=lines,
        things=[*(_piece(exercise, p, words) for p in exercise.pieces), *_others(exercise)],
        repaired=at.repairs > 0, number=len(at.acts), ended=at.ended,
    )  # fmt: skip


def _joined(at: Played, words: ActWords) -> str:
    held = at.state.joined
    assert held is not None, "only where something is joined"
    return f"{words.points[held.start]} to {words.points[held.end]}"


def _by_hand(exercise: Exercise, piece: AnyPiece) -> bool:
    """Whether a piece is a contact that somebody can switch: a relay's goes by its coil."""
    own = piece.kind in CONTACTS and piece.id in set(exercise.pieces)
    return own and piece.id not in exercise.relays


def _loads(exercise: Exercise, at: Played) -> list[BayLoad]:
    coils, pulled_in = set(exercise.relays.values()), at.pulled_in
    out = []
    for key, looks in at.looks.items():
        load = exercise.craft.load(key)
        told = relay_words(key in pulled_in) if key in coils else LOOKS_WORDS[looks]
        out.append(
            BayLoad(
                id=key, name=load.name, looks=looks, says=f"{load.name} {told}",
                own=key == exercise.run,
            )
        )  # fmt: skip
    return out


def acts_out(at: Played, words: ActWords) -> list[ActLine]:
    """What was done, in order."""
    return [
        ActLine(
            number=i, kind=act.kind, says=words.said(act), shown=shown_words(act, told),
            minutes=told.minutes, danger=DANGER_WORDS[told.danger] if told.danger else "",
        )
        for i, (act, told) in enumerate(zip(at.acts, at.told, strict=True))
    ]  # fmt: skip


def _piece(exercise: Exercise, key: str, words: ActWords) -> BayThing:
    piece: AnyPiece = next(p for p in exercise.craft.pieces if p.id == key)
    return BayThing(
        id=key, name=words.pieces[key], kind=piece.kind, side=piece.side,
        remedies=_remedies("remade", "replaced") if piece.kind in REMADE else _remedies("replaced"),
        kinds=_kinds("resistance", "open", "loose"),
    )  # fmt: skip


def _others(exercise: Exercise) -> list[BayThing]:
    run = exercise.loop
    return [
        BayThing(
            id=run.load.id, name=run.load.name, kind="load", side=None,
            remedies=_remedies("replaced"), kinds=_kinds("load"),
        ),
        BayThing(
            id=run.source.id, name=run.source.name, kind="source", side=None,
            remedies=_remedies("replaced"), kinds=_kinds("weak"),
        ),
    ]  # fmt: skip


def _kinds(*of: ClaimKind) -> list[ClaimChoice]:
    return [ClaimChoice(id=each, says=KIND_WORDS[each]) for each in of]


def _remedies(*of: Remedy) -> list[RemedyChoice]:
    return [RemedyChoice(id=each, says=REMEDY_WORDS[each]) for each in of]


def _paid(value: float) -> str:
    """What parts cost; empty where there were none."""
    return price(value) if value else ""


def debrief_out(opened: Opened, told: Debrief) -> DebriefOut:
    """A debrief in sentences."""
    words = DebriefWords(told)
    better = [words.better(s) for s in told.steps]
    # What would have told more is said once, not at every act that came instead.
    once = [said if said not in better[:i] else "" for i, said in enumerate(better)]
    steps = [
        DebriefStep(
            says=words.acts.said(s.act), shown=shown_words(s.act, s.told),
            minutes=s.told.minutes, told=words.step(s) if s.act.kind in _TELLS else "",
            better=said, danger=DANGER_WORDS[s.told.danger] if s.told.danger else "",
            left=len(s.after.pieces), volts=s.after.volts,
        )
        for s, said in zip(told.steps, once, strict=True)
    ]  # fmt: skip
    well = words.well()
    return DebriefOut(
        attempt=opened.attempt.id, title=title_words(told.exercise),
        complaint=complaint_words(told.exercise), outcome=told.outcome, right=told.right,
        says=OUTCOME_WORDS[told.outcome], truth=words.truth(),
        rests=[*(words.rest(r) for r in told.rests), *([well] if well else [])], steps=steps,
        shortest=acts_out(told.shortest, words.acts), minutes=told.minutes,
        shortest_min=told.shortest.minutes, price=_paid(told.price),
        needless=words.needless(),
        dangers=words.dangers(), habits=[habit_words(h) for h in told.habits],
    )  # fmt: skip


_TELLS = ("volts", "amperes", "lamp", "ohms")
