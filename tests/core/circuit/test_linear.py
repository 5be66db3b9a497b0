"""The equations between the points where ways part, against all equations of all points and pieces."""

from dataclasses import dataclass

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from spare_margin.core.circuit.linear import chains as chains_module
from spare_margin.core.circuit.linear import equations
from spare_margin.core.circuit.linear.chains import Chains, chains
from spare_margin.core.circuit.linear.system import System

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass
class Circuit:
    """Points, pieces, loads and sources as arrays, each part grounded at its first point."""

    points: int
    piece_ends: Ints
    load_ends: Ints
    source_ends: Ints
    emf: Floats
    internal: Floats
    ohms: Floats

    @property
    def index(self) -> dict[str, int]:
        return {str(i): i for i in range(self.points)}

    @property
    def free(self) -> NDArray[np.bool_]:
        graph: nx.Graph[int] = nx.Graph()
        graph.add_nodes_from(range(self.points))
        graph.add_edges_from(
            np.concatenate([self.piece_ends, self.load_ends, self.source_ends], axis=1).T
        )
        grounded = [min(part) for part in nx.connected_components(graph)]
        return ~np.isin(np.arange(self.points), grounded)

    def chains(self) -> Chains:
        return Chains(self.points, self.piece_ends, self.load_ends, self.source_ends, self.free)


def circuit(
    points: int,
    pieces: list[tuple[int, int]],
    loads: list[tuple[int, int]] = [],  # noqa: B006
    sources: list[tuple[int, int]] = [(0, 1)],  # noqa: B006
    ohms: list[float] | None = None,
) -> Circuit:
    def ends(pairs: list[tuple[int, int]]) -> Ints:
        return np.array(pairs, dtype=np.intp).reshape(-1, 2).T

    given = np.full(len(pieces), 0.1) if ohms is None else np.array(ohms, dtype=float)
    emf, internal = np.full(len(sources), 12.0), np.full(len(sources), 0.01)
    return Circuit(points, ends(pieces), ends(loads), ends(sources), emf, internal, given)


def all_equations(
    made: Circuit, slope: Floats, rhs: Floats, series: Floats
) -> tuple[Floats, Floats]:
    """Volts of all points and currents of all pieces and sources: every piece a row of its own.

    `rhs` (points + sources, m) are amperes put in at the points and the sources' rows; `series` (P, m)
    volts lost in each piece beside its ohms.
    """
    n, p, s = made.points, made.piece_ends.shape[1], made.source_ends.shape[1]
    matrix = np.zeros((n + p + s, n + p + s))
    right = np.concatenate([rhs[:n], series, rhs[n:]])
    branches = np.concatenate([made.piece_ends, made.source_ends], axis=1)
    for i, (a, b) in enumerate(branches.T):
        matrix[a, n + i] += 1
        matrix[b, n + i] -= 1
        matrix[n + i, a] += 1
        matrix[n + i, b] -= 1
        matrix[n + i, n + i] = -np.concatenate([made.ohms, made.internal])[i]
    for (a, b), g in zip(made.load_ends.T, slope, strict=True):
        for row, sign in ((a, 1), (b, -1)):
            matrix[row, a] += sign * g
            matrix[row, b] -= sign * g
    for ground in np.flatnonzero(~made.free):
        matrix[ground], matrix[ground, ground], right[ground] = 0, 1, 0
    found = np.linalg.solve(matrix, right)
    return found[:n], found[n:]


point = st.integers(0, 7)
pairs = st.lists(st.tuples(point, point), max_size=6)


