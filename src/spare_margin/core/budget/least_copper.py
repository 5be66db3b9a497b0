"""Ohms for the copper of a whole craft: the least copper that keeps every ceiling, as a convex programme.

A conductor of length L and R ohm holds rho L^2 / R of copper, and where it carries I it drops R I. So the
least copper is min sum L^2 / R subject to sum I R <= left, one line a ceiling, a run and a scenario:
convex in R, with one best answer. With one run it is the known split, drops in proportion to L sqrt(I).
Solved by a primal-dual interior-point method (S. Boyd and L. Vandenberghe, *Convex Optimization*, 2004,
11.7).
"""

import numpy as np
from scipy.linalg.lapack import dposv

from spare_margin.core.columns import Floats
from spare_margin.core.patience import still_allowed

STEPS = 60
SHARPER = 12.0
GAP = 1e-11
LEAST_SLACK = 1e-15
TIGHT = 1e-9


def least_copper(lengths: Floats, amperes: Floats, left: Floats) -> tuple[Floats, Floats]:
    """Ohms that hold the least copper, and what each line costs.

    Args:
        lengths: length of each conductor (m), (n,), above 0.
        amperes: what each conductor carries in each line (A), (m, n); every conductor is in some line.
        left: what each line leaves to copper (V), (m,), above 0.

    Returns:
        Ohms (n,); and the price of each line (m,): how fast the copper, in units of itself, falls as
        its volts grow. A line that does not bind costs nothing.

    >>> ohms, _ = least_copper(np.array([1.0, 4.0]), np.array([[4.0, 1.0]]), np.array([0.6]))
    >>> (ohms * [4.0, 1.0]).round(6)  # V in proportion to L sqrt(I): 1 x 2 to 4 x 1
    array([0.2, 0.4])
    """
    lines = amperes / left[:, None]
    unit = 1.0 / lines.max(axis=0)
    a = lines * unit
    weight = lengths**2 / unit
    weight = weight / weight.sum()
    x = np.full(len(lengths), 0.5 / a.sum(axis=1).max())
    slack = 1.0 - a @ x
    curved = _Curved(a)
    price = 1.0 / slack * (weight / x).sum() / len(left)
    for _ in range(STEPS):
        still_allowed()
        gap = float(slack @ price)
        gradient = -weight / x**2
        dual = gradient + a.T @ price
        if gap < GAP * (weight / x).sum() and np.abs(dual * x).max() < GAP * (weight / x).sum():
            break
        aim = gap / len(left) / SHARPER
        move = curved.solve(price / slack, 2 * weight / x**3, -(gradient + a.T @ (aim / slack)))
        if move is None:
            break  # nearer than rounding lets it come: what is left is filled below
        closing = a @ move
        pull = price * closing / slack + (aim / slack - price)
        step = _longest(np.concatenate([price, x, slack]), np.concatenate([pull, move, -closing]))
        x, price = x + step * move, price + step * pull
        slack = np.maximum(1.0 - a @ x, LEAST_SLACK)
    ohms = filled(x * unit, lines)
    return ohms, price / price.max(initial=1e-300)


class _Curved:
    """The matrices a' W a + D of Newton's steps, with diagonal W and D that change from step to step.

    The wires of one load alone stand in one line each, and are eliminated beforehand: what is left is as
    large as what several lines share. Eliminating column e of line l leaves that line the weight
    w d / (d + a^2 w).
    """

    def __init__(self, a: Floats) -> None:
        alone = np.flatnonzero((a > 0).sum(axis=0) == 1)
        self.lines, first = np.unique((a[:, alone] > 0).argmax(axis=0), return_index=True)
        self.alone = alone[first]
        self.shared = np.setdiff1d(np.arange(a.shape[1]), self.alone)
        self.own, self.a = a[self.lines, self.alone], np.ascontiguousarray(a[:, self.shared])
        self.at = np.diag_indices(len(self.shared))

    def solve(self, w: Floats, d: Floats, b: Floats) -> Floats | None:
        """The x of (a' W a + D) x = b; None where rounding leaves none."""
        w_own = w[self.lines] * self.own
        head = d[self.alone] + self.own * w_own
        beside = self.a[self.lines]
        left = w.copy()
        left[self.lines] *= d[self.alone] / head
        schur = self.a.T @ (self.a * left[:, None])
        schur[self.at] += d[self.shared]
        x = np.empty(len(b))
        rest = b[self.shared] - beside.T @ (w_own * b[self.alone] / head)
        if len(rest):
            _, rest, failed = dposv(schur, rest)
            if failed:
                return None
        x[self.shared] = rest
        x[self.alone] = (b[self.alone] - w_own * (beside @ rest)) / head
        return x if np.isfinite(x).all() else None


def _longest(amount: Floats, change: Floats) -> float:
    """How far one may go before one of these amounts is used up; not quite so far."""
    falls = change < 0
    used_up = float((-amount[falls] / change[falls]).min(initial=1.0))
    return min(1.0, 0.99 * used_up)


def filled(ohms: Floats, lines: Floats) -> Floats:
    """Ohms raised in step until each conductor stands in a line that is used up.

    Progressive filling (D. Bertsekas and R. Gallager, *Data Networks*, 2nd ed. 1992, 6.5.2): all grow in
    proportion; those in a line that is full stay; the rest grow on. `lines` are amperes over volts (m, n).

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
