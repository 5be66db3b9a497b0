"""Two faults at once, where no single one explains the readings: best-first, one on top of the other."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from spare_margin.core.evidence.response.parameters import Floats

from .faults import OPEN_OHM, FaultClass
from .linearisation import Base
from .mixture import Cases, Weighed
from .scope import Scope

PAIR_ODDS = 0.02
"""How much rarer two faults at once are than either of them."""
BASES, SECOND_BASES = 5, 2
"""How many of the likeliest single faults are put into the craft, and of the second ones of pairs."""


def pairs(scope: Scope, single: Weighed) -> tuple[Weighed, dict[str, Base]]:
    """Singles and pairs together, and the faults on top of which the latter were weighed.

    Alone, a fault was made as large as both; so the likeliest second faults are then taken for the
    first, in the size they have beside another, and every other is weighed on top of them again.

    Args:
        scope: what is weighed.
        single: the single faults, weighed.
    """
    bases = dict[str, Base]()
    parts, found = [single.cases], single
    for most in (BASES, SECOND_BASES):
        for fault, size in _heaviest(scope, found, most, paired=len(parts) > 1):
            base = (fault.element or "", min(size, OPEN_OHM))
            parts = [p for p in parts if not _stands_on(p, base[0])]
            parts.append(_on_top(scope, fault, base))
            bases[base[0]] = base
        found = scope.weigh(_together(parts))
    return found, bases


def _on_top(scope: Scope, fault: FaultClass, base: Base) -> Cases:
    """Every other fault on top of one that stands; both orders of a pair share its odds."""
    classes = scope.classes
    own = sum(p for f, _, p in classes if f.element == fault.element and f.kind == fault.kind)
    rest = [
        (replace(f, beside=fault), sizes, 0.5 * p * PAIR_ODDS * own)
        for f, sizes, p in classes
        if f.element not in (None, fault.element)
    ]
    return scope.cases(rest, scope.circuits_with(base))


def _heaviest(
    scope: Scope, found: Weighed, most: int, paired: bool
) -> list[tuple[FaultClass, float]]:
    """The faults of pieces that explain most, each in its best size; the second ones of pairs."""
    out: list[tuple[FaultClass, float]] = []
    cases = found.cases
    seen: set[str] = set()
    for i in np.argsort(-found.log_evidence):
        fault = cases.classes[cases.number[i]]
        if (fault.beside is not None) != paired or fault.since or fault.element is None:
            continue
        if fault.kind not in ("excess_resistance", "open") or fault.element in scope.loads:
            continue
        if fault.element not in seen:
            seen.add(fault.element)
            out.append((FaultClass(fault.element, fault.kind), float(cases.sizes[i])))
            if len(out) == most:
                break
    return out


def _stands_on(cases: Cases, element: str) -> bool:
    beside = cases.classes[0].beside
    return beside is not None and beside.element == element


def _together(parts: Sequence[Cases]) -> Cases:
    """Cases of several kinds as one."""
    shift = np.cumsum([0, *(len(part.classes) for part in parts[:-1])])

    def joined(name: str) -> Floats:
        return np.concatenate([getattr(part, name) for part in parts])

    return Cases(
        classes=tuple(fault for part in parts for fault in part.classes),
        number=np.concatenate([p.number + s for p, s in zip(parts, shift, strict=True)]),
        sizes=joined("sizes"),
        cells=joined("cells"),
        log_prior=joined("log_prior"),
        values=joined("values"),
        slopes=joined("slopes"),
        by_size=joined("by_size"),
        moments=parts[0].moments,
        factor=joined("factor"),
    )
