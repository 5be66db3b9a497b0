"""A walk as the hand shows it: cards, suspects, pattern, and what is still unaccounted for."""

from datetime import UTC, datetime

from spare_margin.core.evidence.estimate.search import Suspect
from spare_margin.core.proof.conditions import acknowledged
from spare_margin.core.walk.cautions import guards, raised
from spare_margin.core.walk.safety import out_of_scope
from spare_margin.core.walk.walk import Measurement, Walk, after, seen, walk
from spare_margin.web.common.models import Point
from spare_margin.wording.craft.names import full_name
from spare_margin.wording.language.figures import digits, percent
from spare_margin.wording.measured.cautions import CAUTIONS, caution_words, refusal_words
from spare_margin.wording.measured.walk_state import (
    NOTHING_HERE,
    suspect_words,
    unaccounted_words,
)
from spare_margin.wording.measured.walks import AFTER, ending_words, rests_words

from .cards import Cards
from .loop import contacts_out, loop_out, socket_out, split_out, trial_out
from .models import (
    Guard,
    MomentLoad,
    MomentOut,
    NextStep,
    Seen,
    SuspectOut,
    WalkOut,
)
from .walked_run import WalkedRun

MOST_SUSPECTS = 12
LEAST_TOLD = 0.005
"""A suspicion below this is none worth a figure."""


