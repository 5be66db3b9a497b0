"""Upgrade benches, of a run and of a whole craft: worked out a little more each time somebody asks."""

import time
from collections.abc import Iterator
from threading import Lock

from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import Candidate, all_worked
from spare_margin.core.upgrade.offers import NotOffered, Offers
from spare_margin.core.upgrade.run_by_run import RunByRun


class Upgrading:
    """The candidates of one run. What is ready is given at once; each question takes a bounded time."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        offers = Offers(bench)
        self.ready: list[Candidate] = []
        self.refused: list[NotOffered] = list(offers.refused)
        self.done = False
        self._lock = Lock()
        self._next: Iterator[Candidate | NotOffered] = all_worked(bench, offers.offered)

    def advance(self, seconds: float) -> None:
        """Work out more candidates, at least one, for about so long."""
        with self._lock:
            end = time.monotonic() + seconds
            while not self.done:
                made = next(self._next, None)
                if made is None:
                    self.done = True
                elif isinstance(made, Candidate):
                    self.ready.append(made)
                else:
                    self.refused.append(made)
                if time.monotonic() >= end:
                    break

    def candidate(self, wanted: str) -> Candidate | None:
        """A candidate by its id, worked out now if it is not ready; None where there is none."""
        while True:
            found = next((c for c in self.ready if c.offer.id == wanted), None)
            if found is not None or self.done:
                return found
            self.advance(0.0)


class CraftUpgrading:
    """A whole craft put right run by run, a little further each time somebody asks."""

    def __init__(self, steps: Iterator[RunByRun]) -> None:
        self._steps, self._lock = steps, Lock()
        self.stands = next(steps)

    def advance(self, seconds: float) -> RunByRun:
        """Go on for about so long, one candidate at least."""
        with self._lock:
            end = time.monotonic() + seconds
            while not self.stands.done:
                self.stands = next(self._steps, self.stands)
                if time.monotonic() >= end:
                    break
            return self.stands
