"""The upgrade bench and the work order as the API gives them."""

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, traced
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.pieces import Craft, Side
from spare_margin.core.model.stock import Relay
from spare_margin.core.protection.checks import Protection
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import Candidate
from spare_margin.core.upgrade.moves import RelayNearLoad
from spare_margin.core.upgrade.order import ExpectedReading
from spare_margin.core.upgrade.parts import PartLine, bars
from spare_margin.core.upgrade.ranking import ranked
from spare_margin.core.walk.cautions import cautions, guards
from spare_margin.service.job.session import JobSession
from spare_margin.service.proof.repairing import at_other_runs, order_of, ticked
from spare_margin.service.upgrade.upgrading import Upgrading
from spare_margin.web.common.context import the_workshop
from spare_margin.web.common.models import NamedChoice, ProtectionOut
from spare_margin.wording.craft.changes import differences
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word
from spare_margin.wording.craft.protection import act_words, violation_words
from spare_margin.wording.language.figures import UNKNOWN, amperes, digits, price, volts
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.walks import measurement_title
from spare_margin.wording.repair import upgrades

from .models import (
    CandidateOut,
    InScenario,
    OrderOut,
    OrderReading,
    OrderStepOut,
    OtherRun,
    PartOut,
    RelayOut,
    SocketHole,
    SpentBar,
    UpgradeOut,
    UpgradeQuery,
)

SLICE_S = 0.4
"""How long one question for candidates may take."""
SIDES = ("feed", "return")


def spent_minutes(value: float) -> str:
    """Minutes as they are shown."""
    return digits(value, 2) if value < 10 else f"{value:.0f}"


