"""Every code has its words, in the units that are set; nothing is lost and nothing formatted twice."""

import re
from collections.abc import Iterator
from dataclasses import fields
from typing import Any, get_args

import pytest

from spare_margin.core.measure.findings import Burning, Finding, FindingCode, Heats
from spare_margin.core.measure.source_check import (
    SourceFigures,
    State,
    check_source,
)
from spare_margin.core.measure.source_findings import Charged, Clamps, LoadTest, SourceFinding
from spare_margin.core.walk.cautions import GUARDS, CautionId
from spare_margin.core.walk.safety import OutOfScope
from spare_margin.wording.language.units import IN_USE, Units
from spare_margin.wording.measured.cautions import CAUTIONS, OUT_OF_SCOPE, refusal_words
from spare_margin.wording.measured.findings import HAZARD, finding_words
from spare_margin.wording.measured.source import STATES, source_finding_words
from tests.rough import craft_by

CRAFT = craft_by('fuse 15 > 2.5 mm² 4 m > pin [Plug] > lamp "Deck lamp" 55 W at 12 V > ring')
PIN = next(p.id for p in CRAFT.pieces if getattr(p, "style", "") == "pin")
PIN_ENDS = next((p.start, p.end) for p in CRAFT.pieces if p.id == PIN)
FACTS: dict[str, Any] = {
    "volts": 0.312, "least_v": 0.1, "most_v": 13.2, "allowed_v": 0.05, "doubt_v": 0.02, "watts": 1.9,
    "kelvin": 27.0, "before_v": 0.1, "after_v": 0.4, "before_ohm": 0.02, "after_ohm": 0.09,
    "cold_min": 0.0, "warm_min": 12.0, "ohm": 7.1, "should_ohm": 2.4, "should_a": 2.4, "amperes": 2.1,
    "drawn_a": 4.6, "first": 0.12, "last": 0.2, "side": "return", "scenario": CRAFT.scenarios[0].id,
    "load": "deck-lamp", "kind": "breaker", "quantity": "volts", "off": True, "start": PIN_ENDS[0],
    "end": PIN_ENDS[1], "who": ("Ida", "Olaf"),
}  # fmt: skip
"""A value for whatever a finding may hold."""
KINDS: dict[FindingCode, type[Finding]] = {kind.code: kind for kind in get_args(Finding)}
ABOUT_A_PIECE = (
    "moves", "coarse", "heats", "burns", "surface_warm", "surface_hot", "a_little_high",
    "protection_open", "comes_and_goes", "contact_stuck",
)  # fmt: skip
SILENT = ("over",)
"""What is said by the verdict itself."""


@pytest.fixture
def spoken() -> Iterator[Any]:
    tokens = []

    def speak(**units: Any) -> None:
        tokens.append(IN_USE.set(Units(**units)))

    yield speak
    for token in reversed(tokens):
        IN_USE.reset(token)


def made(code: FindingCode, piece: str | None = PIN, **more: Any) -> Finding:
    """A finding of that code, all that it must hold filled in."""
    kind = KINDS[code]
    names = {f.name for f in fields(kind)} - {"readings", "piece", "millivolts"}
    return kind(piece=piece, **{n: FACTS[n] for n in names}, **more)


def words(code: FindingCode, **more: Any) -> str:
    says, do = finding_words(made(code, **more), CRAFT)
    return f"{says} {do}".strip()


def test_each_code_is_one_kind_of_finding() -> None:
    assert set(KINDS) == set(get_args(FindingCode))
    assert len(get_args(Finding)) == len(KINDS)


@pytest.mark.parametrize("code", get_args(FindingCode))
def test_every_finding_has_a_sentence(code: FindingCode) -> None:
    said = words(code)
    if code in SILENT:
        assert said == ""
        return
    assert said.endswith(".")
    assert not said[0].islower()
    assert not re.search(r"\be[+-]\d|\d{6,}|None|nan|\{|\}", said), "no powers of ten, no leftovers"
    assert ("Pin" in said) == (code in ABOUT_A_PIECE)


@pytest.mark.parametrize("code", get_args(FindingCode))
def test_every_finding_is_said_without_its_piece_too(code: FindingCode) -> None:
    says, _ = finding_words(made(code, None), CRAFT)
    assert "None" not in says


def test_a_fire_hazard_says_so_whatever_its_words() -> None:
    for kind in get_args(Burning):
        assert words(kind.code).endswith(HAZARD)
    assert not words("heats").endswith(HAZARD)


