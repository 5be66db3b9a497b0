"""Runs: the loop of one load, out from the source's live post and back, in the current's order."""

from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, groupby, pairwise, takewhile
from typing import Any, Literal

from spare_margin.core.circuit.loads import rated_current_a
from spare_margin.core.circuit.solution import ElementState
from spare_margin.core.columns import differing
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import (
    SIDES,
    AnyPiece,
    Craft,
    FixedPiece,
    Load,
    Side,
    Source,
    to_be_sized,
    undrawn,
)


@dataclass(frozen=True, slots=True)
class Step:
    """One piece of a run as the current meets it.

    `group` numbers the parallel group it stands in, if any. A `beside` step is another way
    round the same two ends as the steps before it: its volts do not add to the side's. `load` is another
    load in series with the run's own; `piece` then stands for it, by its id.
    """

    piece: AnyPiece
    entry: str
    exit: str
    group: int | None = None
    beside: bool = False
    load: Load | None = None

    @property
    def forward(self) -> bool:
        """Whether the piece was drawn in the direction of this step."""
        return self.piece.start == self.entry

    @property
    def on_purpose(self) -> bool:
        """Whether this step was fitted to drop volts, and so is no loss."""
        return isinstance(self.piece, FixedPiece) and self.piece.kind == "resistor"


@dataclass(frozen=True, slots=True)
class Section:
    """A part of a side: what is fitted to take volts, or what lies between such things."""

    start: str
    end: str
    on_purpose: bool


