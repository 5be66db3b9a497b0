"""The lists of a craft, to wire from and to buy from: of all runs or some, against what lies there."""

from collections.abc import Mapping
from dataclasses import dataclass

from spare_margin.core.circuit.runs import Run
from spare_margin.core.edit.run_rows import rows_of
from spare_margin.core.errors import JobError
from spare_margin.core.lists.buying_list import BuyingLine, buying_list
from spare_margin.core.lists.wire_list import WireLine, wire_list
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Craft
from spare_margin.service.job.session import JobSession
from spare_margin.wording.language.units import in_use


@dataclass(frozen=True, slots=True)
class CraftLists:
    """What the lists hold, and of which wiring.

    `lies` is what lies there already; None where the whole craft is listed.
    """

    stage: Stage
    craft: Craft
    runs: Mapping[str, Run]
    lies: Craft | None
    wires: tuple[WireLine, ...]
    buying: tuple[BuyingLine, ...]
    minutes: float


def craft_lists(
    session: JobSession, stage: Stage | None, only: frozenset[str], whole: bool | None
) -> CraftLists:
    """The lists of a stage; of a plan against what lies there unless the whole craft is asked for.

    Args:
        session: the job.
        stage: the plan where there is one, else the latest.
        only: ids of the loads whose runs are listed; all where there is none.
        whole: whether everything is listed, as if nothing lay there; None: unless something was measured,
            for what was measured lies there.

    JobError names the stage or the run that there is not.
    """
    heads = session.snapshot.heads
    of: Stage = stage or ("planned" if "planned" in heads else session.snapshot.latest)
    if of not in heads:
        raise JobError("stage", f"nothing is {of.replace('_', ' ')} yet", ", ".join(heads))
    craft = heads[of].craft
    if whole is None:
        whole = not session.snapshot.readings_of("as_found")
    lies = None if whole or of == "as_found" else heads["as_found"].craft
    runs = session.bare(of).runs
    unknown = only - runs.keys()
    if unknown:
        raise JobError("run", f"there is no run {min(unknown)[:60]}", "a run of the craft")
    panels = {key: row.panel for key, row in rows_of(craft, runs).items()}
    in_feet = in_use().length == "ft"
    lines = wire_list(craft, runs, session.tables, lies, panels, in_feet)
    if only:
        lines = tuple(line for line in lines if only & set(line.loads))
    bought = buying_list(craft, lines, session.tables, lies)
    stock = session.tables.stock
    kinds = {"wire": "wire", "cable": "wire", "terminal": "joint"}
    minutes = sum(
        stock.part(kinds.get(b.group, b.group), b.style).minutes * (b.metres or b.count)
        for b in bought
    )
    return CraftLists(of, craft, runs, lies, lines, bought, minutes)
