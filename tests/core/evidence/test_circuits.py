"""What a fault would show: quick answers for many faults at once, held against whole solves."""

import random
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.errors import NoSolution
from spare_margin.core.evidence.estimate.faults import (
    LOAD_TIMES,
    FaultClass,
    excess_sizes,
    load_sizes,
    prior,
    suspects_of,
)
from spare_margin.core.evidence.observation.observations import observe
from spare_margin.core.evidence.response.circuits import AS_DRAWN, Adjusted, Circuit, solved_as
from spare_margin.core.evidence.response.parameters import BASE_SPREAD, COPPER, parameters
from spare_margin.core.model.pieces import Craft
from tests.rough import TABLES, craft_by, rough_lines

LAWS = settings(max_examples=12, derandomize=True, deadline=None, database=None)
ROWS_OF = "volts at every test point against the return post, and the current of every load"


def circuit_of(craft: Craft, point: Adjusted = AS_DRAWN) -> Circuit:
    """Everything watched: the volts of every point, the current of every load."""
    scenario = replace(craft.scenarios[0], on=frozenset(x.id for x in craft.loads))
    source = craft.sources[0]
    observed = observe(craft, ())
    unknowns = parameters(
        craft, observed, [p.id for p in craft.pieces], [x.id for x in craft.loads], TABLES
    )
    rows = [("volts", p.id, source.back) for p in craft.points if p.id != source.back]
    rows += [("amperes", x.id, x.start) for x in craft.loads]
    return Circuit(solved_as(craft, scenario, TABLES, point), rows, unknowns, None)


def shown_by(circuit: Circuit, point: Adjusted) -> np.ndarray:
    """The same rows by a whole solve."""
    solution = solved_as(circuit.layout.craft, circuit.layout.scenario, TABLES, point).solution
    return np.array(
        [
            solution.volts(one, other) if kind == "volts" else solution.elements[one].current_a
            for kind, one, other in circuit.rows
        ]
    )


def with_fault(element: str, ohm: float) -> Adjusted:
    return replace(AS_DRAWN, more_ohm={element: ohm})


def evaluated(circuit: Circuit, element: str, *ohms: float) -> np.ndarray:
    number = np.zeros(len(ohms), dtype=np.intp)
    return circuit.evaluate([element], number, np.array(ohms), [None], np.ones(len(ohms))).values


@LAWS
@given(st.integers(0, 5000), st.floats(1e-3, 30.0))
def test_extra_ohms_show_what_a_whole_solve_shows(seed: int, ohm: float) -> None:
    rng = random.Random(seed)
    craft = craft_by(*rough_lines(rng), kind="boat")
    circuit = circuit_of(craft)
    piece = rng.choice([p for p in craft.pieces if p.id in circuit.answers.branches])
    try:
        by_hand = shown_by(circuit, with_fault(piece.id, ohm))
    except NoSolution:
        return  # a converter stalls there: no steady state to hold it against
    quick = evaluated(circuit, piece.id, ohm)[0]
    assert np.allclose(quick, by_hand, atol=2e-4), ROWS_OF


@LAWS
@given(st.integers(0, 5000), st.sampled_from(LOAD_TIMES))
def test_a_load_that_draws_otherwise_shows_what_a_whole_solve_shows(
    seed: int, times: float
) -> None:
    rng = random.Random(seed)
    craft = craft_by(*rough_lines(rng), kind="boat")
    circuit = circuit_of(craft)
    load = rng.choice(craft.loads).id
    try:
        by_hand = shown_by(circuit, replace(AS_DRAWN, load_times={load: times}))
    except NoSolution:
        return
    first = np.zeros(1, dtype=np.intp)
    quick = circuit.evaluate([None], first, np.zeros(1), [load], np.array([times])).values[0]
    assert np.allclose(quick, by_hand, atol=2e-4), ROWS_OF


@LAWS
@given(st.integers(0, 5000), st.floats(0.02, 2.0))
def test_slopes_are_those_of_small_steps(seed: int, ohm: float) -> None:
    """Each unknown moved a little, in the craft with the fault in it, against the analytic slope."""
    rng = random.Random(seed)
    craft = craft_by(*rough_lines(rng), kind="boat")
    circuit = circuit_of(craft)
    fault = rng.choice([p for p in craft.pieces if p.id in circuit.answers.branches]).id
    other = rng.choice([p for p in craft.pieces if p.id not in (fault, "trial")]).id
    load = rng.choice(craft.loads).id
    step = 1e-4
    first = np.zeros(1, dtype=np.intp)
    made = circuit.evaluate([fault], first, np.array([ohm]), [None], np.ones(1))
    index = circuit.parameters.index
    try:
        low, high = (
            shown_by(circuit, replace(with_fault(fault, ohm), ohm_times={other: 1 + d}))
            for d in (-step, step)
        )
        less, more = (
            shown_by(circuit, replace(with_fault(fault, ohm), load_times={load: 1 + d}))
            for d in (-step, step)
        )
        smaller, larger = (
            shown_by(circuit, with_fault(fault, ohm * np.exp(d))) for d in (-step, step)
        )
    except NoSolution:
        return
    by_ohm, by_load = index["piece", other], index["load", load]
    assert np.allclose(made.slopes[0, :, by_ohm], (high - low) / (2 * step), atol=3e-3)
    assert np.allclose(made.slopes[0, :, by_load], (more - less) / (2 * step), atol=3e-3)
    assert np.allclose(made.by_size[0], (larger - smaller) / (2 * step), atol=3e-3)


