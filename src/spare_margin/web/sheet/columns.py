"""The parts of a run sheet: a column for each piece, the total of each side, the load's plate."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import groupby, pairwise

from spare_margin.core.budget.run_budget import PieceBudget, RunBudget, SideBudget
from spare_margin.core.budget.scenarios import drops_out
from spare_margin.core.least import ROUNDING
from spare_margin.core.measure.verdicts import Verdict
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import AnyPiece, FixedPiece, undrawn
from spare_margin.core.model.tables import Tables
from spare_margin.service.job.worked import SolvedWiring
from spare_margin.web.common.cells import JudgedStage
from spare_margin.web.common.models import Point
from spare_margin.web.common.parts import point_out
from spare_margin.wording.craft import pieces, sheets, workings
from spare_margin.wording.craft.names import full_names
from spare_margin.wording.craft.workings import WorkingLine

from .forms import load_form, piece_form
from .models import Column, LoadOut, SideOut

LEAST_FOLDED = 3
"""So many pieces in a row are worth one column."""
MOST_PARTS = 4
"""A run's own pieces of a side are not folded further than into so many."""
SUSPECT = 0.2
"""A piece this likely at fault stands in a column of its own."""


class Columns:
    """Makes the parts of one run in a solved wiring; `found` and `left` are its readings, if any.

    `change_of` says what the latest stage changes in a piece against as found; `explained` is the one piece
    that says how its figures came about, None: all do.
    """

    def __init__(
        self,
        solved: SolvedWiring,
        budget: RunBudget,
        limits: Limits,
        tables: Tables,
        found: JudgedStage | None,
        left: JudgedStage | None,
        change_of: Callable[[str], str],
        explained: str | None = None,
    ) -> None:
        self.solved, self.budget, self.limits, self.tables = solved, budget, limits, tables
        self.found, self.left, self.change_of = found, left, change_of
        self.explained = explained
        self._points: dict[str, Point] = {}
        self._others: dict[tuple[str, ...], list[str]] = {}
        self._drawn: dict[tuple[str, ...], str] = {}
        self.names = full_names(solved.craft, budget.run)
        on = solved.scenario.on
        self.suspect = {
            key
            for read in (found, left)
            if read is not None and read.judgement is not None
            for key, share in read.judgement.suspicion.items()
            if key is not None and share >= SUSPECT
        }
        self.unknown = {x.id for x in solved.craft.loads if x.behaviour is None and x.id in on}

    def columns(self) -> list[Column]:
        """Every piece, in the order the current passes."""
        return [self.column(p, side) for side in self.budget.sides for p in side.pieces]

    def folds(self, columns: Sequence[Column]) -> list[Column]:
        """What can be folded: pieces in a row of which nothing was read and none is suspect.

        Those that serve the same other runs are one trunk; the run's own are up to MOST_PARTS stretches.
        """
        out = []
        for (_, shared, kept), held in groupby(
            columns,
            lambda c: (
                c.side,
                tuple(c.shared_with),
                c.beside or c.on_purpose or bool(c.found or c.left) or c.id in self.suspect,
            ),
        ):
            row = list(held)
            if kept or len(row) < LEAST_FOLDED:
                continue
            parts = 1 if shared else min(MOST_PARTS, len(row) // LEAST_FOLDED)
            ends = [len(row) * i // parts for i in range(parts + 1)]
            out += [self._fold(row[start:end]) for start, end in pairwise(ends)]
        return out

    def _fold(self, row: Sequence[Column]) -> Column:
        """Pieces in a row as one column: what they may lose and lose together."""
        first, last = row[0], row[-1]
        if first.shared_with:
            name, full_name, spec = sheets.trunk_words(first.side, len(row))
        else:
            name, full_name, spec = sheets.stretch_words(
                [c.name for c in row], [c.full_name for c in row]
            )
        allowed, predicted = sum(c.allowance_v for c in row), sum(c.predicted_v for c in row)
        known = [c.resistance_ohm for c in row if c.resistance_ohm is not None]
        sums = [
            workings.sum_line("allowance", [c.allowance_v for c in row]),
            workings.sum_line("predicted", [c.predicted_v for c in row]),
        ]
        return replace(
            first,
            id=f"fold {first.id}",
            pieces=[c.id for c in row],
            kind="conductor",
            name=name,
            full_name=full_name,
            spec=spec,
            exit=last.exit,
            resistance_ohm=sum(known) if len(known) == len(row) else None,
            power_w=sum(c.power_w for c in row),
            allowance_v=allowed,
            predicted_v=predicted,
            spare_v=allowed - predicted,
            undrawn=any(c.undrawn for c in row),
            guessed=any(c.guessed for c in row),
            predicted_verdict=self._worst(row) if allowed < predicted else "within",
            found=self.found.cell(first.entry.id, last.exit.id) if self.found else None,
            left=self.left.cell(first.entry.id, last.exit.id) if self.left else None,
            change="",
            working=sums,
        )

    @staticmethod
    def _worst(row: Sequence[Column]) -> Verdict:
        """What is said of pieces that together lose more than they are allowed."""
        return "over" if any(c.predicted_verdict == "over" for c in row) else "high"

    def column(self, budget: PieceBudget, side: SideBudget) -> Column:
        """One piece."""
        solved = self.solved
        step, piece = budget.step, budget.step.piece
        state = solved.solution.elements[piece.id]
        users = tuple(solved.users.get(piece.id, self.budget.run.string[:1]))
        return Column(
            id=piece.id,
            pieces=[],
            kind=piece.kind,
            name=pieces.piece_name(piece),
            full_name=self.names[piece.id],
            side=side.side,
            spec=pieces.spec(piece) if step.load is None else pieces.load_spec(step.load),
            entry=self._point(step.entry),
            exit=self._point(step.exit),
            group=step.group,
            beside=step.beside,
            current_a=budget.current_a,
            resistance_ohm=state.resistance_ohm,
            temperature_c=state.temperature_c,
            power_w=state.power_w,
            allowance_v=budget.allowance.volts,
            allowance_why=workings.allowance_why(
                budget.allowance, piece, self.limits, solved.craft
            ),
            ruled_by=self._ruled_by(budget),
            predicted_v=budget.drop_v,
            spare_v=budget.spare_v,
            predicted_verdict=self._verdict(budget),
            undrawn=undrawn(piece),
            guessed=self._guessed(piece),
            on_purpose=step.on_purpose,
            load=step.load.id if step.load else None,
            shared_with=self._shared_with(users),
            found=self.found.cell(step.entry, step.exit) if self.found else None,
            left=self.left.cell(step.entry, step.exit) if self.left else None,
            change=self.change_of(piece.id),
            working=self._working(budget, users),
            form=piece_form(piece),
        )

    def _point(self, point_id: str) -> Point:
        """A test point; the one behind a piece is that before the next."""
        if point_id not in self._points:
            self._points[point_id] = point_out(self.solved.craft, point_id)
        return self._points[point_id]

    def _shared_with(self, users: tuple[str, ...]) -> list[str]:
        """The other runs by name; alike for each piece they share."""
        if users not in self._others:
            names, own = self.solved.load_names, self.budget.run.string
            self._others[users] = [names[key] for key in users if key not in own]
        return self._others[users]

    def _working(self, budget: PieceBudget, users: tuple[str, ...]) -> list[WorkingLine]:
        """How the figures of one piece came about; what all loads draw is alike for those they share."""
        solved, piece = self.solved, budget.step.piece
        if budget.step.load is not None or self.explained not in (None, piece.id):
            return []
        if users not in self._drawn:
            names, states = solved.load_names, solved.solution.elements
            drawn = ((names[key], abs(states.current_a(key))) for key in users)
            self._drawn[users] = workings.drawn_sum(drawn)
        view = workings.PieceFigures(
            budget, solved.solution.elements[piece.id], self._drawn[users], self._ruled_by(budget)
        )
        return workings.piece_working(view, solved.craft, self.limits, self.tables)

    def _ruled_by(self, budget: PieceBudget) -> str:
        """The name of the run that rules what a piece may lose, where that is another one."""
        owner = budget.allowance.load_id
        return "" if owner == self.budget.run.load.id else self.solved.load_names[owner]

    def _guessed(self, piece: AnyPiece) -> bool:
        return undrawn(piece) or bool(self.unknown & set(self.solved.users.get(piece.id, ())))

    def _verdict(self, budget: PieceBudget) -> Verdict:
        """Over only where some run that passes the piece is; else no more than a little high."""
        if budget.spare_v >= -ROUNDING:
            return "within"
        piece = budget.step.piece
        single = None
        if isinstance(piece, FixedPiece):
            single = self.limits.single_ceiling_v(piece.kind, self.solved.craft.nominal_v)
        if single is not None and budget.drop_v > single + ROUNDING:
            return "over"
        return "over" if self.solved.budgets.over(piece.id) else "high"

    def side(self, side: SideBudget) -> SideOut:
        """The total of one side."""
        solved, run = self.solved, self.budget
        start, end = run.run.ends(side.side)
        return SideOut(
            side=side.side,
            start=self._point(start),
            end=self._point(end),
            ceiling_v=side.ceiling_v,
            predicted_v=side.drop_v,
            spare_v=side.spare_v,
            predicted_verdict="over" if (side.spare_v or 0) < 0 else "within",
            guessed=any(self._guessed(p.step.piece) for p in side.pieces),
            found=self.found.side_cell(side.side) if self.found else None,
            left=self.left.side_cell(side.side) if self.left else None,
            eaten=sheets.eaten_words(side, solved.craft),
        )

    def load(self, read: tuple[float | None, str] | None = None) -> LoadOut:
        """The load's plate; `read` are the volts read across it, and in which scenario, of a read run."""
        solved, budget = self.solved, self.budget
        load, run = budget.run.load, budget.run
        state = solved.solution.elements[load.id]
        got: float | None = None
        if read is None and state.current_a and not run.guessed:
            got = budget.load_v
        got, where = read or (got, solved.scenario.name)
        return LoadOut(
            id=load.id,
            name=load.name,
            spec=pieces.load_spec(load),
            on=load.id in solved.scenario.on,
            current_a=abs(state.current_a),
            power_w=abs(state.power_w),
            volts=budget.load_v,
            least_v=load.least_v,
            drops_out=got is not None and drops_out(load, got),
            works="" if got is None else pieces.works(load, got, where),
            unknown=load.behaviour is None,
            guessed=run.guessed,
            feed=point_out(solved.craft, run.feed_terminal),
            back=point_out(solved.craft, run.return_terminal),
            form=load_form(load),
        )
