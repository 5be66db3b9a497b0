"""Drawing up: a job from nothing, runs typed as lines, columns put in and moved, scenarios."""

from spare_margin.core.model.jobs import Complaint, Job
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, TestPoint
from spare_margin.data.tables import rows_of
from spare_margin.exchange.run_line.reader import read_runs
from spare_margin.service.drawing import new_jobs, runs
from spare_margin.service.drawing.scenarios import change_scenario
from spare_margin.service.drawing.words import one_line
from spare_margin.service.errors import NotThere
from spare_margin.service.job.desk import Edited, Wanted
from spare_margin.service.workshop.templates import begin_from, save_template
from spare_margin.store import templates as template_store
from spare_margin.web.common.area import area
from spare_margin.web.common.context import (
    JobPath,
    connection,
    open_desk,
    open_job,
    stage_or_latest,
    the_workshop,
)
from spare_margin.web.common.models import Created, Model
from spare_margin.web.drawing.completions import completions
from spare_margin.web.drawing.models import (
    Checked,
    CheckLoad,
    Details,
    DetailsKept,
    Drawing,
    DrawLine,
    Drawn,
    LineText,
    LineTrouble,
    MoveColumn,
    NewJob,
    NewSource,
    ReadText,
    SaveTemplate,
    ScenarioChange,
    TemplateList,
    TemplateOut,
    Understood,
    WholeRun,
)
from spare_margin.wording.craft import changes as words
from spare_margin.wording.craft.pieces import load_spec, piece_name, point_name, spec

drawing_api = area("drawing", __name__, "/api/v1/jobs", "drawing up")


# Jobs


class TemplatePath(Model):
    """Which template."""

    template: str


@drawing_api.post("/new", responses={201: Created})
def new_job(body: NewJob) -> tuple[dict[str, object], int]:
    """A job from nothing: a battery with its posts, and the states it is usually in."""
    complaint = Complaint(body.complaint.strip(), body.when.strip(), body.conditions.strip())
    job = Job(
        id="", title=body.title, craft_name=one_line(body.craft_name),
        customer=one_line(body.customer), complaint=complaint,
    )  # fmt: skip
    if body.template:
        own = the_workshop().own_rows
        begun = begin_from(connection(), body.template, job, own)
        return Created(id=begun).model_dump(), 201
    made = new_jobs.new_job(
        connection(), job, body.craft, float(body.nominal_v), body.polarity, body.battery,
        body.capacity, body.clamps,
    )  # fmt: skip
    return Created(id=made).model_dump(), 201


@drawing_api.get("/templates", responses={200: TemplateList})
def read_templates() -> dict[str, object]:
    """Crafts that were saved to begin jobs from."""
    return _templates()


@drawing_api.delete("/templates/<string:template>", responses={200: TemplateList})
def drop_template(path: TemplatePath) -> dict[str, object]:
    """Take a template out; jobs that began from it stay as they are."""
    if not template_store.drop_template(connection(), path.template):
        raise NotThere("There is no such template; it may have been taken out.")
    return _templates()


def _templates() -> dict[str, object]:
    held = template_store.templates(connection())
    return TemplateList(
        templates=[TemplateOut(id=t.id, name=t.name, made_at=t.made_at) for t in held]
    ).model_dump()


@drawing_api.post("/<string:job>/template", responses={201: TemplateOut})
def save_as_template(path: JobPath, body: SaveTemplate) -> tuple[dict[str, object], int]:
    """Save the craft as a template; one of the same name gives way."""
    made = save_template(connection(), open_job(path.job), body.stage, body.name)
    return TemplateOut(id=made.id, name=made.name, made_at=made.made_at).model_dump(), 201


@drawing_api.post("/check", responses={201: Checked})
def check_load(body: CheckLoad) -> tuple[dict[str, object], int]:
    """A job to check one load: nothing of its wiring is known, and nothing is made up."""
    job = Job(
        id="", title=body.name, craft_name=one_line(body.craft_name),
        customer=one_line(body.customer), complaint=Complaint(what=body.complaint.strip()),
    )  # fmt: skip
    made, run = new_jobs.check_load(
        connection(),
        the_workshop(),
        job,
        body.craft,
        float(body.nominal_v),
        body.battery,
        body.what,
    )
    return Checked(id=made, run=run).model_dump(), 201


