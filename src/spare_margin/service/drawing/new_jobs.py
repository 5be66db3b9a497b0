"""Jobs from nothing, copies of jobs, and what a job says of itself."""

import re
import sqlite3
from dataclasses import replace

from spare_margin.core.edit.new_craft import at_nominal, new_craft
from spare_margin.core.edit.one_load import DUTIES, LoadKind, one_load
from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Action, Job, Revision
from spare_margin.core.model.pieces import Battery, Craft, CraftKind, Load, Polarity
from spare_margin.data.tables import rows_of
from spare_margin.exchange.quantities import understand
from spare_margin.exchange.run_line.reader import element_of
from spare_margin.service.job.desk import Acted, Desk, Edited
from spare_margin.service.job.revising import ACTING, new_id, now
from spare_margin.service.job.session import JobSession
from spare_margin.service.workshop.workshop import Workshop
from spare_margin.store import jobs as job_store
from spare_margin.store.file.database import transaction
from spare_margin.wording.language.units import number

from .words import one_line, title_of

TABLE_LOADS_V = 12.0
"""The workshop's loads are typed as they draw at this voltage."""
MOST_AH = 10_000.0


def keep_new(connection: sqlite3.Connection, job: Job, craft: Craft, action: Action) -> str:
    """Keep a job whose first wiring this is; the job's id, which is given to it here."""
    job_id, moment = new_id(), now()
    first = Revision(
        id=new_id(), stage="as_found", parent=None, made_at=moment, craft=craft, action=action,
        who=ACTING.get(),
    )  # fmt: skip
    job_store.add_job(connection, replace(job, id=job_id), [first], [], moment)
    return job_id


def new_job(
    connection: sqlite3.Connection,
    job: Job,
    kind: CraftKind,
    nominal_v: float,
    polarity: Polarity,
    battery: Battery,
    capacity: str,
    clamps: bool,
) -> str:
    """A job from nothing: a battery with its posts, and the states it is usually in; its id.

    `capacity`, as typed, is in Ah and may be empty. JobError names the field that is wrong.
    """
    ah = _capacity(capacity)
    craft = new_craft(kind, nominal_v, polarity, battery, ah, clamps)
    return keep_new(connection, replace(job, title=title_of(job.title)), craft, "drawn")


def check_load(
    connection: sqlite3.Connection,
    workshop: Workshop,
    job: Job,
    kind: CraftKind,
    nominal_v: float,
    battery: Battery,
    what: LoadKind,
) -> tuple[str, str]:
    """A job to check the load it is called after, whose wiring nobody knows; its id and its run's."""
    name = one_line(job.title)[:120]
    if not name:
        raise JobError("name", "is empty", "what the load is called, as: Bilge pump")
    load = _known_load(workshop, name, nominal_v)
    if load.behaviour is None or what != "other":
        load = replace(load, duty=DUTIES[what])
    craft = one_load(kind, nominal_v, battery, load)
    return keep_new(connection, replace(job, title=name), craft, "drawn"), craft.loads[0].id


def copy_job(connection: sqlite3.Connection, session: JobSession) -> str:
    """A second job over the same craft as it stands now, without the readings; its id."""
    title = f"{session.job.title[:190]} (copy)"
    copied = replace(session.job, title=title, made_at="", source_checks={})
    return keep_new(connection, copied, session.head(session.snapshot.latest).craft, "copied")


def keep_details(
    desk: Desk,
    details: dict[str, str],
    kind: CraftKind | None,
    nominal_v: float | None,
    polarity: Polarity | None,
) -> Edited | None:
    """Change what a job says of itself (`details`, by field), its limit set, or what its craft is.

    What it came to for the wiring, where that is changed. JobError names the field that is wrong.
    """
    columns: dict[str, str] = {}
    for key, said in details.items():
        match key:
            case "title":
                columns[key] = title_of(said)
            case "limit_set":
                sets = desk.session.tables.limit_sets
                if said not in sets:
                    raise JobError(key, f"there is no {said}", ", ".join(sets))
                columns[key] = said
            case "complaint" | "when" | "conditions":
                word = "what" if key == "complaint" else key
                columns[f"complaint_{word}"] = said.strip()
            case _:
                columns[key] = one_line(said)

    def act(craft: Craft) -> Acted:
        if nominal_v is not None and nominal_v != craft.nominal_v:
            craft = at_nominal(craft, nominal_v)
        of = {"kind": kind or craft.kind, "polarity": polarity or craft.polarity}
        return Acted(replace(craft, **of))  # type: ignore[arg-type]

    asked = (kind, nominal_v, polarity) != (None, None, None)
    with transaction(desk.connection):
        edited = desk.everywhere(act, "changed") if asked else None
        job_store.keep_details(desk.connection, desk.snapshot.job.id, columns)
    return edited


def _known_load(workshop: Workshop, name: str, nominal_v: float) -> Load:
    """The load of this name from the workshop's table, where it is for this voltage; else one nobody
    knows."""
    bare = Load(id="load", start="", end="", name=name)
    for row in rows_of("loads", workshop.own_rows).values():
        if row["name"].casefold() != name.casefold() or nominal_v != TABLE_LOADS_V:
            continue
        empty = new_craft("other", nominal_v, "none", "flooded")
        element = element_of(row["line"], empty, workshop.tables)
        if isinstance(element, Load):
            return replace(element, name=name)
    return bare


def _capacity(text: str) -> float | None:
    plain = re.sub(r"\s*ah\s*$", "", text.strip(), flags=re.IGNORECASE)
    if not plain:
        return None
    value = understand(plain, "times", "capacity").value or 0.0
    if not 0 < value <= MOST_AH:
        raise JobError("capacity", f"{number(value)} Ah is no battery", "above 0 up to 10000 Ah")
    return value
