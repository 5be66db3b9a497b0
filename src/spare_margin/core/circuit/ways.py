"""The ways of a craft's runs as arrays: which pieces each passes, on which side, in which direction."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.model.pieces import SIDES, Side

from .runs import Run


class Ways:
    """Runs over pieces; rows are runs in their order, columns are the craft's pieces in theirs.

    It holds for every craft that hangs together alike, whatever its pieces are made of.

    Attributes:
        passes: whether a run passes a piece, on its main way or beside it, (runs, pieces).
        sign: by side, 1 where a piece stands on the run's main way as it was drawn, -1 where it stands
            the other way round, else 0, (runs, pieces).
        single: whether every piece of every run stands alone on its way.
    """

    def __init__(self, runs: Mapping[str, Run], pieces: Sequence[str]) -> None:
        self.run_ids, self.ids = list(runs), list(pieces)
        self.row = {key: i for i, key in enumerate(self.run_ids)}
        self.column = {key: i for i, key in enumerate(self.ids)}
        shape = (len(self.run_ids), len(self.ids))
        self.passes = np.zeros(shape, dtype=bool)
        self.sign = {side: np.zeros(shape, dtype=np.int8) for side in SIDES}
        for i, run in enumerate(runs.values()):
            for side in SIDES:
                for step in (s for s in run.side(side) if s.load is None):
                    column = self.column[step.piece.id]
                    self.passes[i, column] = True
                    if not step.beside:
                        self.sign[side][i, column] = 1 if step.forward else -1
        self.on_side: dict[Side, NDArray[np.bool_]] = {s: self.sign[s] != 0 for s in SIDES}
        self.single = all(run.single_way for run in runs.values())
