"""The table of faults by low-rank updates against full solves of the same faults."""

import math
from typing import Any

import numpy as np
import pytest

from spare_margin.core.errors import NoSolution
from spare_margin.core.faults import FaultTable, fault_table
from spare_margin.core.network import Network, solve
from spare_margin.core.pieces import Craft
from spare_margin.data.shelves import demo_files, shipped_tables
from spare_margin.exchange.job_file import read_job
from tests.conftest import craft_of, job_document, load, loop, piece, wire

TABLES = shipped_tables()


def parallel() -> dict[str, Any]:
    """Two loads, a shared feed, two returns side by side, a load that holds its power."""
    return job_document(
        [
            wire("main", "b+", "p", mm2="6", length_m=2),
            wire("w1", "p", "a+", length_m=4),
            load("a", "a+", "a-"),
            wire("r1", "a-", "bus", "return", length_m=4),
            piece("sw", "p", "q", kind="switch", style="panel switch"),
            wire("w2", "q", "c+", length_m=3),
            load("c", "c+", "c-", behaviour="constant_power", power_w=30.0),
            wire("r2", "c-", "bus", "return", length_m=3),
            piece("s1", "bus", "b-", "return", resistance_ohm=0.02),
            wire("s2", "bus", "b-", "return", length_m=1.0),
        ]
    )


def table_of(craft: Craft, scenario: str | None = None) -> tuple[FaultTable, Network]:
    network = Network(craft, craft.scenario(scenario), TABLES)
    network.solve()
    ids = [e.id for e in (*craft.pieces, *craft.loads, *craft.sources)]
    return fault_table(network, ids), network


@pytest.mark.parametrize("document", [loop(), parallel()], ids=["loop", "parallel"])
def test_every_excess_is_what_a_full_solve_gives(document: dict[str, Any]) -> None:
    craft = craft_of(document)
    table, network = table_of(craft)
    base = network.solve()
    names = list(table.points)
    checked = 0
    for fault, shown in zip(table.faults, table.volts, strict=True):
        if fault.kind != "excess_resistance" or fault.element not in base.elements:
            continue
        ohm = (base.elements[fault.element].resistance_ohm or 0.0) + fault.ohm
        try:
            full = solve(craft, craft.scenario(), TABLES, resistances={fault.element: ohm})
        except NoSolution:
            continue  # the load has stalled: there it rests in its knee
        wanted = [full.nodes[p] or 0.0 for p in names]
        assert shown == pytest.approx(wanted, abs=2e-5), fault
        checked += 1
    assert checked > 100


@pytest.mark.parametrize("document", [loop(), parallel()], ids=["loop", "parallel"])
def test_open_pieces(document: dict[str, Any]) -> None:
    craft = craft_of(document)
    table, _ = table_of(craft)
    opened = {
        f.element: row for f, row in zip(table.faults, table.volts, strict=True) if f.kind == "open"
    }
    for key, row in opened.items():
        full = solve(craft, craft.scenario(), TABLES, resistances={str(key): math.inf})
        for point, i in table.points.items():
            assert row[i] == pytest.approx(full.nodes[point] or 0.0, abs=2e-3), (key, point)


def test_none_is_the_solution_itself_in_the_demo_jobs() -> None:
    for _, raw in demo_files():
        craft = read_job(raw).craft
        for scenario in craft.scenarios:
            table, network = table_of(craft, scenario.id)
            nodes = network.solve().nodes
            assert table.faults[0].kind == "none"
            shown = [table.volts[0][i] for i in table.points.values()]
            assert shown == pytest.approx([nodes[p] or 0.0 for p in table.points], abs=1e-6)


def test_a_load_that_draws_nothing_lifts_its_terminals() -> None:
    craft = craft_of(loop())
    table, _ = table_of(craft)
    at = next(i for i, f in enumerate(table.faults) if f.kind == "load" and f.times == 0.0)
    assert table.drop("l+", "l-")[at] == pytest.approx(12.6, abs=1e-5)
    assert table.currents[at] == pytest.approx([0.0], abs=1e-6)


def test_a_weak_source_takes_the_volts_itself() -> None:
    craft = craft_of(loop())
    table, _ = table_of(craft)
    weak = [i for i, f in enumerate(table.faults) if f.element == "s"]
    assert weak
    assert all(table.faults[i].kind == "excess_resistance" for i in weak)
    posts, load_v = table.drop("b+", "b-")[weak], table.drop("l+", "l-")[weak]
    assert np.all(np.diff(posts) < 0)
    some = posts > 5
    assert (posts - load_v)[some] == pytest.approx((posts - load_v)[0], abs=1e-6)
