"""Candidates for a run: each offer as a whole wiring, worked out.

Every candidate starts from the craft as measured. What it does not touch keeps its measured ohms, so that
one that leaves the guilty piece in place is seen to fail.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Held, Run, open_parts
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.evidence.outlook.as_measured import Measured
from spare_margin.core.evidence.verdict.planned import DOUBTED, kept_elements, of_kept
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.core.protection.fuses import fuses_of
from spare_margin.core.sizing.options import cables, in_stock, strong_enough
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.sizing import Sizing, Unsizable, size_conductors
from spare_margin.core.sizing.task import Task

from .bench import Bench, BenchState, least_spares
from .making import moved
from .moves import Moved, helped
from .offers import NotOffered, Offer
from .parts import PartLine, parts_of

EFFORT_S = 1.0
"""Of one candidate: a bench has a dozen, and somebody waits (s)."""
STARTS = 2
"""Sizings from as many starts, of which the least counts."""
TOLD_V = 0.005
"""Another run that gains or loses less than this is not told of."""


@dataclass(frozen=True)
class Candidate:
    """One way to put a run right, worked out.

    Attributes:
        offer: what it does.
        craft: the whole wiring that it plans.
        sizes: the sizes chosen for new and thicker conductors.
        now: the run as it would be.
        others: other runs it makes better or worse: least spare (V) before and after, by load id.
        left_in: probability that the fault is in a piece it keeps, by element.
        doubt_v: how far what is new may stand off its tables (one sigma, V) where least is spare.
        pull_in: for a relay, the least volts its coil gets, and those it wants hot.
        proven: whether no less copper would do.
        unread: what nothing can be said of then: what is not known of it stays in.
    """

    offer: Offer
    craft: Craft
    sizes: Mapping[str, Size]
    made: Moved
    now: BenchState
    others: Mapping[str, tuple[float, float]]
    left_in: Mapping[str, float]
    holds: bool
    parts: tuple[PartLine, ...]
    pull_in: tuple[float, float] | None = None
    proven: bool = True
    doubt_v: float = 0.0
    unread: frozenset[Held] = frozenset()

    @property
    def price(self) -> float | None:
        """What its parts cost; None where a price is not known."""
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


def worked(bench: Bench, offer: Offer) -> Candidate:
    """A candidate worked out. JobError where nothing in stock can build it.

    Args:
        bench: what is put right, and what it is held to.
        offer: what is offered.
    """
    made = moved(bench.craft, bench.runs, bench.load_id, offer.moves, bench.also)
    options = _options(bench, made, helped(bench.load_id, offer.moves))
    kept = kept_elements(bench.craft, made.craft)
    ceilings = {
        key: bench.limits.ceilings(bench.craft.load(key), bench.craft.nominal_v)
        for key in helped(bench.load_id, offer.moves)
    }
    if made.coil:
        ceilings[made.coil] = Ceilings()
    rows = bench.tables.conductors.rows
    task = Task(
        made.craft, bench.tables, options,
        lambda wire, size: 0.0 if size == wire.size else rows[size].area_mm2,
        ceilings, tied=cables(made.craft.pieces), starts=STARTS, point=of_kept(bench.point, kept),
        near=bench.traced,
    )  # fmt: skip
    try:
        found: Sizing | None = size_conductors(task, Effort(EFFORT_S))
    except (Unsizable, JobError, NoSolution):
        found = None
    return _told(bench, offer, made, task, found)


def _last_fuse_a(run: Run) -> float | None:
    """The rating (A) of the last fuse before a load that has one."""
    return next((f.rating_a for f in reversed(fuses_of(run)) if f.rating_a is not None), None)


def _options(bench: Bench, made: Moved, loads: Sequence[str]) -> dict[str, tuple[Size, ...]]:
    rows = bench.tables.conductors.rows
    scenarios = made.craft.scenarios
    fuse = next((p for p in made.craft.pieces if p.id == made.new_fuse), None)
    rating = getattr(fuse, "rating_a", None)
    if rating is None:
        # The largest that a short behind it would have to blow.
        rating = max(filter(None, (_last_fuse_a(bench.runs[key]) for key in loads)), default=None)
    out = {}
    for piece in made.craft.pieces:
        if not isinstance(piece, Conductor) or piece.id not in made.free:
            continue
        stock = in_stock(piece, bench.tables)
        size = piece.size
        if size is not None and size in rows:
            held = rows[size].area_mm2
            out[piece.id] = (size, *(s for s in stock if rows[s].area_mm2 > held))
        else:
            out[piece.id] = strong_enough(piece, stock, bench.tables, scenarios, rating)
    return out


def _told(bench: Bench, offer: Offer, made: Moved, task: Task, found: Sizing | None) -> Candidate:
    rows = task.tables.conductors.rows
    # Where none hold, the thickest there is: shown, and seen not to be enough.
    sizes = found.sizes if found else {
        key: max(each, key=lambda s: rows[s].area_mm2) for key, each in task.options.items()
    }  # fmt: skip
    craft = task.sized(sizes)
    kept = kept_elements(bench.craft, craft)
    runs = task.runs(craft)
    loads = helped(bench.load_id, offer.moves)
    point, known = of_kept(bench.point, kept), task.known(craft)
    stands = {key: Measured(craft, bench.tables, runs[key], point, known) for key in loads}
    states = {key: bench.state(each) for key, each in stands.items()}
    measured, now = stands[bench.load_id], states[bench.load_id]
    after = least_spares(craft, runs, measured, bench.limits, bench.read)
    others = {
        key: (before, after[key])
        for key, before in bench.spares_before.items()
        if key != bench.load_id and key in after and abs(after[key] - before) >= TOLD_V
    }
    on_way = {s.piece.id for key in loads for s in runs[key].steps()}
    left_in = {
        key: p
        for key, p in bench.suspects.items()
        if key in kept and p >= DOUBTED and key in on_way
    }
    pull_in = _pull_in(made, measured) if made.coil else None
    holds = (
        all(_enough(each, runs[key]) for key, each in states.items()) and not left_in
        and (pull_in is None or pull_in[0] >= pull_in[1])
    )  # fmt: skip
    chosen = {k: s for k, s in sizes.items() if _size_of(bench, k) != s}
    parts = parts_of(bench.craft, craft, bench.tables)
    return Candidate(
        offer,
        craft,
        chosen,
        made,
        now,
        others,
        left_in,
        holds,
        parts,
        pull_in,
        found is None or found.proven,
        _doubt_v(bench, measured, now.worst, kept),
        open_parts(runs[bench.load_id], bench.read) & now.spend.spares().keys(),
    )


def _enough(state: BenchState, run: Run) -> bool:
    """Whether a run keeps its ceilings, and its load gets what it works at in every scenario."""
    works = all(
        volts is not None and (run.load.least_v is None or volts >= run.load.least_v)
        for volts in state.load_v.values()
    )
    return works and state.spare_v >= -ROUNDING


def _doubt_v(bench: Bench, measured: Measured, worst: str, kept: frozenset[str]) -> float:
    """How far the drops of what is new may stand off what the tables say, added as squares (V)."""
    solved, _ = measured.solved(worst)
    elements, spreads = solved.solution.elements, bench.tables.spreads
    new = [s.piece for s in measured.run.steps() if not s.beside and s.piece.id not in kept]
    return math.hypot(*(spreads.of_piece(p) * (elements[p.id].drop_v or 0.0) for p in new))


def _size_of(bench: Bench, key: str) -> Size | None:
    piece = next((p for p in bench.craft.pieces if p.id == key), None)
    return piece.size if isinstance(piece, Conductor) else None


def _pull_in(made: Moved, measured: Measured) -> tuple[float, float]:
    """The least volts that the coil gets, and what it wants when it is hot."""
    craft = measured.craft
    coil = craft.load(made.coil)
    got = []
    for scenario in craft.scenarios:
        if coil.id in scenario.on:
            solved, _ = measured.solved(scenario.id)
            got.append(abs(solved.solution.volts(coil.start, coil.end) or 0.0))
    return min(got, default=0.0), coil.least_v or 0.0


def all_worked(bench: Bench, offers: Sequence[Offer]) -> Iterator[Candidate | NotOffered]:
    """Candidates one after the other, as they are ready; what nothing in stock can build is said.

    An offer that comes to the same wiring as one before, or to the wiring as it is, is left out.

    Args:
        bench: what is put right, and what it is held to.
        offers: what is offered, in order.
    """
    seen = [bench.craft]
    for offer in offers:
        try:
            made = worked(bench, offer)
            if made.craft not in seen:
                seen.append(made.craft)
                yield made
        except JobError as trouble:
            facts: dict[str, float | str] = {
                "problem": trouble.problem,
                "accepted": trouble.accepted,
            }
            yield NotOffered(offer.id, "stock", facts)
