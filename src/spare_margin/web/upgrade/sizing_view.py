"""The sizing of a whole craft as the API gives it."""

from spare_margin.core.model.pieces import Conductor, Craft, to_be_sized
from spare_margin.core.sizing.free import INSULATION_C, WireSort, sorts, usual_sort
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
from spare_margin.wording.language.figures import price
from spare_margin.wording.language.units import in_use, metres
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.repair import sizing_words as words
from spare_margin.wording.repair import upgrades

from .models import (
    CeilingCost,
    CraftRepair,
    CraftWay,
    RunByRunOut,
    SizedFuse,
    SizedWire,
    SizingOut,
    WireSortIn,
)
from .view import spent_minutes

LEAST_SAVED = 0.05
"""A ceiling whose hundredth of a volt saves less (m mm2, or money) is not worth a line."""


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
    objective = made.objective if made is not None else "copper"
    wires = _wires(session, craft, made)
    return SizingOut(
        job=session.job.id,
        title=session.job.title,
        revision=head.id,
        state=state,  # type: ignore[arg-type]
        objective=objective,  # type: ignore[arg-type]
        says=says,
        more=more,
        anyway=made is not None and made.can_be_eased,
        seconds=0 if made is None else round(made.seconds),
        before="" if made is None else words.cost_text(_before(made), objective),
        after=""
        if made is None or made.made is None
        else words.cost_text(made.made.cost, objective),
        unit="m\u00b7mm\u00b2" if objective == "copper" else in_use().currency,
        proven=bool(made is not None and made.made is not None and made.made.proven),
        wires=wires,
        fuses=_fuses(session, craft, made),
        to_size=sum(to_be_sized(p) for p in craft.pieces if p.id in _passing(session)),
        sort=_sort(made.begun.sort if made is not None else usual_sort(craft, in_use().size)),
        sorts=[_sort(each) for each in sorts(session.tables)],
        costs=[] if made is None else _costs(made, craft, objective),
        second=""
        if made is None or made.made is None
        else words.second_words(made.made, {w.id: f"{w.name} {w.runs}" for w in wires}, objective),
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
            id=key, name=words.way_name(key, mends), runs=each.runs, over=each.over,  # type: ignore[arg-type]
            dropped=[names[k] for k in each.dropped],
            unknown=[names[k] for k in each.unknown], load=names[each.load], spare_v=each.spare_v,
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
                load=upgrades.all_of((r.load, *r.others), loads),
                says=upgrades.title(r.taken, names),
                alone=upgrades.alone_words([each.taken for each in r.alone]),
                sizes=upgrades.size_words(r.taken), before_v=r.spares[0],
                after_v=r.spares[1], price=price(r.taken.price),
                minutes=spent_minutes(r.taken.minutes),
            )
            for r in stands.repairs
        ],
        waiting=[loads[key] for key in stands.over],
        sharing=[loads[key] for key in stands.sharing],
        beyond=[loads[key] for key in stands.beyond],
        unknown=[loads[key] for key in stands.unknown],
        price=price(whole),
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
        ways = words.ways_words(run.ways[0], run.task.tables) if run.ways else []
        return "impossible", first, [*ways, *more]
    if run.made is None and run.done:
        return "impossible", words.NOT_SIZED, []
    if run.made is None:
        if run.best is None:
            return "running", words.LOOKING, []
        return "running", words.best_words(run.best, run.bound or 0.0, run.objective), []
    names = [x.name for x in craft.loads if x.id not in run.task.ceilings]
    sure = words.sure_words(run.made, bool(run.eased))
    more = [
        *words.eased_words(run.eased, craft),
        words.tried_words(run.made),
        *words.unknown_words(names),
    ]
    return ("done", sure, more) if run.done else ("running", words.still_costing(sure), more)


def _before(run: SizingRun) -> float:
    """What the free conductors cost in the sizes they have; a size that has no price counts nothing."""
    return sum(
        w.length_m * run.task.cost(w, w.size) for w in run.task.wires() if w.size is not None
    )


def _passing(session: JobSession) -> dict[str, list[str]]:
    """The names of the loads whose run passes each piece, by its id."""
    names = {x.id: x.name for x in session.judging("as_found").craft.loads}
    out: dict[str, list[str]] = {}
    for key, run in session.judging("as_found").runs.items():
        for step in run.steps():
            out.setdefault(step.piece.id, []).append(names[key])
    return out


def _loads(passing: list[str]) -> str:
    more = f" and {len(passing) - 2} more" if len(passing) > 2 else ""
    return ", ".join(passing[:2]) + more


def _wires(session: JobSession, craft: Craft, run: SizingRun | None) -> list[SizedWire]:
    """Every wire that has a size or is to get one; what forces it once it was sized."""
    passing = _passing(session)
    sizes = run.made.sizes if run is not None and run.made is not None else {}
    why = run.reasons if run is not None else {}
    runs = session.judging("as_found").runs
    out = []
    for piece in craft.pieces:
        if not isinstance(piece, Conductor) or piece.id not in passing:
            continue
        free = to_be_sized(piece)
        if piece.size is None and not free:
            continue
        before = words.TO_BE_SIZED if piece.size is None else words.size_text(piece.size)
        after = sizes.get(piece.id, piece.size)
        because = why.get(piece.id)
        out.append(
            SizedWire(
                id=piece.id, name=f"{piece_name(piece)}, {side_word(piece.side)}",
                runs=_loads(passing[piece.id]), length=metres(piece.length_m), before=before,
                after=before if after is None else words.size_text(after),
                changed=after != piece.size, free=free,
                because="" if because is None else words.reason_words(because, craft, runs),
            )
        )  # fmt: skip
    return out


def _fuses(session: JobSession, craft: Craft, run: SizingRun | None) -> list[SizedFuse]:
    """The fuses and breakers without a rating; the one each gets once the craft was sized."""
    passing = _passing(session)
    chosen = run.sized.fuses if run is not None and run.sized is not None else ()
    by_id = {each.piece: each for each in chosen}
    out = []
    for piece in craft.pieces:
        if isinstance(piece, Conductor) or piece.id not in passing or not to_be_sized(piece):
            continue
        found = by_id.get(piece.id)
        out.append(
            SizedFuse(
                id=piece.id, name=piece_name(piece), runs=_loads(passing[piece.id]),
                after="" if found is None else words.rating_text(found.rating_a, found.style),
                because="" if found is None else words.fuse_reason(found, craft),
            )
        )  # fmt: skip
    return out


def _sort(each: WireSort) -> WireSortIn:
    return WireSortIn(
        system=each.system, finish=each.finish, insulation_c=each.insulation_c or INSULATION_C  # type: ignore[arg-type]
    )  # fmt: skip


def _costs(run: SizingRun, craft: Craft, objective: str) -> list[CeilingCost]:
    names = {x.id: x.name for x in craft.loads}
    return [
        CeilingCost(
            load=names[each.held.load], under=side_word(each.held.under), spare_v=each.spare_v,
            saves=words.cost_text(each.saves, objective),
        )
        for each in run.prices
        if each.saves >= LEAST_SAVED
    ]  # fmt: skip
