"""Drawing up: a job from nothing, runs typed as lines, columns put in and moved, scenarios."""

import re
from dataclasses import replace

from flask_openapi3.blueprint import APIBlueprint
from flask_openapi3.models.tag import Tag

from spare_margin.core.drawing import (
    drawn,
    line_of,
    moved,
    put_in,
    run_copied,
    run_taken_out,
    taken_out,
)
from spare_margin.core.errors import JobError
from spare_margin.core.jobs import Complaint, Job, Revision, Stage
from spare_margin.core.new_craft import at_nominal, new_craft
from spare_margin.core.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    TestPoint,
    called,
    point_called,
)
from spare_margin.core.resistances import closed_ohms
from spare_margin.core.runs import Run, Tracer
from spare_margin.data.shelves import rows_of
from spare_margin.exchange.quantities import understand
from spare_margin.exchange.run_line import element_of, read_line
from spare_margin.exchange.run_line_text import matched
from spare_margin.store import jobs as job_store

from .bench import JobState
from .completions import completions
from .connection import connection, new_id, now
from .drawing_models import (
    Details,
    DetailsKept,
    DrawLine,
    Drawn,
    LineText,
    LineTrouble,
    MoveColumn,
    NewJob,
    ReadText,
    ScenarioChange,
    Understood,
    WholeRun,
)
from .jobs_api import JobPath
from .models import Created, Problem
from .opened import job_or_404
from .scenarios import scenario_act
from .wiring import Act, Wanted, keep, revised, taken_ids
from .words import load_spec, spec
from .workshop import own_rows, tables

drawing_api = APIBlueprint(
    "drawing",
    __name__,
    url_prefix="/api/v1/jobs",
    abp_tags=[Tag(name="drawing up")],
    abp_responses={"4XX": Problem},
)


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
    made = _on_shelf(Job(id="", title=title, complaint=complaint), craft, "New")
    return Created(id=made).model_dump(), 201


def _titled(text: str) -> str:
    title = " ".join(text.split())
    if not title:
        raise JobError("title", "is empty", "what the job is called, as the craft's name")
    return title


def _capacity(text: str) -> float | None:
    plain = re.sub(r"\s*ah\s*$", "", text.strip(), flags=re.IGNORECASE)
    if not plain:
        return None
    value = understand(plain, "times", "capacity").value or 0.0
    if not 0 < value <= 10_000:
        raise JobError("capacity", f"{value:g} Ah is no battery", "above 0 up to 10000 Ah")
    return value


def _on_shelf(job: Job, craft: Craft, summary: str) -> str:
    job_id, moment = new_id(), now()
    first = Revision(
        id=new_id(), stage="as_found", parent=None, summary=summary, made_at=moment, craft=craft
    )
    job_store.add_job(connection(), replace(job, id=job_id), [first], [], moment)
    return job_id


@drawing_api.post("/<string:job>/copy", responses={201: Created})
def copy_job(path: JobPath) -> tuple[dict[str, object], int]:
    """A second job over the same craft as it stands now, without the readings."""
    state = job_or_404(path.job)
    title = f"{state.job.title[:190]} (copy)"
    copied = replace(state.job, title=title, source_checks={})
    made = _on_shelf(copied, state.heads[state.latest].craft, f"Copied from {state.job.title}")
    return Created(id=made).model_dump(), 201


@drawing_api.post("/<string:job>/details", responses={200: DetailsKept})
def details(path: JobPath, body: Details) -> dict[str, object]:
    """Change what a job says of itself, its limit set, or what its craft is."""
    state = job_or_404(path.job)
    said = body.model_dump(exclude_none=True)
    job = state.job
    if "title" in said:
        job = replace(job, title=_titled(said["title"]))
    if "limit_set" in said:
        if said["limit_set"] not in tables().limit_sets:
            raise JobError(
                "limit_set", f"there is no {said['limit_set']}", ", ".join(tables().limit_sets)
            )
        job = replace(job, limit_set=said["limit_set"])
    words = {"complaint": "what", "when": "when", "conditions": "conditions"}
    complaint = {words[key]: said[key].strip() for key in words if key in said}
    job = replace(job, complaint=replace(job.complaint, **complaint))
    stages = _recraft(state, body) if said.keys() & {"craft", "nominal_v", "polarity"} else []
    if job != state.job:
        job_store.keep_details(connection(), job)
    return DetailsKept(stages=stages).model_dump()


def _recraft(state: JobState, body: Details) -> list[Stage]:
    def act(craft: Craft) -> Craft:
        if body.nominal_v is not None and body.nominal_v != craft.nominal_v:
            craft = at_nominal(craft, float(body.nominal_v))
        kind, polarity = body.craft or craft.kind, body.polarity or craft.polarity
        return replace(craft, kind=kind, polarity=polarity)

    return everywhere(state, act, "What the craft is")


def everywhere(state: JobState, act: Act, summary: str) -> list[Stage]:
    """Make a change that is true of the craft itself on every stage there is; the stages changed."""
    first = next(iter(state.heads))
    wanted = Wanted(first, state.heads[first].id, correct=True)
    made = revised(state, wanted, act, summary)
    return [] if made is None else keep(state, made, act)


