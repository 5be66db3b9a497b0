"""What the commands share: the database they work on, and how they stop."""

import os
import signal
import sys
from pathlib import Path
from threading import Event
from typing import NoReturn

import click

DATABASE = click.option(
    "--database", type=click.Path(path_type=Path), help="Database file (default: your own jobs)."
)


def stop(code: int, line: str) -> NoReturn:
    """Say why in one line, and end with this code."""
    click.echo(line, err=True)
    sys.exit(code)


def stop_signals() -> list[int]:
    """What asks the program to end, as far as this system has it: Windows has SIGBREAK, others SIGTERM."""
    names = ("SIGINT", "SIGTERM", "SIGBREAK")
    return [getattr(signal, name) for name in names if hasattr(signal, name)]


def stopped_by_signals() -> Event:
    """Set once the program is asked to end. Who asks twice does not want to wait: it ends at once, and
    nothing that was acknowledged is lost by it."""
    stopped = Event()

    def told(*_: object) -> None:
        if stopped.is_set():
            os._exit(1)
        stopped.set()

    for number in stop_signals():
        signal.signal(number, told)
    return stopped