class UpgradeMaker:
    """Makes the bench of one run."""

    def __init__(self, session: JobSession, query: UpgradeQuery) -> None:
        self.session, self.query = session, query
        self.found = session.head("as_found").craft
        judging = session.judging("as_found")
        if not judging.runs:
            raise JobError("run", "the craft has no run", "a craft with a load")
        self.run_id = query.run or judging.most_read()
        self.upgrading: Upgrading = session.upgrading(self.run_id)
        self.run = judging.runs[self.run_id]
        self.names = dict(full_names(self.found, self.run))
        self.loads = {x.id: x.name for x in self.found.loads}

    def out(self) -> UpgradeOut:
        """The bench, worked out a little further."""
        self.upgrading.advance(SLICE_S)
        ready = list(self.upgrading.ready)
        bench, snapshot = self.upgrading.bench, self.session.snapshot
        ranking = ranked(ready, self.query.minute)
        by_id = {c.offer.id: c for c in ready}
        titles = {key: upgrades.title(c, self.names) for key, c in by_id.items()}
        now = self._now(bench)
        reason, changes = upgrades.recommended(ranking, by_id, titles, now, bench.unread)
        head = snapshot.heads.get("planned", snapshot.heads["as_found"])
        current = self.run.load.current_a or 0.0
        return UpgradeOut(
            job=self.session.job.id,
            title=self.session.job.title,
            run=self.run_id,
            name=self.run.load.name,
            runs=[NamedChoice(id=key, name=self.loads[key], why="") for key in bench.runs],
            revision=head.id,
            planned="planned" in snapshot.heads,
            spare_v=now,
            worst=self._scenario(bench.before.worst),
            measured=bool(bench.suspects),
            done=self.upgrading.done,
            minute=self.query.minute,
            recommended=reason if self.upgrading.done else "",
            best=ranking.best if self.upgrading.done and now is not None else None,
            changes=changes if self.upgrading.done else "",
            candidates=[
                self._candidate(by_id[key], titles, ranking.beaten.get(key))
                for key in ranking.order
            ],
            refused=[upgrades.refused_words(r, self.names) for r in self.upgrading.refused],
            cautions=caution_words(
                cautions(self.found, current, "planned", self.found.load(self.run_id))
            ),
        )

    @staticmethod
    def _now(bench: Bench) -> float | None:
        """The spare now, where it is known: what one side is short of stays, whatever the other has."""
        if bench.unread:
            return bench.spares_before.get(bench.load_id)
        return bench.before.spare_v

    def _scenario(self, key: str) -> str:
        return next(s.name for s in self.found.scenarios if s.id == key)

    def _candidate(
        self, made: Candidate, titles: dict[str, str], beaten_by: str | None
    ) -> CandidateOut:
        before, now = self.upgrading.bench.before, made.now
        head, unread = self.session.snapshot.heads.get("planned"), bool(made.unread)
        names = {**self.names, **{p.id: piece_name(p) for p in made.craft.pieces}}
        relay = next((m.relay for m in made.offer.moves if isinstance(m, RelayNearLoad)), None)
        return CandidateOut(
            id=made.offer.id,
            title=titles[made.offer.id],
            holds=made.holds,
            short=upgrades.short_words(made, self.names, made.craft),
            beaten_by=titles[beaten_by] if beaten_by else None,
            taken=head is not None and head.craft == made.craft,
            unread=unread,
            spare_v=None if unread else now.spare_v,
            load_v=None if unread else now.load_v[now.worst],
            lost_v=None if unread else now.spend.feed_v + now.spend.return_v,
            heat_saved_w=before.heat_w - now.heat_w,
            uncertain=not made.holds and now.spare_v >= 0,
            switch_before_a=before.switch_a,
            switch_after_a=now.switch_a,
            copper_kg=made.copper_kg,
            price=made.price,
            price_text=price(made.price),
            minutes=made.minutes,
            minutes_text=spent_minutes(made.minutes),
            bars=self._bars(made),
            scenarios=[
                InScenario(name=self._scenario(key), spare_v=spare, load_v=now.load_v.get(key))
                for key, spare in ({} if unread else now.spares).items()
            ],
            sizes=upgrades.size_words(made),
            proven=made.proven,
            others=[
                OtherRun(name=self.loads[key], before_v=was, after_v=then)
                for key, (was, then) in made.others.items()
            ],
            parts=[part_out(line, names) for line in made.parts],
            relay=None if relay is None else self._relay(relay, made),
            protection=self._protection(made),
        )

    def _bars(self, made: Candidate) -> list[SpentBar]:
        bench, now = self.upgrading.bench, made.now.spend
        before, held = bench.before.spend, now.ceilings
        rows: tuple[tuple[Side, float, float, float | None], ...] = (
            ("feed", before.feed_v, now.feed_v, held.feed_v),
            ("return", before.return_v, now.return_v, held.return_v),
        )
        return [
            SpentBar(
                side=side_word(side),
                before_v=None if side in bench.unread else was,
                after_v=None if side in made.unread else then,
                ceiling_v=ceiling,
            )
            for side, was, then, ceiling in rows
        ]

    def _relay(self, relay: Relay, made: Candidate) -> RelayOut:
        says = upgrades.relay_words(relay, self.found.nominal_v)
        if made.pull_in is not None:
            says.append(upgrades.pull_in_words(made.pull_in))
        before, after = self.upgrading.bench.before.switch_a, made.now.switch_a
        if before is not None and after is not None:
            _, running, (starting, _) = self.upgrading.bench.draws
            says.append(upgrades.relief_words(before, before - running + starting, after))
        return relay_out(says)

    def _protection(self, made: Candidate) -> list[ProtectionOut]:
        """What the planned wiring would have wrong with its fuses that the wiring as found has not."""
        tables = self.session.tables
        runs = traced(made.craft, closed_ohms(made.craft, tables)).runs
        keys = {s.piece.id for s in runs[self.run_id].steps()}
        try:
            solutions = [solve(made.craft, s, tables) for s in made.craft.scenarios[:1]]
        except (JobError, NoSolution):
            return []
        checked = Protection(made.craft, {self.run_id: runs[self.run_id]}, solutions, tables)
        old = {(v.code, v.piece) for v in self.session.protection("as_found").violations}
        out = []
        for each in checked.violations:
            if (each.code, each.piece) in old or each.piece not in keys:
                continue
            says, do = violation_words(each, made.craft)
            out.append(
                ProtectionOut(
                    code=each.code, act=act_words(each), piece=each.piece, says=says, do=do
                )
            )
        return out