# Runs


@drawing_api.post("/<string:job>/line/read", responses={200: ReadText})
def read_text(path: JobPath, body: LineText) -> dict[str, object]:
    """What a run line says so far, where it is wrong, and what could come next."""
    state = job_or_404(path.job)
    craft = state.heads[body.stage if body.stage in state.heads else state.latest].craft
    read = read_line(body.text, craft, tables())
    loads = rows_of("loads", own_rows()).values()
    offered, start, end = completions(body.text, min(body.caret, len(body.text)), craft, loads)
    return ReadText(
        understood=[_understood(p.start, p.end, p.mark, craft) for p in read.places],
        errors=[
            LineTrouble(start=e.start, end=e.end, problem=e.problem, accepted=e.accepted)
            for e in read.errors
        ],
        completions=offered,
        start=start,
        end=end,
    ).model_dump()


def _understood(start: int, end: int, mark: object, craft: Craft) -> Understood:
    if isinstance(mark, TestPoint):
        says = point_called(craft, mark) if mark.id else mark.name
        return Understood(start=start, end=end, what="point", says=says, new=not mark.id)
    if isinstance(mark, Load):
        says = f"{mark.name}: {load_spec(mark)}"
        return Understood(start=start, end=end, what="load", says=says, new=True)
    assert isinstance(mark, Conductor | FixedPiece)
    says = spec(mark) if isinstance(mark, Conductor) else called(mark)
    says = f"{mark.name}: {spec(mark)}" if mark.name else says
    return Understood(start=start, end=end, what="piece", says=says, new=True)


@drawing_api.post("/<string:job>/lines", responses={200: Drawn})
def draw_line(path: JobPath, body: DrawLine) -> dict[str, object]:
    """Draw a run from its line, or redraw one; pieces whose text stayed the same stay the same."""
    state = job_or_404(path.job)
    also = taken_ids(state)
    loads: list[str | None] = []

    def act(craft: Craft) -> Craft:
        read = read_line(body.text, craft, tables())
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
    stage, stages = _change(state, wanted, act)
    made = loads[0] if loads else None
    said = "Drawn." if body.run else "Drawn in."
    return Drawn(stage=stage, stages=stages, made=made, said=said).model_dump()


def _change(state: JobState, wanted: Wanted, act: Act) -> tuple[Stage, list[Stage]]:
    """Make a change of the drawing; the stage it was made on, and all that it changed."""
    made = revised(state, wanted, act)
    if made is None:
        return wanted.stage, []
    return made.stage, keep(state, made, act if wanted.correct else None)


def _run(craft: Craft, load_id: str) -> Run:
    try:
        load = craft.load(load_id)
    except KeyError:
        raise JobError("run", f"there is no run {load_id}", "a run of the craft") from None
    return Tracer(craft, closed_ohms(craft, tables())).trace(load)


@drawing_api.post("/<string:job>/columns", responses={200: Drawn})
def move_column(path: JobPath, body: MoveColumn) -> dict[str, object]:
    """Put a piece into a run, move it along, or take it out."""
    state = job_or_404(path.job)
    also = taken_ids(state)
    put: list[str] = []

    def act(craft: Craft) -> Craft:
        run = _run(craft, body.run)
        if body.action == "insert":
            element = element_of(body.text, craft, tables())
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

    stage, stages = _change(state, Wanted(body.stage, body.revision, body.correct), act)
    said = {"insert": "Put in.", "remove": "Taken out.", "earlier": "Moved.", "later": "Moved."}
    made = put[0] if put else body.piece
    return Drawn(stage=stage, stages=stages, made=made, said=said[body.action]).model_dump()


@drawing_api.post("/<string:job>/runs", responses={200: Drawn})
def whole_run(path: JobPath, body: WholeRun) -> dict[str, object]:
    """A second run like this one, or this run taken out with the pieces that served it alone."""
    state = job_or_404(path.job)
    also = taken_ids(state)
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
    stage, stages = _change(state, wanted, act)
    said = "A second one is drawn in." if copying else f"{new[0]} is taken out."
    made = new[0] if copying else None
    return Drawn(stage=stage, stages=stages, made=made, said=said).model_dump()


def _run_name(craft: Craft, load_id: str) -> str:
    try:
        return craft.load(load_id).name
    except KeyError:
        raise JobError("run", f"there is no run {load_id}", "a run of the craft") from None


@drawing_api.post("/<string:job>/scenarios", responses={200: Drawn})
def change_scenario(path: JobPath, body: ScenarioChange) -> dict[str, object]:
    """Keep, copy or take out a scenario, on every stage there is."""
    state = job_or_404(path.job)
    scenarios = {r.scenario for r in state.readings}
    act, made, said = scenario_act(body, state, scenarios)
    stages = everywhere(state, act, said)
    return Drawn(stage=body.stage, stages=stages, made=made, said=said).model_dump()
