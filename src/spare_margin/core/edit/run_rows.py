"""Runs as rows of a table: what of a run stands in its row, and changes of a row made in the wiring.

A row says what serves its run alone: what it shares with others (a trunk, a main fuse) is not in it.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from spare_margin.core.circuit.runs import Run, Step
from spare_margin.core.model.pieces import (
    AnyPiece,
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Side,
    Size,
)

Cable = Literal["twin", "single", "body"]
"""Both wires in one cable; two wires; one wire, and the body for the way back."""
Cell = Literal[
    "load", "draws", "length", "cable", "size", "fuse", "joints", "panel", "critical",
]  # fmt: skip
CELLS: tuple[Cell, ...] = (
    "load", "draws", "length", "cable", "size", "fuse", "joints", "panel", "critical",
)  # fmt: skip
NEW_ONLY: frozenset[Cell] = frozenset({"joints", "panel"})
"""What a row says once, when its run is drawn; later the run itself is redrawn."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RunRow:
    """A run in a row.

    Args:
        load: the load.
        length_m: one way (m); of several wires one behind the other their sum; 0 where nobody knows it.
        cable: how its wires lie.
        sizes: the sizes of its own wires, each once; none where they are to be sized.
        fuses: its own fuses and breakers.
        joints: how many joints each of its wires has at each end; None where they differ.
        panel: the id of the point at which it begins.
        fixed: cells that the row cannot change: the run has none, or several of it, or is drawn so.
    """

    load: Load
    length_m: float
    cable: Cable
    sizes: tuple[Size, ...]
    fuses: tuple[FixedPiece, ...]
    joints: int | None
    panel: str
    fixed: frozenset[Cell]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowChange:
    """What of a row is otherwise; None leaves it. A size or a fuse `free` is to be chosen.

    Args:
        load: the load as it is now, its id and ends aside.
        length_m: one way (m).
        cable: twin or single.
        size: another size for all of its wires.
        free_size: whether they are to be sized.
        fuse: the fuse or breaker by what it is: kind, style and rating count.
    """

    load: Load | None = None
    length_m: float | None = None
    cable: Cable | None = None
    size: Size | None = None
    free_size: bool = False
    fuse: FixedPiece | None = None


def rows_of(craft: Craft, runs: Mapping[str, Run]) -> dict[str, RunRow]:
    """The row of every run, by the id of its load, in the order in which the loads were drawn.

    Args:
        craft: the wiring.
        runs: its runs, by load id.
    """
    passing = _passing(runs)
    return {
        load.id: _row(craft, runs[load.id], _own(craft, runs[load.id], passing))
        for load in craft.loads
        if load.id in runs
    }


def _passing(runs: Mapping[str, Run]) -> dict[str, set[str]]:
    out: dict[str, set[str]] = {}
    for key, run in runs.items():
        for step in run.steps():
            out.setdefault(step.piece.id, set()).add(key)
    return out


def _own(craft: Craft, run: Run, passing: Mapping[str, set[str]]) -> dict[Side, list[Step]]:
    """What serves the run alone, those in series with it aside, by side.

    A panel that has one run so far is a panel all the same: what leads there is its trunk.
    """
    string = set(run.string)
    feed, back = (
        [s for s in steps if passing[s.piece.id] <= string and s.load is None]
        for steps in (run.feed, run.back)
    )
    starts = [
        i for i, s in enumerate(feed)
        if craft.point(s.entry).name and s.entry != run.source.live
        and any(_is_fuse(each.piece) for each in feed[i:])
    ]  # fmt: skip
    if starts:
        feed = feed[starts[-1] :]
        wired = False
        for i, step in enumerate(back):
            wired = wired or isinstance(step.piece, Conductor)
            if wired and craft.point(step.exit).name and step.exit != run.source.back:
                back = back[: i + 1]
                break
    return {"feed": feed, "return": back}


def _is_fuse(piece: AnyPiece) -> bool:
    return isinstance(piece, FixedPiece) and piece.kind in ("fuse", "breaker")


def _row(craft: Craft, run: Run, own: Mapping[Side, Sequence[Step]]) -> RunRow:
    out, back = (_wires(own["feed"]), _wires(own["return"]))
    pieces = [s.piece for side in own.values() for s in side]
    fuses = tuple(p for p in pieces if isinstance(p, FixedPiece) and _is_fuse(p))
    fixed = set(NEW_ONLY)
    simple = len(out) == 1 and len(back) <= 1 and all(w.length_m == out[0].length_m for w in back)
    fixed |= set() if simple else {"length"}
    fixed |= set() if out else {"size"}
    fixed |= set() if len(fuses) == 1 else {"fuse"}
    fixed |= set() if len(out) == len(back) == 1 else {"cable"}
    if len(run.string) > 1:
        fixed |= {"draws"}
    sizes = dict.fromkeys(w.size for w in (*out, *back))
    panel = own["feed"][0].entry if own["feed"] else run.feed_terminal
    return RunRow(
        load=run.load,
        length_m=sum(w.length_m for w in out),
        cable=_cable(run, out, back),
        sizes=tuple(size for size in sizes if size is not None),
        fuses=fuses,
        joints=_each_end(pieces, len(out) + len(back)),
        panel=panel,
        fixed=frozenset(fixed),
    )