@dataclass(frozen=True)
class Run:
    """The loop of one load. `feed` ends at `feed_terminal`; `back` starts at `return_terminal`."""

    load: Load
    source: Source
    feed_terminal: str
    return_terminal: str
    feed: tuple[Step, ...]
    back: tuple[Step, ...]

    @cached_property
    def string(self) -> tuple[str, ...]:
        """The ids of its load and of those in series with it, in the current's order: one current."""
        before, after = ([s.load.id for s in side if s.load] for side in (self.feed, self.back))
        return (*before, self.load.id, *after)

    def side(self, side: Side) -> tuple[Step, ...]:
        """The steps of one side."""
        return self.feed if side == "feed" else self.back

    def steps(self) -> Iterator[Step]:
        """Every step through a piece, feed first."""
        for side in (self.feed, self.back):
            yield from (s for s in side if s.load is None)

    @cached_property
    def points(self) -> frozenset[str]:
        """The ids of the test points of its pieces, and of its source's posts."""
        own = {p for s in self.steps() for p in (s.entry, s.exit)}
        return frozenset(own | {self.source.live, self.source.back})

    @cached_property
    def guessed(self) -> bool:
        """Whether what is predicted of it rests on something nobody has said: a piece, what it draws."""
        return self.load.behaviour is None or any(map(self.undrawn_on, SIDES))

    def undrawn_on(self, side: Side) -> bool:
        """Whether a piece of this side is not drawn, or not said in full."""
        return any(undrawn(s.piece) for s in self.side(side) if s.load is None)

    @cached_property
    def sizable(self) -> bool:
        """Whether all of it is known once what is to be sized has a size."""
        known = (to_be_sized(s.piece) or not undrawn(s.piece) for s in self.steps())
        return self.load.behaviour is not None and all(known)

    @cached_property
    def single_way(self) -> bool:
        """Whether each of its pieces stands alone on its way: it carries what passes, whatever the ohms."""
        return all(s.group is None and not s.beside for s in self.steps())

    @cached_property
    def main(self) -> Mapping[str, Side]:
        """The pieces of the main way, by id, with the side each stands on."""
        return {s.piece.id: side for side in SIDES for s in self.way(side) if s.load is None}

    @cached_property
    def counted(self) -> Mapping[Side, tuple[tuple[str, int], ...]]:
        """By side, the pieces whose drops its ceiling counts, with the sign of the run's direction."""
        return {
            side: tuple(
                (s.piece.id, 1 if s.forward else -1) for s in self.way(side) if not s.on_purpose
            )
            for side in SIDES
        }

    def lost_v(self, elements: Mapping[str, ElementState]) -> tuple[float, float]:
        """What the run loses on its feed and on its return (V), of the pieces that its ceilings count.

        Args:
            elements: the state of each element, by its id.
        """
        feed, back = (
            sum(sign * (elements[key].drop_v or 0.0) for key, sign in self.counted[side])
            for side in SIDES
        )
        return feed, back

    @cached_property
    def misplaced(self) -> tuple[tuple[str, Side], ...]:
        """The pieces that are said to stand on the other side, each with the side it stands on.

        Between two loads in series a piece is on the return of the one and on the feed of the other.
        """
        outside = {
            "feed": takewhile(lambda s: s.load is None, self.feed),
            "return": takewhile(lambda s: s.load is None, reversed(self.back)),
        }
        found = {
            step.piece.id: side
            for side in SIDES
            for step in outside[side]
            if step.piece.side != side
        }
        return tuple((s.piece.id, found[s.piece.id]) for s in self.steps() if s.piece.id in found)

    def way(self, side: Side) -> tuple[Step, ...]:
        """The steps of a side's main way."""
        return self._ways[side]

    @cached_property
    def _ways(self) -> Mapping[Side, tuple[Step, ...]]:
        return {side: tuple(s for s in self.side(side) if not s.beside) for side in SIDES}

    @cached_property
    def line(self) -> Mapping[Side, tuple[str, ...]]:
        """The points of each side's main way in the current's order."""
        return {side: (self.ends(side)[0], *(s.exit for s in self.way(side))) for side in SIDES}

    def sections(self, side: Side) -> tuple[Section, ...]:
        """A side's main way, cut at what is fitted to take volts: each of those, and what lies between."""
        return self._sections[side]

    @cached_property
    def _sections(self) -> Mapping[Side, tuple[Section, ...]]:
        out = {}
        for side in SIDES:
            parts = [
                (on_purpose, list(steps))
                for on_purpose, steps in groupby(
                    self.way(side), key=lambda s: s.piece.id if s.on_purpose else ""
                )
            ]
            out[side] = tuple(
                Section(steps[0].entry, steps[-1].exit, bool(on_purpose))
                for on_purpose, steps in parts
            )
        return out

    @cached_property
    def _places(self) -> Mapping[Side, Mapping[str, int]]:
        return {side: {p: i for i, p in enumerate(line)} for side, line in self.line.items()}

    def between(self, red: str, black: str) -> "Between | None":
        """The pieces of the main way between two points of one side; None where there is no such way.

        Args:
            red: the id of the point that the red lead is on.
            black: the id of the point that the black lead is on.
        """
        for side in SIDES:
            start, end = self._places[side].get(red), self._places[side].get(black)
            if start is None or end is None or start == end:
                continue
            inside = self.way(side)[min(start, end) : max(start, end)]
            return Between(side, tuple(s.piece.id for s in inside), start < end)
        return None

    @cached_property
    def forward_spans(self) -> frozenset[tuple[str, str]]:
        """Every pair of points whose drop is positive when the current flows the right way."""
        spans = {(s.entry, s.exit) for s in self.steps()}
        for side in SIDES:
            spans |= set(combinations(self.line[side], 2))
        spans.add((self.feed_terminal, self.return_terminal))
        return frozenset(spans)

    def ends(self, side: Side) -> tuple[str, str]:
        """The side's first and last test point in the current's order."""
        if side == "feed":
            return self.source.live, self.feed_terminal
        return self.return_terminal, self.source.back


@dataclass(frozen=True, slots=True)
class Between:
    """What lies between two points of one side; `forward` where they stand as the current passes."""

    side: Side
    pieces: tuple[str, ...]
    forward: bool


Passed = tuple[Load, str, str]
"""A load with the points at which the current enters and leaves it."""