def test_many_cases_at_once_are_each_alone() -> None:
    craft = craft_by(
        'fuse 15 > 2.5 mm2 4 m > pin > lamp "L" 55 W at 12 V > pin > 2.5 mm2 4 m > ring'
    )
    circuit = circuit_of(craft)
    ids = [p.id for p in craft.pieces][:4]
    ohms = np.array([0.0, 0.05, 0.4, 9.0])
    number = np.repeat(np.arange(4), 4)
    sizes = np.tile(ohms, 4)
    nothing = [None] * 4
    together = circuit.evaluate(ids, number, sizes, nothing, np.ones(16))
    alone = np.concatenate([evaluated(circuit, each, *ohms) for each in ids])
    assert np.allclose(together.values, alone, atol=1e-9)


def test_no_fault_is_the_craft_as_it_is_solved() -> None:
    craft = craft_by('fuse 15 > 2.5 mm2 4 m > heater "H" 60 W at 12 V > 2.5 mm2 4 m > ring')
    circuit = circuit_of(craft)
    assert np.allclose(circuit.none().values[0], shown_by(circuit, AS_DRAWN), atol=1e-6)
    watched = circuit.watching(circuit.rows[:2])
    assert np.allclose(watched.none().values[0], circuit.none().values[0][:2])
    fuse = craft.pieces[2].id
    assert circuit.carries(fuse) == pytest.approx(circuit.none().values[0][-1], rel=1e-6)
    assert circuit.carries("no such piece") == 0.0


# The faults themselves


def test_sizes_span_what_a_fault_may_take() -> None:
    sizes = excess_sizes(5.0)
    assert sizes.values[0] * 5 == pytest.approx(0.02)
    assert sizes.values[-1] * 5 == pytest.approx(40.0)
    steps = np.diff(np.log(sizes.values))
    assert np.allclose(steps, steps[0])
    assert sizes.cell == pytest.approx(steps[0] / np.sqrt(12)), "uniform within a step"
    assert excess_sizes(5.0, excused_ohm=0.03).values[0] == pytest.approx(0.03)
    assert excess_sizes(0.0).values[-1] == pytest.approx(40 / 0.05), (
        "nothing flows: as if 50 mA did"
    )
    assert load_sizes().values[0] == pytest.approx(0.12)


def test_every_element_is_suspected_and_the_odds_are_one() -> None:
    faults = suspects_of(["a", "b"], ["s"], ["l"], ["warm"])
    kinds = [(f.element, f.kind, f.since) for f in faults]
    assert kinds[0] == (None, "none", None)
    assert ("a", "open", None) in kinds
    assert ("b", "excess_resistance", "warm") in kinds
    assert ("s", "excess_resistance", None) in kinds
    assert ("l", "load", None) in kinds
    assert ("s", "open", None) not in kinds
    craft = craft_by('fuse 15 > pin > 2.5 mm2 4 m > lamp "L" 55 W at 12 V > ring')
    ids = {p.style or p.id if hasattr(p, "style") else p.id: p.id for p in craft.pieces}
    classes = suspects_of([p.id for p in craft.pieces], ["source"], ["l"], [])
    odds = prior(craft, classes, TABLES.odds)
    assert odds.sum() == pytest.approx(1.0)
    by = {(f.element, f.kind): p for f, p in zip(classes, odds, strict=True)}
    wire = next(p.id for p in craft.pieces if hasattr(p, "length_m"))
    assert by[ids["pin"], "excess_resistance"] > by[wire, "excess_resistance"]


def test_a_pair_blames_both() -> None:
    pair = FaultClass("a", "open", beside=FaultClass("b", "excess_resistance"))
    assert pair.elements == {"a", "b"}
    assert FaultClass(None, "none").elements == frozenset()


def test_unknowns_of_a_craft() -> None:
    craft = craft_by('fuse 15 > 2.5 mm2 4 m > motor "P" 5 A > 2.5 mm2 4 m > ring')
    made = parameters(craft, observe(craft, ()), [p.id for p in craft.pieces], ["p"], TABLES)
    assert made.keys.count(COPPER) == 1
    assert made.sigma[made.index["base", ""]] == BASE_SPREAD
    assert np.all(made.mean == 0)
    assert np.allclose(made.variance, made.sigma**2)
    wire = next(p.id for p in craft.pieces if hasattr(p, "length_m"))
    ring = next(p.id for p in craft.pieces if getattr(p, "style", "") == "ring on stud")
    assert made.sigma[made.index["piece", ring]] > made.sigma[made.index["piece", wire]]
