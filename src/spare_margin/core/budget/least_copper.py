"""Ohms for the copper of a whole craft: the least copper that keeps every ceiling, as a convex programme.

A conductor of length L and R ohm holds rho L^2 / R of copper, and where it carries I it drops R I. So the
least copper is min sum L^2 / R subject to sum I R <= left, one line a ceiling, a run and a scenario:
convex in R, with one best answer. With one run it is the known split, drops in proportion to L sqrt(I);
so the wires of one load alone need no search. What several share is found by a primal-dual
interior-point method (S. Boyd and L. Vandenberghe, *Convex Optimization*, 2004, 11.7).
"""

import numpy as np
from scipy.linalg.lapack import dposv

from spare_margin.core.columns import Floats
from spare_margin.core.patience import still_allowed

STEPS = 60
"""A stop for what does not converge."""
FILLED = 0.97
"""How full the search starts: each conductor with its share of the line that gives it least."""
SHARPER, BOLDER = 8.0, 300.0
"""By how much the gap is to close in a step; the bolder after one that went all the way."""
ALL_THE_WAY = 0.95
"""A step of this share of the whole went all the way."""
ENOUGH = 1e-4
"""Of what a step promises, the share it must bring; and the shortest step."""
GAP = 1e-11
"""The copper is the least to this share of it."""
LEAST_SLACK = 1e-15
"""Keeps a step that goes too far from dividing by nothing; it is taken back then."""
TIGHT = 1e-9
"""A line is full where this share of it is left."""


