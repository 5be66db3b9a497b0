"""Whatever is drawn, moved, copied and taken out: the craft stays one that can be budgeted."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from spare_margin.core.budget.run_budget import RunBudgets
from spare_margin.core.budget.trunk import row_order, stretches
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import Run, Tracer, traced, traced_like
from spare_margin.core.edit.columns import moved, put_in, taken_out
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.ids import ids_of
from spare_margin.core.edit.lines import line_of
from spare_margin.core.edit.new_craft import at_nominal, new_craft, starting_ohm
from spare_margin.core.edit.whole_runs import run_copied, run_taken_out
from spare_margin.core.errors import JobError
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.pieces import Battery, Craft, CraftKind, Load, Polarity
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import element_of, read_line
from spare_margin.exchange.run_line.text import line_text, matched

TABLES = shipped_tables()
BITS = ("pin", "ring", "splice", "panel switch", "fuse 10", "2.5 mm2 3 m", "4 mm2 1.5 m", "body")
WAY = st.lists(st.sampled_from(BITS), min_size=1, max_size=4).map(" > ".join)
DOINGS = ("draw", "shared", "insert", "earlier", "later", "remove", "copy", "out", "redraw")
ACTS = st.lists(
    st.tuples(
        st.sampled_from(DOINGS),
        WAY, WAY, st.integers(0, 50),
    ),
    min_size=1, max_size=7,
)  # fmt: skip


def runs_of(craft: Craft) -> dict[str, Run]:
    tracer = Tracer(craft, closed_ohms(craft, TABLES))
    return {x.id: tracer.trace(x) for x in craft.loads}


def typed(craft: Craft, text: str) -> Craft:
    read = read_line(text, craft, TABLES)
    assert read.line is not None, read.errors
    return drawn(craft, read.line)[0]


def acted(craft: Craft, act: str, out: str, back: str, pick: int) -> Craft:
    name = f"Load {len(craft.loads)}"
    if act == "draw" or not craft.loads:
        return typed(craft, f'{out} > load "{name}" 2 A > {back}')
    runs = runs_of(craft)
    run = runs[sorted(runs)[pick % len(runs)]]
    pieces = [s.piece.id for s in run.steps()]
    piece = pieces[pick % len(pieces)]
    if act == "shared":
        # From any point of the feed, and back to any point of the return, of a run that is there.
        if not run.feed or not run.back:
            return craft
        feed = [s.exit for s in run.feed][pick % len(run.feed)]
        returned = [s.entry for s in run.back][pick % len(run.back)]
        return typed(craft, f'[{feed}] > {out} > load "{name}" 1 A > {back} [{returned}]')
    if act == "insert":
        element = element_of(out.split(" > ", maxsplit=1)[0], craft, TABLES)
        assert not isinstance(element, Load)
        return put_in(craft, run, piece, element)[0]
    if act in ("earlier", "later"):
        return moved(craft, run, piece, act == "later")
    if act == "remove":
        return taken_out(craft, piece)
    if act == "copy":
        return run_copied(craft, run.load.id)[0]
    if act == "redraw":
        old = line_of(craft, run)
        read = read_line(f'{out} > load "{run.load.name}" 2 A > {back}', craft, TABLES)
        assert read.line is not None
        return drawn(craft, matched(read.line, old), old)[0]
    return run_taken_out(craft, run.load.id)


@pytest.mark.slow
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(ACTS)
def test_a_drawing_stays_whole(acts: list[tuple[str, str, str, int]]) -> None:
    craft = new_craft("boat", 12.0, "none", "agm", 100.0)
    for act, out, back, pick in acts:
        try:
            craft = acted(craft, act, out, back, pick)
        except JobError:
            continue  # what cannot be done is refused, and changes nothing
        whole(craft)


def whole(craft: Craft) -> None:
    """Ids once each, every loop closed, currents balanced, drops adding up, lines round trip."""
    ids = [p.id for p in craft.points], [e.id for e in (*craft.pieces, *craft.loads)]
    for each in ids:
        assert max(Counter(each).values(), default=1) == 1
    points = set(ids[0])
    assert all({e.start, e.end} <= points for e in (*craft.pieces, *craft.loads))
    assert all(s.on <= {x.id for x in craft.loads} for s in craft.scenarios)
    if not craft.loads:
        return
    runs = runs_of(craft)
    solution = solve(craft, craft.scenarios[0], TABLES)
    balance: Counter[str] = Counter()
    for e in (*craft.pieces, *craft.loads):
        amps = solution.elements[e.id].current_a
        balance[e.start] -= amps  # type: ignore[assignment]
        balance[e.end] += amps  # type: ignore[assignment]
    for source in craft.sources:
        amps = solution.source_current_a[source.id]
        balance[source.live] += amps  # type: ignore[assignment]
        balance[source.back] -= amps  # type: ignore[assignment]
    assert all(abs(v) < 1e-9 for v in balance.values())
    limits = Limits(TABLES.limit_sets["by-duty"], {})
    for key, b in RunBudgets(craft, runs, solution, limits, TABLES).items():
        spent = sum(s.drop_v + s.purpose_v for s in b.sides)
        assert b.source_v == pytest.approx(b.load_v + spent), key
        text = line_text(line_of(craft, runs[key]))
        read = read_line(text, craft, TABLES)
        assert read.errors == ()
        assert read.line is not None
        again, _ = drawn(
            craft, matched(read.line, line_of(craft, runs[key])), line_of(craft, runs[key])
        )
        assert again == craft, "a line read back draws the same run"
    before = traced(craft, closed_ohms(craft, TABLES))
    assert before.runs == runs
    for i, piece in enumerate(craft.pieces):
        other = replace(piece, resistance_ohm=0.7)
        changed = replace(craft, pieces=(*craft.pieces[:i], other, *craft.pieces[i + 1 :]))
        like = traced_like(before, changed)
        assert like is None or like.runs == runs_of(changed), "what hangs alike runs alike"
    parts = stretches(runs, solution)
    assert sorted(row_order(runs, parts)) == sorted(runs)
    for key, run in runs.items():
        lost = sum(p.drop_v for p in parts if key in p.loads and p.side == "feed")
        assert lost == pytest.approx(
            solution.volts(run.source.live, run.feed_terminal) or 0, abs=1e-9
        )


@pytest.mark.parametrize("kind", ["boat", "vehicle", "caravan", "other"])
@pytest.mark.parametrize("battery", ["flooded", "agm", "lithium", "none"])
@pytest.mark.parametrize("polarity", ["negative", "positive", "none"])
def test_every_new_craft_takes_a_run(kind: CraftKind, battery: Battery, polarity: Polarity) -> None:
    for nominal in (12.0, 24.0, 48.0):
        craft = new_craft(kind, nominal, polarity, battery, 90.0)
        assert len({s.id for s in craft.scenarios}) == len(craft.scenarios) >= 2
        craft = typed(craft, 'fuse 5 > 1 mm2 2 m > load "Fan" 1 A > 1 mm2 2 m')
        run = runs_of(craft)["fan"]
        assert run.feed[0].piece.name.startswith("Clamp"), "behind the clamps"
        for scenario in craft.scenarios:
            volts = solve(craft, scenario, TABLES).volts(run.feed_terminal, run.return_terminal)
            assert volts is not None
            assert 0.7 * nominal < volts < 1.25 * nominal
        names = {p.name for p in craft.points if p.name}
        live = craft.point(craft.sources[0].live).name
        assert ("\u2212" in live) == (polarity == "positive")
        assert len(names) == 4


def test_the_volts_of_a_craft_go_with_its_nominal_voltage() -> None:
    craft = new_craft("boat", 12.0, "none", "flooded", 100.0)
    risen = at_nominal(craft, 24.0)
    assert risen.sources[0].open_circuit_v == pytest.approx(25.4)
    assert [s.sources["source"].open_circuit_v for s in risen.scenarios] == pytest.approx(
        [25.4, 28.4, 24.0, 19.2]
    )
    assert at_nominal(risen, 12.0) == craft


@pytest.mark.parametrize(
    ("battery", "nominal", "capacity", "ohm"),
    [("flooded", 12, 100, 0.005), ("flooded", 12, 200, 0.0025), ("agm", 24, 100, 0.007),
     ("lithium", 48, 300, 0.004), ("flooded", 12, None, 0.005), ("none", 12, None, 0.010)],
)  # fmt: skip
def test_internal_resistance_to_start_from(
    battery: Battery, nominal: float, capacity: float | None, ohm: float
) -> None:
    assert starting_ohm(battery, nominal, capacity) == pytest.approx(ohm)


def test_ids_taken_elsewhere_are_not_given_again() -> None:
    craft = new_craft("boat", 12.0, "none", "agm")
    read = read_line('fuse 5 > 1 mm2 2 m > load "Fan" 1 A > 1 mm2 2 m', craft, TABLES)
    assert read.line is not None
    taken = {"f1", "w1", "w2", "p1", "fan"}
    made, load = drawn(craft, read.line, also=taken)
    assert load is not None
    assert not (ids_of(made) - ids_of(craft)) & taken
