"""The loop of a walk as a small picture, and what was done to it: stretches split, trials made."""

from spare_margin.core.circuit.runs import Step
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.jobs import Trial
from spare_margin.core.model.pieces import SIDES, kind_of, undrawn
from spare_margin.core.walk.walk import split_step
from spare_margin.web.common.parts import point_out
from spare_margin.wording.pieces import point_name
from spare_margin.wording.walks import trial_words

from .models import LoopOut, LoopPiece, SplitOut, TrialOut
from .standing import Standing


def loop_out(on: Standing) -> LoopOut:
    """The loop for a small picture: its pieces in order, what is read of each, what is suspected."""
    run = on.budget.run
    read: dict[frozenset[str], Verdict] = {
        frozenset((s.span.red, s.span.black)): s.verdict
        for s in on.judgement.spans
        if s.verdict != "not_judged"
    }
    by_element = on.judgement.search.by_element

    def shown_piece(step: Step) -> LoopPiece:
        piece = step.piece
        return LoopPiece(
            id=piece.id, name=on.names[piece.id], kind=kind_of(piece), entry=step.entry,
            exit=step.exit, undrawn=undrawn(piece), open=on.view.scenario.is_open(piece),
            verdict=read.get(frozenset((step.entry, step.exit)), "not_measured"),
            suspicion=by_element.get(piece.id, 0.0) if on.taken.readings else 0.0,
        )  # fmt: skip

    return LoopOut(
        load=run.load.name,
        source=run.source.name,
        feed=[shown_piece(s) for s in run.feed if not s.beside],
        back=[shown_piece(s) for s in run.back if not s.beside],
        others=[
            point_out(on.craft, p.id) for p in on.craft.points if p.id not in set(on.own_points())
        ],
    )


def split_out(on: Standing, stretch: str) -> SplitOut:
    """A stretch that holds the trouble, to be split where a lead can touch it."""
    step = next(s for s in on.budget.run.steps() if s.piece.id == stretch)
    ends = [point_name(on.craft, p) for p in (step.entry, step.exit)]
    return SplitOut(
        piece=stretch,
        step=split_step(stretch),
        says=f"The trouble lies between {ends[0]} and {ends[1]}.",
        side=next(side for side in SIDES if step in on.budget.run.side(side)),
    )


def trial_out(on: Standing, t: Trial) -> TrialOut:
    """A trial in a line."""
    read = next((r for r in on.taken.readings if r.trial == t.id and r.value is not None), None)
    ends = [
        point_name(on.craft, p) if p in {x.id for x in on.craft.points} else p
        for p in (t.start, t.end)
    ]
    return TrialOut(id=t.id, says=trial_words(t, ends, read.value if read else None))
