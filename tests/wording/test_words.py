"""Changes, moments, names, verdicts, endings and figures in words."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.evidence.observation.moments import Conditions
from spare_margin.core.measure.stand_in import Suits
from spare_margin.core.model.jobs import Action, LoadState, Revision, Trial
from spare_margin.core.model.pieces import Access, Conductor, FixedPiece
from spare_margin.core.practice.lessons import Figure
from spare_margin.core.walk.walk import Ending
from spare_margin.exchange.quantities import understand
from spare_margin.wording.craft.changes import ACTIONS, differences, revision_words
from spare_margin.wording.craft.names import full_name, full_names, point_names, span_name
from spare_margin.wording.craft.pieces import load_spec, piece_name, size_name, spec
from spare_margin.wording.language.figures import (
    ampere_figure,
    digits,
    fixed,
    kilogram_figure,
    ohms,
    percent,
    share_of,
    volt_figure,
    volts,
    watts,
)
from spare_margin.wording.language.units import IN_USE, Units, celsius, metres
from spare_margin.wording.measured.moments import STATES, moment_words
from spare_margin.wording.measured.verdicts import judgement_words, shown_verdict
from spare_margin.wording.measured.walks import (
    ENDINGS,
    MANNERS,
    stood_in_words,
    suits_words,
)
from spare_margin.wording.practice.lessons import figure_words as lesson_figure
from tests.readings import reading
from tests.rough import craft_by, judged

CRAFT = craft_by(
    'fuse 15 > switch > 2.5 mm² 4 m > pin [Plug] > pin > lamp "Deck lamp" 55 W at 12 V > pin > '
    "2.5 mm² 2 m > ring [Bus] > 6 mm² 1 m > ring"
)
RUN = Tracer(CRAFT, {}).trace(CRAFT.loads[0])


@contextmanager
def units(**more: Any) -> Iterator[None]:
    token = IN_USE.set(Units(**more))
    try:
        yield
    finally:
        IN_USE.reset(token)


# Figures


@pytest.mark.parametrize(
    ("value", "shown"),
    [(0.14, "0.140 V"), (1.9994, "1.999 V"), (2.0, "2.00 V"), (12.654, "12.65 V"), (-0.02, "\u22120.020 V"),
     (-0.0001, "0.000 V")],
)  # fmt: skip
def test_volts_to_the_millivolt_below_two(value: float, shown: str) -> None:
    assert volts(value) == shown


@pytest.mark.parametrize(
    ("value", "shown"),
    [(0.0792, "79.2 mΩ"), (0.0005, "0.5 mΩ"), (1.0, "1 Ω"), (48.2, "48.2 Ω"), (1e6, "1000000 Ω")],
)
def test_ohms_without_powers_of_ten(value: float, shown: str) -> None:
    assert ohms(value) == shown


@pytest.mark.parametrize(("amps", "shown"), [(4.6, "4.60"), (46.04, "46.0"), (460.4, "460")])
def test_amperes_by_their_size(amps: float, shown: str) -> None:
    assert ampere_figure(amps).text == shown


@given(st.floats(-1e6, 1e6), st.integers(1, 6))
def test_digits_are_near_and_plain(value: float, most: int) -> None:
    text = digits(value, most).replace("\u2212", "-")
    assert "e" not in text
    assert abs(float(text) - value) <= max(abs(value) * 10 ** (1 - most), 10.0**-9) * 0.51 + 0.5 * (
        abs(value) >= 10**most
    )


@given(st.floats(-1e4, 1e4), st.integers(0, 4))
def test_nothing_below_nothing_has_no_sign(value: float, places: int) -> None:
    text = fixed(value, places)
    assert float(text.replace("\u2212", "-")) == pytest.approx(
        round(value, places), abs=10**-places
    )
    assert not (text.startswith("\u2212") and not text.strip("\u22120."))


def test_figures_follow_the_units() -> None:
    assert (volts(0.14), watts(21.44), percent(0.346)) == ("0.140 V", "21.4 W", "35 %")
    with units(volts="mV", comma=True):
        assert (volts(0.14), volts(1.5), volts(-0.02)) == ("140 mV", "1,500 V", "\u221220 mV")
        assert watts(21.44) == "21,4 W"
    assert (metres(4.8), celsius(21.0)) == ("4.8\u00a0m", "21\u00a0°C")
    with units(length="ft", temperature="F", comma=True):
        assert (metres(4.8), celsius(21.0)) == ("15,75\u00a0ft", "69,8\u00a0°F")
    assert volt_figure(0.14).brief == "0.14"
    assert volt_figure(0.004).brief == "0.004", "a headline says nothing with 0.00"
    assert str(kilogram_figure(1.234)) == "1.23 kg"
    assert (share_of(0.05, 0.5), share_of(0.05, None)) == (" · 10 %", "")


@given(st.floats(0.1, 100))
def test_a_length_that_is_shown_can_be_typed_back(length: float) -> None:
    for unit in ("m", "ft"):
        with units(length=unit):
            typed = metres(length).replace("\u00a0", " ")
            assert understand(typed, "metres", "length").value == pytest.approx(length, rel=2e-3)


# Changes


def changed(piece_id: str, **more: Any) -> Any:
    pieces = tuple(replace(p, **more) if p.id == piece_id else p for p in CRAFT.pieces)
    return replace(CRAFT, pieces=pieces)


def test_what_a_change_did_is_told_from_the_two_wirings() -> None:
    wire = next(p for p in CRAFT.pieces if isinstance(p, Conductor))
    pin = next(p for p in CRAFT.pieces if isinstance(p, FixedPiece) and p.style == "pin")
    assert differences(CRAFT, CRAFT) == []
    (longer,) = differences(CRAFT, changed(wire.id, length_m=6.0))
    assert longer == f"{piece_name(wire)}: {spec(wire)} → {size_name(wire.size)} · 6\u00a0m"  # type: ignore[arg-type]
    assert differences(CRAFT, changed(pin.id, repair="remade")) == ["Pin: remade"]
    fewer = replace(CRAFT, pieces=CRAFT.pieces[1:])
    assert differences(CRAFT, fewer) == [f"{piece_name(CRAFT.pieces[0])}: taken out"]
    assert differences(fewer, CRAFT) == [f"{piece_name(CRAFT.pieces[0])}: new"]
    with units(length="ft"):
        (told,) = differences(CRAFT, changed(wire.id, length_m=6.0))
        assert "19.69\u00a0ft" in told, (
            "a summary is kept as what changed, and told in today's units"
        )


@pytest.mark.parametrize("action", get_args(Action))
def test_every_action_has_a_word(action: Action) -> None:
    made = Revision(id="r", stage="planned", parent=None, made_at="", craft=CRAFT, action=action)
    assert revision_words(made, None) == ACTIONS[action]
    pin = next(p for p in CRAFT.pieces if isinstance(p, FixedPiece) and p.style == "pin")
    told = revision_words(replace(made, craft=changed(pin.id, repair="remade")), CRAFT)
    assert told.endswith("Pin: remade")
    assert revision_words(replace(made, summary="as the owner says"), CRAFT) == "as the owner says"


def test_changes_beside_the_pieces_are_told_too() -> None:
    source = replace(CRAFT.sources[0], internal_ohm=0.05)
    scenario = replace(CRAFT.scenarios[0], ambient_c=45.0)
    made = Revision(id="r", stage="as_found", parent=None, made_at="", craft=CRAFT, action="source")
    for craft, expected in (
        (replace(CRAFT, sources=(source,)), f"{source.name}: changed"),
        (replace(CRAFT, scenarios=(scenario, *CRAFT.scenarios[1:])), f"{scenario.name}: changed"),
        (replace(CRAFT, scenarios=CRAFT.scenarios[:-1]), f"{CRAFT.scenarios[-1].name}: taken out"),
        (replace(CRAFT, nominal_v=24.0), "what the craft is"),
    ):
        assert expected in revision_words(replace(made, craft=craft), CRAFT)


# Moments


def test_a_moment_is_one_line() -> None:
    scenario = CRAFT.scenarios[0]
    plain = Conditions("k", scenario, None, {"deck-lamp": "running"})
    lamp = CRAFT.loads[0].id
    plain = replace(plain, states={lamp: "running"})
    assert moment_words(plain, CRAFT) == f"{scenario.name} · Deck lamp running"
    trial = Trial(id="t", moment="m", kind="return", start="p1", end="back")
    said = moment_words(
        replace(plain, warm_min=12.0, charging=False, trial=trial, states={lamp: "attempted"}),
        CRAFT,
    )
    assert said == (
        f"{scenario.name} · Deck lamp switched on, not running · 12 min · charger off · spare return"
    )
    many = craft_by(*[f'fuse 5 > 1 mm² 1 m > heater "H{i}" 5 W at 12 V > ring' for i in range(6)])
    running: dict[str, LoadState] = {x.id: "running" for x in many.loads}
    backwards = dict(reversed(running.items()))
    assert moment_words(Conditions("k", many.scenarios[0], None, backwards), many) == moment_words(
        Conditions("k", many.scenarios[0], None, running), many
    ), "in the order of the craft, whatever order they were noted in"
    line = moment_words(Conditions("k", many.scenarios[0], None, running), many)
    assert line.endswith("H0 running · H1 running · 4 more")
    assert set(STATES) == set(get_args(LoadState))


# Names


def test_no_two_pieces_of_a_run_have_one_name() -> None:
    names = full_names(CRAFT, RUN)
    assert len(set(names.values())) == len(names)
    pins = [names[s.piece.id] for s in RUN.steps() if piece_name(s.piece) == "Pin"]
    assert len(pins) == 3
    assert sum("feed side" in n for n in pins) == 2
    assert sum("return side" in n for n in pins) == 1
    assert any("Plug" in n for n in pins), "a named point tells a piece from its like"
    with units(back_word="ground"):
        assert any("ground side" in n for n in full_names(CRAFT, RUN).values())


def test_elements_and_spans_by_name() -> None:
    assert full_name(CRAFT, RUN, RUN.load.id) == "Deck lamp"
    assert full_name(CRAFT, RUN, RUN.source.id) == RUN.source.name
    assert full_name(CRAFT, RUN, "gone") == "gone"
    fuse = next(s for s in RUN.feed if piece_name(s.piece).startswith("Fuse"))
    assert span_name(CRAFT, RUN, fuse.entry, fuse.exit) == "Fuse 15 A"
    assert " to " in span_name(CRAFT, RUN, fuse.entry, RUN.feed_terminal)


def test_loads_by_their_law() -> None:
    lamp = CRAFT.loads[0]
    assert load_spec(lamp) == "55 W at 12 V, filament"
    for text, expected in (
        ('converter "C" 40 W', "40 W, constant power"),
        ('heater "H" 4 Ω', "4 Ω"),
        ('motor "M" 4.6 A x4', "4.60 A · starts \u00d74"),
    ):
        made = craft_by(f"fuse 15 > 2.5 mm² 4 m > {text} > ring").loads[0]
        assert load_spec(made) == expected


# Verdicts and walks


def test_a_verdict_is_said_with_its_side_and_its_piece() -> None:
    lamp = CRAFT.loads[0]

    def volts_(red: str, black: str, value: float, **more: Any) -> Any:
        return reading(red, black, value, **{"scenario": "rested", **more})

    flat = judged(CRAFT, [volts_("live", "back", 12.5)])
    assert judgement_words(flat, CRAFT).startswith("No verdict yet")
    assert shown_verdict(flat) == "not_measured"
    dead = judged(CRAFT, [
        volts_("live", "back", 12.5), volts_(lamp.start, lamp.end, 0.0, quantity="amperes", accuracy=0.03),
    ])  # fmt: skip
    assert shown_verdict(dead) == "not_loaded"
    assert "No current flow" in judgement_words(dead, CRAFT)
    pin = next(s for s in RUN.back if piece_name(s.piece) == "Pin")
    over = judged(CRAFT, [
        volts_("live", "back", 12.5), volts_(lamp.start, lamp.end, 10.9),
        volts_(lamp.start, lamp.end, 4.4, quantity="amperes", accuracy=0.1, id="a"),
        volts_(lamp.end, "back", 1.3), volts_(pin.entry, pin.exit, 1.21),
    ])  # fmt: skip
    said = judgement_words(over, CRAFT)
    assert said.startswith("The return is over its limit by 1.")
    assert "It is Pin, return side (1." in said
    with units(back_word="earth", comma=True):
        assert judgement_words(over, CRAFT).startswith("The earth is over its limit by 1,")


def test_every_ending_and_manner_has_its_words() -> None:
    assert set(ENDINGS) == set(get_args(Ending)) - {""}
    assert set(MANNERS) == set(get_args(Access))


def test_which_stand_in_suits_is_said_before_anything_is_unplugged() -> None:
    said = suits_words(Suits(2.4, 0.05, ()))
    assert said.startswith("A test load of 2.40 A or more is enough to prove this run")
    assert "can't clear the run" in suits_words(None)
    assert stood_in_words("connector", 1.75, None).endswith("in the connector: no number")
    assert "12.10 V" in stood_in_words("feed_moved", 1.75, -12.1)


def test_points_of_one_name_are_told_apart() -> None:
    craft = craft_by(
        '2.5 mm2 1 m > pin > 2.5 mm2 1 m > pin > 2.5 mm2 1 m > load "L" 2 A > 2.5 mm2 1 m > pin > '
        "2.5 mm2 1 m > ring"
    )
    run = Tracer(craft, {}).trace(craft.loads[0])
    names = point_names(craft, run)
    assert len(set(names.values())) == len(names)
    assert {"Pin / Wire 2.5 mm², feed side (2)", "Pin / Wire 2.5 mm²"} & set(names.values())
    last = run.back[-1].exit
    assert span_name(craft, run, run.feed[1].exit, last) != span_name(
        craft, run, run.feed[3].exit, last
    )


def test_a_point_beside_what_nobody_has_drawn_is_named_by_what_is_known() -> None:
    craft = craft_by('? > switch > ? > load "Fan" 2 A > ? > ring > ?')
    run = Tracer(craft, {}).trace(craft.loads[0])
    told = [name for p, name in point_names(craft, run).items() if not craft.point(p).name]
    assert told == [
        "Switch in",
        "Switch out",
        "Fan in",
        "Fan out",
        "Ring on stud in",
        "Ring on stud out",
    ]
    between = full_names(craft, run)[run.feed[-1].piece.id]
    assert between == "Switch out to Fan in"


def test_a_figure_of_a_lesson_and_its_doubt_share_one_unit() -> None:
    told = lesson_figure(Figure("ohms", 0.4, "ohm", doubt=0.2), {})
    assert told == ("Ohmmeter", "0.4 ± 0.2 Ω")
    assert lesson_figure(Figure("meter", 0.03, "V", doubt=0.0004), {})[1] == "0.0300 ± 0.0004 V"
    assert lesson_figure(Figure("back", 0.3, "V"), {})[0] == "Return"
