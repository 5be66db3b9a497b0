"""The command line."""

import click

from spare_margin.cli.in_and_out import export_command, import_command, schema_command
from spare_margin.cli.jobs import diagnose_command, judge_command, size_command, solve_command
from spare_margin.cli.keeping import (
    backup_command,
    check_command,
    doctor_command,
    restore_command,
)
from spare_margin.cli.serving import demo_command, serve_command
from spare_margin.cli.stand_in import stand_in_command


@click.group()
@click.version_option(package_name="spare-margin")
def main() -> None:
    """Budget, measure and prove voltage drop, piece by piece."""


for each in (
    serve_command,
    demo_command,
    stand_in_command,
    solve_command,
    diagnose_command,
    judge_command,
    size_command,
    export_command,
    import_command,
    schema_command,
    backup_command,
    restore_command,
    check_command,
    doctor_command,
):
    main.add_command(each)