@st.composite
def circuits(draw: st.DrawFn) -> Circuit:
    """Anything: rings, dead ends, loads one behind the other or shorted, parts that hang on nothing."""
    # Half of them long ways: a way through new points for each of these pieces.
    points, pieces = 8, []
    for a, b in draw(st.lists(st.tuples(point, point), min_size=1, max_size=8)):
        at = a
        for _ in range(draw(st.integers(0, 3))):
            pieces.append((at, points) if draw(st.booleans()) else (points, at))
            at, points = points, points + 1
        pieces.append((at, b))
    ohm = st.one_of(st.floats(1e-5, 1e-3), st.floats(1e-3, 10.0), st.floats(1e3, 1e6))
    ohms = draw(st.lists(ohm, min_size=len(pieces), max_size=len(pieces)))
    loads = [(a, b) for a, b in draw(pairs) if a != b]
    return circuit(points, pieces, loads, [(0, 1), *draw(st.sampled_from([[], [(2, 3)]]))], ohms)


@pytest.mark.slow
@settings(max_examples=300)
@given(circuits(), st.data())
def test_chains_say_what_all_equations_say(made: Circuit, data: st.DataObject) -> None:
    """Whatever is pushed: amperes at any point, volts in any small piece or source."""
    system = System(made, made.ohms)
    loads, own = made.load_ends.shape[1], system.owning
    draws = np.random.default_rng(data.draw(st.integers(0, 10**6)))
    slope = draws.uniform(0.01, 5.0, loads)
    columns = draws.normal(size=(system.size, 3))
    series = np.zeros((len(made.ohms), 3))
    series[own] = columns[made.points : system.first_source]
    n = made.points
    columns[:n][~made.free] = 0.0
    rhs = np.concatenate([columns[:n], columns[system.first_source :]])
    volts, currents = all_equations(made, slope, rhs, series)
    # What nothing takes away again is carried to the ground of its part.
    got = system.responses(slope, columns)
    size = 1 + np.abs(volts).max()
    assert got[:n] == pytest.approx(volts, abs=1e-7 * size)
    assert got[n : system.first_source] == pytest.approx(currents[own], abs=1e-6 * size)
    pieces = len(made.ohms)
    assert got[system.first_source :] == pytest.approx(currents[pieces:], abs=1e-6 * size)


@settings(max_examples=200)
@given(circuits(), st.data(), st.booleans())
def test_a_solve_is_the_answer_to_what_the_loads_draw(
    made: Circuit, data: st.DataObject, sparse: bool
) -> None:
    loads = made.load_ends.shape[1]
    draws = np.random.default_rng(data.draw(st.integers(0, 10**6)))
    slope, offset = draws.uniform(0.01, 5.0, loads), draws.normal(size=loads)
    columns = System(made, made.ohms).rhs.copy()
    np.subtract.at(columns, made.load_ends[0], offset)
    np.add.at(columns, made.load_ends[1], offset)
    with pytest.MonkeyPatch.context() as patch:
        if sparse:
            patch.setattr(equations, "DENSE_UP_TO", 0)
        equations._skeleton.cache_clear()
        system = System(made, made.ohms)
        x = system.solve(slope, offset)
        answered = system.responses(slope, columns[:, None])[:, 0]
    equations._skeleton.cache_clear()
    size = 1 + np.abs(answered).max()
    assert x == pytest.approx(answered, abs=1e-7 * size)
    drawn = slope * system.across_loads(x) + offset
    assert system.imbalance(x, drawn) < 1e-7 * size
    for i, (start, end) in enumerate(made.load_ends.T):
        one = 0.5 * (np.arange(loads) == i)
        seen = made.free[[start, end]].any()
        assert system.imbalance(x, drawn + one) == pytest.approx(
            0.5 if seen else 0.0, abs=1e-7 * size
        )


def test_a_run_leaves_the_points_where_ways_part() -> None:
    """Post 0, panel 2, bus 3, post 1: two runs of three pieces on each side of their loads."""
    pieces = [(2, 4), (4, 5), (5, 6), (7, 8), (8, 9), (9, 3)]
    pieces += [(2, 10), (11, 10), (11, 12), (13, 14), (14, 15), (15, 3)]
    made = circuit(16, [(1, 2), (3, 0), *pieces], [(6, 7), (12, 13)])
    held = made.chains()
    assert np.flatnonzero(held.kept).tolist() == [0, 1, 2, 3]
    assert held.load_ends.tolist() == [[2, 2], [3, 3]]
    assert held.pieces[held.legs].tolist() == [
        [[2, 3, 4], [8, 9, 10]],
        [[7, 6, 5], [13, 12, 11]],
    ]
    assert held.outward[held.legs[0, 1]].tolist() == [1, -1, 1]
    assert sorted(held.plain.tolist()) == [4, 5]


