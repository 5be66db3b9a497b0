"""The timeline of a job: everything that was ever done to it, who did it and when.

It is told from what is only ever added: wirings, readings, notes, signatures.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import groupby
from typing import Literal

from spare_margin.core.model.jobs import Reading, Revision, SignOff, Stage, Trial, WalkNote
from spare_margin.core.model.photographs import Photograph
from spare_margin.exchange.job_file.job_file import ReadJob

SITTING = timedelta(minutes=45)
"""Readings no further apart than this belong to one sitting."""
Code = Literal[
    "taken_in",
    "changed",
    "read",
    "tried",
    "noted",
    "skipped",
    "taken_up",
    "seen",
    "signed",
    "photographed",
]


@dataclass(frozen=True, slots=True)
class Event:
    """Something that was done: when (UTC, ISO 8601), by whom, on which stage; and what it is about."""

    at: str
    code: Code
    who: str = ""
    stage: Stage | None = None
    run: str = ""
    readings: tuple[Reading, ...] = ()
    notes: tuple[WalkNote, ...] = ()
    revision: Revision | None = None
    before: Revision | None = None
    signed: SignOff | None = field(default=None)
    tried: Trial | None = None
    photographs: tuple[Photograph, ...] = ()


def timeline(job: ReadJob) -> list[Event]:
    """Everything that was done to a job, the oldest first."""
    events = [Event(job.job.made_at, "taken_in")] if job.job.made_at else []
    events += [*_revisions(job.revisions), *_sittings(job), *_notes(job.notes)]
    events += [
        Event(s.made_at, "signed", s.name, "as_left", s.run, signed=s) for s in job.sign_offs
    ]
    stages = {r.id: r.stage for r in job.revisions}
    events += [
        Event(t.taken_at, "tried", t.who, stages.get(t.revision, "as_found"), tried=t)
        for t in job.trials
        if t.taken_at
    ]
    events += _photographed(job.photographs)
    return sorted(events, key=lambda each: each.at)


def _revisions(revisions: Iterable[Revision]) -> Iterator[Event]:
    every = list(revisions)
    by_id = {r.id: r for r in every}
    for each in every:
        before = by_id.get(each.parent or "")
        yield Event(each.made_at, "changed", each.who, each.stage, revision=each, before=before)


def _sittings(job: ReadJob) -> Iterator[Event]:
    """Readings of one stage by one person, together as long as no long pause lies between."""
    stages = {r.id: r.stage for r in job.revisions}
    held: dict[tuple[Stage, str], list[Reading]] = {}
    for reading in sorted(job.readings, key=lambda r: r.taken_at):
        key = stages[reading.revision], reading.who
        sitting = held.get(key)
        if sitting and _time(reading.taken_at) - _time(sitting[-1].taken_at) > SITTING:
            yield Event(sitting[0].taken_at, "read", key[1], key[0], readings=tuple(sitting))
            sitting = None
        held[key] = [*(sitting or []), reading]
    for (stage, who), sitting in held.items():
        yield Event(sitting[0].taken_at, "read", who, stage, readings=tuple(sitting))


def _notes(notes: Iterable[WalkNote]) -> Iterator[Event]:
    """Notes one after the other of one kind, run and person as one event."""
    codes: dict[str, Code] = {
        "acknowledged": "noted",
        "skipped": "skipped",
        "back": "taken_up",
        "seen": "seen",
    }
    for (stage, run, who, state), group in groupby(
        notes, key=lambda n: (n.stage, n.run, n.who, n.state)
    ):
        same = tuple(group)
        yield Event(same[0].made_at, codes[state], who, stage, run, notes=same)


def _photographed(photographs: Iterable[Photograph]) -> Iterator[Event]:
    """Photographs one after the other of one stage by one person as one event."""
    for (stage, who), group in groupby(photographs, key=lambda p: (p.stage, p.who)):
        same = tuple(group)
        yield Event(same[0].taken_at, "photographed", who, stage, photographs=same)


def _time(text: str) -> datetime:
    return datetime.fromisoformat(text.replace("Z", "+00:00"))
