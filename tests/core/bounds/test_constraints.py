"""Difference constraints by hand, and against a general linear programme over random systems."""

import math

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from spare_margin.core.bounds.constraints import Bound, Bounds, transported


def reads(red: str, black: str, value: float, doubt: float) -> list[Bound]:
    """A reading as its two bounds; it is called by its points."""
    key = (f"{red}{black}",)
    return [
        Bound(red, black, value + doubt, "reading", key),
        Bound(black, red, doubt - value, "reading", key),
    ]


def falls(start: str, end: str) -> Bound:
    return Bound(end, start, 0.0, "falls")


LOOP = [
    *reads("s", "g", 12.60, 0.05), *reads("a", "b", 12.05, 0.04), *reads("s", "a", 0.10, 0.01),
    falls("s", "a"), falls("b", "g"),
]  # fmt: skip


def test_what_is_left_is_source_less_load_less_feed() -> None:
    """12.60 - 12.05 - 0.10 is 0.45, good to 0.05 + 0.04 + 0.01; the path names all three."""
    found = Bounds(LOOP)
    most = found.most("b", "g")
    assert most.volts == pytest.approx(0.55)
    assert most.readings == {"sg", "ab", "sa"}
    assert found.least_v("b", "g") == pytest.approx(0.35)
    assert [b.start for b in most.by] == ["b", "a", "s"], "the path, in order"


def test_a_point_nobody_read_is_not_bounded() -> None:
    found = Bounds(LOOP, ["x"])
    assert found.most("b", "x").volts == math.inf
    assert found.most("b", "nowhere").volts == math.inf
    assert found.most("b", "b").volts == 0.0
    assert found.most_of([("b", "x", 1.0)]).volts == math.inf


def test_the_tightest_of_two_readings_counts() -> None:
    found = Bounds([*reads("a", "b", 1.0, 0.5), *reads("a", "b", 1.1, 0.1)])
    assert found.most_v("a", "b") == pytest.approx(1.2)
    assert found.least_v("a", "b") == pytest.approx(1.0)


def test_what_cannot_all_be_true_is_named() -> None:
    """The return at 1.07 is more than 12.60 less 12.05 leaves it, the feed losing nothing at least."""
    told = [
        *reads("s", "g", 12.60, 0.05), *reads("a", "b", 12.05, 0.04), *reads("b", "g", 1.07, 0.01),
        falls("s", "a"), *reads("a", "y", 0.2, 0.01),
    ]  # fmt: skip
    found = Bounds(told)
    assert {r for b in found.contradiction for r in b.readings} == {"sg", "ab", "bg"}
    assert sum(b.most_v for b in found.contradiction) == pytest.approx(12.65 - 12.01 - 1.06)
    assert found.most("a", "y").volts == math.inf, "nothing rests on what contradicts itself"
    assert found.most_of([("a", "y", 1.0)]).volts == math.inf


def test_a_sum_over_both_sides_rests_on_what_is_missing_too() -> None:
    """Neither side is bounded by itself; both together are by source less load."""
    found = Bounds(
        [*reads("s", "g", 12.6, 0.05), *reads("a", "b", 12.2, 0.04)], ["s", "a", "b", "g"]
    )
    assert found.most("s", "a").volts == math.inf
    both = found.most_of([("s", "a", 1.0), ("b", "g", 1.0)])
    assert both.volts == pytest.approx(0.49)
    assert both.readings == {"sg", "ab"}


@st.composite
def systems(draw: st.DrawFn) -> tuple[list[Bound], list[str], dict[str, float]]:
    """Readings of true volts, some points unread, each reading within its doubt."""
    count = draw(st.integers(2, 7))
    names = [f"n{i}" for i in range(count)]
    volts = {n: draw(st.floats(-15, 15)) for n in names}
    bounds: list[Bound] = []
    for _ in range(draw(st.integers(1, 12))):
        red, black = draw(st.sampled_from(names)), draw(st.sampled_from(names))
        if red == black:
            continue
        doubt = draw(st.floats(0.001, 0.5))
        off = draw(st.floats(-1, 1)) * doubt
        bounds += reads(red, black, volts[red] - volts[black] + off, doubt)
    return bounds, names, volts


