"""Requests made up from the API's own description: no mistake of the program, every answer as described.

A short run is part of `make test`; `make fuzz` makes up more.
"""

import os
import tempfile
from pathlib import Path
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_headers_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.web.app import create_app

EXAMPLES = int(os.environ.get("FUZZ", "0"))
"""How many requests are made up for each address; 0: the short run."""
JOBS = ("demo-1-sloop-marram", "demo-3-show-truck-dunlin", "demo-4-barge-orrin", "none")
KNOWN: dict[str, tuple[str, ...]] = {
    "job": JOBS, "run": ("tap", "radio", "none"), "table": ("limit_sets", "conductors"),
    "stage": ("as_found", "planned", "as_left"), "scenario": ("rested", "on"),
    "quantity": ("volts", "amperes"), "red": ("live",), "black": ("back",),
}  # fmt: skip
"""What there is, so that not every request ends at the door."""
CHECKS = [
    not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance,
    response_headers_conformance,
]  # fmt: skip

_folder = tempfile.TemporaryDirectory(prefix="spare-margin-fuzz-")
_database = Path(_folder.name) / "jobs.sqlite3"
fill_with_demo(_database)
# What asks an address for a meter would ask other machines.
schema = schemathesis.openapi.from_wsgi("/api/v1/openapi.json", create_app(_database)).exclude(
    method="POST", path_regex=r"/meters(/test)?$"
)


def _of_what_there_is(said: dict[str, Any]) -> dict[str, Any]:
    out = dict(said)
    for key, values in KNOWN.items():
        if key in out and len(str(out[key])) % 4:
            out[key] = values[len(str(out[key])) % len(values)]
    return out


@schema.parametrize()
@settings(
    max_examples=EXAMPLES or 3,
    deadline=None,
    derandomize=not EXAMPLES,
    # The explicit ones are the description's edges, thousands of them.
    phases=[*([Phase.explicit] if EXAMPLES else []), Phase.generate],
    suppress_health_check=list(HealthCheck),
)
def test_any_request_is_answered_as_described(case: schemathesis.Case) -> None:
    if case.path_parameters:
        case.path_parameters = _of_what_there_is(case.path_parameters)
    if case.query:
        case.query = _of_what_there_is(case.query)
    case.call_and_validate(checks=CHECKS)
