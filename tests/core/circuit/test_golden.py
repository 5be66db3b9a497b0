"""Every example against the values that a general-purpose circuit simulator gives for it."""

import json

import pytest

from spare_margin.core.circuit.network import solve
from spare_margin.core.model.tables import Tables
from spare_margin.exchange.job_file.job_file import read_job
from tests.conftest import EXAMPLES

CASES = [
    (path.stem, scenario)
    for path in sorted(EXAMPLES.glob("*.json"))
    for scenario in json.loads((EXAMPLES / "expected" / path.name).read_text())
]


@pytest.mark.parametrize(("name", "scenario"), CASES)
def test_every_node_within_2_microvolts(name: str, scenario: str, tables: Tables) -> None:
    craft = read_job((EXAMPLES / f"{name}.json").read_bytes()).craft
    expected = json.loads((EXAMPLES / "expected" / f"{name}.json").read_text())[scenario]
    solution = solve(craft, craft.scenario(scenario), tables)
    assert set(solution.nodes) == set(expected["nodes"])
    for node, volts in expected["nodes"].items():
        assert solution.nodes[node] == pytest.approx(volts, abs=2e-6), node
    for element, state in expected["elements"].items():
        found = solution.elements[element]
        assert found.current_a == pytest.approx(state["current_a"], abs=1e-6), element
        assert found.drop_v == pytest.approx(state["drop_v"], abs=2e-6), element
