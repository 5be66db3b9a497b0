"""Long sizings: started, asked how far they are, stopped with the best so far."""

import time
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from threading import Event, Lock, Thread

from spare_margin.core.errors import JobError, SpareMarginError
from spare_margin.core.sizing.craft_task import CeilingPrice, ceiling_prices
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.sizing import Impossible, Sizing, Unsizable, size_conductors
from spare_margin.core.sizing.task import Task
from spare_margin.core.upgrade.craft_standing import CraftStanding

LONGEST_S, PRICING_S = 30.0, 1.5
MOST_RUNNING = 2


@dataclass
class SizingRun:
    """One sizing: what it found so far, and what came of it.

    `basis` is what it rests on: the wiring as found and what was read of it. `standings` say how all runs
    do: as it is, with what was found mended, and once it is done with the sizes.
    """

    task: Task
    basis: Hashable
    objective: str
    standings: Mapping[str, CraftStanding] = field(default_factory=dict)
    best: float | None = None
    bound: float | None = None
    made: Sizing | None = None
    prices: tuple[CeilingPrice, ...] = ()
    why: tuple[Impossible, ...] = ()
    trouble: JobError | None = None
    done: bool = False
    began: float = field(default_factory=time.monotonic)
    _stop: Event = field(default_factory=Event)

    @property
    def seconds(self) -> float:
        """How long it has been at it."""
        return time.monotonic() - self.began

    def stop(self) -> None:
        """End it with the best so far."""
        self._stop.set()

    def work(self) -> None:
        """Size, then say what the ceilings cost."""
        try:
            self.made = size_conductors(self.task, Effort(LONGEST_S, self._told), second=True)
            if not self._stop.is_set():
                self.prices = tuple(ceiling_prices(self.task, self.made, Effort(PRICING_S)))
        except Unsizable as none:
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
