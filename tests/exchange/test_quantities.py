"""What people type, and what it means."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.errors import JobError
from spare_margin.core.model.pieces import Size
from spare_margin.exchange.quantities import Kind, understand, understand_size


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("0.14", "volts", 0.14), (",14", "volts", 0.14), ("140m", "volts", 0.14),
        ("140 mV", "volts", 0.14), ("140mv", "volts", 0.14), ("0,14 V", "volts", 0.14),
        ("\u22120.3", "volts", -0.3), ("+.5", "volts", 0.5), ("12 ft", "metres", 3.6576),
        ("12'", "metres", 3.6576), ("140m", "metres", 140.0), ("520 cm", "metres", 5.2),
        ("7 inch", "metres", 0.1778), ("2,5", "metres", 2.5), ("12 m\u03a9", "ohms", 0.012),
        ("12mohm", "ohms", 0.012), ("0.2R", "ohms", 0.2), ("350 mA", "amperes", 0.35),
        ("77 \u00b0F", "celsius", 25.0), ("-5 C", "celsius", -5.0), ("1.2 kW", "watts", 1200.0),
        ("x4", "times", None), ("4", "times", 4.0), ("1e-3", "volts", 0.001),
    ],
)  # fmt: skip
def test_quantities(text: str, kind: Kind, value: float | None) -> None:
    if value is None:
        with pytest.raises(JobError):
            understand(text, kind, "f")
        return
    assert understand(text, kind, "f").value == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "state"),
    [("OL", "over_range"), (" ol ", "over_range"), ("wandering", "wandering"),
     ("cannot  reach", "not_reachable"), ("x", "not_reachable")],
)  # fmt: skip
def test_words_in_place_of_numbers(text: str, state: str) -> None:
    assert understand(text, "volts", "f", words=True).state == state
    with pytest.raises(JobError):
        understand(text, "volts", "f")


@pytest.mark.parametrize(
    "text", ["", "abc", "1,2,3", "--3", "5 kg", "1e400", "nan", "inf", "5 V V", "0x10", "1/0"]
)
def test_nonsense_names_the_field_and_what_is_accepted(text: str) -> None:
    with pytest.raises(JobError) as refused:
        understand(text, "volts", "reading")
    assert refused.value.path == "reading"
    assert "0.14" in refused.value.accepted


@given(st.floats(-1000, 1000).map(lambda v: round(v, 4)))
def test_every_plain_number_reads_back(value: float) -> None:
    for text in (f"{value:.4f}", f"{value:.4f}".replace(".", ","), f"{value:.4f} V"):
        assert understand(text, "volts", "f").value == pytest.approx(value)


@given(st.text(max_size=30))
def test_any_text_is_understood_or_refused(text: str) -> None:
    for kind in ("volts", "metres", "celsius"):
        try:
            understand(text, kind, "f", words=True)
        except JobError:
            continue


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("10 AWG", Size("awg", "10")), ("awg 12", Size("awg", "12")), ("2/0", Size("awg", "2/0")),
        ("2,5", Size("mm2", "2.5", "tinned")), ("6 mm\u00b2", Size("mm2", "6", "tinned")),
        ("1.50 mm2", Size("mm2", "1.5", "tinned")), ("16", Size("mm2", "16", "tinned")),
    ],
)  # fmt: skip
def test_sizes(text: str, size: Size) -> None:
    assert understand_size(text, "size", "mm2", "tinned") == size


@pytest.mark.parametrize("text", ["thick", "2 kg", "", "-4", "4 4"])
def test_no_sizes(text: str) -> None:
    with pytest.raises(JobError):
        understand_size(text, "size", "mm2", "plain")
