"""What must hold of every judgement, over generated crafts, faults and readings."""

from dataclasses import replace
from importlib import resources

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from spare_margin.core.evidence.verdict.judgement import Judgement
from spare_margin.core.evidence.verdict.planned import planned
from spare_margin.core.model.pieces import SIDES
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.service.job.judging import Judging, judging_of
from tests.rough import LIMITS, TABLES, Rough, judged, rough

pytestmark = pytest.mark.slow
SEEDS = st.integers(0, 10_000)
FAULTS = st.integers(0, 2)
FEW = settings(
    max_examples=8, derandomize=True, phases=(Phase.explicit, Phase.generate), database=None
)
"""The same crafts in every run: what is probable may fail once in a thousand, a test may not."""
SURE = 0.95


def opened(seed: int, faults: int) -> tuple[Rough, Judgement] | None:
    made = rough(seed, faults)
    return None if made is None else (made, made.opening())


def most_volts(found: Judgement) -> float:
    return max(s.open_circuit_v for s in found.measured.craft.sources) + 1.5


@FEW
@given(SEEDS, FAULTS)
def test_nothing_loses_more_volts_than_the_source_has(seed: int, faults: int) -> None:
    made = opened(seed, faults)
    if made is None:
        return
    _, found = made
    lost = [s.loaded_v for s in found.spans if s.loaded_v is not None]
    lost += [v for side in SIDES if (v := found.sides[side].loaded_high_v) is not None]
    assert all(abs(v) <= most_volts(found) for v in lost)
    assert all(-1e-6 <= v <= most_volts(found) for v in found.measured.load_v.values() if v)


@FEW
@given(SEEDS, FAULTS)
def test_no_pass_without_current(seed: int, faults: int) -> None:
    made = opened(seed, faults)
    if made is None:
        return
    case, _ = made
    run = case.run
    dead = [
        replace(r, value=0.0, accuracy=0.03) if r.quantity == "amperes" else r
        for r in case.readings
    ]
    assert judged(case.craft, dead, run.load.id).verdict != "within"
    unknown = [r for r in case.readings if {r.red, r.black} == {run.source.live, run.source.back}]
    assert judged(case.craft, unknown, run.load.id).verdict == "not_judged"


@FEW
@given(SEEDS, FAULTS)
def test_within_is_true(seed: int, faults: int) -> None:
    made = opened(seed, faults)
    if made is not None and made[1].verdict == "within":
        assert made[0].spare_v > -0.02


@FEW
@given(SEEDS, st.integers(1, 2))
def test_over_is_true(seed: int, faults: int) -> None:
    made = opened(seed, faults)
    if made is not None and made[1].verdict == "over":
        assert made[0].spare_v < 0.02


@FEW
@given(SEEDS, st.integers(0, 1), st.randoms(use_true_random=False))
def test_the_order_of_readings_says_nothing(seed: int, faults: int, rng: object) -> None:
    made = opened(seed, faults)
    if made is None:
        return
    case, found = made
    mixed = list(case.readings)
    rng.shuffle(mixed)  # type: ignore[attr-defined]
    again = judged(case.craft, mixed, case.run.load.id)
    assert {again.verdict, found.verdict} != {"within", "over"}
    for element, p in found.search.by_element.items():
        assert again.search.by_element.get(element, 0.0) == pytest.approx(p, abs=0.02)


@FEW
@given(SEEDS, st.integers(0, 1))
def test_what_was_read_is_not_asked_for_again(seed: int, faults: int) -> None:
    made = opened(seed, faults)
    if made is None:
        return
    case, found = made
    read = {frozenset((r.red, r.black)) for r in case.readings if r.quantity == "volts"}
    assert not [p for p in found.probes if frozenset((p.red, p.black)) in read]


@FEW
@given(SEEDS, FAULTS)
def test_a_reading_said_again_changes_no_verdict(seed: int, faults: int) -> None:
    """It says nothing new but its own noise: doubt shrinks a little, nothing turns over."""
    made = opened(seed, faults)
    if made is None:
        return
    case, found = made
    again = judged(
        case.craft, [*case.readings, replace(case.readings[-1], id="again")], case.run.load.id
    )
    assert {again.verdict, found.verdict} != {"within", "over"}
    first, second = found.top, again.top
    if first[1] > SURE:
        assert second[0] == first[0]


