"""Measurements as cards: where each lead goes and how, what to expect, what a typed value means."""

from spare_margin.core.errors import JobError
from spare_margin.core.model.jobs import Quantity
from spare_margin.core.model.meters import CLAMP_METER
from spare_margin.core.model.pieces import undrawn
from spare_margin.core.walk.meaning import LITTLE, MUCH, meaning, most_v
from spare_margin.core.walk.walk import (
    HOLD_SECONDS,
    Expectation,
    Measurement,
    expectation,
    opening,
    range_for,
    span,
)
from spare_margin.exchange.quantities import Understood
from spare_margin.web.common.models import Cell
from spare_margin.wording.measured.card_workings import card_lines
from spare_margin.wording.measured.cards import (
    expect_words,
    on_words,
    range_words,
    why_words,
)
from spare_margin.wording.measured.meanings import GOOD, STATES_MEAN, meaning_words
from spare_margin.wording.measured.walks import MANNERS, measurement_title
from spare_margin.wording.practice.coach import coach_words

from .models import Bar, Card, Means
from .walked_run import WalkedRun


class Cards:
    """Makes the cards of a walk."""

    def __init__(self, on: WalkedRun) -> None:
        self.on = on

    def card(self, each: Measurement, reasons: dict[str, str]) -> Card:
        """A measurement as a card."""
        run, craft = self.on.budget.run, self.on.craft
        red, black = craft.point(each.red), craft.point(each.black)
        within = self._within(each)
        likely = self._expectation(each)
        range_v = self._range(each, likely)
        coach, lesson = coach_words(
            each, run.load.name, self.on.budget.current_a, likely.allowed if likely else None,
            self.on.source_v,
        )  # fmt: skip
        # Where a craft has but one state, it need not be said.
        scenario = self.on.view.scenario.name if len(craft.scenarios) > 1 else ""
        return Card(
            id=each.id,
            kind=each.kind,
            title=measurement_title(craft, run, each),
            red=self.on.point_out(red.id),
            black=self.on.point_out(black.id),
            red_how=MANNERS[red.access],
            black_how=MANNERS[black.access],
            side=each.side,
            range=range_words(range_v),
            range_v=range_v,
            most_v=most_v(each, craft.nominal_v, self.on.source_v) if range_v else None,
            on=on_words(each, run, scenario),
            hold_s=HOLD_SECONDS.get(run.load.duty),
            expect_low=likely.low if likely else None,
            expect_high=likely.high if likely else None,
            expect_says=expect_words(each, likely),
            allowed_v=likely.allowed if likely else None,
            bar=_bar(each, likely),
            why=why_words(each, within, self.on.judgement),
            coach=coach,
            lesson=lesson,
            cell=self._cell(each),
            skipped=reasons.get(each.id, ""),
            within=[self.on.names[s.piece.id] for s in run.steps() if s.piece.id in within],
            working=card_lines(
                each,
                within,
                self.on.budget,
                self.on.solved.solution,
                self.on.session.limits,
                self.on.solved.scenario.source(run.source),
            ),
        )

    def _range(self, each: Measurement, likely: Expectation | None) -> float | None:
        """The most that the range to be set holds (V): what is expected, and what is possible; None for a
        current."""
        if each.kind == "current":
            return None
        return range_for(max(likely.high if likely else 0.0, self._possible(each)))

    def _possible(self, each: Measurement) -> float:
        """What may stand there (V): all of the source over the load, or where nothing flows."""
        dead = self.on.judgement.loaded is False
        crosses = self.on.budget.run.between(each.red, each.black) is None
        return self.on.source_v or self.on.craft.nominal_v if dead or crosses else 0.0

    def between(self, red: str, black: str, quantity: Quantity = "volts") -> Measurement:
        """Any two points as a measurement: one of those that open a walk, or a span. JobError names one
        that is not there."""
        points = {p.id for p in self.on.craft.points}
        for field, point in (("red", red), ("black", black)):
            if point not in points:
                raise JobError(field, f"there is no test point {point}", "a test point of the job")
        if red == black:
            raise JobError("black", "both leads are on the same point", "two different points")
        for each in opening(self.on.budget.run):
            if (each.kind == "current") != (quantity == "amperes"):
                continue
            if {each.red, each.black} == {red, black}:
                return each
        return span(self.on.budget.run, red, black)

    def _within(self, each: Measurement) -> set[str]:
        found = self.on.budget.run.between(each.red, each.black)
        return set(found.pieces) if found else set()

    def _expectation(self, each: Measurement) -> Expectation | None:
        """What to expect: of what nobody has drawn or knows, only what is allowed."""
        run = self.on.budget.run
        within = self._within(each)
        steps = [s.piece for s in run.steps() if not within or s.piece.id in within]
        drawn = not any(undrawn(p) for p in steps)
        amps = None if run.load.behaviour is None else self.on.budget.current_a
        expected = self.on.expected.get(each.id)
        if expected is None and (each.kind == "source" or (drawn and amps is not None)):
            expected = self.on.solved.solution.volts(each.red, each.black)
        return expectation(each, expected, self._allowed(each, within), amps, self.on.source_v)

    def means(self, each: Measurement, read: Understood) -> Means:
        """What was typed for a measurement means by itself, at once."""
        if read.value is None:
            says = STATES_MEAN.get(read.state, "")
            return Means(value=None, says=says, good=None)
        used = CLAMP_METER if each.kind == "current" else self.on.session.meter
        doubt = used.accuracy(read.value, read.step) + read.spread
        found = meaning(
            each, read.value, doubt, self._expectation(each), self.on.craft.nominal_v, self.on.source_v,
            self.on.judgement.loaded,
        )  # fmt: skip
        return Means(
            value=read.value, says=meaning_words(found, each, doubt), good=GOOD.get(found.code)
        )

    # Where it is

    def _allowed(self, each: Measurement, within: set[str]) -> float | None:
        for side in self.on.budget.sides:
            if each.kind == "side" and side.side == each.side:
                return side.ceiling_v
        if each.kind == "load":
            c = self.on.budget.ceilings
            apart = None if c.feed_v is None or c.return_v is None else c.feed_v + c.return_v
            return min((x for x in (apart, c.round_trip_v) if x is not None), default=None)
        if each.kind != "span" or not within:
            return None
        own = [p for s in self.on.budget.sides for p in s.pieces if p.step.piece.id in within]
        return sum(p.allowance.volts for p in own)

    def _cell(self, each: Measurement) -> Cell | None:
        if each.kind == "current":
            return self.on.taken.current()
        if each.kind == "side" and each.side is not None:
            cell = self.on.taken.side_cell(each.side)
            return cell if cell is not None and cell.direct else None
        return self.on.taken.cell(each.red, each.black)

    # What it adds up to


def _bar(each: Measurement, likely: Expectation | None) -> Bar | None:
    """The scale on which a reading lands as it is typed: what is good of it, from end to end."""
    if likely is None:
        return None
    wide = max(likely.high - likely.low, 0.05 * abs(likely.high), 1e-3)
    if each.kind in ("side", "span") and likely.allowed is not None:
        ends = (0.0, 2.2 * likely.allowed)
    elif each.kind == "current":
        ends = (0.0, 2.0 * likely.high)
    else:
        ends = (likely.low - 1.2 * wide, likely.high + 0.6 * wide)
    good = (LITTLE * likely.high, MUCH * likely.high) if each.kind == "current" else (
        likely.low, likely.high
    )  # fmt: skip
    return Bar(
        least=ends[0], most=ends[1], good_from=good[0], good_to=good[1], likely=likely.likely
    )
