"""The run line: text to marks and back, errors in place, and lines drawn into a craft."""

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.edit.columns import moved, put_in, taken_out
from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.lines import Line, line_of, loose_ends
from spare_margin.core.edit.whole_runs import run_copied, run_taken_out
from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Conductor, Craft, FixedPiece, Load, Size, TestPoint
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.run_line.reader import element_of, read_line, read_runs, runs_of
from spare_margin.exchange.run_line.text import line_text, matched
from tests.conftest import craft_of, loop

TABLES = shipped_tables()
PUMP = (
    "ring > 16 mm\u00b2 3.4 m [Panel] > fuse 15 > panel switch > 2,5mm2 4,8 m tinned 105 \u00b0C > pin > "
    'motor "Bilge pump" 4.6 A x4 least 10.5 V critical > pin > 2.5 mm2 17 ft [Bus] > '
    "16 mm2 3.6 m > clamp"
)


def empty() -> Craft:
    """A craft with a battery and nothing else."""
    craft = craft_of(loop())
    posts = tuple(p for p in craft.points if p.id in ("b+", "b-"))
    scenario = replace(craft.scenarios[0], on=frozenset())
    return replace(craft, pieces=(), loads=(), points=posts, scenarios=(scenario,))


def lined(text: str, craft: Craft) -> Line:
    read = read_line(text, craft, TABLES)
    assert read.errors == ()
    assert read.line is not None
    return read.line


def typed(*texts: str) -> Craft:
    craft = empty()
    for text in texts:
        craft, _ = drawn(craft, lined(text, craft))
    return craft


def run_of(craft: Craft, load: str) -> Any:
    return Tracer(craft, {}).trace(craft.load(load))


def test_a_whole_run_in_one_line() -> None:
    craft = typed(PUMP)
    run = run_of(craft, "bilge-pump")
    assert [s.piece.side for s in run.steps()] == ["feed"] * 6 + ["return"] * 4
    assert run.load.current_a == 4.6
    assert (run.load.start_multiple, run.load.least_v, run.load.critical) == (4, 10.5, True)
    wires = [s.piece for s in run.steps() if isinstance(s.piece, Conductor)]
    assert wires[1].size == Size("mm2", "2.5", "tinned")
    assert wires[1].insulation_c == 105
    assert wires[2].length_m == pytest.approx(17 * 0.3048)
    assert craft.scenarios[0].on == {"bilge-pump"}
    assert solve(craft, craft.scenarios[0], TABLES).elements["bilge-pump"].current_a == 4.6


@pytest.mark.parametrize(
    ("text", "at", "says"),
    [
        ("fuse 15 > 2.5 mm2 4 m > loaf", "loaf", "not understood"),
        ("fuze 15 A > load Fan 2 A", "fuze 15 A", "not understood"),
        ("fuse 15 > load Fan 2 A > lamb 3 A", "lamb 3 A", "not understood"),
        ("2.6 mm2 4 m > load Fan 2 A", "2.6 mm2", "no size 2.6 mm2"),
        ("2.5 mm2 -4 m > load Fan 2 A", "2.5 mm2 -4 m", "-4 m is no length"),
        ("load Fan 2", "load Fan 2", "what it draws is not clear"),
        ("load 2 A", "load 2 A", "has no name"),
        ("pump 5A 4m", "4m", "a load has no length"),
        ("fuse 15 pink > load Fan 2 A", "fuse 15 pink", "no fuse of style pink"),
        ('fuse 15 "a" "b" > load Fan 2 A', '"b"', "second name"),
        ("2.5 mm2 4 m pink > load Fan 2 A", "pink", "does not belong here"),
        ("[Bus | loft] > 2.5 mm2 1 m > load F 1 A", "[Bus | loft]", "no access"),
        ("[Bus > 2.5 mm2 1 m", "[Bus > 2.5 mm2 1 m", "not closed"),
        ("resistor > load F 1 A", "resistor", "no resistance"),
        ("fuse 15 > load F 1 A; [b+] > body", " [b+] > body", "not understood"),
        ("load F 0 A", "load F 0 A", "0 A is no load"),
        ("load F 2 A x40", "load F 2 A x40", "no start multiple"),
        ("", "", "no piece yet"),
        (" > ; ", " ", "not understood"),
        ("fuse 6e968 > load F 1 A", "6e968", "too large"),
        ("2.5 mm2 0e5251 m > load F 1 A", "0e5251 m", "not understood"),
        ("load F 1e438 V 1 A", "1e438 V", "too large"),
        ("load F 1e308 kA", "1e308 kA", "too large"),
        (f"load F 2 A x{'9' * 400}", f"x{'9' * 400}", "too large"),
        (f"{'9' * 400} mΩ/m 2 m > load F 1 A", f"{'9' * 400} mΩ/m", "too large"),
    ],
)
def test_errors_point_at_their_place(text: str, at: str, says: str) -> None:
    read = read_line(text, empty(), TABLES)
    assert read.line is None
    error = read.errors[0]
    assert text[error.start : error.end] == at
    assert says in error.problem


