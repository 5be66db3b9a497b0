"""The hand-over sheet of a run: everything it says, gathered from the session of its job."""

from collections.abc import Mapping
from datetime import UTC, datetime

from spare_margin.core.upgrade.parts import bars, parts_of
from spare_margin.core.walk.cautions import CautionId, cautions
from spare_margin.exchange.reports.sheet import BesideEachOther, HandOver, Paper
from spare_margin.service.job.session import JobSession
from spare_margin.service.proof.proof_sheet import proof_sheet
from spare_margin.wording.craft.pieces import piece_name, point_name, spec
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.repair import upgrades
from spare_margin.wording.repair.hand_over import craft_words, limit_words


def hand_over(
    session: JobSession,
    run_id: str,
    settings: Mapping[str, str],
    photographs: tuple[BesideEachOther, ...] = (),
) -> HandOver:
    """What the hand-over sheet of a run says. JobError where the wiring as left has no such run."""
    job = session.job
    judging = session.judging("as_left")
    proof = proof_sheet(session, run_id)
    craft, run = judging.craft, judging.runs[run_id]
    first = next(iter(session.snapshot.heads.values())).craft
    worst = judging.judge(run_id).worst
    complaint = (job.complaint.what, job.complaint.when, job.complaint.conditions)
    names = {p.id: piece_name(p) for each in (first, craft) for p in each.pieces}
    names |= {x.id: x.name for each in (first, craft) for x in each.loads}
    names |= {key: point_name(craft, key) for key in bars(craft)}
    colours = {side: settings.get(f"{side}_colour", "") for side in ("feed", "return")}
    parts = (
        upgrades.part_words(line, names, colours) for line in parts_of(first, craft, session.tables)
    )
    current = judging.budget(run_id, worst).current_a
    hot = any(c.code == "cool" and c.holds is False for c in proof.conditions)
    found: frozenset[CautionId] = frozenset({"hot_joint"} if hot else ())
    paper: Paper = "letter" if settings.get("paper") == "letter" else "a4"
    return HandOver(
        workshop=settings.get("workshop", ""),
        title=job.title,
        craft=craft_words(craft, job.craft_name),
        customer=job.customer,
        complaint=" ".join(filter(None, complaint)),
        limits=limit_words(
            session.limits.limit_set.name, session.limits.ceilings(run.load, craft.nominal_v)
        ),
        proof=proof,
        pieces={s.piece.id: spec(s.piece) for s in run.steps()},
        parts=tuple(f"{what}: {amount}" if amount else what for what, amount in parts),
        cautions=caution_words(cautions(craft, current, "as_left", run.load, found)),
        made=datetime.now(UTC).date(),
        paper=paper,
        photographs=photographs,
    )
