"""A walk as the hand shows it: cards, suspects, pattern, and what is still unaccounted for."""

from datetime import UTC, datetime

from spare_margin.core.budget.run_budget import RunBudget
from spare_margin.core.evidence.estimate.responses import Row
from spare_margin.core.evidence.estimate.search import Suspect
from spare_margin.core.evidence.verdict.outlook import in_moment
from spare_margin.core.evidence.verdict.source_age import source_doubt_v, source_is_asked_for
from spare_margin.core.evidence.verdict.trends import joined
from spare_margin.core.measure.patterns import terminal_pattern
from spare_margin.core.model.jobs import Stage
from spare_margin.core.model.pieces import Craft, kind_of
from spare_margin.core.walk.cautions import guards
from spare_margin.core.walk.safety import out_of_scope
from spare_margin.core.walk.walk import (
    HOLD_SECONDS,
    Expectation,
    Measurement,
    Walk,
    expectation,
    range_for,
    walk,
)
from spare_margin.service.judging import Judging
from spare_margin.service.repairing import proving
from spare_margin.service.session import Choice, JobSession
from spare_margin.web.common.cautions import shown
from spare_margin.web.common.cells import Pass
from spare_margin.web.common.models import Cell, Point, SheetQuery
from spare_margin.web.common.parts import point_out, source_out
from spare_margin.wording import figures, pieces
from spare_margin.wording.cautions import refusal_words
from spare_margin.wording.figures import digits, percent
from spare_margin.wording.names import full_name, full_names
from spare_margin.wording.walks import ENDINGS, MANNERS, measurement_title, pattern_words

from .models import Card, Guard, MomentLoad, MomentOut, PatternOut, SuspectOut, WalkOut
from .workings import card_lines

MOST_SUSPECTS = 12
LEAST_TOLD = 0.005
"""A suspicion below this is none worth a figure."""


