"""What the readings of an exercise leave possible, by bounds; and what of a conclusion they carry."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from spare_margin.core.bounds.conclusion import Headline, Range
from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.remarks import load_is_off
from spare_margin.core.measure import findings as found_as
from spare_margin.core.model.jobs import Moment, Reading, Trial
from spare_margin.core.model.pieces import SIDES

from .acts import Claim
from .exercise import PULLS_IN
from .played import WARM_MIN, Played

Judge = Callable[[Sequence[Reading], Sequence[Moment], Sequence[Trial], str], Judgement]
"""What readings say of the run of a load, by its id."""
SAGS_SHARE = 0.06
"""A source that stands lower under load than it should by this share of the nominal voltage is weak."""
NAMES_A_PIECE = (found_as.Moves, found_as.ComesAndGoes, found_as.Burns)
"""Findings that convict a piece though its run is within."""


@dataclass(frozen=True, slots=True)
class Left:
    """What is still possible.

    Attributes:
        pieces: the ids of what may still be at fault: pieces, the load, the source.
        volts: what of the source's volts nothing accounts for yet; `share` of all of them.
        found: the ids of what no circuit with these readings can acquit: pieces, the load, the source.
        headline: the verdict of the complaint's run.
    """

    pieces: tuple[str, ...]
    volts: float
    share: float
    found: tuple[str, ...]
    headline: Headline

    @property
    def weight(self) -> float:
        """How much there is still to find out: pieces, and volts as the share of one."""
        return len(self.pieces) + (0.0 if self.found else self.share)


class Standing:
    """What an exercise's readings say where it was played to; worked out once.

    Args:
        at: the exercise as far as it was played.
        judge: what says what readings mean.
    """

    def __init__(self, at: Played, judge: Judge) -> None:
        self.at, self.exercise = at, at.exercise
        self.judged = {
            run: judge(at.current, at.moments, at.trials, run) for run in at.exercise.looked_at
        }

    @property
    def own(self) -> Judgement:
        """What is said of the complaint's run."""
        return self.judged[self.exercise.run]

    @property
    def named(self) -> tuple[str, ...]:
        """Pieces that are convicted by how they behave: moved, coming and going, burning."""
        return tuple(_named(self.own))

    @cached_property
    def left(self) -> Left:
        """What is still possible."""
        found = tuple(dict.fromkeys(self._found()))
        pieces = tuple(dict.fromkeys(self._open(found)))
        volts = self._volts()
        share = volts / self.exercise.loop.source.open_circuit_v
        return Left(pieces, volts, share, found, self.own.conclusion.headline)

    # What is found

    def _found(self) -> Iterator[str]:
        for run, judged in self.judged.items():
            for each in judged.conclusion.found:
                contact = each.piece in self.exercise.relays
                # An open contact is at fault only where its coil is known to be fed.
                if not (contact and each.kind == "open") or self.coil_fed(each.piece):
                    yield each.piece
            if run == self.exercise.run:
                yield from _named(judged)
        if self.load_is_off:
            yield self.exercise.run
        if self.source_sags:
            yield self.exercise.loop.source.id

    def coil_fed(self, contact: str) -> bool:
        """Whether the coil of a relay was read to get what it needs.

        Args:
            contact: the id of the contact.
        """
        coil = self.exercise.craft.load(self.exercise.relays[contact])
        ends = {coil.start, coil.end}
        least = PULLS_IN * self.exercise.craft.nominal_v
        return any(
            {r.red, r.black} == ends and abs(r.value or 0.0) - r.accuracy >= least
            for r in self.at.current
            if r.quantity == "volts" and self._on(r)
        )

    @property
    def load_is_off(self) -> bool:
        """Whether the load itself is to blame: it gets its volts and draws otherwise than it should."""
        return self.own.done == "load" or load_is_off(self.own)

    @property
    def source_sags(self) -> bool:
        """Whether the source was read under load to stand lower than it should."""
        source = self.exercise.loop.source
        should_sag = source.internal_ohm * self.exercise.every_a
        least = source.open_circuit_v - should_sag - SAGS_SHARE * self.exercise.craft.nominal_v
        return any(
            {r.red, r.black} == {source.live, source.back} and abs(r.value) + r.accuracy < least
            for r in self.at.current
            if r.quantity == "volts" and r.value is not None and r.trial is None and self._on(r)
        )

    def _on(self, reading: Reading) -> bool:
        moment = next(m for m in self.at.moments if m.id == reading.moment)
        return moment.loads.get(self.exercise.run) in ("running", "attempted")

    # What is open still

    def _open(self, found: Sequence[str]) -> Iterator[str]:
        if self.named:
            return
        for run, judged in self.judged.items():
            coil = run != self.exercise.run
            if coil and (self.own.loaded or run not in self._coils_asked):
                continue
            asked = _pieces_left(judged)
            # An open contact whose coil is not fed is none of it.
            answered = any(p in found for p in asked) or (not coil and self._by_coil(found))
            open_one = judged.conclusion.headline == "open" and answered
            yield from (p for p in asked if p not in found and not open_one)
        yield from self._unseen(found)

    def _by_coil(self, found: Sequence[str]) -> bool:
        """Whether what is found feeds a relay's coil, and not the complaint's run."""
        own = {s.piece.id for s in self.exercise.loop.steps()}
        return bool(found) and not own & set(found)

    def _unseen(self, found: Sequence[str]) -> Iterator[str]:
        """What no reading of the run at rest could show: the load, the source, what warms or moves."""
        made, symptom, run = self.own.conclusion, self.exercise.symptom, self.exercise.loop
        if found or made.headline in ("over", "over_as_ran", "open", "no_current"):
            return
        if made.loaded is not True:
            yield run.load.id
        if not self.at.repairs and not self._read_on(run.source.live, run.source.back):
            yield run.source.id
        # After a repair what was put right must show that it is.
        pieces = [
            s.piece.id
            for s in run.steps()
            if not self.at.repairs or s.piece.id in self.at.state.mended
        ]
        if symptom == "now_and_then":
            moved = {r.moved for r in self.at.current}
            yield from (p for p in pieces if p not in moved)
        if symptom == "fades" and not self._read_warm:
            yield from pieces

    def _read_on(self, red: str, black: str) -> bool:
        return any({r.red, r.black} == {red, black} and self._on(r) for r in self.at.current)

    @property
    def _read_warm(self) -> bool:
        """Whether both sides were read after it had been on for long."""
        ends = [set(self.exercise.loop.ends(side)) for side in SIDES]
        warm = {m.id for m in self.at.moments if (m.warm_min or 0.0) >= WARM_MIN}
        return all(
            any({r.red, r.black} == each and r.moment in warm for r in self.at.current)
            for each in ends
        )

    @property
    def _coils_asked(self) -> set[str]:
        return {
            coil for contact, coil in self.exercise.relays.items() if not self.coil_fed(contact)
        }

    def _volts(self) -> float:
        made = self.own.conclusion
        source_v = self.exercise.loop.source.open_circuit_v
        if made.headline == "open":
            return 0.0 if made.found else source_v
        if made.sides is None:
            return source_v
        return min(sum(_width(made.sides[s].ran, source_v) for s in SIDES), source_v)

    # What of a conclusion is carried

    def carries(self, claim: Claim) -> bool:
        """Whether the readings carry a claim: no circuit that agrees with them lets its element off."""
        return claim.element in self.left.found

    @property
    def carries_well(self) -> bool:
        """Whether the readings carry that all is well: of what comes and goes too, where it was said to."""
        left = self.left
        return self.own.conclusion.headline == "within" and not (left.found or left.pieces)


def _named(judged: Judgement) -> Iterator[str]:
    for each in judged.findings:
        if isinstance(each, NAMES_A_PIECE) and each.piece:
            yield each.piece


def _pieces_left(judged: Judgement) -> list[str]:
    """The pieces of a run that no reading has cleared, within the span that must hold the excess."""
    made, run = judged.conclusion, judged.run
    out: list[str] = []
    if made.headline in ("within", "within_as_ran"):
        return out
    if made.headline == "open" and made.found:
        return list(judged.found)
    between = run.between(*made.between) if made.between else None
    for side in SIDES:
        verdict = made.sides[side].verdict if made.sides else "not_judged"
        if verdict in ("within", "within_as_ran"):
            continue
        for step in run.side(side):
            key = step.piece.id
            inside = between is None or between.side != side or key in between.pieces
            elsewhere = between is not None and between.side != side and made.headline == "open"
            settled = verdict == "over" and bool(made.found) and key not in judged.found
            if inside and not elsewhere and not settled and key not in made.cleared:
                out.append(key)
    return out


def _width(ran: Range, most: float) -> float:
    return (most if ran.high is None else ran.high) - max(ran.low or 0.0, 0.0)
