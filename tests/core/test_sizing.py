"""Sizes for the least copper: equal to trying every combination, and lawful where that takes too long."""

import math
import random
from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from spare_margin.core.errors import JobError
from spare_margin.core.model.conductors import bundle_share, corrected_ampacity_a
from spare_margin.core.model.limits import Ceilings, Limits
from spare_margin.core.model.pieces import Conductor, Craft, Scenario, Size
from spare_margin.core.protection.fuses import least_ampacity_a
from spare_margin.core.sizing.craft_task import ceiling_prices, whole_craft_task
from spare_margin.core.sizing.options import costs, in_stock, strong_enough
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.sizes_tried import tried
from spare_margin.core.sizing.sizing import Unsizable, size_conductors
from spare_margin.core.sizing.task import Task, units_of
from spare_margin.data.tables import demo_files
from spare_margin.exchange.job_file.job_file import read_job
from tests.conftest import craft_of, job_document, load, piece, wire
from tests.trees import EVERY_LAW, PLAIN, TABLES, least_copper, tree


def by_value(*values: str) -> tuple[Size, ...]:
    return tuple(Size("mm2", value) for value in values)


def cheapest(task: Task) -> float | None:
    """The least cost of all combinations, each tried by itself; None where none holds."""
    units = units_of(task)
    best = None
    for choice in product(*(range(len(u.sizes)) for u in units)):
        cost = sum(u.costs[i] for u, i in zip(units, choice, strict=True))
        if best is not None and cost >= best:
            continue
        sizes = {w.id: u.sizes[i] for u, i in zip(units, choice, strict=True) for w in u.wires}
        if not tried(task, sizes).missed:
            best = cost
    return best


SOME = st.sets(st.sampled_from(["1.5", "2.5", "4", "6", "10", "16", "25"]), min_size=2, max_size=3)


def test_loads_in_series_are_sized_by_their_one_current() -> None:
    """Two lamps of 60 W at 6 V on 12 V: about 10 A once, not twice; the wire between is not sized."""
    lamp = {"behaviour": "filament", "power_w": 60.0, "rated_v": 6.0}
    document = job_document(
        [
            wire("a", "b+", "p+", length_m=3),
            load("l1", "p+", "m1", **lamp),
            wire("m", "m1", "m2", "return", length_m=1),
            load("l2", "m2", "p-", **lamp),
            wire("b", "p-", "b-", "return", length_m=3),
        ]
    )
    both = {"l1": Ceilings(0.3, 0.4), "l2": Ceilings(0.4, 0.3)}
    task = least_copper(craft_of(document), both, by_value("1.5", "2.5", "4", "6", "10"))
    sides = replace(task, options={key: task.options[key] for key in "ab"})
    for each in (task, sides):
        made = size_conductors(each)
        assert made.cost == pytest.approx(cheapest(each) or 0.0)
        assert made.trial.lost["l1"].feed_v <= 0.3
        assert made.trial.lost["l2"].return_v <= 0.3


@pytest.mark.slow
@settings(max_examples=15)
@given(seed=st.integers(0, 10**6), values=SOME, loads=st.integers(1, 2), tied=st.booleans())
def test_it_is_as_cheap_as_the_cheapest_of_all(
    seed: int, values: set[str], loads: int, tied: bool
) -> None:
    rng = random.Random(seed)
    craft, ceilings = tree(rng, 1, loads, EVERY_LAW, scenarios=rng.choice([1, 2]))
    task = least_copper(craft, ceilings, by_value(*sorted(values, key=float)))
    if tied:
        task = replace(task, tied=(frozenset({"w0", "w1"}),))
    best = cheapest(task)
    if best is None:
        with pytest.raises((Unsizable, JobError)):
            size_conductors(task)
        return
    made = size_conductors(task)
    assert made.proven
    assert made.cost == pytest.approx(best, rel=1e-12)
    assert not tried(task, made.sizes).missed
    assert not tied or made.sizes["w0"] == made.sizes["w1"]


@settings(max_examples=8)
@given(seed=st.integers(0, 10**6))
def test_a_looser_ceiling_never_takes_more_copper(seed: int) -> None:
    craft, ceilings = tree(random.Random(seed), 2, 4, times=1.5)
    try:
        tight = size_conductors(least_copper(craft, ceilings))
    except Unsizable:
        return
    looser = {key: c.scaled(1.3) for key, c in ceilings.items()}
    assert size_conductors(least_copper(craft, looser)).cost <= tight.cost + 1e-9


