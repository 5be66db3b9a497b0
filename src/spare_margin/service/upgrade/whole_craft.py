"""A whole craft to be put right: as measured by all that was read of it, and what was found at fault."""

from collections.abc import Hashable
from dataclasses import dataclass, replace

from spare_margin.core.circuit.runs import Held, Read
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted
from spare_margin.core.evidence.verdict.planned import kept_elements, of_kept
from spare_margin.core.model.pieces import Conductor, Craft, to_be_sized
from spare_margin.core.sizing.craft_task import whole_craft_task
from spare_margin.core.sizing.free import WireSort, begun, usual_sort
from spare_margin.core.sizing.task import Task
from spare_margin.core.upgrade.craft_standing import CraftStanding, craft_standing, with_mends
from spare_margin.core.upgrade.run_by_run import run_by_run
from spare_margin.service.job.revising import taken_ids
from spare_margin.service.job.session import JobSession
from spare_margin.service.upgrade.sizing_runs import SizingRun
from spare_margin.service.upgrade.upgrading import CraftUpgrading
from spare_margin.wording.language.units import in_use

GUILTY = 0.5
"""A piece this likely at fault is mended with the craft."""


@dataclass(frozen=True, slots=True)
class CraftFound:
    """A craft as found: its wiring, how it departs from the drawing, the pieces found at fault.

    `read` is what was measured, by load.
    """

    craft: Craft
    point: Adjusted
    guilty: tuple[str, ...]
    read: Read
    basis: Hashable


def craft_found(session: JobSession) -> CraftFound:
    """A craft by all that was read of its runs; of a piece the largest excess that any shows counts."""
    judging = session.judging("as_found")
    craft = judging.craft
    point, guilty = AS_DRAWN, dict[str, None]()
    own = {p.id for p in craft.pieces}
    read = dict[str, frozenset[Held]]()
    for run_id in judging.runs:
        if not session.measured_on("as_found", run_id):
            continue
        found = judging.judge(run_id)
        if found.verdict == "not_judged":
            continue
        read[run_id] = found.unread
        seen = found.measured.point
        more = {k: max(v, point.more_ohm.get(k, 0.0)) for k, v in seen.more_ohm.items()}
        point = replace(
            point,
            ohm_times={**point.ohm_times, **seen.ohm_times},
            more_ohm={**point.more_ohm, **more},
            load_times={
                **seen.load_times,
                **point.load_times,
                run_id: seen.load_times.get(run_id, 1.0),
            },
            inner_times={**point.inner_times, **seen.inner_times},
        )
        if found.verdict != "within":
            suspected = found.suspicion.items()
            guilty |= dict.fromkeys(k for k, p in suspected if k in own and p >= GUILTY)
    readings = tuple(r.id for r in session.snapshot.readings_of("as_found"))
    return CraftFound(craft, point, tuple(guilty), read, (session.head("as_found").id, readings))


def standing_of(session: JobSession, found: CraftFound, craft: Craft) -> CraftStanding | None:
    """How a wiring made of the craft as found would do; None where no run of it is on."""
    point = of_kept(found.point, kept_elements(found.craft, craft))
    try:
        return craft_standing(craft, session.tables, session.limits, point, found.read)
    except JobError:
        return None


@dataclass(frozen=True, slots=True)
class SizingWanted:
    """How a craft is to be sized.

    Args:
        objective: copper or price.
        keep: ids of conductors that stay as they are.
        thicker: whether a size may only grow, as where the wire lies already.
        mend: whether what was found at fault is mended first.
        free_only: whether only what has no size yet is sized.
        sort: what new wire is; None for what most of the craft is of.
        anyway: whether ceilings that no sizes keep are missed by as little as there is.
    """

    objective: str
    keep: frozenset[str] = frozenset()
    thicker: bool = False
    mend: bool = True
    free_only: bool = False
    sort: WireSort | None = None
    anyway: bool = False


def sizing_run(session: JobSession, wanted: SizingWanted) -> SizingRun:
    """A sizing of the craft as measured. JobError where a fuse or a wire cannot be begun with."""
    found = craft_found(session)
    tables = session.tables
    craft = with_mends(found.craft, found.guilty) if wanted.mend else found.craft
    try:
        sort = wanted.sort or usual_sort(craft, in_use().size)
        ready = begun(craft, tables, sort, found.read)
    except NoSolution as none:
        raise JobError("", str(none)) from None
    point = of_kept(found.point, kept_elements(found.craft, ready.craft))
    keep = wanted.keep
    if wanted.free_only:
        keep |= {p.id for p in craft.pieces if isinstance(p, Conductor)} - ready.wires

    def task_of(rated: Craft) -> Task:
        return whole_craft_task(
            rated, session.limits, tables, wanted.objective, keep, wanted.thicker, point, found.read
        )

    return SizingRun(
        ready, task_of(ready.craft), task_of, found.basis, wanted.objective, wanted.anyway
    )


def standings(
    session: JobSession, found: CraftFound, run: SizingRun | None
) -> dict[str, CraftStanding]:
    """How all runs do as found, with what was found mended, and with the sizes of a sizing that is done."""
    wirings = {"as_is": found.craft}
    if found.guilty:
        wirings["mended"] = with_mends(found.craft, found.guilty)
    held = {} if run is None else dict(run.standings)
    if run is not None and run.sized is not None and run.done:
        wirings["sized"] = run.sized.craft
    for key, craft in wirings.items():
        # Of what nobody has sized yet there is no standing: a figure would be made up.
        if key not in held and not any(to_be_sized(p) for p in craft.pieces):
            made = standing_of(session, found, craft)
            if made is not None:
                held[key] = made
    if run is not None:
        run.standings = held
    return held


def run_by_run_of(session: JobSession, a_minute: float) -> CraftUpgrading:
    """The craft as measured put right run by run, as far as it was worked out."""
    found = craft_found(session)
    key = (
        "run by run",
        session.job.id,
        found.basis,
        session.tables,
        session.limits_key(),
        a_minute,
    )

    def make() -> CraftUpgrading:
        return CraftUpgrading(
            run_by_run(
                found.craft, session.tables, session.limits, found.point,
                dict.fromkeys(found.guilty, 1.0), a_minute, taken_ids(session.snapshot), found.read,
            )
        )  # fmt: skip

    made: CraftUpgrading = session.caches.judged(key, make)
    return made


def task_mends(task: Task, found: CraftFound) -> bool:
    """Whether a sizing's wiring has what was found at fault mended."""
    pieces = {p.id: p for p in task.craft.pieces}
    return bool(found.guilty) and all(pieces[key].repair is not None for key in found.guilty)
