"""Every shipped limit set against hand-worked cases, and what all sets have in common."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.budget.run_budget import RunBudget, RunBudgets, spend
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.runs import Tracer
from spare_margin.core.model.limits import Ceilings, LimitRule, Limits, LimitSet
from spare_margin.core.model.pieces import Duty, Load
from spare_margin.data.tables import shipped_tables
from tests.conftest import craft_of, job_document, load, piece, wire

TABLES = shipped_tables()
SETS = TABLES.limit_sets
DUTIES: list[Duty] = ["control_supply", "charging", "ordinary", "short_time"]


def a_load(duty: Duty = "ordinary", critical: bool = False) -> Load:
    return Load(
        id="l", start="a", end="b", name="Load", behaviour="constant_current", current_a=1.0,
        duty=duty, critical=critical,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("limit_set", "duty", "critical", "feed", "back", "both"),
    [
        ("by-duty", "control_supply", False, 0.10, 0.05, None),
        ("by-duty", "charging", False, 0.20, 0.20, None),
        ("by-duty", "ordinary", False, 0.50, 0.25, None),
        ("by-duty", "ordinary", True, 0.50, 0.25, None),
        ("by-duty", "short_time", False, 0.50, 0.25, None),
        ("half-volt", "control_supply", True, 0.50, 0.50, None),
        ("half-volt", "short_time", False, 0.50, 0.50, None),
        ("tight-side", "ordinary", False, 0.20, 0.20, None),
        ("tight-side", "charging", True, 0.20, 0.20, None),
        ("percent", "ordinary", True, None, None, 0.36),
        ("percent", "ordinary", False, None, None, 1.20),
        ("percent", "short_time", True, None, None, 0.36),
        ("load-share", "ordinary", False, None, None, 0.50),
    ],
)
@pytest.mark.parametrize("nominal", [12.0, 24.0, 48.0])
def test_ceilings(
    limit_set: str,
    duty: Duty,
    critical: bool,
    feed: float | None,
    back: float | None,
    both: float | None,
    nominal: float,
) -> None:
    found = SETS[limit_set].ceilings(a_load(duty, critical), nominal)
    times = nominal / 12
    wanted = [None if v is None else pytest.approx(v * times) for v in (feed, back, both)]
    assert [found.feed_v, found.return_v, found.round_trip_v] == wanted


@pytest.mark.parametrize(
    ("limit_set", "kind", "at_12"),
    [
        ("by-duty", "joint", 0.10), ("by-duty", "fuse", 0.10), ("by-duty", "switch", 0.10),
        ("half-volt", "joint", 0.10), ("half-volt", "fuse", 0.20), ("half-volt", "breaker", 0.20),
        ("half-volt", "switch", 0.20), ("half-volt", "relay_contact", 0.20),
        ("half-volt", "body_return", None), ("tight-side", "joint", 0.10),
        ("tight-side", "fuse", None), ("percent", "joint", None), ("load-share", "joint", None),
    ],
)  # fmt: skip
def test_single_pieces(limit_set: str, kind: str, at_12: float | None) -> None:
    for nominal in (12.0, 24.0, 48.0):
        found = SETS[limit_set].single_ceiling_v(kind, nominal)
        assert found == (None if at_12 is None else pytest.approx(at_12 * nominal / 12))


def loop_budget(
    limit_set: str, duty: Duty = "ordinary", critical: bool = False, own: Ceilings | None = None
) -> RunBudget:
    """Five amperes: 20 mohm of wire and a 4 mohm joint out, 30 mohm of wire and 6 mohm back."""
    document = job_document(
        [
            wire("w", "b+", "a", length_m=5, size=None, ohm_per_m=0.004),
            piece("j", "a", "l+", resistance_ohm=0.004),
            load("l", duty=duty, critical=critical),
            piece("jr", "l-", "c", "return", resistance_ohm=0.006),
            wire("wr", "c", "b-", "return", length_m=5, size=None, ohm_per_m=0.006),
        ]
    )
    for element in document["elements"]:
        if element.get("size") is None:
            element.pop("size", None)
    craft = craft_of(document)
    limits = Limits(SETS[limit_set], {} if own is None else {"l": own})
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    return RunBudgets(craft, runs, solve(craft, craft.scenario(), TABLES), limits, TABLES)["l"]


@pytest.mark.parametrize(
    ("limit_set", "duty", "critical", "spare", "under"),
    [
        # 5 A: the feed drops 0.120 V, the return 0.180 V, both 0.300 V.
        ("by-duty", "ordinary", False, 0.25 - 0.18, "return"),
        ("by-duty", "control_supply", False, 0.05 - 0.18, "return"),
        ("by-duty", "charging", False, 0.20 - 0.18, "return"),
        ("half-volt", "ordinary", False, 0.50 - 0.18, "return"),
        ("tight-side", "ordinary", False, 0.20 - 0.18, "return"),
        ("percent", "ordinary", True, 0.36 - 0.30, "round_trip"),
        ("percent", "ordinary", False, 1.20 - 0.30, "round_trip"),
        ("load-share", "ordinary", False, 0.50 - 0.30, "round_trip"),
    ],
)
def test_spare_of_one_loop_under_each_set(
    limit_set: str, duty: Duty, critical: bool, spare: float, under: str
) -> None:
    budget = loop_budget(limit_set, duty, critical)
    spares = budget.spares()
    assert min(spares, key=lambda k: spares[k]) == under
    assert budget.spare_v == pytest.approx(spare)


def test_allowances_under_a_round_trip_by_hand() -> None:
    # 0.50 V for both. Joints without a style are like a pin: aged 10 mohm x 5 A = 50 mV each.
    budget = loop_budget("load-share")
    allowed = {p.step.piece.id: p.allowance.volts for s in budget.sides for p in s.pieces}
    assert [allowed["j"], allowed["jr"]] == pytest.approx([0.05, 0.05])
    # The rest by length x root current: two wires of 5 m alike.
    assert [allowed["w"], allowed["wr"]] == pytest.approx([0.20, 0.20])


def test_ceilings_of_the_jobs_own_rule_over_those_of_the_set() -> None:
    budget = loop_budget("by-duty", own=Ceilings(round_trip_v=0.31))
    assert (budget.ceilings.feed_v, budget.ceilings.round_trip_v) == (0.50, 0.31)
    assert budget.spare_v == pytest.approx(0.01)


def test_the_most_particular_rule_counts() -> None:
    def rule(duty: Duty | None, critical: bool | None, feed: float) -> LimitRule:
        return LimitRule(duty, critical, Ceilings(feed, feed))

    ours = LimitSet(
        "ours", "Ours", "", (rule(None, None, 0.5), rule(None, True, 0.3), rule("charging", None, 0.2),
                             rule("charging", True, 0.1)), {},
    )  # fmt: skip
    assert ours.ceilings(a_load(), 12).feed_v == 0.5
    assert ours.ceilings(a_load(critical=True), 12).feed_v == 0.3
    assert ours.ceilings(a_load("charging"), 12).feed_v == 0.2
    assert ours.ceilings(a_load("charging", critical=True), 12).feed_v == 0.1
    none = replace(ours, rules=(rule("charging", None, 0.2),))
    assert none.ceilings(a_load(), 12) == Ceilings()


@pytest.mark.parametrize("limit_set", list(SETS))
@pytest.mark.parametrize("duty", DUTIES)
@pytest.mark.parametrize("critical", [True, False])
def test_every_shipped_set_bounds_every_loop(limit_set: str, duty: Duty, critical: bool) -> None:
    found = SETS[limit_set].ceilings(a_load(duty, critical), 12)
    assert found.round_trip_v or (found.feed_v and found.return_v)
    assert SETS[limit_set].why, "each says who keeps it, and why"


@given(
    st.sampled_from(sorted(SETS)),
    st.lists(st.floats(0.05, 30), min_size=1, max_size=4),
    st.floats(0.1, 20),
    st.sampled_from(["0.75", "1.5", "2.5", "6", "16"]),
)
def test_allowances_keep_every_ceiling(
    limit_set: str, lengths: list[float], amps: float, size: str
) -> None:
    """Whatever the loop, what is allowed adds up to no more than what may be lost."""
    elements = []
    at = "b+"
    for i, length in enumerate(lengths):
        elements.append(wire(f"w{i}", at, f"p{i}", length_m=length, mm2=size))
        at = f"p{i}"
    elements += [
        piece("f", at, "l+", kind="fuse", rating_a=30),
        load("l", behaviour="constant_current", current_a=amps),
        wire("r", "l-", "q", "return", length_m=sum(lengths), mm2=size),
        piece("j", "q", "b-", "return", style="ring on stud"),
    ]
    craft = craft_of(job_document(elements))
    limits = Limits(SETS[limit_set], {})
    runs = {"l": Tracer(craft, {}).trace(craft.load("l"))}
    solution = solve(craft, craft.scenario(), TABLES)
    budget = RunBudgets(craft, runs, solution, limits, TABLES)["l"]
    sums = [sum(p.allowance.volts for p in side.pieces) for side in budget.sides]
    for total, ceiling in zip(
        sums, (budget.ceilings.feed_v, budget.ceilings.return_v), strict=True
    ):
        assert ceiling is None or total <= ceiling * (1 + 1e-9)
    both = budget.ceilings.round_trip_v
    assert both is None or sum(sums) <= both * (1 + 1e-9)
    for side in budget.sides:
        for p in side.pieces:
            single = limits.single_ceiling_v(p.step.piece.kind, 12)
            is_wire = p.step.piece.id[0] in "wr"
            assert is_wire or single is None or p.allowance.volts <= single * (1 + 1e-9)
    for side in budget.sides:
        copper = [p.allowance.volts for p in side.pieces if p.allowance.rule == "copper"]
        assert bool(side.eaten_by) == (bool(copper) and max(copper) == 0)
    told = spend(craft, runs["l"], solution, limits)
    assert budget.spare_v == pytest.approx(told.spare_v)
    assert budget.spares() == pytest.approx(told.spares())