class Tracer:
    """Finds the runs of one craft.

    Contacts count as closed: a run is what the current passes when it flows. `ohms` gives the
    resistance of each piece, to tell the main way of a parallel group from the ways beside it.
    """

    def __init__(self, craft: Craft, ohms: Mapping[str, float]) -> None:
        # A tenth of a second, which the program's start need not wait for.
        import networkx as nx  # noqa: PLC0415

        self.craft, self._nx = craft, nx
        graph: nx.Graph[str] = nx.Graph()
        graph.add_nodes_from(point.id for point in craft.points)
        for piece in craft.pieces:
            ohm = ohms.get(piece.id, 0.0) + 1e-9
            if graph.has_edge(piece.start, piece.end):
                edge = graph.edges[piece.start, piece.end]
                edge["pieces"].append((ohm, piece))
                edge["ohm"] = min(edge["ohm"], ohm)
            else:
                graph.add_edge(piece.start, piece.end, ohm=ohm, pieces=[(ohm, piece)])
        self.graph = graph
        self.part = {
            node: i for i, nodes in enumerate(nx.connected_components(graph)) for node in nodes
        }
        self.blocks: list[set[str]] = list(nx.biconnected_components(graph))  # type: ignore[arg-type]
        self._ways: dict[str, dict[str, list[str]]] = {}
        self.blocks_of: dict[str, set[int]] = {}
        for i, nodes in enumerate(self.blocks):
            for node in nodes:
                self.blocks_of.setdefault(node, set()).add(i)

    def trace(self, load: Load) -> Run:
        """The run of this load. JobError where its loop does not close."""
        start, end = self.part[load.start], self.part[load.end]
        # What lies at a source's own posts is fed by another, if there is one: a battery that is charged.
        ends = {load.start, load.end}
        for source in sorted(self.craft.sources, key=lambda s: {s.live, s.back} == ends):
            live, back = self.part[source.live], self.part[source.back]
            for feed, returned, parts in (
                (load.start, load.end, (start, end)),
                (load.end, load.start, (end, start)),
            ):
                if parts == (live, back):
                    return Run(
                        load,
                        source,
                        feed,
                        returned,
                        tuple(self._way(self._ways_from(source.live)[feed])),
                        tuple(self._way(self._ways_from(source.back)[returned][::-1])),
                    )
        string = self._in_series(load)
        if string is not None:
            return self._along(load, *string)
        raise JobError(
            f"elements.{load.id}",
            f"the circuit of {load.name} is not complete: {self._gap(load)}",
            "pieces that lead from a source's live post to the load and back to its return post",
        )

    # Loads in series

    def _in_series(self, load: Load) -> tuple[Source, list[Passed]] | None:
        """The loads one behind the other from a source's live post to its return post; None where they
        are not, or where currents part in between."""
        for source in self.craft.sources:
            live, back = self.part[source.live], self.part[source.back]
            ways = (((load.start, load.end), (live, back)), ((load.end, load.start), (live, back)))
            for (entry, leave), (first, last) in ways:
                before = self._chain((load, leave, entry), first)
                after = self._chain((load, entry, leave), last)
                if before is not None and after is not None:
                    turned = [(x, leave, entry) for x, entry, leave in reversed(before)]
                    return source, [*turned, (load, entry, leave), *after]
        return None

    def _chain(self, begun: Passed, wanted: int) -> list[Passed] | None:
        """The loads that follow one, up to a part that is wanted; each the only one to go on through."""
        out: list[Passed] = []
        load, _, at = begun
        while self.part[at] != wanted:
            here = self.part[at]
            touching = [
                x for x in self.craft.loads if here in (self.part[x.start], self.part[x.end])
            ]
            more = [x for x in touching if x.id != load.id]
            if len(touching) != 2 or len(more) != 1 or here in self._posts:
                return None
            (load,) = more
            entry, at = load.start, load.end
            if self.part[entry] != here:
                entry, at = at, entry
            if load.id == begun[0].id or any(load.id == x.id for x, _, _ in out):
                return None
            out.append((load, entry, at))
        return out

    @property
    def _posts(self) -> set[int]:
        return {self.part[post] for s in self.craft.sources for post in (s.live, s.back)}

    def _along(self, load: Load, source: Source, string: Sequence[Passed]) -> Run:
        """The run of one load of a string: the others are steps of it, fitted to take volts."""
        steps: list[Step] = []
        sides: dict[Side, tuple[Step, ...]] = {}
        at, ends = source.live, ("", "")
        for each, entry, leave in string:
            steps += self._way(self._ways_from(at)[entry])
            if each.id == load.id:
                sides["feed"], steps, ends = tuple(steps), [], (entry, leave)
            else:
                side: Side = "return" if "feed" in sides else "feed"
                steps.append(Step(self._as_piece(each, side), entry, leave, load=each))
            at = leave
        steps += self._way(self._ways_from(at)[source.back])
        return Run(load, source, *ends, sides["feed"], tuple(steps))

    def _as_piece(self, load: Load, side: Side) -> FixedPiece:
        known = load.behaviour is not None
        nominal = self.craft.nominal_v
        ohm = nominal / rated_current_a(load, nominal) if known else None
        return FixedPiece(
            id=load.id, start=load.start, end=load.end, side=side, kind="resistor", name=load.name,
            resistance_ohm=ohm,
        )  # fmt: skip

    def _gap(self, load: Load) -> str:
        live = {self.part[s.live] for s in self.craft.sources}
        back = {self.part[s.back] for s in self.craft.sources}
        ends = {self.part[load.start], self.part[load.end]}
        if not ends & live:
            return "nothing connects a live post to its feed"
        if not ends & back:
            return "nothing connects its return back to the source"
        return "its two ends are not on the two sides of one source"

    def _ways_from(self, post: str) -> dict[str, list[str]]:
        """The way of least resistance from a post to every point it reaches."""
        if post not in self._ways:
            self._ways[post] = self._nx.single_source_dijkstra_path(self.graph, post, weight="ohm")
        return self._ways[post]

    def _way(self, nodes: list[str]) -> Iterator[Step]:
        legs = list(pairwise(nodes))
        at = 0
        while at < len(legs):
            block = self._block(*legs[at])
            inside = at
            while inside < len(legs) and self._block(*legs[inside]) == block:
                inside += 1
            yield from self._through(block, legs[at:inside])
            at = inside

    def _block(self, a: str, b: str) -> int:
        return min(self.blocks_of[a] & self.blocks_of[b])

    def _through(self, block: int, legs: list[tuple[str, str]]) -> Iterator[Step]:
        """The steps through one block: its main way, then the pieces beside it."""
        only = self.graph.edges[legs[0]]["pieces"]
        if len(self.blocks[block]) == 2 and len(only) == 1:
            yield Step(only[0][1], *legs[0])
            return
        inside = self.graph.subgraph(self.blocks[block])
        pieces = {
            piece.id: piece
            for a, b in inside.edges
            for _, piece in self.graph.edges[a, b]["pieces"]
        }
        group = block if len(pieces) > len(legs) else None
        for entry, leave in legs:
            _, piece = min(self.graph.edges[entry, leave]["pieces"], key=lambda each: each[0])
            del pieces[piece.id]
            yield Step(piece, entry, leave, group)
        if not pieces:
            return
        far = self._nx.single_source_shortest_path_length(inside, legs[0][0])
        for piece in sorted(pieces.values(), key=lambda p: min(far[p.start], far[p.end])):
            ends = (piece.start, piece.end)
            if (far[piece.end], piece.end != legs[-1][1]) < (far[piece.start], True):
                ends = ends[::-1]
            yield Step(piece, *ends, group, beside=True)


