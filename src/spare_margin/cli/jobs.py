"""The commands over one job file: solve, diagnose, judge, size. No rules of their own."""

import json
from pathlib import Path
from typing import Any

import click

from spare_margin.cli.common import stop
from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.solution import Solution
from spare_margin.core.errors import JobError, NoSolution
from spare_margin.core.model.jobs import STAGES, Stage
from spare_margin.core.model.pieces import Craft, Scenario
from spare_margin.core.model.tables import Tables
from spare_margin.core.sizing.programme import Effort
from spare_margin.core.sizing.sizing import Unsizable
from spare_margin.data.tables import tables_with
from spare_margin.exchange.job_file.container import Container
from spare_margin.exchange.job_file.job_file import JobFileErrors, ReadJob, read_job
from spare_margin.exchange.judgement import (
    diagnosis_document,
    judgement_document,
    planned_document,
)
from spare_margin.exchange.sizing_file import sizing_document
from spare_margin.exchange.tables.readings_csv import read_readings
from spare_margin.service.job.judging import Judging, diagnose, judging_of, planned_by
from spare_margin.service.upgrade.sizing_task import FileSizing, Objective
from spare_margin.wording.repair.sizing_words import impossible_words

BAD_JOB, NO_SOLUTION, IMPOSSIBLE = 2, 3, 4


def _read(path: Path, *, to_size: bool = False) -> ReadJob:
    try:
        with path.open("rb") as file:
            return read_job(Container(file).text, to_size=to_size)
    except OSError as trouble:
        stop(BAD_JOB, f"{path}: {trouble.strerror or trouble}")
    except JobFileErrors as errors:
        stop(BAD_JOB, f"{path}: {errors}")


def _print(document: dict[str, Any], out: Path | None) -> None:
    text = json.dumps(document, indent=1, allow_nan=False)
    if out is None:
        click.echo(text)
        return
    try:
        out.write_text(text + "\n", encoding="utf-8")
    except OSError as trouble:
        stop(BAD_JOB, f"{out}: {trouble.strerror or trouble}")


def _scenario(job: Path, craft: Craft, scenario: str | None) -> Scenario:
    try:
        return craft.scenario(scenario)
    except KeyError:
        known = ", ".join(s.id for s in craft.scenarios)
        stop(BAD_JOB, f"{job}: scenarios: there is no {scenario}; accepted: {known}")


@click.command("solve")
@click.argument("job", type=click.Path(path_type=Path))
@click.option("--scenario", metavar="ID", help="The scenario; the job's first by default.")
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def solve_command(job: Path, scenario: str | None, out: Path | None) -> None:
    """Print every voltage and current of JOB, a job file."""
    read = _read(job)
    chosen = _scenario(job, read.craft, scenario)
    try:
        solution = solve(read.craft, chosen, tables_with(read.rows))
    except JobError as trouble:
        stop(BAD_JOB, f"{job}: {trouble}")
    except NoSolution as trouble:
        stop(NO_SOLUTION, f"{job}: {trouble}")
    _print(solution_document(solution), out)


@click.command("diagnose")
@click.argument("job", type=click.Path(path_type=Path))
@click.argument("readings", type=click.Path(path_type=Path))
@click.option("--scenario", metavar="ID", help="What was on; the job's first scenario by default.")
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def diagnose_command(job: Path, readings: Path, scenario: str | None, out: Path | None) -> None:
    """Print which faults READINGS, a CSV file, make likely on JOB, and what to read next."""
    read = _read(job)
    craft = read.craft
    chosen = _scenario(job, craft, scenario)
    try:
        seen = read_readings(readings.read_bytes(), {p.id for p in craft.points}, chosen.id)
    except OSError as trouble:
        stop(BAD_JOB, f"{readings}: {trouble.strerror or trouble}")
    except JobError as trouble:
        stop(BAD_JOB, f"{readings}: {trouble}")
    try:
        found = diagnose(craft, chosen, seen, tables_with(read.rows))
    except (JobError, NoSolution) as trouble:
        stop(BAD_JOB, f"{job}: {trouble}")
    _print(diagnosis_document(found), out)


