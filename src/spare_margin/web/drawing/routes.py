"""Drawing up: a job from nothing, runs typed as lines, columns put in and moved, scenarios."""

import re
from dataclasses import replace

from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.edit.charging import with_charger
from spare_margin.core.edit.columns import moved, put_in, taken_out
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.lines import line_of
from spare_margin.core.edit.new_craft import at_nominal, new_craft
from spare_margin.core.edit.one_load import DUTIES, one_load
from spare_margin.core.edit.whole_runs import run_copied, run_taken_out
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Action, Complaint, Job, Revision, Stage
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, TestPoint
from spare_margin.data.tables import rows_of
from spare_margin.exchange.quantities import understand
from spare_margin.exchange.run_line.reader import element_of, read_line
from spare_margin.exchange.run_line.text import matched
from spare_margin.service.job.revising import (
    ACTING,
    Act,
    Wanted,
    everywhere,
    keep,
    new_id,
    now,
    revised,
    taken_ids,
)
from spare_margin.service.job.session import JobSession
from spare_margin.store import jobs as job_store
from spare_margin.store.file.database import transaction
from spare_margin.web.common.area import area
from spare_margin.web.common.context import (
    JobPath,
    caches,
    connection,
    open_job,
    stage_or_latest,
    the_workshop,
)
from spare_margin.web.common.models import Created
from spare_margin.web.drawing.completions import completions
from spare_margin.web.drawing.models import (
    Checked,
    CheckLoad,
    Details,
    DetailsKept,
    DrawLine,
    Drawn,
    LineText,
    LineTrouble,
    MoveColumn,
    NewJob,
    NewSource,
    ReadText,
    ScenarioChange,
    Understood,
    WholeRun,
)
from spare_margin.web.drawing.scenarios import scenario_act
from spare_margin.wording.craft.changes import CHARGING, COPIED, taken_out_words
from spare_margin.wording.craft.pieces import load_spec, piece_name, point_name, spec
from spare_margin.wording.language.units import number

CHARGING_V = 14.2
"""What a generator or charger holds without load, at 12 V nominal."""
TABLE_LOADS_V = 12.0
"""The workshop's loads are typed as they draw at this voltage."""
drawing_api = area("drawing", __name__, "/api/v1/jobs", "drawing up")


# Jobs


@drawing_api.post("/new", responses={201: Created})
def new_job(body: NewJob) -> tuple[dict[str, object], int]:
    """A job from nothing: a battery with its posts, and the states it is usually in."""
    title = _titled(body.title)
    craft = new_craft(
        body.craft, float(body.nominal_v), body.polarity, body.battery,
        _capacity(body.capacity), body.clamps,
    )  # fmt: skip
    complaint = Complaint(body.complaint.strip(), body.when.strip(), body.conditions.strip())
    made = _kept(
        Job(
            id="",
            title=title,
            craft_name=_plain(body.craft_name),
            customer=_plain(body.customer),
            complaint=complaint,
        ),
        craft,
        "drawn",
    )
    return Created(id=made).model_dump(), 201


@drawing_api.post("/check", responses={201: Checked})
def check_load(body: CheckLoad) -> tuple[dict[str, object], int]:
    """A job to check one load: nothing of its wiring is known, and nothing is made up."""
    name = _plain(body.name)[:120]
    if not name:
        raise JobError("name", "is empty", "what the load is called, as: Bilge pump")
    load = _known_load(name, float(body.nominal_v))
    if load.behaviour is None or body.what != "other":
        load = replace(load, duty=DUTIES[body.what])
    craft = one_load(body.craft, float(body.nominal_v), body.battery, load)
    made = _kept(
        Job(
            id="",
            title=name,
            craft_name=_plain(body.craft_name),
            customer=_plain(body.customer),
            complaint=Complaint(what=body.complaint.strip()),
        ),
        craft,
        "drawn",
    )
    return Checked(id=made, run=craft.loads[0].id).model_dump(), 201


def _known_load(name: str, nominal_v: float) -> Load:
    """The load of this name from the workshop's table, where it is for this voltage; else one nobody
    knows."""
    bare = Load(id="load", start="", end="", name=name)
    for row in rows_of("loads", the_workshop().own_rows).values():
        if row["name"].casefold() != name.casefold() or nominal_v != TABLE_LOADS_V:
            continue
        element = element_of(
            row["line"], new_craft("other", nominal_v, "none", "flooded"), the_workshop().tables
        )
        if isinstance(element, Load):
            return replace(element, name=name)
    return bare


def _titled(text: str) -> str:
    title = " ".join(text.split())
    if not title:
        raise JobError("title", "is empty", "what the job is called, as the craft's name")
    return title


def _plain(text: str) -> str:
    return " ".join(text.split())


def _capacity(text: str) -> float | None:
    plain = re.sub(r"\s*ah\s*$", "", text.strip(), flags=re.IGNORECASE)
    if not plain:
        return None
    value = understand(plain, "times", "capacity").value or 0.0
    if not 0 < value <= 10_000:
        raise JobError("capacity", f"{number(value)} Ah is no battery", "above 0 up to 10000 Ah")
    return value