@dataclass(frozen=True, slots=True)
class Traced:
    """The runs of a craft by load id, why the first that does not close does not, who passes each piece."""

    craft: Craft
    runs: Mapping[str, Run]
    problem: str
    users: Mapping[str, Sequence[str]]


def traced(craft: Craft, ohms: Mapping[str, float]) -> Traced:
    """Every run of a craft that closes; `ohms` as of a Tracer."""
    tracer = Tracer(craft, ohms)
    runs, problem = {}, ""
    for load in craft.loads:
        try:
            runs[load.id] = tracer.trace(load)
        except JobError as broken:
            problem = problem or broken.problem
    users: dict[str, list[str]] = {}
    for run in runs.values():
        # Loads in series pass one current: the first of them stands for all.
        for piece in dict.fromkeys(step.piece.id for step in run.steps()):
            held = users.setdefault(piece, [])
            held += [run.string[0]] if run.string[0] not in held else []
    return Traced(craft, runs, problem, users)


def traced_like(before: Traced, craft: Craft) -> Traced | None:
    """The runs of a craft that hangs together as one traced before; None where they may differ.

    A piece that stands alone on its way leads the same runs whatever it is: only ways side by side
    are told apart by their resistance.
    """
    old = before.craft
    if before.problem or not hang_alike(old, craft):
        return None
    pairs = ((old.pieces, craft.pieces), (old.loads, craft.loads), (old.sources, craft.sources))
    new: dict[str, Any] = {
        now.id: now for olds, news in pairs for _, _, now in differing(olds, news)
    }
    if any(len(r.string) > 1 and not new.keys().isdisjoint(r.string) for r in before.runs.values()):
        return None  # a load in series is a step of other runs as well
    runs = dict(before.runs)
    fed = {key for key, run in runs.items() if run.source.id in new}
    passing = {key for piece in new for key in before.users.get(piece, ())}
    for key in fed | passing | (new.keys() & runs.keys()):
        run = runs[key]
        if any(s.piece.id in new and (s.group is not None or s.beside) for s in run.steps()):
            return None
        runs[key] = replace(
            run,
            load=new.get(key, run.load),
            source=new.get(run.source.id, run.source),
            feed=tuple(replace(s, piece=new.get(s.piece.id, s.piece)) for s in run.feed),
            back=tuple(replace(s, piece=new.get(s.piece.id, s.piece)) for s in run.back),
        )
    return Traced(craft, runs, "", before.users)


