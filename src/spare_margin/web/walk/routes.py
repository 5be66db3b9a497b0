"""The walk: where it stands, what is noted on it, the pulse of a job, the stand-in load."""

from spare_margin.core.model.jobs import WalkNote
from spare_margin.exchange.quantities import understand
from spare_margin.service.drawing import runs
from spare_margin.service.errors import NotThere
from spare_margin.service.job.desk import Wanted
from spare_margin.service.job.revising import now
from spare_margin.service.readings.noting import take_note
from spare_margin.service.readings.standing_in import take_stood_in
from spare_margin.service.readings.trying import take_trial
from spare_margin.store import jobs as job_store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import NO_JOB, JobPath, caches, connection, open_desk, open_job

from .cards import Cards
from .loop import at_rest_out, stand_in_out
from .models import (
    AtRestOut,
    AtRestQuery,
    Card,
    CardQuery,
    FreePoint,
    Means,
    MeansQuery,
    Noted,
    Pulse,
    SplitDone,
    SplitForm,
    StandInForm,
    StandInOut,
    TrialForm,
    TrialKept,
    WalkOut,
    WalkQuery,
)
from .view import WalkMaker
from .walked_run import WalkedRun

walk_api = area("walk", __name__, "/api/v1/jobs/<string:job>", "walk")


@walk_api.get("/walk", responses={200: WalkOut})
def read_walk(path: JobPath, query: WalkQuery) -> dict[str, object]:
    """Where the walk of a run stands."""
    return WalkMaker(WalkedRun(open_job(path.job), query)).out().model_dump()


@walk_api.post("/walk/notes", responses={200: Noted})
def note(path: JobPath, body: Noted) -> dict[str, object]:
    """Take note of a caution, skip a step or take it up again. Sent twice it is kept once."""
    made = WalkNote(**body.model_dump(), made_at=now())
    take_note(connection(), open_job(path.job).snapshot, made)
    return body.model_dump()


@walk_api.get("/walk/card", responses={200: Card})
def read_card(path: JobPath, query: CardQuery) -> dict[str, object]:
    """A card for any two points of the craft."""
    made = Cards(WalkedRun(open_job(path.job), query))
    return made.card(made.between(query.red, query.black, query.quantity), {}).model_dump()


@walk_api.get("/walk/means", responses={200: Means})
def read_means(path: JobPath, query: MeansQuery) -> dict[str, object]:
    """What was typed so far means by itself; nothing is kept."""
    read = understand(query.typed, "amperes" if query.quantity == "amperes" else "volts", "typed",
                      words=True)  # fmt: skip
    made = Cards(WalkedRun(open_job(path.job), query))
    return made.means(made.between(query.red, query.black, query.quantity), read).model_dump()


@walk_api.post("/walk/splits", responses={200: SplitDone})
def split_stretch(path: JobPath, body: SplitForm) -> dict[str, object]:
    """Split a stretch where a lead can touch it; readings keep their points."""
    made = runs.split_stretch(
        open_desk(path.job),
        _corrected(body),
        body.run,
        body.piece,
        body.place,
        body.name,
        body.access,
    )
    return SplitDone(points=made.made).model_dump()


def _corrected(body: SplitForm | FreePoint) -> Wanted:
    """What is found out about a wiring corrects the drawing; it changes nothing of the craft itself."""
    return Wanted(body.stage, body.revision, correct=True)


@walk_api.get("/walk/at-rest", responses={200: AtRestOut})
def read_at_rest(path: JobPath, query: AtRestQuery) -> dict[str, object]:
    """The sweep at rest: where every point of a run should stand with its load off."""
    return at_rest_out(WalkedRun(open_job(path.job), query), query.contact, query.side).model_dump()


@walk_api.post("/walk/points", responses={200: SplitDone})
def free_point(path: JobPath, body: FreePoint) -> dict[str, object]:
    """A test point anywhere, joined to nothing that is drawn: a ground nearby, a proven point."""
    made = runs.add_point(open_desk(path.job), _corrected(body), body.name)
    return SplitDone(points=made.made).model_dump()


@walk_api.post("/walk/trials", responses={200: TrialKept})
def try_out(path: JobPath, body: TrialForm) -> dict[str, object]:
    """Keep a trial: what was joined for a moment, and how the load came out of it."""
    session = open_job(path.job)
    kept = take_trial(connection(), caches(), session.snapshot, body.record(), session.meter)
    return TrialKept(id=kept.id).model_dump()


@walk_api.get("/pulse", responses={200: Pulse})
def pulse(path: JobPath) -> dict[str, object]:
    """Something that changes whenever the job did, and cheap to ask for."""
    beat = job_store.beat(connection(), path.job)
    if beat is None:
        raise NotThere(NO_JOB)
    return Pulse(beat=beat).model_dump()


@walk_api.get("/walk/stand-in", responses={200: StandInOut})
def read_stand_in(path: JobPath, query: WalkQuery) -> dict[str, object]:
    """Which stand-in load suits a run, before anything is unplugged; and what stood in so far."""
    return stand_in_out(WalkedRun(open_job(path.job), query)).model_dump()


@walk_api.post("/walk/stand-in", responses={200: TrialKept})
def take_stand_in(path: JobPath, body: StandInForm) -> dict[str, object]:
    """Keep what was read across a stand-in load; evidence like any other reading."""
    session = open_job(path.job)
    kept = take_stood_in(connection(), caches(), session.snapshot, body.record(), session.meter)
    return TrialKept(id=kept.id).model_dump()