@pytest.mark.parametrize(
    ("text", "kind", "style", "rating", "name"),
    [
        ("15A fuse", "fuse", None, 15, ""), ("fuse 15", "fuse", None, 15, ""),
        ("15 amp", "fuse", None, 15, ""), ("15 Amps", "fuse", None, 15, ""),
        ("strip fuse 200", "fuse", "bolt-down", 200, ""), ("breaker 10", "breaker", None, 10, ""),
        ("battery switch", "switch", "isolator", None, ""), ("isolator", "switch", "isolator", None, ""),
        ("plug", "joint", "pin", None, "Plug"), ("connector", "joint", "pin", None, "Connector"),
        ("crimp", "joint", "splice", None, "Crimp"), ("lug", "joint", "ring on stud", None, "Lug"),
        ("ring", "joint", "ring on stud", None, ""), ("busbar", "joint", "ring on stud", None, "Busbar"),
        ("Bus", "joint", "ring on stud", None, "Bus"),
    ],
)  # fmt: skip
def test_pieces_as_people_call_them(
    text: str, kind: str, style: str | None, rating: float | None, name: str
) -> None:
    piece = element_of(text, empty(), TABLES)
    assert isinstance(piece, FixedPiece)
    assert (piece.kind, piece.style, piece.rating_a, piece.name) == (kind, style, rating, name)


@pytest.mark.parametrize(
    ("text", "size", "metres"),
    [
        ("2.5mm2 1 m", Size("mm2", "2.5"), 1.0), ("2.5 mm\u00b2 1 m", Size("mm2", "2.5"), 1.0),
        ("6mm 1 m", Size("mm2", "6"), 1.0), ("#14 12 ft", Size("awg", "14"), 12 * 0.3048),
        ("14 AWG 12 ft", Size("awg", "14"), 12 * 0.3048), ("2/0 3m50", Size("awg", "2/0"), 3.5),
        ("cable 350 cm", None, 3.5), ("cable 12 ft", None, 12 * 0.3048),
    ],
)  # fmt: skip
def test_wire_as_people_say_it(text: str, size: Size | None, metres: float) -> None:
    wire = element_of(text, empty(), TABLES)
    assert isinstance(wire, Conductor)
    assert wire.size == size
    assert wire.length_m == pytest.approx(metres)


@pytest.mark.parametrize(
    ("text", "name", "behaviour", "draws", "duty"),
    [
        ("fridge 45W", "fridge", "constant_power", 45, "ordinary"),
        ("LED strip 1.2A", "LED strip", "constant_current", 1.2, "ordinary"),
        ("windlass 80A", "windlass", "constant_current", 80, "short_time"),
        ("windlass 80A x3 critical", "windlass", "constant_current", 80, "short_time"),
        ('load "windlass" 80A', "windlass", "constant_current", 80, "ordinary"),
        ("lamp 10 W", "Lamp", "filament", 10, "ordinary"),
        ("heater 8A", "Heater", "constant_resistance", 96, "ordinary"),
        ("motor 5 A", "Motor", "constant_current", 5, "ordinary"),
        ("inverter 500W", "inverter", "constant_power", 500, "ordinary"),
        ("berth lights 3x10W", "berth lights", "constant_power", 30, "ordinary"),
        ("berth lights 3 \u00d7 0,5 A", "berth lights", "constant_current", 1.5, "ordinary"),
    ],
)
def test_a_load_needs_no_keyword(
    text: str, name: str, behaviour: str, draws: float, duty: str
) -> None:
    load = element_of(text, empty(), TABLES)
    assert isinstance(load, Load)
    assert (load.name, load.behaviour, load.duty) == (name, behaviour, duty)
    assert (load.current_a or load.power_w) == draws


