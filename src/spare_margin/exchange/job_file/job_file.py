"""Job files in: bytes to the core's values."""

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from pydantic import ValidationError

from spare_margin.core.circuit.extent import too_large
from spare_margin.core.circuit.runs import hang_alike
from spare_margin.core.circuit.soundness import (
    network_troubles,
)
from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.core.model import pieces as core
from spare_margin.core.model.jobs import (
    Complaint,
    Job,
    LogTrace,
    Moment,
    Reading,
    Revision,
    SignOff,
    Stage,
    Trial,
    WalkNote,
)
from spare_margin.core.model.photographs import Photograph
from spare_margin.core.model.tables import Tables
from spare_margin.data.tables import OwnRows, tables_with
from spare_margin.exchange.job_file.checks import (
    history_errors,
    log_errors,
    moment_errors,
    photograph_errors,
    reading_errors,
    sign_off_errors,
)
from spare_margin.exchange.job_file.models import FileOwnRevision, JobFile, OwnLimits
from spare_margin.exchange.job_file.own_rows import merged, read_rows
from spare_margin.exchange.job_file.plain_words import plain_errors
from spare_margin.exchange.job_file.wirings import (
    craft_of,
    craft_of_revision,
    indexed,
    wiring_errors,
)

FORMAT, VERSION = "spare-margin-job", 1
MOST_BYTES = 16_000_000
"""A job of 10,000 pieces is about 2 MB, 10,000 readings are 4; anything far above is not a job file."""
MOST_PARTS = 3_000_000
"""Pieces of all revisions of a job together: each is held in memory, though the file says it once."""


@dataclass(frozen=True, slots=True)
class ReadJob:
    """A job file as core values. The first revision is the file's own wiring, as found.

    `rows` are the rows of somebody's own tables that its figures rest on.
    """

    job: Job
    revisions: tuple[Revision, ...]
    readings: tuple[Reading, ...]
    notes: tuple[WalkNote, ...] = ()
    moments: tuple[Moment, ...] = ()
    trials: tuple[Trial, ...] = ()
    heads: Mapping[Stage, tuple[str | None, str]] = field(default_factory=dict)
    rows: OwnRows = field(default_factory=dict)
    sign_offs: tuple[SignOff, ...] = ()
    logs: tuple[LogTrace, ...] = ()
    photographs: tuple[Photograph, ...] = ()
    names_set: bool = True
    """Whether the file names its limit set; without, only its own ceilings count in `size`."""

    @property
    def craft(self) -> core.Craft:
        """The wiring as found."""
        return self.revisions[0].craft


class JobFileErrors(SpareMarginError):
    """Everything found wrong with one job file, in the order of the file."""

    def __init__(self, errors: Iterable[JobError]) -> None:
        self.errors = list(errors)
        super().__init__(self.errors[0].sentence())


def read_job(raw: bytes, held: OwnRows = MappingProxyType({}), *, to_size: bool = False) -> ReadJob:
    """A job from the bytes of a job file, read with the rows of one's own that are held here.

    Rows that the file brings stand in for those of the same key. With `to_size`, conductors whose size
    and fuses whose rating is still to be chosen are taken as they are. Raises JobFileErrors for anything
    that keeps it from being read. The network itself is not judged here; see `judge`.
    """
    document = _parse(raw)
    if document.get("format") != FORMAT:
        raise JobFileErrors([JobError("format", "this is not a job file", f'"{FORMAT}"')])
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise JobFileErrors(
            [JobError("version", f"{version} is newer than this program knows", f"{VERSION}")]
        )
    if to_size:
        _without_auto(document)
    try:
        model = JobFile.model_validate_json(json.dumps(document))
    except ValidationError as invalid:
        raise JobFileErrors(plain_errors(invalid, document)) from None
    try:
        rows = read_rows(model.tables)
    except JobError as wrong:
        raise JobFileErrors([wrong]) from None
    return replace(_to_core(model, tables_with(merged(held, rows)), to_size), rows=rows)


def _without_auto(document: dict[str, Any]) -> None:
    """A fuse to be rated is one without a rating."""
    elements = document.get("elements")
    for each in elements if isinstance(elements, list) else ():
        if isinstance(each, dict) and each.get("rating_a") == core.AUTO:
            del each["rating_a"]


