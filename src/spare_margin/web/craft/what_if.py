"""What small changes would do to a run: a size up or down, ten degrees more, one more joint."""

from collections.abc import Iterator
from dataclasses import replace

from spare_margin.core.budget.trunk import next_size
from spare_margin.core.circuit.runs import Run
from spare_margin.core.edit.columns import put_in
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import AnyPiece, Conductor, Craft, FixedPiece, Scenario, undrawn
from spare_margin.core.model.tables import Tables
from spare_margin.service.job.worked import SolvedWiring, WorkedCraft
from spare_margin.web.craft.models import Wondered
from spare_margin.wording.craft import what_if as words

WARMER_C = 10.0
ONE_MORE = FixedPiece(id="", start="", end="", side="feed", kind="joint", style="splice")

Variant = tuple[str, str, Craft, Scenario]
"""What it is called, what changes in words, and the craft and scenario it would be."""


def wonders(
    solved: SolvedWiring, run_id: str, piece_id: str | None, limits: Limits, tables: Tables
) -> list[Wondered]:
    """What each small change at this piece (or, without one, of the run) would do to the run.

    Nothing is said of a run that is not known: there is nothing to compare with.
    """
    now = solved.budgets[run_id]
    if now.run.guessed:
        return []
    out = []
    for what, says, craft, scenario in _variants(solved, run_id, piece_id, tables):
        would = SolvedWiring(WorkedCraft(craft, limits, tables, solved.worked), scenario)
        budget = would.budgets.get(run_id)
        if budget is None or not budget.current_a:
            out.append(
                Wondered(
                    what=what, load_v=None, load_more_v=None, spare_v=None, more_v=None, says=says
                )
            )
            continue
        spare, more = budget.spare_v, budget.spare_v - now.spare_v
        bounded = abs(spare) < 1e9
        out.append(
            Wondered(
                what=what,
                load_v=budget.load_v,
                load_more_v=budget.load_v - now.load_v,
                spare_v=spare if bounded else None,
                more_v=more if bounded else None,
                says=says,
            )
        )
    return out


def _variants(
    solved: SolvedWiring, run_id: str, piece_id: str | None, tables: Tables
) -> Iterator[Variant]:
    craft, scenario, run = solved.craft, solved.scenario, solved.runs[run_id]
    piece = next((s.piece for s in run.steps() if s.piece.id == piece_id), None)
    if piece is not None:
        for what, says, made in _of_piece(piece, tables):
            yield what, says, _with(craft, made), scenario
    else:
        thicker = _thicker(craft, run, tables)
        yield *words.all_thicker(), thicker, scenario
    warmer = replace(
        scenario,
        ambient_c=scenario.ambient_c + WARMER_C,
        engine_c=None if scenario.engine_c is None else scenario.engine_c + WARMER_C,
    )
    yield *words.warmer(WARMER_C, warmer.ambient_c), craft, warmer
    row = tables.fixed.row_like(ONE_MORE)
    more, _ = put_in(craft, run, piece.id if piece else None, ONE_MORE)
    joint = words.one_more_joint(row.good_ohm if row else None, piece is not None)
    yield *joint, more, scenario


def _of_piece(piece: AnyPiece, tables: Tables) -> Iterator[tuple[str, str, AnyPiece]]:
    if isinstance(piece, FixedPiece):
        if piece.kind == "resistor":
            return
        row = tables.fixed.row_like(piece)
        limits = expected(piece, tables.fixed)
        good = row.good_ohm if row else limits.good_ohm
        yield *words.as_new(good), replace(piece, resistance_ohm=good)
        yield *words.aged(limits.aged_ohm), replace(piece, resistance_ohm=limits.aged_ohm)
        return
    if piece.size is None or piece.resistance_ohm is not None or undrawn(piece):
        return
    for by in (1, -1):
        size = next_size(piece.size, tables, by)
        if size is not None:
            yield *words.another_size(piece.size, size, by > 0), replace(piece, size=size)


def _with(craft: Craft, made: AnyPiece) -> Craft:
    return replace(craft, pieces=tuple(made if p.id == made.id else p for p in craft.pieces))


def _thicker(craft: Craft, run: Run, tables: Tables) -> Craft:
    for step in run.steps():
        if isinstance(step.piece, Conductor) and step.piece.size is not None:
            size = next_size(step.piece.size, tables, 1)
            if size is not None:
                craft = _with(craft, replace(step.piece, size=size))
    return craft
