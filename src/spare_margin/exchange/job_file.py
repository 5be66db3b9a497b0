"""Job files in and out: bytes to the core's values, and back to a document."""

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from spare_margin.core import pieces as core
from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.core.jobs import Complaint, Job, Reading, Revision, WalkNote
from spare_margin.core.limits import Ceilings
from spare_margin.core.soundness import naming_troubles, network_troubles, resistance_trouble
from spare_margin.core.tables import Tables

from .file_models import (
    ELEMENT,
    AnyElement,
    Conductor,
    FileComplaint,
    FileNote,
    FileReading,
    JobFile,
    Load,
    OwnLimits,
    Scenario,
    Source,
    Wiring,
)
from .plain_words import plain_words

FORMAT, VERSION = "spare-margin-job", 1
MOST_BYTES = 8_000_000
"""A job of 10,000 pieces is about 2 MB; anything far above is not a job file."""


@dataclass(frozen=True, slots=True)
class ReadJob:
    """A job file as core values. The first revision is the file's own wiring, as found."""

    job: Job
    revisions: tuple[Revision, ...]
    readings: tuple[Reading, ...]
    notes: tuple[WalkNote, ...] = ()

    @property
    def craft(self) -> core.Craft:
        """The wiring as found."""
        return self.revisions[0].craft


class JobFileErrors(SpareMarginError):
    """Everything found wrong with one job file, in the order of the file."""

    def __init__(self, errors: Iterable[JobError]) -> None:
        self.errors = list(errors)
        super().__init__(self.errors[0].sentence())


def read_job(raw: bytes, tables: Tables) -> ReadJob:
    """A job from the bytes of a job file.

    Raises JobFileErrors for anything that keeps it from being read. The network itself is not
    judged here; see `judge`.
    """
    document = _parse(raw)
    if document.get("format") != FORMAT:
        raise JobFileErrors([JobError("format", "this is not a job file", f'"{FORMAT}"')])
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise JobFileErrors(
            [JobError("version", f"{version} is newer than this program knows", f"{VERSION}")]
        )
    try:
        model = JobFile.model_validate(document)
    except ValidationError as invalid:
        raise JobFileErrors(_plain(invalid, document)) from None
    return _to_core(model, tables)


def judge(read: ReadJob, tables: Tables) -> list[JobError]:
    """What is wrong with the networks of a job, by the file's own paths; empty if nothing is."""
    out = []
    for number, revision in enumerate(read.revisions):
        prefix = f"revisions[{number - 1}].wiring." if number else ""
        for trouble in network_troubles(revision.craft, tables):
            if isinstance(trouble, JobError):
                at = prefix + _indexed(trouble.path, revision.craft)
                out.append(JobError(at, trouble.problem, trouble.accepted))
            else:
                out.append(JobError(f"{prefix}elements", str(trouble), "a load its loop can feed"))
    return out


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
        document = json.loads(raw.decode("utf-8-sig"), parse_constant=refuse, parse_float=number)
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


def _plain(invalid: ValidationError, document: dict[str, Any]) -> list[JobError]:
    return [
        JobError(_path(e["loc"], document), *plain_words(e))
        for e in invalid.errors(include_url=False)[:50]
    ]


def _path(loc: tuple[int | str, ...], document: Any) -> str:
    """A pydantic location as elements[3].length_m, without the names of union branches."""
    out, here = "", document
    for part in loc:
        if isinstance(part, int):
            out += f"[{part}]"
            here = here[part] if isinstance(here, list) and part < len(here) else None
            continue
        if isinstance(here, dict) and part == here.get("kind") and part not in here:
            continue
        if part == "[key]":
            continue
        out += f".{part}" if out else part
        here = here.get(part) if isinstance(here, dict) else None
    return out


def _indexed(path: str, craft: core.Craft) -> str:
    """`elements.w1.size` as the file has it: `elements[4].size`; ids hold no position there."""
    head, _, rest = path.partition(".")
    order = {
        "nodes": [p.id for p in craft.points],
        "sources": [s.id for s in craft.sources],
        "scenarios": [s.id for s in craft.scenarios],
    }
    for i, name in enumerate(order.get(head, [])):
        if rest == name or rest.startswith(f"{name}."):
            return f"{head}[{i}]{rest[len(name) :]}"
    return path


