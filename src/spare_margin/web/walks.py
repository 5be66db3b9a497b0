"""A walk as the hand shows it: cards, suspects, pattern, and what is still unaccounted for."""

from spare_margin.core.account import inferred_a
from spare_margin.core.budget import RunBudget
from spare_margin.core.cornering import Cornered, Seen, Suspect
from spare_margin.core.jobs import Stage
from spare_margin.core.meters import Meter
from spare_margin.core.patterns import Pattern, pattern
from spare_margin.core.pieces import Craft, called, kind_of, point_called
from spare_margin.core.readings import Evidence
from spare_margin.core.safety import out_of_scope
from spare_margin.core.searching import Ground, search_run
from spare_margin.core.walk import HOLD_SECONDS, Ending, Step, Walk, manner, range_for, walk
from spare_margin.exchange.units import figure

from . import words
from .bench import Solved
from .cautions import cautions
from .lately import Lately
from .models import Caution, Cell, Point, SheetQuery
from .passes import Pass
from .sheets import SheetMaker, View
from .walk_models import Card, Guard, PatternOut, SuspectOut, WalkOut
from .walk_workings import card_lines

ENDINGS: dict[Ending, str] = {
    "within": "The whole loop is within its budget at the loaded current: nothing else needs a test.",
    "cornered": "Cornered: the readings point to one piece.",
    "wiring_good": "Feed and return are within their ceilings: suspect the load.",
    "not_loaded": "No current flows: switch the run on and read the load again.",
    "out_of_steps": "Everything that can be read here was read or skipped.",
}
MOST_SUSPECTS = 12


