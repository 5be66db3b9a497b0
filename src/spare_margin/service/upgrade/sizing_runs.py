"""Long sizings: started, asked how far they are, stopped with the best so far."""

import time
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.core.model.pieces import Craft
from spare_margin.core.sizing.craft_task import CeilingPrice, ceiling_prices
from spare_margin.core.sizing.easing import Ceiling, can_be_eased, size_all_the_same
from spare_margin.core.sizing.free import Begun
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.reasons import Reason, reasons
from spare_margin.core.sizing.sizing import Impossible, Sizing, Unsizable
from spare_margin.core.sizing.sizing_craft import CraftSized, size_craft
from spare_margin.core.sizing.task import Task
from spare_margin.core.sizing.ways_out import WayOut, ways_out
from spare_margin.core.upgrade.craft_standing import CraftStanding

LONGEST_S, PRICING_S = 30.0, 1.5
MOST_RUNNING = 2


@dataclass
class SizingRun:
    """One sizing: what it found so far, and what came of it.

    `begun` is the craft with its fuses rated, `first` what is to be sized of it, `task_of` the same of
    others. With `anyway` ceilings that cannot be kept are let go: `eased` says by how much they are missed.
    `basis` is what it rests on: the wiring as found and what was read of it. `standings` say how
    all runs do: as it is, with what was found mended, and once it is done with the sizes. `ways` are the
    ways out of what cannot be kept.
    """

    begun: Begun
    first: Task
    task_of: Callable[[Craft], Task]
    basis: Hashable
    objective: str
    anyway: bool = False
    eased: Mapping[Ceiling, float] = field(default_factory=dict)
    standings: Mapping[str, CraftStanding] = field(default_factory=dict)
    best: float | None = None
    bound: float | None = None
    sized: CraftSized | None = None
    reasons: Mapping[str, Reason] = field(default_factory=dict)
    prices: tuple[CeilingPrice, ...] = ()
    why: tuple[Impossible, ...] = ()
    ways: tuple[tuple[WayOut, ...], ...] = ()
    trouble: JobError | None = None
    done: bool = False
    began: float = field(default_factory=time.monotonic)
    _stop: Event = field(default_factory=Event)

    @property
    def task(self) -> Task:
        """What was sized, or is to be."""
        return self.first if self.sized is None else self.sized.task

    @property
    def made(self) -> Sizing | None:
        """The sizes that were found."""
        return None if self.sized is None else self.sized.made

    @property
    def can_be_eased(self) -> bool:
        """Whether nothing but ceilings keeps it from being sized."""
        return bool(self.why) and can_be_eased(self.why)

    @property
    def seconds(self) -> float:
        """How long it has been at it."""
        return time.monotonic() - self.began

    def stop(self) -> None:
        """End it with the best so far."""
        self._stop.set()

    def work(self) -> None:
        """Size, then say what forces each size, and what the ceilings cost."""
        try:
            effort = Effort(LONGEST_S, self._told)
            if self.anyway:
                found, self.eased = size_all_the_same(self.begun, self.task_of, effort, second=True)
            else:
                found = size_craft(self.begun, self.task_of, effort, second=True)
            self.sized = found
            self.reasons = reasons(found.task, found.made, found.task.options)
            if not self._stop.is_set():
                self.prices = tuple(ceiling_prices(found.task, found.made, Effort(PRICING_S)))
        except Unsizable as none:
            # Who asks meanwhile sees both or neither.
            self.ways = tuple(ways_out(self.task, each) for each in none.why)
            self.why = none.why
        except JobError as trouble:
            self.trouble = trouble
        except SpareMarginError as trouble:
            self.trouble = JobError("", str(trouble))
        finally:
            self.done = True

    def _told(self, best: float | None, bound: float) -> bool:
        self.best = best if best is not None else self.best
        self.bound = bound
        return not self._stop.is_set()


class SizingRuns:
    """The sizings of one application, at most one a job and few at a time."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._runs: dict[str, SizingRun] = {}

    def start(self, job: str, made: SizingRun) -> SizingRun:
        """Start a sizing; one of the same job that still runs is stopped.

        JobError where too many run already.
        """
        with self._lock:
            held = self._runs.get(job)
            if held is not None:
                held.stop()
            running = [k for k, r in self._runs.items() if not r.done and k != job]
            if len(running) >= MOST_RUNNING:
                raise JobError("", "other crafts are being sized", "a moment later")
            self._runs[job] = made
        Thread(target=made.work, daemon=True).start()
        return made

    def of(self, job: str) -> SizingRun | None:
        """The latest sizing of a job."""
        with self._lock:
            return self._runs.get(job)