# To the core


def _to_core(model: JobFile, tables: Tables) -> ReadJob:
    if model.nominal_v not in (12, 24, 48):
        raise JobFileErrors(
            [JobError("nominal_v", f"{model.nominal_v:g} is unknown", "12, 24 or 48")]
        )
    errors: list[JobError] = []
    made = model.readings[0].taken_at if model.readings else "1970-01-01T00:00:00Z"
    own = Revision(
        id=model.revision,
        stage="as_found",
        parent=None,
        summary="Imported",
        made_at=made,
        craft=craft_of(model, model),
    )
    revisions = [own]
    errors += _wiring_errors(model, own.craft, "", tables)
    for i, later in enumerate(model.revisions):
        craft = craft_of(model, later.wiring)
        errors += _wiring_errors(later.wiring, craft, f"revisions[{i}].wiring.", tables)
        revisions.append(
            Revision(
                id=later.id,
                stage=later.stage,
                parent=later.parent,
                summary=later.summary,
                made_at=later.made_at,
                craft=craft,
            )
        )
    errors += _reading_errors(model, revisions)
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
    complaint = model.complaint or FileComplaint()
    job = Job(
        id="",
        title=model.title,
        complaint=Complaint(complaint.what, complaint.when, complaint.conditions),
        limit_set=limits.set,
        own_limits={
            key: Ceilings(c.feed_v, c.return_v, c.round_trip_v) for key, c in limits.loads.items()
        },
        stock=tuple(model.stock or ()),
        source_checks={
            key: read.model_dump(exclude_none=True) for key, read in model.source_checks.items()
        },
    )
    readings = tuple(Reading(**r.model_dump()) for r in model.readings)
    notes = tuple(WalkNote(**n.model_dump()) for n in model.walk_notes)
    return ReadJob(job, tuple(revisions), readings, notes)


def craft_of(job: JobFile, wiring: Wiring) -> core.Craft:
    """The core's craft for one wiring of a job file."""
    made = [_element(element) for element in wiring.elements]
    return core.Craft(
        kind=job.craft,
        nominal_v=job.nominal_v,
        polarity=job.chassis_polarity,
        reference=wiring.reference or wiring.sources[0].back,
        points=tuple(core.TestPoint(id=n.id, name=n.name, access=n.access) for n in wiring.nodes),
        sources=tuple(
            core.Source(**{**s.model_dump(), "name": s.name or s.id}) for s in wiring.sources
        ),
        pieces=tuple(e for e in made if not isinstance(e, core.Load)),
        loads=tuple(e for e in made if isinstance(e, core.Load)),
        scenarios=tuple(map(scenario_of, wiring.scenarios)),
    )


def scenario_of(model: Scenario) -> core.Scenario:
    """The core's scenario for one of a job file."""
    return core.Scenario(
        id=model.id,
        name=model.name or model.id,
        on=frozenset(model.on),
        sources={
            key: core.SourceState(state.open_circuit_v, state.internal_ohm)
            for key, state in model.sources.items()
        },
        ambient_c=model.ambient_c,
        temperature_model=model.temperature_model,
        starting=frozenset(model.starting),
        engine_c=model.engine_c,
    )


CoreElement = core.Conductor | core.FixedPiece | core.Load


def _element(element: AnyElement) -> CoreElement:
    given = element.model_dump(exclude={"kind", "size", "side"}, exclude_none=True)
    if isinstance(element, Load):
        ohm = given.pop("resistance_ohm", None)
        return core.Load(**{**given, "name": element.name or element.id, "load_ohm": ohm})
    if isinstance(element, Conductor):
        size = core.Size(**element.size.model_dump()) if element.size else None
        return core.Conductor(**given, side=element.side, size=size)
    return core.FixedPiece(**given, side=element.side, kind=element.kind)


def read_element(document: dict[str, Any], tables: Tables) -> CoreElement:
    """One element from its part of a job file document. JobError names the key that is wrong."""
    try:
        model = ELEMENT.validate_python(document)
    except ValidationError as invalid:
        raise _plain(invalid, document)[0] from None
    element = _element(model)
    troubles = (
        list(_load_troubles(model))
        if isinstance(model, Load)
        else [resistance_trouble(element, tables)]  # type: ignore[arg-type]
    )
    for trouble in filter(None, troubles):
        key = trouble.path.removeprefix(f"elements.{element.id}").lstrip(".")
        raise JobError(key, trouble.problem, trouble.accepted)
    return element


