"""Readings: what they say together, the checks before any verdict, the account."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.account import RunAccount, account, measured_headroom
from spare_margin.core.jobs import Reading
from spare_margin.core.meters import WORKSHOP_METER, typed_step
from spare_margin.core.network import solve
from spare_margin.core.readings import Evidence, live_readings, verdict, worst
from spare_margin.data.shelves import shipped_tables
from spare_margin.instruments.simulated_meter import SimulatedMeter
from tests.conftest import craft_of, loop
from tests.core.test_budget import budgets

SPANS = {
    "source": ("b+", "b-"),
    "load": ("l+", "l-"),
    "feed": ("b+", "l+"),
    "return": ("l-", "b-"),
    "f": ("b+", "f1"),
    "w": ("f1", "w1"),
    "j": ("w1", "l+"),
    "jr": ("l-", "r1"),
    "wr": ("r1", "b-"),
}


def reading(id_: str, span: str | tuple[str, str], value: float | None, **more: Any) -> Reading:
    red, black = SPANS[span] if isinstance(span, str) else span
    given_ = {
        "id": id_, "revision": "as-found", "quantity": "volts", "red": red, "black": black,
        "value": value, "state": "value" if value is not None else "wandering",
        "typed": str(value), "scenario": "on", "taken_at": "2026-05-06T09:00:00Z",
        "accuracy": WORKSHOP_METER.accuracy(value) if value is not None else 0.0,
    }  # fmt: skip
    return Reading(**{**given_, **more})


def clamp(amperes: float) -> Reading:
    return reading("clamp", ("f1", "w1"), amperes, quantity="amperes", accuracy=0.1)


def judged(*readings: Reading, stale: frozenset[str] = frozenset()) -> RunAccount:
    _, made = budgets(loop())
    return account(made["l"], readings, 12, stale)


def checks(found: RunAccount) -> list[str]:
    return [f.check for f in found.findings]


@pytest.mark.parametrize(
    ("drop", "doubt", "allowance", "said"),
    [
        (0.10, 0.01, 0.12, "within"),
        (0.11, 0.01, 0.12, "within"),
        (0.115, 0.01, 0.12, "too_close"),
        (0.125, 0.01, 0.12, "too_close"),
        (0.1301, 0.01, 0.12, "over"),
        (-0.01, 0.02, 0.0, "too_close"),
    ],
)
def test_verdict(drop: float, doubt: float, allowance: float, said: str) -> None:
    assert verdict(drop, doubt, allowance) == said


def test_worst_verdict_rules() -> None:
    assert worst(["within", "over", "not_measured"]) == "over"
    assert worst(["within", "not_measured"]) == "not_measured"
    assert worst(["within", "too_close"]) == "too_close"
    assert worst([]) == "not_measured"


@pytest.mark.parametrize(
    ("value", "typed", "accuracy"),
    [
        # 0.6 V range of 6000 counts: 0.1 mV a count.
        (0.3, "0.3000", 0.0015 + 0.0002),
        (1.5, "1.500", 0.0075 + 0.002),
        (12.6, "12.60", 0.063 + 0.02),
        # Typed to tenths only: half a tenth more in doubt.
        (12.6, "12.6", 0.063 + 0.02 + 0.05),
    ],
)
def test_meter_accuracy_by_hand(value: float, typed: str, accuracy: float) -> None:
    assert WORKSHOP_METER.accuracy(value, typed_step(typed)) == pytest.approx(accuracy)


def test_evidence_adds_spans_and_takes_differences() -> None:
    parked = [reading("1", ("b+", "b-"), 12.6), reading("2", ("l+", "b-"), 12.2)]
    drop = Evidence(parked).drop("b+", "l+")
    assert drop is not None
    assert drop.volts == pytest.approx(0.4)
    assert drop.accuracy == pytest.approx(
        (parked[0].accuracy ** 2 + parked[1].accuracy ** 2) ** 0.5
    )
    assert not drop.direct
    assert set(drop.rests_on) == {"1", "2"}
    assert Evidence(parked).drop("b+", "r1") is None
    swapped = Evidence(parked).drop("l+", "b+")
    assert swapped is not None
    assert swapped.volts == pytest.approx(-0.4)


def test_repeating_does_not_make_a_better_meter() -> None:
    twice = [reading("1", "w", 0.20), reading("2", "w", 0.26)]
    drop = Evidence(twice).drop("f1", "w1")
    assert drop is not None
    assert drop.volts == pytest.approx(0.23, abs=0.01)
    assert drop.accuracy >= 0.03
    assert Evidence(twice).disagreement(reading("3", "w", 0.4)) is not None


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.01, 2), min_size=2, max_size=6))
def test_drops_along_a_chain_add_up(drops: list[float]) -> None:
    chain = [reading(str(i), (f"n{i}", f"n{i + 1}"), v) for i, v in enumerate(drops)]
    whole = Evidence(chain).drop("n0", f"n{len(drops)}")
    assert whole is not None
    assert whole.volts == pytest.approx(sum(drops), rel=1e-6, abs=1e-7)
    assert whole.accuracy**2 == pytest.approx(sum(r.accuracy**2 for r in chain), rel=1e-6)


def test_superseded_and_withdrawn_readings_do_not_count() -> None:
    kept = [
        reading("1", "w", 0.5),
        reading("2", "w", 0.2, supersedes="1"),
        reading("3", "j", 0.1),
        reading("4", "j", None, state="withdrawn", supersedes="3"),
    ]
    assert [r.id for r in live_readings(kept)] == ["2"]


def test_a_good_run_passes_and_closes() -> None:
    found = judged(
        reading("1", "source", 12.55), reading("2", "load", 12.06), reading("3", "feed", 0.255),
        reading("4", "return", 0.216), clamp(5.0),
    )  # fmt: skip
    assert found.verdict == "within"
    assert found.closes is True
    assert found.unaccounted is not None
    assert found.unaccounted.volts == pytest.approx(0.019)
    assert found.findings == ()


def test_three_of_four_give_the_fourth_by_difference() -> None:
    found = judged(
        reading("1", "source", 12.55), reading("2", "load", 12.10), reading("3", "return", 0.216)
    )
    assert found.sides["feed"].raw.volts == pytest.approx(0.234, abs=1e-6)
    assert not found.sides["feed"].raw.direct
    assert found.closes is None
    assert found.verdict == "within"


def test_the_guilty_piece_is_the_one_over_by_most() -> None:
    found = judged(reading("1", "return", 0.82), reading("2", "jr", 0.61), reading("3", "wr", 0.21))
    assert found.guilty == "jr"
    assert found.verdict == "over"
    assert found.pieces["wr"].verdict == "over"
    assert "hot" in checks(found)


def test_unaccounted_volts_are_named() -> None:
    found = judged(
        reading("1", "source", 12.55), reading("2", "load", 11.3), reading("3", "feed", 0.25),
        reading("4", "return", 0.21),
    )  # fmt: skip
    assert found.closes is False
    assert "unaccounted" in checks(found)


@pytest.mark.parametrize(
    ("taken", "check", "aside"),
    [
        ([reading("1", "w", -0.2)], "swapped", False),
        ([reading("1", "w", 13.5)], "impossible", True),
        ([reading("1", "source", 31.0)], "impossible", True),
        ([reading("1", "source", -12.6), reading("2", "w", 0.2)], "reversed", True),
        ([reading("1", "w", None)], "no_number", True),
        ([reading("1", "w", None, state="over_range")], "no_number", True),
        ([reading("1", "w", 0.001)], "not_loaded", False),
        ([reading("1", "j", 0.0003)], "not_loaded", False),
        ([clamp(0.02), reading("1", "w", 0.2)], "not_loaded", False),
        ([clamp(2.5), reading("1", "w", 0.1)], "scaled", False),
        ([reading("1", "j", 0.051, accuracy=0.02)], "coarse", False),
        (
            [reading("1", "return", 0.4), reading("2", "jr", 0.02), reading("3", "wr", 0.21)],
            "no_sum",
            False,
        ),
    ],
)
def test_checks_before_any_verdict(taken: list[Reading], check: str, aside: bool) -> None:
    found = judged(*taken)
    assert check in checks(found)
    assert ("1" in found.set_aside) is aside


def test_a_negative_reading_is_kept_with_its_sign_turned() -> None:
    found = judged(reading("1", "w", -0.2))
    assert found.pieces["w"].raw.volts == pytest.approx(0.2)
    assert judged(reading("1", "j", -0.0001)).findings[0].check != "swapped"


def test_not_loaded_readings_have_no_verdict() -> None:
    found = judged(clamp(0.0), reading("1", "feed", 0.01), reading("2", "return", 0.01))
    assert found.verdict == "not_loaded"
    assert found.sides["feed"].verdict == "not_loaded"


def test_drops_are_scaled_to_the_loaded_current() -> None:
    found = judged(clamp(2.5), reading("1", "w", 0.25))
    assert found.pieces["w"].loaded.volts == pytest.approx(0.5)
    assert found.pieces["w"].verdict == "over"


def test_readings_from_before_a_change_are_set_aside() -> None:
    found = judged(reading("1", "w", 0.9), stale=frozenset({"1"}))
    assert found.set_aside == {"1"}
    assert "w" not in found.pieces
    assert checks(found)[0] == "changed"


def test_measured_headroom_takes_the_excess_as_resistance() -> None:
    _, made = budgets(loop())
    found = judged(reading("1", "feed", 0.30), reading("2", "return", 0.216))
    room = measured_headroom(made["l"], found.sides)
    assert room.amperes == pytest.approx((0.25 - 0.216) / (0.216 / 5), rel=1e-6)
    assert room.amperes_until == "return ceiling"
    hopeless = judged(reading("1", "feed", 0.30), reading("2", "return", 0.9))
    assert measured_headroom(made["l"], hopeless.sides).metres is None


@settings(max_examples=25, deadline=None)
@given(st.sampled_from(["f", "w", "j", "jr", "wr"]), st.floats(0.06, 0.2), st.integers(0, 10_000))
def test_the_simulated_meter_convicts_the_faulty_piece(
    piece: str, excess: float, seed: int
) -> None:
    """Reading a faulty network piece by piece names the fault, and no good reading is refused."""
    document = loop()
    for i in (1, 5):
        document["elements"][i]["size"]["value"] = "4"
    craft = craft_of(document)
    tables = shipped_tables()
    meter = SimulatedMeter(craft, craft.scenario(), tables, {piece: excess}, seed)
    taken = [
        reading(name, span, float(meter.volts(*span) or 0), accuracy=0.0)
        for name, span in SPANS.items()
    ]
    taken = [
        reading(r.id, (r.red, r.black), r.value, accuracy=WORKSHOP_METER.accuracy(r.value or 0))
        for r in taken
    ]
    _, made = budgets(document)
    found = account(made["l"], taken, 12, frozenset())
    assert found.guilty == piece
    assert found.verdict == "over"
    assert found.closes is True
    assert found.set_aside == frozenset()
    assert set(checks(found)) <= {"hot", "coarse"}
    solution = solve(craft, craft.scenario(), tables)
    assert solution.elements[piece].current_a == pytest.approx(5)
