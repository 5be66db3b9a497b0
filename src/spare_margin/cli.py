"""The command line: solve a job file, serve the application. No rules of its own."""

import json
import sys
from pathlib import Path
from typing import Any, NoReturn

import click

from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.network import Solution, solve
from spare_margin.data.shelves import shipped_tables
from spare_margin.exchange.job_file import JobFileErrors, ReadJob, read_job

BAD_JOB, NO_SOLUTION = 2, 3


@click.group()
@click.version_option(package_name="spare-margin")
def main() -> None:
    """Volts budgeted, measured and proven, piece by piece."""


def _stop(code: int, line: str) -> NoReturn:
    click.echo(line, err=True)
    sys.exit(code)


def _read(path: Path) -> ReadJob:
    try:
        return read_job(path.read_bytes(), shipped_tables())
    except OSError as trouble:
        _stop(BAD_JOB, f"{path}: {trouble.strerror or trouble}")
    except JobFileErrors as errors:
        _stop(BAD_JOB, f"{path}: {errors}")


def _print(document: dict[str, Any], out: Path | None) -> None:
    text = json.dumps(document, indent=1, allow_nan=False)
    if out is None:
        click.echo(text)
        return
    try:
        out.write_text(text + "\n", encoding="utf-8")
    except OSError as trouble:
        _stop(BAD_JOB, f"{out}: {trouble.strerror or trouble}")


@main.command("solve")
@click.argument("job", type=click.Path(path_type=Path))
@click.option("--scenario", metavar="ID", help="The scenario; the job's first by default.")
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def solve_command(job: Path, scenario: str | None, out: Path | None) -> None:
    """Print every voltage and current of JOB, a job file."""
    craft = _read(job).craft
    try:
        chosen = craft.scenario(scenario)
    except KeyError:
        known = ", ".join(s.id for s in craft.scenarios)
        _stop(BAD_JOB, f"{job}: scenarios: there is no {scenario}; accepted: {known}")
    try:
        solution = solve(craft, chosen, shipped_tables())
    except JobError as trouble:
        _stop(BAD_JOB, f"{job}: {trouble}")
    except NoSolution as trouble:
        _stop(NO_SOLUTION, f"{job}: {trouble}")
    _print(solution_document(solution), out)


def solution_document(solution: Solution) -> dict[str, Any]:
    """A solution as the open format spare-margin-solution, version 1."""
    return {
        "format": "spare-margin-solution",
        "version": 1,
        "scenario": solution.scenario,
        "converged": True,
        "nodes": solution.nodes,
        "elements": {
            key: {
                "current_a": e.current_a,
                "drop_v": e.drop_v,
                "power_w": e.power_w,
                "resistance_ohm": e.resistance_ohm,
                "temperature_c": e.temperature_c,
            }
            for key, e in solution.elements.items()
        },
    }
