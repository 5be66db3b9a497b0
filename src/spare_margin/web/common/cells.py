"""One pass of readings on one run, as the sheet and the walk show it: cells, sums, findings."""

from collections.abc import Callable

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.circuit.runs import Run
from spare_margin.core.evidence.observation.observations import live_readings
from spare_margin.core.evidence.verdict.account import Account, account
from spare_margin.core.evidence.verdict.judgement import (
    JudgedSide,
    JudgedSpan,
    Judgement,
    PartVerdict,
)
from spare_margin.core.measure.findings import Contradiction, Finding, Over, RepeatsDiffer
from spare_margin.core.measure.verdicts import Verdict as ShownVerdict
from spare_margin.core.model.jobs import Reading, Stage
from spare_margin.core.model.pieces import Craft, Side
from spare_margin.wording.craft.names import fitted_to_drop
from spare_margin.wording.craft.workings import WorkingLine
from spare_margin.wording.language.figures import Figure, ohm_within
from spare_margin.wording.measured.findings import finding_words
from spare_margin.wording.measured.readings import beside_words, doubted_words
from spare_margin.wording.measured.spans import (
    corrected_lines,
    reading_lines,
    side_lines,
    span_lines,
)
from spare_margin.wording.measured.verdicts import judgement_words, shown_verdict

from .models import Cell, FindingOut, Foot, PassOut, ToldReading

Said = Over | Contradiction
"""Findings that the sentence of the verdict says already."""
Doubted = Contradiction | RepeatsDiffer
"""Findings that name readings of which one may have been typed wrong."""