def hang_alike(a: Craft, b: Craft) -> bool:
    """Whether two crafts join the same points with the same elements, in the same order.

    Args:
        a: one of them.
        b: the other.
    """
    return (
        len(a.pieces) == len(b.pieces)
        and len(a.loads) == len(b.loads)
        and all(
            (x.id, x.start, x.end) == (y.id, y.start, y.end)
            for olds, news in ((a.pieces, b.pieces), (a.loads, b.loads))
            for _, x, y in differing(olds, news)
        )
        and [(s.id, s.live, s.back) for s in a.sources]
        == [(s.id, s.live, s.back) for s in b.sources]
        and (a.points is b.points or [p.id for p in a.points] == [p.id for p in b.points])
    )


Held = Literal["feed", "return", "round_trip"]
"""What a ceiling holds: a side, or both together."""
HELD: Mapping[Held, tuple[Side, ...]] = {
    "feed": ("feed",),
    "return": ("return",),
    "round_trip": SIDES,
}
Read = Mapping[str, Set[Held]]
"""By the load of each run that was measured and judged, what of it nobody has drawn in full or read."""
NOTHING_READ: Read = {}


def open_parts(run: Run, read: Read) -> frozenset[Held]:
    """What of a run nothing can be said of: it is neither known in all its parts nor measured.

    Args:
        read: what was measured.
    """
    if run.load.id not in read:
        return frozenset(HELD if run.guessed else ())
    return frozenset(h for h in read[run.load.id] if any(map(run.undrawn_on, HELD[h])))


def not_known(runs: Mapping[str, Run], read: Read) -> tuple[str, ...]:
    """The loads of runs of which something is neither known in all its parts nor measured.

    Args:
        runs: the runs, by load id.
        read: what was measured.
    """
    return tuple(key for key, run in runs.items() if open_parts(run, read))


def misplaced(runs: Iterable[Run]) -> dict[str, Side]:
    """Pieces whose `side` is not the side the network puts them on, with the true side.

    The file's word on a side is checked, not believed.

    Args:
        runs: the runs.
    """
    return {piece: side for run in runs for piece, side in run.misplaced}