def by_programme(
    bounds: list[Bound], names: list[str], drops: list[tuple[str, str, float]]
) -> float:
    """The most of a sum of drops by a general solver."""
    at = {n: i for i, n in enumerate(names)}
    rows, most = [], []
    for b in bounds:
        row = np.zeros(len(names))
        row[at[b.start]], row[at[b.end]] = 1.0, -1.0
        rows.append(row)
        most.append(b.most_v)
    aim = np.zeros(len(names))
    for start, end, times in drops:
        aim[at[start]] += times
        aim[at[end]] -= times
    found = linprog(-aim, A_ub=np.array(rows), b_ub=most, bounds=(None, None), method="highs")
    return -found.fun if found.status == 0 else math.inf


@settings(deadline=None, suppress_health_check=[HealthCheck.too_slow], max_examples=60)
@given(systems(), st.data())
def test_the_most_of_a_sum_is_what_a_general_solver_finds(
    system: tuple[list[Bound], list[str], dict[str, float]], data: st.DataObject
) -> None:
    bounds, names, volts = system
    assume(bounds)
    found = Bounds(bounds, names)
    assert found.contradiction == (), "true volts keep every bound"
    pairs = st.tuples(st.sampled_from(names), st.sampled_from(names), st.floats(0.1, 5))
    drops = [d for d in data.draw(st.lists(pairs, min_size=1, max_size=5)) if d[0] != d[1]]
    assume(drops)
    most = found.most_of(drops).volts
    assert most == pytest.approx(by_programme(bounds, names, drops), abs=1e-5)
    true = sum(t * (volts[a] - volts[b]) for a, b, t in drops)
    assert true <= most + 1e-6
    one = drops[0]
    assert found.most(one[0], one[1]).volts == pytest.approx(
        by_programme(bounds, names, [(one[0], one[1], 1.0)]), abs=1e-5
    )


@settings(deadline=None, suppress_health_check=[HealthCheck.too_slow], max_examples=60)
@given(systems(), st.data())
def test_one_gross_mistake_is_among_what_is_named(
    system: tuple[list[Bound], list[str], dict[str, float]], data: st.DataObject
) -> None:
    bounds, names, volts = system
    red, black = names[0], names[1]
    wrong = volts[red] - volts[black] + data.draw(st.sampled_from([-9.0, 9.0]))
    mistake = [
        Bound(red, black, wrong + 0.01, "reading", ("mistake",)),
        Bound(black, red, 0.01 - wrong, "reading", ("mistake",)),
    ]
    found = Bounds([*bounds, *mistake], names)
    if found.contradiction:
        assert "mistake" in {r for b in found.contradiction for r in b.readings}
        around = found.contradiction
        assert sum(b.most_v for b in around) < 0
        ends = [(b.start, b.end) for b in around]
        assert all(a[1] == b[0] for a, b in zip(ends, [*ends[1:], ends[0]], strict=True))


@pytest.mark.parametrize("shape", [(1, 4), (2, 5), (4, 2), (3, 3), (2, 2)])
def test_carrying_at_least_cost_is_what_a_general_solver_finds(shape: tuple[int, int]) -> None:
    rng = np.random.default_rng(sum(shape))
    for _ in range(10):
        given_, taken = rng.uniform(0.1, 2, shape[0]), rng.uniform(0.1, 2, shape[1])
        taken *= given_.sum() / taken.sum()
        costs = rng.uniform(-5, 12, shape)
        carried = np.array(transported(given_.tolist(), taken.tolist(), costs.tolist()))
        assert carried.sum(axis=1) == pytest.approx(given_)
        assert carried.sum(axis=0) == pytest.approx(taken)
        assert (carried >= -1e-12).all()
        rows = np.kron(np.eye(shape[0]), np.ones(shape[1]))
        columns = np.kron(np.ones(shape[0]), np.eye(shape[1]))
        least = linprog(
            costs.ravel(), A_eq=np.vstack([rows, columns]), b_eq=[*given_, *taken], method="highs"
        )
        assert (carried * costs).sum() == pytest.approx(least.fun, abs=1e-6)
