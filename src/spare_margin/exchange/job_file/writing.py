"""A job as a job file: the document that reads back as the same job."""

from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from spare_margin.core.model import pieces as core
from spare_margin.core.model.jobs import LogTrace, Moment
from spare_margin.exchange.job_file.differences import changes_document
from spare_margin.exchange.job_file.elements import (
    element_document,
    scenario_document,
    source_document,
    without_empty,
)
from spare_margin.exchange.job_file.job_file import FORMAT, VERSION, ReadJob
from spare_margin.exchange.job_file.own_rows import rows_document
from spare_margin.exchange.job_file.taken import FileNote, FileReading, FileSignOff


def write_job(read: ReadJob) -> dict[str, Any]:
    """The job file document of a job; reading it again gives the same job."""
    job, first = read.job, read.revisions[0]
    craft = first.craft
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        **without_empty(id=job.id, made_at=job.made_at),
        "title": job.title,
        **without_empty(craft_name=job.craft_name, customer=job.customer),
        "craft": craft.kind,
        "nominal_v": craft.nominal_v,
        "chassis_polarity": craft.polarity,
        "complaint": without_empty(
            what=job.complaint.what, when=job.complaint.when, conditions=job.complaint.conditions
        ),
        "limits": {
            "set": job.limit_set,
            "loads": {
                key: without_empty(
                    feed_v=c.feed_v, return_v=c.return_v, round_trip_v=c.round_trip_v
                )
                for key, c in job.own_limits.items()
            },
        },
        **_wiring(craft),
        "revision": first.id,
        "revision_made": without_empty(
            parent=first.parent,
            action=first.action,
            summary=first.summary,
            who=first.who,
            made_at=first.made_at,
            folded=first.folded or None,
        ),
    }
    if read.heads:
        document["heads"] = {
            stage: without_empty(at=at, tip=tip) for stage, (at, tip) in read.heads.items()
        }
    if job.source_checks:
        document["source_checks"] = {key: dict(read) for key, read in job.source_checks.items()}
    if job.stock:
        document["stock"] = list(job.stock)
    if read.rows:
        document["tables"] = rows_document(read.rows)
    if len(read.revisions) > 1:
        document["revisions"] = list(_revisions(read))
    return document | _measured(read)


def _revisions(read: ReadJob) -> Iterator[dict[str, Any]]:
    """The later revisions, each as its changes from its parent, or from the one above it."""
    last_named = {r.parent: i for i, r in enumerate(read.revisions)}
    known = {read.revisions[0].id: _wiring(read.revisions[0].craft)}
    above = read.revisions[0].id
    for i, r in enumerate(read.revisions[1:], 1):
        base = r.parent if r.parent in known else above
        whole = known[r.id] = _wiring(r.craft)
        changes = changes_document(known[base], whole, base)
        if last_named.get(above, 0) <= i:
            # Nobody below goes on from it: not all wirings of a long history are held at once.
            del known[above]
        yield without_empty(
            id=r.id,
            stage=r.stage,
            parent=r.parent,
            action=r.action,
            summary=r.summary,
            who=r.who,
            made_at=r.made_at,
            folded=r.folded or None,
            **({"wiring": whole} if changes is None else {"changes": changes}),
        )
        above = r.id


def _stand_in(moment: Moment) -> dict[str, Any] | None:
    held = moment.stand_in
    if held is None:
        return None
    return {"from": held.start, "to": held.end, "amperes": held.amperes}


def _measured(read: ReadJob) -> dict[str, Any]:
    """Everything that was read and said, list by list; empty lists are left out."""
    document: dict[str, Any] = {}
    if read.moments:
        document["moments"] = [
            without_empty(
                id=m.id, scenario=m.scenario, loads=dict(m.loads) or None, warm_min=m.warm_min,
                rpm=m.rpm, charging=m.charging, note=m.note, stand_in=_stand_in(m),
                contacts=dict(m.contacts) or None,
            )
            for m in read.moments
        ]  # fmt: skip
    if read.trials:
        document["trials"] = [
            {
                "id": t.id, "moment": t.moment, "kind": t.kind, "from": t.start, "to": t.end,
                **without_empty(
                    outcome=t.outcome, ohm=t.ohm, revision=t.revision, taken_at=t.taken_at, note=t.note,
                    who=t.who,
                ),
            }
            for t in read.trials
        ]  # fmt: skip
    if read.readings:
        document["readings"] = [
            without_empty(
                **{key: getattr(r, key) for key in FileReading.model_fields if key != "window"},
                window=None if r.window is None else asdict(r.window),
            )
            for r in read.readings
        ]
    if read.notes:
        document["walk_notes"] = [
            without_empty(**{key: getattr(n, key) for key in FileNote.model_fields})
            for n in read.notes
        ]
    if read.sign_offs:
        document["sign_offs"] = [
            {
                **without_empty(**{key: getattr(s, key) for key in FileSignOff.model_fields}),
                "strokes": [[list(point) for point in line] for line in s.strokes],
            }
            for s in read.sign_offs
        ]
    if read.logs:
        document["meter_logs"] = [_log(log) for log in read.logs]
    return document


def _log(log: LogTrace) -> dict[str, Any]:
    return {
        **without_empty(
            id=log.id, made_at=log.made_at, started_at=log.started_at, duration_s=log.duration_s,
            row_count=log.row_count,
        ),
        "name": log.name,
        "channels": [
            {"name": c.name, **without_empty(quantity=c.quantity, red=c.red, black=c.black)}
            for c in log.channels
        ],
        "seconds": list(log.seconds),
        "least": [list(x) for x in log.least],
        "most": [list(x) for x in log.most],
        "segments": [{"kind": k, "start_s": a, "end_s": b} for k, a, b in log.segments],
    }  # fmt: skip


def _wiring(craft: core.Craft) -> dict[str, Any]:
    return {
        "reference": craft.reference,
        "nodes": [without_empty(id=p.id, name=p.name, access=p.access) for p in craft.points],
        "sources": [source_document(s) for s in craft.sources],
        "elements": [element_document(e) for e in (*craft.pieces, *craft.loads)],
        "scenarios": [scenario_document(s, craft) for s in craft.scenarios],
    }
