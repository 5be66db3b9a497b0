"""A craft sized whole: fuses from its currents, wires from fuses and ceilings, until both agree."""

from collections.abc import Callable
from dataclasses import dataclass

from spare_margin.core.model.pieces import Craft

from .free import Begun, FuseChosen, rated, with_fuses
from .programme import Effort
from .sizing import Sizing, size_conductors
from .task import Task

MOST_LOOKS = 4
"""A rating only ever rises from one look to the next, and seldom does so twice."""


@dataclass(frozen=True)
class CraftSized:
    """What a craft was sized to: the task with the fuses as they came out, its sizes, those fuses."""

    task: Task
    made: Sizing
    fuses: tuple[FuseChosen, ...]

    @property
    def craft(self) -> Craft:
        """The wiring with its sizes and ratings."""
        return self.task.sized(self.made.sizes)


def size_craft(
    begun: Begun, task_of: Callable[[Craft], Task], effort: Effort, second: bool = False
) -> CraftSized:
    """Sizes and ratings that go together.

    Args:
        begun: the craft made ready.
        task_of: what is to be sized of a wiring whose fuses are rated, and what must hold.
        effort: how long to look at each, and who is told meanwhile.
        second: whether the next best choice is wanted too.

    Raises:
        Unsizable: no sizes keep every ceiling.
        JobError: a wire may take no size, or no fuse does what one must; a craft that cannot be solved.
        NoSolution: a load that no voltage can satisfy.
    """
    craft, fuses = begun.craft, begun.fuses
    for _ in range(MOST_LOOKS):
        task = task_of(craft)
        made = size_conductors(task, effort, second)
        risen = _risen(fuses, rated(task.sized(made.sizes), [f.piece for f in fuses], task.tables))
        if risen == fuses:
            break
        craft, fuses = with_fuses(begun.craft, risen), risen
    return CraftSized(task, made, fuses)


def _risen(before: tuple[FuseChosen, ...], now: tuple[FuseChosen, ...]) -> tuple[FuseChosen, ...]:
    """Each fuse as it was, or larger where more flows with the sizes that were found."""
    return tuple(
        new if new.rating_a > old.rating_a else old for old, new in zip(before, now, strict=True)
    )
