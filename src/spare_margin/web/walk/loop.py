"""The loop of a walk as a small picture, and what was done to it: stretches split, trials made."""

from dataclasses import replace

from spare_margin.core.circuit.runs import Step
from spare_margin.core.errors import JobError
from spare_margin.core.measure.stand_in import suits, usual_bulbs
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Trial
from spare_margin.core.model.pieces import CONTACTS, SIDES, ContactState, Side, undrawn
from spare_margin.core.walk.at_rest import Swept, bypassed, parked_on, sweep
from spare_margin.core.walk.walk import split_step
from spare_margin.service.job.session import Choice
from spare_margin.web.common.loop import LoopOut, LoopPiece
from spare_margin.web.common.parts import point_out
from spare_margin.wording.craft.pieces import point_name
from spare_margin.wording.language.figures import digits
from spare_margin.wording.measured.verdicts import judgement_words
from spare_margin.wording.measured.walk_state import split_words
from spare_margin.wording.measured.walks import (
    STANDS,
    bulb_words,
    bypassed_words,
    stand_in_how,
    stand_in_next,
    stood_in_words,
    suits_words,
    trial_words,
)
from spare_margin.wording.repair.upgrades import socket

from .models import (
    AtRestOut,
    BulbOut,
    ContactOut,
    HoleOut,
    SplitOut,
    StandInOut,
    StoodInOut,
    SweptOut,
    TrialOut,
)
from .walked_run import WalkedRun

OPEN: ContactState = "open"


def loop_out(on: WalkedRun) -> LoopOut:
    """The loop for a small picture: its pieces in order, what is read of each, what is suspected."""
    run = on.budget.run
    read: dict[frozenset[str], Verdict] = {
        frozenset((s.span.red, s.span.black)): s.verdict
        for s in on.judgement.spans
        if s.verdict != "not_judged"
    }
    by_element = on.judgement.suspicion

    def shown_piece(step: Step) -> LoopPiece:
        piece = step.piece
        return LoopPiece(
            id=piece.id, name=on.names[piece.id], kind=piece.kind, entry=step.entry,
            exit=step.exit, undrawn=undrawn(piece), open=on.view.scenario.is_open(piece),
            verdict=read.get(frozenset((step.entry, step.exit)), "not_measured"),
            suspicion=by_element.get(piece.id, 0.0) if on.taken.readings else 0.0,
        )  # fmt: skip

    return LoopOut(
        load=run.load.name,
        source=run.source.name,
        feed=[shown_piece(s) for s in run.way("feed")],
        back=[shown_piece(s) for s in run.way("return")],
        others=[
            point_out(on.craft, p.id) for p in on.craft.points if p.id not in set(on.own_points())
        ],
    )


def socket_out(on: WalkedRun) -> list[HoleOut]:
    """The holes of the socket of the run's relay; none where it has no relay."""
    contact = next((s for s in on.budget.run.feed if s.piece.kind == "relay_contact"), None)
    if contact is None:
        return []
    points = {"30": contact.entry, "87": contact.exit}
    return [
        HoleOut(hole=hole, out=out, fitted=fitted, point=points.get(hole))
        for hole, out, fitted in socket()
    ]


def split_out(on: WalkedRun, stretch: str) -> SplitOut:
    """A stretch that holds the trouble, to be split where a lead can touch it."""
    step = next(s for s in on.budget.run.steps() if s.piece.id == stretch)
    ends = [point_name(on.craft, p) for p in (step.entry, step.exit)]
    return SplitOut(
        piece=stretch,
        step=split_step(stretch),
        says=split_words(*ends),
        side=next(side for side in SIDES if step in on.budget.run.side(side)),
    )


def trial_out(on: WalkedRun, t: Trial) -> TrialOut:
    """A trial in a line."""
    read = next((r for r in on.taken.readings if r.trial == t.id and r.value is not None), None)
    return TrialOut(id=t.id, says=trial_words(t, on.craft, read.value if read else None))


