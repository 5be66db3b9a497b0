"""The wirings of a job file: models to the core's crafts; what is wrong with one, by the file's paths."""

from collections.abc import Mapping

from spare_margin.core.circuit.soundness import naming_troubles, resistance_trouble
from spare_margin.core.errors import JobError
from spare_margin.core.model import pieces as core
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.job_file.differences import changed_craft
from spare_margin.exchange.job_file.drawn import Wiring, WiringChanges
from spare_margin.exchange.job_file.elements import (
    core_element,
    load_troubles,
    named,
)
from spare_margin.exchange.job_file.models import JobFile


def craft_of_revision(
    model: JobFile, place: int, known: Mapping[str, core.Craft], tables: Tables, to_size: bool
) -> tuple[core.Craft | None, list[JobError]]:
    """The wiring of a revision, whole or by its changes, and what is wrong with it; None without either."""
    later, at = model.revisions[place], f"revisions[{place}]"
    if (later.wiring is None) == (later.changes is None):
        return None, [JobError(at, "has no wiring, or two", "either wiring or changes")]
    if later.wiring is not None:
        craft = craft_of(model, later.wiring)
        return craft, wiring_errors(later.wiring, craft, f"{at}.wiring.", tables, to_size)
    changes = later.changes
    assert changes is not None, "it has one of both"
    base = known.get(changes.base)
    if base is None:
        problem = f"there is no {changes.base} above it"
        return None, [JobError(f"{at}.changes.from", problem, "an id of a revision above it")]
    try:
        craft = changed_craft(base, changes)
    except JobError as wrong:
        return None, [JobError(f"{at}.changes.{wrong.path}", wrong.problem, wrong.accepted)]
    return craft, wiring_errors(changes, craft, f"{at}.changes.", tables, to_size)


def craft_of(job: JobFile, wiring: Wiring) -> core.Craft:
    """The core's craft for one wiring of a job file."""
    made = [core_element(element) for element in wiring.elements]
    return core.Craft(
        kind=job.craft,
        nominal_v=job.nominal_v,
        polarity=job.chassis_polarity,
        reference=wiring.reference or wiring.sources[0].back,
        points=tuple(wiring.nodes),
        sources=tuple(map(named, wiring.sources)),
        pieces=tuple(e for e in made if not isinstance(e, core.Load)),
        loads=tuple(e for e in made if isinstance(e, core.Load)),
        scenarios=tuple(map(named, wiring.scenarios)),
    )


def wiring_errors(
    wiring: Wiring | WiringChanges, craft: core.Craft, prefix: str, tables: Tables, to_size: bool
) -> list[JobError]:
    """What is wrong with a wiring; of one given by its changes only what changed is looked at by itself."""
    place = {element.id: i for i, element in enumerate(wiring.elements)}
    found = list(naming_troubles(craft))
    for piece in craft.pieces:
        if piece.id not in place:
            continue
        trouble = resistance_trouble(piece, tables)
        if trouble and not (to_size and _only_sizeless(piece)):
            found.append(trouble)
    found += [t for e in wiring.elements if isinstance(e, core.Load) for t in load_troubles(e)]
    out = []
    for error in found:
        path = indexed(error.path, craft)
        head, _, rest = path.partition(".")
        name = next((n for n in place if rest == n or rest.startswith(f"{n}.")), None)
        if head == "elements" and name is not None:
            path = f"elements[{place[name]}]{rest[len(name) :]}"
        out.append(JobError(prefix + path, error.problem, error.accepted))
    return out


def _only_sizeless(piece: core.Conductor | core.FixedPiece) -> bool:
    """Whether all that a piece lacks is a size that is to be chosen."""
    return (
        isinstance(piece, core.Conductor)
        and piece.size is not None
        and piece.size.value == core.AUTO
        and piece.length_m > 0
    )


def indexed(path: str, craft: core.Craft) -> str:
    """`elements.w1.size` as the file has it: `elements[4].size`; ids hold no position there."""
    head, _, rest = path.partition(".")
    order = {
        "nodes": [p.id for p in craft.points],
        "sources": [s.id for s in craft.sources],
        "scenarios": [s.id for s in craft.scenarios],
    }
    for i, name in enumerate(order.get(head, [])):
        if rest == name or rest.startswith(f"{name}."):
            return f"{head}[{i}]{rest[len(name) :]}"
    return path