def relay_out(says: list[str]) -> RelayOut:
    """A relay with its socket."""
    holes = [SocketHole(hole=h, out=out, fitted=fitted) for h, out, fitted in upgrades.socket()]
    return RelayOut(says=says, socket=holes)


def part_out(line: PartLine, names: dict[str, str]) -> PartOut:
    """A line of a list of parts, wire in the workshop's own colours."""
    said = the_workshop().settings
    colours = {side: said.get(f"{side}_colour", "") for side in SIDES}
    what, amount = upgrades.part_words(line, names, colours)
    return PartOut(
        what=what, amount=amount, price=price(line.price), minutes=spent_minutes(line.minutes)
    )


def order_out(session: JobSession, wanted: str | None) -> OrderOut:
    """The work order of the plan for a run."""
    found = session.head("as_found").craft
    run_id = wanted or session.judging("as_found").most_read()
    made = order_of(session, run_id)
    plan = session.head("planned").craft
    names, run = _names(session, run_id, plan), session.bare("planned").runs[run_id]
    done = ticked(session, run_id)
    current = plan.load(run_id).current_a or 0.0
    return OrderOut(
        job=session.job.id,
        title=session.job.title,
        craft=plan.kind,
        run=run_id,
        name=upgrades.SEVERAL_RUNS
        if at_other_runs(session, made, run_id)
        else plan.load(run_id).name,
        revision=session.head("planned").id,
        changes=differences(found, plan),
        steps=[
            *(
                OrderStepOut(
                    id=f"caution.{each.id}",
                    says=upgrades.noted_words(each.when),
                    mind=each.says,
                    ticked=f"caution.{each.id}" in done,
                    guard=True,
                    place="",
                )
                for each in caution_words(guards(plan, current, "planned", plan.load(run_id)))
            ),
            *(
                OrderStepOut(
                    id=step.id,
                    says=says,
                    mind=mind,
                    ticked=step.id in done,
                    guard=False,
                    place=point_name(plan, step.place) if step.place else "",
                )
                for step in made.steps
                for says, mind in [upgrades.step_words(step, names)]
            ),
        ],
        parts=[part_out(line, names) for line in made.parts],
        price=price(made.price),
        minutes=spent_minutes(made.minutes),
        copper_kg=made.copper_kg,
        readings=[_reading(each, plan, run) for each in made.readings],
        relays=[
            relay_out(upgrades.relay_words(relay, plan.nominal_v)) for relay in made.relays.values()
        ],
        cautions=caution_words(cautions(plan, current, "planned", plan.load(run_id))),
        stage="planned",
    )


def _names(session: JobSession, run_id: str, plan: Craft) -> dict[str, str]:
    """What every piece and load of both wirings is called."""
    found = session.head("as_found").craft
    names = {p.id: piece_name(p) for craft in (found, plan) for p in craft.pieces}
    names |= {x.id: x.name for craft in (found, plan) for x in craft.loads}
    names |= {key: point_name(plan, key) for key in bars(plan)}
    for stage in ("as_found", "planned"):
        judging = session.judging(stage)
        if run_id in judging.runs:
            names |= full_names(judging.craft, judging.runs[run_id])
    return names


def _reading(each: ExpectedReading, plan: Craft, run: Run) -> OrderReading:
    at = each.measurement
    said = UNKNOWN
    if each.expected is not None:
        said = amperes(each.expected) if at.kind == "current" else volts(each.expected)
    return OrderReading(
        what=measurement_title(plan, run, at),
        red=point_name(plan, at.red), black=point_name(plan, at.black),
        expected=said,
    )  # fmt: skip
