"""Whole runs: a second one like it, or taken out with what served it alone.

Loads in series are one run: they are copied, and taken out, together.
"""

import re
from collections.abc import Iterable
from dataclasses import replace

from spare_margin.core.circuit.runs import Run, Tracer
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Craft, Load

from .drawing import tidied
from .ids import PREFIXES, NewIds


def _own_pieces(craft: Craft, load_id: str) -> tuple[Run, set[str]]:
    """A run, and its pieces that no other run passes."""
    tracer = Tracer(craft, {})
    run = tracer.trace(craft.load(load_id))
    others: set[str] = set()
    for load in craft.loads:
        if load.id not in run.string:
            try:
                others |= {s.piece.id for s in tracer.trace(load).steps()}
            except JobError:
                continue
    return run, {s.piece.id for s in run.steps()} - others


def run_taken_out(craft: Craft, load_id: str) -> Craft:
    """Without this load, those in series with it, and the pieces that served them alone.

    Args:
        craft: the wiring.
        load_id: the id of the load.
    """
    try:
        run, own = _own_pieces(craft, load_id)
        loads = set(run.string)
    except JobError:
        own, loads = set(), {load_id}
    return tidied(
        replace(
            craft,
            pieces=tuple(p for p in craft.pieces if p.id not in own),
            loads=tuple(x for x in craft.loads if x.id not in loads),
        ),
        loads,
    )


def run_copied(craft: Craft, load_id: str, also: Iterable[str] = ()) -> tuple[Craft, str]:
    """A second run like this one, from and to the points where it meets the others.

    Args:
        craft: the wiring.
        load_id: the id of the load.
        also: ids that are taken elsewhere, and not given again.
    """
    run, own = _own_pieces(craft, load_id)
    ids = NewIds(craft, also)
    inside = {p for s in run.steps() if s.piece.id in own for p in (s.entry, s.exit)}
    string = [craft.load(key) for key in run.string]
    inside |= {p for load in string for p in (load.start, load.end)}
    outside = {p for q in craft.pieces if q.id not in own for p in (q.start, q.end)}
    outside |= {post for s in craft.sources for post in (s.live, s.back)}
    twin = {p: ids.next("p") for p in sorted(inside - outside)}
    points = [replace(craft.point(p), id=new, name="") for p, new in twin.items()]
    pieces = [
        replace(
            p,
            id=ids.next(PREFIXES[p.kind]),
            start=twin.get(p.start, p.start),
            end=twin.get(p.end, p.end),
            repair=None,
        )
        for p in craft.pieces
        if p.id in own
    ]
    taken = [x.name for x in craft.loads]
    copies: dict[str, Load] = {}
    for load in string:
        name = _next_name(load.name, taken)
        taken.append(name)
        copies[load.id] = replace(
            load, id=ids.named(name), name=name, start=twin.get(load.start, load.start),
            end=twin.get(load.end, load.end),
        )  # fmt: skip
    made = replace(
        craft,
        points=(*craft.points, *points),
        pieces=(*craft.pieces, *pieces),
        loads=(*craft.loads, *copies.values()),
        scenarios=tuple(
            replace(s, on=s.on | {copies[key].id for key in s.on & copies.keys()})
            for s in craft.scenarios
        ),
    )
    return made, copies[load_id].id


def _next_name(name: str, taken: list[str]) -> str:
    stem = re.sub(r" \d+$", "", name)
    number = 2
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"