class JudgedStage:
    """The readings of one stage on one run, judged. Without a judgement nothing of it was read."""

    def __init__(
        self,
        stage: Stage,
        revision: str,
        budget: RunBudget,
        judgement: Judgement | None,
        readings: list[Reading],
        craft: Craft,
    ) -> None:
        self.stage, self.revision, self.budget, self.craft = stage, revision, budget, craft
        self.readings, self._all = live_readings(readings), {r.id: r for r in readings}
        self.judgement = judgement
        self.account = Account() if judgement is None else account(judgement)

    @property
    def measured(self) -> bool:
        """Whether anything on this run was read."""
        found = self.judgement
        if found is None:
            return False
        return bool(found.spans) or found.amps is not None or found.conclusion.headline == "open"

    @property
    def verdict(self) -> ShownVerdict:
        """The run's verdict as shown."""
        return shown_verdict(self.judgement) if self.judgement and self.measured else "not_measured"

    def says(self) -> str:
        """The pass in a sentence or two."""
        if self.judgement is None or not self.measured:
            return ""
        return judgement_words(self.judgement, self.craft)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """Everything the readings have to say."""
        return self.judgement.findings if self.judgement else ()

    def side(self, side: Side) -> JudgedSide | None:
        """A side as judged, where it was read."""
        judged = self.judgement.sides[side] if self.judgement else None
        return judged if judged is not None and judged.volts is not None else None

    def spans(self, red: str, black: str) -> list[JudgedSpan]:
        """What was read over a span, a moment each."""
        if self.judgement is None:
            return []
        return [s for s in self.judgement.spans if {s.span.red, s.span.black} == {red, black}]

    def cell(self, red: str, black: str) -> Cell | None:
        """The cell of a span: its latest reading, judged as the model has it."""
        own = [
            r for r in self.readings if r.quantity == "volts" and {r.red, r.black} == {red, black}
        ]
        spans = self.spans(red, black)
        if own:
            return self._cell(own[-1], spans[-1] if spans else None)
        return None

    def side_cell(self, side: Side) -> Cell | None:
        """The cell of a whole side: read across itself, else as its readings join its ends."""
        ends = self.budget.run.ends(side)
        judged = self.side(side)
        cell = self.cell(*ends)
        if judged is None:
            return cell
        spare = None
        if judged.ceiling_v is not None and judged.loaded_v is not None:
            spare = judged.ceiling_v - judged.loaded_v
        verdict = self._verdict(judged.verdict)
        lines = side_lines(judged, self.judgement) if self.judgement else []
        if cell is not None:
            return cell.model_copy(
                update={
                    "loaded_v": judged.loaded_v, "spare_v": spare, "verdict": verdict,
                    "doubt_v": judged.loaded_doubt_v, "working": lines,
                }
            )  # fmt: skip
        return Cell(
            reading=None, typed="", state="value", volts=judged.volts, accuracy_v=judged.doubt_v,
            loaded_v=judged.loaded_v, doubt_v=judged.loaded_doubt_v, measured=None,
            spare_v=spare, verdict=verdict, direct=False, set_aside=False, taken_at=None, findings=[],
            working=lines,
        )  # fmt: skip

    def _verdict(self, verdict: PartVerdict) -> ShownVerdict:
        if verdict == "not_judged":
            unproven = self.judgement is not None and self.judgement.loaded is False
            return "not_loaded" if unproven else "not_measured"
        return verdict

    def _cell(self, reading: Reading, judged: JudgedSpan | None) -> Cell:
        aside = self.judgement is not None and reading.id in self._aside
        spare = None
        if judged is not None and judged.allowed_v is not None and judged.loaded_v is not None:
            spare = judged.allowed_v - judged.loaded_v
        known = None if aside else judged
        return Cell(
            reading=reading.id,
            typed=reading.typed,
            state=reading.state,
            volts=reading.value,
            accuracy_v=reading.accuracy if reading.value is not None else None,
            loaded_v=known.loaded_v if known else None,
            doubt_v=known.loaded_doubt_v if known else None,
            measured=_measured(known),
            spare_v=None if aside else spare,
            verdict="not_measured" if known is None else self._verdict(known.verdict),
            direct=True,
            set_aside=aside,
            taken_at=reading.taken_at,
            findings=self._findings_of(reading.id),
            working=[
                *self._working(known), *reading_lines(reading), *corrected_lines(self._was(reading)),
            ],
        )  # fmt: skip

    def _was(self, reading: Reading) -> list[Reading]:
        """What was typed wrong before a reading was put in its place, the last first."""
        was: list[Reading] = []
        earlier = self._all.get(reading.supersedes or "")
        while earlier is not None and earlier not in was:
            was.append(earlier)
            earlier = self._all.get(earlier.supersedes or "")
        return was

    def doubted(self) -> list[ToldReading]:
        """The readings of which one may have been typed wrong, each once."""
        named = [r for f in self.findings if isinstance(f, Doubted) for r in f.readings]
        held = [self._all[key] for key in dict.fromkeys(named) if key in self._all]
        return [self._told(r, doubted_words) for r in held]

    def beside(self) -> list[ToldReading]:
        """What was read that is no drop: ohms, a test lamp, warmth, ripple, a load on the bench."""
        return [
            self._told(r, beside_words)
            for r in self.readings
            if r.quantity not in ("volts", "amperes") or r.id in self._bench
        ]

    def _told(self, r: Reading, words: Callable[[Reading, Craft, Run], str]) -> ToldReading:
        return ToldReading(
            reading=r.id, says=words(r, self.craft, self.budget.run), quantity=r.quantity, red=r.red,
            black=r.black, scenario=r.scenario,
        )  # fmt: skip

    @property
    def _bench(self) -> frozenset[str]:
        """Readings of a load's current unplugged from the craft."""
        observed = self.judgement.observed.bench if self.judgement else ()
        return frozenset(b.reading for b in observed)

    @property
    def _aside(self) -> frozenset[str]:
        if self.judgement is None:
            return frozenset()
        return self.judgement.observed.set_aside

    def _findings_of(self, reading: str) -> list[FindingOut]:
        return [finding(f, self.craft) for f in self.findings if reading in f.readings]

    def _working(self, judged: JudgedSpan | None) -> list[WorkingLine]:
        if judged is None or self.judgement is None:
            return []
        return span_lines(judged, self.judgement, self.craft)

    def current(self) -> Cell | None:
        """The cell of the current that was read last."""
        amps = [r for r in self.readings if r.quantity == "amperes" and r.id not in self._bench]
        return self._cell(amps[-1], None) if amps else None

    def guilty(self) -> str | None:
        """The piece that holds the evidence, if one does."""
        if self.judgement is None or self.judgement.done != "cornered":
            return None
        return next(iter(self.judgement.found), None)

    def out(self) -> PassOut:
        """The whole pass."""
        run = self.budget.run
        return PassOut(
            stage=self.stage,
            revision=self.revision,
            source=self.cell(run.source.live, run.source.back),
            load=self.cell(run.feed_terminal, run.return_terminal),
            current=self.current(),
            verdict=self.verdict,
            says=self.says(),
            guilty=self.guilty(),
            findings=[finding(f, self.craft) for f in self.findings if not isinstance(f, Said)],
            doubted=self.doubted(),
            foot=self.foot(),
        )

    def foot(self) -> Foot:
        """The sum of this pass, of the moment it was read."""
        a = self.account
        return Foot(
            basis="as_left" if self.stage == "as_left" else "as_found",
            source_v=a.source.volts if a.source else None,
            feed_v=a.feed.volts if a.feed else None,
            load_v=a.load.volts if a.load else None,
            return_v=a.back.volts if a.back else None,
            unaccounted_v=a.left_v,
            closes=a.closes,
            by_difference=list(a.by_difference),
            holds=fitted_to_drop(self.budget.run),
        )


def finding(f: Finding, craft: Craft) -> FindingOut:
    """A finding, for the API."""
    says, do = finding_words(f, craft)
    return FindingOut(code=f.code, says=says, do=do, readings=list(f.readings), piece=f.piece)


def _measured(judged: JudgedSpan | None) -> Figure | None:
    """A span's ohms by V / I, with no more digits than their doubt."""
    if judged is None or judged.ohm is None or judged.ohm_high is None:
        return None
    return ohm_within(judged.ohm, judged.ohm_high - judged.ohm)