def test_a_twin_cable_runs_there_and_back() -> None:
    craft = typed(
        "fuse 10 > twin 2x1.5 6 m > fridge 45W", "twin 2 x 2.5 mm2 3 m > lug > fan 2A > ring"
    )
    fridge, fan = (run_of(craft, key) for key in ("fridge", "fan"))
    for run, cable, size, metres in ((fridge, "fridge", "1.5", 6.0), (fan, "fan", "2.5", 3.0)):
        there, back = (
            next(s.piece for s in side if isinstance(s.piece, Conductor))
            for side in (run.feed, run.back)
        )
        assert (there.cable, back.cable) == (cable, cable)
        assert there.size == back.size == Size("mm2", size)
        assert there.length_m == back.length_m == metres
        assert back.side == "return"
    again, _ = drawn(craft, lined("twin 4 m > fridge 10W > twin 4 m", craft))
    cables = [p.cable for p in again.pieces if isinstance(p, Conductor)]
    assert cables == ["fridge", "fridge", "fan", "fan", "fridge 2", "fridge 2"]


@pytest.mark.parametrize("word", ["earth", "ground", "negative"])
def test_the_way_back_as_people_call_it(word: str) -> None:
    two_wire = replace(empty(), polarity="none")
    line = lined(f"fuse 5 > fan 2A > 2.5mm2 3 m > {word}", two_wire)
    assert line.main[-1] == two_wire.point("b-")
    body = lined(f"fuse 5 > fan 2A > 2.5mm2 3 m > {word}", replace(empty(), polarity="negative"))
    assert isinstance(body.main[-1], FixedPiece)
    assert body.main[-1].kind == "body_return"


@pytest.mark.parametrize(
    ("text", "kind", "name"),
    [
        ("maxi fuse 60A", "fuse", "Maxi fuse"), ("main switch", "switch", "Main switch"),
        ("starter relay", "relay_contact", "Starter relay"), ("bow plug", "joint", "Bow plug"),
        ("panel switch", "switch", ""), ("strip fuse 200", "fuse", ""),
        ("chassis", "body_return", "Chassis"), ("ground stud", "joint", "Ground stud"),
        ("bus bar", "joint", "Bus bar"),
    ],
)  # fmt: skip
def test_a_piece_is_called_by_what_stands_before_its_kind(text: str, kind: str, name: str) -> None:
    piece = element_of(text, empty(), TABLES)
    assert isinstance(piece, FixedPiece)
    assert (piece.kind, piece.name) == (kind, name)


def test_the_battery_at_either_end_is_its_post() -> None:
    line = lined("battery > fuse 5 > 1.5 mm2 2 m > fan 2A > 1.5 mm2 2 m > battery -", empty())
    assert [line.main[0], line.main[-1]] == [empty().point("b+"), empty().point("b-")]


def test_a_hyphen_is_a_minus() -> None:
    craft = typed("2.5mm2 1 m [Panel +] > fan 2A > [Panel -] > 2.5mm2 1 m")
    assert {p.name for p in craft.points} >= {"Panel \u2212"}
    line = lined("[Panel +] > 1 A fuse > lamp Deck 5 W > [Panel -]", craft)
    assert line.main[-1] in craft.points
    assert lined("[Panel +] > fan 1A > panel -", craft).main[-1] in craft.points


def test_lines_with_a_load_each_are_runs_of_their_own() -> None:
    text = "fuse 5 > twin 3 m > fan 2A\n\n  fuse 3 > twin 4 m > deck lamp 5W"
    assert [part.strip() for _, part in runs_of(text, empty(), TABLES)] == [
        "fuse 5 > twin 3 m > fan 2A", "fuse 3 > twin 4 m > deck lamp 5W"
    ]  # fmt: skip
    assert all(text[at : at + len(part)] == part for at, part in runs_of(text, empty(), TABLES))
    read = read_runs(text, empty(), TABLES)
    assert [text[p.start : p.end] for p in read.places][-1] == "deck lamp 5W"
    assert read.errors == ()
    one_line = "fuse 5 > twin 3 m > fan 2A; fuse 3 > twin 4 m > deck lamp 5W"
    assert len(runs_of(one_line, empty(), TABLES)) == 2
    # A way beside a run has no load, and stays with it; each of several runs may have one.
    beside = "fuse 5 > fan 2A > [Strap top] > body; beside [Strap top] > body"
    assert runs_of(beside, empty(), TABLES) == ((0, beside),)
    assert len(runs_of(f"{beside}\nfuse 3 > lamp Deck 5 W > body", empty(), TABLES)) == 2
    pasted = "fuse 5\n2.5mm2 3 m\nfan 2A\n2.5mm2 3 m"
    assert runs_of(pasted, empty(), TABLES) == ((0, pasted),), "columns of one run"
    wrong = read_runs("fuse 5 > fan 2A > body\n[Loft] > fan 2A > body", empty(), TABLES)
    assert [e.problem for e in wrong.errors] == ["nothing feeds Loft yet"]


