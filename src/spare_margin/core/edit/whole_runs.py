"""Whole runs: a second one like it, or taken out with what served it alone."""

import re
from collections.abc import Iterable
from dataclasses import replace

from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    Craft,
    kind_of,
)

from .drawing import tidied
from .ids import PREFIXES, NewIds


def _own_pieces(craft: Craft, load_id: str) -> tuple[Run, set[str]]:
    """A run, and its pieces that no other run passes."""
    tracer = Tracer(craft, {})
    run = tracer.trace(craft.load(load_id))
    others: set[str] = set()
    for load in craft.loads:
        if load.id != load_id:
            try:
                others |= {s.piece.id for s in tracer.trace(load).steps()}
            except JobError:
                continue
    return run, {s.piece.id for s in run.steps()} - others


def run_taken_out(craft: Craft, load_id: str) -> Craft:
    """Without this load and the pieces that served it alone."""
    try:
        _, own = _own_pieces(craft, load_id)
    except JobError:
        own = set()
    return tidied(
        replace(
            craft,
            pieces=tuple(p for p in craft.pieces if p.id not in own),
            loads=tuple(x for x in craft.loads if x.id != load_id),
        ),
        {load_id},
    )


def run_copied(craft: Craft, load_id: str, also: Iterable[str] = ()) -> tuple[Craft, str]:
    """A second run like this one, from and to the points where it meets the others."""
    run, own = _own_pieces(craft, load_id)
    ids = NewIds(craft, also)
    inside = {p for s in run.steps() if s.piece.id in own for p in (s.entry, s.exit)}
    inside |= {run.load.start, run.load.end}
    outside = {p for q in craft.pieces if q.id not in own for p in (q.start, q.end)}
    outside |= {post for s in craft.sources for post in (s.live, s.back)}
    twin = {p: ids.next("p") for p in sorted(inside - outside)}
    name = _next_name(run.load.name, [x.name for x in craft.loads])
    points = [replace(craft.point(p), id=new, name="") for p, new in twin.items()]
    pieces = [
        replace(
            p,
            id=ids.next(PREFIXES[kind_of(p)]),
            start=twin.get(p.start, p.start),
            end=twin.get(p.end, p.end),
            repair=None,
        )
        for p in craft.pieces
        if p.id in own
    ]
    load = replace(
        run.load,
        id=ids.named(name),
        name=name,
        start=twin.get(run.load.start, run.load.start),
        end=twin.get(run.load.end, run.load.end),
    )
    made = replace(
        craft,
        points=(*craft.points, *points),
        pieces=(*craft.pieces, *pieces),
        loads=(*craft.loads, load),
        scenarios=tuple(
            replace(s, on=s.on | {load.id}) if load_id in s.on else s for s in craft.scenarios
        ),
    )
    return made, load.id


def _next_name(name: str, taken: list[str]) -> str:
    stem = re.sub(r" \d+$", "", name)
    number = 2
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"
