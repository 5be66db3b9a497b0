"""The command that serves a stand-in meter: SCPI on a socket and on a pseudo-terminal, and its page."""

import math
from pathlib import Path
from typing import TYPE_CHECKING

import click

from spare_margin.cli.common import stop, stopped_by_signals
from spare_margin.core.errors import JobError
from spare_margin.data.tables import demo_files, shipped_tables
from spare_margin.exchange.job_file.job_file import JobFileErrors, read_job

if TYPE_CHECKING:
    from spare_margin.instruments.stand_in.meter import StandInMeter

BAD_JOB = 2
PORT, PAGE_PORT = 5025, 5026
DEMO = "tap", "evening", {"tap-ring": 0.078}
"""Of the first demo job: the run that is read, its state, and the fault that its readings show."""


@click.command("stand-in")
@click.argument("job", required=False, type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--run", help="The id of the load whose run is read; by default the first.")
@click.option("--scenario", help="The id of its state; by default the first in which it is on.")
@click.option(
    "--fault", multiple=True, metavar="PIECE=OHM", help="Ohms on top of a piece, or open."
)
@click.option(
    "--port", type=click.IntRange(0, 65535), default=PORT, show_default=True,
    help="Where it answers SCPI on 127.0.0.1.",
)  # fmt: skip
@click.option(
    "--page-port", type=click.IntRange(0, 65535), default=PAGE_PORT, show_default=True,
    help="Where its page is.",
)  # fmt: skip
def stand_in_command(
    job: Path | None,
    run: str | None,
    scenario: str | None,
    fault: tuple[str, ...],
    port: int,
    page_port: int,
) -> None:
    """Serve a simulated meter that reads a craft: the first demo job, or one in a job file."""
    from spare_margin.instruments.stand_in.served import StandIn  # noqa: PLC0415

    try:
        meter = demo_meter() if job is None else _meter(job, run, scenario, _faults(fault))
    except (JobError, JobFileErrors) as trouble:
        stop(BAD_JOB, str(trouble))
    made = StandIn(meter, port, page_port)
    where = f"127.0.0.1:{made.server.port}"
    more = f" and at {made.server.terminal}" if made.server.terminal else ""
    click.echo(f"The stand-in answers SCPI at {where}{more}.")
    click.echo(f"Its leads are laid at http://127.0.0.1:{made.page.port}/ (stop it with Ctrl C)")
    stopped = stopped_by_signals()
    while not stopped.wait(0.5):
        pass
    made.close()


def demo_meter() -> "StandInMeter":
    """A meter on the first demo job, with its fault."""
    from spare_margin.instruments.stand_in.meter import StandInMeter  # noqa: PLC0415
    from spare_margin.instruments.stand_in.worlds import MOMENT, world_of  # noqa: PLC0415

    run, scenario, faults = DEMO
    _, raw = demo_files()[0]
    craft = read_job(raw).revisions[0].craft
    return StandInMeter(world_of(craft, shipped_tables(), run, scenario, faults), MOMENT)


def _meter(
    job: Path, run: str | None, scenario: str | None, faults: dict[str, float]
) -> "StandInMeter":
    from spare_margin.instruments.stand_in.meter import StandInMeter  # noqa: PLC0415
    from spare_margin.instruments.stand_in.worlds import MOMENT, world_of  # noqa: PLC0415

    craft = read_job(job.read_bytes()).revisions[0].craft
    if not craft.loads:
        raise JobError("run", "the craft has no run", "a craft with a load")
    load = run or craft.loads[0].id
    on = (s.id for s in craft.scenarios if load in s.on)
    state = scenario or next(on, craft.scenarios[0].id)
    return StandInMeter(world_of(craft, shipped_tables(), load, state, faults), MOMENT)


def _faults(said: tuple[str, ...]) -> dict[str, float]:
    out = {}
    for each in said:
        piece, _, ohm = each.partition("=")
        try:
            out[piece] = math.inf if ohm == "open" else float(ohm)
        except ValueError:
            raise JobError("fault", f"{each} is not understood", "PIECE=OHM, as w3=0.08") from None
    return out