def test_an_inch_mark_is_not_an_open_quote() -> None:
    craft = typed(
        'fuse 5 > 1.5 mm2 30" > load Fan 2 A > 1.5 mm2 30\u2033; beside [b+] > body > [b-]'
    )
    lengths = [p.length_m for p in craft.pieces if isinstance(p, Conductor)]
    assert lengths == pytest.approx([30 * 0.0254] * 2)


@given(st.text(alphabet='[]>;"\\|AVm \u00b20123456789.,xfuselodrg\u03a9-+\n', max_size=80))
def test_no_text_breaks_the_reader(text: str) -> None:
    read = read_line(text, empty(), TABLES)
    assert (read.line is None) == bool(read.errors)
    assert all(0 <= e.start <= e.end <= len(text) for e in read.errors)


NAMES = st.text(
    st.characters(codec="utf-8", exclude_categories=("C", "Z"), include_characters=" "), max_size=12
).map(lambda s: " ".join(s.split()))
SIZES = st.sampled_from([s for s in TABLES.conductors.rows])
FIGURES = st.floats(0.01, 900).map(lambda v: float(f"{v:.4g}"))
MAYBE = st.one_of(st.none(), FIGURES)
BLANK = {"id": "", "start": "", "end": "", "side": "feed"}
WIRES = st.builds(
    Conductor, **{k: st.just(v) for k, v in BLANK.items()}, name=NAMES, size=SIZES,
    length_m=FIGURES, insulation_c=st.sampled_from([None, 60.0, 105.0]),
    resistance_ohm=MAYBE, engine_space=st.booleans(),
)  # fmt: skip


def fixed(kind: Any) -> st.SearchStrategy[FixedPiece]:
    styles = TABLES.fixed.styles(kind)
    rated = kind in ("fuse", "breaker")
    return st.builds(
        FixedPiece, **{k: st.just(v) for k, v in BLANK.items()}, name=NAMES, kind=st.just(kind),
        style=st.sampled_from([None, *styles]), rating_a=FIGURES if rated else st.none(),
        resistance_ohm=FIGURES if kind == "resistor" else MAYBE, open=st.booleans(),
    )  # fmt: skip


KINDS = ["joint", "fuse", "breaker", "switch", "relay_contact", "body_return", "resistor"]
PIECES = st.one_of(WIRES, *map(fixed, KINDS))
POINTS = st.builds(
    TestPoint, id=st.just(""), name=NAMES.filter(bool),
    access=st.sampled_from(["open", "backprobe", "trim"]),
)  # fmt: skip
LOADS = st.builds(
    lambda law, name, duty, critical, start, least: Load(
        id="", start="", end="", name=name, duty=duty, critical=critical, start_multiple=start,
        least_v=least, **law,
    ),
    st.sampled_from([
        {"behaviour": "constant_current", "current_a": 5.8},
        {"behaviour": "constant_power", "power_w": 40.0},
        {"behaviour": "filament", "power_w": 21.0, "rated_v": 12.0},
        {"behaviour": "constant_resistance", "power_w": 60.0, "rated_v": 13.5},
        {"behaviour": "constant_resistance", "load_ohm": 0.35},
    ]),
    NAMES.filter(bool), st.sampled_from(["ordinary", "short_time", "control_supply", "charging"]),
    st.booleans(), st.sampled_from([None, 1.0, 4.5]), MAYBE,
)  # fmt: skip


@given(st.data())
def test_a_line_written_out_reads_as_the_same_line(data: st.DataObject) -> None:
    side = st.lists(st.tuples(PIECES, st.one_of(st.none(), POINTS)), max_size=4)
    marks: list[Any] = [data.draw(POINTS)]
    for piece, point in data.draw(side):
        marks += [piece] + ([point] if point else [])
    marks.append(data.draw(LOADS))
    for piece, point in data.draw(side):
        marks += [piece] + ([point] if point else [])
    line = Line(tuple(marks))
    text = line_text(line)
    read = read_line(text, empty(), TABLES)
    assert read.errors == (), text
    assert read.line == line, text
    assert line_text(read.line) == text


def same_again(craft: Craft, load: str) -> Craft:
    old = line_of(craft, run_of(craft, load))
    new = matched(lined(line_text(old), craft), old)
    again, load_id = drawn(craft, new, old)
    assert load_id == load
    return again


def test_a_run_read_back_from_its_own_line_changes_nothing() -> None:
    craft = typed(PUMP, "[Panel] > fuse 5 > 1.5 mm2 6 m > load Fan 2 A > 1.5 mm2 6 m [Bus]")
    strap, _ = drawn(craft, lined("[Bus] > body > ring > [b-]", craft))
    for made in (craft, strap, craft_of(loop())):
        for load in made.loads:
            again = same_again(made, load.id)
            assert set(again.points) == set(made.points)
            assert again.pieces == made.pieces
            assert again.loads == made.loads