@pytest.mark.parametrize(
    ("pieces", "loads", "kept"),
    [
        # Two loads one behind the other: what joins them is no leg of either.
        ([(1, 2), (3, 4), (5, 0)], [(2, 3), (4, 5)], [0, 1, 3, 4]),
        # A load whose terminals are joined: the wire is its leg, from its own other terminal.
        ([(2, 3), (1, 4), (4, 0)], [(2, 3)], [0, 1, 2]),
        # A ring on one point; a dead end.
        ([(1, 2), (2, 3), (3, 4), (4, 2), (2, 0), (2, 5)], [], [0, 1, 2, 5]),
        # A point that a source, or two loads, or one load at both its ends touch stays.
        ([(1, 2), (2, 3), (3, 0)], [(3, 0), (3, 4), (4, 4)], [0, 1, 3, 4]),
    ],
)
def test_what_stays_an_unknown(
    pieces: list[tuple[int, int]], loads: list[tuple[int, int]], kept: list[int]
) -> None:
    made = circuit(max(max(p) for p in (*pieces, *loads, (1, 0))) + 1, pieces, loads)
    assert np.flatnonzero(made.chains().kept | ~made.free).tolist() == kept


def test_a_long_way_is_cut_and_stays_exact() -> None:
    pieces = [(1, 2), *((i, i + 1) for i in range(2, 99)), (99, 0)]
    ohms = [1e6 if i == 40 else 1e-3 * (1 + i % 7) for i in range(len(pieces))]
    made = circuit(100, pieces, ohms=ohms)
    assert made.chains().pieces.shape[1] == chains_module.LONGEST
    x = System(made, made.ohms).solve(np.zeros(0), np.zeros(0))
    assert np.diff(x[np.r_[1:100, 0]]) == pytest.approx(-12.0 / (sum(ohms) + 0.01) * np.array(ohms))


def test_a_chain_of_whatever_ohms_keeps_its_volts_to_rounding() -> None:
    """A megohm elsewhere takes no digit from milliohms: each chain is added up by itself."""
    made = circuit(
        6, [(1, 2), (2, 0), (1, 3), (3, 4), (4, 5), (5, 0)], ohms=[1e9, 1e9, 0.3, 2e-5, 0.3, 0.3]
    )
    x = System(made, made.ohms).solve(np.zeros(0), np.zeros(0))
    assert x[3] - x[4] == pytest.approx(12 / 0.91002 * 2e-5, rel=1e-8)


def test_a_shorted_load_takes_no_digit_from_what_hangs_by_megohms() -> None:
    """Both its legs begin at one point: it has no volts there, and no entry in the matrix."""
    made = circuit(4, [(1, 2), (2, 0), (2, 3)], [(2, 3)], ohms=[1e9, 1e9, 0.1])
    assert made.chains().load_ends.tolist() == [[2], [2]]
    x = System(made, made.ohms).solve(np.array([1e4]), np.array([3.0]))
    assert x[2] - x[0] == pytest.approx(6.0, rel=1e-9)
    assert x[2] - x[3] == pytest.approx(-0.1 * 3.0 / (1 + 1e4 * 0.1), rel=1e-9)


def test_the_chains_of_a_wiring_are_found_once() -> None:
    made = circuit(3, [(1, 2), (2, 0)])
    told = (made.piece_ends, made.load_ends, made.source_ends, made.free)
    found = chains(3, *(each.tobytes() for each in told))
    assert found is chains(3, *(each.tobytes() for each in told))
    assert found is System(made, made.ohms).chains