def element_document(element: CoreElement) -> dict[str, Any]:
    """One element's part of a job file document."""
    return _load(element) if isinstance(element, core.Load) else _piece(element)


def read_source(document: dict[str, Any], tables: Tables) -> core.Source:
    """One source from its part of a job file document. JobError names the key that is wrong."""
    try:
        return core.Source(**Source.model_validate(document).model_dump())
    except ValidationError as invalid:
        raise _plain(invalid, document)[0] from None


def source_document(source: core.Source) -> dict[str, Any]:
    """One source's part of a job file document."""
    return {
        "id": source.id,
        "name": source.name,
        "live": source.live,
        "return": source.back,
        "open_circuit_v": source.open_circuit_v,
        "internal_ohm": source.internal_ohm,
        **({} if source.battery == "none" else {"battery": source.battery}),
        **_given(capacity_ah=source.capacity_ah),
    }


def _wiring_errors(
    wiring: Wiring, craft: core.Craft, prefix: str, tables: Tables
) -> list[JobError]:
    place = {element.id: i for i, element in enumerate(wiring.elements)}
    found = list(naming_troubles(craft))
    for piece in craft.pieces:
        if trouble := resistance_trouble(piece, tables):
            found.append(trouble)
    found += [t for e in wiring.elements if isinstance(e, Load) for t in _load_troubles(e)]
    out = []
    for error in found:
        path = _indexed(error.path, craft)
        head, _, rest = path.partition(".")
        name = next((n for n in place if rest == n or rest.startswith(f"{n}.")), None)
        if head == "elements" and name is not None:
            path = f"elements[{place[name]}]{rest[len(name) :]}"
        out.append(JobError(prefix + path, error.problem, error.accepted))
    return out


LOAD_NEEDS: dict[core.LoadLaw, tuple[str, ...]] = {
    "constant_current": ("current_a",),
    "constant_resistance": ("power_w", "rated_v"),
    "constant_power": ("power_w",),
    "filament": ("power_w", "rated_v"),
}


def _load_troubles(load: Load) -> Iterable[JobError]:
    if load.resistance_ohm is not None:
        return
    for key in LOAD_NEEDS[load.behaviour]:
        if getattr(load, key) is None:
            needs = " and ".join(LOAD_NEEDS[load.behaviour])
            yield JobError(
                f"elements.{load.id}.{key}", "is missing", f"{load.behaviour} needs {needs}"
            )


def _reading_errors(model: JobFile, revisions: list[Revision]) -> Iterable[JobError]:
    by_id = {r.id: r.craft for r in revisions}
    if len(by_id) != len(revisions):
        yield JobError("revisions", "an id stands twice", "one each")
    points = {key: {p.id for p in craft.points} for key, craft in by_id.items()}
    seen: set[str] = set()
    for i, reading in enumerate(model.readings):
        at = f"readings[{i}]"
        if reading.id in seen:
            yield JobError(f"{at}.id", f"the id {reading.id} stands twice", "one each")
        if reading.revision not in by_id:
            yield JobError(
                f"{at}.revision", f"there is no {reading.revision}", "an id from revisions"
            )
            continue
        for key in ("red", "black"):
            if getattr(reading, key) not in points[reading.revision]:
                yield JobError(
                    f"{at}.{key}", f"there is no {getattr(reading, key)}", "an id from nodes"
                )
        if reading.scenario not in {s.id for s in by_id[reading.revision].scenarios}:
            yield JobError(
                f"{at}.scenario", f"there is no {reading.scenario}", "an id from scenarios"
            )
        if reading.supersedes is not None and reading.supersedes not in seen:
            yield JobError(f"{at}.supersedes", "names no earlier reading", "an id of one above it")
        if (reading.state == "value") != (reading.value is not None):
            yield JobError(
                f"{at}.value", f"does not go with state {reading.state}", "both or neither"
            )
        seen.add(reading.id)


# From the core