def _kept(job: Job, craft: Craft, action: Action) -> str:
    job_id, moment = new_id(), now()
    first = Revision(
        id=new_id(),
        stage="as_found",
        parent=None,
        made_at=moment,
        craft=craft,
        action=action,
        who=ACTING.get(),
    )
    job_store.add_job(connection(), replace(job, id=job_id), [first], [], moment)
    return job_id


@drawing_api.post("/<string:job>/copy", responses={201: Created})
def copy_job(path: JobPath) -> tuple[dict[str, object], int]:
    """A second job over the same craft as it stands now, without the readings."""
    session = open_job(path.job)
    title = f"{session.job.title[:190]} (copy)"
    copied = replace(session.job, title=title, made_at="", source_checks={})
    made = _kept(copied, session.head(session.snapshot.latest).craft, "copied")
    return Created(id=made).model_dump(), 201


@drawing_api.post("/<string:job>/details", responses={200: DetailsKept})
def details(path: JobPath, body: Details) -> dict[str, object]:
    """Change what a job says of itself, its limit set, or what its craft is."""
    session = open_job(path.job)
    said = body.model_dump(exclude_none=True)
    columns: dict[str, str] = {}
    if "title" in said:
        columns["title"] = _titled(said["title"])
    if "limit_set" in said:
        sets = session.tables.limit_sets
        if said["limit_set"] not in sets:
            raise JobError("limit_set", f"there is no {said['limit_set']}", ", ".join(sets))
        columns["limit_set"] = said["limit_set"]
    words = {"complaint": "what", "when": "when", "conditions": "conditions"}
    columns |= {key: _plain(said[key]) for key in ("craft_name", "customer") if key in said}
    columns |= {f"complaint_{words[k]}": said[k].strip() for k in words if k in said}
    stages = _recraft(session, body) if said.keys() & {"craft", "nominal_v", "polarity"} else []
    with transaction(connection()):
        job_store.keep_details(connection(), path.job, columns)
    return DetailsKept(stages=stages).model_dump()


def _recraft(session: JobSession, body: Details) -> list[Stage]:
    def act(craft: Craft) -> Craft:
        if body.nominal_v is not None and body.nominal_v != craft.nominal_v:
            craft = at_nominal(craft, float(body.nominal_v))
        kind, polarity = body.craft or craft.kind, body.polarity or craft.polarity
        return replace(craft, kind=kind, polarity=polarity)

    return everywhere(connection(), caches(), session.snapshot, act, "changed")


# Runs


@drawing_api.post("/<string:job>/line/read", responses={200: ReadText})
def read_text(path: JobPath, body: LineText) -> dict[str, object]:
    """What a run line says so far, where it is wrong, and what could come next."""
    session = open_job(path.job)
    craft = session.head(stage_or_latest(session, body.stage)).craft
    read = read_line(body.text, craft, the_workshop().tables)
    loads = rows_of("loads", the_workshop().own_rows).values()
    offered, start, end = completions(body.text, min(body.caret, len(body.text)), craft, loads)
    return ReadText(
        understood=[_understood(p.start, p.end, p.item, craft) for p in read.places],
        errors=[
            LineTrouble(start=e.start, end=e.end, problem=e.problem, accepted=e.accepted)
            for e in read.errors
        ],
        completions=offered,
        start=start,
        end=end,
    ).model_dump()


def _understood(start: int, end: int, item: object, craft: Craft) -> Understood:
    if isinstance(item, TestPoint):
        says = point_name(craft, item.id) if item.id else item.name
        return Understood(start=start, end=end, what="point", says=says, new=not item.id)
    if isinstance(item, Load):
        says = f"{item.name}: {load_spec(item)}"
        return Understood(start=start, end=end, what="load", says=says, new=True)
    assert isinstance(item, Conductor | FixedPiece)
    sized = isinstance(item, Conductor) and (item.size is not None or item.length_m > 0)
    says = spec(item) if sized else piece_name(item)
    says = f"{item.name}: {spec(item)}" if item.name else says
    return Understood(start=start, end=end, what="piece", says=says, new=True)


@drawing_api.post("/<string:job>/lines", responses={200: Drawn})
def draw_line(path: JobPath, body: DrawLine) -> dict[str, object]:
    """Draw a run from its line, or redraw one; pieces whose text stayed the same stay the same."""
    session = open_job(path.job)
    also = taken_ids(session.snapshot)
    loads: list[str | None] = []

    def act(craft: Craft) -> Craft:
        read = read_line(body.text, craft, the_workshop().tables)
        if read.errors or read.line is None:
            first = read.errors[0]
            where = body.text[first.start : first.end]
            raise JobError("text", f"\u201c{where[:60]}\u201d: {first.problem}", first.accepted)
        if body.run is None:
            made, load = drawn(craft, read.line, also=also)
        else:
            old = line_of(craft, _run(craft, body.run))
            made, load = drawn(craft, matched(read.line, old), old, also)
        loads.append(load)
        return made

    wanted = Wanted(body.stage, body.revision, body.correct or body.run is None)
    stage, stages = _change(session, wanted, act)
    made = loads[0] if loads else None
    said = "Drawn." if body.run else "Run added."
    return Drawn(stage=stage, stages=stages, made=made, said=said).model_dump()