def judge(read: ReadJob, tables: Tables) -> tuple[list[JobError], list[JobError]]:
    """What keeps a job from being shown at all, and what is only to be said of it, by the file's paths.

    A loop that is still open or a load that stalls is a drawing that is not finished; sources that fight
    leave nothing to compute.
    """
    errors: list[JobError] = []
    remarks: list[JobError] = []
    sound: core.Craft | None = None
    for number, revision in enumerate(read.revisions):
        if sound is not None and _as_sound(sound, revision.craft):
            continue
        prefix = f"revisions[{number - 1}].wiring." if number else ""
        large = too_large(revision.craft)
        if large is not None:
            errors.append(JobError(prefix + large.path, large.problem, large.accepted))
            continue
        before = len(errors) + len(remarks)
        for trouble in network_troubles(revision.craft, tables):
            if isinstance(trouble, JobError):
                at = prefix + indexed(trouble.path, revision.craft)
                made = JobError(at, trouble.problem, trouble.accepted)
                (errors if trouble.path.startswith("sources") else remarks).append(made)
            elif not number:
                remarks.append(JobError("elements", str(trouble), "a load its loop can feed"))
        sound = revision.craft if len(errors) + len(remarks) == before else None
    return errors, remarks


def _as_sound(sound: core.Craft, craft: core.Craft) -> bool:
    """Whether a wiring hangs together as one that nothing is wrong with, from the same sources."""
    return (
        craft.sources == sound.sources
        and craft.scenarios == sound.scenarios
        and hang_alike(sound, craft)
        and all(
            getattr(old, "open", False) == getattr(new, "open", False)
            for old, new in zip(sound.pieces, craft.pieces, strict=True)
        )
    )


def _parse(raw: bytes) -> dict[str, Any]:
    def refuse(word: str) -> float:
        raise JobFileErrors([JobError("", f"holds {word}, which is no number", "finite numbers")])

    def number(text: str) -> float:
        value = float(text)
        return refuse(text) if value in (float("inf"), float("-inf")) else value

    if len(raw) > MOST_BYTES:
        size = f"{len(raw) / 1e6:.0f} MB"
        raise JobFileErrors(
            [JobError("", f"the file is {size}", f"up to {MOST_BYTES / 1e6:.0f} MB")]
        )
    try:
        document = json.loads(
            raw.decode("utf-8-sig"), parse_constant=refuse, parse_float=number,
            object_pairs_hook=_once_each,
        )  # fmt: skip
    except UnicodeDecodeError:
        raise JobFileErrors([JobError("", "the file is not UTF-8 text", "a JSON file")]) from None
    except json.JSONDecodeError as broken:
        at = f"line {broken.lineno}, column {broken.colno}"
        raise JobFileErrors([JobError(at, "this is not JSON", "a job file as JSON")]) from None
    except RecursionError:
        raise JobFileErrors(
            [JobError("", "lists within lists without end", "a job file")]
        ) from None
    except ValueError:
        raise JobFileErrors([JobError("", "a number is too long", "finite numbers")]) from None
    if not isinstance(document, dict):
        raise JobFileErrors([JobError("", "the document is not an object", "a job file")])
    return document