@drawing_api.post("/<string:job>/copy", responses={201: Created})
def copy_job(path: JobPath) -> tuple[dict[str, object], int]:
    """A second job over the same craft as it stands now, without the readings."""
    return Created(id=new_jobs.copy_job(connection(), open_job(path.job))).model_dump(), 201


@drawing_api.post("/<string:job>/details", responses={200: DetailsKept})
def details(path: JobPath, body: Details) -> dict[str, object]:
    """Change what a job says of itself, its limit set, or what its craft is."""
    said = body.model_dump(exclude_none=True, exclude={"craft", "nominal_v", "polarity"})
    nominal_v = None if body.nominal_v is None else float(body.nominal_v)
    made = new_jobs.keep_details(open_desk(path.job), said, body.craft, nominal_v, body.polarity)
    return DetailsKept(stages=list(made.stages) if made else []).model_dump()


# Runs


@drawing_api.post("/<string:job>/line/read", responses={200: ReadText})
def read_text(path: JobPath, body: LineText) -> dict[str, object]:
    """What a run line says so far, where it is wrong, and what could come next."""
    session = open_job(path.job)
    craft = session.head(stage_or_latest(session, body.stage)).craft
    read = read_runs(body.text, craft, the_workshop().tables)
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
    wanted = Wanted(body.stage, body.revision, body.correct or body.run is None)
    made = runs.draw_line(open_desk(path.job), wanted, body.text, body.run)
    return _drawn(made, words.DRAWN if body.run else words.ADDED)


@drawing_api.post("/<string:job>/columns", responses={200: Drawn})
def move_column(path: JobPath, body: MoveColumn) -> dict[str, object]:
    """Put a piece into a run, move it along, or take it out."""
    desk, wanted = open_desk(path.job), _wanted(body)
    if body.action == "insert":
        made = runs.put_in_piece(desk, wanted, body.run, body.piece, body.text)
        return _drawn(made, words.PUT_IN)
    made = runs.move_piece(desk, wanted, body.run, body.piece, body.action)
    return _drawn(made, words.DELETED if body.action == "remove" else words.MOVED)


@drawing_api.post("/<string:job>/runs", responses={200: Drawn})
def whole_run(path: JobPath, body: WholeRun) -> dict[str, object]:
    """A second run like this one, or this run taken out with the pieces that served it alone."""
    desk = open_desk(path.job)
    if body.action == "copy":
        wanted = Wanted(body.stage, body.revision, correct=True)
        return _drawn(runs.copy_run(desk, wanted, body.run), words.COPIED)
    made, gone = runs.take_run_out(desk, _wanted(body), body.run)
    return _drawn(made, words.taken_out_words(gone.name))


@drawing_api.post("/<string:job>/sources", responses={200: Drawn})
def add_source(path: JobPath, body: NewSource) -> dict[str, object]:
    """A second source that charges the battery, with the charging path as a run of its own."""
    wanted = Wanted(body.stage, body.revision, correct=True)
    made = runs.add_charger(open_desk(path.job), wanted, body.kind, body.name, body.volts)
    return _drawn(made, words.CHARGING)


@drawing_api.post("/<string:job>/scenarios", responses={200: Drawn})
def keep_scenario(path: JobPath, body: ScenarioChange) -> dict[str, object]:
    """Keep, copy or take out a scenario, on every stage there is."""
    made, meant = change_scenario(open_desk(path.job), body.action, body.id, body.form)
    said = words.scenario_words(meant.name, taken_out=body.action == "remove")
    return _drawn(made, said) | {"stage": body.stage}


def _wanted(body: Drawing) -> Wanted:
    return Wanted(body.stage, body.revision, body.correct)


def _drawn(made: Edited, said: str) -> dict[str, object]:
    what = made.made[0] if made.made else None
    return Drawn(stage=made.stage, stages=list(made.stages), made=what, said=said).model_dump()