def write_job(read: ReadJob) -> dict[str, Any]:
    """The job file document of a job; reading it again gives the same job."""
    job, first = read.job, read.revisions[0]
    craft = first.craft
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "title": job.title,
        "craft": craft.kind,
        "nominal_v": craft.nominal_v,
        "chassis_polarity": craft.polarity,
        "complaint": _given(
            what=job.complaint.what, when=job.complaint.when, conditions=job.complaint.conditions
        ),
        "limits": {
            "set": job.limit_set,
            "loads": {
                key: _given(feed_v=c.feed_v, return_v=c.return_v, round_trip_v=c.round_trip_v)
                for key, c in job.own_limits.items()
            },
        },
        **_wiring(craft),
        "revision": first.id,
    }
    if job.source_checks:
        document["source_checks"] = {key: dict(read) for key, read in job.source_checks.items()}
    if job.stock:
        document["stock"] = list(job.stock)
    if len(read.revisions) > 1:
        document["revisions"] = [
            _given(
                id=r.id,
                stage=r.stage,
                parent=r.parent,
                summary=r.summary,
                made_at=r.made_at,
                wiring=_wiring(r.craft),
            )
            for r in read.revisions[1:]
        ]
    if read.readings:
        document["readings"] = [
            _given(**{key: getattr(r, key) for key in FileReading.model_fields})
            for r in read.readings
        ]
    if read.notes:
        document["walk_notes"] = [
            _given(**{key: getattr(n, key) for key in FileNote.model_fields}) for n in read.notes
        ]
    return document


def _given(**values: Any) -> dict[str, Any]:
    return {key: value for key, value in values.items() if value is not None and value != ""}


def _wiring(craft: core.Craft) -> dict[str, Any]:
    return {
        "reference": craft.reference,
        "nodes": [_given(id=p.id, name=p.name, access=p.access) for p in craft.points],
        "sources": [source_document(s) for s in craft.sources],
        "elements": [*map(_piece, craft.pieces), *map(_load, craft.loads)],
        "scenarios": [scenario_document(s, craft) for s in craft.scenarios],
    }


def scenario_document(s: core.Scenario, craft: core.Craft) -> dict[str, Any]:
    """One scenario's part of a job file document."""
    starting = [load.id for load in craft.loads if load.id in s.starting]
    return {
        "id": s.id,
        "name": s.name,
        "sources": {
            key: _given(open_circuit_v=v.open_circuit_v, internal_ohm=v.internal_ohm)
            for key, v in s.sources.items()
        },
        "on": [load.id for load in craft.loads if load.id in s.on],
        "ambient_c": s.ambient_c,
        "temperature_model": s.temperature_model,
        **_given(starting=starting or None, engine_c=s.engine_c),
    }


def _piece(piece: core.Conductor | core.FixedPiece) -> dict[str, Any]:
    common = _given(
        id=piece.id,
        name=piece.name,
        start=piece.start,
        end=piece.end,
        side=piece.side,
        resistance_ohm=piece.resistance_ohm,
        open=piece.open or None,
        repair=piece.repair,
        pinned_v=piece.pinned_v,
    )
    common["from"], common["to"] = common.pop("start"), common.pop("end")
    if isinstance(piece, core.FixedPiece):
        return {**common, "kind": piece.kind, **_given(style=piece.style, rating_a=piece.rating_a)}
    size = piece.size and {
        "system": piece.size.system,
        "value": piece.size.value,
        "finish": piece.size.finish,
    }
    return {
        **common,
        "kind": "conductor",
        **_given(
            length_m=piece.length_m or None,
            size=size,
            ohm_per_m=piece.ohm_per_m,
            insulation_c=piece.insulation_c,
            temperature_c=piece.temperature_c,
            engine_space=piece.engine_space or None,
        ),
    }


def _load(load: core.Load) -> dict[str, Any]:
    return {
        "id": load.id,
        "name": load.name,
        "from": load.start,
        "to": load.end,
        "kind": "load",
        **_given(
            behaviour=load.behaviour,
            current_a=load.current_a,
            resistance_ohm=load.load_ohm,
            power_w=load.power_w,
            rated_v=load.rated_v,
            start_multiple=load.start_multiple,
            least_v=load.least_v,
            duty=load.duty,
            critical=load.critical or None,
        ),
    }
