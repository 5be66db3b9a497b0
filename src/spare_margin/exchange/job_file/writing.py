"""A job as a job file: the document that reads back as the same job."""

import json
from collections.abc import Iterator
from typing import Any

from spare_margin.core.model import pieces as core
from spare_margin.exchange.job_file.differences import changes_document
from spare_margin.exchange.job_file.elements import (
    element_document,
    scenario_document,
    without_empty,
)
from spare_margin.exchange.job_file.job_file import FORMAT, VERSION, ReadJob
from spare_margin.exchange.job_file.own_rows import rows_document
from spare_margin.exchange.job_file.records import document_of


def file_text(document: object) -> str:
    """A document as this program writes it."""
    return json.dumps(document, indent=1, allow_nan=False) + "\n"


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
        "complaint": document_of(job.complaint),
        "limits": {
            "set": job.limit_set,
            "loads": {key: document_of(each) for key, each in job.own_limits.items()},
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


def _measured(read: ReadJob) -> dict[str, Any]:
    """Everything that was read and said, list by list; empty lists are left out."""
    lists: dict[str, tuple[Any, ...]] = {
        "moments": read.moments,
        "trials": read.trials,
        "readings": read.readings,
        "walk_notes": read.notes,
        "sign_offs": read.sign_offs,
        "meter_logs": read.logs,
        "photographs": read.photographs,
    }
    return {key: [document_of(each) for each in held] for key, held in lists.items() if held}


def _wiring(craft: core.Craft) -> dict[str, Any]:
    return {
        "reference": craft.reference,
        "nodes": [document_of(p) for p in craft.points],
        "sources": [document_of(s) for s in craft.sources],
        "elements": [element_document(e) for e in (*craft.pieces, *craft.loads)],
        "scenarios": [scenario_document(s, craft) for s in craft.scenarios],
    }
