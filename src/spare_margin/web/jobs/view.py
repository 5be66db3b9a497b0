"""Jobs as the list shows them, and what a job file would bring in."""

from spare_margin.core.circuit.runs import misplaced
from spare_margin.core.errors import NoSolution
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.job_file.job_file import ReadJob, judge
from spare_margin.service.job.worked import SolvedWiring, WorkedCraft
from spare_margin.service.records.listing import UNKNOWN, JobSummary
from spare_margin.service.records.timeline import Event
from spare_margin.service.workshop.brought_rows import brought_says
from spare_margin.store.records import ListedRow
from spare_margin.web.jobs.models import EventOut, ListedJob, Preview, PreviewRun
from spare_margin.web.problems import wrong_field
from spare_margin.wording.craft.sheets import UNWORKABLE, stalled_words, will_stand_words
from spare_margin.wording.measured.walks import trial_words
from spare_margin.wording.records import timeline as words


def listed_job(row: ListedRow, kept: JobSummary | None) -> ListedJob:
    """One line of the list; without its standing it waits to be worked out."""
    found = kept or UNKNOWN
    trouble = UNWORKABLE.get(found.unworkable) or found.unclosed
    if found.stalled is not None:
        name, loop, most = found.stalled
        trouble = stalled_words(NoSolution("", name, loop, most))
    return ListedJob(
        id=row.id,
        title=row.title,
        craft_name=row.craft_name,
        customer=row.customer,
        complaint=row.complaint,
        made_at=row.made_at,
        away=row.away,
        fault=row.fault,
        state=row.state,
        waiting=kept is None,
        craft=found.craft,
        nominal_v=found.nominal_v,
        run_count=found.run_count,
        reading_count=found.reading_count,
        stage=found.stage,
        focus_run=found.focus_run,
        focus_name=found.focus_name,
        spare_v=found.spare_v,
        verdict=found.verdict,
        measured=found.measured,
        trouble=trouble,
    )


def event_out(event: Event, craft: Craft) -> EventOut:
    """Something that was done, in words."""
    match event.code:
        case "taken_in":
            says = words.TAKEN_IN
        case "changed":
            assert event.revision is not None
            says = words.changed_words(event.revision, event.before)
        case "read":
            assert event.stage is not None
            says = words.read_words(event.stage, event.readings)
        case "tried":
            assert event.tried is not None
            says = f"Tried: {trial_words(event.tried, craft)}."
        case "photographed":
            assert event.stage is not None
            says = words.photographed_words(event.stage, len(event.photographs))
        case "signed":
            assert event.signed is not None
            says = words.signed_words(event.signed, craft)
        case _:
            says = words.noted_words(event.code, event.notes, craft)
    return EventOut(at=event.at, code=event.code, who=event.who, says=says)


def preview_of(read: ReadJob, tables: Tables) -> Preview:
    """What a job that was read would bring in."""
    errors, remarks = judge(read, tables)
    craft, runs = read.craft, []
    notices = [
        *brought_says(read.rows),
        *(f"{e.problem[0].upper()}{e.problem[1:]}." for e in remarks),
    ]
    if not errors and craft.loads:
        limits = Limits(tables.limit_sets[read.job.limit_set], read.job.own_limits)
        solved = SolvedWiring(WorkedCraft(craft, limits, tables), craft.used_in(None))
        for key, budget in solved.budgets.items():
            known = budget.current_a > 0 and not budget.run.guessed
            runs.append(
                PreviewRun(
                    name=budget.run.load.name,
                    piece_count=len(list(solved.runs[key].steps())),
                    spare_v=budget.spare_v if known and budget.spares() else None,
                )
            )
        wrong = misplaced(solved.runs.values())
        drawn = {p.id: p for p in craft.pieces}
        notices += [will_stand_words(drawn[key], side) for key, side in wrong.items()]
    return Preview(
        title=read.job.title,
        craft=craft.kind,
        nominal_v=craft.nominal_v,
        complaint=read.job.complaint.what,
        runs=runs,
        reading_count=len(read.readings),
        notices=notices,
        known=None,
        errors=[wrong_field(e) for e in errors],
    )