class WalkMaker:
    """Makes the walk of one run."""

    def __init__(self, on: WalkedRun) -> None:
        self.on, self.cards = on, Cards(on)

    def out(self) -> WalkOut:
        """The whole walk."""
        run, craft = self.on.budget.run, self.on.craft
        points = self.on.own_points()
        names = (run.load.name, *(p.name for p in craft.points if p.id in points))
        refused = out_of_scope(*names)
        notes = [
            n
            for n in self.on.session.snapshot.notes
            if n.run == self.on.run_id and n.stage == self.on.stage
        ]
        stands = walk(self.on.judgement, notes, self.on.proving)
        readable = not refused
        reasons = {n.step: n.reason for n in notes if n.state == "skipped"}
        known = acknowledged(notes)
        job = self.on.session.job
        needed = guards(craft, self.on.budget.current_a, self.on.stage, run.load)
        return WalkOut(
            job=job.id,
            title=job.title,
            run=self.on.run_id,
            run_name=run.load.name,
            runs=[
                Point(id=key, name=each.load.name, access="open")
                for key, each in self.on.solved.runs.items()
            ],
            stage=self.on.stage,
            scenario=self.on.view.scenario.id,
            scenario_name=self.on.view.scenario.name,
            revision=self.on.taken.revision,
            refused=refusal_words(refused) if refused else "",
            guards=[
                Guard(id=f"caution {c.id}", caution=c, acknowledged=f"caution {c.id}" in known)
                for c in caution_words(needed)
            ],
            done=[self.cards.card(m, reasons) for m in self._all_done(stands)],
            skipped=[self.cards.card(m, reasons) for m in stands.skipped],
            now=self.cards.card(stands.next, reasons) if readable and stands.next else None,
            split=split_out(self.on, stands.split) if readable and stands.split else None,
            loop=loop_out(self.on),
            socket=socket_out(self.on),
            trials=[
                trial_out(self.on, t) for t in self.on.session.snapshot.trials_of(self.on.stage)
            ],
            seen=[Seen(id=n.id, says=n.reason, at=n.made_at, who=n.who) for n in seen(notes)],
            ending=stands.ending,
            ending_says=ending_words(stands.ending, self.on.judgement),
            rests_on=self._rests_on(),
            after=self._after(stands),
            verdict=self.on.taken.verdict,
            verdict_says=self.on.taken.says(),
            suspicion={
                key: percent(p).removesuffix(" %")
                for key, p in self.on.judgement.suspicion.items()
                if key is not None and p >= LEAST_TOLD
            },
            suspects=[self.suspect(s) for s in self.on.judgement.suspects[:MOST_SUSPECTS]],
            foot=self.on.taken.foot(),
            unaccounted_says=self.unaccounted(),
            findings=self.on.taken.out().findings,
            doubted=self.on.taken.doubted(),
            beside=self.on.taken.beside(),
            cautions=caution_words(c for c in CAUTIONS if c in raised(self.on.judgement)),
            meter=self.on.session.meter.name,
            moment=self.moment(),
            points=[self.on.point_out(p) for p in points],
        )

    def _rests_on(self) -> str:
        held = {r.id: r for r in self.on.taken.readings}
        readings = [held[key] for key in self.on.judgement.rests_on if key in held]
        return rests_words(readings, self.on.craft, self.on.budget.run)

    def _after(self, stands: Walk) -> NextStep | None:
        if not stands.ending:
            return None
        act = after(self.on.judgement, stands, self.on.stage)
        return NextStep(act=act, says=AFTER[act])

    def _all_done(self, stands: Walk) -> list[Measurement]:
        """The opening measurements that are done, then every other span that was read, in order."""
        opening = {frozenset((m.red, m.black)) for m in stands.done if m.kind != "current"}
        own = set(self.on.own_points())
        spans: list[Measurement] = []
        for r in self.on.taken.readings:
            pair = frozenset((r.red, r.black))
            if r.quantity == "volts" and pair not in opening and pair <= own:
                opening.add(pair)
                spans.append(Measurement(f"span {r.red} {r.black}", "span", r.red, r.black))
        return [*stands.done, *spans]

    # The moment

    # The moment

    def moment(self) -> MomentOut:
        """The conditions under which will be read, and whether the source should be read again first."""
        snapshot, conditions = self.on.session.snapshot, self.on.judgement.conditions
        states = dict(conditions.states) if conditions else {}
        on = [
            MomentLoad(id=x.id, name=x.name, state=states.get(x.id, "running"))
            for x in self.on.craft.loads
            if x.id in self.on.view.scenario.on
            or states.get(x.id) not in (None, "off", "unplugged")
        ]
        run = self.on.budget.run
        posts = {run.source.live, run.source.back}
        taken = [
            r for r in self.on.taken.readings if {r.red, r.black} == posts and r.value is not None
        ]
        age = _age_s(taken[-1].taken_at) if taken else None
        warm = next(
            (r.warm_min for r in reversed(snapshot.readings) if r.warm_min is not None), None
        )
        own = next((m for m in on if m.id == self.on.run_id), None)
        state = "" if own is None else f"{own.name} {_state_word(own)}"
        others = len(on) - (1 if own else 0)
        parts = [self.on.view.scenario.name, state]
        if others:
            parts.append(f"{others} other {'load' if others == 1 else 'loads'} on")
        return MomentOut(
            says=" \u00b7 ".join(p for p in parts if p),
            loads=on,
            contacts=contacts_out(self.on),
            warm="" if warm is None else digits(warm, 3),
            source_v=abs(taken[-1].value) if taken and taken[-1].value is not None else None,
            source_age_s=age,
            asks_rpm=run.load.duty == "charging",
        )

    # One card

    # What it adds up to

    def suspect(self, s: Suspect) -> SuspectOut:
        """A suspect by name, and what would be wrong with it."""
        if s.element is None:
            return SuspectOut(
                element=None, name=NOTHING_HERE, says="", ohm=None, probability=s.probability,
                found=False,
            )  # fmt: skip
        name = full_name(self.on.craft, self.on.budget.run, s.element)
        piece = next((p for p in self.on.craft.pieces if p.id == s.element), None)
        says = suspect_words(s, piece, s.element == self.on.budget.run.source.id)
        return SuspectOut(
            element=s.element, name=name, says=says, probability=s.probability, ohm=s.ohm,
            found=s.element in self.on.judgement.found,
        )  # fmt: skip

    def unaccounted(self) -> str:
        """How many volts nobody has accounted for, and the span that nobody has measured."""
        return unaccounted_words(self.on.taken.account)


def _state_word(load: MomentLoad) -> str:
    return {"attempted": "commanded"}.get(load.state, load.state)


CLOCKS_S = 60.0
"""Clocks that agree stand this close."""


def _age_s(taken_at: str) -> float | None:
    try:
        moment = datetime.fromisoformat(taken_at.replace("Z", "+00:00"))
    except ValueError:
        return None
    ago = (datetime.now(UTC) - moment).total_seconds()
    # From the future: the clock was set since, and how long ago it was nobody can say.
    return None if ago < -CLOCKS_S else max(ago, 0.0)
