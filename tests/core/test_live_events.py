"""Changes under leads that stay, starts that are caught, and what is kept of hours."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.live.changes import BACK_S, STAYS_S, Change, Changes
from spare_margin.core.live.kept import AROUND_S, MOST_STRETCHES, Kept
from spare_margin.core.live.samples import Sample
from spare_margin.core.live.starts import LONGEST_S, Armed, Start
from spare_margin.core.model.jobs import Hold

EVERY_S = 0.1
STEP = 0.001


class Watched:
    """Leads that stay where they are: ten samples a second."""

    def __init__(self, least: float = 0.05) -> None:
        self.at, self.rng = 0.0, random.Random(4)
        self.changes, self.over = Changes(least), list[Change]()

    def show(self, value: float | None, seconds: float) -> None:
        for _ in range(round(seconds / EVERY_S)):
            self.at = round(self.at + EVERY_S, 3)
            noisy = None if value is None else value + self.rng.uniform(-STEP, STEP)
            made = self.changes.take(Sample(self.at, noisy, STEP))
            if made is not None:
                self.over.append(made)


def test_a_change_is_told_once_it_was_back_for_a_second() -> None:
    watched = Watched()
    watched.show(0.4, 20)
    watched.show(0.9, 0.4)
    assert watched.changes.now is not None
    watched.show(0.4, BACK_S / 2)
    assert watched.over == []
    watched.show(0.4, BACK_S)
    (change,) = watched.over
    assert change.start_s == pytest.approx(20.1)
    assert change.end_s == pytest.approx(20.4)
    assert change.stood_at == pytest.approx(0.4, abs=2 * STEP)
    assert change.went_to == pytest.approx(0.9, abs=2 * STEP)
    assert not change.stays
    assert not change.in_air


def test_what_flickers_is_one_change() -> None:
    watched = Watched()
    watched.show(0.4, 5)
    for _ in range(5):
        watched.show(0.9, 0.2)
        watched.show(0.4, 0.5)
    watched.show(0.4, 2)
    assert len(watched.over) == 1


def test_a_drift_and_noise_within_what_was_set_are_quiet() -> None:
    watched = Watched()
    for n in range(300):
        watched.show(0.4 + 0.001 * n, 0.2)
    assert watched.over == []
    assert watched.changes.now is None
    assert watched.changes.watched_s == pytest.approx(60, abs=0.2)


def test_what_stays_elsewhere_is_what_it_is_held_against_then() -> None:
    watched = Watched()
    watched.show(0.4, 5)
    watched.show(0.9, STAYS_S + 5)
    (change,) = watched.over
    assert change.stays
    watched.show(0.4, 3)
    watched.show(0.9, 3)
    assert len(watched.over) == 2
    assert watched.over[1].stood_at == pytest.approx(0.9, abs=2 * STEP)


def test_leads_that_come_off_are_said_to_be_in_the_air() -> None:
    watched = Watched()
    watched.show(0.4, 5)
    for n in range(8):
        watched.show((-1) ** n * 0.06, 0.1)
    watched.show(0.4, 2)
    assert [c.in_air for c in watched.over] == [True]
    watched.show(None, 0.3)
    watched.show(0.4, 2)
    assert [(c.went_to, c.in_air) for c in watched.over[1:]] == [(None, True)]


def test_nobody_watched_while_the_meter_was_gone() -> None:
    watched = Watched()
    watched.show(0.4, 5)
    watched.at += 600
    watched.show(0.9, 5)
    assert watched.over == []
    assert watched.changes.watched_s == pytest.approx(9.8, abs=0.2)


def caught(shown: list[float]) -> list[Start]:
    armed, rng, out = Armed(), random.Random(2), []
    for n, value in enumerate(shown):
        made = armed.take(Sample(n * EVERY_S, value + rng.uniform(-STEP, STEP), STEP))
        if made is not None:
            out.append(made)
            break
    return out


def test_a_start_is_caught_with_its_dip_and_where_it_settles() -> None:
    """12.70 V at rest, 9.62 V at the worst of the crank, 12.40 V after."""
    crank = [9.8, 9.62, 10.1, 10.6, 9.9, 10.8, 11.6]
    (start,) = caught([12.7] * 30 + crank + [12.4] * 30)
    assert start.before == pytest.approx(12.7, abs=2 * STEP)
    assert start.least == pytest.approx(9.62, abs=2 * STEP)
    assert start.settled == pytest.approx(12.4, abs=2 * STEP)
    assert start.step_s == pytest.approx(3.0)
    assert start.from_s == pytest.approx(2.0)
    assert 4.5 <= start.end_s <= 5.0


def test_nothing_is_caught_before_it_stood_still_or_while_it_only_drifts() -> None:
    rng = random.Random(1)
    assert caught([12 + rng.uniform(-0.5, 0.5) for _ in range(200)]) == []
    assert caught([12 + 0.0005 * n for n in range(400)]) == []


def test_a_start_that_never_settles_is_kept_in_the_end() -> None:
    rng = random.Random(3)
    (start,) = caught([12.6] * 20 + [10 + rng.uniform(-0.5, 0.5) for _ in range(500)])
    assert start.settled is None
    assert start.end_s - start.step_s == pytest.approx(LONGEST_S, abs=0.2)


def test_all_is_kept_around_what_happened_and_ends_elsewhere() -> None:
    kept = Kept()
    for n in range(36_000 * 3):
        at = n * EVERY_S
        if n == 50_000:
            kept.happened(at)
        value = 7.0 if n == 20_001 else 0.4 + (n % 7) / 1000
        kept.add(at, 0, value)
    rows = kept.rows()
    moment = 50_000 * EVERY_S
    around = [row for row in rows if abs(row[0] - moment) <= AROUND_S - EVERY_S]
    assert len(around) == pytest.approx(2 * AROUND_S / EVERY_S, abs=3)
    assert len(rows) < 2 * MOST_STRETCHES + 2 * AROUND_S / EVERY_S + AROUND_S / EVERY_S + 10
    assert max(row[2] for row in rows) == 7.0, "the one spike in three hours is still there"
    assert [row[0] for row in rows] == sorted(row[0] for row in rows)


@given(st.lists(st.floats(-20, 20), min_size=1, max_size=400), st.floats(0.01, 3))
def test_the_ends_are_kept_whatever_comes(values: list[float], every: float) -> None:
    kept = Kept()
    for n, value in enumerate(values):
        kept.add(n * every, n % 2, value)
    rows = kept.rows()
    for channel in (0, 1):
        own = [v for n, v in enumerate(values) if n % 2 == channel]
        held = [row[2] for row in rows if row[1] == channel]
        if own:
            assert (min(held), max(held)) == (min(own), max(own))


@pytest.mark.parametrize(
    ("before", "least", "most", "settled", "hold", "shows"),
    [
        (12.7, 9.6, 12.5, 12.4, "least", True),  # the source sags while an engine cranks
        (0.02, 0.3, 0.9, 0.4, "most", True),  # a return takes its share of a start
        (0.57, 0.02, 0.03, 0.02, "most", None),  # the load went off
        (12.1, 0.0, 0.1, 0.0, "least", None),  # across the load: it went off
        (0.0, 5.1, 12.0, 11.9, "least", False),  # it came on: the first figure was on its way
        (12.4, 11.0, 12.3, 11.6, "least", True),  # another load starts beside it
        (
            -12.6,
            -12.6,
            -9.6,
            -12.4,
            "least",
            False,
        ),  # the leads are swapped: least is the wrong end
        (0.0, -0.9, 0.01, -0.4, "most", False),  # so is most
        (12.6, 9.0, 11.0, None, "least", False),  # it never settled
    ],
)
def test_which_end_of_a_start_is_believed(
    before: float,
    least: float,
    most: float,
    settled: float | None,
    hold: Hold,
    shows: bool | None,
) -> None:
    assert Start(0, 1, 3, before, least, most, settled).shows(hold) is shows


def test_leads_that_are_lifted_while_it_waits_are_no_start() -> None:
    """In the air the figure leaves nought, both ways; it was never the load."""
    rng = random.Random(5)
    air = [(-1) ** n * rng.uniform(0.02, 0.12) for n in range(400)]
    (start,) = caught([0.0] * 30 + air)
    assert start.shows("most") is None


def test_a_meter_that_was_away_is_armed_anew() -> None:
    armed = Armed()
    for n in range(30):
        armed.take(Sample(n * EVERY_S, 12.6, STEP))
    assert armed.before is not None
    assert armed.take(Sample(600.0, 9.0, STEP)) is None
    assert armed.before is None
    assert not armed.running


def test_a_change_that_the_meter_left_in_is_not_lost() -> None:
    watched = Watched()
    watched.show(0.4, 5)
    watched.show(0.9, 1)
    watched.at += 60
    watched.show(0.4, 3)
    (change,) = watched.over
    assert change.went_to == pytest.approx(0.9, abs=2 * STEP)
