"""What the parts of a job file must say of one another: histories, moments, readings."""

from collections.abc import Iterable, Mapping

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Revision
from spare_margin.core.model.photographs import Subject, subjects
from spare_margin.core.model.pieces import CONTACTS

from .models import JobFile


def history_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    """Parents that are missing or run in a circle, heads that are no revision of their stage."""
    yield from _parent_errors(revisions)
    yield from _head_errors(model, revisions)


def _parent_errors(revisions: list[Revision]) -> Iterable[JobError]:
    by_id = {r.id: r for r in revisions}

    def at(revision: Revision) -> str:
        number = revisions.index(revision)
        return f"revisions[{number - 1}].parent" if number else "revision_made.parent"

    for revision in revisions:
        if revision.parent is None:
            continue
        if revision.parent not in by_id:
            yield JobError(at(revision), f"there is no {revision.parent}", "an id from revisions")
            continue
        seen, here = {revision.id}, by_id[revision.parent]
        while here.id not in seen:
            seen.add(here.id)
            if here.parent is None or here.parent not in by_id:
                break
            here = by_id[here.parent]
        else:
            yield JobError(at(revision), "leads round in a circle", "an earlier revision")


def _head_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    by_id = {r.id: r for r in revisions}
    for stage, head in model.heads.items():
        for key, named in (("at", head.at), ("tip", head.tip)):
            if named is not None and (named not in by_id or by_id[named].stage != stage):
                yield JobError(
                    f"heads.{stage}.{key}", f"{named} is no revision of it", f"one of {stage}"
                )
    as_found = model.heads.get("as_found")
    if as_found is not None and as_found.at != model.revision:
        yield JobError("heads.as_found.at", "is not the file's own wiring", model.revision)


def reading_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    """Readings that name what is not in the file, or contradict themselves."""
    by_id = {r.id: r.craft for r in revisions}
    if len(by_id) != len(revisions):
        yield JobError("revisions", "an id stands twice", "one each")
    points = {key: {p.id for p in craft.points} for key, craft in by_id.items()}
    moments, trials = {m.id for m in model.moments}, {t.id for t in model.trials}
    seen: set[str] = set()
    for i, reading in enumerate(model.readings):
        at = f"readings[{i}]"
        if reading.id in seen:
            yield JobError(f"{at}.id", f"the id {reading.id} stands twice", "one each")
        revision = reading.revision or model.revision
        if revision not in by_id:
            yield JobError(f"{at}.revision", f"there is no {revision}", "an id from revisions")
            continue
        scenarios = {s.id for s in by_id[revision].scenarios}
        for key, known, where in (
            ("moment", moments, "moments"),
            ("trial", trials, "trials"),
            ("red", points[revision], "nodes"),
            ("black", points[revision], "nodes"),
            ("scenario", scenarios, "scenarios"),
        ):
            named = getattr(reading, key)
            if named and named not in known:
                yield JobError(f"{at}.{key}", f"there is no {named}", f"an id from {where}")
        if reading.supersedes is not None and reading.supersedes not in seen:
            yield JobError(f"{at}.supersedes", "names no earlier reading", "an id of one above it")
        if (reading.state == "value") != (reading.value is not None):
            yield JobError(
                f"{at}.value", f"does not go with state {reading.state}", "both or neither"
            )
        seen.add(reading.id)


def sign_off_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    """Signatures that name a wiring or a run that is not in the file."""
    loads = {r.id: {x.id for x in r.craft.loads} for r in revisions}
    seen: set[str] = set()
    for i, signed in enumerate(model.sign_offs):
        at = f"sign_offs[{i}]"
        if signed.id in seen:
            yield JobError(f"{at}.id", f"the id {signed.id} stands twice", "one each")
        seen.add(signed.id)
        if signed.revision not in loads:
            yield JobError(
                f"{at}.revision", f"there is no {signed.revision}", "an id from revisions"
            )
        elif signed.run not in loads[signed.revision]:
            yield JobError(f"{at}.run", f"there is no {signed.run}", "an id of a load")


