"""The shipped wire table against the formulas it should agree with."""

import math

import pytest

from spare_margin.data.tables import shipped_tables

ROWS = shipped_tables().conductors.rows
GAUGES = {"1/0": 0, "2/0": -1, "3/0": -2, "4/0": -3}


@pytest.mark.parametrize("size", list(ROWS), ids=lambda s: f"{s.system} {s.value} {s.finish}")
def test_resistance_goes_with_the_area(size) -> None:  # type: ignore[no-untyped-def]
    """1.02 rho / A for stranded copper; tinned costs a few per cent more, maxima stand above both."""
    row = ROWS[size]
    assert row.ohm_per_m == pytest.approx(1.02 * 0.017241 / row.area_mm2, rel=0.20)


def test_gauges_have_the_area_of_their_diameter() -> None:
    for size, row in ROWS.items():
        if size.system == "awg":
            gauge = GAUGES[size.value] if size.value in GAUGES else int(size.value)
            diameter_mm = 0.127 * 92 ** ((36 - gauge) / 39)
            assert row.area_mm2 == pytest.approx(math.pi * diameter_mm**2 / 4, rel=0.03), size


def test_tinned_costs_a_little_more() -> None:
    for size, row in ROWS.items():
        plain = next(
            (
                r
                for s, r in ROWS.items()
                if (s.system, s.value, s.finish) == (size.system, size.value, "plain")
            ),
            None,
        )
        if size.finish == "tinned" and plain:
            assert 1.0 < row.ohm_per_m / plain.ohm_per_m < 1.06, size