def test_a_changed_line_keeps_what_it_does_not_touch() -> None:
    craft = typed(PUMP)
    old = line_of(craft, run_of(craft, "bilge-pump"))
    text = line_text(old).replace("fuse 15 A", "fuse 10 A").replace("pin", "splice > pin", 1)
    made, _ = drawn(craft, matched(lined(text, craft), old), old)
    before, after = ({p.id: p for p in c.pieces} for c in (craft, made))
    assert before.keys() < after.keys()
    changed = [key for key in before if before[key] != after[key]]
    fuse = next(p.id for p in craft.pieces if isinstance(p, FixedPiece) and p.kind == "fuse")
    assert fuse in changed
    assert after[fuse].rating_a == 10
    assert len(run_of(made, "bilge-pump").feed) == 7


def test_runs_share_what_they_leave_from_and_return_to() -> None:
    craft = typed(PUMP, "[Panel] > fuse 5 > 1.5 mm2 6 m > load Fan 2 A > 1.5 mm2 6 m [Bus]")
    solution = solve(craft, craft.scenarios[0], TABLES)
    trunk = run_of(craft, "fan").feed[1].piece
    assert solution.elements[trunk.id].current_a == pytest.approx(6.6)
    both = typed(
        PUMP, "[b+] > [Panel] > fuse 5 > 1.5 mm2 6 m > load Fan 2 A > 1.5 mm2 6 m [Bus] > [b-]"
    )
    assert len(both.pieces) == len(craft.pieces)
    lone = run_taken_out(craft, "fan")
    assert len(lone.pieces) == len(typed(PUMP).pieces)
    twice, copy = run_copied(craft, "fan")
    assert copy == "fan-2"
    assert twice.load(copy).name == "Fan 2"
    assert len(twice.pieces) == len(craft.pieces) + 3


def test_a_trunk_may_be_drawn_before_its_loads() -> None:
    craft = typed("[b+] > 16 mm2 2 m [Panel]")
    assert [p.name for p in loose_ends(craft)] == ["Panel"]
    assert craft.pieces[0].side == "feed"
    full, _ = drawn(
        craft, lined("[Panel] > fuse 5 > 1.5 mm2 3 m > load Fan 2 A > 1.5 mm2 3 m", craft)
    )
    assert loose_ends(full) == []


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("[Loft] > fuse 5 > load Fan 2 A > 1.5 mm2 3 m", "nothing feeds Loft yet"),
        ("fuse 5 > load Fan 2 A > 1.5 mm2 3 m [Nowhere]", "nothing leads back from Nowhere yet"),
        ("fuse 5 > 1.5 mm2 3 m", "must say where it ends"),
        ("[b+] > fuse 5 [b+] > load Fan 2 A > body", "would join a point to itself"),
    ],
)
def test_lines_that_cannot_be_drawn(text: str, says: str) -> None:
    with pytest.raises(JobError, match=says):
        drawn(empty(), lined(text, empty()))


def test_columns_put_in_moved_and_taken_out() -> None:
    craft = typed(PUMP)
    run = run_of(craft, "bilge-pump")
    order = [s.piece.id for s in run.steps()]
    splice = element_of("splice", craft, TABLES)
    for after in [None, run.load.id, *order]:
        made, held = put_in(craft, run, after, splice)  # type: ignore[arg-type]
        now = [s.piece.id for s in run_of(made, "bilge-pump").steps()]
        place = 0 if after is None else 6 if after == run.load.id else order.index(after) + 1
        assert now == [*order[:place], held, *order[place:]]
        back = taken_out(made, held)
        assert [s.piece.id for s in run_of(back, "bilge-pump").steps()] == order
    later = moved(craft, run, order[1], later=True)
    assert [s.piece.id for s in run_of(later, "bilge-pump").steps()][1:3] == [order[2], order[1]]
    assert moved(later, run_of(later, "bilge-pump"), order[1], later=False) == craft
    over = moved(craft, run, order[5], later=True)
    assert len(run_of(over, "bilge-pump").feed) == 5
    assert {p.id: p.side for p in over.pieces}[order[5]] == "return"
    with pytest.raises(JobError, match="end of the run"):
        moved(craft, run, order[0], later=False)
    with pytest.raises(JobError, match="no ghost"):
        taken_out(craft, "ghost")
    short = typed("fuse 5 > load Fan 2 A > body")
    with pytest.raises(JobError, match="is not one piece"):
        element_of("fuse 5 > fuse 5", short, TABLES)