class CopperProgramme:
    """What lines leave to the conductors that stand in them, ready for conductors of any lengths.

    The programme is min sum w / x subject to a x <= 1, in the conductors that several lines share.
    Conductors of one line alone take what the others leave of it, s, and share it out by the known
    split: they hold W / s, W the square of the sum of their sqrt(w a). A line that has none is a bound.

    Args:
        amperes: what each conductor carries in each line (A), (m, n); every conductor is in some line.
        left: what each line leaves to copper (V), (m,), above 0.
    """

    def __init__(self, amperes: Floats, left: Floats) -> None:
        self.lines = amperes / left[:, None]
        self.unit = 1.0 / self.lines.max(axis=0)
        a = self.lines * self.unit
        self.of_one = (a > 0).sum(axis=0) == 1
        self.root, alone = np.sqrt(a), a[:, self.of_one]
        self.line, self.alone = alone.argmax(axis=0), alone.max(axis=0, initial=0.0)
        self.bare = np.flatnonzero(~alone.any(axis=1))
        self.a = np.ascontiguousarray(a[:, ~self.of_one])
        self.tight = self.a[self.bare]

    def least(self, lengths: Floats) -> tuple[Floats, Floats]:
        """Ohms that hold the least copper, and what each line costs.

        Args:
            lengths: length of each conductor (m), (n,), above 0.

        Returns:
            Ohms (n,); and the price of each line (m,): how fast the copper, in units of itself, falls
            as its volts grow. A line that does not bind costs nothing.

        >>> ohms, _ = CopperProgramme(np.array([[4.0, 1.0]]), np.array([0.6])).least(np.array([1.0, 4.0]))
        >>> (ohms * [4.0, 1.0]).round(6)  # V in proportion to L sqrt(I): 1 x 2 to 4 x 1
        array([0.2, 0.4])
        """
        weight = lengths**2 / self.unit
        weight /= weight.sum()
        roots, of_one = np.sqrt(weight), self.of_one
        own = self.root[:, of_one] @ roots[of_one]
        share = np.divide(
            roots[~of_one], (self.root @ roots)[:, None] * self.root[:, ~of_one],
            out=np.full(self.a.shape, np.inf), where=self.a > 0,
        )  # fmt: skip
        x, slack, price = self._search(
            weight[~of_one], own**2, FILLED * share.min(axis=0, initial=np.inf)
        )
        ohms = np.empty(len(of_one))
        ohms[~of_one] = x
        ohms[of_one] = slack[self.line] * roots[of_one] / np.sqrt(self.alone) / own[self.line]
        ohms *= self.unit
        if len(self.bare):  # the others are used up by the conductors of their own
            ohms = filled(ohms, self.lines)
        return ohms, price / price.max(initial=1e-300)

    def _search(self, weight: Floats, held: Floats, x: Floats) -> tuple[Floats, Floats, Floats]:
        """The shared ones, from x; what they leave of each line (m,), and what each line costs (m,).

        `held` is W of each line, `weight` w of each shared conductor.
        """
        a, bare, tight, diagonal = self.a, self.bare, self.tight, np.diag_indices(len(x))

        def held_by(x: Floats, slack: Floats) -> float:
            return float((weight / x).sum() + (held / slack).sum())

        slack = 1.0 - a @ x
        copper, count = held_by(x, slack), max(len(bare), 1)
        own, sharper = np.full(len(bare), copper / count) / slack[bare], SHARPER
        for _ in range(STEPS if len(x) else 0):
            still_allowed()
            left, price, falls = slack[bare], held / slack**2, weight / x**2
            price[bare] = own
            gap = float(left @ own)
            if gap < GAP * copper and np.abs((a.T @ price - falls) * x).max() < GAP * copper:
                break
            aim = gap / count / sharper
            curve, aimed = 2 * price / slack, price.copy()
            curve[bare], aimed[bare] = own / left, aim / left
            bent = a.T @ (a * curve[:, None])
            bent[diagonal] += 2 * falls / x
            down = falls - a.T @ aimed
            _, move, failed = dposv(bent, down)
            if failed or not np.isfinite(move).all():
                break  # nearer than rounding lets it come: what is left is filled later
            pull = own * (tight @ move) / left + (aim / left - own)
            step = _longest(
                np.concatenate([own, x, slack]), np.concatenate([pull, move, -(a @ move)])
            )
            # A step is worth what it lowers, the bounds kept off by what is aimed at.
            before = copper * (1 + GAP) - aim * float(np.log(left).sum())
            promised = ENOUGH * float(down @ move)
            while True:
                there = x + step * move
                slack = np.maximum(1.0 - a @ there, LEAST_SLACK)
                copper = held_by(there, slack)
                lowered = before - copper + aim * float(np.log(slack[bare]).sum())
                if lowered >= step * promised or step < ENOUGH:
                    break
                step /= 2
            x, own = there, own + step * pull
            sharper = BOLDER if step > ALL_THE_WAY else SHARPER
        price = held / slack**2
        price[bare] = own
        return x, slack, price


def _longest(amount: Floats, change: Floats) -> float:
    """How much of a step leaves something of each of these amounts; at most all of it."""
    falls = change < 0
    used_up = float((-amount[falls] / change[falls]).min(initial=np.inf))
    return min(1.0, 0.99 * used_up)


def filled(ohms: Floats, lines: Floats) -> Floats:
    """Ohms raised in step until each conductor stands in a line that is used up.

    Progressive filling (D. Bertsekas and R. Gallager, *Data Networks*, 2nd ed. 1992, 6.5.2): all grow in
    proportion; those in a line that is full stay; the rest grow on. `lines` are amperes over volts (m, n).

    Args:
        ohms: ohms of each conductor to begin with, (conductors,).

    >>> filled(np.array([1.0, 1.0]), np.array([[0.25, 0.0], [0.25, 0.25]]))
    array([2., 2.])
    """
    ohms = ohms.copy()
    free = np.ones(len(ohms), dtype=bool)
    for _ in range(len(lines) + 1):
        held = lines[:, ~free] @ ohms[~free]
        grows = lines[:, free] @ ohms[free]
        moving = grows > 0
        if not moving.any():
            break
        times = float(((1.0 - held[moving]) / grows[moving]).min())
        ohms[free] *= max(times, 0.0)
        full = held + grows * times >= 1.0 - TIGHT
        free &= ~(lines[full] > 0).any(axis=0)
    return ohms