class WalkMaker:
    """Makes the walk of one run from the session of its job."""

    def __init__(self, session: JobSession, query: SheetQuery) -> None:
        self.session = session
        snapshot = session.snapshot
        stage: Stage = "as_left" if query.stage == "as_left" else "as_found"
        if query.stage is None and "as_left" in snapshot.heads:
            stage = "as_left"
        self.stage = stage
        held = session.standing_in(stage)
        scenario = query.scenario
        if scenario is None and snapshot.readings:
            scenario = snapshot.readings[-1].scenario
        self.view = session.view(Choice(query.run, scenario, held))
        self.solved = session.solved(held, self.view)
        self.run_id = session.run_of(query.run, self.solved)
        self.budget: RunBudget = self.solved.budgets[self.run_id]
        self.craft: Craft = self.solved.craft
        self.judging: Judging = session.judging(stage)
        self.judgement = self.judging.judge(self.run_id, self.view.scenario)
        self.taken = Pass(
            stage, session.head(held).id, self.budget, self.judgement,
            snapshot.readings_of(stage), self.craft,
        )  # fmt: skip
        self.names = full_names(self.craft, self.budget.run)
        wanted = proving(session, self.run_id, self.view.scenario) if stage == "as_left" else None
        self.proving = wanted.points if wanted else ()
        self.expected = wanted.expected if wanted else {}

    def out(self) -> WalkOut:
        """The whole walk."""
        run, craft = self.budget.run, self.craft
        points = self._own_points()
        names = (run.load.name, *(p.name for p in craft.points if p.id in points))
        refused = out_of_scope(*names)
        notes = [
            n for n in self.session.snapshot.notes if n.run == self.run_id and n.stage == self.stage
        ]
        stands = walk(self.judgement, notes, self.proving)
        reasons = {n.step: n.reason for n in notes if n.state == "skipped"}
        known = {n.step for n in notes if n.state == "acknowledged"}
        job = self.session.job
        needed = guards(craft, self.budget.current_a, self.stage, run.load.duty)
        return WalkOut(
            job=job.id,
            title=job.title,
            run=self.run_id,
            run_name=run.load.name,
            runs=[
                Point(id=key, name=each.load.name, access="open")
                for key, each in self.solved.runs.items()
            ],
            stage=self.stage,
            scenario=self.view.scenario.id,
            scenario_name=self.view.scenario.name,
            revision=self.taken.revision,
            refused=refusal_words(refused) if refused else "",
            guards=[
                Guard(id=f"caution {c.id}", caution=c, acknowledged=f"caution {c.id}" in known)
                for c in shown(needed)
            ],
            done=[self.card(m, reasons) for m in self._all_done(stands)],
            skipped=[self.card(m, reasons) for m in stands.skipped],
            now=None if refused or stands.next is None else self.card(stands.next, reasons),
            ending=stands.ending,
            ending_says=ENDINGS.get(stands.ending, ""),
            verdict=self.taken.verdict,
            verdict_says=self.taken.says(),
            suspicion={
                key: percent(p).removesuffix(" %")
                for key, p in self.judgement.search.by_element.items()
                if key is not None and p >= LEAST_TOLD
            },
            suspects=[self.suspect(s) for s in self.judgement.search.suspects[:MOST_SUSPECTS]],
            together=self.judgement.search.together,
            pattern=self.pattern(),
            foot=self.taken.foot(),
            unaccounted_says=self.unaccounted(),
            current_says=self.current(),
            findings=self.taken.out().findings,
            meter=self.session.meter.name,
            moment=self.moment(),
            points=[point_out(craft, p) for p in points],
        )

    def _own_points(self) -> list[str]:
        run = self.budget.run
        steps = [s for s in run.steps() if not s.beside]
        points = [p for s in steps for p in (s.entry, s.exit)]
        return list(dict.fromkeys([run.source.live, *points, run.source.back]))

    def _all_done(self, stands: Walk) -> list[Measurement]:
        """The opening measurements that are done, then every other span that was read, in order."""
        opening = {frozenset((m.red, m.black)) for m in stands.done if m.kind != "current"}
        own = set(self._own_points())
        spans: list[Measurement] = []
        for r in self.taken.readings:
            pair = frozenset((r.red, r.black))
            if r.quantity == "volts" and pair not in opening and pair <= own:
                opening.add(pair)
                spans.append(Measurement(f"span {r.red} {r.black}", "span", r.red, r.black))
        return [*stands.done, *spans]

    # The moment

    def moment(self) -> MomentOut:
        """The conditions under which will be read, and whether the source should be read again first."""
        snapshot, conditions = self.session.snapshot, self.judgement.conditions
        states = dict(conditions.states) if conditions else {}
        on = [
            MomentLoad(id=x.id, name=x.name, state=states.get(x.id, "running"))
            for x in self.craft.loads
            if x.id in self.view.scenario.on or states.get(x.id) not in (None, "off", "unplugged")
        ]
        run = self.budget.run
        posts = {run.source.live, run.source.back}
        taken = [
            r for r in self.taken.readings if {r.red, r.black} == posts and r.value is not None
        ]
        age = _age_s(taken[-1].taken_at) if taken else None
        warm = next(
            (r.warm_min for r in reversed(snapshot.readings) if r.warm_min is not None), None
        )
        own = next((m for m in on if m.id == self.run_id), None)
        state = "" if own is None else f"{own.name} {_state_word(own)}"
        others = len(on) - (1 if own else 0)
        parts = [self.view.scenario.name, state]
        if others:
            parts.append(f"{others} other {'load' if others == 1 else 'loads'} on")
        ask = self._source_asked(age) if taken and age is not None else ""
        return MomentOut(
            says=" \u00b7 ".join(p for p in parts if p),
            loads=on,
            warm="" if warm is None else digits(warm, 3),
            source_v=abs(taken[-1].value) if taken and taken[-1].value is not None else None,
            source_age_s=age,
            ask_source=ask,
        )

    def _source_asked(self, age: float) -> str:
        """Why the source should be read again before what is read next, if it should."""
        found = self.judgement
        probe = next(iter(found.probes), None)
        if probe is None or found.conditions is None:
            return ""
        doubt = source_doubt_v(found.search, found.conditions, probe.red, probe.black, age)
        held = self.budget.ceilings
        ceiling = min((c for c in (held.feed_v, held.return_v) if c is not None), default=None)
        if not source_is_asked_for(doubt, ceiling):
            return ""
        return (
            f"The source may have moved since: what is read next would be off by about "
            f"{figures.volts(doubt)}. Read it again first."
        )

    # One card

    def card(self, each: Measurement, reasons: dict[str, str]) -> Card:
        """A measurement as a card."""
        run, craft = self.budget.run, self.craft
        red, black = craft.point(each.red), craft.point(each.black)
        expected = self.expected.get(each.id)
        if expected is None:
            expected = self.solved.solution.volts(each.red, each.black)
        between = run.between(each.red, each.black)
        within = set(between.pieces) if between else set()
        allowed = self._allowed(each, within)
        likely = expectation(each, expected, allowed, self.budget.current_a)
        source = source_out(self.budget, self.solved)
        return Card(
            id=each.id,
            kind=each.kind,
            title=measurement_title(craft, run, each),
            red=point_out(craft, red.id),
            black=point_out(craft, black.id),
            red_how=MANNERS[red.access],
            black_how=MANNERS[black.access],
            side=each.side,
            range=_range(each, likely),
            on=self._on(each),
            hold_s=HOLD_SECONDS.get(run.load.duty),
            expect_low=likely.low if likely else None,
            expect_high=likely.high if likely else None,
            expect_says=_expect_words(each, likely),
            allowed_v=likely.allowed if likely else None,
            why=self._why(each, within),
            cell=self._cell(each),
            skipped=reasons.get(each.id, ""),
            within=[self.names[s.piece.id] for s in run.steps() if s.piece.id in within],
            working=card_lines(
                each, within, self.budget, self.solved.solution, self.session.limits, source
            ),
        )

    def _on(self, each: Measurement) -> str:
        """What must be on, and how it is kept on with the hands free."""
        scenario = self.view.scenario.name
        if each.kind == "source":
            return f"as in {scenario}"
        run = self.budget.run
        says = f"{run.load.name} on, as in {scenario}"
        kinds = {kind_of(s.piece) for s in run.steps()}
        if "relay_contact" in kinds:
            says += "; by its switch, or with the relay out a fused jumper from 30 to 87"
        elif run.load.duty == "short_time":
            says += "; a helper at the controls"
        elif run.load.duty == "control_supply":
            says += "; high-impedance meter only, no test lamp"
        return says

    def _allowed(self, each: Measurement, within: set[str]) -> float | None:
        for side in self.budget.sides:
            if each.kind == "side" and side.side == each.side:
                return side.ceiling_v
        if each.kind != "span" or not within:
            return None
        own = [p for s in self.budget.sides for p in s.pieces if p.step.piece.id in within]
        return sum(p.allowance.volts for p in own)

    def _why(self, each: Measurement, within: set[str]) -> str:
        if each.kind == "source":
            return "Is it worth going on? A flat or reversed battery judges nothing."
        if each.kind == "current":
            return "A drop exists only while current flows: without it no reading proves anything."
        if each.kind == "load":
            return "If nearly all of the source is here, the wiring is good and nothing else needs a test."
        if each.kind == "side":
            return "The whole side at once: is the trouble in it at all?"
        if self.judgement.loaded is False:
            return (
                "No current flows: volts here, or none, tell on which side of this point it stops."
            )
        by_element = self.judgement.search.by_element
        mass = min(sum(by_element.get(key, 0.0) for key in within), 1.0)
        bits = "" if each.bits is None else f" Expected to tell {digits(each.bits, 2)} bits"
        cost = "" if each.minutes is None else f" in about {digits(each.minutes, 2)} minutes."
        if within:
            return f"{percent(mass)} of the suspicion lies between these points.{bits}{cost}"
        return f"It parts the suspects best.{bits}{cost}"

    def _cell(self, each: Measurement) -> Cell | None:
        if each.kind == "current":
            return self.taken.current()
        if each.kind == "side" and each.side is not None:
            cell = self.taken.side_cell(each.side)
            return cell if cell is not None and cell.direct else None
        return self.taken.cell(each.red, each.black)

    # What it adds up to

    def suspect(self, s: Suspect) -> SuspectOut:
        """A suspect by name, and what would be wrong with it."""
        if s.element is None:
            return SuspectOut(
                element=None, name="nothing in this wiring", says="", ohm=None,
                probability=s.probability,
            )  # fmt: skip
        name = full_name(self.craft, self.budget.run, s.element)
        piece = next((p for p in self.craft.pieces if p.id == s.element), None)
        if piece is not None:
            says = "open" if s.kind == "open" else "excess resistance"
            if s.kind == "excess_resistance" and s.ohm is not None:
                says = f"about {figures.ohms(s.ohm)} too much"
            if kind_of(piece) == "resistor":
                says += ", though it is fitted on purpose"
        elif s.element == self.budget.run.source.id:
            says = "weak"
        else:
            says = "draws nothing" if s.kind == "open" else "draws otherwise than it should"
        return SuspectOut(
            element=s.element, name=name, says=says, probability=s.probability, ohm=s.ohm
        )

    def pattern(self) -> PatternOut | None:
        """What both terminals of the load show together, as soon as readings join them to the posts."""
        conditions = self.judgement.conditions
        run, observed = self.budget.run, self.judgement.search.observed
        back = run.source.back
        points = (run.source.live, run.feed_terminal, run.return_terminal)
        if conditions is None or not all(
            joined(observed, conditions.key, p, back) for p in points if p != back
        ):
            return None
        rows: list[Row] = [("volts", p, back) for p in points]
        outlook = in_moment(self.judgement.search, conditions, rows)
        volts = [outlook.figure(i)[0] for i in range(3)]
        purpose = (self.budget.feed.purpose_v, self.budget.back.purpose_v)
        code = terminal_pattern(volts[0], volts[1], volts[2], self.budget.ceilings, purpose)
        if code is None:
            return None
        says, do = pattern_words(code)
        return PatternOut(code=code, says=says, do=do)

    def unaccounted(self) -> str:
        """How many volts nobody has accounted for, and the span that nobody has measured."""
        a = self.taken.account
        if a.left_v is not None:
            left = figures.volts(a.left_v)
            if a.closes:
                return f"The volts close: {left} left, within the meter's doubt."
            return "" if a.closes is None else f"{left} are unaccounted for."
        if a.source is None or a.load is None:
            return ""
        missing = [name for name, part in (("feed", a.feed), ("return", a.back)) if part is None]
        known = sum(part.volts for part in (a.feed, a.back) if part is not None)
        where = " and the ".join(pieces.side_word(m) for m in missing)
        spent = figures.volts(a.source.volts - a.load.volts - known)
        return f"{spent} are spent where nobody has measured: the {where}."

    def current(self) -> str:
        """How the current is known where no meter has read it."""
        amps = self.judgement.amps
        clamped = any(o.quantity == "amperes" for o in self.judgement.search.observed.values)
        if amps is None or clamped or not self.judgement.loaded:
            return ""
        return (
            f"By the drops of known pieces about {figures.amperes(amps[0])} flow (\u00b1 "
            f"{figures.amperes(amps[1])}); no meter has read it."
        )


def _state_word(load: MomentLoad) -> str:
    return {"attempted": "commanded"}.get(load.state, load.state)


def _age_s(taken_at: str) -> float | None:
    try:
        moment = datetime.fromisoformat(taken_at.replace("Z", "+00:00"))
    except ValueError:
        return None
    return max((datetime.now(UTC) - moment).total_seconds(), 0.0)


def _range(each: Measurement, likely: Expectation | None) -> str:
    if each.kind == "current":
        return "clamp, zeroed; or in series"
    volts = range_for(likely.high if likely else 0.0)
    return f"{volts * 1000:g} mV or the lowest that holds it" if volts < 1 else f"{volts:g} V"


def _expect_words(each: Measurement, likely: Expectation | None) -> str:
    if likely is None:
        return ""
    if each.kind == "current":
        return f"about {figures.amperes(likely.likely)}"
    about = f"about {figures.volts(likely.likely)}"
    if likely.allowed is None:
        return about
    return f"{about}; up to {figures.volts(likely.allowed)} is allowed"