@pytest.mark.parametrize(
    ("units", "code", "expected"),
    [
        ({"comma": True}, "swapped", "0,312 V"),
        ({"volts": "mV"}, "swapped", "312 mV"),
        ({"back_word": "ground"}, "more_lost_than_drawn", "The ground drops 0.312 V"),
        ({}, "more_lost_than_drawn", "The return drops 0.312 V"),
        ({"comma": True}, "low_current", "2,10 A flows; 4,60 A is expected"),
        ({}, "bench_current", "On the bench Deck lamp draws 2.10 A at 0.312 V, where 2.40 A"),
    ],
)
def test_units_marks_and_words_are_those_that_are_set(
    spoken: Any, units: dict[str, Any], code: FindingCode, expected: str
) -> None:
    spoken(**units)
    assert expected in words(code)


def test_a_name_is_never_touched_by_units(spoken: Any) -> None:
    """A piece called `Ring 2.5 return stud` keeps its point and its return."""
    craft = craft_by(
        'fuse 15 > 2.5 mm² 4 m > pin > lamp "L" 55 W at 12 V > ring "Ring 2.5 return stud"'
    )
    ring = next(p for p in craft.pieces if "stud" in p.name)
    spoken(comma=True, back_word="ground", volts="mV")
    says, _ = finding_words(Heats(piece=ring.id, watts=1.9), craft)
    assert says.startswith("Ring 2.5 return stud turns 1,9 W")


def test_millivolts_are_offered_where_they_were_meant() -> None:
    assert "type 0.312m" in words("impossible", millivolts=True)
    assert "type" not in words("impossible")


# Cautions and refusals


def test_every_caution_and_refusal_has_its_words() -> None:
    assert set(CAUTIONS) == set(get_args(CautionId))
    assert set(CAUTIONS) >= GUARDS
    assert set(OUT_OF_SCOPE) == set(get_args(OutOfScope))
    for when, says in CAUTIONS.values():
        assert when
        assert says.endswith(".")
    for each in get_args(OutOfScope):
        said = refusal_words(each)
        assert "out of bounds" in said
        assert said[0].isupper()


# The source


SOURCE_FACTS = {
    "volts": 12.31, "charge": 0.62, "low": 13.2, "high": 13.4, "amperes": 18.0, "ohm": 0.0123,
    "celsius": 4.0, "least": 9.3, "good": False,
}  # fmt: skip
SOURCE_FINDINGS = get_args(SourceFinding)


def source_finding(kind: type[SourceFinding], **more: object) -> SourceFinding:
    """A finding of a source with made-up figures."""
    known: dict[str, Any] = {**SOURCE_FACTS, **more}
    return kind(**{f.name: known[f.name] for f in fields(kind)})


@pytest.mark.parametrize("kind", SOURCE_FINDINGS)
@pytest.mark.parametrize("good", [True, False])
def test_every_finding_of_the_source_has_a_sentence(kind: type[SourceFinding], good: bool) -> None:
    found = source_finding(kind, good=good)
    says, do = source_finding_words(found)
    assert says.endswith(".")
    assert do == "" or do.endswith(".")
    if good and isinstance(found, Charged | Clamps | LoadTest):
        assert do == "", "what is good needs nothing done"


def test_every_state_of_a_source_has_a_word() -> None:
    assert set(STATES) == set(get_args(State))


@pytest.mark.parametrize(
    ("figures", "kinds"),
    [
        ({"resting_v": -12.4}, {"Reversed"}),
        ({"resting_v": 11.4}, {"Flat"}),
        ({"resting_v": 13.1}, {"SurfaceCharge"}),
        ({"resting_v": 12.6, "loaded_v": 12.75, "loaded_a": 10.0}, {"RisenUnderLoad"}),
        ({"resting_v": 12.6, "loaded_v": 12.3, "loaded_a": 20.0}, {"Sags"}),
        ({"resting_v": 12.6, "charging_v": 12.6}, {"NotCharging"}),
        ({"resting_v": 12.6, "charging_v": 15.4}, {"ChargingUnusual"}),
        ({"resting_v": 12.6, "charging_v": 14.2}, {"Charging"}),
        ({"load_end_v": 8.9, "temperature_c": 21.0, "cold_crank_a": 600.0}, {"LoadTest"}),
        ({"battery": "lithium", "resting_v": 13.3}, {"LithiumFlatStretch"}),
        ({"battery": "lithium", "resting_v": 12.2}, {"LithiumLow"}),
    ],
)
def test_what_the_figures_of_a_source_say(figures: dict[str, Any], kinds: set[str]) -> None:
    found = check_source(SourceFigures(**{"battery": "flooded", "nominal_v": 12.0, **figures}))
    assert kinds <= {type(f).__name__ for f in found.findings}


def test_figures_of_a_source_follow_the_units(spoken: Any) -> None:
    spoken(comma=True, temperature="F")
    says, _ = source_finding_words(source_finding(LoadTest))
    assert "12,31 V" in says
    assert "39,2" in says
    assert "°F" in says