def log_errors(model: JobFile) -> Iterable[JobError]:
    """Logs whose lists do not go together, and windows of logs that are not in the file."""
    channels: dict[str, int] = {}
    for i, log in enumerate(model.meter_logs):
        at = f"meter_logs[{i}]"
        if log.id in channels:
            yield JobError(f"{at}.id", f"the id {log.id} stands twice", "one each")
        channels[log.id] = len(log.channels)
        for key in ("least", "most"):
            held = getattr(log, key)
            if len(held) != len(log.channels) or any(len(x) != len(log.seconds) for x in held):
                yield JobError(f"{at}.{key}", "does not go with channels and seconds", "as many")
    for i, reading in enumerate(model.readings):
        window = reading.window
        if window is not None and window.channel >= channels.get(window.log, 0):
            at = f"readings[{i}].window"
            yield JobError(at, f"there is no such channel of {window.log}", "one of meter_logs")


def photograph_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    """Photographs of what is not in the file."""
    crafts = [r.craft for r in revisions]
    readings = [r.id for r in model.readings]
    known = {subject: subjects(subject, crafts, readings) for subject in SUBJECTS}
    seen: set[str] = set()
    for i, each in enumerate(model.photographs):
        at = f"photographs[{i}]"
        if each.id in seen:
            yield JobError(f"{at}.id", f"the id {each.id} stands twice", "one each")
        seen.add(each.id)
        if (each.subject == "job") == bool(each.about):
            yield JobError(f"{at}.about", "does not go with its subject", "an id, but for the job")
        elif each.subject in known and each.about not in known[each.subject]:
            yield JobError(f"{at}.about", f"there is no {each.about}", SUBJECTS[each.subject])


SUBJECTS: Mapping[Subject, str] = {
    "point": "an id from nodes", "part": "an id from elements or sources",
    "reading": "an id from readings",
}  # fmt: skip
"""Where the ids of subjects stand in a file; a step of a work order is there only with its plan."""


def moment_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    """Moments and trials that name what is not in the file."""
    scenarios = {s.id for r in revisions for s in r.craft.scenarios}
    loads = {x.id for r in revisions for x in r.craft.loads}
    points = {p.id for r in revisions for p in r.craft.points}
    contacts = {p.id for r in revisions for p in r.craft.pieces if p.kind in CONTACTS}
    moments: set[str] = set()
    for i, moment in enumerate(model.moments):
        at = f"moments[{i}]"
        if moment.id in moments:
            yield JobError(f"{at}.id", f"the id {moment.id} stands twice", "one each")
        moments.add(moment.id)
        if moment.scenario not in scenarios:
            yield JobError(
                f"{at}.scenario", f"there is no {moment.scenario}", "an id from scenarios"
            )
        held = moment.stand_in
        for key, point in (("from", held.start), ("to", held.end)) if held else ():
            if point not in points:
                yield JobError(f"{at}.stand_in.{key}", f"there is no {point}", "an id from nodes")
        for key in moment.contacts:
            if key not in contacts:
                yield JobError(
                    f"{at}.contacts.{key}", f"there is no contact {key}",
                    "an id of a switch, a breaker or a relay contact",
                )  # fmt: skip
        for load in moment.loads:
            if load not in loads:
                yield JobError(f"{at}.loads.{load}", f"there is no load {load}", "an id of a load")
    yield from _trial_errors(model, revisions, moments)


def _trial_errors(
    model: JobFile, revisions: list[Revision], moments: set[str]
) -> Iterable[JobError]:
    points = {p.id for r in revisions for p in r.craft.points}
    trials: set[str] = set()
    for i, trial in enumerate(model.trials):
        at = f"trials[{i}]"
        if trial.id in trials:
            yield JobError(f"{at}.id", f"the id {trial.id} stands twice", "one each")
        trials.add(trial.id)
        if trial.moment not in moments:
            yield JobError(f"{at}.moment", f"there is no {trial.moment}", "an id from moments")
        for key, point in (("from", trial.start), ("to", trial.end)):
            if point not in points:
                yield JobError(f"{at}.{key}", f"there is no {point}", "an id from nodes")
        if trial.revision and trial.revision not in {r.id for r in revisions}:
            yield JobError(
                f"{at}.revision", f"there is no {trial.revision}", "an id from revisions"
            )
        if trial.start == trial.end:
            yield JobError(f"{at}.to", f"joins {trial.start} to itself", "two different nodes")
