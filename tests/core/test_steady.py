"""What may be taken by itself: steady, touching, lifted."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.live.samples import Sample
from spare_margin.core.live.steady import AIR_V, Standing, Steady, tolerance

STEP = 0.001


class Leads:
    """Leads in somebody's hands: eight samples a second."""

    def __init__(self, seed: int = 1) -> None:
        self.at, self.rng = 0.0, random.Random(seed)
        self.steady = Steady()
        self.taken: list[float] = []

    def show(self, value: float | None, step: float = STEP) -> Standing | None:
        self.at += 0.125
        made = self.steady.take(Sample(self.at, value, step))
        if made is not None:
            self.taken.append(made.value)
        return made

    def on(self, volts: float, seconds: float = 2.0) -> None:
        for _ in range(round(seconds * 8)):
            self.show(round(volts + self.rng.uniform(-1, 1) * STEP, 3))

    def air(self, seconds: float = 1.0) -> None:
        for _ in range(round(seconds * 8)):
            self.show(round(self.rng.choice((-1, 1)) * self.rng.uniform(0.02, 0.12), 3))


def test_each_place_is_taken_once_and_in_order() -> None:
    leads = Leads()
    for volts in (12.61, 0.412, 0.087, 0.231):
        leads.air()
        leads.on(volts, 6)
    assert leads.taken == pytest.approx([12.61, 0.412, 0.087, 0.231], abs=0.002)


def test_a_figure_is_taken_after_a_second_and_not_before() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.4, 0.8)
    assert leads.taken == []
    assert leads.steady.hands == "ready"
    leads.on(0.4, 0.5)
    assert len(leads.taken) == 1
    assert leads.steady.hands == "taken"
    assert leads.steady.standing is not None
    assert leads.steady.standing.samples >= 8
    assert leads.steady.standing.spread <= 3 * STEP


def test_what_changes_under_leads_that_stay_is_not_the_next_place() -> None:
    leads = Leads()
    leads.air()
    leads.on(12.6)
    for volts in (10.2, 9.1, 9.6, 11.0, 12.1):  # an engine cranks
        leads.on(volts, 0.3)
    leads.on(12.3)
    leads.on(11.9)
    assert leads.taken == pytest.approx([12.6], abs=0.002)


def test_a_load_that_was_off_for_a_while_is_not_another_place() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.412)
    leads.on(0.0)
    leads.on(0.412)
    assert leads.taken == pytest.approx([0.412], abs=0.002)
    # A press takes it all the same.
    assert leads.steady.hands == "steady"
    assert leads.steady.took() is not None
    assert leads.steady.hands == "taken"


def test_a_knock_is_no_lift() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.412)
    leads.show(None)
    leads.show(0.05)
    leads.on(0.60)
    assert leads.taken == pytest.approx([0.412], abs=0.002)


@pytest.mark.parametrize("volts", [0.0, 0.003, -0.004])
def test_near_nought_is_taken_by_a_press_alone(volts: float) -> None:
    leads = Leads()
    leads.air()
    leads.on(volts, 4)
    assert leads.taken == []
    standing = leads.steady.took()
    assert standing is not None
    assert standing.near_nought


def test_leads_that_hang_still_at_nought_are_in_the_air_too() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.412)
    leads.on(0.0)
    leads.on(0.305)
    assert leads.taken == pytest.approx([0.412, 0.305], abs=0.002)


def test_the_same_figure_at_the_next_joint_is_taken_where_the_leads_swung_between() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.206)
    leads.air()
    leads.on(0.206)
    assert leads.taken == pytest.approx([0.206, 0.206], abs=0.002)
    for _ in range(8):
        leads.show(0.0)
    leads.on(0.206)
    assert len(leads.taken) == 2, "a load that was off for a second looks like this"
    leads.show(None)
    leads.air(0.5)
    leads.on(0.206)
    assert len(leads.taken) == 3


def test_no_figure_is_never_steady() -> None:
    leads = Leads()
    for _ in range(40):
        leads.show(None)
    assert leads.steady.standing is None
    assert leads.steady.took() is None


def test_a_gap_or_another_mode_begins_anew() -> None:
    leads = Leads()
    leads.air()
    leads.on(0.4, 0.8)
    leads.at += 5
    leads.on(0.4, 0.8)
    assert leads.taken == [], "two halves of a second with minutes between are no second"
    leads.steady.take(Sample(leads.at + 0.1, 0.4, STEP, mode="ac"))
    assert leads.steady.standing is None


def test_the_clamp_between_two_places_leaves_the_leads_where_they_lie() -> None:
    """Volts at a place, amperes, volts again with the leads untouched: that place is not the next one."""
    steady, taken = Steady(), []
    shown = [
        (0.0, "volts"), (0.5, "volts"), (0.0, "amperes"), (5.4, "amperes"), (0.5, "volts"), (0.7, "volts"),
        (5.4, "amperes"),
    ]  # fmt: skip
    for place, (value, quantity) in enumerate(shown):
        for n in range(20):
            at = place * 2 + n / 10
            made = steady.take(Sample(at, value, STEP, quantity=quantity))  # type: ignore[arg-type]
            if made is not None:
                taken.append((made.value, quantity))
    assert taken == [(0.5, "volts"), (5.4, "amperes")]


def test_slow_meters_are_steady_with_three_figures() -> None:
    steady = Steady()
    made = [steady.take(Sample(n * 0.45, 0.0 if n < 3 else 0.412, STEP)) for n in range(9)]
    assert [each is not None for each in made].count(True) == 1


def test_where_the_leads_lie_already_nothing_is_taken_by_itself() -> None:
    """The program, or the meter, was away: whether the leads were lifted meanwhile nobody saw."""
    leads = Leads()
    leads.on(0.412, 3)
    assert leads.taken == []
    assert leads.steady.hands == "taken"
    leads.air()
    leads.on(0.412)
    assert len(leads.taken) == 1
    leads.steady.interrupted()
    assert leads.steady.hands == "waiting"
    leads.on(0.9, 3)
    assert len(leads.taken) == 1
    assert leads.steady.took() is not None, "a press takes it"


@given(
    st.lists(st.floats(-20, 20), min_size=1, max_size=80), st.sampled_from([0.0001, 0.001, 0.01])
)
def test_what_is_taken_stood_still_for_a_second(values: list[float], step: float) -> None:
    """Law: whatever is shown, all of the last second lies within the tolerance of what is taken."""
    steady, shown = Steady(), []
    for n, value in enumerate(values):
        shown.append(value)
        made = steady.take(Sample(n / 8, value, step))
        if made is not None:
            last = shown[-made.samples :]
            assert max(last) - min(last) <= tolerance(made.value, step) + 1e-9
            assert made.to_s - made.from_s >= 0.9
            assert not made.near_nought


@given(st.integers(0, 10_000), st.floats(AIR_V + 0.01, 14))
def test_leads_in_the_air_are_never_taken(seed: int, volts: float) -> None:
    leads = Leads(seed)
    leads.on(volts)
    taken = len(leads.taken)
    leads.air(20)
    assert len(leads.taken) == taken
