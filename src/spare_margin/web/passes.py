"""One pass of readings on one run, as the sheet shows it."""

from spare_margin.core.account import Judged, RunAccount, account
from spare_margin.core.budget import RunBudget
from spare_margin.core.jobs import Reading, Stage
from spare_margin.core.pieces import called
from spare_margin.core.reading_checks import Finding
from spare_margin.core.readings import Measured, Verdict, live_readings
from spare_margin.exchange.units import spoken

from .models import Cell, FindingOut, Foot, PassOut
from .words import sided, volts

Basis = dict[Stage, str]


class Pass:
    """The readings of one stage, taken in one scenario, against one run's budget."""

    def __init__(
        self,
        stage: Stage,
        revision: str,
        budget: RunBudget,
        readings: list[Reading],
        nominal_v: float,
        stale: frozenset[str],
        elsewhere: int,
    ) -> None:
        self.stage, self.revision, self.budget, self.elsewhere = stage, revision, budget, elsewhere
        self.readings = live_readings(readings)
        self.account: RunAccount = account(budget, readings, nominal_v, stale)

    @property
    def measured(self) -> bool:
        """Whether anything on this run was read."""
        a = self.account
        return bool(a.pieces or a.sides or a.load or a.source or a.clamp_a is not None)

    def usable(self) -> list[Reading]:
        """The readings on which a verdict may rest."""
        return [r for r in self.readings if r.id not in self.account.set_aside]

    def cell_of(self, reading: Reading, red: str, black: str) -> Cell:
        """The cell of one reading, judged where its span is a piece or a side of the run."""
        judged = None
        for p in (p for side in self.budget.sides for p in side.pieces):
            if {p.step.entry, p.step.exit} == {red, black}:
                judged = self.account.pieces.get(p.step.piece.id)
        for side in self.budget.sides:
            if set(self.budget.run.ends(side.side)) == {red, black}:
                judged = self.account.sides.get(side.side)
        return self._cell(reading, judged)

    def span(self, red: str, black: str, judged: Judged | None, derive: bool = True) -> Cell | None:
        """The cell of a span: its latest own reading, else what other readings say of it."""
        own = [
            r for r in self.readings if r.quantity == "volts" and {r.red, r.black} == {red, black}
        ]
        if own:
            return self._cell(own[-1], judged)
        return self._derived(judged) if derive and judged is not None else None

    def plain(self, red: str, black: str, measured: Measured | None) -> Cell | None:
        """The cell of a span that has no allowance: the source, the load."""
        judged = None
        if measured is not None:
            judged = Judged(measured, measured, "not_measured", None)
        return self.span(red, black, judged)

    def _cell(self, reading: Reading, judged: Judged | None) -> Cell:
        aside = reading.id in self.account.set_aside
        verdict: Verdict = "not_measured" if judged is None or aside else judged.verdict
        return Cell(
            reading=reading.id,
            typed=reading.typed,
            state=reading.state,
            volts=reading.value,
            accuracy_v=reading.accuracy if reading.value is not None else None,
            loaded_v=None if judged is None or aside else judged.loaded.volts,
            spare_v=None if judged is None or aside else judged.spare_v,
            verdict=verdict,
            direct=True,
            set_aside=aside,
            taken_at=reading.taken_at,
            findings=[finding(f) for f in self.account.findings if reading.id in f.readings],
        )

    @staticmethod
    def _derived(judged: Judged) -> Cell:
        return Cell(
            reading=None,
            typed="",
            state="value",
            volts=judged.raw.volts,
            accuracy_v=judged.raw.accuracy,
            loaded_v=judged.loaded.volts,
            spare_v=judged.spare_v,
            verdict=judged.verdict,
            direct=False,
            set_aside=False,
            taken_at=None,
            findings=[],
        )

    def _current(self) -> Cell | None:
        amps = [r for r in self.readings if r.quantity == "amperes"]
        if not amps:
            return None
        r = amps[-1]
        return Cell(
            reading=r.id,
            typed=r.typed,
            state=r.state,
            volts=r.value,
            accuracy_v=r.accuracy,
            loaded_v=None,
            spare_v=None,
            verdict="not_measured",
            direct=True,
            set_aside=False,
            taken_at=r.taken_at,
            findings=[],
        )

    def out(self) -> PassOut:
        """The whole pass."""
        run, a = self.budget.run, self.account
        return PassOut(
            stage=self.stage,
            revision=self.revision,
            source=self.plain(run.source.live, run.source.back, a.source),
            load=self.plain(run.feed_terminal, run.return_terminal, a.load),
            current=self._current(),
            verdict=a.verdict if self.measured else "not_measured",
            says=sided(self.says()),
            guilty=a.guilty,
            findings=[finding(f) for f in a.findings],
            foot=self.foot(),
            elsewhere=self.elsewhere,
        )

    def foot(self) -> Foot:
        """The sum of this pass. A side is raw here: the account is of the moment it was read."""
        a = self.account
        sides = {side: judged.raw for side, judged in a.sides.items()}
        known = {
            "source": a.source,
            "feed": sides.get("feed"),
            "load": a.load,
            "return": sides.get("return"),
        }
        return Foot(
            basis="as_left" if self.stage == "as_left" else "as_found",
            source_v=_volts(a.source),
            feed_v=_volts(known["feed"]),
            load_v=_volts(a.load),
            return_v=_volts(known["return"]),
            unaccounted_v=_volts(a.unaccounted),
            closes=a.closes,
            by_difference=[name for name, m in known.items() if m is not None and not m.direct],
        )

    def says(self) -> str:
        """The pass in a sentence or two."""
        a = self.account
        if not self.measured:
            return ""
        if a.verdict == "not_loaded":
            return "No current flowed: these readings prove nothing yet."
        over = [s for s, j in a.sides.items() if j.verdict == "over"]
        parts = []
        if a.guilty is not None:
            judged = a.pieces[a.guilty]
            parts.append(f"{self._name(a.guilty)} is over by {volts(-(judged.spare_v or 0))}.")
        for side in over:
            spare = a.sides[side].spare_v or 0.0
            hint = "" if a.guilty or self._all_read(side) else " Read its pieces to corner it."
            parts.append(f"The {side} is over its ceiling by {volts(-spare)}.{hint}")
        if parts:
            return " ".join(parts)
        missing = [s.side for s in self.budget.sides if s.side not in a.sides]
        if missing:
            verb = "is" if len(missing) == 1 else "are"
            return f"Not judged yet: the {' and the '.join(missing)} {verb} not measured."
        close = [s for s, j in a.sides.items() if j.verdict == "too_close"]
        if close:
            return f"Too close to call: the {' and the '.join(close)}, within the meter's doubt."
        end = {True: " The volts close.", False: " But the volts do not close.", None: ""}[a.closes]
        return f"Feed and return are within their ceilings.{end}"

    def _name(self, piece_id: str) -> str:
        return next(called(s.piece) for s in self.budget.run.steps() if s.piece.id == piece_id)

    def _all_read(self, side: str) -> bool:
        steps = [s for s in self.budget.run.steps() if s.piece.side == side]
        return all(s.piece.id in self.account.pieces for s in steps)


def finding(f: Finding) -> FindingOut:
    """A finding, for the API."""
    return FindingOut(
        check=f.check,
        says=sided(spoken(f.says)),
        do=sided(spoken(f.do)),
        readings=list(f.readings),
        piece=f.piece,
    )


def _volts(measured: Measured | None) -> float | None:
    return None if measured is None else measured.volts
