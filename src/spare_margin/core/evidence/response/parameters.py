"""What is not known of a craft before anything is read: one list of unknowns, each with its doubt.

Every unknown is a departure from what is drawn, zero on average: a piece's resistance, all wires'
temperature, a load's current and a source's inner resistance relative to the drawing; a source's
open-circuit volts (V) in one moment, and at one reading that had a source reading of its own; a meter's
gain error, shared by all its readings.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from spare_margin.core.evidence.observation.moments import STAND_IN
from spare_margin.core.evidence.observation.observations import Observed
from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables

Floats = NDArray[np.float64]
Key = tuple[str, str]
COPPER: Key = ("copper", "")
BASE: Key = ("base", "")
"""The size of the first of two faults, relative to the step it was found in."""
BASE_SPREAD = 0.4
"""One sigma of its logarithm."""
ATTEMPTED_SPREAD = 1.0
"""What a load draws that is commanded and does not do it is next to unknown."""
UNKNOWN_SPREAD = 1.5
"""One sigma of the logarithm of what a load draws that nobody knows: from a fifth to five times."""
STAND_IN_SPREAD = 0.02
"""How far (one sigma) what a stand-in load draws may be off."""
SAG_SHARE = 0.02
"""How far a source may move between two readings of one moment, as a share of the nominal voltage."""


@dataclass(frozen=True)
class Parameters:
    """Unknowns by key: standard deviations, and means against what is linearised about; (unknowns,)."""

    keys: tuple[Key, ...]
    sigma: Floats
    mean: Floats

    @cached_property
    def index(self) -> Mapping[Key, int]:
        """The place of each unknown."""
        return {key: i for i, key in enumerate(self.keys)}

    @cached_property
    def variance(self) -> Floats:
        """Squares of the standard deviations."""
        return self.sigma**2


def parameters(
    craft: Craft, observed: Observed, pieces: Iterable[str], loads: Iterable[str], tables: Tables
) -> Parameters:
    """The unknowns of a craft: these pieces and loads, every source, and what was observed.

    Sources: M. C. Kennedy and A. O'Hagan, Bayesian calibration of computer models, J. R. Stat. Soc. B 63
    (2001); JCGM 100 (GUM) 5.2, correlated input quantities.

    Args:
        tables: the reference tables.
    """
    spreads = tables.spreads
    wanted, on = set(pieces), set(loads)
    rows: list[tuple[Key, float]] = [
        (("piece", p.id), spreads.of_piece(p)) for p in craft.pieces if p.id in wanted
    ]
    rows += [(COPPER, spreads.of("copper")), (BASE, BASE_SPREAD)]
    attempted = {
        key for c in observed.conditions for key, s in c.states.items() if s == "attempted"
    }
    for load in craft.loads:
        if load.id in on:
            spread = UNKNOWN_SPREAD if load.behaviour is None else spreads.of("load")
            rows.append(
                (
                    ("load", load.id),
                    max(spread, ATTEMPTED_SPREAD) if load.id in attempted else spread,
                )
            )
    if any(c.stand_in is not None for c in observed.conditions):
        rows.append((("load", STAND_IN), STAND_IN_SPREAD))
    emf = spreads.of("emf") * craft.nominal_v
    for source in craft.sources:
        rows.append((("inner", source.id), spreads.of("internal")))
        rows += [(("emf", f"{source.id} {key}"), emf) for key in moment_keys(observed)]
    rows += [
        (("sag", o.sag), SAG_SHARE * craft.nominal_v)
        for o in observed.values
        if o.sag is not None and o.beside
    ]
    rows += [(("gain", meter), sigma) for meter, sigma in observed.gains.items()]
    keys, sigma = zip(*rows, strict=True)
    return Parameters(tuple(keys), np.array(sigma, dtype=float), np.zeros(len(keys)))


def moment_keys(observed: Observed) -> list[str]:
    """Moments that have open-circuit volts of their own; a trial shares those of its moment.

    Args:
        observed: what was read, as observations.
    """
    return list(dict.fromkeys(emf_key(c.key) for c in observed.conditions))


def emf_key(conditions_key: str) -> str:
    """The moment whose source conditions share: a trial changes the wiring, not the battery.

    Args:
        conditions_key: what tells the conditions from others.
    """
    return conditions_key.partition(" trial ")[0]
