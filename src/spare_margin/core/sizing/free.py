"""What nobody has sized yet: wires with a length alone, fuses without a rating, and how both are begun.

Currents come first, fuses follow from them, and wires from both: a wire bears its fuse where it lies.
A fuse is rated by what flows through it for long. Only a load that draws by its volts makes that depend on
the wires: what was chosen is then looked at once more with the sizes that were found.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import NOTHING_READ, Read, Run, open_parts, traced
from spare_margin.core.errors import JobError
from spare_margin.core.model.naming import called
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Size, to_be_sized
from spare_margin.core.model.tables import Tables
from spare_margin.core.protection.currents import Currents, currents_of
from spare_margin.core.protection.fuses import fuse_for, fuses_of

INSULATION_C = 105.0
"""What the insulation of new wire bears where nobody said: usual for low-voltage cable of every system."""
STYLES = ("blade", "large blade", "bolt-down", "ceramic")


@dataclass(frozen=True, slots=True)
class WireSort:
    """What new wire is: the system and the finish its sizes are of, and what its insulation bears (C).

    Insulation that nobody says (None) is taken for the weakest of the table.
    """

    system: str
    finish: str = "plain"
    insulation_c: float | None = INSULATION_C


@dataclass(frozen=True, slots=True)
class FuseChosen:
    """A fuse or breaker that was rated, and what for.

    Args:
        piece: its id.
        style: the class it is of.
        rating_a: its rating (A).
        lasting_a: what flows through it for long (A).
        start_a: the most that flows while a load behind it starts (A); 0 where none does.
        after: the fuse behind it that it must not be smaller than, by id; empty where that is not why.
    """

    piece: str
    style: str
    rating_a: float
    lasting_a: float
    start_a: float
    after: str = ""


@dataclass(frozen=True)
class Begun:
    """A craft with something in the place of what is to be sized: a size to begin from, fuses rated.

    Args:
        craft: the wiring; what its free wires have as a size means nothing.
        wires: ids of the wires to be sized.
        fuses: the fuses that were rated.
        sort: what the new wire is.
    """

    craft: Craft
    wires: frozenset[str]
    fuses: tuple[FuseChosen, ...]
    sort: WireSort


def usual_sort(craft: Craft, system: str) -> WireSort:
    """The wire that most of a craft is of; of a system where none of it has a size yet.

    Args:
        craft: the wiring.
        system: mm2 or awg, as the workshop works.
    """
    wires = [p for p in craft.pieces if isinstance(p, Conductor)]
    sizes = Counter((w.size.system, w.size.finish) for w in wires if w.size is not None)
    bears = Counter(w.insulation_c for w in wires if w.insulation_c is not None)
    ((of, finish), _), *_ = sizes.most_common(1) or [((system, "plain"), 0)]
    insulation = bears.most_common(1)[0][0] if bears else INSULATION_C
    return WireSort(of, finish, insulation)


def sorts(tables: Tables) -> list[WireSort]:
    """Every sort of wire that the workshop keeps and whose ampacity the tables know.

    Args:
        tables: the reference tables.
    """
    kept = dict.fromkeys((size.system, size.finish) for size in tables.stock.wire)
    known = dict.fromkeys((system, celsius) for system, _, celsius in tables.conductors.ampacities)
    return [
        WireSort(system, finish, float(celsius))
        for system, finish in kept
        for of, celsius in known
        if of == system
    ]


def begun(craft: Craft, tables: Tables, sort: WireSort, read: Read = NOTHING_READ) -> Begun:
    """A craft made ready for its free wires to be sized, its free fuses rated.

    What only runs pass of which more than sizes is not known stays as it is: nothing holds it to a limit.

    Args:
        craft: the wiring.
        tables: the reference tables.
        sort: what new wire is.
        read: what was measured, by load.

    Raises:
        JobError: the table has no wire of that sort, or no fuse does what one of these must.
        NoSolution: a load that no voltage can satisfy.
    """
    runs = traced(craft, closed_ohms(craft, tables)).runs
    used = {
        s.piece.id
        for run in runs.values()
        if run.sizable or not open_parts(run, read)
        for s in run.steps()
    }
    free = [p for p in craft.pieces if to_be_sized(p) and p.id in used]
    wires = frozenset(p.id for p in free if isinstance(p, Conductor))
    thick = _thickest(tables, sort) if wires else None
    laid = _with(
        craft,
        {
            p.id: replace(p, size=thick, insulation_c=p.insulation_c or sort.insulation_c)
            for p in free
            if isinstance(p, Conductor)
        },
    )
    chosen = rated(laid, [p.id for p in free if isinstance(p, FixedPiece)], tables)
    return Begun(with_fuses(laid, chosen), wires, chosen, sort)


def _thickest(tables: Tables, sort: WireSort) -> Size:
    rows = [
        row
        for size, row in tables.conductors.rows.items()
        if (size.system, size.finish) == (sort.system, sort.finish)
    ]
    if not rows:
        raise JobError(
            "sort", f"there is no {sort.finish} {sort.system} wire", "a sort of the table of wire"
        )
    return max(rows, key=lambda row: row.area_mm2).size


def _with(craft: Craft, pieces: Mapping[str, Conductor | FixedPiece]) -> Craft:
    return replace(craft, pieces=tuple(pieces.get(p.id, p) for p in craft.pieces))


def with_fuses(craft: Craft, chosen: Iterable[FuseChosen]) -> Craft:
    """A craft with these fuses rated.

    Args:
        craft: the wiring.
        chosen: the fuses.
    """
    by_id = {each.piece: each for each in chosen}
    return _with(
        craft,
        {
            p.id: replace(
                p,
                rating_a=by_id[p.id].rating_a,
                style=p.style if p.kind == "breaker" else by_id[p.id].style,
            )
            for p in craft.pieces
            if p.id in by_id and isinstance(p, FixedPiece)
        },
    )


def rated(craft: Craft, fuses: Iterable[str], tables: Tables) -> tuple[FuseChosen, ...]:
    """A rating for each of these fuses, by what flows in any scenario.

    The next standard rating at or above 1.25 times what flows for long, of a class that carries every
    start, and no smaller than any fuse behind it; of classes that have it, one that can break a short.

    Args:
        craft: the wiring, every wire with a size.
        fuses: ids of the fuses and breakers to be rated.
        tables: the reference tables.

    Raises:
        JobError: no fuse does what one of these must.
        NoSolution: a load that no voltage can satisfy.
    """
    wanted = frozenset(fuses)
    if not wanted:
        return ()
    ohms = closed_ohms(craft, tables)
    runs = traced(craft, ohms).runs
    flows = currents_of(runs, [solve(craft, s, tables) for s in craft.scenarios])
    shorts: dict[str, float] = {}
    for run in runs.values():
        for fuse in fuses_of(run):
            shorts[fuse.id] = max(shorts.get(fuse.id, 0.0), _short_a(run, fuse, ohms))
    made: dict[str, FuseChosen] = {}
    for piece in craft.pieces:
        if piece.id in wanted and isinstance(piece, FixedPiece):
            made[piece.id] = _rated(piece, flows, tables, shorts.get(piece.id, 0.0))
    for run in runs.values():
        largest, after = 0.0, ""
        for fuse in reversed(fuses_of(run)):
            own = made.get(fuse.id)
            if own is not None and own.rating_a < largest:
                own = _rated(fuse, flows, tables, shorts[fuse.id], largest)
                made[fuse.id] = own = replace(own, after=after)
            rating = own.rating_a if own is not None else fuse.rating_a or 0.0
            if rating > largest:
                largest, after = rating, fuse.id
    return tuple(made.values())


def _short_a(run: Run, fuse: FixedPiece, ohms: Mapping[str, float]) -> float:
    """What a short just behind a fuse draws (A); nothing where the source is drawn as ideal."""
    source = run.source
    if source.internal_ohm <= 0:
        return 0.0
    before = 0.0
    for step in run.way("feed"):
        if step.piece.id == fuse.id:
            break
        # A fuse that is rated next may be of few ohms: of a short the most counts.
        before += 0.0 if to_be_sized(step.piece) else ohms.get(step.piece.id, 0.0)
    return source.open_circuit_v / (source.internal_ohm + before)


def _rated(
    fuse: FixedPiece, flows: Currents, tables: Tables, short_a: float, least_a: float = 0.0
) -> FuseChosen:
    """The smallest rating that does it; of classes that have it, one that breaks the short."""
    lasting, running = flows.lasting.get(fuse.id, 0.0), flows.running.get(fuse.id, 0.0)
    start = flows.advised.get(fuse.id, (0.0, 0.0))
    if fuse.kind == "breaker":
        styles: tuple[str, ...] = ("breaker",)
    else:
        styles = (fuse.style,) if fuse.style else STYLES
    every = [
        fuse_for(lasting, max(running, least_a), start, None, tables, (style,)) for style in styles
    ]
    found = [each for each in every if each is not None]
    if not found:
        raise JobError(
            f"elements.{fuse.id}.rating_a",
            f"no fuse on offer carries what flows through {called(fuse)}: {lasting:.3g} A for long, "
            f"{start[0]:.3g} A in a start",
            "another kind of fuse, or the load on two runs",
        )
    least = min(rating for _, rating in found)
    fits = [each for each in found if each[1] == least]
    style, rating = next((e for e in fits if _breaks_a(e[0], tables) >= short_a), fits[0])
    return FuseChosen(fuse.id, style, rating, lasting, start[0])


def _breaks_a(style: str, tables: Tables) -> float:
    speed = tables.fuse_classes.get(style)
    return 0.0 if speed is None else speed.breaking_a