@settings(max_examples=8)
@given(seed=st.integers(0, 10**6), at=st.integers(0, 11))
def test_more_copper_never_leaves_less_spare(seed: int, at: int) -> None:
    craft, ceilings = tree(random.Random(seed), 2, 4, ("constant_current", "constant_power"))
    task = least_copper(craft, ceilings)
    sizes = {p.id: Size("mm2", "10") for p in craft.pieces if isinstance(p, Conductor)}
    thicker = {**sizes, sorted(sizes)[at]: Size("mm2", "25")}
    before, after = tried(task, sizes), tried(task, thicker)
    for held, spare in before.spares.items():
        assert after.spares[held] >= spare - 1e-9, held


def steady(key: str, amperes: float, end: str = "p-", **more: object) -> dict[str, object]:
    """A load between p+ and p- that holds its current."""
    return load(key, "p+", end, behaviour="constant_current", current_a=amperes, **more)


def one_run(metres: float = 5.0, amperes: float = 10.0, **more: object) -> Task:
    """Feed and return of a single load, 0.2 V a side; 12 V without resistance inside."""
    document = job_document(
        [
            wire("a", "b+", "p+", length_m=metres, insulation_c=105),
            wire("b", "p-", "b-", "return", length_m=metres, insulation_c=105),
            steady("l1", amperes, **more),
        ]
    )
    return least_copper(craft_of(document), {"l1": Ceilings(0.2, 0.2)})


def test_a_single_run_by_hand() -> None:
    """0.2 V at 10 A over 5 m allow 4 mohm a metre: 6 mm2 has 3.30, 4 mm2 has 4.95."""
    made = size_conductors(one_run(), second=True)
    assert {s.value for s in made.sizes.values()} == {"6"}
    assert made.cost == pytest.approx(60.0)
    assert made.trial.lost["l1"].feed_v == pytest.approx(10 * 5 * 3.30e-3)
    assert made.second is not None
    assert made.second[1] == pytest.approx(80.0)  # one of the two a size thicker


def test_what_it_bears_binds_too() -> None:
    """0.5 m at 40 A: the volts would let 2.5 mm2 pass, which bears 35 A; 4 mm2 bears 45 A."""
    task = one_run(metres=0.5, amperes=40.0)
    assert {s.value for s in size_conductors(task).sizes.values()} == {"4"}
    easy = size_conductors(replace(task, ampacity=False))
    assert {s.value for s in easy.sizes.values()} == {"2.5"}


def test_nothing_is_thick_enough() -> None:
    task = replace(one_run(), options=dict.fromkeys("ab", by_value("1.5", "2.5")))
    with pytest.raises(Unsizable) as none:
        size_conductors(task)
    worst = none.value.why[0]
    assert worst.held is not None
    assert (worst.held.load, worst.held.under) == ("l1", "feed")
    assert worst.by == pytest.approx(10 * 5 * 7.98e-3 - 0.2)
    assert worst.joints_v == 0.0


def test_nothing_bears_the_current() -> None:
    task = replace(one_run(0.1, 60.0), options=dict.fromkeys("ab", by_value("1.5", "2.5")))
    with pytest.raises(JobError, match="no size on offer bears"):
        size_conductors(task)


def test_the_least_volts_bind_while_another_motor_starts() -> None:
    """A winch of 60 A draws 240 A while it starts, through 4 m that a light needing 11.3 V shares."""
    document = job_document(
        [
            wire("a", "b+", "p+", length_m=2),
            wire("b", "p-", "b-", "return", length_m=2),
            steady("winch", 60, start_multiple=4, duty="short_time"),
            steady("light", 1, least_v=11.3),
        ]
    )
    document["sources"][0] |= {"internal_ohm": 0.001, "open_circuit_v": 12.7}
    craft = craft_of(document)
    task = least_copper(craft, {"winch": Ceilings(0.6, 0.6), "light": Ceilings()})
    running = size_conductors(task)
    starting = size_conductors(replace(task, least=True))
    assert starting.cost > running.cost
    held = next(h for h in starting.trial.spares if h.starting == "winch" and h.load == "light")
    spare = starting.trial.spares[held]
    # 12.7 - 241 (0.001 + 2 R) - 11.3, with R of 2 m of what was chosen
    ohm = 2 * TABLES.conductors.rows[starting.sizes["a"]].ohm_per_m
    other = 2 * TABLES.conductors.rows[starting.sizes["b"]].ohm_per_m
    assert spare == pytest.approx(12.7 - 241 * (0.001 + ohm + other) - 11.3, abs=1e-6)
    assert spare >= 0


