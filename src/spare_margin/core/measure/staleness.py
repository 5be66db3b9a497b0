"""Which readings a change of the wiring has made old."""

from collections.abc import Iterable, Mapping

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.jobs import Reading, Revision


def stale_readings(
    readings: Iterable[Reading], head: Revision, revisions: Mapping[str, Revision], run: Run
) -> frozenset[str]:
    """Ids of readings of a run taken before a piece they crossed was changed.

    A reading within one side crosses the pieces between its points; any other crosses them all.
    """
    out = set()
    everything = {s.piece.id for s in run.steps()}
    for reading in readings:
        taken_on = revisions[reading.revision]
        if taken_on.id == head.id:
            continue
        before = {p.id: p for p in taken_on.craft.pieces}
        changed = {p.id for p in head.craft.pieces if before.get(p.id) != p}
        between = run.between(reading.red, reading.black)
        crossed = everything if between is None else set(between.pieces)
        if changed & crossed:
            out.add(reading.id)
    return frozenset(out)
