"""Newton's method on the loads of many cases of one craft at once: what bends is all that is left."""

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.circuit.loads import LoadLaws
from spare_margin.core.patience import still_allowed

from .responses import SHUNT_S

Floats = NDArray[np.float64]
Cases = slice | NDArray[np.intp]
FLAT_S = 1e-7
"""A load whose current changes by less per volt holds its current."""
STEPS, HALVINGS = 40, 14
"""Stops: of Newton's steps, and of how often one that gains nothing is halved."""


class BendingLoads:
    """Volts across the loads where V = offset + Z I(V) + into * share * (per_load . I(V)).

    Many cases at once: `offset`, `into`, `per_load` and `scale` (what each load draws of what it should)
    have the shape (cases, loads), `share` (cases,).

    Args:
        laws: how the loads draw by their volts.
        z: the ohms between the loads, (loads, loads).
    """

    def __init__(
        self,
        laws: LoadLaws,
        z: Floats,
        offset: Floats,
        scale: Floats,
        share: Floats,
        into: Floats,
        per_load: Floats,
    ) -> None:
        self.laws, self.z = laws, z
        self.offset, self.scale = offset, scale
        self.share, self.into, self.per_load = share, into, per_load

    def settle(self, near: Floats) -> Floats:
        """Newton from these volts, every step a gain; the volts, shape (cases, loads).

        Where much stands in the way, the loads behind it start from nothing instead.

        Args:
            near: volts to start from, (cases, loads).
        """
        volts = np.repeat(near[None], len(self.offset), 0)
        left = self._miss(volts, slice(None))
        starved = volts * (np.abs(self.per_load) < 0.5)
        without = self._miss(starved, slice(None))
        nearer = np.abs(without).max(axis=1, initial=0.0) < np.abs(left).max(axis=1, initial=0.0)
        volts[nearer], left[nearer] = starved[nearer], without[nearer]
        alive = np.ones(len(volts), dtype=bool)
        again = np.ones(len(volts), dtype=bool)
        for _ in range(STEPS):
            still_allowed()
            worst = np.abs(left).max(axis=1, initial=0.0)
            open_ = np.flatnonzero((worst > 1e-9) & alive)
            if not len(open_):
                break
            step = self._step(volts[open_], left[open_], open_)
            share = np.ones(len(open_))
            for _ in range(HALVINGS):
                trial = volts[open_] + share[:, None] * step
                after = self._miss(trial, open_)
                gained = np.abs(after).max(axis=1) <= worst[open_] * (1 - 1e-3 * share)
                if gained.all():
                    break
                share = np.where(gained, share, share / 2)
            volts[open_[gained]], left[open_[gained]] = trial[gained], after[gained]
            # What gains nothing any more starts once again from nothing, and is then left as it is.
            stuck = open_[~gained]
            fresh = stuck[again[stuck]]
            alive[stuck[~again[stuck]]] = False
            again[fresh] = False
            if len(fresh):
                volts[fresh] = 0.0
                left[fresh] = self._miss(volts[fresh], fresh)
        return volts

    def drawn(self, volts: Floats, cases: Cases = slice(None)) -> Floats:
        """What the loads draw (A) at these volts, less what the shunts draw already.

        Args:
            cases: which cases.
        """
        amps: Floats = self.scale[cases] * self.laws.current(volts) - SHUNT_S * volts
        return amps

    def slopes(self, volts: Floats, cases: Cases = slice(None)) -> Floats:
        """How steeply that changes (S).

        Args:
            volts: volts across the loads (V), (cases, loads).
            cases: which cases.
        """
        slope: Floats = self.scale[cases] * self.laws.slope(volts)
        return slope

    def _miss(self, volts: Floats, cases: Cases) -> Floats:
        amps = self.drawn(volts, cases)
        through = self.share[cases] * np.einsum("cl,cl->c", amps, self.per_load[cases])
        bent = through[:, None] * self.into[cases]
        left: Floats = volts - self.offset[cases] - amps @ self.z.T - bent
        return left

    def _step(self, volts: Floats, left: Floats, cases: NDArray[np.intp]) -> Floats:
        """The step that the bending loads ask for; those that hold their current only follow."""
        slope = self.slopes(volts, cases)
        bent = np.abs(slope) > FLAT_S
        rows, bends = np.flatnonzero(bent.any(axis=1)), np.flatnonzero(bent.any(axis=0))
        step = -left
        if not len(bends):
            return step
        ours, left = slope[np.ix_(rows, bends)], left[rows]
        share = self.share[cases[rows]][:, None, None]
        fed = self.into[cases[rows]][:, :, None] * self.per_load[cases[rows]][:, None, bends]
        columns = (self.z[:, bends] + share * fed) * ours[:, None]
        own = np.linalg.solve(np.eye(len(bends)) - columns[:, bends], -left[:, bends, None])[..., 0]
        step[rows] += np.einsum("clb,cb->cl", columns, own)
        step[np.ix_(rows, bends)] = own
        return step
