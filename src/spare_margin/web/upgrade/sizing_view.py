"""The sizing of a whole craft as the API gives it."""

from collections.abc import Mapping

from spare_margin.core.model.pieces import Conductor, Craft, Size
from spare_margin.core.walk.cautions import cautions
from spare_margin.service.job.session import JobSession
from spare_margin.service.upgrade.sizing_runs import SizingRun
from spare_margin.service.upgrade.whole_craft import (
    CraftFound,
    craft_found,
    run_by_run_of,
    standings,
    task_mends,
)
from spare_margin.wording.craft.names import full_name
from spare_margin.wording.craft.pieces import piece_name, side_word
from spare_margin.wording.language.units import metres
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.repair import sizing_words as words
from spare_margin.wording.repair import upgrades

from .models import CeilingCost, CraftRepair, CraftWay, RunByRunOut, SizedWire, SizingOut
from .view import money, spent_minutes


def sizing_out(session: JobSession, run: SizingRun | None) -> SizingOut:
    """How far the sizing of a craft is, and what came of it."""
    heads = session.snapshot.heads
    head = heads.get("planned", heads["as_found"])
    craft = heads["as_found"].craft
    measured = bool(session.snapshot.readings_of("as_found"))
    # A sizing of another wiring than the one as found says nothing of this one.
    found = craft_found(session)
    made = None if run is None or run.basis != found.basis else run
    state, says, more = _said(made, craft)
    sizes = made.made.sizes if made is not None and made.made is not None else {}
    objective = made.objective if made is not None else "copper"
    return SizingOut(
        job=session.job.id,
        title=session.job.title,
        revision=head.id,
        state=state,  # type: ignore[arg-type]
        objective=objective,  # type: ignore[arg-type]
        says=says,
        more=more,
        seconds=0 if made is None else round(made.seconds),
        before="" if made is None else words.cost_text(_before(made), objective),
        after=""
        if made is None or made.made is None
        else words.cost_text(made.made.cost, objective),
        unit="m\u00b7mm\u00b2" if objective == "copper" else "money",
        proven=bool(made is not None and made.made is not None and made.made.proven),
        wires=_wires(session, craft, sizes),
        costs=[] if made is None else _costs(made, craft, objective),
        second=""
        if made is None or made.made is None
        else words.second_words(made.made, craft, objective),
        measured=measured,
        guilty=_guilty(session, found),
        ways=_ways(session, found, made),
        cautions=caution_words(cautions(craft, 0.0, "planned")),
    )


def _guilty(session: JobSession, found: CraftFound) -> list[str]:
    """The names of the pieces found at fault."""
    judging = session.judging("as_found")
    out = []
    for key in found.guilty:
        run = next(r for r in judging.runs.values() if key in {s.piece.id for s in r.steps()})
        out.append(full_name(found.craft, run, key))
    return out


def _ways(session: JobSession, found: CraftFound, run: SizingRun | None) -> list[CraftWay]:
    """The craft as it is, with what was found mended, and with the sizes that were found."""
    names = {x.id: x.name for x in found.craft.loads}
    mends = run is not None and task_mends(run.task, found)
    return [
        CraftWay(
            id=key, name=words.way_name(key, mends), runs=each.runs, over=each.over, load=names[each.load],  # type: ignore[arg-type]
            spare_v=each.spare_v,
        )
        for key, each in standings(session, found, run).items()
    ]  # fmt: skip


def run_by_run_out(session: JobSession, a_minute: float) -> RunByRunOut:
    """How far a craft is put right run by run."""
    stands = run_by_run_of(session, a_minute).stands
    heads = session.snapshot.heads
    before = heads["as_found"].craft
    loads = {x.id: x.name for x in stands.craft.loads}
    names = {p.id: piece_name(p) for craft in (before, stands.craft) for p in craft.pieces} | loads
    taken = [r.taken for r in stands.repairs]
    prices = [c.price for c in taken]
    whole = None if None in prices else sum(p for p in prices if p is not None)
    return RunByRunOut(
        revision=heads.get("planned", heads["as_found"]).id,
        done=stands.done,
        repairs=[
            CraftRepair(
                load=loads[r.load], says=upgrades.title(r.taken, names),
                sizes=upgrades.size_words(r.taken), before_v=r.before_v,
                after_v=r.taken.now.spare_v, price=money(r.taken.price),
                minutes=spent_minutes(r.taken.minutes),
            )
            for r in stands.repairs
        ],
        waiting=[loads[key] for key in stands.over],
        beyond=[loads[key] for key in stands.beyond],
        price=money(whole),
        minutes=spent_minutes(sum(c.minutes for c in taken)),
    )  # fmt: skip


def _said(run: SizingRun | None, craft: Craft) -> tuple[str, str, list[str]]:
    """Where it stands, in a word, a sentence, and what else there is to say."""
    if run is None:
        return "none", "", []
    if run.trouble is not None:
        return "impossible", words.trouble_words(run.trouble), []
    if run.why:
        first, *more = words.impossible_sentences(run.why, craft)
        return "impossible", first, more
    if run.made is None and run.done:
        return "impossible", words.NOT_SIZED, []
    if run.made is None:
        if run.best is None:
            return "running", words.LOOKING, []
        return "running", words.best_words(run.best, run.bound or 0.0, run.objective), []
    sure, more = words.sure_words(run.made), [words.tried_words(run.made)]
    return ("done", sure, more) if run.done else ("running", words.still_costing(sure), more)


def _before(run: SizingRun) -> float:
    """What the free conductors cost in the sizes they have; a size that has no price counts nothing."""
    return sum(
        w.length_m * run.task.cost(w, w.size) for w in run.task.wires() if w.size is not None
    )


def _wires(session: JobSession, craft: Craft, sizes: Mapping[str, Size]) -> list[SizedWire]:
    users = session.judging("as_found").runs
    names = {x.id: x.name for x in craft.loads}
    passing: dict[str, list[str]] = {}
    for key, run in users.items():
        for step in run.steps():
            passing.setdefault(step.piece.id, []).append(names[key])
    out = []
    for piece in craft.pieces:
        if not isinstance(piece, Conductor) or piece.size is None or piece.id not in passing:
            continue
        after = sizes.get(piece.id, piece.size)
        loads = passing[piece.id]
        said = ", ".join(loads[:2]) + (f" and {len(loads) - 2} more" if len(loads) > 2 else "")
        out.append(
            SizedWire(
                id=piece.id, name=f"{piece_name(piece)}, {side_word(piece.side)}", runs=said,
                length=metres(piece.length_m), before=words.size_text(piece.size),
                after=words.size_text(after), changed=after != piece.size,
            )
        )  # fmt: skip
    return out


def _costs(run: SizingRun, craft: Craft, objective: str) -> list[CeilingCost]:
    names = {x.id: x.name for x in craft.loads}
    return [
        CeilingCost(
            load=names[each.held.load], under=side_word(each.held.under), spare_v=each.spare_v,
            saves=words.cost_text(each.saves, objective),
        )
        for each in run.prices
    ]  # fmt: skip