@FEW
@given(SEEDS)
def test_probabilities_are_probabilities(seed: int) -> None:
    made = opened(seed, 1)
    if made is None:
        return
    values = list(made[1].search.by_element.values())
    assert all(0 <= p <= 1 + 1e-9 for p in values)
    assert values == sorted(values, reverse=True)


@FEW
@given(SEEDS)
def test_a_plan_that_swaps_a_good_part_leaves_the_fault(seed: int) -> None:
    case = rough(seed, 1)
    if case is None:
        return
    found = case.walk()
    element, p = found.top
    if found.done != "cornered" or found.verdict != "over" or p < SURE or element is None:
        return
    judging = Judging(case.craft, (), (), (), LIMITS, TABLES)
    run = judging.runs[case.run.load.id]
    ceilings = LIMITS.ceilings(run.load, case.craft.nominal_v)
    kept = planned(found, case.craft, run, ceilings)
    assert kept is not None
    assert kept.verdict == "over"
    assert element in kept.left_in
    if element not in {p.id for p in case.craft.pieces}:
        return
    pieces = tuple(replace(p, name="Swapped") if p.id == element else p for p in case.craft.pieces)
    craft = replace(case.craft, pieces=pieces)
    swapped = planned(
        found, craft, Judging(craft, (), (), (), LIMITS, TABLES).runs[run.load.id], ceilings
    )
    assert swapped is not None
    assert element not in swapped.left_in
    assert swapped.spend.spare_v > kept.spend.spare_v


def test_healthy_crafts_are_not_convicted() -> None:
    for seed in range(0, 36, 3):
        case = rough(seed, 0)
        if case is None or case.spare_v < 0.02:
            continue
        found = case.walk()
        assert found.verdict not in ("over", "over_as_ran"), seed
        assert not found.found, seed


@pytest.mark.parametrize(("seed", "faults"), [(5, 2), (33, 2), (49, 2), (10, 1)])
def test_the_craft_as_measured_shows_what_was_read(seed: int, faults: int) -> None:
    """Solved with the ohms that were read, each side loses in the moment what the bounds allow."""
    made = rough(seed, faults)
    assert made is not None
    found = made.walk()
    conditions = found.conditions
    assert conditions is not None
    solution = found.measured.solved(conditions.scenario.id)[0].solution
    for side in SIDES:
        judged_side = found.sides[side]
        lost = solution.volts(*made.run.ends(side))
        assert lost is not None
        if judged_side.read and judged_side.low_v is not None and judged_side.high_v is not None:
            assert 0.85 * judged_side.low_v - 0.01 < lost < 1.15 * judged_side.high_v + 0.01


@pytest.mark.parametrize(
    ("demo", "run", "guilty"),
    [("1-sloop-marram", "tap", "tap-ring"), ("3-show-truck-dunlin", "lift", "lug-j")],
)
def test_the_guilty_piece_has_the_ohms_that_were_read(demo: str, run: str, guilty: str) -> None:
    """Volts over amperes across it alone say what it has; the craft as measured has the same."""
    text = resources.files("spare_margin.data.demo").joinpath(f"{demo}.json").read_bytes()
    told = judging_of(read_job(text), "as_found", TABLES)
    assert told is not None
    found = told.judge(run)
    alone = next(s for s in found.spans if s.span.pieces == (guilty,))
    assert alone.ohm is not None
    state = found.measured.solved(found.worst.id)[0].solution.elements[guilty]
    assert state.resistance_ohm == pytest.approx(alone.ohm, rel=0.01)
    drawn = told.budget(run, found.worst)
    good = {p.step.piece.id: p.drop_v / p.current_a for side in drawn.sides for p in side.pieces}
    (held,) = (f for f in found.conclusion.found if f.piece == guilty)
    assert held.ohm is not None
    assert held.ohm[0] <= alone.ohm <= held.ohm[1]
    assert held.ohm[0] > good[guilty]