def _change(session: JobSession, wanted: Wanted, act: Act) -> tuple[Stage, list[Stage]]:
    """Make a change of the drawing; the stage it was made on, and all that it changed."""
    made = revised(session.snapshot, wanted, act)
    if made is None:
        return wanted.stage, []
    later = act if wanted.correct else None
    return made.stage, keep(connection(), caches(), session.snapshot, made, later)


def _run(craft: Craft, load_id: str) -> Run:
    try:
        load = craft.load(load_id)
    except KeyError:
        raise JobError("run", f"there is no run {load_id}", "a run of the craft") from None
    return Tracer(craft, closed_ohms(craft, the_workshop().tables)).trace(load)


@drawing_api.post("/<string:job>/columns", responses={200: Drawn})
def move_column(path: JobPath, body: MoveColumn) -> dict[str, object]:
    """Put a piece into a run, move it along, or take it out."""
    session = open_job(path.job)
    also = taken_ids(session.snapshot)
    put: list[str] = []

    def act(craft: Craft) -> Craft:
        run = _run(craft, body.run)
        if body.action == "insert":
            element = element_of(body.text, craft, the_workshop().tables)
            if isinstance(element, Load):
                raise JobError("text", "is a load", "a piece; a load has a run of its own")
            made, new = put_in(craft, run, body.piece, element, also)
            put.append(new)
            return made
        if body.piece is None:
            raise JobError("piece", "is missing", "a piece of the run")
        if body.action == "remove":
            return taken_out(craft, body.piece)
        return moved(craft, run, body.piece, body.action == "later")

    stage, stages = _change(session, Wanted(body.stage, body.revision, body.correct), act)
    said = {
        "insert": "Component added.",
        "remove": "Deleted.",
        "earlier": "Moved.",
        "later": "Moved.",
    }
    made = put[0] if put else body.piece
    return Drawn(stage=stage, stages=stages, made=made, said=said[body.action]).model_dump()


@drawing_api.post("/<string:job>/runs", responses={200: Drawn})
def whole_run(path: JobPath, body: WholeRun) -> dict[str, object]:
    """A second run like this one, or this run taken out with the pieces that served it alone."""
    session = open_job(path.job)
    also = taken_ids(session.snapshot)
    new: list[str] = []

    def act(craft: Craft) -> Craft:
        name = _run_name(craft, body.run)
        if body.action == "remove":
            new.append(name)
            return run_taken_out(craft, body.run)
        made, load = run_copied(craft, body.run, also)
        new.append(load)
        return made

    copying = body.action == "copy"
    wanted = Wanted(body.stage, body.revision, body.correct or copying)
    stage, stages = _change(session, wanted, act)
    said = COPIED if copying else taken_out_words(new[0])
    made = new[0] if copying else None
    return Drawn(stage=stage, stages=stages, made=made, said=said).model_dump()


def _run_name(craft: Craft, load_id: str) -> str:
    try:
        return craft.load(load_id).name
    except KeyError:
        raise JobError("run", f"there is no run {load_id}", "a run of the craft") from None


@drawing_api.post("/<string:job>/sources", responses={200: Drawn})
def add_source(path: JobPath, body: NewSource) -> dict[str, object]:
    """A second source that charges the battery, with the charging path as a run of its own."""
    session = open_job(path.job)
    name = _plain(body.name)[:100]
    if not name:
        raise JobError("name", "is empty", "what it is called, as: Generator")
    also = taken_ids(session.snapshot)
    made: list[str] = []

    def act(craft: Craft) -> Craft:
        usual = CHARGING_V * craft.nominal_v / 12.0
        volts = understand(body.volts, "volts", "volts").value if body.volts.strip() else usual
        if volts is None or not 0.8 * craft.nominal_v <= volts <= 2.5 * craft.nominal_v:
            raise JobError("volts", "charges no battery of this craft", f"about {number(usual)}")
        grown, run = with_charger(craft, body.kind, name, volts, also)
        made[:] = [run]
        return grown

    stage, stages = _change(session, Wanted(body.stage, body.revision, True), act)
    return Drawn(
        stage=stage, stages=stages, made=made[0] if made else None, said=CHARGING
    ).model_dump()


@drawing_api.post("/<string:job>/scenarios", responses={200: Drawn})
def change_scenario(path: JobPath, body: ScenarioChange) -> dict[str, object]:
    """Keep, copy or take out a scenario, on every stage there is."""
    session = open_job(path.job)
    act, made, said = scenario_act(body, session.snapshot)
    stages = everywhere(connection(), caches(), session.snapshot, act, "scenario")
    return Drawn(stage=body.stage, stages=stages, made=made, said=said).model_dump()