def _planned(read: ReadJob, plan: Judging, run_id: str | None, tables: Tables) -> dict[str, Any]:
    """The plan with what was measured as found. KeyError where there is no such run in both."""
    found = judging_of(read, "as_found", tables)
    if found is None:
        raise KeyError("as_found")
    made = planned_by(found, plan, run_id or found.most_read())
    if made is None:
        return judgement_document(plan.judge(run_id or plan.most_read()), "planned")
    return planned_document(*made)


@click.command("judge")
@click.argument("job", type=click.Path(path_type=Path))
@click.option("--run", "run_id", metavar="LOAD", help="The run; the one most read by default.")
@click.option(
    "--stage",
    type=click.Choice(STAGES),
    default="as_found",
    show_default=True,
    help="Which wiring: as found, as planned, as left.",
)
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def judge_command(job: Path, run_id: str | None, stage: Stage, out: Path | None) -> None:
    """Print what the readings of JOB say of one run."""
    read = _read(job)
    tables = tables_with(read.rows)
    judging = judging_of(read, stage, tables)
    if judging is None:
        stop(BAD_JOB, f"{job}: revisions: there is no wiring {stage}; accepted: as_found")
    try:
        if stage == "planned":
            _print(_planned(read, judging, run_id, tables), out)
            return
        found = judging.judge(run_id or judging.most_read())
    except KeyError:
        known = ", ".join(judging.runs) or "a craft with a load whose loop closes"
        stop(BAD_JOB, f"{job}: run: there is no {run_id or 'run'}; accepted: {known}")
    except JobError as trouble:
        stop(BAD_JOB, f"{job}: {trouble}")
    except NoSolution as trouble:
        stop(NO_SOLUTION, f"{job}: {trouble}")
    _print(judgement_document(found, stage), out)


@click.command("size")
@click.argument("job", type=click.Path(path_type=Path))
@click.option(
    "--objective",
    type=click.Choice(["copper", "price"]),
    default="copper",
    show_default=True,
    help="What is to be least: length x area, or the price of the wire.",
)
@click.option(
    "--least-volts",
    is_flag=True,
    help="Also keep each load's minimum voltage, including while motors start.",
)
@click.option(
    "--seconds",
    type=click.FloatRange(0.1, 3600),
    default=60.0,
    show_default=True,
    help="How long to look for the best before the best so far is given, with its gap.",
)
@click.option(
    "--anyway",
    is_flag=True,
    help="Where no sizes keep a limit, take the thickest wire there and keep all others.",
)
@click.option("--out", type=click.Path(path_type=Path), help="Write here instead of printing.")
def size_command(
    job: Path,
    objective: Objective,
    least_volts: bool,
    seconds: float,
    anyway: bool,
    out: Path | None,
) -> None:
    """Print the sizes that meet every limit at the least copper or price.

    They are for the wires of JOB that have no size, or "auto"; fuses without a rating, or with "auto", are
    rated first. What forces each wire is said beside it.
    """
    read = _read(job, to_size=True)
    tables = tables_with(read.rows)
    try:
        found = FileSizing(read, tables, objective, least_volts).sized(Effort(seconds), anyway)
    except Unsizable as none:
        stop(IMPOSSIBLE, f"{job}: {impossible_words(none.why[0], read.craft)}")
    except JobError as trouble:
        code = IMPOSSIBLE if trouble.path.endswith(".size") else BAD_JOB
        stop(code, f"{job}: {trouble}")
    except NoSolution as trouble:
        stop(NO_SOLUTION, f"{job}: {trouble}")
    sized = found.sized
    _print(sizing_document(sized.made, sized.fuses, found.reasons, found.missed), out)


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
