"""What accepted readings teach about good pieces: a resistance each, and what many of them say together."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from spare_margin.core.model.pieces import FixedPiece

from .judgement import Judgement

MOST_DOUBT = 0.3
"""A resistance is taken where its half-width is at most this share of it."""
FEWEST = 5
"""So many readings, of several jobs, before anything is offered."""
FEWEST_JOBS = 2
"""One craft may be odd by itself."""
MIDDLE = 0.16, 0.5, 0.84
"""Quantiles: one standard deviation below, the median, one above."""


@dataclass(frozen=True, slots=True)
class Sample:
    """One piece of a run that was accepted: what it is, where, its ohms as read and as drawn."""

    kind: str
    style: str
    place: str
    ohm: float
    drawn_ohm: float


@dataclass(frozen=True, slots=True)
class Learned:
    """What readings of one kind of piece say: median and one standard deviation around it (ohm).

    `spread` is that of ln(read / drawn), by the middle two thirds of it. `count` readings of `jobs` jobs
    stand behind it.
    """

    kind: str
    style: str
    place: str
    count: int
    jobs: int
    low_ohm: float
    median_ohm: float
    high_ohm: float
    spread: float

    @property
    def enough(self) -> bool:
        """Whether there is enough behind it to be offered."""
        return self.count >= FEWEST and self.jobs >= FEWEST_JOBS


def accepted(found: Judgement, drawn: Mapping[str, float]) -> dict[str, Sample]:
    """The pieces that were read alone in a run that keeps its ceilings, by id; none where it does not.

    `drawn` are the ohms of every piece by the tables.

    Args:
        found: what the readings say of the run.
    """
    if found.verdict != "within":
        return {}
    pieces = {s.piece.id: s.piece for s in found.run.steps()}
    place = found.measured.craft.kind
    out: dict[str, Sample] = {}
    for span in found.spans:
        if len(span.span.pieces) != 1 or span.ohm is None or span.ohm_high is None:
            continue
        piece = pieces[span.span.pieces[0]]
        known = span.ohm_high - span.ohm <= MOST_DOUBT * span.ohm
        if not known or piece.resistance_ohm is not None or drawn.get(piece.id, 0.0) <= 0:
            continue
        style = piece.style or "" if isinstance(piece, FixedPiece) else ""
        out[piece.id] = Sample(piece.kind, style, place, span.ohm, drawn[piece.id])
    return out


def learned(jobs: Iterable[Sequence[Sample]]) -> list[Learned]:
    """What many jobs taught, most readings first: by kind, style and place; by kind and style; by kind."""
    by_key: dict[tuple[str, str, str], list[tuple[int, Sample]]] = {}
    for number, samples in enumerate(jobs):
        for each in samples:
            keys = [(each.kind, each.style, each.place), (each.kind, each.style, "")]
            # A kind as a whole has a spread of its own, whatever the styles.
            for key in dict.fromkeys([*keys, (each.kind, "", "")]):
                by_key.setdefault(key, []).append((number, each))
    out = [_of(key, held) for key, held in by_key.items()]
    return sorted(out, key=lambda each: (-each.count, each.kind, each.style, each.place))


def _of(key: tuple[str, str, str], held: Sequence[tuple[int, Sample]]) -> Learned:
    samples = [each for _, each in held]
    low, median, high = np.exp(np.quantile([math.log(s.ohm) for s in samples], MIDDLE))
    ratio = np.quantile([math.log(s.ohm / s.drawn_ohm) for s in samples], MIDDLE)
    return Learned(
        *key, len(samples), len({number for number, _ in held}), float(low), float(median),
        float(high), float((ratio[2] - ratio[0]) / 2),
    )  # fmt: skip
