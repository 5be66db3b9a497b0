"""One pass over a run: everything read of it on one stage, and what that says."""

from collections.abc import Sequence
from dataclasses import dataclass

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import Reading


@dataclass(frozen=True, slots=True)
class ProofPass:
    """A run as its readings have it, and the readings themselves."""

    judgement: Judgement
    readings: Sequence[Reading]
