"""Figures come with their digits: one place decides them, whatever the units."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.wording.language import figures as words
from spare_margin.wording.language.units import IN_USE, Units
from tests.web.test_api import MARRAM

KEYS = {"si", "text", "unit", "brief"}
PAGES = (
    f"{MARRAM}/sheet", f"{MARRAM}/craft", f"{MARRAM}/walk", f"{MARRAM}/source-check",
    f"{MARRAM}/limit-sets", f"{MARRAM}/worst", f"{MARRAM}/what-if", "/api/v1/jobs",
)  # fmt: skip


def figures(answer: Any, key: str = "") -> Iterator[tuple[str, dict[str, Any]]]:
    """Every figure in an answer, by the key it stands under."""
    if isinstance(answer, dict):
        if set(answer) == KEYS:
            yield key, answer
            return
        for name, each in answer.items():
            yield from figures(each, name)
    elif isinstance(answer, list):
        for each in answer:
            yield from figures(each, key)


@pytest.mark.parametrize("path", PAGES)
def test_every_figure_reads_as_it_should(demo: FlaskClient, path: str) -> None:
    found = list(figures(demo.get(path).get_json()))
    assert found
    for key, figure in found:
        assert re.fullmatch(r"\u2212?\d+(\.\d+)?", figure["text"]), (key, figure)
        scale = {"m\u03a9": 1000, "mV": 1000, "%": 100}.get(figure["unit"], 1)
        shown = float(figure["text"].replace("\u2212", "-"))
        assert shown == pytest.approx(figure["si"] * scale, rel=0.02, abs=0.6), (key, figure)
        if key.endswith("_v"):
            assert figure["unit"] == "V"
        if key.endswith("_a"):
            assert figure["unit"] == "A"


def test_figures_follow_the_workshops_units(demo: FlaskClient) -> None:
    demo.post("/api/v1/settings", json={"volts": "mV", "comma": "yes", "length": "ft"})
    sheet = demo.get(f"{MARRAM}/sheet").get_json()
    back = sheet["run"]["sides"][1]
    assert (back["ceiling_v"]["text"], back["ceiling_v"]["unit"]) == ("250", "mV")
    assert sheet["run"]["load"]["current_a"]["text"] == "5,40"
    assert sheet["run"]["headroom"]["amperes"]["text"].count(",") == 1
    copper = demo.get(f"{MARRAM}/craft").get_json()["copper"]
    assert {use["length_m"]["unit"] for use in copper} == {"ft"}


def test_a_figure_and_its_working_have_the_same_digits(demo: FlaskClient) -> None:
    """0.123 A is not 0.12 in one place and 0.123 in another."""
    run = demo.get(f"{MARRAM}/sheet").get_json()["run"]
    for column in run["columns"]:
        lines = {line["about"]: line["result"] for line in column["working"]}
        for about, key in (("current", "current_a"), ("allowance", "allowance_v")):
            shown = column[key]
            assert lines[about] == f"{shown['text']} {shown['unit']}", (column["name"], about)


def test_measured_ohms_have_no_more_digits_than_their_doubt(demo: FlaskClient) -> None:
    columns = demo.get(f"{MARRAM}/sheet").get_json()["run"]["columns"]
    measured = {c["name"]: c["found"]["measured"] for c in columns if c["found"]}
    assert measured["Ring at bus"]["text"] == "79"
    assert "." in measured["Pump return"]["text"]


@pytest.mark.parametrize(
    ("ohm", "doubt", "text"),
    [(0.0788, 0.02, "79"), (0.0788, 0.003, "79"), (0.0788, 0.0004, "78.8"), (0.0788, 0.0, "78.80"),
     (0.5, 0.0, "500.0"), (0.00017, 1e-6, "0.170")],
)  # fmt: skip
def test_milliohms_within_their_doubt(ohm: float, doubt: float, text: str) -> None:
    assert words.ohm_within(ohm, doubt).text == text


def test_lengths_in_tenths_below_ten() -> None:
    assert (words.metre_figure(3.44).text, words.metre_figure(12.4).text) == ("3.4", "12")
    token = IN_USE.set(Units(length="ft"))
    try:
        shown = words.metre_figure(3.44)
        assert (shown.text, shown.unit, shown.si) == ("11", "ft", 3.44)
    finally:
        IN_USE.reset(token)
