"""Is a drawn craft one that can be budgeted? Finds what is wrong before anything is computed."""

from collections import Counter
from collections.abc import Iterator

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.errors import JobError, NoSolution, SpareMarginError
from spare_margin.core.model.fixed_pieces import expected
from spare_margin.core.model.naming import point_called
from spare_margin.core.model.pieces import CONTACTS, Conductor, Craft, FixedPiece, Scenario
from spare_margin.core.model.tables import Tables

FIGHT_SHARE = 0.2
"""Sources side by side may pull one another's terminals this share of the nominal voltage away."""


def resistance_trouble(piece: Conductor | FixedPiece, tables: Tables) -> JobError | None:
    """What keeps this piece from having a resistance, if anything.

    Args:
        tables: the reference tables.
    """
    at = f"elements.{piece.id}"
    if piece.resistance_ohm is not None:
        return None
    if isinstance(piece, Conductor) and piece.size is not None:
        if piece.ohm_per_m is None and piece.size not in tables.conductors.rows:
            return JobError(
                f"{at}.size",
                f"no row for {piece.size.system} {piece.size.value} {piece.size.finish}",
                _sizes_of(piece.size.system, tables),
            )
        return None
    if isinstance(piece, FixedPiece):
        try:
            expected(piece, tables.fixed)
        except KeyError as missing:
            styles = ", ".join(tables.fixed.styles(piece.kind))
            return JobError(at, str(missing.args[0]), styles or "a resistance_ohm")
    return None


def _sizes_of(system: str, tables: Tables) -> str:
    sizes = tables.conductors.sizes(system)
    if sizes:
        return f"{system}: {', '.join(sizes)}"
    systems = dict.fromkeys(size.system for size in tables.conductors.rows)
    return f"system {', '.join(systems)}"


def naming_troubles(craft: Craft) -> Iterator[JobError]:
    """Ids that stand twice, and names of points, loads and sources that nothing has.

    Args:
        craft: the wiring.
    """
    lists = {
        "nodes": [p.id for p in craft.points],
        "sources": [s.id for s in craft.sources],
        "elements": [e.id for e in (*craft.pieces, *craft.loads)],
        "scenarios": [s.id for s in craft.scenarios],
    }
    for where, ids in lists.items():
        for name, times in Counter(ids).items():
            if times > 1:
                problem = f"the id {name} stands {times} times"
                yield JobError(f"{where}.{name}.id", problem, "one each")
    points = set(lists["nodes"])
    for element in (*craft.pieces, *craft.loads):
        ends = (("from", element.start), ("to", element.end))
        yield from _end_troubles(f"elements.{element.id}", ends, points)
    for source in craft.sources:
        ends = (("live", source.live), ("return", source.back))
        yield from _end_troubles(f"sources.{source.id}", ends, points)
    if craft.reference not in points:
        yield _unknown("reference", craft.reference, "nodes")
    yield from _scenario_troubles(craft)


def _scenario_troubles(craft: Craft) -> Iterator[JobError]:
    loads = {load.id for load in craft.loads}
    sources = {source.id for source in craft.sources}
    contacts = {p.id for p in craft.pieces if isinstance(p, FixedPiece) and p.kind in CONTACTS}
    for scenario in craft.scenarios:
        for key, named, known, where in (
            ("contacts", set(scenario.contacts), contacts, "elements, a switch, breaker or relay"),
            ("on", scenario.on, loads, "loads"),
            ("starting", scenario.starting, loads, "loads"),
            ("sources", set(scenario.sources), sources, "sources"),
        ):
            for name in sorted(named - known):
                yield _unknown(f"scenarios.{scenario.id}.{key}", name, where)


Ends = tuple[tuple[str, str], tuple[str, str]]


def _end_troubles(path: str, ends: Ends, points: set[str]) -> Iterator[JobError]:
    for key, point in ends:
        if point not in points:
            yield _unknown(f"{path}.{key}", point, "nodes")
    (_, start), (key, end) = ends
    if start == end:
        yield JobError(f"{path}.{key}", f"joins {start} to itself", "two different nodes")


def _unknown(path: str, name: str, where: str) -> JobError:
    return JobError(path, f"there is no {name}", f"an id from {where}")


def network_troubles(craft: Craft, tables: Tables) -> Iterator[SpareMarginError]:
    """Points that lead nowhere, loops that do not close, sources that fight, loads that stall.

    Expects a craft without naming troubles whose pieces all have a resistance.

    Args:
        tables: the reference tables.
    """
    touched = Counter(end for e in (*craft.pieces, *craft.loads) for end in (e.start, e.end))
    posts = {post for s in craft.sources for post in (s.live, s.back)}
    touched.update(posts)
    for point in craft.points:
        if touched[point.id] < 2 and point.id not in posts:
            problem = "is joined to nothing" if not touched[point.id] else "leads nowhere"
            yield JobError(
                f"nodes.{point.id}",
                f"{point_called(craft, point)} {problem}",
                "a point with two elements or more",
            )
    tracer = Tracer(craft, {})
    closed = True
    for load in craft.loads:
        try:
            tracer.trace(load)
        except JobError as broken:
            closed = False
            yield broken
    fights = list(_fights(craft, tables))
    yield from fights
    if closed and not fights:
        for scenario in craft.scenarios:
            try:
                solve(craft, scenario, tables)
            except (JobError, NoSolution) as trouble:
                yield trouble


def _fights(craft: Craft, tables: Tables) -> Iterator[JobError]:
    """With every load off, does one source push another far from its own voltage?"""
    if len(craft.sources) < 2:
        return
    for scenario in craft.scenarios:
        idle = Scenario(
            id=scenario.id,
            name=scenario.name,
            on=frozenset(),
            sources=scenario.sources,
            ambient_c=scenario.ambient_c,
        )
        try:
            solution = solve(craft, idle, tables)
        except JobError as trouble:
            yield trouble
            return
        for source in craft.sources:
            current = solution.source_current_a[source.id]
            pushed = abs(current) * scenario.source(source).internal_ohm
            # One that is off is only pushed on; it pushes nobody.
            if pushed > FIGHT_SHARE * craft.nominal_v and not scenario.source(source).off:
                yield JobError(
                    f"sources.{source.id}",
                    f"{source.name} and another source drive {abs(current):.0f} A into each other "
                    "with every load off",
                    "sources side by side the same way round and within "
                    f"{FIGHT_SHARE * craft.nominal_v:g} V",
                )
                return
