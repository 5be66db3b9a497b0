"""Which readings a change of the wiring has made old, and which are older than what they should prove."""

from collections.abc import Iterable, Mapping

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.jobs import Reading, Revision

NOT_SAID = "1970-01-02"
"""Times before this say that nobody said when."""


def stale_readings(
    readings: Iterable[Reading], head: Revision, revisions: Mapping[str, Revision], run: Run
) -> frozenset[str]:
    """Ids of readings of a run taken before a piece they crossed was changed.

    A reading within one side crosses the pieces between its points; any other crosses them all.

    Args:
        head: the wiring as it stands.
        revisions: the job's wirings, by id.
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


def before_repair(readings: Iterable[Reading], revisions: Mapping[str, Revision]) -> frozenset[str]:
    """Ids of readings as left that were taken before the wiring was left so: they prove nothing of it.

    Times are UTC, ISO 8601, to the second: what was read in the same second counts.

    Args:
        revisions: the job's wirings, by id.
    """
    made = {key: r.made_at[:19] for key, r in revisions.items() if r.stage == "as_left"}
    return frozenset(
        r.id
        for r in readings
        if r.revision in made and NOT_SAID < r.taken_at[:19] < made[r.revision]
    )
