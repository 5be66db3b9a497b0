"""The source's readings, judged against the tables they come from."""

from typing import Any

import pytest

from spare_margin.core.measure import source_findings as said
from spare_margin.core.measure.source_check import SourceFigures, check_source


def judged(**figures: Any) -> Any:
    return check_source(SourceFigures(**{"battery": "flooded", "nominal_v": 12.0, **figures}))


@pytest.mark.parametrize(
    ("battery", "nominal", "resting", "state", "charge"),
    [
        ("flooded", 12, 12.65, "good", 1.0),
        ("flooded", 12, 12.45, "good", 0.75),
        ("flooded", 12, 12.35, "fair", 0.631),
        ("flooded", 12, 12.06, "tired", 0.25),
        ("flooded", 12, 11.4, "flat", 0.0),
        ("flooded", 12, 12.95, "surface_charge", None),
        ("agm", 12, 12.95, "good", 1.0),
        ("agm", 12, 12.21, "tired", 0.25),
        ("agm", 12, 13.1, "surface_charge", None),
        ("flooded", 24, 24.9, "good", 0.75),
        ("flooded", 48, 48.24, "tired", 0.25),
        ("lithium", 12, 13.25, "good", None),
        ("lithium", 12, 12.9, "tired", None),
        ("flooded", 12, -12.6, "reversed", None),
        ("none", 12, 12.6, "unknown", None),
    ],
)
def test_resting(
    battery: str, nominal: float, resting: float, state: str, charge: float | None
) -> None:
    seen = judged(battery=battery, nominal_v=nominal, resting_v=resting)
    assert seen.state == state
    assert seen.charge == (None if charge is None else pytest.approx(charge, abs=0.002))


def test_ohms_inside_and_at_the_clamps() -> None:
    seen = judged(resting_v=12.6, loaded_v=12.3, loaded_a=25.0, loaded_clamps_v=12.2)
    assert seen.internal_ohm == pytest.approx(0.012)
    assert seen.clamps_ohm == pytest.approx(0.004)
    assert (said.Clamps, False) in [(type(f), f.good) for f in seen.findings]
    good = judged(resting_v=12.6, loaded_v=12.3, loaded_a=25.0, loaded_clamps_v=12.28)
    assert good.clamps_ohm == pytest.approx(0.0008)
    assert all(f.good is not False for f in good.findings)


def test_more_under_load_than_at_rest_gives_no_ohms() -> None:
    seen = judged(resting_v=12.6, loaded_v=12.9, loaded_a=10.0)
    assert seen.internal_ohm is None
    assert said.RisenUnderLoad() in seen.findings


@pytest.mark.parametrize(
    ("at_c", "ended", "least", "passed"),
    [(21, 9.6, 9.6, True), (21, 9.5, 9.6, False), (-18, 8.5, 8.5, True), (-30, 8.4, 8.5, False),
     (40, 9.7, 9.6, True), (13, 9.5, 9.45, True)],
)  # fmt: skip
def test_load_test_by_temperature(at_c: float, ended: float, least: float, passed: bool) -> None:
    seen = judged(temperature_c=at_c, load_end_v=ended, cold_crank_a=600)
    assert seen.least_v == pytest.approx(least)
    assert seen.load_test_a == 300
    assert [f.good for f in seen.findings] == [passed]


@pytest.mark.parametrize(
    ("charging", "good", "kind"),
    [(14.2, True, said.Charging), (13.2, False, said.ChargingUnusual), (15.1, False, said.ChargingUnusual),
     (12.62, False, said.NotCharging)],
)  # fmt: skip
def test_charging(charging: float, good: bool, kind: type[said.SourceFinding]) -> None:
    seen = judged(resting_v=12.6, charging_v=charging)
    last = seen.findings[-1]
    assert (last.good, type(last)) == (good, kind)


def test_nothing_read_says_nothing() -> None:
    seen = judged()
    assert (seen.state, seen.findings) == ("unknown", ())
