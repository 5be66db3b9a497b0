"""Units and words at the edge: what is shown in them reads back as the same."""

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.measure.findings import Coarse, MoreLostThanDrawn
from spare_margin.core.model.pieces import Size
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.quantities import understand
from spare_margin.exchange.run_line.reader import read_line
from spare_margin.wording.craft.pieces import side_word
from spare_margin.wording.language.figures import digits, fixed, volts
from spare_margin.wording.language.units import IN_USE, Units, celsius, figure, metres
from spare_margin.wording.measured.findings import finding_words
from tests.conftest import craft_of, loop

Use = Callable[..., None]


@pytest.fixture
def use() -> Iterator[Use]:
    """Speak in these units for one test."""

    def speak(**said: Any) -> None:
        IN_USE.set(Units(**said))

    yield speak
    IN_USE.set(Units())


@pytest.mark.parametrize(
    ("said", "value", "shown"),
    [
        ({}, 4.8, "4.8\u00a0m"),
        ({"comma": True}, 4.8, "4,8\u00a0m"),
        ({"length": "ft"}, 4.8, "15.75\u00a0ft"),
        ({"length": "ft", "comma": True}, 0.3048, "1\u00a0ft"),
    ],
)
def test_lengths(use: Use, said: dict[str, Any], value: float, shown: str) -> None:
    use(**said)
    assert metres(value) == shown
    assert understand(shown, "metres", "length").value == pytest.approx(value, rel=1e-3)


@pytest.mark.parametrize(
    ("said", "value", "shown"),
    [({}, 105.0, "105\u00a0\u00b0C"), ({"temperature": "F"}, 105.0, "221\u00a0\u00b0F"),
     ({"temperature": "F"}, -10.0, "14\u00a0\u00b0F"), ({"comma": True}, 22.5, "22,5\u00a0\u00b0C")],
)  # fmt: skip
def test_temperatures(use: Use, said: dict[str, Any], value: float, shown: str) -> None:
    use(**said)
    assert celsius(value) == shown
    assert understand(shown, "celsius", "ambient").value == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "kind", "said", "value"),
    [
        ("10", "metres", {"length": "ft"}, 3.048),
        ("10 m", "metres", {"length": "ft"}, 10.0),
        ("10", "metres", {}, 10.0),
        ("77", "celsius", {"temperature": "F"}, 25.0),
        ("25 C", "celsius", {"temperature": "F"}, 25.0),
        ("0.14", "volts", {"volts": "mV"}, 0.14),
        ("140m", "volts", {"volts": "mV"}, 0.14),
        ("0,14", "volts", {}, 0.14),
    ],
)
def test_a_bare_number_is_in_the_units_in_use_but_volts_are_volts(
    use: Use, text: str, kind: Any, said: dict[str, Any], value: float
) -> None:
    use(**said)
    assert understand(text, kind, "field").value == pytest.approx(value)


@pytest.mark.parametrize(
    ("said", "value", "shown"),
    [
        ({}, 0.1404, "0.140 V"), ({}, 12.345, "12.35 V"), ({"comma": True}, 0.5, "0,500 V"),
        ({"volts": "mV"}, 0.1404, "140 mV"), ({"volts": "mV"}, 12.345, "12.35 V"),
        ({"volts": "mV", "comma": True}, -0.02, "\u221220 mV"),
    ],
)  # fmt: skip
def test_volts_in_words(use: Use, said: dict[str, Any], value: float, shown: str) -> None:
    use(**said)
    assert volts(value) == shown


def test_words_follow_the_units_and_names_stay_as_they_were_typed(use: Use) -> None:
    use(back_word="ground", comma=True, volts="mV")
    assert side_word("return") == "ground"
    assert side_word("feed") == "feed"
    document = loop()
    document["elements"][4]["name"] = "Ring 2.5 return stud"
    found = Coarse(piece="jr", allowed_v=0.05, doubt_v=0.0204)
    says, _ = finding_words(found, craft_of(document))
    assert says == "Ring 2.5 return stud is allowed 50 mV, but this reading is only good to 20 mV."
    told, _ = finding_words(MoreLostThanDrawn(side="return", volts=1.25), craft_of(document))
    assert told.startswith("The ground drops 1,250 V more than calculated")
    assert figure("1.5") == "1,5"


@given(st.floats(1e-8, 1e7), st.integers(1, 4))
def test_figures_have_no_powers_of_ten_and_no_sign_on_nothing(value: float, most: int) -> None:
    for shown in (digits(value, most), digits(-value, most), fixed(-value, 2)):
        assert "e" not in shown
        assert shown.strip("\u2212.0123456789") == ""
    assert fixed(-0.0004, 3) == "0.000"


def test_a_bare_size_is_of_the_system_in_use(use: Use) -> None:
    use(size="awg", length="ft")
    craft = craft_of(loop())
    read = read_line("wire 10 12", craft, shipped_tables())
    assert read.errors == ()
    wire = read.places[0].item
    assert wire.size == Size("awg", "10", "plain")  # type: ignore[union-attr]
    assert wire.length_m == pytest.approx(12 * 0.3048)  # type: ignore[union-attr]


@given(st.floats(0.05, 900), st.booleans(), st.sampled_from(["m", "ft"]))
def test_a_length_shown_reads_back(value: float, comma: bool, length: Any) -> None:
    token = IN_USE.set(Units(length=length, comma=comma))
    try:
        shown = metres(value)
        assert understand(shown, "metres", "length").value == pytest.approx(value, rel=1e-3)
    finally:
        IN_USE.reset(token)
