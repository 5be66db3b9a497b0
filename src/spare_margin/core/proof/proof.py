"""The proof of a repaired run: what a pass needs, what was read before and after, what was won."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.model.jobs import ProofOutcome, WalkNote
from spare_margin.core.model.pieces import Craft
from spare_margin.core.protection.checks import Violation
from spare_margin.core.walk.walk import Measurement, left_to_read, skips

from .before_after import PieceChange, Row, Surface, Won, piece_changes, row, surfaces, won
from .conditions import Condition, conditions
from .likeness import Circumstances, Likeness, circumstances, likenesses
from .passes import ProofPass
from .points import changed_pieces

LEFT_UNDONE = "proof.left"
"""The note that says what was left undone, and why."""


@dataclass(frozen=True)
class Proof:
    """What the readings before and after a repair prove of one run.

    Attributes:
        likenesses: the conditions of both compared; empty where nothing was read before or after.
        left_out: measurements that were skipped, with the reason.
    """

    found: Judgement | None
    left: Judgement
    before: Circumstances | None
    after: Circumstances | None
    conditions: tuple[Condition, ...]
    likenesses: tuple[Likeness, ...]
    rows: tuple[Row, ...]
    pieces: tuple[PieceChange, ...]
    won: Won | None
    surfaces: tuple[Surface, ...]
    left_out: tuple[tuple[Measurement, str], ...]

    @property
    def outcome(self) -> ProofOutcome:
        """Failed where one condition does not hold, open where one is not known yet."""
        states = {c.holds for c in self.conditions}
        return "failed" if False in states else "open" if None in states else "passed"


def prove(
    found: ProofPass | None,
    left: ProofPass,
    wiring: Craft,
    points: Sequence[Measurement],
    expected: Mapping[str, float | None],
    notes: Sequence[WalkNote],
    guards: Iterable[str],
    violations: Iterable[Violation],
) -> Proof:
    """The proof of a run.

    Args:
        found, left: the run as found (None: nothing was read of it then) and as left.
        wiring: the craft as found.
        points: the measurements that prove it, from proof_points.
        expected: what the planned wiring shows at each, by its id (V, A).
        notes: of this run, taken as left.
        guards: ids of the cautions to be taken note of.
        violations: what is wrong with the protection as left.
    """
    judged = left.judgement
    before = None if found is None else circumstances(found.judgement, found.readings)
    after = circumstances(judged, left.readings)
    alike: tuple[Likeness, ...] = ()
    if found is not None and before is not None and after is not None:
        alike = likenesses(found.judgement, judged, before, after)
    skipped = skips(notes)
    unread = left_to_read(judged, points)
    missing = [m for m in unread if m.id not in skipped]
    worked = frozenset(changed_pieces(wiring, judged.craft, judged.run))
    return Proof(
        None if found is None else found.judgement, judged, before, after,
        conditions(found, left, missing, worked, alike, notes, guards, violations), alike,
        tuple(row(m, found, left, expected.get(m.id)) for m in points),
        tuple(piece_changes(found, judged, worked)), won(found, judged),
        tuple(surfaces(found, left)), tuple((m, skipped[m.id]) for m in unread if m.id in skipped),
    )  # fmt: skip
