"""What the commands share: the database they work on, and how they stop."""

import sys
from pathlib import Path
from typing import NoReturn

import click

DATABASE = click.option(
    "--database", type=click.Path(path_type=Path), help="Database file (default: your own jobs)."
)


def stop(code: int, line: str) -> NoReturn:
    """Say why in one line, and end with this code."""
    click.echo(line, err=True)
    sys.exit(code)
