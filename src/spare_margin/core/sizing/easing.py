"""Where no sizes keep every ceiling: a craft sized all the same, the thickest wire where one is missed."""

from collections.abc import Callable, Iterable, Mapping, Set
from dataclasses import replace
from typing import get_args

from spare_margin.core.circuit.runs import HELD, Held
from spare_margin.core.least import ROUNDING
from spare_margin.core.model.limits import Ceilings
from spare_margin.core.model.pieces import Craft

from .free import Begun
from .programme import Effort
from .sizing import Impossible, Unsizable
from .sizing_craft import CraftSized, size_craft
from .task import Task

Ceiling = tuple[str, Held]
"""A load, and which of its ceilings."""


def can_be_eased(why: Iterable[Impossible]) -> bool:
    """Whether all that is missed are ceilings: what a wire bears and a load needs cannot be let go.

    Args:
        why: what no sizes keep.
    """
    return all(
        each.held is not None
        and each.held.under in get_args(Held)
        and not each.wire
        and each.by != float("inf")
        for each in why
    )


def size_all_the_same(
    begun: Begun, task_of: Callable[[Craft], Task], effort: Effort, second: bool = False
) -> tuple[CraftSized, Mapping[Ceiling, float]]:
    """Sizes that keep every ceiling that can be kept, with the thickest wire where one cannot.

    Args:
        begun: the craft made ready.
        task_of: what is to be sized of a wiring whose fuses are rated, and what must hold.
        effort: how long to look at each, and who is told meanwhile.
        second: whether the next best choice is wanted too.

    Returns what was sized, and by how much (V) each ceiling is missed that was let go.

    Raises as `size_craft`: Unsizable only for what is no ceiling.
    """
    gone: set[Ceiling] = set()
    while True:
        try:
            found = size_craft(begun, _without(task_of, frozenset(gone)), effort, second)
        except Unsizable as none:
            if not can_be_eased(none.why):
                raise
            gone |= {(w.held.load, w.held.under) for w in none.why if w.held is not None}  # type: ignore[misc]
        else:
            return found, _missed(found, task_of(found.task.craft), gone)


def _without(task_of: Callable[[Craft], Task], gone: Set[Ceiling]) -> Callable[[Craft], Task]:
    """The same without some ceilings: the wires that lose under them are the thickest they may be."""

    def task(craft: Craft) -> Task:
        made = task_of(craft)
        runs, options, ceilings = made.runs(craft), dict(made.options), dict(made.ceilings)
        for load, held in gone:
            ceilings[load] = replace(ceilings[load], **{f"{held}_v": None})
            for side in HELD[held]:
                for step in runs[load].side(side):
                    if sizes := options.get(step.piece.id):
                        options[step.piece.id] = sizes[-1:]
        return replace(made, options=options, ceilings=ceilings)

    return task


def _missed(found: CraftSized, asked: Task, gone: Set[Ceiling]) -> dict[Ceiling, float]:
    out = {}
    for load, held in sorted(gone):
        ceilings: Ceilings = asked.ceilings[load]
        by = getattr(found.made.trial.lost[load], f"{held}_v") - getattr(ceilings, f"{held}_v")
        if by > ROUNDING:
            out[load, held] = by
    return out
