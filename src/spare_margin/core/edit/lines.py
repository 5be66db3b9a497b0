"""A run as a line: test points, pieces and one load in the order the current passes.

Items on a line are the core's own values with what is not yet known left empty: a new piece has no
id, and nobody fills in its ends. Two test points next to each other stand for the way that is there.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from spare_margin.core.circuit.runs import Run
from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    TestPoint,
)

Element = Conductor | FixedPiece | Load
LineItem = TestPoint | Element


@dataclass(frozen=True, slots=True)
class Line:
    """A run, or a way without a load, as items; `beside` are ways beside it, point to point."""

    main: tuple[LineItem, ...]
    beside: tuple[tuple[LineItem, ...], ...] = ()

    def items(self) -> Iterator[LineItem]:
        """Every item, those of the ways beside last."""
        yield from self.main
        for way in self.beside:
            yield from way

    @property
    def load(self) -> Load | None:
        """The load on the line, if there is one."""
        return next((m for m in self.main if isinstance(m, Load)), None)


def line_of(craft: Craft, run: Run) -> Line:
    """The line of a run as it is drawn: what `redrawn` with it would leave as it is.

    Test points are marked where they have a name, are hard to reach, or join more than two ends.

    Args:
        craft: the wiring.
    """
    posts = (run.source.live, run.source.back)

    def marked(key: str) -> list[LineItem]:
        point = craft.point(key)
        told = point.name or point.access != "open" or craft.touching[key] > 2
        return [point] if told or key in posts else []

    main: list[LineItem] = marked(run.source.live)
    for step in run.feed:
        if not step.beside:
            main += [step.load or step.piece, *marked(step.exit)]
    main.append(run.load)
    main += marked(run.return_terminal)
    for step in run.back:
        if not step.beside:
            main += [step.load or step.piece, *marked(step.exit)]
    ways = [way for side in (run.feed, run.back) for way in _beside_ways(side, craft)]
    return Line(tuple(main), tuple(ways))


def _beside_ways(steps: Sequence[Any], craft: Craft) -> Iterator[tuple[LineItem, ...]]:
    """Pieces beside the main way, strung together while one follows the other."""
    way: list[LineItem] = []
    at = ""
    for step in (s for s in steps if s.beside):
        if way and step.entry == at:
            way += [step.piece, craft.point(step.exit)]
        else:
            if way:
                yield tuple(way)
            way = [craft.point(step.entry), step.piece, craft.point(step.exit)]
        at = step.exit
    if way:
        yield tuple(way)


def loose_ends(craft: Craft) -> list[TestPoint]:
    """Test points, posts apart, that lead nowhere: a way still to be drawn on.

    Args:
        craft: the wiring.
    """
    posts = {post for s in craft.sources for post in (s.live, s.back)}
    return [p for p in craft.points if p.id not in posts and craft.touching[p.id] < 2]
