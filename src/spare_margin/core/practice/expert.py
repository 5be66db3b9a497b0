"""How somebody who knows the trade would go: as the walk asks, then what a walk cannot know."""

from collections.abc import Iterator

from spare_margin.core.model.pieces import PieceKind, Side
from spare_margin.core.walk.walk import ENDS

from .acts import REMADE, Act, Claim, ClaimKind, Remedy
from .exercise import Exercise
from .left import Judge, Standing
from .measuring import reading_min
from .played import WARM_MIN, Played
from .playing import act

MOST_STEPS = 60
WIGGLED: tuple[PieceKind, ...] = (
    "joint", "switch", "fuse", "relay_contact", "breaker", "body_return", "unknown", "conductor",
)  # fmt: skip
"""What is moved first, where something comes and goes."""


def next_act(stands: Standing) -> Act | None:
    """What an expert would do next who knows no more than these readings; None: he concludes.

    Args:
        stands: what the readings say so far.
    """
    at, exercise = stands.at, stands.exercise
    if not at.zeroed:
        return Act(kind="zero")
    if stands.named:
        return None
    asked = _asked(stands, exercise.run)
    if asked is not None:
        return asked
    if stands.left.found:
        return None
    for contact, coil in exercise.relays.items():
        if stands.own.loaded or not _is_open(stands, contact):
            continue
        load = exercise.craft.load(coil)
        if not _was_read(at, load.start, load.end):
            return Act(kind="volts", red=load.start, black=load.end)
        asked = _asked(stands, coil)
        if asked is not None:
            return asked
    return _beyond_the_walk(stands) if stands.own.conclusion.headline == "within" else None


def _is_open(stands: Standing, contact: str) -> bool:
    return any(f.piece == contact for f in stands.own.conclusion.found)


def _asked(stands: Standing, run: str) -> Act | None:
    """What the conclusion on a run asks for; of several spans the one that parts most per minute."""
    judged = stands.judged[run]
    if judged.done in ENDS:
        return None
    asked = judged.conclusion.to_read
    if not asked:
        return None
    first = asked[0]
    if first.kind == "current":
        return Act(kind="amperes", element=run)
    if first.kind == "span":
        spans = [each for each in asked if each.kind == "span"]
        # They come with the middle first.
        worth = {
            each: 1.0 / ((1.0 + i) * reading_min(stands.at, each.red, each.black))
            for i, each in enumerate(spans)
        }
        first = max(spans, key=lambda each: worth[each])
    return Act(kind="volts", red=first.red, black=first.black)


def _was_read(at: Played, red: str, black: str) -> bool:
    return any({r.red, r.black} == {red, black} for r in at.current)


def _beyond_the_walk(stands: Standing) -> Act | None:
    """All is within: the source under load, warm, or moved, by what the customer says."""
    at, exercise = stands.at, stands.exercise
    source = exercise.loop.source
    match exercise.symptom:
        case "weak" | "dead" | "asked" if not at.repairs and not _was_read(
            at, source.live, source.back
        ):
            return Act(kind="volts", red=source.live, black=source.back)
        case "fades":
            if not at.state.warm:
                return Act(kind="wait", minutes=WARM_MIN)
            return _again_warm(at)
        case "now_and_then":
            return next(_moved(at), None)
    return None


def _again_warm(at: Played) -> Act | None:
    """The current and both sides once more, now that it is warm."""
    run = at.exercise.loop
    here = [] if at.fresh else [r for r in at.current if r.moment == at.moments[-1].id]
    if not any(r.quantity == "amperes" for r in here):
        return Act(kind="amperes", element=at.exercise.run)
    for red, black in (run.ends("return"), run.ends("feed")):
        if not any({r.red, r.black} == {red, black} for r in here):
            return Act(kind="volts", red=red, black=black)
    return None


def _moved(at: Played) -> Iterator[Act]:
    """Leads on a whole side, its pieces moved one after the other, what is likeliest first."""
    run = at.exercise.loop
    done = {r.moved for r in at.current if r.moved}
    sides: tuple[Side, ...] = ("feed", "return")
    for side in sides[::-1] if at.red in run.ends("return") else sides:
        red, black = run.ends(side)
        pieces = sorted((s.piece for s in run.side(side)), key=lambda p: WIGGLED.index(p.kind))
        for piece in pieces:
            if piece.id not in done and (not at.repairs or piece.id in at.state.mended):
                yield Act(kind="volts", red=red, black=black, moved=piece.id)


def conclusion(stands: Standing) -> Act:
    """What an expert concludes from what is found; without claims that all is well.

    Args:
        stands: what the readings say so far.
    """
    exercise = stands.exercise
    open_ones = {
        f.piece for j in stands.judged.values() for f in j.conclusion.found if f.kind == "open"
    }
    claims = tuple(_claim(exercise, key, key in open_ones) for key in stands.left.found)
    return Act(kind="conclude", claims=claims)


def _claim(exercise: Exercise, key: str, is_open: bool) -> Claim:
    piece = next((p for p in exercise.craft.pieces if p.id == key), None)
    if piece is None:
        load = any(x.id == key for x in exercise.craft.loads)
        return Claim(element=key, kind="load" if load else "weak")
    kind: ClaimKind = "open" if is_open else "resistance"
    if not is_open and exercise.symptom in ("fades", "now_and_then"):
        kind = "loose"
    remedy: Remedy = "remade" if piece.kind in REMADE and not is_open else "replaced"
    return Claim(element=key, kind=kind, remedy=remedy)


def way(exercise: Exercise, judge: Judge) -> Played:
    """An exercise as an expert plays it to its end, knowing nothing but what he reads.

    Args:
        exercise: the exercise.
        judge: what says what readings mean.
    """
    at = act(Played(exercise=exercise), Act(kind="noted"))
    for _ in range(MOST_STEPS):
        stands = Standing(at, judge)
        asked = next_act(stands)
        if asked is not None:
            at = act(at, asked)
            continue
        ends = conclusion(stands)
        if not ends.claims or at.repairs > len(exercise.hidden):
            break
        at = act(at, ends)
    if not at.repairs:
        at = act(at, Act(kind="conclude"))
    return act(at, Act(kind="hand_over"))
