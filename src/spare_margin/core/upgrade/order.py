"""The work order of a plan: what is done in which order, what it takes, what must be read afterwards."""

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from spare_margin.core.circuit.runs import Held, Run
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Repair, Size, undrawn
from spare_margin.core.model.stock import Relay
from spare_margin.core.model.tables import Tables
from spare_margin.core.proof.points import proof_points
from spare_margin.core.protection.fuses import KINDS
from spare_margin.core.walk.walk import Measurement

from .parts import PartLine, cut_m, mended, new_bars, new_relays, parts_of, what_lies

StepCode = Literal[
    "isolate", "look", "clean", "remake", "replace", "take_out", "run_wire", "replace_wire",
    "new_joint", "fit_holder", "fit_bar", "fit_relay", "move_load", "old_wire_to_coil",
    "fuse_in", "reconnect", "seal", "other_fuse",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class OrderStep:
    """One thing to do; `id` stays the same as long as the plan does, so that it can be ticked.

    `place` is the id of the point at which the runs begin that the piece serves; empty where it serves all.
    """

    code: StepCode
    piece: str = ""
    facts: Mapping[str, float | str] = field(default_factory=dict)
    size: Size | None = None
    place: str = ""

    @property
    def id(self) -> str:
        """What it is ticked by."""
        return f"order.{self.code}.{self.piece}" if self.piece else f"order.{self.code}"


@dataclass(frozen=True, slots=True)
class ExpectedReading:
    """A reading to take afterwards, and what it should show (V, or A for a current; None: not known)."""

    measurement: Measurement
    expected: float | None


@dataclass(frozen=True)
class WorkOrder:
    """Steps in the order of doing, parts, and the readings that then prove it."""

    steps: tuple[OrderStep, ...]
    parts: tuple[PartLine, ...]
    readings: tuple[ExpectedReading, ...]
    relays: Mapping[str, Relay]

    @property
    def price(self) -> float | None:
        """What the parts cost; None where a price is not known."""
        prices = [line.price for line in self.parts]
        return None if None in prices else float(sum(p for p in prices if p is not None))

    @property
    def minutes(self) -> float:
        """How long it takes."""
        return sum(line.minutes for line in self.parts)

    @property
    def copper_kg(self) -> float:
        """New copper."""
        return sum(line.copper_kg for line in self.parts)


def work_order(
    before: Craft,
    after: Craft,
    run: Run,
    solution: Solution,
    tables: Tables,
    read: Iterable[tuple[str, str]] = (),
    places: Mapping[str, str] | None = None,
    unread: Collection[Held] = (),
) -> WorkOrder:
    """The order that makes the planned wiring of the one that was found.

    Args:
        run: the run that is put right, in the planned wiring.
        solution: the planned wiring, with what was measured of what it keeps, solved with the run on.
        read: pairs of points that were read as found, to be read again.
        unread: what of the run nothing can be said of before it is read.
        places: by piece, the id of the point at which its run begins; what is fitted goes place by place.
        before: the wiring as it was.
        after: the wiring as it is now.
        tables: the reference tables.
    """
    before = what_lies(before)
    relays = new_relays(before, after, tables)
    steps = tuple(_by_place(_steps(before, after, relays), places or {}))
    return WorkOrder(
        steps,
        parts_of(before, after, tables),
        expected_readings(proof_points(before, after, run, read), run, solution, unread),
        relays,
    )


FITTED: tuple[StepCode, ...] = (
    "take_out", "replace_wire", "other_fuse", "fit_bar", "run_wire", "new_joint", "fit_holder",
)  # fmt: skip


def _by_place(steps: Iterable[OrderStep], places: Mapping[str, str]) -> Iterator[OrderStep]:
    """What is taken out and fitted place by place, in the order in which the places come first."""
    placed = [replace(step, place=places.get(step.piece, "")) for step in steps]
    order = list(dict.fromkeys(s.place for s in placed if s.code in FITTED))
    fitted = sorted((s for s in placed if s.code in FITTED), key=lambda s: order.index(s.place))
    first = next((i for i, s in enumerate(placed) if s.code in FITTED), len(placed))
    yield from placed[:first]
    yield from fitted
    yield from (s for s in placed[first:] if s.code not in FITTED)


DONE: Mapping[Repair, StepCode] = {"cleaned": "clean", "remade": "remake", "replaced": "replace"}


def _steps(before: Craft, after: Craft, relays: Mapping[str, Relay]) -> Iterator[OrderStep]:
    """What is mended first, then what is taken out and replaced, what is new, what changes its place."""
    yield OrderStep("isolate")
    for key, how in mended(before, after).items():
        yield OrderStep("look", key)
        yield OrderStep(DONE[how], key)
    yield from _old_work(before, after)
    new = [p for p in after.pieces if p.id not in {q.id for q in before.pieces}]
    for bar in new_bars(before, after):
        yield OrderStep("fit_bar", bar)
    for piece in new:
        yield from _new_work(piece)
    for coil in relays:
        yield OrderStep("old_wire_to_coil", coil)
    was = {x.id: (x.start, x.end) for x in before.loads}
    for load in after.loads:
        if was.get(load.id, (load.start, load.end)) != (load.start, load.end):
            yield OrderStep("move_load", load.id)
    for piece in new:
        if isinstance(piece, FixedPiece) and piece.kind == "fuse":
            yield OrderStep("fuse_in", piece.id, {"rating": piece.rating_a or 0.0})
    yield OrderStep("reconnect")
    yield OrderStep("seal")


def _old_work(before: Craft, after: Craft) -> Iterator[OrderStep]:
    """What goes, and wires that others stand in for."""
    kept = {p.id: p for p in after.pieces}
    for piece in before.pieces:
        now = kept.get(piece.id)
        if now is None:
            yield OrderStep("take_out", piece.id)
        elif isinstance(piece, Conductor) and isinstance(now, Conductor) and now.size != piece.size:
            yield OrderStep("replace_wire", now.id, {"metres": cut_m(now.length_m)}, now.size)
        elif isinstance(now, FixedPiece) and _other_rating(piece, now):
            yield OrderStep("other_fuse", now.id, {"rating": now.rating_a or 0.0})


def _other_rating(piece: Conductor | FixedPiece, now: FixedPiece) -> bool:
    """Whether a fuse or breaker that lies there gets another rating."""
    if not isinstance(piece, FixedPiece) or piece.kind not in KINDS:
        return False
    return now.rating_a not in (None, piece.rating_a)


def _new_work(piece: Conductor | FixedPiece) -> Iterator[OrderStep]:
    """How a new piece is fitted."""
    if isinstance(piece, Conductor):
        yield OrderStep("run_wire", piece.id, {"metres": cut_m(piece.length_m)}, piece.size)
    elif piece.kind == "joint":
        yield OrderStep("new_joint", piece.id)
    elif piece.kind in ("fuse", "breaker"):
        yield OrderStep("fit_holder", piece.id, {"rating": piece.rating_a or 0.0})
    elif piece.kind == "relay_contact":
        yield OrderStep("fit_relay", piece.id)


def expected_readings(
    points: Iterable[Measurement], run: Run, solution: Solution, unread: Collection[Held] = ()
) -> tuple[ExpectedReading, ...]:
    """What measurements should show in a wiring solved with the run on.

    Args:
        points: the measurements.
        solution: volts by point and the state of every element, as solved.
        unread: what of the run nothing can be said of before it is read.
    """
    guessed = {s.piece.id for s in run.steps() if undrawn(s.piece)}

    def expected(each: Measurement) -> float | None:
        way = run.between(each.red, each.black)
        if each.kind == "load" and unread:
            return None
        if way and way.side in unread and guessed.intersection(way.pieces):
            return None
        if each.kind == "current":
            return abs(solution.elements.current_a(run.load.id))
        return solution.volts(each.red, each.black) or 0.0

    return tuple(ExpectedReading(each, expected(each)) for each in points)