def test_ways_side_by_side_are_tried_one_by_one() -> None:
    document = job_document(
        [
            wire("a", "b+", "p+", length_m=4),
            wire("b", "b+", "p+", length_m=4),
            wire("c", "p-", "b-", "return", length_m=4),
            steady("l1", 20),
        ]
    )
    sizes = by_value("2.5", "4", "6", "10")
    task = least_copper(craft_of(document), {"l1": Ceilings(0.3, 0.3)}, sizes)
    made = size_conductors(task)
    assert made.proven
    assert made.cost == pytest.approx(cheapest(task) or 0.0)


@pytest.mark.slow
def test_a_craft_of_sixty_conductors_is_proven_and_two_hundred_are_bounded() -> None:
    craft, ceilings = tree(random.Random(0), 10, 20, times=2.0)
    made = size_conductors(least_copper(craft, ceilings, PLAIN), Effort(3600.0))
    assert (len(made.sizes), made.proven, made.gap) == (60, True, 0.0)

    def until_one_is_there(best: float | None, bound: float) -> bool:
        assert best is None or bound <= best + 1e-6
        return best is None

    craft, ceilings = tree(random.Random(1), 40, 60, scenarios=2, times=6.0)
    large = size_conductors(least_copper(craft, ceilings), Effort(3600.0, until_one_is_there))
    assert len(large.sizes) == 200
    assert large.gap <= 0.2
    assert not large.trial.missed


WIRE = Conductor(
    id="w", start="a", end="b", side="feed", length_m=1.0, size=Size("mm2", "4"), insulation_c=105.0
)
AT_30 = Scenario(id="s", name="s", on=frozenset(), ambient_c=30.0)


@pytest.mark.parametrize(
    ("lies", "air_c", "amperes"),
    [
        ({}, 30.0, 45.0),
        ({"bundle": 4}, 30.0, 45 * 0.7),
        ({"bundle": 7}, 30.0, 45 * 0.6),
        ({"bundle": 30}, 30.0, 45 * 0.5),
        ({"engine_space": True}, 30.0, 45 * 0.85),
        ({}, 60.0, 45 * math.sqrt(45 / 75)),
        ({"engine_space": True, "bundle": 5}, 30.0, 45 * 0.85 * 0.7),
        ({"engine_space": True, "insulation_c": 70.0}, 30.0, 35 * math.sqrt(20 / 40)),
    ],
)
def test_what_a_conductor_bears_where_it_lies(
    lies: dict[str, object], air_c: float, amperes: float
) -> None:
    laid = replace(WIRE, **lies)  # type: ignore[arg-type]
    borne = corrected_ampacity_a(laid, replace(AT_30, ambient_c=air_c), TABLES.conductors)
    assert borne == pytest.approx(amperes)


def test_an_engine_space_whose_air_is_known_is_as_warm_as_that() -> None:
    hot = replace(AT_30, engine_c=60.0)
    borne = corrected_ampacity_a(replace(WIRE, engine_space=True), hot, TABLES.conductors)
    assert borne == pytest.approx(45 * math.sqrt(45 / 75))
    assert least_ampacity_a(replace(WIRE, engine_space=True), [AT_30, hot], TABLES) == borne
    assert bundle_share(3) == 1.0


def test_sizes_that_are_strong_enough() -> None:
    thin = replace(WIRE, size=Size("mm2", "0.5"))
    offered = in_stock(thin, TABLES)
    assert "0.5" not in {
        s.value for s in offered
    }  # the table has it, the workshop does not keep it
    free = strong_enough(replace(thin, unsupported=True), offered, TABLES, [AT_30], None)
    assert free[0].value == "1.5"
    assert strong_enough(thin, offered, TABLES, [AT_30], None)[0].value == "0.75"
    assert strong_enough(thin, offered, TABLES, [AT_30], 30.0)[0].value == "2.5"
    with pytest.raises(JobError, match="bears what its fuse of 900 A lets through"):
        strong_enough(thin, offered, TABLES, [AT_30], 900.0)
    with pytest.raises(JobError, match="nothing in stock"):
        strong_enough(thin, (), TABLES, [AT_30], None)
    with pytest.raises(JobError, match="as thick as"):
        strong_enough(thin, by_value("0.5"), TABLES, [AT_30], None)