def at_rest_out(on: WalkedRun, contact: str | None, side: Side) -> AtRestOut:
    """The sweep at rest: where every point should stand with the load off, and where it was read.

    `contact` is the one that stands open meanwhile; `side` is the one that is looked at. JobError where the
    run has no such contact.
    """
    run, session = on.budget.run, on.session
    off = ",".join(sorted(on.view.scenario.on - {on.run_id}))
    held = session.standing_in(on.stage)
    view = session.view(Choice(on.run_id, on.view.scenario.id, held, off))
    if contact is not None:
        known = [s.piece.id for s in run.steps() if s.piece.kind in CONTACTS]
        if contact not in known:
            raise JobError("contact", f"there is no contact {contact}", ", ".join(known) or "none")
        contacts = {**view.scenario.contacts, contact: OPEN}
        view = replace(view, scenario=replace(view.scenario, contacts=contacts))
    moments = {
        m.id
        for m in session.snapshot.moments
        if m.loads.get(on.run_id) in ("off", "unplugged")
        and (contact is None or m.contacts.get(contact) == OPEN)
    }
    parked = parked_on(run, side)
    here = [r for r in on.taken.readings if r.moment in moments and r.quantity == "volts"]
    told = {r.red if r.black == parked else r.black: r for r in here if parked in (r.red, r.black)}
    read = {key: r.value for key, r in told.items() if r.state in ("value", "wandering")}
    (post,) = {run.source.live, run.source.back} - {parked}
    source_v = abs(read.get(post) or on.source_v or on.craft.nominal_v)
    points = sweep(run, session.solved(held, view).solution, read, source_v, side)
    return AtRestOut(
        parked=on.point_out(parked),
        contacts=contacts_out(on),
        points=[
            SweptOut(
                point=on.point_out(p.point),
                should=STANDS[p.should],
                typed=told[p.point].typed if p.point in told else "",
                reading=told[p.point].id if p.point in told else None,
                good=None if p.reads is None else _as_it_should(p),
            )
            for p in points
        ],
        says=[*_open_words(on), *(bypassed_words(p, on.craft) for p in bypassed(points))],
    )


def contacts_out(on: WalkedRun) -> list[ContactOut]:
    """The contacts on a run, and how they stand in the scenario on show."""
    return [
        ContactOut(
            id=s.piece.id,
            name=on.names[s.piece.id],
            kind=s.piece.kind,
            state="open" if on.view.scenario.is_open(s.piece) else "closed",
        )
        for s in on.budget.run.steps()
        if s.piece.kind in CONTACTS
    ]


def _open_words(on: WalkedRun) -> list[str]:
    is_open = on.judgement.conclusion.headline == "open"
    return [judgement_words(on.judgement, on.craft)] if is_open else []


def _as_it_should(p: Swept) -> bool:
    """Nothing and loose are told apart by no meter."""
    return (p.reads == "source") == (p.should == "source") and p.reads != "between"


def stand_in_out(on: WalkedRun) -> StandInOut:
    """Which stand-in load suits the run, and what stood in for its load so far."""
    run, session = on.budget.run, on.session
    load, nominal = run.load, on.craft.nominal_v
    doubt = session.meter.accuracy(nominal, 0.01)
    found = suits(on.budget, doubt, nominal)
    by_id = {m.id: m for m in session.snapshot.moments}
    read, places = [], set()
    for r in on.taken.readings:
        held = by_id[r.moment].stand_in if r.moment in by_id else None
        if held is None or not {held.start, held.end} & {load.start, load.end}:
            continue
        ends = held.start == load.start, held.end == load.end
        place = {(True, True): "connector", (True, False): "return_moved"}.get(ends, "feed_moved")
        places.add(place)
        read.append(StoodInOut(reading=r.id, says=stood_in_words(place, held.amperes, r.value)))
    return StandInOut(
        says=suits_words(found),
        how=stand_in_how(load.duty == "control_supply"),
        next=stand_in_next(places),
        bulbs=[
            BulbOut(says=bulb_words(b), amps=digits(b.amperes, 3), enough=b.enough)
            for b in (found.bulbs if found else usual_bulbs(nominal))
        ],
        read=read,
    )
