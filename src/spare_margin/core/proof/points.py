"""Where a repair is read again: the points read as found, and what is new or was worked on."""

from collections.abc import Iterable, Iterator

from spare_margin.core.circuit.joined import joined
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.verdict.planned import kept_elements
from spare_margin.core.model.pieces import SIDES, Craft, Side
from spare_margin.core.walk.walk import Measurement, opening, span


def proof_points(
    before: Craft, after: Craft, run: Run, read: Iterable[tuple[str, str]] = ()
) -> list[Measurement]:
    """The measurements that prove a run, each once, in the order of reading.

    Source, current and load first, then both whole sides; then the spans that were read as found, as
    far as the run still has their points; then every stretch of new or changed pieces as one; then the
    coils of new relays.

    Args:
        before: the wiring as found.
        after: the wiring it was turned into, and `run` the run in it.
        read: pairs of points that were read as found.
    """
    first = opening(run)
    on_run = {run.source.live, run.source.back}
    on_run |= {p for s in run.steps() if not s.beside for p in (s.entry, s.exit)}
    pairs = [pair for pair in read if set(pair) <= on_run]
    for side in SIDES:
        # A stretch that is read piece by piece anyway needs no reading as a whole.
        pairs += [
            e for e in worked_on(before, after, run, side) if not _read_in_parts(run, pairs, *e)
        ]
    known = {x.id for x in before.loads}
    pairs += [(load.start, load.end) for load in after.loads if load.id not in known]
    taken = {frozenset((m.red, m.black)) for m in first}
    out = list(first)
    for red, black in pairs:
        if frozenset((red, black)) not in taken:
            taken.add(frozenset((red, black)))
            out.append(span(run, red, black))
    return out


def _read_in_parts(run: Run, pairs: Iterable[tuple[str, str]], start: str, end: str) -> bool:
    """Whether readings within a stretch join its ends."""
    whole = run.between(start, end)
    assert whole is not None
    inside = []
    for pair in pairs:
        part = run.between(*pair)
        if part is not None and set(part.pieces) < set(whole.pieces):
            inside.append(pair)
    return joined(inside, start, end)


def changed_pieces(before: Craft, after: Craft, run: Run) -> list[str]:
    """The pieces on a run's way that are new, or otherwise than they were, by id.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
    """
    kept = kept_elements(before, after)
    return [s.piece.id for s in run.steps() if s.piece.id not in kept]


def worked_on(before: Craft, after: Craft, run: Run, side: Side) -> Iterator[tuple[str, str]]:
    """The ends of every stretch of a side's main way that was worked on.

    Args:
        before: the wiring as it was.
        after: the wiring as it is now.
        run: the run.
    """
    changed = set(changed_pieces(before, after, run))
    start = end = ""
    for step in run.way(side):
        if step.piece.id in changed:
            start, end = start or step.entry, step.exit
        elif start:
            yield start, end
            start = ""
    if start:
        yield start, end