def _once_each(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object whose keys stand once each: of two, nobody knows which is meant. A null says nothing."""
    made = dict(pairs)
    if len(made) < len(pairs):
        keys = [key for key, _ in pairs]
        twice = next(key for key in keys if keys.count(key) > 1)
        raise JobFileErrors([JobError(twice[:80], "stands twice in one object", "one each")])
    for key, value in made.items():
        if isinstance(value, str) and not value.isascii():
            _whole(key, value)
    return {key: value for key, value in made.items() if value is not None}


def _whole(key: str, text: str) -> None:
    try:
        text.encode()
    except UnicodeEncodeError:
        problem = JobError(key[:80], "holds half a character", "whole ones")
        raise JobFileErrors([problem]) from None


# To the core


def _to_core(model: JobFile, tables: Tables, to_size: bool) -> ReadJob:
    if model.nominal_v not in (12, 24, 48):
        raise JobFileErrors(
            [JobError("nominal_v", f"{model.nominal_v:g} is unknown", "12, 24 or 48")]
        )
    errors: list[JobError] = []
    made = next((r.taken_at for r in model.readings if r.taken_at), NOT_SAID_WHEN)
    given = model.revision_made or FileOwnRevision(made_at=made)
    own = Revision(
        id=model.revision,
        stage="as_found",
        parent=given.parent,
        action=given.action,
        summary=given.summary,
        who=given.who,
        made_at=given.made_at,
        folded=given.folded,
        craft=craft_of(model, model),
    )
    revisions = [own]
    errors += wiring_errors(model, own.craft, "", tables, to_size)
    crafts, parts = {own.id: own.craft}, len(own.craft.pieces)
    for i, later in enumerate(model.revisions):
        craft, wrong = craft_of_revision(model, i, crafts, tables, to_size)
        errors += wrong
        if craft is None:
            continue
        crafts.setdefault(later.id, craft)
        parts += len(craft.pieces)
        if parts > MOST_PARTS:
            problem = JobError("revisions", "hold too many pieces in all", f"up to {MOST_PARTS:,}")
            raise JobFileErrors([problem])
        revisions.append(
            Revision(
                id=later.id,
                stage=later.stage,
                parent=later.parent,
                action=later.action,
                summary=later.summary,
                who=later.who,
                made_at=later.made_at,
                folded=later.folded,
                craft=craft,
            )
        )
    errors += history_errors(model, revisions)
    errors += moment_errors(model, revisions)
    errors += reading_errors(model, revisions)
    errors += sign_off_errors(model, revisions)
    errors += log_errors(model)
    errors += photograph_errors(model, revisions)
    limits = model.limits or OwnLimits()
    if limits.set not in tables.limit_sets:
        errors.append(
            JobError("limits.set", f"there is no {limits.set}", ", ".join(tables.limit_sets))
        )
    sources = {source.id for source in own.craft.sources}
    errors += [
        JobError(f"source_checks.{name}", f"there is no source {name}", "an id of a source")
        for name in model.source_checks
        if name not in sources
    ]
    loads = {load.id for load in own.craft.loads}
    errors += [
        JobError(f"limits.loads.{name}", f"there is no load {name}", "an id of a load")
        for name in limits.loads
        if name not in loads
    ]
    if errors:
        raise JobFileErrors(errors)
    job = Job(
        id=model.id or "",
        title=model.title,
        made_at=model.made_at or "",
        craft_name=model.craft_name,
        customer=model.customer,
        complaint=model.complaint or Complaint(),
        limit_set=limits.set,
        own_limits=limits.loads,
        stock=tuple(model.stock or ()),
        source_checks={
            key: read.model_dump(exclude_none=True) for key, read in model.source_checks.items()
        },
    )
    heads = {stage: (head.at, head.tip) for stage, head in model.heads.items()}
    named = model.limits is not None and "set" in model.limits.model_fields_set
    return ReadJob(
        job,
        tuple(revisions),
        tuple(_said_in_full(model)),
        tuple(model.walk_notes),
        tuple(model.moments),
        tuple(model.trials),
        heads,
        sign_offs=tuple(model.sign_offs),
        logs=tuple(model.meter_logs),
        photographs=tuple(model.photographs),
        names_set=named,
    )


NOT_SAID_WHEN = "1970-01-01T00:00:00Z"
"""The time of a reading whose file does not say it."""


def _said_in_full(model: JobFile) -> Iterator[Reading]:
    """The readings with what a file may leave out: their moment's scenario, the file's own wiring."""
    moments = {m.id: m.scenario for m in model.moments}
    trials = {t.id: t.moment for t in model.trials}
    for read in model.readings:
        moment = read.moment or trials.get(read.trial or "")
        said = "" if read.value is None else f"{read.value:.12g}"
        yield replace(
            read,
            revision=read.revision or model.revision,
            moment=moment,
            scenario=read.scenario or moments.get(moment or "", model.scenarios[0].id),
            taken_at=read.taken_at or NOT_SAID_WHEN,
            typed=read.typed or said,
        )
