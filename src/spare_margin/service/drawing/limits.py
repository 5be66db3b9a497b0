"""Limits of a run's own: what it may lose in all, in the place of what its limit set says."""

import re
from collections.abc import Iterable, Mapping, Sequence

from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Ceilings, LimitSet
from spare_margin.core.model.pieces import Load
from spare_margin.exchange.quantities import understand
from spare_margin.service.job.desk import Desk
from spare_margin.store import jobs as job_store
from spare_margin.store.file.database import transaction

ACCEPTED = "volts or a share, as 0.4 V or 5 %; nothing for what the limit set says"
MOST_SHARE = 0.5
"""A run that loses more than half of what the craft has is held to nothing."""

OwnLimits = Mapping[str, Ceilings | None]
"""By load id what of a run's own rules; None where the set alone does."""


def limit_v(text: str, nominal_v: float) -> float | None:
    """What a run may lose in all (V), as typed; None where it is the set's to say.

    Args:
        text: volts, or a share of the nominal voltage.
        nominal_v: the craft's nominal voltage (V).

    JobError (path `limit`) where it is neither, or out of bounds.
    """
    bare = text.strip()
    if not bare:
        return None
    share = re.fullmatch(r"([\d.,]+)\s*%", bare)
    found = None
    if share:
        found = (understand(share[1], "times", "limit").value or 0.0) / 100 * nominal_v
    elif not re.fullmatch(r"[\d.,]+", bare):  # 3 alone may mean either
        found = understand(bare, "volts", "limit").value
    if found is None or not 0 < found <= MOST_SHARE * nominal_v:
        raise JobError("limit", f"\u201c{bare[:40]}\u201d is no limit", ACCEPTED)
    return found


def own_ceilings(load: Load, limit_set: LimitSet, nominal_v: float, most_v: float) -> Ceilings:
    """A set's ceilings for a load, scaled so that both sides together may lose so much.

    Args:
        load: the load of the run.
        limit_set: the set that the job is held to.
        nominal_v: the craft's nominal voltage (V).
        most_v: what the feed and the return may lose together (V).
    """
    of_set = limit_set.ceilings(load, nominal_v)
    feed_v, return_v = of_set.feed_v, of_set.return_v
    both_v = None if feed_v is None or return_v is None else feed_v + return_v
    whole = min((v for v in (of_set.round_trip_v, both_v) if v), default=None)
    if whole is None:
        return Ceilings(round_trip_v=most_v)
    scaled = of_set.scaled(most_v / whole)
    return Ceilings(scaled.feed_v, scaled.return_v, most_v)


def hold(desk: Desk, loads: Sequence[str], text: str) -> OwnLimits:
    """Hold some runs to a limit of their own; what ruled before, for the way back.

    Args:
        desk: the job.
        loads: the ids of their loads.
        text: the limit as typed.

    JobError where a load is not there, or the limit is none.
    """
    craft = desk.session.head("as_found").craft
    known = _known(desk, loads)
    most_v = limit_v(text, craft.nominal_v)
    limit_set = desk.session.limits.limit_set
    return put_back(
        desk,
        {
            key: None
            if most_v is None
            else own_ceilings(known[key], limit_set, craft.nominal_v, most_v)
            for key in loads
        },
    )


def _known(desk: Desk, loads: Iterable[str]) -> dict[str, Load]:
    """Every load of the job by its id. JobError where one that is wanted is not among them."""
    known = {x.id: x for head in desk.snapshot.heads.values() for x in head.craft.loads}
    if not known.keys() >= set(loads):
        raise JobError("loads", "one of these runs is not there", "runs of this job")
    return known


def put_back(desk: Desk, own: OwnLimits) -> OwnLimits:
    """Keep limits of runs as they are given; what ruled before.

    Args:
        desk: the job.
        own: by load id; None for what the set says.

    JobError where a load is not there.
    """
    _known(desk, own)
    before = {key: desk.snapshot.job.own_limits.get(key) for key in own}
    with transaction(desk.connection):
        job_store.keep_own_limits(desk.connection, desk.snapshot.job.id, own)
    return before