def test_prices_are_wanted_only_where_they_count() -> None:
    wire_rows = {**TABLES.stock.wire, Size("mm2", "4"): None}
    unpriced = replace(TABLES, stock=replace(TABLES.stock, wire=wire_rows))
    assert costs("copper", unpriced)[Size("mm2", "4")] == 4.0
    with pytest.raises(JobError, match="has no price"):
        costs("price", unpriced)
    assert costs("price", TABLES)[Size("mm2", "4")] == pytest.approx(1.3)


def test_a_cable_of_no_common_size_is_refused() -> None:
    task = replace(
        one_run(), options={"a": by_value("1.5"), "b": by_value("2.5")},
        tied=(frozenset("ab"),),
    )  # fmt: skip
    with pytest.raises(JobError, match="no size at all"):
        size_conductors(task)


def test_nothing_to_size_is_said_to_hold_or_not() -> None:
    craft = craft_of(job_document([piece("j", "b+", "p+"), steady("l1", 5, end="b-")]))
    bare = least_copper(craft, {"l1": Ceilings(0.2, 0.2)})
    assert size_conductors(bare).cost == 0.0
    with pytest.raises(Unsizable):
        size_conductors(replace(bare, ceilings={"l1": Ceilings(1e-6, 0.2)}))


def barge() -> tuple[Craft, Limits]:
    read = read_job(dict(demo_files())["4-barge-orrin"])
    return read.craft, Limits(TABLES.limit_sets[read.job.limit_set], read.job.own_limits)


def test_a_whole_craft_is_sized_and_what_is_kept_stays() -> None:
    craft, limits = barge()
    task = whole_craft_task(craft, limits, TABLES, "copper")
    one = next(w.id for w in task.wires())
    kept = whole_craft_task(craft, limits, TABLES, "copper", frozenset({one}))
    assert kept.options.keys() == task.options.keys() - {one}
    rows = TABLES.conductors.rows
    for key, sizes in task.options.items():
        assert all(rows[s].area_mm2 >= 0.75 for s in sizes), key
    grown = whole_craft_task(craft, limits, TABLES, "copper", thicker_only=True)
    for each in grown.wires():
        assert each.size is not None
        least = rows[each.size].area_mm2
        assert all(rows[s].area_mm2 >= least for s in grown.options[each.id])


def test_what_a_ceiling_costs_by_hand() -> None:
    """6 mm2 loses 0.165 V of 0.2; with a ceiling of 0.25, 4 mm2 (0.2475) would do for 10 m mm2 less a wire.

    A hundredth of a volt more under 0.2 V changes nothing: no price.
    """
    task = one_run()
    made = size_conductors(task)
    assert ceiling_prices(task, made, Effort(5.0)) == []
    tight = replace(task, ceilings={"l1": Ceilings(0.24, 0.17)})
    sized = size_conductors(tight)
    prices = ceiling_prices(tight, sized, Effort(5.0))
    assert [(p.held.under, p.saves) for p in prices] == [("return", 0.0)]
    nearer = replace(task, ceilings={"l1": Ceilings(0.5, 0.24)}, options={
        "a": by_value("6"), "b": by_value("2.5", "4", "6"),
    })  # fmt: skip
    sized = size_conductors(nearer)
    assert sized.sizes["b"].value == "6"
    assert ceiling_prices(nearer, replace(sized, trial=replace(sized.trial, spares={
        next(h for h in sized.trial.spares if h.under == "return"): 0.01,
    })), Effort(5.0))[0].saves == pytest.approx(10.0)  # fmt: skip


def test_a_source_that_is_too_low_by_itself_is_no_fault_of_the_wires() -> None:
    document = job_document(
        [
            wire("a", "b+", "p+", length_m=1),
            wire("b", "p-", "b-", "return", length_m=1),
            steady("l1", 5, least_v=11.0),
        ]
    )
    document["sources"][0] |= {"open_circuit_v": 9.6}
    task = replace(least_copper(craft_of(document), {"l1": Ceilings(0.5, 0.5)}), least=True)
    assert size_conductors(task).proven


def test_a_sizing_that_is_stopped_gives_what_held_so_far() -> None:
    craft, ceilings = tree(random.Random(7), 2, 4, ("constant_power",), times=2.0)
    told: list[tuple[float | None, float]] = []

    def until_one_held(best: float | None, bound: float) -> bool:
        told.append((best, bound))
        return best is None

    made = size_conductors(
        least_copper(craft, ceilings), Effort(3600.0, until_one_held), second=True
    )
    assert not made.trial.missed
    assert made.second is None
    assert told[-1][0] == pytest.approx(made.cost)
