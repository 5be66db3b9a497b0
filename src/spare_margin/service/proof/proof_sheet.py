"""Makes the lines of a proof from the session of its job."""

from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress

from spare_margin.core.errors import JobError
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Reading
from spare_margin.core.model.pieces import SIDES, Craft
from spare_margin.core.proof import before_after
from spare_margin.core.proof.proof import Proof
from spare_margin.exchange.quantities import Kind, understand
from spare_margin.service.job.session import JobSession
from spare_margin.service.proof.repairing import left_undone, order_of, proof_of, ticked, tries
from spare_margin.wording.craft.changes import differences
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.craft.pieces import piece_name, point_name, side_word
from spare_margin.wording.language.figures import (
    Figure,
    ampere_figure,
    amperes_as_read,
    ohm_figure,
    volt_figure,
    volts_as_read,
    within,
)
from spare_margin.wording.measured.cautions import caution_words
from spare_margin.wording.measured.spans import taken_words
from spare_margin.wording.measured.verdicts import judgement_words, shown_verdict
from spare_margin.wording.repair import proof as words
from spare_margin.wording.repair import upgrades
from spare_margin.wording.repair.proof_lines import (
    ConditionLine,
    LeftOut,
    LikenessLine,
    PieceLine,
    ProofSheet,
    ReadingLine,
    SideBar,
    SurfaceLine,
    TryLine,
)


def proof_sheet(session: JobSession, run_id: str) -> ProofSheet:
    """The proof of a run as far as it was read. JobError where the wiring as left has no such run."""
    proof = proof_of(session, run_id)
    left = proof.left
    craft = left.craft
    head = session.head(session.standing_in("as_left"))
    first = next(iter(session.snapshot.heads.values()))
    steps = _steps(session.snapshot.readings)
    readings = {r.id: r for r in session.snapshot.readings}
    cautions = next(c for c in proof.conditions if c.code == "cautions")
    return ProofSheet(
        run=run_id,
        name=left.run.load.name,
        revision=head.id,
        started=session.measured_on("as_left", run_id),
        outcome=proof.outcome,
        outcome_says=words.OUTCOMES[proof.outcome],
        won=words.won_words(proof) if left.amps is not None else "",
        scenario=left.worst.name,
        conditions=tuple(
            ConditionLine(c.code, c.holds, words.HEADS[c.code], *words.condition_words(c, proof), c.about)
            for c in proof.conditions
        ),
        likenesses=tuple(
            LikenessLine(x.code, x.alike, words.LIKE_HEADS[x.code], *words.likeness_words(x, proof))
            for x in proof.likenesses
        ),
        readings=tuple(_reading(row, proof, readings, steps) for row in proof.rows),
        bars=tuple(_bars(proof)),
        pieces=tuple(_pieces(proof)),
        surfaces=tuple(
            SurfaceLine(
                f"{point_name(craft, s.red)} to {point_name(craft, s.black)}",
                _kelvin(s.before_k), _kelvin(s.after_k),
            )
            for s in proof.surfaces
        ),
        done=tuple(differences(first.craft, craft)),
        left_out=tuple(LeftOut(words.point_words(m, proof), why) for m, why in proof.left_out),
        unticked=_unticked(session, run_id),
        left_undone=left_undone(session, run_id),
        tries=tuple(_tries(session, run_id, first.craft)),
        signed=tuple(s for s in session.snapshot.sign_offs if s.run == run_id),
        cautions=caution_words(cautions.about),  # type: ignore[arg-type]
    )  # fmt: skip


def _kelvin(value: float | None) -> str:
    return "" if value is None else f"{value:.0f} K"


def _reading(
    row: before_after.Row, proof: Proof, readings: Mapping[str, Reading], steps: Mapping[str, float]
) -> ReadingLine:
    at, craft = row.measurement, proof.left.craft
    current = at.kind == "current"
    shown = ampere_figure if current else volt_figure

    def figure(value: float | None) -> Figure | None:
        return None if value is None else shown(value)

    def known(found: before_after.KnownFigure | None) -> Figure | None:
        if found is None:
            return None
        if found.known == "worked_out":
            return within(shown, found.value, found.doubt)
        step = steps.get(found.reading, 0.0)
        return (amperes_as_read if current else volts_as_read)(found.value, step)

    return ReadingLine(
        at.id, at.kind, words.point_words(at, proof), point_name(craft, at.red),
        point_name(craft, at.black), known(row.before), row.before.known if row.before else None,
        _verdict(row.before), known(row.after), row.after.known if row.after else None,
        _verdict(row.after), figure(row.expected), figure(row.allowed), _taken(row, readings),
    )  # fmt: skip


def _taken(row: before_after.Row, readings: Mapping[str, Reading]) -> str:
    """From which meters the two figures of a line came by themselves."""
    said = []
    for name, found in (("before", row.before), ("after", row.after)):
        reading = None if found is None else readings.get(found.reading)
        if reading is not None and reading.by_meter is not None:
            how = taken_words(reading.by_meter, reading.quantity)
            said.append(f"{name} by {reading.by_meter.name}: {how}")
    return "; ".join(said)


def _steps(readings: Iterable[Reading]) -> dict[str, float]:
    """What the last digit of each reading is worth, by its id, as far as its text says."""
    out = {}
    for r in readings:
        with suppress(JobError):
            kind: Kind = "amperes" if r.quantity == "amperes" else "volts"
            out[r.id] = understand(r.typed, kind, "typed", words=True).step
    return out


def _verdict(read: before_after.KnownFigure | None) -> Verdict:
    return "not_measured" if read is None or read.verdict == "not_judged" else read.verdict


def _bars(proof: Proof) -> Iterator[SideBar]:
    left = proof.left
    if left.amps is None and not left.spans:
        return
    for side in SIDES:
        judged = left.sides[side]
        before = None if proof.found is None else proof.found.sides[side].loaded_v
        yield SideBar(
            side_word(side), None if before is None else volt_figure(before),
            volt_figure(judged.loaded_v or 0.0),
            None if judged.ceiling_v is None else volt_figure(judged.ceiling_v),
        )  # fmt: skip


def _pieces(proof: Proof) -> Iterator[PieceLine]:
    names = full_names(proof.left.craft, proof.left.run)
    for each in proof.pieces:
        yield PieceLine(
            each.piece, names[each.piece], each.side,
            None if each.before_v is None else volt_figure(each.before_v),
            volt_figure(each.after_v),
            None if each.before_ohm is None else ohm_figure(each.before_ohm),
            ohm_figure(each.after_ohm), each.worked_on, each.known,
        )  # fmt: skip


def _unticked(session: JobSession, run_id: str) -> tuple[str, ...]:
    """The steps of the work order that nobody ticked; none where there is no order of this run."""
    planned = session.snapshot.heads.get("planned")
    if planned is None or run_id not in session.bare("planned").runs:
        return ()
    order, done = order_of(session, run_id), ticked(session, run_id)
    names = _names(session.head("as_found").craft, planned.craft)
    return tuple(upgrades.step_words(step, names)[0] for step in order.steps if step.id not in done)


def _names(*crafts: Craft) -> Mapping[str, str]:
    names = {p.id: piece_name(p) for craft in crafts for p in craft.pieces}
    return names | {x.id: x.name for craft in crafts for x in craft.loads}


def _tries(session: JobSession, run_id: str, before: Craft) -> Iterator[TryLine]:
    for each in tries(session, run_id):
        craft = each.revision.craft
        yield TryLine(
            each.revision.made_at, tuple(differences(before, craft)), shown_verdict(each.found),
            judgement_words(each.found, craft),
        )  # fmt: skip
        before = craft