def _each_end(pieces: Sequence[AnyPiece], wires: int) -> int | None:
    """Joints by the ends of wires, a body path's own end among them."""
    joints = sum(isinstance(p, FixedPiece) and p.kind == "joint" for p in pieces)
    by_body = any(isinstance(p, FixedPiece) and p.kind == "body_return" for p in pieces)
    ends = 2 * wires + by_body
    return joints // ends if ends and joints % ends == 0 else None


def _wires(steps: Sequence[Step]) -> list[Conductor]:
    return [s.piece for s in steps if isinstance(s.piece, Conductor) and not s.beside]


def _cable(run: Run, out: Sequence[Conductor], back: Sequence[Conductor]) -> Cable:
    if out and back and out[0].cable and out[0].cable == back[0].cable:
        return "twin"
    by_body = any(
        isinstance(s.piece, FixedPiece) and s.piece.kind == "body_return" for s in run.back
    )
    return "body" if by_body and not back else "single"


def with_row(craft: Craft, runs: Mapping[str, Run], load_id: str, change: RowChange) -> Craft:
    """The craft with a row changed.

    Args:
        craft: the wiring.
        runs: its runs, by load id.
        load_id: the id of the row's load.
        change: what is otherwise.
    """
    passing = _passing(runs)
    run = runs[load_id]
    own = _own(craft, run, passing)
    wires = {w.id for side in own.values() for w in _wires(side)}
    mine = {s.piece.id for side in own.values() for s in side}
    cable = _cable_name(craft, run.load.name) if change.cable == "twin" else ""

    def changed(piece: AnyPiece) -> AnyPiece:
        if isinstance(piece, Conductor) and piece.id in wires:
            return _wire_changed(piece, change, cable)
        if isinstance(piece, FixedPiece) and change.fuse is not None:
            of = change.fuse
            if _is_fuse(piece) and piece.id in mine:
                return replace(
                    piece, kind=of.kind, style=of.style, rating_a=of.rating_a, resistance_ohm=None
                )
        return piece

    loads = craft.loads
    if change.load is not None:
        now = change.load
        loads = tuple(
            replace(now, id=x.id, start=x.start, end=x.end) if x.id == load_id else x for x in loads
        )
    return replace(craft, pieces=tuple(map(changed, craft.pieces)), loads=loads)


def _wire_changed(wire: Conductor, change: RowChange, cable: str) -> Conductor:
    if change.length_m is not None:
        wire = replace(wire, length_m=change.length_m)
    if change.cable is not None:
        wire = replace(wire, cable=cable)
    if change.free_size or change.size is not None:
        wire = replace(wire, size=change.size, ohm_per_m=None, resistance_ohm=None)
    return wire


def _cable_name(craft: Craft, name: str) -> str:
    taken = {p.cable for p in craft.pieces if isinstance(p, Conductor)}
    number = 1
    while (called := name if number == 1 else f"{name} {number}") in taken:
        number += 1
    return called


def back_of(craft: Craft, runs: Mapping[str, Run], panel: str) -> str:
    """The point to which runs from a panel come back; empty where nothing tells.

    That of most runs that begin there; of a panel without a run yet, the loose end of the return side.

    Args:
        craft: the wiring.
        runs: its runs, by load id.
        panel: the id of the point at which they begin.
    """
    passing = _passing(runs)
    counts: dict[str, int] = {}
    for run in runs.values():
        own = _own(craft, run, passing)
        if own["feed"] and own["feed"][0].entry == panel and own["return"]:
            last = own["return"][-1].exit
            counts[last] = counts.get(last, 0) + 1
    if counts:
        return max(counts, key=lambda key: counts[key])
    loose = {
        p.start for p in craft.pieces if p.side == "return" and craft.touching[p.start] == 1
    } | {p.end for p in craft.pieces if p.side == "return" and craft.touching[p.end] == 1}
    posts = {post for s in craft.sources for post in (s.live, s.back)}
    named = [p.id for p in craft.points if p.id in loose - posts]
    return named[-1] if named else ""