class WalkMaker:
    """Makes the walk of one run from the state of its job."""

    def __init__(self, maker: SheetMaker, query: SheetQuery, grounds: Lately[Ground]) -> None:
        self.maker, self.grounds = maker, grounds
        stage: Stage = query.stage if query.stage == "as_left" else "as_found"
        if query.stage is None and "as_left" in maker.state.heads:
            stage = "as_left"
        self.stage = stage
        asked = query.model_copy(update={"stage": stage, "on": None})
        if asked.scenario is None:
            taken = [r.scenario for r in maker.state.readings]
            asked.scenario = taken[-1] if taken else None
        self.view: View = maker.view(asked)
        held = self.view.stage
        self.solved: Solved = maker.solved(held, self.view)
        self.run_id = maker.run_of(query.run, self.solved)
        self.budget: RunBudget = self.solved.budgets[self.run_id]
        self.craft: Craft = self.solved.craft
        made = maker.pass_of(stage, self.view, self.run_id)
        head = maker.state.heads[held]
        self.taken = made or Pass(
            stage, head.id, self.budget, [], self.craft.nominal_v, frozenset(), 0
        )

    def out(self) -> WalkOut:
        """The whole walk."""
        run, craft = self.budget.run, self.craft
        names = (run.load.name, *(p.name for p in craft.points if p.id in self._own_points()))
        refused = out_of_scope(*names)
        seen = self.seen()
        ground = self._ground()
        cornered = ground.corner.given(seen, ground.points)
        notes = [
            n for n in self.maker.state.notes if n.run == self.run_id and n.stage == self.stage
        ]
        stands = walk(
            self.budget, self.taken.account, cornered, self._read(),
            self.taken.account.clamp_a is not None, notes, self._one_meter(),
        )  # fmt: skip
        reasons = {n.step: n.reason for n in notes if n.state == "skipped"}
        known = {n.step for n in notes if n.state == "acknowledged"}
        found = pattern(self.budget, Evidence(self.taken.usable()))
        job = self.maker.state.job
        return WalkOut(
            job=job.id,
            title=job.title,
            run=self.run_id,
            run_name=run.load.name,
            runs=[
                Point(id=key, name=b.run.load.name, access="open")
                for key, b in self.solved.budgets.items()
            ],
            stage=self.stage,
            scenario=self.view.scenario.id,
            scenario_name=self.view.scenario.name,
            revision=self.maker.state.heads[self.view.stage].id,
            refused=f"{refused.what[0].upper()}{refused.what[1:]} are out of bounds. {refused.why}"
            if refused
            else "",
            guards=[
                Guard(id=f"caution {c.when}", caution=c, acknowledged=f"caution {c.when}" in known)
                for c in self.guards()
            ],
            done=[self.card(s, cornered, reasons) for s in self._all_done(stands)],
            skipped=[self.card(s, cornered, reasons) for s in stands.skipped],
            now=None
            if refused or stands.next is None
            else self.card(stands.next, cornered, reasons),
            ending=stands.ending,
            ending_says=ENDINGS.get(stands.ending, ""),
            verdict=self.taken.account.verdict,
            verdict_says=words.sided(self.taken.says()),
            suspects=[self.suspect(s) for s in cornered.suspects[:MOST_SUSPECTS]],
            in_doubt_bits=cornered.entropy,
            together=cornered.together,
            pattern=None if found is None else _pattern(found),
            foot=self.taken.foot(),
            unaccounted_says=self.unaccounted(),
            current_says=self.current(),
            findings=self.taken.out().findings,
            meter=self.maker.meter.name,
            points=[self._point(p) for p in self._own_points()],
        )

    # What was read

    def seen(self) -> list[Seen]:
        """The readings that may be believed, as the search takes them."""
        return [
            Seen(r.red, r.black, r.value, r.accuracy, r.source_v)
            for r in self.taken.usable()
            if r.quantity == "volts" and r.value is not None
        ]

    def _read(self) -> frozenset[frozenset[str]]:
        return frozenset(
            frozenset((r.red, r.black)) for r in self.taken.readings if r.quantity == "volts"
        )

    def _one_meter(self) -> Meter | None:
        """The meter, where everything on this run was read with the one that is in use."""
        meters = {r.meter for r in self.taken.readings if r.quantity == "volts"}
        return self.maker.meter if meters == {self.maker.meter.name} else None

    def _ground(self) -> Ground:
        head = self.maker.state.heads[self.view.stage]
        tables = self.maker.tables
        key = (self.maker.state.job.id, head.id, self.view.scenario.id, self.run_id, tables)
        run = self.budget.run
        return self.grounds.of(
            key, lambda: search_run(self.craft, self.solved.network, run, tables)
        )

    def _own_points(self) -> list[str]:
        steps = [s for s in self.budget.run.steps() if not s.beside]
        points = [p for s in steps for p in (s.entry, s.exit)]
        run = self.budget.run
        return list(dict.fromkeys([run.source.live, *points, run.source.back]))

    def _all_done(self, stands: Walk) -> list[Step]:
        """The opening steps that are done, then every other span that was read, in order."""
        opening = {frozenset((s.red, s.black)) for s in stands.done if s.kind != "current"}
        spans: list[Step] = []
        for r in self.taken.readings:
            pair = frozenset((r.red, r.black))
            if r.quantity == "volts" and pair not in opening:
                opening.add(pair)
                spans.append(Step(f"span {r.red} {r.black}", "span", r.red, r.black))
        return [*stands.done, *spans]

    # One card

    def card(self, step: Step, cornered: Cornered, reasons: dict[str, str]) -> Card:
        """A step as a card."""
        run, craft = self.budget.run, self.craft
        red, black = craft.point(step.red), craft.point(step.black)
        expected = self.solved.solution.volts(step.red, step.black)
        low, high, says = self._expect(step, expected)
        within = self._between(step.red, step.black)
        return Card(
            id=step.id,
            kind=step.kind,
            title=self._title(step),
            red=self._point(red.id),
            black=self._point(black.id),
            red_how=manner(red.access),
            black_how=manner(black.access),
            side=step.side,
            range=_range(step, high),
            on=self._on(step),
            hold_s=HOLD_SECONDS.get(run.load.duty),
            expect_low=low,
            expect_high=high,
            expect_says=says,
            allowed_v=self._allowed(step, within),
            why=self._why(step, cornered, within),
            cell=self._cell(step),
            skipped=reasons.get(step.id, ""),
            within=[called(s.piece) for s in run.steps() if s.piece.id in within],
            working=card_lines(
                step,
                within,
                self.budget,
                self.solved.solution,
                self.maker.limits,
                self.maker.source_out(self.budget, self.solved),
            ),
        )

    def _on(self, step: Step) -> str:
        """What must be on, and how it is kept on with the hands free."""
        scenario = self.view.scenario.name
        if step.kind == "source":
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

    def _title(self, step: Step) -> str:
        load = self.budget.run.load.name
        match step.kind:
            case "source":
                return "The source, post to post"
            case "current":
                return f"The current of {load}"
            case "load":
                return f"The whole loop, across {load}"
            case "side":
                return f"The whole {words.side_word(step.side or '')}"
        between = self._between(step.red, step.black)
        names = [called(s.piece) for s in self.budget.run.steps() if s.piece.id in between]
        if len(names) == 1:
            return f"Across {names[0]}"
        return f"{self._point(step.red).name} to {self._point(step.black).name}"

    def _expect(self, step: Step, expected: float | None) -> tuple[float | None, float | None, str]:
        """What a good reading looks like: from nothing in the way to all that is allowed."""
        if step.kind == "current":
            amps = self.budget.current_a
            return amps, amps, f"about {words.amperes(amps)}"
        if expected is None:
            return None, None, ""
        allowed = self._allowed(step, self._between(step.red, step.black))
        if allowed is not None:
            says = f"about {words.volts(expected)}; up to {words.volts(allowed)} is allowed"
            return 0.0, allowed, says
        return expected * 0.97, expected * 1.03, f"about {words.volts(expected)}"

    def _allowed(self, step: Step, within: set[str]) -> float | None:
        for side in self.budget.sides:
            if step.kind == "side" and side.side == step.side:
                return side.ceiling_v
        if step.kind != "span" or not within:
            return None
        pieces = [p for s in self.budget.sides for p in s.pieces if p.step.piece.id in within]
        return sum(p.allowance.volts for p in pieces)

    def _between(self, red: str, black: str) -> set[str]:
        """The main pieces of one side between two points; none where the load lies between."""
        for side in (self.budget.run.feed, self.budget.run.back):
            main = [s for s in side if not s.beside]
            order = [main[0].entry, *(s.exit for s in main)] if main else []
            if red in order and black in order:
                low, high = sorted((order.index(red), order.index(black)))
                return {s.piece.id for s in main[low:high]}
        return set()

    def _why(self, step: Step, cornered: Cornered, within: set[str]) -> str:
        if step.kind == "source":
            return "Is it worth going on? A flat or reversed battery judges nothing."
        if step.kind == "current":
            return "A drop exists only while current flows: without it no reading proves anything."
        if step.kind == "load":
            return "If nearly all of the source is here, the wiring is good and nothing else needs a test."
        if step.kind == "side":
            return "The whole side at once: is the trouble in it at all?"
        mass = sum(s.probability for s in cornered.suspects if s.element in within)
        bits = "" if step.bits is None else f" Expected to tell {figure(f'{step.bits:.1f}')} bits"
        cost = "" if step.minutes is None else f" in about {figure(f'{step.minutes:.1f}')} minutes."
        if within:
            return f"{mass * 100:.0f} % of the suspicion lies between these points.{bits}{cost}"
        return f"It parts the suspects best.{bits}{cost}"

    def _cell(self, step: Step) -> Cell | None:
        if step.kind == "current":
            return self.taken.out().current
        own = [
            r
            for r in self.taken.readings
            if r.quantity == "volts" and {r.red, r.black} == {step.red, step.black}
        ]
        if not own:
            return None
        return self.taken.cell_of(own[-1], step.red, step.black)

    def _point(self, point_id: str) -> Point:
        point = self.craft.point(point_id)
        return Point(id=point.id, name=point_called(self.craft, point), access=point.access)

    # What it adds up to

    def suspect(self, s: Suspect) -> SuspectOut:
        """A suspect by name, and what would be wrong with it."""
        if s.element is None:
            return SuspectOut(
                element=None, name="nothing in this wiring", says="", ohm=None,
                probability=s.probability,
            )  # fmt: skip
        piece = next((p for p in self.craft.pieces if p.id == s.element), None)
        load = next((x for x in self.craft.loads if x.id == s.element), None)
        if piece is not None:
            name = called(piece)
            if s.kind == "open":
                says = "open"
            else:
                amount = "" if s.ohm is None else f"about {words.ohms(s.ohm)} too much"
                says = amount or "excess resistance"
            if kind_of(piece) == "resistor":
                says += ", though it is fitted on purpose"
        elif load is not None:
            name, says = load.name, "draws otherwise than it should"
        else:
            name, says = self.budget.run.source.name, "weak"
        return SuspectOut(
            element=s.element, name=name, says=says, probability=s.probability, ohm=s.ohm
        )

    def unaccounted(self) -> str:
        """How many volts nobody has accounted for, and the span that nobody has measured."""
        account = self.taken.account
        if account.unaccounted is not None:
            left = account.unaccounted.volts
            if account.closes:
                return f"The volts close: {words.volts(left)} left, within the meter's doubt."
            return f"{words.volts(left)} are unaccounted for."
        if account.source is None or account.load is None:
            return ""
        missing = [s.side for s in self.budget.sides if s.side not in account.sides]
        known = sum(j.raw.volts for j in account.sides.values())
        left = account.source.volts - account.load.volts - known
        where = " and the ".join(words.side_word(m) for m in missing)
        return f"{words.volts(left)} are spent where nobody has measured: the {where}."

    def current(self) -> str:
        """How the current is known: by a meter, else by the drop of a known wire."""
        account = self.taken.account
        if account.clamp_a is not None:
            return ""
        inferred = inferred_a(self.budget, account.pieces)
        if inferred is None:
            return ""
        amps, doubt, piece_id = inferred
        name = next(called(s.piece) for s in self.budget.run.steps() if s.piece.id == piece_id)
        return (
            f"By the drop of {name}, about {words.amperes(amps)} flow (\u00b1 "
            f"{words.amperes(doubt)}); no meter has read it."
        )

    def guards(self) -> list[Caution]:
        """The cautions that can prevent an injury, for this run."""
        amps = self.budget.current_a
        every = cautions(self.craft, amps, self.stage, burning=False)
        keep = {"High current", "At the battery", "Petrol or gas aboard", "Lithium battery",
                "Control units and sensors"}  # fmt: skip
        control = self.budget.run.load.duty == "control_supply"
        return [
            c for c in every
            if c.when in keep and (control or c.when != "Control units and sensors")
        ]  # fmt: skip


def _range(step: Step, high: float | None) -> str:
    if step.kind == "current":
        return "clamp, zeroed; or in series"
    volts = range_for(high or 0.0)
    return f"{volts * 1000:g} mV or the lowest that holds it" if volts < 1 else f"{volts:g} V"


def _pattern(found: Pattern) -> PatternOut:
    return PatternOut(
        name=found.name,
        says=words.sided(found.says),
        do=words.sided(found.do),
        readings=list(found.readings),
    )
